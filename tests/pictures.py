"""The pictures in docs/screenshots, made from the demo data: `make pictures` makes all of them again.

Each picture carries the text that it shows, in a chunk of the PNG file. A test compares that text with what the code
prints now, so no picture can get out of date unseen; pixels are not compared.
"""

import contextlib
import fcntl
import html
import os
import pty
import re
import shutil
import struct
import subprocess
import sys
import tempfile
import termios
import zlib
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import nbformat
from lxml import html as lxml_html
from matplotlib.text import Text as DrawnText
from rich.console import Console
from rich.terminal_theme import TerminalTheme
from rich.text import Text

ROOT = Path(__file__).parent.parent
PLACE = ROOT / "docs" / "screenshots"
COLUMNS, LINES, WIDTH, HEIGHT = 152, 50, 1280, 800
IDS = '--ids "{lake}_{month}_{serial}.csv"'
_KEY = b"Shown"
# what is another one each time
_VARIES = re.compile(
    r"\d{4}-\d\d-\d\d(?: at |[T ])\d\d:\d\d(:\d\d)?( UTC|Z)?|[0-9a-f]{16,}|\b[A-Z0-9]{5}(-[A-Z0-9]{5}){3}\b|\d+(\.\d+)? s\b"
)
_THEME = TerminalTheme(
    (255, 255, 255),
    (26, 26, 26),
    [(0, 0, 0), (178, 24, 24), (0, 110, 40), (160, 100, 0), (30, 80, 170), (130, 40, 130), (0, 115, 130), (90, 90, 90)],
    [(80, 80, 80), (200, 30, 30), (0, 130, 50), (180, 120, 0), (40, 90, 200), (150, 50, 150), (0, 130, 150), (20, 20, 20)],
)  # fmt: skip


@dataclass(frozen=True)
class Terminal:
    """A command and what it prints."""

    line: str
    before: Sequence[str] = ()  # commands that come first, without a word
    typed: str = ""  # what is answered


# in this order, in one folder that has the demo data
TERMINALS = {
    "names": Terminal(f"integrum survey lakes/loggers {IDS} --names"),
    "survey": Terminal(f"integrum survey lakes/loggers {IDS}"),
    "sheets": Terminal("integrum survey lakes/field"),
    "one-file": Terminal("integrum survey lakes/loggers/brindlemere/brindlemere_2024-04_00541.csv"),
    "values": Terminal("integrum draft lakes/gauges"),
    "draft": Terminal("integrum draft lakes/lab --plan lakes/lab.toml"),
    "ask": Terminal("integrum draft --plan lakes/lab.toml --update --ask", typed="stop\n"),
    "assemble": Terminal(
        "integrum assemble lakes/loggers.toml --to lakes/loggers.parquet",
        [f"integrum draft lakes/loggers {IDS} --plan lakes/loggers.toml"],
    ),
    "overview": Terminal("integrum overview lakes/loggers.parquet"),
    "trace": Terminal('integrum trace lakes/loggers.parquet --where "water_temp > 22"'),
    "again": Terminal("integrum changes lakes/loggers.toml", ["integrum demo lakes --next-month"]),
    "demo": Terminal("integrum demo"),
}
# pages: the file, and what to do in the browser before the picture is taken
PAGES = {
    "report": ("lakes/loggers-record/report.html", ""),
    "report-columns": (
        "lakes/loggers-record/report.html",
        "document.querySelector('#columns').scrollIntoView()",
    ),
    "codebook": ("lakes/loggers-record/codebook.html", ""),
    "page": ("lakes/lab-draft.html", ""),
}


def run(line: str, folder: Path, typed: str = "") -> str:
    """What a command prints to a terminal, with its colours."""
    leader, follower = pty.openpty()
    fcntl.ioctl(follower, termios.TIOCSWINSZ, struct.pack("HHHH", LINES, COLUMNS, 0, 0))
    env = {**os.environ, "TERM": "xterm-256color", "COLUMNS": str(COLUMNS), "LINES": str(LINES)}
    env["PATH"] = f"{Path(sys.executable).parent}{os.pathsep}{env['PATH']}"
    for name in ("NO_COLOR", "FORCE_COLOR"):
        env.pop(name, None)
    with subprocess.Popen(
        line, shell=True, cwd=folder, env=env, stdin=follower, stdout=follower, stderr=subprocess.DEVNULL
    ):
        os.close(follower)
        said = bytearray()
        while True:
            try:
                part = os.read(leader, 1 << 16)
            except OSError:
                break
            if not part:
                break
            said += part
            if typed and said.endswith(b"] "):  # it asks
                os.write(leader, typed.encode())
                typed = ""
    os.close(leader)
    return said.decode().replace("\r\n", "\n")


