"""How much work a run does, counted and not timed: calls, array operations and reads, and how they grow with the input."""

from __future__ import annotations

import io
import random
import sys
import threading
import tomllib
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

import integrum as ig

HERE = Path(__file__).parent
HELD = HERE / "work_counts.toml"
PACKAGE = str(Path(ig.__file__).parent)
# what is done may differ a little from run to run, as threads wait for each other
LEEWAY = 1.06


class Work:
    """Counts calls into the package, operations on arrays, and what is read of the sources."""

    def __init__(self) -> None:
        self.calls = self.arrays = 0
        self.opens: Counter[str] = Counter()
        self.bytes: Counter[str] = Counter()

    def see(self, frame: Any, event: str, arg: Any) -> None:
        """Take an event of the interpreter."""
        if event == "call":
            place = frame.f_code.co_filename
            self.calls += place.startswith(PACKAGE)
            self.arrays += place.endswith("pyarrow/compute.py")
        elif event == "c_call":
            owner = getattr(arg, "__self__", None)
            self.arrays += type(owner).__module__ == "numpy" or getattr(arg, "__module__", "") == "numpy"

    def opened(self, place: str | Path, mode: str = "rb", **_: Any) -> io.FileIO:
        """Open a source so that it is counted."""
        work, name = self, Path(place).name

        class Counting(io.FileIO):
            def read(self, *size: Any) -> Any:
                data = super().read(*size)
                work.bytes[name] += len(data or b"")
                return data

            def readinto(self, room: Any) -> Any:
                count = super().readinto(room)
                work.bytes[name] += count or 0
                return count

        work.opens[name] += 1
        return Counting(place, mode.replace("b", ""))


def counted(do: Callable[[], object]) -> Work:
    """Do something, and count its work."""
    work, room = Work(), sys.modules["integrum.sources.source"]
    room.open = work.opened  # type: ignore[attr-defined]
    threading.setprofile(work.see)
    sys.setprofile(work.see)
    try:
        do()
    finally:
        sys.setprofile(None)
        threading.setprofile(None)
        del room.open  # type: ignore[attr-defined]
    return work


def write(folder: Path, sources: int, rows: int, columns: int, variants: bool = False) -> Path:
    """Write sources of numbers, dates and texts; each with a header of its own, or all with one."""
    folder.mkdir(parents=True)
    draw = random.Random(sources * 7 + rows * 3 + columns)
    cells = (
        lambda: f"{draw.gauss(9, 2):.2f}",
        lambda: str(draw.randint(0, 99)),
        lambda: f"2024-05-{draw.randint(10, 28)}",
        lambda: draw.choice(("calm", "windy", "ice")),
    )
    for number in range(sources):
        have = [at for at in range(columns) if not variants or at < 3 or (at + number) % 3]
        lines = [",".join(["station", *(f"reading {at}" for at in have)])]
        lines += [
            ",".join([f"S{number}-{row}", *(cells[at % len(cells)]() for at in have)]) for row in range(rows)
        ]
        (folder / f"lake{number:03}.csv").write_text("\n".join(lines) + "\n")
    return folder


def planned(folder: Path) -> Callable[[], object]:
    """A run with a plan, which is drafted before."""
    plan, table = folder.parent / f"{folder.name}.toml", folder.parent / f"{folder.name}-out" / "t.csv"
    plan.write_text(str(ig.draft(folder)))
    table.parent.mkdir()
    return lambda: ig.assemble(plan, to=table)


WAYS: dict[str, Callable[[Path], Callable[[], object]]] = {
    "a planned run": planned,
    "a draft": lambda folder: lambda: ig.draft(folder),
    "a run without a plan": lambda folder: (
        lambda: ig.assemble(folder, to=folder.parent / f"{folder.name}.csv")
    ),
}


def warm(folder: Path) -> None:
    """What is imported and remembered once for all."""
    planned(write(folder / "in", 2, 2, 4))()


SHAPES = {"alike": (24, 20, 8, False), "each its own header": (12, 20, 60, True)}


def counts_of(way: str, folder: Path) -> dict[str, dict[str, int]]:
    """By shape of the input: the work that a way of running does."""
    warm(folder / "warm")
    found = {}
    for name, shape in SHAPES.items():
        work = counted(WAYS[way](write(folder / name, *shape)))
        found[name] = {"calls": work.calls, "array operations": work.arrays, "opens": work.opens.total()}
    return found


@pytest.mark.parametrize("way", WAYS)
def test_it_does_no_more_work_than_is_held(way: str, tmp_path: Path) -> None:
    """After a change that has to do more: python tests/test_work.py, and read what has changed."""
    held = tomllib.loads(HELD.read_text())[way]
    beyond = [
        f"{name}: {what} {count:,}, held {held[name][what]:,}"
        for name, counts in counts_of(way, tmp_path).items()
        for what, count in counts.items()
        if count > LEEWAY * held[name][what]
    ]
    assert not beyond, f"{way} does more work than before: {beyond}"


@pytest.mark.parametrize("way", WAYS)
@pytest.mark.parametrize(
    "shapes",
    [
        pytest.param([(sources, 5, 6) for sources in (10, 20, 40)], id="sources"),
        pytest.param([(6, 5, columns) for columns in (30, 60, 120)], id="columns"),
        pytest.param([(12, 4, columns, True) for columns in (30, 60, 120)], id="columns of own headers"),
    ],
)
def test_work_grows_no_faster_than_its_input(way: str, shapes: list[Any], tmp_path: Path) -> None:
    warm(tmp_path / "warm")
    done = [counted(WAYS[way](write(tmp_path / f"{at}", *shape))) for at, shape in enumerate(shapes)]
    for what in ("calls", "arrays"):
        one, two, four = (getattr(work, what) for work in done)
        more, much_more = max(two - one, 50), four - two
        assert much_more <= 2.4 * more, f"{what}: {one:,}, {two:,}, {four:,}"


@pytest.mark.parametrize("way", WAYS)
def test_rows_cost_hardly_a_call(way: str, tmp_path: Path) -> None:
    warm(tmp_path / "warm")
    few, many = (counted(WAYS[way](write(tmp_path / f"{rows}", 6, rows, 8))) for rows in (400, 1_600))
    assert many.calls <= 1.3 * few.calls, f"calls: {few.calls:,}, {many.calls:,}"
    assert many.arrays <= 1.3 * few.arrays, f"operations: {few.arrays:,}, {many.arrays:,}"


def test_a_source_is_read_twice_in_all(tmp_path: Path) -> None:
    """Its start tells its head; then it is read once, inspected, and its rows come from the same bytes."""
    work = counted(planned(write(tmp_path / "in", 40, 50, 6)))
    sizes = {path.name: path.stat().st_size for path in (tmp_path / "in").iterdir()}
    assert work.opens.total() <= 2.1 * len(sizes)
    assert work.bytes.total() <= 2.2 * sum(sizes.values())


if __name__ == "__main__":
    import tempfile

    with tempfile.TemporaryDirectory() as place:
        lines = ["# how much work each way of running does on two small folders; see test_work.py"]
        for number, each in enumerate(WAYS):
            for name, counts in counts_of(each, Path(place) / f"{number}").items():
                lines += ["", f'["{each}"."{name}"]', *(f'"{what}" = {n:_}' for what, n in counts.items())]
        HELD.write_text("\n".join(lines) + "\n")
