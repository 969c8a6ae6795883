"""How often each missing code was met, by column and source."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Iterator, Mapping

from integrum.engine.state import State
from integrum.measures.categories import HeldCounts, counts_text
from integrum.measures.measure import Context, Made, Measure, Recalled
from integrum.problems import Problem, clipped, counted
from integrum.record.table import as_json

# by source, column and code
Met = Mapping[tuple[int, str, str], int]


_SHOWN = 3


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
        self._drafted = context.matched.intake.drafted
        self.by_column: Counter[tuple[str, str]] = Counter()

    def add(self, seen: Met) -> None:
        """Take those of a task."""
        for (source, column, code), count in seen.items():
            self.by_column[column, code] += count
            self._counts.add(self._numbers[column], source, {code: count})

    def findings(self) -> Iterator[Problem]:
        """What became empty for codes that were guessed, column by column."""
        if not self._drafted:  # a plan that was written says it itself
            return
        by_column: dict[str, Counter[str]] = {}
        for (column, code), count in self.by_column.items():
            by_column.setdefault(column, Counter())[code] += count
        for column in self._numbers:
            if met := by_column.get(column):
                shown = ", ".join(
                    f'{count:,} × "{clipped(code, 20)}"' for code, count in met.most_common(_SHOWN)
                )
                more = f" and {len(met) - _SHOWN:,} more" if len(met) > _SHOWN else ""
                cells = counted(met.total(), "cell")
                yield Problem.of(
                    "missing-codes",
                    column=column,
                    message=f"{cells} left empty for missing codes: {shown}{more}",
                    hint="if one of them is a value, remove it from `missing` of the column",
                )

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
