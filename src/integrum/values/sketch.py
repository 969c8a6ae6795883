"""A small sketch of the values of each source: how many, the least, the median, the greatest."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import floats, truths

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

# the median is that of so many values from all over a source, or of all where there are no more
SAMPLED = 32


class Sketch(NamedTuple):
    """The values of some sources, an entry each.

    Attributes
    ----------
    filled
        How many values.
    least, median, greatest
        Of numbers; of dates and times in microseconds since 1970 or midnight; NaN where there are none.
    """

    filled: Ints
    least: Floats
    median: Floats
    greatest: Floats


def sketch(values: Floats, first: Ints) -> Sketch:
    """Sketch numbers.

    Parameters
    ----------
    values
        The numbers, those of a source together; NaN where there is none.
    first
        Where the numbers of each source begin.

    Examples
    --------
    >>> made = sketch(np.array([7.0, 9.0, 8.0, np.nan, 1.0]), np.array([0, 4]))
    >>> made.filled.tolist(), made.least.tolist(), made.median.tolist(), made.greatest.tolist()
    ([3, 1], [7.0, 1.0], [8.0, 1.0], [9.0, 1.0])
    """
    empty = np.isnan(values)
    filled = np.diff(first, append=len(values))
    filled = filled - np.add.reduceat(empty, first, dtype=np.int64) if empty.any() else filled
    return Sketch(
        filled,
        np.fmin.reduceat(values, first),
        _medians(values, first),
        np.fmax.reduceat(values, first),
    )


def numbers_of(values: pa.Array) -> Floats | None:
    """Numbers, dates or times as floating-point numbers; None for others.

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
    elif not (pa.types.is_integer(kind) or pa.types.is_timestamp(kind) or pa.types.is_time(kind)):
        return None
    whole = pc.cast(values, pa.int64())
    numbers = np.frombuffer(whole.buffers()[1], np.int64)[whole.offset : whole.offset + len(whole)].astype(
        float
    )
    return np.where(truths(whole.is_valid()), numbers, np.nan) if whole.null_count else numbers


def _medians(values: Floats, first: Ints) -> Floats:
    sizes = np.diff(first, append=len(values))[:, None]
    step = np.arange(SAMPLED)
    at = first[:, None] + np.where(sizes <= SAMPLED, np.minimum(step, sizes - 1), step * sizes // SAMPLED)
    some = values[at]
    some[np.broadcast_to(step, some.shape) >= sizes] = np.nan
    some.sort(axis=1)  # those that are not there come last
    there = np.count_nonzero(~np.isnan(some), axis=1)
    rows = np.arange(len(first))
    low, high = np.maximum(there - 1, 0) // 2, np.minimum(there // 2, np.maximum(there - 1, 0))
    middle: Floats = (some[rows, low] + some[rows, high]) / 2
    return middle
