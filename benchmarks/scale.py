"""Measure large things, and what is serial in a run; simulate many workers from the measured parts.

python benchmarks/scale.py [FOLDER] [PART...]     parts: cost, huge, names, problems, sheet, wide; all without any

The sets are made in the folder (some 13 GB for `huge`), and kept for the next time; outputs go there, too.
"""

from __future__ import annotations

import heapq
import os
import platform
import shutil
import sys
import time
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Executor, Future
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from generate import (
    generate,
    write_faults,
    write_huge,
    write_long_sheet,
    write_names,
    write_wide,
)
from ours import LARGE
from run import measured

import integrum as ig
from integrum.workers.elsewhere import processes

HERE = Path(__file__).parent
# seconds that a scheduler and the way there take for each task; see `round_trip`
MACHINES = (1, 2, 8, 32, 256)


@dataclass
class Timed(Executor):
    """Does each task at once, and notes what it takes: the rest of the time is that of the process that hands out work."""

    _max_workers: int = 256
    tasks: list[tuple[str, float]] = field(default_factory=list)

    def submit(self, work: Callable[..., Any], /, *given: Any, **named: Any) -> Future[Any]:
        """Do a task."""
        start = time.perf_counter()
        future: Future[Any] = Future()
        future.set_result(work(*given, **named))
        name = getattr(work, "__name__", "other")
        self.tasks.append((name, time.perf_counter() - start))
        return future


def plan(folder: Path) -> ig.Plan:
    """The plan of the large set."""
    return ig.Plan([ig.Sources(str(folder))], LARGE)


@contextmanager
def output(root: Path) -> Iterator[Path]:
    """A folder for outputs."""
    out = root / "out"
    shutil.rmtree(out, ignore_errors=True)
    out.mkdir(parents=True)
    yield out
    shutil.rmtree(out, ignore_errors=True)


def round_trip() -> float:
    """Seconds for a task that does nothing, on a local cluster with two workers, when many are on the way."""
    from distributed import Client, LocalCluster

    with (
        LocalCluster(n_workers=2, threads_per_worker=1, dashboard_address=None) as there,
        Client(there) as client,
    ):
        pool = client.get_executor(pure=False)
        for count in (50, 500):
            start = time.perf_counter()
            for task in [pool.submit(abs, -1) for _ in range(count)]:
                task.result()
            seconds = (time.perf_counter() - start) / count
    return seconds


@dataclass(frozen=True)
class Parts:
    """What a run of the large set is made of, in seconds.

    Attributes
    ----------
    fixed
        Once for a run: finding and ordering sources, their heads, the record.
    inspect, job
        On a worker: for a file of 137 MB, and for a stretch of its rows.
    each
        For each stretch, in the process that hands out work: to send it, to enter its result, to write its bytes.
    stretches
        Of a file.
    """

    fixed: float
    inspect: float
    job: float
    each: float
    stretches: float


def parts_of(root: Path, name: str, files: int) -> tuple[Parts, float, float]:
    """Measure the parts with an output of a name; also the serial seconds, and those of all tasks."""
    with output(root) as out:
        timed = Timed()
        start = time.perf_counter()
        ig.assemble(plan(root / "large"), to=f"{out}/{name}", executor=timed)
        whole = time.perf_counter() - start
    inspects = [seconds for kind, seconds in timed.tasks if kind == "inspect_some"]
    jobs = [seconds for kind, seconds in timed.tasks if kind == "do_packed"]
    other = sum(seconds for kind, seconds in timed.tasks if kind not in ("inspect_some", "do_packed"))
    serial = whole - sum(inspects) - sum(jobs) - other
    with output(root) as out:  # a run of few rows: what does not grow with them
        small = out / "in"
        small.mkdir()
        for number in range(files):
            with open(root / "large" / f"part{number + 1}.csv", "rb") as file:
                (small / f"part{number + 1}.csv").write_bytes(b"".join(file.readline() for _ in range(100)))
        start = time.perf_counter()
        ig.assemble(plan(small), to=f"{out}/{name}", executor=Timed())
        fixed = time.perf_counter() - start
    each = max(serial - fixed, 0.0) / len(jobs)
    return (
        Parts(fixed, sum(inspects) / files, sum(jobs) / len(jobs), each, len(jobs) / files),
        serial,
        sum(inspects) + sum(jobs) + other,
    )


