"""How often texts were met when values were converted, by column and source: missing codes, and signs in numbers."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Iterator, Mapping

from integrum.dispatch.job import State
from integrum.measures.categories import HeldCounts, counts_text
from integrum.measures.measure import Context, Measure, Recalled, TableBatch
from integrum.problems.problem import Problem, clipped, counted
from integrum.record.table import as_json
from integrum.values.units import same_unit

# by source, column and text
Met = Mapping[tuple[int, str, str], int]


_SHOWN = 3


class MetTexts(State[Met]):
    """Adds up the texts that were met.

    Attributes
    ----------
    by_column
        By column and text how often it was met in all.
    """

    def __init__(self, context: Context) -> None:
        self._numbers = {column.name: at for at, column in enumerate(context.columns)}
        self._counts = HeldCounts()
        self._drafted = context.matched.intake.drafted
        self.by_column: Counter[tuple[str, str]] = Counter()

    def add(self, seen: Met) -> None:
        """Add the counts of one job."""
        for (source, column, text), count in seen.items():
            self.by_column[column, text] += count
            self._counts.add(self._numbers[column], source, {text: count})

    def of_columns(self) -> Iterator[tuple[str, Counter[str], str]]:
        """By column, how often each text was met, and the most frequent ones in words."""
        by_column: dict[str, Counter[str]] = {}
        for (column, text), count in self.by_column.items():
            by_column.setdefault(column, Counter())[text] += count
        for column in self._numbers:
            if met := by_column.get(column):
                # the same in whatever order they were met, as in a run that takes rows over
                most = sorted(met.items(), key=lambda one: (-one[1], one[0]))[:_SHOWN]
                shown = ", ".join(f'{count:,} × "{clipped(text, 20)}"' for text, count in most)
                more = f" and {len(met) - _SHOWN:,} more" if len(met) > _SHOWN else ""
                yield column, met, shown + more

    def of_values(self, at: int) -> Mapping[int, str]:
        """By source how often each text was met in a column."""
        return {source: counts_text(met) for source, met in self._counts.of(at).items() if met}


class MetCodes(MetTexts):
    """Adds up missing codes."""

    def findings(self) -> Iterator[Problem]:
        """What became empty for codes that were guessed, column by column."""
        for column, met, shown in self.of_columns() if self._drafted else ():  # a written plan says it itself
            yield Problem.of(
                "missing-codes",
                column=column,
                message=f"{counted(met.total(), 'cell')} left empty for missing codes: {shown}",
                hint="if one of them is a value, remove it from `missing` of the column",
            )


class MetSigns(MetTexts):
    """Adds up signs in numbers."""

    def findings(self) -> Iterator[Problem]:
        """Which signs were read away, column by column; two currencies are no one number."""
        for column, met, shown in self.of_columns():
            currencies: list[str] = []
            for sign in sorted(set(met) - {*_MARKS}):
                if not any(same_unit(sign, each) for each in currencies):
                    currencies.append(sign)
            if len(currencies) > 1:
                yield Problem.of(
                    "currencies-mixed",
                    column=column,
                    message=f"amounts in several currencies are in one column: {shown}",
                    hint=f'set unit = "{currencies[0]}" for the column: then the others are bad values; or make it text',
                )
            else:
                yield Problem.of(
                    "signs-in-numbers",
                    column=column,
                    message=f"signs in numbers were read: {shown}",
                    hint=_BELOW_ZERO
                    if _BELOW & {*met}
                    else "nothing to do: they can be read in one way only",
                )


_MARKS = (",", ".", "()", "-")
_BELOW = {"()", "-"}
_BELOW_ZERO = "a number in brackets, or with a minus behind it, is read as below zero; if it is not, make the column text"


class MissingCodes(Measure[TableBatch, Met, MetCodes]):
    """The measure of missing codes."""

    begin = MetCodes

    value_column = as_json("missing", "JSON: how often each missing code was met")

    def look(self, rows: TableBatch) -> Met:
        """They were met when the values were converted."""
        return rows.missing

    def recall(self, earlier: Recalled) -> Met:
        """Read the counts from the record."""
        return _of_record(earlier, "missing")


class Signs(Measure[TableBatch, Met, MetSigns]):
    """The measure of signs in numbers that no plan names: currencies, marks between thousands."""

    begin = MetSigns

    value_column = as_json(
        "signs", "JSON: how often each sign was read in numbers though the plan does not name it"
    )

    def look(self, rows: TableBatch) -> Met:
        """They were met when the values were converted."""
        return rows.signs

    def recall(self, earlier: Recalled) -> Met:
        """Read the counts from the record."""
        return _of_record(earlier, "signs")


def _of_record(earlier: Recalled, name: str) -> Met:
    return {
        (source, earlier.schema.columns[column].name, text): count
        for column, source, said in earlier.values.said(name)
        for text, count in json.loads(said).items()
    }


MISSING_CODES, SIGNS = MissingCodes(), Signs()
