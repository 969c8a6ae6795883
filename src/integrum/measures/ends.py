"""The first and the last rows of each output, kept while they pass."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import NamedTuple

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.dispatch.job import State
from integrum.measures.items import Cells, EndRow
from integrum.measures.measure import Context, Measure, Recalled, TableBatch
from integrum.measures.tables import ENDS
from integrum.problems.problem import MOST_RAW
from integrum.record.table import RecordTable
from integrum.values.arrays import ints
from integrum.values.types import Type

# this many rows at each end
ROWS = 3


class Ends(NamedTuple):
    """The first and last rows of a job, their number and their output."""

    output: str
    rows: int
    first: Sequence[Cells]
    last: Sequence[Cells]


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
        if texts.nbytes > MOST_RAW:  # most are not worth a look
            texts = pc.utf8_slice_codeunits(texts, 0, MOST_RAW)
        columns.append(["" if one is None else one for one in texts.to_pylist()])
    rows = list(zip(*columns, strict=True)) if columns else [()] * (2 * size)
    return rows[:size], rows[size:]


class EndRows(State[Ends]):
    """Collects the first and last rows of each output."""

    def __init__(self, context: Context) -> None:
        self._rows = dict.fromkeys(context.begun, 0)
        self._first: dict[str, list[EndRow]] = {output: [] for output in context.begun}
        self._last: dict[str, list[EndRow]] = {output: [] for output in context.begun}

    def add(self, seen: Ends) -> None:
        """Add the counts of one job."""
        output, before = seen.output, self._rows[seen.output]
        self._rows[output] += seen.rows
        begin = [EndRow(output, before + at, cells) for at, cells in enumerate(seen.first, 1)]
        left = self._rows[output] - len(seen.last)
        end = [EndRow(output, left + at, cells) for at, cells in enumerate(seen.last, 1)]
        self._first[output] = (self._first[output] + begin)[:ROWS]
        self._last[output] = (self._last[output] + end)[-ROWS:]

    def entries(self) -> Iterator[tuple[RecordTable[EndRow], Iterable[EndRow]]]:
        """The first and the last rows of each output, each once."""
        yield (
            ENDS,
            (
                row
                for output in self._rows
                for row in sorted({*self._first[output], *self._last[output]}, key=lambda one: one.row)
            ),
        )


class TableEnds(Measure[TableBatch, Ends, EndRows]):
    """The measure of the first and last rows of each output."""

    begin = EndRows

    def look(self, rows: TableBatch) -> Ends:
        """The ends of a job."""
        return Ends(rows.job.output, rows.table.num_rows, *ends_of(rows.table, rows.schema.types))

    def recall(self, earlier: Recalled) -> Ends:
        """The ends of rows that are taken over."""
        return Ends(earlier.output, sum(rows for _, rows, _ in earlier.spans), *earlier.ends())


TABLE_ENDS = TableEnds()
