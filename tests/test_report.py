"""The page about a run: from the record alone, with nothing loaded from elsewhere, and read as a browser shows it."""

import re
import shutil
import subprocess
from html.parser import HTMLParser
from pathlib import Path

import pytest

import integrum as ig

CHROMIUM = shutil.which("chromium") or shutil.which("chromium-browser")
browser = pytest.mark.skipif(
    CHROMIUM is None, reason="there is no chromium here; apt-get install chromium gives it"
)
EVIL = "<script>alert(1)</script>"


def chromium(page: Path, *options: str) -> str:
    """What headless Chromium says of a page."""
    assert CHROMIUM
    command = [
        CHROMIUM,
        "--headless",
        "--no-sandbox",
        "--disable-gpu",
        "--hide-scrollbars",
        "--timeout=20000",
    ]
    done = subprocess.run(
        [*command, f"--user-data-dir={page.parent}/profile", *options, page.as_uri()],
        capture_output=True,
        timeout=120,
        check=False,
    )
    return done.stdout.decode("utf-8", "replace")


def measured(page: Path, width: int, *options: str) -> dict[str, str]:
    """What a script in a copy of the page measures at a width."""
    script = (
        "<script>addEventListener('load', () => { const d = document.documentElement;"
        "const all = [...document.querySelectorAll('svg')];"
        "const dark = getComputedStyle(document.body).backgroundColor;"
        "document.title = [d.scrollWidth <= d.clientWidth, all.length, all.every(s => s.getBoundingClientRect().height > 5),"
        "dark, window.hacked === undefined, document.querySelectorAll('script').length].join('|'); });</script>"
    )
    text = page.read_text(encoding="utf-8")
    text = re.sub(r"<meta http-equiv=.*?>", "", text, count=1)
    copy = page.parent.parent / f"copy-{width}-{len(options)}.html"
    copy.write_text(text.replace("</body>", f"{script}</body>"), encoding="utf-8")
    dom = chromium(copy, f"--window-size={width},900", "--dump-dom", *options)
    found = re.search(r"<title>(.*?)</title>", dom)
    assert found, dom[:500]
    keys = ("fits", "figures", "drawn", "paper", "unharmed", "scripts")
    return dict(zip(keys, found[1].split("|"), strict=True))


@pytest.fixture
def page(folder, tmp_path) -> Path:
    """The page about a run with hostile names and cells, a source that is set aside, and a unit slip."""
    for at in range(4):
        rows = "".join(f"2024-05-{row + 1:02},{2 + at / 10 + row / 7:.2f},{EVIL}\n" for row in range(9))
        folder.write(f"amb_{at}.csv", f"day,depth,{EVIL}\n{rows}")
    folder.write(
        "amb_4.csv", "day,depth\n" + "".join(f"2024-06-{row + 1:02},{200 + row}\n" for row in range(9))
    )
    folder.write(f"qui_$x^2$ & <b>{'y' * 60}.csv", "day,depth\n2024-05-01,deep\n2024-05-02\n\n")
    folder.write("qui_empty.csv", "")
    plan = ig.Plan(
        [ig.Sources(str(folder.path), ids="{lake}_{n}.csv")],
        [ig.Column("day", "date"), ig.Column("depth", "number", unit="m", description=EVIL), ig.Column(EVIL)],
        checks=[ig.Check(EVIL, column="depth", range=[0, 20]), ig.Check(sources=[1, 9])],
    )
    outcome = ig.assemble(plan, tmp_path / "lakes.csv")
    shutil.rmtree(folder.path)
    (tmp_path / "lakes.csv").unlink()
    return ig.report(outcome.record)


class Texts(HTMLParser):
    """The tags and the texts of a page."""

    def __init__(self) -> None:
        super().__init__()
        self.tags: list[str] = []
        self.loads: list[str] = []
        self.text = ""

    def handle_starttag(self, tag, attributes) -> None:
        self.tags.append(tag)
        self.loads += [
            value or "" for name, value in attributes if name in ("src", "href", "xlink:href", "data")
        ]

    def handle_data(self, data) -> None:
        self.text += data


def test_the_page_is_made_from_the_record_alone(page) -> None:
    seen = Texts()
    seen.feed(page.read_text(encoding="utf-8"))
    assert "script" not in seen.tags
    assert {"svg", "table", "details"} <= set(seen.tags)
    assert all(one.startswith("#") or one == "codebook.html" for one in seen.loads), seen.loads
    text = " ".join(seen.text.split())
    for said in (
        "6 sources are in the table, 1 set aside",
        "6 of 7sources in the table",
        "1 of 2checks passed",
        "✗ failed" + EVIL,
        "$x^2$ & <b>yyy",
        "the file is empty",
        "values far from those of the other sources",
        "Hint: is it another unit",
        "Every row names the file and the row that it is from.",
        "= 6 header + 1 blank + 1 set aside + 46 data",
        "from 2to 208",
        "[[checks]]",
    ):
        assert said in text, said
    assert "http://" not in re.sub(r'xmlns(:\w+)?="[^"]*"', "", page.read_text()).replace("http-equiv", "")
    assert len(seen.text) > 2_000


def test_it_is_made_again_and_leaves_with_the_next_run(page, folder, tmp_path, integrum) -> None:
    first = page.read_bytes()
    assert integrum("report", "lakes-record").stdout == (
        "report: lakes-record/report.html\ncodebook: lakes-record/codebook.html\n"
    )
    assert page.read_bytes() == first
    folder.path.mkdir()
    folder.write("amb_1.csv", "day,depth\n2024-05-01,3\n")
    ig.assemble(page.parent / "plan.toml", tmp_path / "lakes.csv")
    assert not page.exists()
    ran = integrum("assemble", "lakes-record/plan.toml", "--to", "lakes.csv", "--report")
    assert ran.returncode == 1 and "1 column of the plan that no source has" in ran.stdout
    assert "report: lakes-record/report.html" in ran.stdout and page.exists()
    assert integrum("report", "none.csv").returncode == 2


@browser
def test_a_browser_shows_it_on_a_desk_and_on_a_phone(page) -> None:
    desk, phone = measured(page, 1280), measured(page, 500)
    for seen in (desk, phone):
        assert (seen["fits"], seen["drawn"], seen["unharmed"], seen["scripts"]) == (
            "true",
            "true",
            "true",
            "1",
        )
        assert int(seen["figures"]) >= 4
    dark = measured(page, 1280, "--blink-settings=preferredColorScheme=0")
    assert desk["paper"] == "rgb(251, 250, 247)"
    assert dark["paper"] == "rgb(20, 24, 29)"


@browser
def test_it_prints_with_nothing_folded_away(page) -> None:
    target = page.parent.parent / "page.pdf"
    chromium(page, f"--print-to-pdf={target}")
    assert target.read_bytes().startswith(b"%PDF") and target.stat().st_size > 20_000


def test_thousands_of_sources_are_put_together(folder, tmp_path) -> None:
    for at in range(1200):
        folder.write(f"amb_{at:04}.csv", f"day,depth\n2024-05-01,{at % 9}.5\n2024-05-02,{at}\n")
    outcome = ig.assemble(ig.Sources(str(folder.path), ids="{lake}_{n}.csv"), tmp_path / "lakes.csv")
    page = ig.report(outcome.record)
    assert page.stat().st_size < 1_500_000
    assert "More than 60 sources" in page.read_text()
