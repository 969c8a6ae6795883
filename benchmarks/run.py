"""Time Integrum against the hand-written loop and the bare floor, in one go, on the same files, and compare with the goals.

python benchmarks/run.py [FOLDER] [--keep]     the sets are made there (about 700 MB), and kept for the next time

The commands of a set run in turn, as processes of their own, after a turn that is not counted. A ratio is the median of
those of the turns, so that a slow minute slows both. The hand-written loop takes so long that it has one turn.
`--keep` writes the figures to the file of the last release; without it they are compared with those.
"""

from __future__ import annotations

import json
import os
import platform
import shutil
import statistics
import subprocess
import sys
import time
from collections.abc import Mapping, Sequence
from pathlib import Path

from generate import generate

HERE = Path(__file__).parent
RELEASED = HERE / "released.json"
TIMES = 3
LOOP = "hand-written loop"
FLOOR = "bare floor"
RUN, PARQUET, SURVEY, DRAFT, AT_ONCE = "planned run", "to Parquet", "survey", "draft", "without a plan"
IMPORT, AGAIN = "import pyarrow, numpy", "again, nothing new"
SETS: Mapping[str, tuple[str, Sequence[str]]] = {
    "small": (
        "1,000 files × 1,000 rows × 8 columns, three header variants",
        (LOOP, FLOOR, RUN, PARQUET, SURVEY, AT_ONCE),
    ),
    "large": (
        "4 files × 1.5 M rows × 13 columns",
        (LOOP, FLOOR, RUN, PARQUET, SURVEY, AT_ONCE, AGAIN),
    ),
    "register": ("67 files × 30 rows × 403 of 1,150 columns", (LOOP, RUN, SURVEY, DRAFT)),
    "exports": ("2,000 files × 20 rows × 60 columns", (LOOP, RUN, SURVEY, DRAFT)),
    "sheets": ("1,000 sheets × 100 rows × 8 columns, in 100 workbooks", (LOOP, RUN)),
    "workbooks": ("40 workbooks × 3 sheets × 2,000 rows × 8 columns", (LOOP, RUN, PARQUET, SURVEY, AT_ONCE)),
    "two": ("two tiny files", (IMPORT, RUN)),
}
# what is divided by what, and what is wanted
GOALS = (
    ("small", RUN, FLOOR, 1.6),
    ("large", RUN, FLOOR, 1.4),
    ("small", PARQUET, RUN, 1.05),
    ("large", PARQUET, RUN, 1.05),
    ("small", AT_ONCE, RUN, 1.5),
    ("large", AT_ONCE, RUN, 1.5),
    ("small", SURVEY, RUN, 1.0),
    ("large", SURVEY, RUN, 1.0),
    ("register", RUN, LOOP, 0.5),
    ("register", SURVEY, LOOP, 0.8),
    ("register", DRAFT, LOOP, 1.0),
    ("exports", RUN, LOOP, 0.5),
    ("two", RUN, IMPORT, 2.5),
    ("sheets", RUN, LOOP, 0.11),
    ("large", AGAIN, RUN, 0.1),
)
MOST_MEMORY = 400
# what has grown by so much since the last release is named
SLOWER = 1.1
Measured = tuple[float, float, float]


def measured(command: Sequence[str]) -> Measured:
    """Wall seconds, CPU seconds and peak MB of one process; modules are compiled once, as those of a package are."""
    settings = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}
    start = time.perf_counter()
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, env=settings)
    _, status, usage = os.wait4(process.pid, 0)
    seconds = time.perf_counter() - start
    if os.waitstatus_to_exitcode(status) not in (0, 1):  # 1: two files may happen to be the same
        raise SystemExit(f"failed: {' '.join(command)}")
    return seconds, usage.ru_utime + usage.ru_stime, usage.ru_maxrss / 1024