def terminals(folder: Path) -> Iterator[tuple[str, str]]:
    """By name of the picture what its command prints, with the line that is typed."""
    run("integrum demo lakes --data-only", folder)
    for name, one in TERMINALS.items():
        for line in one.before:
            run(line, folder)
        yield name, f"$ {one.line}\n{run(one.line, folder, one.typed)}"


def plain(ansi: str) -> str:
    """The part of it that is on the picture, without colours."""
    return "\n".join(Text.from_ansi(ansi).plain.split("\n")[:LINES])


def text_of_page(page: str) -> str:
    """The words of a page, each once and in their order."""
    tree = lxml_html.fromstring(page)
    for each in tree.xpath("//script | //style"):
        each.drop_tree()
    return " ".join(tree.text_content().split())


def steady(text: str) -> str:
    """A text without what is another one each time."""
    return _VARIES.sub("…", text)


def pages(folder: Path) -> Iterator[tuple[str, Path, str, str]]:
    """Pages of the demo: name, file, what to do first, words; `terminals` has run in the folder."""
    run("integrum report lakes/loggers.parquet", folder)
    run("integrum draft --plan lakes/lab.toml --update --page", folder)
    for name, (file, script) in PAGES.items():
        yield name, folder / file, script, text_of_page((folder / file).read_text(encoding="utf-8"))
    for name, page in (("notebook", _notebook()), ("mess", mess(folder))):
        path = folder / f"{name}.html"
        path.write_text(page, encoding="utf-8")
        yield name, path, "", text_of_page(page)


def _notebook() -> str:
    """The notebook of the examples: its cells and what they show."""
    cells = []
    for cell in nbformat.read(ROOT / "examples" / "05_notebook.ipynb", as_version=4).cells:
        if cell.cell_type == "code":
            cells.append(f"<pre class='code'>{html.escape(cell.source)}</pre>")
            cells += [each.data["text/html"] for each in cell.outputs if "text/html" in each.get("data", {})]
        else:
            cells += [_as_html(line) for line in cell.source.splitlines() if line.strip()]
    style = "body { font: 13px sans-serif; margin: 1em 3em } .code { background: #f4f4f4; padding: .6em }"
    return f"<!doctype html><meta charset='utf-8'><style>{style}</style>{''.join(cells)}"


def _as_html(line: str) -> str:
    """A line of Markdown as a heading or a paragraph."""
    said = html.escape(line.lstrip("# "))
    return f"<h2>{said}</h2>" if line.startswith("#") else f"<p>{said}</p>"


def mess(folder: Path) -> str:
    """Four files of one folder, and the table that came of them."""
    import integrum as ig

    files = (
        ("ambermere/ambermere_2024-09_00417.csv", "utf-8", 5),
        ("brindlemere/brindlemere_2024-04_00541.csv", "cp1252", 11),
        ("vessel-lake/vessel-lake_2024-04_00479.csv", "utf-16", 5),
        ("quillon-tarn/quillon-tarn_2024-10_00448.csv", "utf-8", 5),
    )
    boxes = ""
    for name, encoding, count in files:
        lines = (folder / "lakes" / "loggers" / name).read_text(encoding=encoding).splitlines()[:count]
        shown = html.escape("\n".join(lines)).replace("\t", "<i>→</i>")
        boxes += f"<div><b>{name.split('/')[1]}</b> <span>{encoding}</span><pre>{shown}\n…</pre></div>"
    drafted = ig.draft(folder / "lakes" / "loggers", ids="{lake}_{month}_{serial}.csv")
    drafted.accept(0.9)
    table = ig.assemble(drafted).table
    of = table["source"].to_pylist()
    rows = [row for name, _, _ in files for row in table.slice(of.index(name), 2).to_pylist()]
    head = "".join(f"<th>{html.escape(name)}</th>" for name in table.schema.names)
    body = "".join(f"<tr>{''.join(f'<td>{_shown(cell)}</td>' for cell in row.values())}</tr>" for row in rows)
    style = """
body { font: 14px sans-serif; margin: 20px 28px; color: #1a1a1a }
h1 { font-size: 19px; margin: 0 0 10px }
.files { display: grid; grid-template-columns: 1fr 1fr; gap: 8px 22px }
.files b, pre { font: 12px/1.35 'DejaVu Sans Mono', monospace } .files b { font-weight: bold }
.files span { color: #777; font-size: 12px }
pre { background: #f5f2ea; border: 1px solid #ddd6c4; margin: 3px 0 0; padding: 6px 10px }
i { color: #b9a; font-style: normal; padding: 0 4px }
.arrow { font-size: 15px; margin: 12px 0; color: #14532d; font-weight: bold }
table { border-collapse: collapse; font: 12px 'DejaVu Sans Mono', monospace }
td, th { border: 1px solid #cbd5cb; padding: 3px 7px; text-align: left } th { background: #e7f0e7 }
td:first-child, td:nth-child(2) { color: #666 }
"""
    return (
        f"<!doctype html><meta charset='utf-8'><style>{style}</style><h1>Four files of one folder</h1>"
        f"<div class='files'>{boxes}</div><p class='arrow'>↓ one table, "
        "in which every row names its file and its row there</p>"
        f"<table><tr>{head}</tr>{body}</table>"
    )


