"""Rows of a wide source become several rows each."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import Ints, Mask, ints, padded, text, texts, truths
from integrum.columns.wide_cells import WideCells
from integrum.reading.parsing import Rows


def rows_of_cells(rows: Rows, wide: WideCells) -> tuple[Rows, Ints]:
    """Make several rows of each.

    Returns the rows, those of one row of the source together, with the columns of `wide` behind the others; columns
    that have become rows are as they were. And the sources of the cells that gave no row, one entry for each row that
    there is not.

    Examples
    --------
    >>> site, april, may = texts(["a", "b"]), texts(["1", None]), texts(["2", "3"])
    >>> numbers = np.array([0, 0]), np.array([2, 3])
    >>> rows = Rows([site, april, may], *numbers, [], numbers[0][:0], numbers[0][:0])
    >>> made, empty = rows_of_cells(rows, WideCells(("month",), (("04",), ("05",)), ("count",), ((1,), (2,)), False, 3))
    >>> [column.to_pylist() for column in (made.columns[0], *made.columns[3:])], made.row.tolist(), len(empty)
    ([['a', 'a', 'b'], ['04', '05', '05'], ['1', '2', '3']], [2, 2, 3], 1)
    """
    size, count = len(rows.row), len(wide.keys)
    stacked = [
        pa.concat_arrays(
            [pa.nulls(size, pa.string()) if row[at] < 0 else rows.columns[row[at]] for row in wide.cells]
        )
        for at in range(len(wide.values))
    ]
    # the cells of a row of the source one after the other, as places in the columns that are stacked
    order = (np.arange(count)[None, :] * size + np.arange(size)[:, None]).ravel()
    kept = order
    if not wide.keeps_empty:
        filled = np.zeros(size * count, bool)
        for values in stacked:
            filled |= _filled(values)
        kept = order[filled[order]]
    row_of, key_of = kept % max(size, 1), ints(kept // max(size, 1))
    taking = ints(row_of)
    cells = {at for row in wide.cells for at in row}
    columns = [column if at in cells else column.take(taking) for at, column in enumerate(rows.columns)]
    names = [texts([key[at] for key in wide.keys]).take(key_of) for at in range(len(wide.names))]
    values = [column.take(ints(kept)) for column in stacked]
    empty = (
        np.repeat(rows.source, count)[~np.isin(order, kept)] if len(kept) < len(order) else rows.source[:0]
    )
    made = replace(
        rows, columns=[*columns, *names, *values], source=rows.source[row_of], row=rows.row[row_of]
    )
    return made, empty


def _filled(values: pa.Array) -> Mask:
    filled = truths(values.is_valid())
    spaced = np.flatnonzero(padded(values))
    if len(spaced):
        trimmed = pc.utf8_trim_whitespace(values.take(ints(spaced)))
        filled[spaced[truths(pc.equal(trimmed, text("")))]] = False
    return filled