def commands_of(name: str, root: Path, out: Path) -> dict[str, list[str]]:
    """The commands for a set."""
    python, folder, plan = sys.executable, str(root / name), root / f"{name}.toml"
    us = [python, "-m", "integrum"]
    if name in ("small", "large", "workbooks", "sheets"):
        ours = [python, str(HERE / "ours.py"), name, folder]
        runs = {RUN: [*ours, str(out / "t.csv")], PARQUET: [*ours, str(out / "t.parquet")]}
    else:
        if not plan.exists():
            subprocess.run([*us, "draft", folder, "--plan", str(plan)], check=True, stdout=subprocess.DEVNULL)
        runs = {RUN: [*us, "assemble", str(plan), "--to", str(out / "t.csv")]}
    every = {
        LOOP: [python, str(HERE / "loop.py"), folder, str(out / "loop.csv")],
        FLOOR: [python, str(HERE / "floor.py"), folder, str(out / "floor.csv")],
        IMPORT: [python, "-c", "import pyarrow, numpy"],
        **runs,
        SURVEY: [*us, "survey", folder],
        DRAFT: [*us, "draft", folder, "--plan", str(out / "draft.toml")],
        AT_ONCE: [*us, "assemble", folder, "--to", str(out / "at-once.csv")],
        AGAIN: [*ours, str(out / "again" / "t.csv")] if name == "large" else [],
    }
    return {what: every[what] for what in SETS[name][1]}


def turns(commands: Mapping[str, list[str]], out: Path) -> dict[str, list[Measured]]:
    """What each command took, turn by turn."""
    found: dict[str, list[Measured]] = {name: [] for name in commands}
    if AGAIN in commands:
        (out / "again").mkdir(parents=True)
        measured(commands[AGAIN])
    for turn in range(TIMES + 1):
        for name, command in commands.items():
            if name == LOOP and turn != 1:
                continue
            for each in out.iterdir():
                if each.name != "again":
                    shutil.rmtree(each) if each.is_dir() else each.unlink()
            once = measured(command)
            if turn:
                found[name].append(once)
    return found


def ratio(one: Sequence[Measured], other: Sequence[Measured], at: int = 0) -> float:
    """The median of the ratios of the turns that both have."""
    return statistics.median(a[at] / b[at] for a, b in zip(one, other, strict=False))


def main(root: Path, keep: bool) -> None:
    """Run all on all sets, and print two tables."""
    generate(root)
    out = root / "out"
    print(f"{platform.machine()}, {os.cpu_count()} cores, Python {platform.python_version()}\n")
    print("| set | | time | CPU | peak memory |\n|---|---|---|---|---|", flush=True)
    done: dict[str, dict[str, list[Measured]]] = {}
    for name, (said, _) in SETS.items():
        shutil.rmtree(out, ignore_errors=True)
        out.mkdir(parents=True)
        done[name] = turns(commands_of(name, root, out), out)
        for number, (what, runs) in enumerate(done[name].items()):
            seconds, cpu = (statistics.median(one[at] for one in runs) for at in (0, 1))
            peak = max(one[2] for one in runs)
            print(
                f"| {'' if number else said} | {what} | {seconds:.2f} s | {cpu:.2f} s | {peak:,.0f} MB |",
                flush=True,
            )
    shutil.rmtree(out)
    before = json.loads(RELEASED.read_text()) if RELEASED.exists() else {}
    figures = {}
    print("\n| set | | ratio of times | of CPU | goal | |\n|---|---|---|---|---|---|")
    for name, one, other, goal in GOALS:
        times, cpu = (ratio(done[name][one], done[name][other], at) for at in (0, 1))
        figures[f"{name}: {one} / {other}"] = round(times, 3)
        reached = "reached" if times <= goal else f"{times / goal:.2f} × the goal"
        print(f"| {SETS[name][0]} | {one} / {other} | {times:.2f} | {cpu:.2f} | {goal:g} | {reached} |")
    ours = [(one[2], name) for name, each in done.items() for what, runs in each.items() for one in runs
            if what not in (LOOP, FLOOR, IMPORT) and name != "register"]  # fmt: skip
    peak, where = max(ours)
    print(f"\nPeak memory of all but the widest: {peak:,.0f} MB ({where}), goal {MOST_MEMORY} MB")
    for name, value in figures.items():
        if name in before and value > SLOWER * before[name]:
            print(f"slower than in the last release: {name}: {value:.2f}, was {before[name]:.2f}")
    if keep:
        RELEASED.write_text(json.dumps(figures, indent=1) + "\n")


if __name__ == "__main__":
    given = [each for each in sys.argv[1:] if each != "--keep"]
    main(Path(given[0]) if given else HERE / "data", "--keep" in sys.argv)
