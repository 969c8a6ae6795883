"""Which row of its source each row of a table is, for tables that do not say it: as runs of rows in a row."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

Ints = npt.NDArray[np.int64]


class RowRun(NamedTuple):
    """Consecutive rows of a source.

    Attributes
    ----------
    source
        Its number; in a record its name.
    row
        The first row there.
    rows
        How many rows.
    each
        How many rows of the table each gives; more than one in wide sources.
    """

    source: Any
    row: int
    rows: int
    each: int = 1

    def of(self, source: str | int) -> RowRun:
        """The same of a source by another name, or by its number."""
        return self._replace(source=source)


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


class RowRuns:
    """Hands on the runs of a run, those that go on put together, so that they do not depend on where its batches end.

    Parameters
    ----------
    keep
        Takes runs.

    Examples
    --------
    >>> kept = []
    >>> runs = RowRuns(kept.extend)
    >>> runs.add([RowRun(0, 2, 2)]), runs.add([RowRun(0, 4, 1), RowRun(1, 5, 1)]), runs.finish()
    (None, None, None)
    >>> kept
    [RowRun(source=0, row=2, rows=3, each=1), RowRun(source=1, row=5, rows=1, each=1)]
    """

    def __init__(self, keep: Callable[[Sequence[RowRun]], None]) -> None:
        self._keep = keep
        self._open: dict[int, RowRun] = {}

    def add(self, runs: Sequence[RowRun]) -> None:
        """Take those of a batch."""
        for run in runs:
            last = self._open.get(run.source)
            if last and (run.row, run.each) == (last.row + last.rows, last.each):
                run = last._replace(rows=last.rows + run.rows)
            elif last:
                self._keep([last])
            self._open[run.source] = run

    def finish(self) -> None:
        """Hand on what is left."""
        self._keep(list(self._open.values()))
