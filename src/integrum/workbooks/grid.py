"""The cells of a sheet as columns of text, made block by block."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from itertools import compress, islice
from operator import attrgetter
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.values.arrays import Ints, flags, ints, texts

_MOSTLY = 0.2
_PLAIN = 1e9
_EPOCH = datetime(1970, 1, 1)
_PARTS = tuple(map(attrgetter, ("days", "seconds", "microseconds")))
# rows that are Python objects at one time
BLOCK = 1 << 16
Cells = Mapping[tuple[int, int], str]
Merged = Sequence[tuple[tuple[int, int], tuple[int, int]]]


def column_texts(values: Sequence[Any], decimal_mark: str = ".") -> pa.Array:
    """The cells of a column as text.

    Whole numbers have no point, others the fewest digits that mean the same 64-bit value; dates and
    times as ISO 8601 has them, with a space between; durations as hours, minutes and seconds. A date among times of
    other days is a midnight.

    `values`: texts, numbers, booleans, dates and times; ``""`` where a cell is empty.

    Examples
    --------
    >>> column_texts(["id", 3.0, 7.2, True, "", 123456789012345.0]).to_pylist()
    ['id', '3', '7.2', 'true', '', '123456789012345']
    >>> column_texts([datetime(2024, 5, 1, 12), date(2024, 5, 2), timedelta(hours=36)]).to_pylist()
    ['2024-05-01 12:00:00', '2024-05-02 00:00:00', '36:00:00']
    """
    kinds_here = set(map(type, values))
    if len(kinds_here) == 1:
        return _written(kinds_here.pop(), values, decimal_mark)
    # most often there is a header over values of one type
    below = next(at for at, value in enumerate(values) if type(value) is not str)
    alone = set(map(type, values[below:]))
    if len(alone) == 1:
        return pa.concat_arrays(
            [_texts(values[:below], ""), _written(alone.pop(), values[below:], decimal_mark)]
        )
    kinds = list(map(type, values))
    distinct = dict.fromkeys(kinds)
    if datetime in distinct and date in distinct:
        moments = kinds.count(datetime)
        if moments >= _MOSTLY * (moments + kinds.count(date)):
            values = [
                _midnight(value) if kind is date else value for value, kind in zip(values, kinds, strict=True)
            ]
            kinds = list(map(type, values))
            distinct = dict.fromkeys(kinds)
    parts = []
    places: list[Ints] = []
    for kind in distinct:
        here = [each is kind for each in kinds]
        parts.append(_written(kind, list(compress(values, here)), decimal_mark))
        places.append(np.flatnonzero(np.fromiter(here, bool, len(here))))
    order = np.argsort(np.concatenate(places), kind="stable")
    return pa.concat_arrays(parts).take(ints(order))


def _written(kind: type, values: Sequence[Any], decimal_mark: str) -> pa.Array:
    return _WRITERS.get(kind, _others)(values, decimal_mark)


def _texts(values: Sequence[str], _: str) -> pa.Array:
    joined = "".join(values)
    if not joined.isascii():
        return texts(values)
    offsets = np.zeros(len(values) + 1, np.int32)
    np.cumsum(np.fromiter(map(len, values), np.int32, len(values)), out=offsets[1:])
    return pa.Array.from_buffers(
        pa.string(), len(values), [None, pa.py_buffer(offsets), pa.py_buffer(joined.encode("ascii"))]
    )


def _numbers(values: Sequence[float], decimal_mark: str) -> pa.Array:
    numbers = np.array(values, np.float64) + 0.0  # a negative zero is a zero
    if np.any(np.abs(numbers) >= _PLAIN):  # Arrow would write these with an exponent
        written = texts([_number(number) for number in numbers.tolist()])
    else:
        doubles = pa.Array.from_buffers(pa.float64(), len(numbers), [None, pa.py_buffer(numbers)])
        written = pc.cast(doubles, pa.string())
    return written if decimal_mark == "." else pc.replace_substring(written, ".", decimal_mark)


def _number(value: float) -> str:
    return str(int(value)) if value.is_integer() and abs(value) < 2.0**63 else repr(value)


def _moments(values: Sequence[datetime], _: str) -> pa.Array:
    since = [value - _EPOCH for value in values]
    days, seconds, micros = (np.fromiter(map(part, since), np.int64, len(since)) for part in _PARTS)
    counted = days * 86_400 + seconds
    unit = "s"
    if micros.any():
        unit, counted = "us", counted * 1_000_000 + micros
    return pc.cast(ints(counted).view(pa.timestamp(unit)), pa.string())


def _days(values: Sequence[date], _: str) -> pa.Array:
    days = np.fromiter(map(date.toordinal, values), np.int32, len(values)) - _EPOCH.toordinal()
    return pc.cast(pa.Array.from_buffers(pa.date32(), len(days), [None, pa.py_buffer(days)]), pa.string())


def _midnight(day: date) -> datetime:
    return datetime(day.year, day.month, day.day)


def _duration(value: timedelta) -> str:
    seconds = round(value.total_seconds())
    hours, rest = divmod(abs(seconds), 3600)
    return f"{'-' if seconds < 0 else ''}{hours}:{rest // 60:02}:{rest % 60:02}"


def _others(values: Sequence[Any], _: str) -> pa.Array:
    return texts([str(value) for value in values])


_WRITERS: dict[type, Callable[[Sequence[Any], str], pa.Array]] = {
    str: _texts,
    float: _numbers,
    datetime: _moments,
    date: _days,
    bool: lambda values, _: texts(["true" if value else "false" for value in values]),
    time: lambda values, _: texts([value.isoformat() for value in values]),
    timedelta: lambda values, _: texts([_duration(value) for value in values]),
}


@dataclass(frozen=True)
class Grid:
    """Columns of text of one length."""

    columns: Sequence[pa.Array]  # string arrays; an empty cell is empty or null
    # the row and the column of the first cell, from 1
    top: int = 1
    left: int = 1

    @property
    def height(self) -> int:
        """How many rows it has."""
        return len(self.columns[0]) if self.columns else 0

    @property
    def right(self) -> int:
        """The last column."""
        return self.left + len(self.columns) - 1


def grid_of(rows: Iterable[Sequence[Any]], top: int = 1, left: int = 1, decimal_mark: str = ".") -> Grid:
    """Make a grid of rows of cells, all of one length.

    Examples
    --------
    >>> [column.to_pylist() for column in grid_of([["lake", "depth"], ["Ambermere", 3.5]]).columns]
    [['lake', 'Ambermere'], ['depth', '3.5']]
    """
    left_over = iter(rows)
    blocks = []
    while block := list(islice(left_over, BLOCK)):
        blocks.append([column_texts(values, decimal_mark) for values in zip(*block, strict=True)])
    return Grid([pa.concat_arrays(parts) for parts in zip(*blocks, strict=True)], top, left)


def filled(column: pa.Array) -> Ints:
    """The positions of the cells of a column that are not empty."""
    offsets = np.frombuffer(column.buffers()[1], np.int32)[column.offset : column.offset + len(column) + 1]
    return np.flatnonzero(np.diff(offsets))


def with_cells(grid: Grid, cells: Cells) -> Grid:
    """Put cells, by row and column, into a grid, which grows where that is needed."""
    if not cells:
        return grid
    rows, numbers = [row for row, _ in cells], [number for _, number in cells]
    if not grid.columns:
        grid = Grid([texts([""])], min(rows), min(numbers))
    top, left = min(grid.top, *rows), min(grid.left, *numbers)
    height = max(grid.top + grid.height, max(rows) + 1) - top
    by_column: dict[int, dict[int, str]] = {}
    for (row, number), text in cells.items():
        by_column.setdefault(number, {})[row - top] = text
    columns = []
    for number in range(left, max(grid.right, *numbers) + 1):
        column = pa.nulls(height, pa.string())
        if grid.left <= number <= grid.right:
            above, below = grid.top - top, height - grid.height - (grid.top - top)
            padding = [pa.nulls(above, pa.string()), pa.nulls(below, pa.string())]
            column = pa.concat_arrays([padding[0], grid.columns[number - grid.left], padding[1]])
        if number in by_column:
            places = sorted(by_column[number])
            mask = np.zeros(height, bool)
            mask[places] = True
            put = texts([by_column[number][place] for place in places])
            column = pc.replace_with_mask(column, flags(mask), put)
        columns.append(column)
    return Grid(columns, top, left)


def merged_down(grid: Grid, merged: Merged) -> tuple[dict[tuple[int, int], str], dict[tuple[int, int], str]]:
    """Cells that are merged over several rows: where they stand, and the cells below that read the same."""
    first: dict[tuple[int, int], str] = {}
    below: dict[tuple[int, int], str] = {}
    for (top, left), (bottom, _) in merged:
        at, start = left + 1 - grid.left, top + 1 - grid.top
        stop = min(bottom + 2 - grid.top, grid.height)
        if not 0 <= at < len(grid.columns) or start < 0 or stop - start < 2:
            continue
        text = grid.columns[at][start].as_py()
        if text:
            first[top + 1, left + 1] = text
            below.update({(row, left + 1): text for row in range(top + 2, grid.top + stop)})
    return first, below