def simulate(parts: Parts, files: int, workers: int, trip: float) -> float:
    """The seconds of a run on some workers: tasks in order, results in order, some of them on the way at a time."""
    free = [0.0] * workers  # when each worker is free
    heapq.heapify(free)

    def do(ready: float, seconds: float) -> float:
        begin = max(heapq.heappop(free), ready)
        heapq.heappush(free, begin + seconds)
        return begin + seconds

    now, room = parts.fixed, 2 * workers + 1
    inspected: list[float] = []
    flying: list[float] = []
    count = 0
    for number in range(files):
        while len(inspected) < min(number + workers + 1, files):
            now += trip
            inspected.append(do(now, parts.inspect))
        now = max(now, inspected[number])
        while count < round((number + 1) * parts.stretches):
            if len(flying) >= room:
                now = max(now, flying.pop(0)) + parts.each
            now += trip
            flying.append(do(now, parts.job))
            count += 1
    for end in flying:
        now = max(now, end) + parts.each
    return now


def cost(root: Path) -> None:
    """What is serial, and how far it scales."""
    generate(root)
    trip = round_trip()
    print(f"\na task that does nothing takes {trip * 1000:.1f} ms of a local cluster\n")
    print("| output | serial | on the workers | serial share |")
    print("|---|---|---|---|")
    found = {}
    for name in ("lakes.csv", "lakes.parquet", "lakes.parquet/"):
        parts, serial, work = parts_of(root, name, 4)
        found[name] = parts
        print(f"| {name} | {serial:.2f} s | {work:.2f} s | {serial / (serial + work):.1%} |", flush=True)
    for name, parts in found.items():
        print(f"\n{name}: {parts}", file=sys.stderr)
    print("\nMeasured and simulated, the large set (4 files, 548 MB):\n")
    print("| output | workers | measured | simulated |")
    print("|---|---|---|---|")
    for name in ("lakes.csv", "lakes.parquet/"):
        for workers in (1, 2):
            with output(root) as out, processes(workers) as pool:
                list(pool.map(_ready, range(workers * 4)))
                start = time.perf_counter()
                ig.assemble(plan(root / "large"), to=f"{out}/{name}", executor=pool)
                took = time.perf_counter() - start
            simulated = simulate(found[name], 4, workers, trip)
            print(f"| {name} | {workers} | {took:.1f} s | {simulated:.1f} s |", flush=True)
    for files, said in ((88, "12 GB in 88 files"), (7_300, "1 TB in 7,300 files")):
        print(f"\nSimulated, {said}:\n")
        print("| output | " + " | ".join(f"{workers} workers" for workers in MACHINES) + " |")
        print("|---|" + "---|" * len(MACHINES))
        for where, parts in found.items():
            times = [simulate(parts, files, workers, trip) for workers in MACHINES]
            cells = (f"{_time(seconds)} (× {times[0] / seconds:.0f})" for seconds in times)
            print(f"| {where} | " + " | ".join(cells) + " |", flush=True)


def _ready(number: int) -> int:
    import integrum.assembling.run  # noqa: F401

    time.sleep(0.2)
    return number


def _time(seconds: float) -> str:
    return f"{seconds:.0f} s" if seconds < 600 else f"{seconds / 60:.0f} min"


def _row(what: str, said: tuple[float, float, float]) -> None:
    print(f"| {what} | {said[0]:.0f} s | {said[2]:,.0f} MB |", flush=True)


