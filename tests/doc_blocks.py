"""Run the blocks of README and docs in order, and compare or write what they print.

``python tests/doc_blocks.py README.md docs/tutorial.md`` writes the outputs into these pages.
The language of a block says what it is:

- ``console``: lines after ``$ `` are run, the lines below are their output;
- ``python``: run in one namespace for each page; an ``output`` block right below has what it prints;
- ``toml``: a plan or a part of one; with a first line ``# file: NAME`` it is written to that file,
  with ``# add to: NAME`` added to its end;
- ``json``: below a line that ends with ```NAME`:`` it is written to that file;
- ``sh``: what a reader does once, such as installing; it is not run.

A line ``...`` in an output stands for any lines.
"""

import contextlib
import doctest
import io
import json
import os
import re
import shlex
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import integrum as ig
from serving import SERVED

ROOT = Path(__file__).parent.parent
BLOCK = re.compile(r"^```(\w+)\n(.*?)^```$", re.M | re.S)
FLAGS = doctest.ELLIPSIS | doctest.NORMALIZE_WHITESPACE
# what only a shell understands, outside of quotes
_SHELL, _QUOTED = {*"|&;<>$`~*?{"}, re.compile(r"'[^']*'|\"[^\"$`]*\"")
_NAMED = re.compile(r"`([\w-]+\.json)`:\s+$")
# so many lines of a long output are shown
MOST = 16
SOURCES = '\n[[sources]]\nfind = ["loggers"]\n'


@dataclass
class Printed:
    """An output of a page: what the page says, what was printed, and where it stands in the text."""

    command: str
    said: str
    was: str
    start: int
    end: int

    @property
    def is_right(self) -> bool:
        return doctest.OutputChecker().check_output(self.said.strip() + "\n", self.was.strip() + "\n", FLAGS)


def pages() -> list[Path]:
    """README and the pages of the docs whose blocks run."""
    return [ROOT / "README.md", *sorted((ROOT / "docs").rglob("*.md"))]


def outputs(text: str, folder: Path) -> Iterator[Printed]:
    """Run the blocks of a page in a folder, and give their outputs."""
    space: dict[str, object] = {"__name__": "__page__"}
    blocks = list(BLOCK.finditer(text))
    for at, block in enumerate(blocks):
        language, body = block[1], block[2]
        if language == "console":
            yield from _console(body, block.start(2), folder)
        elif language == "python":
            was = _python(body, folder, space)
            below = blocks[at + 1] if at + 1 < len(blocks) else None
            if below and below[1] == "output" and not text[block.end() : below.start()].strip():
                yield Printed(body.splitlines()[0], below[2], was, below.start(2), below.end(2))
        elif language == "toml":
            _toml(body, folder)
        elif language == "json":
            json.loads(body)
            if named := _NAMED.search(text[: block.start()]):
                (folder / named[1]).write_text(body, encoding="utf-8")
        else:
            assert language in ("sh", "output", "text", "pycon"), f"a block of {language} is not run"


def _console(body: str, start: int, folder: Path) -> Iterator[Printed]:
    for found in re.finditer(r"^\$ (.+)\n((?:(?!\$ ).*\n)*)", body, re.M):
        env = {
            **os.environ,
            "COLUMNS": "100",
            "NO_COLOR": "1",
            "PATH": f"{Path(sys.executable).parent}{os.pathsep}{os.environ['PATH']}",
        }
        words = [] if _SHELL & {*_QUOTED.sub("", found[1])} else shlex.split(found[1])
        if words[:1] == ["integrum"]:
            done = SERVED.run(words[1:], folder, env, together=True)
        else:
            done = subprocess.run(
                ["bash", "-c", found[1]],
                cwd=folder,
                env=env,
                stdout=subprocess.PIPE,
                stderr=subprocess.STDOUT,
                encoding="utf-8",
                timeout=300,
            )
        assert done.returncode in (0, 1), f"{found[1]}\n{done.stdout}"
        yield Printed(found[1], found[2], done.stdout, start + found.start(2), start + found.end(2))


def _python(body: str, folder: Path, space: dict[str, object]) -> str:
    printed, before = io.StringIO(), Path.cwd()
    os.chdir(folder)
    try:
        with contextlib.redirect_stdout(printed):
            exec(compile(body, "<page>", "exec"), space)
    finally:
        os.chdir(before)
    return printed.getvalue()


def _toml(body: str, folder: Path) -> None:
    """Parse a plan, or a part of one together with what else a plan needs."""
    file = re.match(r"# (file|add to): (\S+)\n", body)
    if file:
        with open(folder / file[2], "w" if file[1] == "file" else "a", encoding="utf-8") as plan:
            plan.write(body if file[1] == "file" else f"\n{body.partition(chr(10))[2]}")
        ig.read_plan(folder / file[2])
        return
    if not body.startswith("["):
        body = f"integrum = 1\n{body}".replace("integrum = 1\nintegrum = 1", "integrum = 1")
    elif "integrum = 1" not in body:
        before = SOURCES if body.startswith("[sources") else ""
        body = f"integrum = 1\n{before}{body}"
    if "[[sources]]" not in body:
        body += SOURCES
    named = set(re.findall(r'^name = "(.+?)"', body, re.M))
    checks = re.findall(r"^\[\[checks\]\]\n(.*?)(?=^\[|\Z)", body, re.M | re.S)
    wanted = [name for one in checks for name in re.findall(r'^column = "(.+?)"', one, re.M)]
    wanted += [
        name
        for one in checks
        for key in re.findall(r"^(?:unique|complete|within) = \[(.+?)\]", one, re.M)
        for name in re.findall(r'"(.+?)"', key)
    ]
    for name in dict.fromkeys(wanted or ([] if "[[columns]]" in body else ["some_column"])):
        if name not in named:
            body += f'\n[[columns]]\nname = "{name}"\ntype = "number"\n'
    ig.parse_plan(body)


def rewritten(text: str, folder: Path) -> str:
    """The page with the outputs as they are now; those with a line ``...`` are only checked, and a lone one is filled."""
    found = list(outputs(text, folder))
    for one in reversed(found):
        lines = one.was.rstrip().splitlines()
        if one.said.strip() == "..." and lines:
            shown = lines if len(lines) <= MOST + 2 else [*lines[:MOST], "..."]
            text = text[: one.start] + "\n".join(shown) + "\n" + text[one.end :]
        elif "\n...\n" in f"\n{one.said}":
            if not one.is_right:
                sys.stderr.write(f"differs: {one.command}\n{one.was}\n")
        elif one.said.strip() or one.was.strip():
            text = text[: one.start] + (one.was.rstrip() + "\n" if one.was.strip() else "") + text[one.end :]
    return text


if __name__ == "__main__":
    for name in sys.argv[1:]:
        page = Path(name)
        with tempfile.TemporaryDirectory() as place:
            page.write_text(rewritten(page.read_text(encoding="utf-8"), Path(place)), encoding="utf-8")
