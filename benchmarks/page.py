"""The page of a draft for many sources with many columns: its size, the time to write it, and to have it in a browser.

``python benchmarks/page.py [FOLDER]`` writes 2,000 sources of 199 of 200 columns in 40 header variants to a folder.
"""

import sys
import tempfile
import time
from importlib import import_module
from pathlib import Path

import integrum as ig

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))
browser = import_module("looking").browser

SOURCES, COLUMNS, VARIANTS = 2_000, 200, 40
# what the page has to keep to: bytes, and seconds until it can be used
MOST_BYTES, MOST_SECONDS = 5_000_000, 2.0


def write(folder: Path) -> None:
    names = [f"m{at:03}" for at in range(COLUMNS)]
    for at in range(SOURCES):
        left = at % VARIANTS
        kept = names[:left] + names[left + 1 :]
        rows = [",".join(f"{(at + row + column) % 97}.5" for column in range(len(kept))) for row in range(2)]
        (folder / f"site_{at:04}.csv").write_text("\n".join([",".join(kept), *rows]) + "\n")


def main() -> None:
    with tempfile.TemporaryDirectory() as made:
        folder = Path(sys.argv[1] if sys.argv[1:] else made) / "page"
        folder.mkdir(parents=True, exist_ok=True)
        write(folder)
        start = time.perf_counter()
        draft = ig.draft(str(folder))
        drafted = time.perf_counter() - start
        start = time.perf_counter()
        page = draft.page(Path(made) / "lakes.toml").path
        written = time.perf_counter() - start
        size = page.stat().st_size
        with browser() as started:
            seen = started.new_page(viewport={"width": 1280, "height": 800})
            start = time.perf_counter()
            seen.goto(page.as_uri())
            seen.wait_for_selector("html[data-ready]")
            ready = time.perf_counter() - start
            seen.select_option("#across", "sources")
            frame = seen.evaluate(
                "async () => { const cells = document.getElementById('cells'); cells.scrollIntoView();"
                " const start = performance.now();"
                " for (let at = 0; at < 30; at++) { cells.scrollLeft += 200;"
                " await new Promise((done) => requestAnimationFrame(done)); }"
                " return (performance.now() - start) / 30; }"
            )
            click = seen.evaluate(
                "() => { const start = performance.now();"
                " document.querySelector('[data-keep-column]').click(); return performance.now() - start; }"
            )
            heap = seen.evaluate("performance.memory.usedJSHeapSize / 1e6")
    print(
        f"{SOURCES:,} sources of {COLUMNS:,} columns: drafted in {drafted:.1f} s, page written in {written:.1f} s"
    )
    print(
        f"size {size / 1e6:.2f} MB (at most {MOST_BYTES / 1e6:.0f}), usable in {ready:.2f} s (at most {MOST_SECONDS:.0f})"
    )
    print(f"a step of the grid {frame:.0f} ms, a decision {click:.0f} ms, memory of the script {heap:.0f} MB")


if __name__ == "__main__":
    main()