def huge(root: Path) -> None:
    """3 and 12 GB: the peak of memory, and whether the time is linear."""
    times = []
    for name, files in (("3 GB", 22), ("12 GB", 88)):
        write_huge(root / "huge", files)
        some = root / f"huge-{files}"
        some.mkdir(exist_ok=True)
        for number in range(1, files + 1):
            if not (some / f"part{number}.csv").exists():
                os.link(root / "huge" / f"part{number}.csv", some / f"part{number}.csv")
        with output(root) as out:
            said = measured(
                [sys.executable, str(HERE / "ours.py"), "large", str(some), str(out / "lakes.csv")]
            )
        size = sum(path.stat().st_size for path in some.iterdir())
        times.append(said[0] / size)
        _row(f"{name} of CSV ({files} files, {files * 1.5:.0f} M rows) to CSV", said)
    print(f"| seconds for each GB, the second to the first | {times[1] / times[0]:.2f} | |", flush=True)


def names(root: Path) -> None:
    """100,000 names found, ordered and compared."""
    if not (root / "names").exists():
        write_names(root / "names", 100_000)
    command = [sys.executable, "-m", "integrum", "survey", str(root / "names"), "--names"]
    _row("100,000 files found, ordered and compared (`survey --names`)", measured(command))
    ids = [*command, "--ids", "lake_{lake}/logger_{logger}.csv"]
    _row("the same with identifiers from their paths", measured(ids))


def _of_numbers(root: Path, name: str, columns: Sequence[str]) -> list[str]:
    """A command that assembles a set whose columns are numbers."""
    place = root / f"{name}.toml"
    tables = "".join(f'[[columns]]\nname = "{each}"\ntype = "number"\n' for each in columns)
    place.write_text(
        f'integrum = 1\n[[sources]]\nfind = ["{name}"]\n[[columns]]\nname = "day"\ntype = "date"\n{tables}'
    )
    return [sys.executable, "-m", "integrum", "assemble", str(place), "--to"]


def problems(root: Path) -> None:
    """A million problems."""
    if not (root / "faults").exists():
        write_faults(root / "faults", 20_000, 50)
    command = _of_numbers(root, "faults", [f"c{number}" for number in range(50)])
    with output(root) as out:
        _row("1,000,000 problems (20,000 files × 50 columns)", measured([*command, str(out / "lakes.csv")]))
        _row(
            "the page about that run",
            measured([sys.executable, "-m", "integrum", "report", str(out / "lakes.csv")]),
        )


def sheet(root: Path) -> None:
    """A workbook with a sheet of a million rows."""
    place = root / "sheet" / "long.xlsx"
    if not place.exists():
        write_long_sheet(place, 1_000_000)
    with output(root) as out:
        command = [
            sys.executable,
            "-m",
            "integrum",
            "assemble",
            str(place.parent),
            "--to",
            str(out / "lakes.csv"),
        ]
        _row(f"a sheet of 1,000,000 rows × 4 columns ({place.stat().st_size >> 20} MB)", measured(command))


def wide(root: Path) -> None:
    """20,000 columns."""
    for files in (100, 1_000):
        name = f"wide-{files}"
        if not (root / name).exists():
            write_wide(root / name, files, 20_000)
        command = _of_numbers(root, name, [f"c{number}" for number in range(1, 20_000)])
        with output(root) as out:
            _row(f"20,000 columns × {files:,} files", measured([*command, str(out / "lakes.csv")]))


PARTS = {each.__name__: each for each in (names, sheet, problems, wide, huge)}

if __name__ == "__main__":
    given = sys.argv[1:]
    root = Path(given.pop(0)) if given and given[0] not in (*PARTS, "cost") else HERE / "data"
    print(f"{platform.machine()}, {os.cpu_count()} cores, Python {platform.python_version()}\n")
    some = [name for name in PARTS if not given or name in given]
    if some:
        print("| what | time | peak memory |\n|---|---|---|")
    for name in some:
        PARTS[name](root)
    if not given or "cost" in given:
        cost(root)
