"""Ratios that show a cliff where there is one: odd values, wide tables, many tiny files, the start of a process.

python benchmarks/ratios.py [FOLDER]     the files are made there (about 100 MB), and kept for the next time
"""

from __future__ import annotations

import random
import resource
import statistics
import subprocess
import sys
from collections.abc import Callable, Mapping
from pathlib import Path

HERE = Path(__file__).parent
ROWS, EVERY = 900_000, 90_000
PLAN = """integrum = 1
[[sources]]
find = ["{folder}"]
[sources.layout]
comment_mark = "#"
[[columns]]
name = "day"
type = "date"
[[columns]]
name = "depth"
type = "number"
"""
ODD: Mapping[str, Callable[[str, str], str]] = {
    "none": lambda day, depth: f"{day},{depth}",
    "an impossible date": lambda _, depth: f"2024-02-30,{depth}",
    "a number without end": lambda day, _: f"{day},1e999",
    "n/a": lambda day, _: f"{day},n/a",
    "a comment": lambda day, depth: f"# {day},{depth}",
    "a quoted cell": lambda day, depth: f'"{day}",{depth}',
    "a cell too many": lambda day, depth: f"{day},{depth},1",
}


def cpu(*command: object, times: int = 5) -> float:
    """The median CPU seconds of a command."""
    found = []
    for _ in range(times):
        before = resource.getrusage(resource.RUSAGE_CHILDREN)
        subprocess.run(
            [sys.executable, "-m", "integrum", *map(str, command)], stdout=subprocess.DEVNULL, check=False
        )
        after = resource.getrusage(resource.RUSAGE_CHILDREN)
        found.append(after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime)
    return statistics.median(found)


def odd_values(root: Path) -> None:
    """One odd row in 90,000."""
    draw = random.Random(1)
    rows = [
        (
            f"20{draw.randint(10, 24)}-{draw.randint(1, 12):02}-{draw.randint(1, 28):02}",
            f"{draw.gauss(10, 3):.2f}",
        )
        for _ in range(ROWS)
    ]
    print("| one in 90,000 rows has | CPU, in terms of none |\n|---|---|")
    start = cpu("--version")
    first = 0.0
    for name, odd in ODD.items():
        folder = root / name.replace("/", "")
        if not folder.exists():
            folder.mkdir(parents=True)
            lines = [odd(*row) if at % EVERY == 5_000 else ",".join(row) for at, row in enumerate(rows)]
            (folder / "a.csv").write_text("day,depth\n" + "\n".join(lines) + "\n")
        plan = root / f"{folder.name}.toml"
        plan.write_text(PLAN.format(folder=folder.name))
        seconds = cpu("assemble", plan, "--to", root / "o.csv") - start
        first = first or seconds
        print(f"| {name} | {seconds / first:.2f} |")


def wide_tables(root: Path) -> None:
    """Three files of 20 rows, with 500 columns and with 3,000."""
    found = {}
    draw = random.Random(2)
    for width in (500, 3_000):
        folder = root / f"wide{width}"
        folder.mkdir(parents=True, exist_ok=True)
        for number in range(3):
            lines = [",".join(str(draw.randint(0, 999)) for _ in range(width)) for _ in range(20)]
            header = ",".join(f"taxon {at}" for at in range(width))
            (folder / f"{number}.csv").write_text("\n".join([header, *lines]) + "\n")
        plan = root / f"wide{width}.toml"
        found[width] = [
            cpu("draft", folder, "--plan", plan, "--replace"),
            cpu("assemble", plan, "--to", root / "o.csv"),
        ]
    print("\n| whole commands, CPU | 500 columns | 3,000 columns |\n|---|---|---|")
    for at, name in enumerate(("draft", "assemble")):
        print(f"| {name} | {found[500][at]:.2f} s | {found[3_000][at]:.2f} s |")


def tiny_files(root: Path) -> None:
    """5,000 files of 20 rows."""
    folder, plan = root / "tiny", root / "tiny.toml"
    if not folder.exists():
        folder.mkdir(parents=True)
        draw = random.Random(3)
        for number in range(5_000):
            rows = "".join(f"2024-01-{day:02},{draw.random() * 10:.2f}\n" for day in range(1, 21))
            (folder / f"{number}.csv").write_text("day,depth\n" + rows)
    plan.write_text(PLAN.format(folder="tiny").replace('comment_mark = "#"\n', ""))
    run = cpu("assemble", plan, "--to", root / "o.csv", times=3)
    survey, at_once = cpu("survey", folder, times=3), cpu("assemble", folder, "--to", root / "o.csv", times=3)
    print("\n| 5,000 files of 20 rows | CPU |\n|---|---|")
    print(f"| run with a plan | {run:.1f} s |\n| survey : run | {survey / run:.2f} |")
    print(f"| run without a plan : with one | {at_once / run:.2f} |")


def start(root: Path) -> None:
    """Two tiny files."""
    folder, plan = root / "two", root / "two.toml"
    folder.mkdir(parents=True, exist_ok=True)
    for number in (1, 2):
        (folder / f"{number}.csv").write_text(f"day,depth\n2024-05-0{number},3.5\n")
    plan.write_text(PLAN.format(folder="two"))
    print("\n| start | CPU |\n|---|---|")
    print(f"| integrum --help | {cpu('--help', times=9):.2f} s |")
    print(
        f"| integrum assemble, two tiny files | {cpu('assemble', plan, '--to', root / 'o.csv', times=9):.2f} s |"
    )


if __name__ == "__main__":
    place = Path(sys.argv[1]) if len(sys.argv) > 1 else HERE / "data" / "ratios"
    place.mkdir(parents=True, exist_ok=True)
    odd_values(place)
    wide_tables(place)
    tiny_files(place)
    start(place)
