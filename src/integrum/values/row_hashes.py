"""Hashes of rows: two independent ones of 64 bits, so that rows with the same pair are the same rows.

The hash of a text is the sum of its bytes, each times a random number of its place: multilinear hashing, as in
D. Lemire and O. Kaser, "Strongly universal string hashing is fast", The Computer Journal 57 (2014).
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.values.arrays import Hashes, floats, truths, wholes

_PLACES = 1 << 12


class _Numbers:
    """Random numbers for the hashes, drawn at first use."""

    def __init__(self) -> None:
        draw = np.random.default_rng(20_210_501)
        self.weights = draw.integers(1, 1 << 63, (2, _PLACES), np.uint64) | np.uint64(1)
        self.beyond, self.mix, self.empty = (int(one) | 1 for one in draw.integers(1, 1 << 63, 3, np.uint64))
        self.odd = (np.uint64(self.mix), np.uint64(self.beyond))


@cache
def _numbers() -> _Numbers:
    return _Numbers()


def row_hashes(columns: Sequence[pa.Array]) -> tuple[Hashes, Hashes]:
    """The two hashes of each row of some columns.

    `columns`: texts, numbers, dates, times or truths; of one length, at least one. An empty cell is like no other
    value.

    Examples
    --------
    >>> one, _ = row_hashes([pa.array(["a", "b", "a", None]), pa.array([1, 1, 1, 1])])
    >>> bool(one[0] == one[2]), len(set(one.tolist()))
    (True, 3)
    """
    both = []
    for which in (0, 1):
        total = np.zeros(len(columns[0]), np.uint64)
        for column in columns:
            total = total * _numbers().odd[which] + _hashes(column, which)
            total ^= total >> np.uint64(29)
        both.append(total)
    return both[0], both[1]


def _hashes(column: pa.Array, which: int) -> Hashes:
    if pa.types.is_string(column.type):
        found = column.dictionary_encode()
        distinct = np.append(_of_texts(found.dictionary, which), np.uint64(_numbers().empty))
        return distinct[wholes(found.indices)]  # that of an empty cell is -1
    hashes = _of_numbers(column, which)
    hashes[~truths(column.is_valid())] = _numbers().empty
    return hashes


def _of_numbers(column: pa.Array, which: int) -> Hashes:
    """Hash numbers, dates, times and booleans by their bits."""
    if pa.types.is_floating(column.type):
        bits = (floats(column.fill_null(0.0)) + 0.0).view(np.uint64)  # -0.0 is 0.0
    else:
        whole = pc.cast(column, pa.int32()) if pa.types.is_date(column.type) else column
        bits = wholes(pc.cast(whole, pa.int64())).astype(np.uint64)
    mixed: Hashes = (bits + _numbers().odd[which]) * _numbers().weights[which][0]
    mixed ^= mixed >> np.uint64(32)
    mixed *= _numbers().weights[which][1]
    return mixed ^ (mixed >> np.uint64(29))


def _of_texts(values: pa.Array, which: int) -> Hashes:
    offsets = np.frombuffer(values.buffers()[1], np.int32)[values.offset : values.offset + len(values) + 1]
    hashes = np.diff(offsets).astype(np.uint64) * np.uint64(_numbers().beyond)
    data = values.buffers()[2]
    if not len(values) or data is None or offsets[-1] == offsets[0]:
        return hashes
    letters = np.frombuffer(data, np.uint8)[offsets[0] : offsets[-1]].astype(np.uint64) + np.uint64(1)
    starts = offsets[:-1] - offsets[0]
    place = np.arange(len(letters)) - np.repeat(starts, np.diff(offsets))
    weights = _numbers().weights[which][place % _PLACES] + (place // _PLACES).astype(np.uint64) * np.uint64(
        _numbers().mix
    )
    filled = np.flatnonzero(np.diff(offsets))
    hashes[filled] += np.add.reduceat(letters * weights, starts[filled])
    return hashes
