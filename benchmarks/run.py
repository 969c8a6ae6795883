"""Time Integrum against the hand-written loop and the bare floor, in one go, on the same files.

python benchmarks/run.py [FOLDER]     the sets are made there (about 600 MB), and kept for the next time

Each command runs three times, one after the other in turn, after a run that is not counted; the table has medians. The
hand-written loop takes so long that it runs once.
"""

from __future__ import annotations

import os
import platform
import shutil
import statistics
import subprocess
import sys
import time
from collections.abc import Mapping
from pathlib import Path

from generate import generate

HERE = Path(__file__).parent
TIMES = 3
LOOP = "hand-written loop"
SETS = {
    "small": "1,000 files × 1,000 rows × 8 columns, three header variants",
    "large": "4 files × 1.5 M rows × 13 columns",
    "workbooks": "40 workbooks × 3 sheets × 2,000 rows × 8 columns",
}
Measured = tuple[float, float, float]


def measured(command: list[str]) -> Measured:
    """Wall seconds, CPU seconds and peak MB of one process."""
    start = time.perf_counter()
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL)
    _, status, usage = os.wait4(process.pid, 0)
    seconds = time.perf_counter() - start
    if os.waitstatus_to_exitcode(status) not in (0, 1):  # 1: two files may happen to be the same
        raise SystemExit(f"failed: {' '.join(command)}")
    return seconds, usage.ru_utime + usage.ru_stime, usage.ru_maxrss / 1024


def medians(commands: Mapping[str, list[str]], out: Path) -> dict[str, Measured]:
    """The median times and the highest peak of some commands that run in turn."""
    found: dict[str, list[Measured]] = {name: [] for name in commands}
    for turn in range(TIMES + 1):
        for name, command in commands.items():
            if name == LOOP and turn != 1:
                continue
            shutil.rmtree(out, ignore_errors=True)
            out.mkdir()
            once = measured(command)
            if turn:
                found[name].append(once)
    shutil.rmtree(out, ignore_errors=True)
    return {
        name: (
            statistics.median(wall for wall, _, _ in runs),
            statistics.median(cpu for _, cpu, _ in runs),
            max(peak for _, _, peak in runs),
        )
        for name, runs in found.items()
    }


def main(root: Path) -> None:
    """Run all on all sets, and print two tables."""
    generate(root)
    python, out = sys.executable, root / "out"
    print(f"{platform.machine()}, {os.cpu_count()} cores, Python {platform.python_version()}\n")
    print("| set | | time | CPU | peak memory | ratio of times |")
    print("|---|---|---|---|---|---|")
    others = []
    for name, said in SETS.items():
        folder = str(root / name)
        ours = [python, str(HERE / "ours.py"), name, folder]
        commands = {
            LOOP: [python, str(HERE / "loop.py"), folder, str(out / "loop.csv")],
            "bare floor: parse and write": [python, str(HERE / "floor.py"), folder, str(out / "floor.csv")],
            "Integrum": [*ours, str(out / "ours.csv")],
            "to Parquet": [*ours, str(out / "ours.parquet")],
            "survey": [python, "-m", "integrum", "survey", folder],
            "without a plan": [
                python,
                "-m",
                "integrum",
                "assemble",
                folder,
                "--to",
                str(out / "at-once.csv"),
            ],
        }
        if name == "workbooks":
            del commands["bare floor: parse and write"]
        found = medians(commands, out)
        loop, run = found[LOOP][0], found["Integrum"]
        for number, (what, (seconds, cpu, peak)) in enumerate(found.items()):
            if what in ("to Parquet", "survey", "without a plan"):
                continue
            ratio = "1" if not number else f"{loop / seconds:.1f} × faster"
            times = f"{seconds:.1f} s | {cpu:.1f} s"
            print(f"| {'' if number else said} | {what} | {times} | {peak:,.0f} MB | {ratio} |", flush=True)
        floor = found.get("bare floor: parse and write")
        of_run = [_both(found[what], run) for what in ("to Parquet", "survey", "without a plan")]
        others.append(f"| {name} | " + " | ".join([_both(run, floor) if floor else "", *of_run]) + " |")
    print("\nTimes, and CPU in brackets:\n")
    print("| set | Integrum : floor | to Parquet : to CSV | survey : run | without a plan : with one |")
    print("|---|---|---|---|---|")
    print("\n".join(others))


def _both(one: Measured, other: Measured) -> str:
    """The ratio of two times, and of their CPU."""
    return f"{one[0] / other[0]:.2f} ({one[1] / other[1]:.2f})"


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else HERE / "data")
