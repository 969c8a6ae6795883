"""Cells as the library gives them, to columns of text in canonical form."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date, datetime, time, timedelta
from itertools import compress
from operator import attrgetter
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import Ints, ints, texts

_MOSTLY = 0.2
_PLAIN = 1e9
_EPOCH = datetime(1970, 1, 1)
_PARTS = tuple(map(attrgetter, ("days", "seconds", "microseconds")))


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
