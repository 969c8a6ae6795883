"""Pages in a real browser: Chromium from the system, driven by Playwright."""

import json
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pytest

CHROMIUM = shutil.which("chromium") or shutil.which("chromium-browser")
needs_browser = pytest.mark.skipif(
    CHROMIUM is None, reason="there is no chromium here; apt-get install chromium gives it"
)
_OPTIONS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-sync"]


class Seen:
    """A page that is open: the page of Playwright, and what went wrong on it."""

    def __init__(self, page: Any, path: Path) -> None:
        self.page, self.path = page, path
        self.faults: list[str] = []
        self.asked: list[str] = []
        page.on("console", lambda said: self.faults.append(said.text) if said.type == "error" else None)
        page.on("pageerror", lambda error: self.faults.append(str(error)))
        page.on("request", lambda request: self.asked.append(request.url))
        page.set_default_timeout(20_000)
        page.goto(path.as_uri())
        page.wait_for_selector("html[data-ready]")

    def column(self, name: str) -> Any:
        """The card of a column."""
        return self.page.get_by_role("region", name=f"column {name}", exact=True)

    def choose(self, question: str, choice: str) -> None:
        """Answer a question."""
        section = self.page.locator("[data-question]").filter(has=self.page.get_by_text(question, exact=True))
        section.get_by_role("button", name=choice, exact=True).click()

    def part(self, source: str, row: int, part: str) -> None:
        """Say what a row of a source is."""
        select = self.page.get_by_label(f"part of row {row} of {source}", exact=True)
        if not select.is_visible():
            self.page.locator("summary").filter(has_text=source).first.click()
        select.focus()
        select.select_option(part)

    @property
    def left(self) -> int:
        """How many questions are left."""
        return int(self.page.inner_text("#left"))

    @property
    def decided(self) -> list[str]:
        """What is decided, as the page says it."""
        items = self.page.locator("#decided li").all_inner_texts()
        return [one.removesuffix("take back").strip() for one in items]

    def download(self, folder: Path) -> Path:
        """Download the document of decisions."""
        with self.page.expect_download() as coming:
            self.page.get_by_role("button", name="Download").click()
        path = folder / coming.value.suggested_filename
        coming.value.save_as(path)
        return path

    def document(self, folder: Path) -> list[dict[str, Any]]:
        """The decisions of the document."""
        return json.loads(self.download(folder).read_text(encoding="utf-8"))["decisions"]


@contextmanager
def browser() -> Iterator[Any]:
    """A browser that is started once for many pages."""
    from playwright.sync_api import sync_playwright

    with sync_playwright() as player:
        started = player.chromium.launch(executable_path=CHROMIUM, args=_OPTIONS)
        yield started
        started.close()
