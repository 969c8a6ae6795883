"""Between numpy, Python texts and Arrow, without `pyarrow.array` and `pyarrow.scalar`.

Their first call imports pandas, which costs more time than a small run takes as a whole.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import accumulate
from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow as pa

Ints = npt.NDArray[np.int64]
Floats = npt.NDArray[np.float64]
Mask = npt.NDArray[np.bool_]
Bytes = npt.NDArray[np.uint8]
Hashes = npt.NDArray[np.uint64]


def ints(values: Ints) -> pa.Array:
    """An int64 array.

    Examples
    --------
    >>> ints(np.arange(3)).to_pylist()
    [0, 1, 2]
    """
    values = np.ascontiguousarray(values, np.int64)
    return pa.Array.from_buffers(pa.int64(), len(values), [None, pa.py_buffer(values)])


def in_one(column: pa.ChunkedArray) -> pa.Array:
    """A chunked column as one array."""
    return column.chunk(0) if column.num_chunks == 1 else column.combine_chunks()


def flags(values: Mask) -> pa.Array:
    """A boolean array.

    Examples
    --------
    >>> flags(np.array([True, False, True])).to_pylist()
    [True, False, True]
    """
    bits = np.packbits(values, bitorder="little")
    return pa.Array.from_buffers(pa.bool_(), len(values), [None, pa.py_buffer(bits)])


def texts(values: Sequence[str | None]) -> pa.Array:
    """A string array.

    Examples
    --------
    >>> texts(["lake", None, "µ"]).to_pylist()
    ['lake', None, 'µ']
    """
    encoded = [b"" if value is None else value.encode("utf-8") for value in values]
    offsets = np.fromiter(accumulate(map(len, encoded), initial=0), np.int32, len(encoded) + 1)
    valid = None
    if None in values:
        valid = pa.py_buffer(np.packbits([value is not None for value in values], bitorder="little"))
    buffers = [valid, pa.py_buffer(offsets), pa.py_buffer(b"".join(encoded))]
    return pa.Array.from_buffers(pa.string(), len(encoded), buffers)


def text(value: str) -> pa.Scalar:
    """A string scalar."""
    return texts([value])[0]


def floats(values: pa.Array) -> Floats:
    """A float64 array as numpy; null counts as NaN.

    Examples
    --------
    >>> floats(ints(np.arange(2)).cast(pa.float64())).tolist()
    [0.0, 1.0]
    """
    valid, data = values.buffers()
    result = np.frombuffer(data, np.float64)[values.offset : values.offset + len(values)]
    return result if valid is None else np.where(truths(values.is_valid()), result, np.nan)


def wholes(values: pa.Array) -> Ints:
    """Whole numbers or indexes as numpy; null counts as -1.

    Examples
    --------
    >>> wholes(texts(["a", None, "b"]).dictionary_encode().indices).tolist()
    [0, -1, 1]
    """
    valid, data = values.buffers()
    kind = np.int32 if pa.types.is_int32(values.type) else np.int64
    result = np.frombuffer(data, kind)[values.offset : values.offset + len(values)].astype(np.int64)
    return result if valid is None else np.where(truths(values.is_valid()), result, -1)


def each_once(values: npt.NDArray[Any]) -> npt.NDArray[Any]:
    """The distinct values, sorted. Unlike `numpy.unique` it does not load masked arrays, which takes time.

    Examples
    --------
    >>> each_once(np.array([3, 1, 3])).tolist()
    [1, 3]
    """
    return np.unique(values, return_counts=True)[0]


def emptied(values: pa.Array, gone: Mask) -> pa.Array:
    """Set some places to null. Unlike `pyarrow.compute.if_else` it drops the bytes that stood there.

    Examples
    --------
    >>> made = emptied(texts(["7.2", "n/a", None]), np.array([False, True, False]))
    >>> made.to_pylist(), made.buffers()[2].to_pybytes()
    (['7.2', None, None], b'7.2')
    """
    kept = pa.py_buffer(np.packbits(~gone, bitorder="little"))
    at = pa.py_buffer(np.arange(len(values), dtype=np.int64))
    return values.take(pa.Array.from_buffers(pa.int64(), len(values), [kept, at]))


def positions(values: pa.Array) -> Ints:
    """The indexes where a boolean array is true; null counts as false.

    Examples
    --------
    >>> positions(flags(np.array([True, False, True]))).tolist()
    [0, 2]
    """
    return np.flatnonzero(truths(values))


def truths(values: pa.Array) -> Mask:
    """A boolean array as numpy; null counts as false.

    Examples
    --------
    >>> truths(texts(["a", None]).is_null()).tolist()
    [False, True]
    """
    valid, data = values.buffers()
    result = _bits(data, values.offset, len(values))
    return result if valid is None else result & _bits(valid, values.offset, len(values))


def _bits(buffer: pa.Buffer, offset: int, count: int) -> Mask:
    unpacked = np.unpackbits(np.frombuffer(buffer, np.uint8), count=offset + count, bitorder="little")
    return unpacked[offset:].astype(bool)


def padded(values: pa.Array) -> Mask:
    """Mask of texts that may have outer spaces.

    Examples
    --------
    >>> padded(texts([" a", "b", None, "c\u00a0"])).tolist()
    [True, False, False, True]
    """
    result = np.zeros(len(values), bool)
    data = values.buffers()[2]
    if not len(values) or data is None or not len(data):
        return result
    offsets = np.frombuffer(values.buffers()[1], np.int32)[values.offset : values.offset + len(values) + 1]
    filled = np.flatnonzero(offsets[1:] > offsets[:-1])
    letters = np.frombuffer(data, np.uint8)
    first, last = letters[offsets[filled]], letters[offsets[filled + 1] - 1]
    result[filled] = (first <= _SPACE) | (first >= _OUTSIDE) | (last <= _SPACE) | (last >= _OUTSIDE)
    return result


_SPACE, _OUTSIDE = 0x20, 0x80
NOTHING = texts([None])[0]
