"""What checks cost, as ratios of a run without any; and a report about 5,000 sources: seconds and megabytes.

python benchmarks/checks.py
"""

from __future__ import annotations

import statistics
import tempfile
import time
from pathlib import Path

import numpy as np

import integrum as ig

ROWS, FILES, TIMES = 250_000, 4, 5
SOURCES = 5_000
CHECKS = {
    "unique": ig.Check(unique=["lake", "time"]),
    "in one source": ig.Check(in_one_source="all"),
    "complete": ig.Check(complete=["lake", "code"]),
    "range": ig.Check(column="depth", range=[-100, 100]),
    "allowed": ig.Check(column="lake", allowed=["Ambermere", "Vessel Lake", "Hollow Water"]),
    "match": ig.Check(column="code", match="[A-Z]{2}[0-9]+"),
    "filled": ig.Check(column="depth", filled=0.9),
    "rows": ig.Check(rows=ROWS),
    "steady": ig.Check(column="time", steady="10 min", within=["lake"]),
    "follow": ig.Check(column="time", follow="1 week", within=["lake"]),
}
COLUMNS = [ig.Column("time", "datetime"), ig.Column("lake"), ig.Column("code"), ig.Column("depth", "number")]


def _large(folder: Path) -> None:
    rng = np.random.default_rng(4)
    lakes = np.array(["Ambermere", "Vessel Lake", "Hollow Water"])[rng.integers(0, 3, ROWS)]
    folder.mkdir()
    for number in range(FILES):
        begin = np.datetime64("2020-01-01T00:00") + np.timedelta64(number * ROWS * 10, "m")
        times = np.datetime_as_string(begin + np.arange(ROWS) * np.timedelta64(10, "m"), unit="m")
        depths = rng.normal(10, 3, ROWS)
        rows = "\n".join(
            f"{time},{lake},AB{at % 40},{depth:.2f}"
            for at, (time, lake, depth) in enumerate(zip(times, lakes, depths, strict=True))
        )
        (folder / f"part{number + 1}.csv").write_text(f"time,lake,code,depth\n{rows}\n")


def _many(folder: Path) -> None:
    rng = np.random.default_rng(5)
    folder.mkdir()
    header = ",".join(["day", "lake", *(f"measure_{at}" for at in range(10))])
    for number in range(SOURCES):
        values = rng.normal(10, 3, (20, 10)).round(2)
        rows = (
            f"2024-05-{at + 1:02},lake {number % 7}," + ",".join(map(str, row))
            for at, row in enumerate(values)
        )
        (folder / f"logger_{number % 50:03}_{number // 50:03}.csv").write_text("\n".join([header, *rows, ""]))


def _seconds(plan: ig.Plan, to: Path) -> float:
    begin = time.process_time()
    ig.assemble(plan, to)
    return time.process_time() - begin


def main() -> None:
    """Print the table."""
    with tempfile.TemporaryDirectory() as folder:
        place = Path(folder)
        _large(place / "large")
        plans = {"none": ig.Plan([ig.Sources(str(place / "large"))], COLUMNS)}
        for name, check in CHECKS.items():
            plans[name] = ig.Plan(plans["none"].sources, COLUMNS, checks=[check])
        plans["all of them"] = ig.Plan(plans["none"].sources, COLUMNS, checks=list(CHECKS.values()))
        found: dict[str, list[float]] = {name: [] for name in plans}
        for turn in range(TIMES + 1):
            for name, plan in plans.items():
                once = _seconds(plan, place / "o.csv")
                if turn:
                    found[name].append(once)
        base = statistics.median(found["none"])
        print(
            f"{FILES} files × {ROWS:,} rows × 4 columns, CPU of a run with a check : without, medians of {TIMES}"
        )
        for name, times in found.items():
            print(f"  {name:<14} {statistics.median(times) / base:.2f}")
        _many(place / "many")
        outcome = ig.assemble(
            ig.Sources(str(place / "many"), ids="logger_{logger}_{batch}.csv"), place / "many.csv"
        )
        ig.report(outcome.record or "")
        begin = time.perf_counter()
        page = ig.report(outcome.record or "")
        print(
            f"report about {SOURCES:,} sources, once matplotlib is loaded: {time.perf_counter() - begin:.1f} s"
        )
        print(f"  {page.stat().st_size / 1e6:.1f} MB")


if __name__ == "__main__":
    main()
