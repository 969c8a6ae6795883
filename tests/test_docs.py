"""README and docs: every block runs in order and shows what it says; links lead somewhere; the site can be built."""

import re
import subprocess
import sys
from pathlib import Path

import pytest

import reference_page
from doc_blocks import BLOCK, ROOT, outputs, pages

RUN = [
    page
    for page in pages()
    if any(block[1] in ("console", "python", "toml") for block in BLOCK.finditer(page.read_text()))
]


@pytest.mark.parametrize("page", RUN, ids=lambda page: page.relative_to(ROOT).as_posix())
def test_blocks_run_and_show_what_they_say(page: Path, tmp_path: Path) -> None:
    for one in outputs(page.read_text(encoding="utf-8"), tmp_path):
        assert one.is_right, f"{one.command}\n--- the page\n{one.said}--- printed\n{one.was}"


def test_an_output_that_is_wrong_is_noticed(tmp_path: Path) -> None:
    text = "```console\n$ echo one; echo and; echo two\none\n...\nthree\n```\n\n"
    text += "```python\nprint(1)\n```\n\n```output\n2\n```\n"
    assert [one.is_right for one in outputs(text, tmp_path)] == [False, False]
    assert [
        one.is_right for one in outputs(text.replace("three", "two").replace("\n2\n", "\n1\n"), tmp_path)
    ] == [True, True]


@pytest.mark.parametrize(
    "page",
    [*pages(), ROOT / "CHANGELOG.md", ROOT / "CONTRIBUTING.md"],
    ids=lambda page: page.relative_to(ROOT).as_posix(),
)
def test_links_lead_somewhere(page: Path) -> None:
    text = BLOCK.sub("", page.read_text(encoding="utf-8"))
    for target in re.findall(r"\]\(([^)]+)\)", text):
        if not target.startswith("http"):
            place, _, part = target.partition("#")
            path = (page.parent / place) if place else page
            assert path.exists(), target
            if part:
                titles = re.findall(r"^#+ (.+)$", path.read_text(encoding="utf-8"), re.M)
                assert part in {
                    re.sub(r"[^\w -]", "", title.lower()).replace(" ", "-") for title in titles
                }, target


def test_readme_is_short_and_shows_every_picture() -> None:
    text = (ROOT / "README.md").read_text(encoding="utf-8")
    assert len(text.splitlines()) < 150
    pictures = [f"docs/screenshots/{each.name}" for each in (ROOT / "docs" / "screenshots").iterdir()]
    assert len(pictures) < 20
    assert [each for each in pictures if each not in text] == []


def test_the_site_can_be_built(tmp_path: Path) -> None:
    done = subprocess.run(
        [
            sys.executable,
            "-m",
            "mkdocs",
            "build",
            "--quiet",
            "--strict",
            "--site-dir",
            str(tmp_path / "site"),
        ],
        cwd=ROOT,
        capture_output=True,
        text=True,
    )
    assert done.returncode == 0, done.stderr
    plan = (tmp_path / "site" / "plan.html").read_text(encoding="utf-8")
    for key in ("header_has", "first_filled", "several_layouts", "in_one_source"):
        assert key in plan
    every = "".join(path.read_text(encoding="utf-8") for path in (tmp_path / "site").rglob("*.html"))
    assert not re.findall(r'(?:src|href)="(https?://[^"]+\.(?:js|css|woff2?))"', every), (
        "the site loads from elsewhere"
    )


def test_the_reference_is_made_from_the_code() -> None:
    """After a change of a public docstring: python tests/reference_page.py."""
    for path, text in reference_page.pages().items():
        assert path.read_text(encoding="utf-8") == text


def test_pages_are_plain_markdown() -> None:
    """They can be read on a code host as they are."""
    for page in pages():
        for line in page.read_text(encoding="utf-8").splitlines():
            assert not re.match(r":::|!!!|===|\?\?\?", line), (page.name, line)
            assert not re.search(r"\{[:#] ?[.#\w]", line) or "`" in line or "{" not in line[:1], (
                page.name,
                line,
            )
