"""Cells with a value, by column of the table."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from integrum.engine.state import State
from integrum.measures.measure import Context, Made, Measure, Recalled


class FilledCells(State[Sequence[int]]):
    """Adds them up.

    Attributes
    ----------
    counts
        For each column but those of provenance.
    """

    def __init__(self, context: Context) -> None:
        self.counts = [0] * len(context.columns)

    def add(self, seen: Sequence[int]) -> None:
        """Take those of a task."""
        self.counts = [before + count for before, count in zip(self.counts, seen, strict=True)]


class FilledByColumn(Measure[Made, Sequence[int], FilledCells]):
    """Cells with a value."""

    begin = FilledCells

    def look(self, rows: Made) -> Sequence[int]:
        """Count those of a job."""
        return [len(column) - column.null_count for column in rows.columns]

    def recall(self, earlier: Recalled) -> Sequence[int]:
        """The counts of the record; an identifier fills all rows of its source, or none."""
        lines, counts = earlier.values, np.zeros(len(earlier.schema.columns), np.int64)
        filled = lines.whole("filled")
        np.add.at(counts, lines.columns, filled)
        for at, column in enumerate(earlier.schema.columns):
            for source, given in earlier.identifiers.items():
                if column.name in given:
                    place = lines.place(at, source)
                    counts[at] -= filled[place] if place is not None else 0
                    counts[at] += earlier.was[source].table_rows if given[column.name] is not None else 0
        return counts.tolist()


FILLED = FilledByColumn()
