"""Values of an Arrow type, and the numbers that stand for them when they are compared, as texts again."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import Floats


def numbers_as_texts(numbers: Floats) -> pa.Array:
    """Numbers as they stand in a record; null for NaN.

    Examples
    --------
    >>> numbers_as_texts(np.array([7.2, 3.0, np.nan])).to_pylist()
    ['7.2', '3', None]
    """
    return pc.cast(_array(numbers, np.float64, pa.float64()), pa.string())


def moments_as_texts(kind: pa.DataType) -> Callable[[Floats], pa.Array]:
    """The way from microseconds, since 1970 or midnight, to the texts of dates or times.

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
    """The same for times, without a fraction of a second that is zero; an offset behind it stays.

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
