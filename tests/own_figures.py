"""Letters: how many letters the cells have, by source, and by column and source; figures that only the tests have."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.dispatch.job import State
from integrum.measures.measure import Context, Measure, Recalled, TableBatch
from integrum.record.table import RecordColumn, whole_or_zero

# by source and number of the column
Letters = Mapping[tuple[int, int], int]


class LetterCounts(State[Letters]):
    """Adds them up."""

    def __init__(self) -> None:
        self._of: Counter[tuple[int, int]] = Counter()

    def add(self, seen: Letters) -> None:
        """Take those of a task."""
        self._of.update(seen)

    def of_source(self, number: int) -> int:
        """All of a source."""
        return sum(count for (source, _), count in self._of.items() if source == number)

    def of_values(self, at: int) -> Mapping[int, str]:
        """Those of a column, by source."""
        return {source: str(count) for (source, column), count in self._of.items() if column == at}


class CountedLetters(Measure[TableBatch, Letters, LetterCounts]):
    """How many letters there are."""

    source_column = whole_or_zero("letters_in_all", "the letters of its cells")
    value_column = RecordColumn("letters", "the letters of the cells", read=lambda cell: int(cell or 0))

    def look(self, rows: TableBatch) -> Letters:
        """Count those of a job."""
        found: Counter[tuple[int, int]] = Counter()
        for part in rows.converted:
            for at, column in enumerate(part.columns):
                sizes = pc.fill_null(pc.utf8_length(pc.cast(column, pa.string())), 0).to_numpy()
                for source in np.unique(part.source).tolist():
                    found[source, at] += int(sizes[part.source == source].sum())
        return found

    def begin(self, context: Context) -> LetterCounts:
        """None is counted yet."""
        return LetterCounts()

    def recall(self, earlier: Recalled) -> Letters:
        """The figures of the record."""
        return {(source, column): int(said) for column, source, said in earlier.values.said("letters")}


LETTERS = CountedLetters()
