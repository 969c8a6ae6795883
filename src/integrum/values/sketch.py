"""A small sketch of the values of each source: how many, the least, the median, the greatest."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from integrum.values.arrays import Floats, Ints, floats, truths

# the median is that of this many values from all over a source, or of all where there are no more
SAMPLED = 32


class Sketch(NamedTuple):
    """Sketches of the values of some sources: count, least, median, greatest."""

    filled: Ints  # how many values
    # of numbers; of dates and times in microseconds since 1970 or midnight; NaN where there are none
    least: Floats
    median: Floats
    greatest: Floats

    def at(self, places: Ints | slice) -> Sketch:
        """Some of the entries."""
        return Sketch(self.filled[places], self.least[places], self.median[places], self.greatest[places])


def sketch(values: Floats, first: Ints) -> Sketch:
    """Sketch some numbers.

    `values`: the numbers, those of a source together; NaN where there is none. With several columns of them, column
    by column, so is what comes back.

    Examples
    --------
    >>> made = sketch(np.array([7.0, 9.0, 8.0, np.nan, 1.0]), np.array([0, 4]))
    >>> made.filled.tolist(), made.least.tolist(), made.median.tolist(), made.greatest.tolist()
    ([3, 1], [7.0, 1.0], [8.0, 1.0], [9.0, 1.0])
    """
    empty = np.isnan(values)
    filled = np.broadcast_to(np.diff(first, append=values.shape[-1]), (*values.shape[:-1], len(first)))
    filled = filled - np.add.reduceat(empty, first, axis=-1, dtype=np.int64) if empty.any() else filled
    return Sketch(
        filled,
        np.fmin.reduceat(values, first, axis=-1),
        _medians(values, first),
        np.fmax.reduceat(values, first, axis=-1),
    )


def numbers_of(values: pa.Array) -> Floats | None:
    """Numbers, dates, times or durations as floating-point numbers; None for others.

    Examples
    --------
    >>> numbers_of(pa.array([1, None])).tolist(), numbers_of(pa.array(["x"]))
    ([1.0, nan], None)
    """
    kind = values.type
    if pa.types.is_floating(kind):
        return floats(values)
    if pa.types.is_date32(kind):
        values = pc.cast(values, pa.timestamp("us"))
    elif not (pa.types.is_integer(kind) or pa.types.is_temporal(kind)):
        return None
    whole = pc.cast(values, pa.int64())
    numbers = np.frombuffer(whole.buffers()[1], np.int64)[whole.offset : whole.offset + len(whole)].astype(
        float
    )
    return np.where(truths(whole.is_valid()), numbers, np.nan) if whole.null_count else numbers


def _medians(values: Floats, first: Ints) -> Floats:
    sizes = np.diff(first, append=values.shape[-1])[:, None]
    step = np.arange(min(SAMPLED, int(sizes.max(initial=1))))
    at = first[:, None] + np.where(sizes <= SAMPLED, np.minimum(step, sizes - 1), step * sizes // SAMPLED)
    some = values[..., at]
    some[..., step >= sizes] = np.nan
    some.sort(axis=-1)  # those that are not there come last
    last = np.maximum(np.count_nonzero(~np.isnan(some), axis=-1) - 1, 0)
    low, high = (
        np.take_along_axis(some, each[..., None], -1)[..., 0] for each in (last // 2, (last + 1) // 2)
    )
    middle: Floats = (low + high) / 2
    return middle


def numbers_as_texts(numbers: Floats) -> pa.Array:
    """Numbers as texts for a record; null for NaN.

    Examples
    --------
    >>> numbers_as_texts(np.array([7.2, 3.0, np.nan])).to_pylist()
    ['7.2', '3', None]
    """
    return pc.cast(_array(numbers, np.float64, pa.float64()), pa.string())


def moments_as_texts(kind: pa.DataType) -> Callable[[Floats], pa.Array]:
    """A function from microseconds, since 1970 or midnight, to texts of dates or times.

    Examples
    --------
    >>> moments_as_texts(pa.time64("us"))(np.array([45_000_000_000.0, np.nan])).to_pylist()
    ['12:30:00', None]
    """

    def as_texts(numbers: Floats) -> pa.Array:
        array = _array(numbers, np.int64, pa.int64())
        if pa.types.is_date(kind):
            array = pc.cast(array, pa.timestamp("us"))
        times = pc.cast(pc.cast(array, kind, safe=False), pa.string())
        return pc.replace_substring_regex(times, r"\.0+$", "")

    return as_texts


def typed_as_texts(values: pa.Array) -> pa.Array:
    """Values of an Arrow type as texts."""
    return pc.cast(values, pa.string())


def timed_as_texts(values: pa.Array) -> pa.Array:
    """Times as texts, without a fraction of zero; an offset stays.

    Examples
    --------
    >>> timed_as_texts(pa.array([45_000_000_250, 45_000_000_000], pa.time64("us"))).to_pylist()
    ['12:30:00.000250', '12:30:00']
    """
    return pc.replace_substring_regex(pc.cast(values, pa.string()), r"\.0+($|[Z+-])", r"\1")


def _array(numbers: Floats, of: type, kind: pa.DataType) -> pa.Array:
    """Numbers as an array; null for NaN."""
    there = ~np.isnan(numbers)
    values: npt.NDArray[np.generic] = np.where(there, numbers, 0).astype(of)
    valid = pa.py_buffer(np.packbits(there, bitorder="little"))
    return pa.Array.from_buffers(kind, len(values), [valid, pa.py_buffer(values)])
