"""The first and the last rows of each output, kept while they pass."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import pyarrow as pa

from integrum.arrow.arrays import ints
from integrum.values.types import Type

# so many rows at each end
ROWS = 3
Cells = tuple[str, ...]


class EndRow(NamedTuple):
    """A row near an end of a table.

    Attributes
    ----------
    output
        Which output.
    row
        Its number in the table, from 1.
    cells
        Its cells as texts.
    """

    output: str
    row: int
    cells: Cells


def ends_of(batch: pa.RecordBatch, types: Sequence[Type]) -> tuple[list[Cells], list[Cells]]:
    """The first and the last rows of a batch.

    Examples
    --------
    >>> from integrum.values.types import TYPES
    >>> some = pa.record_batch({"lake": ["a", "b", "c", None], "depth": [1.5, 2.0, 3.0, 4.0]})
    >>> ends_of(some, [TYPES["text"], TYPES["number"]])
    ([('a', '1.5'), ('b', '2'), ('c', '3')], [('b', '2'), ('c', '3'), ('', '4')])
    """
    size = min(ROWS, batch.num_rows)
    places = np.arange(size)
    taking = ints(np.concatenate([places, batch.num_rows - size + places]))
    columns = []
    for column, kind in zip(batch.columns, types, strict=True):
        some = column.take(taking)
        texts = some if pa.types.is_string(some.type) else kind.to_text(some)
        columns.append(["" if one is None else one for one in texts.to_pylist()])
    rows = list(zip(*columns, strict=True)) if columns else [()] * (2 * size)
    return rows[:size], rows[size:]


class Ends:
    """The ends of one output.

    Parameters
    ----------
    output
        Its name.
    """

    def __init__(self, output: str) -> None:
        self._output = output
        self._first: list[EndRow] = []
        self._last: list[EndRow] = []

    def add(self, ends: tuple[list[Cells], list[Cells]], before: int, rows: int) -> None:
        """Take those of a batch.

        Parameters
        ----------
        ends
            Its first and last rows.
        before
            Rows of the output before it.
        rows
            Its rows.
        """
        first, last = ends
        begin = [EndRow(self._output, before + at, cells) for at, cells in enumerate(first, 1)]
        end = [
            EndRow(self._output, before + rows - len(last) + at, cells) for at, cells in enumerate(last, 1)
        ]
        self._first = (self._first + begin)[:ROWS]
        self._last = (self._last + end)[-ROWS:]

    def rows(self) -> list[EndRow]:
        """The first and the last rows, each once."""
        return sorted({*self._first, *self._last}, key=lambda one: one.row)
