"""Cells with a value, by column of the table."""

from __future__ import annotations

from collections.abc import Sequence

import pyarrow as pa
import pyarrow.compute as pc

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

    def look(self, rows: Made) -> Sequence[int]:
        """Count those of a job."""
        return [len(column) - column.null_count for column in rows.columns]

    def begin(self, context: Context) -> FilledCells:
        """There is none yet."""
        return FilledCells(context)

    def recall(self, earlier: Recalled) -> Sequence[int]:
        """The counts of the record; an identifier fills all rows of its source, or none."""
        counts = [0] * len(earlier.schema.columns)
        for lines in earlier.values:
            name = earlier.schema.columns[lines.number].name
            filled = pc.cast(lines.cells["filled"], pa.int64()).to_pylist()
            for source, count in zip(lines.sources.tolist(), filled, strict=True):
                counts[lines.number] += 0 if name in earlier.identifiers[source] else count
        for at, column in enumerate(earlier.schema.columns):
            for source, given in earlier.identifiers.items():
                if given.get(column.name) is not None:
                    counts[at] += earlier.was[source].table_rows
        return counts


FILLED = FilledByColumn()
