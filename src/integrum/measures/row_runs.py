"""Which row of its source each row of a table is, for tables that do not say it: as runs of rows in a row."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from integrum.arrow.arrays import Ints
from integrum.engine.state import State
from integrum.measures.items import RowRun
from integrum.measures.measure import Context, Made, Measure, Recalled
from integrum.measures.tables import ROWS


def runs_of(source: Ints, row: Ints) -> list[RowRun]:
    """The runs of some rows of a table, which come source by source.

    Examples
    --------
    >>> [tuple(one) for one in runs_of(np.array([0, 0, 0, 1, 1]), np.array([2, 3, 5, 2, 2]))]
    [(0, 2, 2, 1), (0, 5, 1, 1), (1, 2, 1, 2)]
    """
    if not len(row):
        return []
    at = np.flatnonzero(np.append(True, (np.diff(source) != 0) | (np.diff(row) != 0)))
    each = np.diff(at, append=len(row))
    source, row = source[at], row[at]
    new = np.append(True, (np.diff(source) != 0) | (np.diff(row) != 1) | (np.diff(each) != 0))
    starts = np.flatnonzero(new)
    sizes = np.diff(starts, append=len(row))
    return [
        RowRun(*one)
        for one in zip(
            source[starts].tolist(), row[starts].tolist(), sizes.tolist(), each[starts].tolist(), strict=True
        )
    ]


class OpenRuns(State[Sequence[RowRun]]):
    """Hands runs on, those that go on put together, so that they do not depend on where tasks end."""

    def __init__(self, context: Context) -> None:
        self._keep = context.keep.rows
        self._open: dict[int, RowRun] = {}

    def add(self, seen: Sequence[RowRun]) -> None:
        """Take those of a task."""
        for run in seen:
            last = self._open.get(run.source)
            if last and (run.row, run.each) == (last.row + last.rows, last.each):
                run = last._replace(rows=last.rows + run.rows)
            elif last:
                self._keep([last])
            self._open[run.source] = run

    def finish(self) -> None:
        """Hand on what is left."""
        self._keep(list(self._open.values()))


class RowRuns(Measure[Made, Sequence[RowRun], OpenRuns]):
    """Which row of its source each row of the table is, where the table does not say it."""

    begin = OpenRuns

    def look(self, rows: Made) -> Sequence[RowRun]:
        """The runs of a job."""
        return runs_of(rows.source, rows.row) if rows.schema.provenance.source_row is False else ()

    def recall(self, earlier: Recalled) -> Sequence[RowRun]:
        """Those of the record."""
        return list(earlier.entries(ROWS))


ROW_RUNS = RowRuns()
