"""How time grows with sources, rows, columns and cells, each on its own; a table, and a picture of it.

python benchmarks/growth.py [FOLDER] [PICTURE.png]     the files of each step are made there, and removed again
"""

from __future__ import annotations

import shutil
import sys
from collections.abc import Callable
from pathlib import Path

import matplotlib
import numpy as np
from generate import write_set, write_wide
from run import measured

# what grows, its steps, and what makes the files of a step
ROW = ("time", "depth")
STEPS: dict[str, tuple[tuple[int, ...], Callable[[Path, int], None]]] = {
    "sources of 20 rows × 8 columns": (
        (625, 1_250, 2_500, 5_000, 10_000),
        lambda folder, count: write_set(folder, count, 20, (("time", *"abcdefg"),), 1),
    ),
    "rows × 2 columns, in 10 sources": (
        (6_250_000, 12_500_000, 25_000_000, 50_000_000, 100_000_000),
        lambda folder, count: write_set(folder, 10, count // 10, (ROW,), 2),
    ),
    "columns × 2 rows, in each of 20 sources": (
        (1_250, 2_500, 5_000, 10_000, 20_000),
        lambda folder, count: write_wide(folder, 20, count),
    ),
    "cells: 200 rows in each of 20 sources, more and more columns": (
        (250_000, 500_000, 1_000_000, 2_000_000, 4_000_000),
        lambda folder, count: write_set(
            folder, 20, 200, (("time", *(f"c{at}" for at in range(count // 4_000 - 1))),), 3
        ),
    ),
}


def seconds(folder: Path, out: Path) -> tuple[float, float]:
    """Wall seconds of a planned run and of its draft."""
    us, plan = [sys.executable, "-m", "integrum"], out / "plan.toml"
    draft = measured([*us, "draft", str(folder), "--plan", str(plan), "--replace"])
    return measured([*us, "assemble", str(plan), "--to", str(out / "t.csv"), "--afresh"])[0], draft[0]


def main(root: Path, picture: Path | None) -> None:
    """Measure each step, print a table, and draw it."""
    found: dict[str, list[tuple[int, float, float]]] = {}
    print(
        "| what grows | | planned run | for each unit, in terms of the first | draft | |\n|---|---|---|---|---|---|"
    )
    for what, (steps, make) in STEPS.items():
        found[what] = []
        for count in steps:
            folder, out = root / "growth", root / "growth-out"
            make(folder, count)
            out.mkdir()
            found[what].append((count, *seconds(folder, out)))
            shutil.rmtree(folder)
            shutil.rmtree(out)
            first, last = found[what][0], found[what][-1]
            shares = [last[at] / last[0] / (first[at] / first[0]) for at in (1, 2)]
            print(
                f"| {what} | {count:,} | {last[1]:.1f} s | {shares[0]:.2f} | {last[2]:.1f} s | {shares[1]:.2f} |",
                flush=True,
            )
    if picture:
        draw(found, picture)


def draw(found: dict[str, list[tuple[int, float, float]]], picture: Path) -> None:
    """The time of each step against its size, both on scales where a straight line of slope 1 is linear growth."""
    from matplotlib.figure import Figure

    matplotlib.rcParams.update({"font.size": 9, "axes.spines.top": False, "axes.spines.right": False})
    figure = Figure(figsize=(9.6, 6.4), layout="constrained")
    for axes, (what, points) in zip(figure.subplots(2, 2).flat, found.items(), strict=True):
        sizes = np.array([one[0] for one in points], float)
        for at, name, colour in ((1, "planned run", "#1b6ca8"), (2, "draft", "#c2702a")):
            times = np.array([one[at] for one in points])
            axes.loglog(sizes, times, "o-", color=colour, label=name, markersize=4)
            axes.loglog(sizes, times[-1] * sizes / sizes[-1], ":", color=colour, linewidth=1)
        axes.set_title(what, fontsize=9, loc="left")
        axes.set_ylabel("seconds")
        axes.set_xticks(sizes, [f"{int(size):,}" for size in sizes])
        every = [step * 10**power for power in (-1, 0, 1, 2) for step in (1, 2, 5)]
        low, high = axes.get_ylim()
        shown = [each for each in every if low <= each <= high]
        axes.set_yticks(shown, [f"{each:g}" for each in shown])
        axes.minorticks_off()
        axes.grid(alpha=0.25)
        axes.legend(frameon=False, fontsize=8)
    figure.suptitle("Time against the size of the input; dotted: exactly in proportion", fontsize=10)
    figure.savefig(picture, dpi=130)


if __name__ == "__main__":
    place = Path(sys.argv[1]) if len(sys.argv) > 1 else Path(__file__).parent / "data"
    place.mkdir(parents=True, exist_ok=True)
    main(place, Path(sys.argv[2]) if len(sys.argv) > 2 else None)
