"""How long the guesses take: 1,000 sources of 30 columns, whose names change from year to year.

python benchmarks/guesses.py [FOLDER]     the files are made there (about 4 MB), and kept for the next time
"""

from __future__ import annotations

import random
import sys
import time
from pathlib import Path

import integrum as ig
from integrum.surveying.reconciled import reconcile

HERE = Path(__file__).parent
SOURCES, COLUMNS, ROWS, YEARS = 1000, 30, 20, 10
TEXT = "water air soil depth temp oxygen nitrate wind level light ph salinity turbidity flow rain snow"
WORDS = TEXT.split(" ")


def name(column: int, year: int) -> str:
    """The name of a column in a year; every third year it is written otherwise."""
    one, other = WORDS[column % len(WORDS)], WORDS[(column * 7 + 3) % len(WORDS)]
    wordings = (
        f"{one}_{other}_{column}",
        f"{other[:4]} {one} {column}",
        f"{one[:3].upper()}{other[:3]}{column}",
    )
    return wordings[(year + column) // 3 % 3] if column % 2 else wordings[0]


def write(folder: Path) -> None:
    """Write the sources."""
    folder.mkdir(parents=True, exist_ok=True)
    draw = random.Random(1)
    for number in range(SOURCES):
        year = number * YEARS // SOURCES
        header = [name(column, year) for column in range(COLUMNS)]
        rows = [
            [f"{draw.gauss(10 * (column + 1), column + 1):.2f}" for column in range(COLUMNS)]
            for _ in range(ROWS)
        ]
        lines = [",".join(cells) for cells in (header, *rows)]
        (folder / f"{year}_{number:04}.csv").write_text("\n".join(lines) + "\n", encoding="utf-8")


def main() -> None:
    folder = (Path(sys.argv[1]) if len(sys.argv) > 1 else HERE / "data") / "guesses"
    if not folder.exists():
        write(folder)
    start = time.perf_counter()
    seen = ig.survey(folder)
    whole = time.perf_counter() - start
    start = time.perf_counter()
    labels = [one.source for one in seen.sources]
    made = reconcile(seen.known, labels, ig.Plan(seen.groups, rules=ig.Rules("keep")), {})
    guessing = time.perf_counter() - start
    names = len(seen.known)
    print(
        f"{SOURCES:,} sources x {COLUMNS} columns, {names} names: survey {whole:.2f} s, of which guesses {guessing:.2f} s"
    )
    print(f"{len(made.guesses)} guesses")


if __name__ == "__main__":
    main()