def _shown(cell: Any) -> str:
    return "" if cell is None else html.escape(str(cell))


def plot(folder: Path) -> tuple[Any, str]:
    """The figure of a survey, and its words."""
    import integrum as ig

    with contextlib.chdir(folder):
        figure = ig.survey("lakes/lab").figure()
    said = [each.get_text() for each in figure.findobj(DrawnText) if each.get_text()]
    return figure, " ".join(dict.fromkeys(said))


def with_text(png: bytes, text: str) -> bytes:
    """A picture that carries a text: PNG's chunk for compressed text in UTF-8 (iTXt), behind its head."""
    body = _KEY + b"\0\1\0\0\0" + zlib.compress(text.encode(), 9)
    chunk = struct.pack(">I", len(body)) + b"iTXt" + body + struct.pack(">I", zlib.crc32(b"iTXt" + body))
    return png[:33] + chunk + png[33:]


def text_in(png: bytes) -> str:
    """The text that a picture carries; empty where it has none."""
    at = 8
    while at < len(png):
        (size,) = struct.unpack(">I", png[at : at + 4])
        if png[at + 4 : at + 8] == b"iTXt" and png[at + 8 : at + 8 + len(_KEY)] == _KEY:
            return zlib.decompress(png[at + 8 + len(_KEY) + 5 : at + 8 + size]).decode()
        at += size + 12
    return ""


def texts(folder: Path) -> Mapping[str, str]:
    """By name of each picture the text that it should carry."""
    made = {name: steady(plain(said)) for name, said in terminals(folder)}
    made |= {name: steady(words) for name, _, _, words in pages(folder)}
    return {**made, "plot": plot(folder)[1]}


def terminal_page(ansi: str) -> str:
    """A terminal as a page."""
    console = Console(record=True, width=COLUMNS, file=open(os.devnull, "w"), force_terminal=True)  # noqa: SIM115
    for line in Text.from_ansi(ansi).split("\n")[:LINES]:
        console.print(line, soft_wrap=False)
    style = "font: 13.6px/1.17 'DejaVu Sans Mono', monospace; margin: 6px 8px; white-space: pre"
    code = f"<!doctype html><meta charset='utf-8'><pre style=\"{style}\">{{code}}</pre>"
    return console.export_html(theme=_THEME, inline_styles=True, code_format=code)


def make() -> None:
    """Make all pictures again."""
    from playwright.sync_api import sync_playwright

    chromium = shutil.which("chromium") or shutil.which("chromium-browser")
    PLACE.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as name, sync_playwright() as player:
        folder = Path(name)
        browser = player.chromium.launch(executable_path=chromium, args=["--no-sandbox"])
        view = browser.new_page(viewport={"width": WIDTH, "height": HEIGHT})

        def take(picture: str, path: Path, script: str, text: str) -> None:
            view.goto(path.as_uri())
            if script:
                view.evaluate(script)
            view.wait_for_timeout(300)
            (PLACE / f"{picture}.png").write_bytes(with_text(view.screenshot(), steady(text)))

        for picture, said in terminals(folder):
            path = folder / f"{picture}.html"
            path.write_text(terminal_page(said), encoding="utf-8")
            take(picture, path, "", plain(said))
        for picture, path, script, words in pages(folder):
            take(picture, path, script, words)
        figure, words = plot(folder)
        figure.savefig(folder / "plot.png")
        (PLACE / "plot.png").write_bytes(with_text((folder / "plot.png").read_bytes(), words))
        browser.close()


if __name__ == "__main__":
    make()
