"""How often each missing code was met, by column and source."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Mapping

from integrum.engine.state import State
from integrum.measures.categories import HeldCounts, counts_text
from integrum.measures.measure import Context, Made, Measure, Recalled
from integrum.record.table import as_json

# by source, column and code
Met = Mapping[tuple[int, str, str], int]


class MetCodes(State[Met]):
    """Adds them up.

    Attributes
    ----------
    by_column
        By column and code how often it was met in all.
    """

    def __init__(self, context: Context) -> None:
        self._numbers = {column.name: at for at, column in enumerate(context.columns)}
        self._counts = HeldCounts()
        self.by_column: Counter[tuple[str, str]] = Counter()

    def add(self, seen: Met) -> None:
        """Take those of a task."""
        for (source, column, code), count in seen.items():
            self.by_column[column, code] += count
            self._counts.add(self._numbers[column], source, {code: count})

    def of_values(self, at: int) -> Mapping[int, str]:
        """By source how often each code was met in a column."""
        return {source: counts_text(met) for source, met in self._counts.of(at).items() if met}


class MissingCodes(Measure[Made, Met, MetCodes]):
    """Missing codes."""

    begin = MetCodes

    value_column = as_json("missing", "JSON: how often each missing code was met")

    def look(self, rows: Made) -> Met:
        """They were met when the values were converted."""
        return rows.missing

    def recall(self, earlier: Recalled) -> Met:
        """The counts of the record."""
        return {
            (source, earlier.schema.columns[column].name, code): count
            for column, source, said in earlier.values.said("missing")
            for code, count in json.loads(said).items()
        }


MISSING_CODES = MissingCodes()
