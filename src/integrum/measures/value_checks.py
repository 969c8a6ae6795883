"""Checks of values: a list, a pattern, a range, a list in another file, the share of filled cells."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import partial
from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.csv as pacsv

from integrum.columns.table_schema import as_numbers
from integrum.errors import PlanError
from integrum.intake.ledger import SourceSummary
from integrum.measures.measure import CheckState, Kind, TableRows
from integrum.plan.check import Check
from integrum.plan.column import Column
from integrum.plan.wrong_words import nearest
from integrum.problems.problem import Problem
from integrum.values.arrays import Mask, ints, texts, truths
from integrum.values.sketch import numbers_of

# the number of a source, how many of its values are wrong, the row of the first one, and that value
Wrong = tuple[int, int, int, str]
_NAMED = 3


@dataclass(frozen=True)
class PerValue(Kind):
    """A check of the values of a column."""

    # as those of the findings
    column: str
    code: str
    message: str
    hint: str
    wrong: Callable[[TableRows], Mask]  # which rows have a wrong value

    def look(self, rows: TableRows) -> list[Wrong]:
        """The wrong values of some rows, by source."""
        at = np.flatnonzero(self.wrong(rows))
        if not len(at):
            return []
        numbers, first, counts = np.unique(rows.source[at], return_index=True, return_counts=True)
        places = at[first]
        shown = map(str, rows.texts(self.column).take(ints(places)).to_pylist())
        return list(zip(numbers.tolist(), counts.tolist(), rows.row[places].tolist(), shown, strict=True))

    def begin(self) -> _Counted:
        """Give a fresh state."""
        return _Counted(self)


class _Counted(CheckState):
    def __init__(self, of: PerValue) -> None:
        self._of = of
        self._found: dict[int, Wrong] = {}

    def add(self, seen: list[Wrong]) -> None:
        for number, count, row, raw in seen:
            before = self._found.get(number)
            if before:
                count, row, raw = count + before[1], *before[2:]
            self._found[number] = (number, count, row, raw)

    def findings(self, sources: Sequence[SourceSummary]) -> Iterator[Problem]:
        of = self._of
        for number, count, row, raw in sorted(self._found.values()):
            yield Problem.of(of.code, sources[number].source, row, of.column, raw, count, of.message, of.hint)


def allowed(check: Check) -> PerValue:
    """The check that a plan describes."""
    count = len(check.allowed)
    return PerValue(
        check.column,
        "not-allowed",
        f"not one of the {count:,} allowed values" if count > 1 else f'not "{check.allowed[0]}"',
        "if it is another spelling, add it to `values` of the column; if it is right, add it to the list",
        partial(not_among, column=check.column, values=check.allowed),
    )


def not_among(rows: TableRows, column: str, values: Sequence[str]) -> Mask:
    """Mask of the filled cells whose value is not in a list."""
    array = rows.texts(column)
    return truths(array.is_valid()) & ~truths(pc.is_in(array, rows.wanted(column, values)))


def pattern(check: Check) -> PerValue:
    """The check that a plan describes.

    Raises PlanError when the pattern is none.
    """
    whole = f"^(?:{check.match})$"
    try:
        pc.match_substring_regex(texts([""]), whole)
    except pa.ArrowInvalid as error:
        raise PlanError(
            f"not a valid regular expression: {error}", f'check "{check.key}", key match'
        ) from None
    return PerValue(
        check.column,
        "pattern-not-matched",
        f"does not match the pattern {check.match}",
        "fix it in the source, or add it to `values` of the column",
        partial(_unmatched, column=check.column, whole=whole),
    )


def _unmatched(rows: TableRows, column: str, whole: str) -> Mask:
    found = rows.texts(column).dictionary_encode()
    fits = pc.match_substring_regex(found.dictionary, whole).take(found.indices)
    return truths(found.is_valid()) & ~truths(fits)


def value_range(check: Check) -> PerValue:
    """The check that a plan describes."""
    low, high = check.range
    if low == "":
        said = f"greater than {high}"
    elif high == "":
        said = f"less than {low}"
    else:
        said = f"outside the range {low} to {high}"
    return PerValue(
        check.column,
        "out-of-range",
        said,
        "fix it in the source, add it to `missing`, or widen the range",
        partial(_outside, column=check.column, low=low, high=high),
    )


def _outside(rows: TableRows, column: str, low: object, high: object) -> Mask:
    values = rows.numbers(column)
    outside = np.zeros(len(values), bool)
    if low != "":
        outside |= values < _as_number(low, rows.about[column])
    if high != "":
        outside |= values > _as_number(high, rows.about[column])
    return outside


def _as_number(bound: object, column: Column) -> float:
    if not isinstance(bound, str):
        return float(bound)  # type: ignore[arg-type]
    numbers = numbers_of(as_numbers(texts([column.kind.parse(bound)]), column))
    assert numbers is not None
    return float(numbers[0])


@dataclass(frozen=True)
class Listed(Kind):
    """The check that a plan describes."""

    column: str
    # the name of the file, and the distinct values in it
    file: str
    values: tuple[str, ...]
    both_ways: bool  # whether all of them have to be in the table

    @property
    def _strays(self) -> PerValue:
        return PerValue(
            self.column,
            "not-in-list",
            f"not in the list {self.file}",
            "if it is another spelling, add it to `values` of the column; if it is right, add it to the list",
            partial(not_among, column=self.column, values=self.values),
        )

    def look(self, rows: TableRows) -> tuple[list[Wrong], tuple[str, ...]]:
        """The values that are not in the list, and those that are there."""
        there: tuple[str, ...] = ()
        if self.both_ways:
            values = set(pc.unique(rows.texts(self.column)).to_pylist())
            # one by one, as each is named as it is in the list
            there = tuple(
                one for one in self.values if values & set(rows.wanted(self.column, [one]).to_pylist())
            )
        return self._strays.look(rows), there

    def begin(self) -> _Both:
        """Give a fresh state."""
        return _Both(self, self._strays.begin())


class _Both(CheckState):
    def __init__(self, of: Listed, strays: CheckState) -> None:
        self._of, self._strays = of, strays
        self._absent = dict.fromkeys(of.values)

    def add(self, seen: tuple[list[Wrong], tuple[str, ...]]) -> None:
        self._strays.add(seen[0])
        for value in seen[1]:
            self._absent.pop(value, None)

    def findings(self, sources: Sequence[SourceSummary]) -> Iterator[Problem]:
        yield from self._strays.findings(sources)
        if self._of.both_ways and self._absent:
            first = next(iter(self._absent))
            yield Problem.of(
                "listed-but-missing",
                column=self._of.column,
                raw=first,
                count=len(self._absent),
                message=f"in the list {self._of.file}, but not in the table",
                hint="is a source missing, or is the list out of date?",
            )


def listed(check: Check) -> Listed:
    """The check that a plan describes; its list is read here.

    Raises PlanError when there is no such file, or no such column in it.
    """
    place, header = f'check "{check.key}", key listed', check.header or check.column
    try:
        # all columns as texts
        names = pacsv.open_csv(check.listed).schema.names
        table = pacsv.read_csv(
            check.listed, convert_options=pacsv.ConvertOptions(column_types=dict.fromkeys(names, pa.string()))
        )
    except (OSError, pa.ArrowInvalid) as error:
        raise PlanError(f"{check.listed} cannot be read as CSV: {error}", place) from None
    if header not in names:
        said = ", ".join(names)
        raise PlanError(
            f'{check.listed} has no column "{header}"{nearest(header, names)}; it has {said}', place
        )
    values = tuple(one.strip() for one in pc.unique(table[header]).to_pylist() if one and one.strip())
    return Listed(check.column, Path(check.listed).name, values, check.both_ways)


@dataclass(frozen=True)
class Filled(Kind):
    """The check that a plan describes: the column, and the least share of filled cells."""

    column: str
    least: float

    def look(self, rows: TableRows) -> Counter[int]:
        """The empty cells of some rows, by source."""
        empty = ~truths(rows.columns[self.column].is_valid())
        numbers, counts = np.unique(rows.source[empty], return_counts=True)
        return Counter(dict(zip(numbers.tolist(), counts.tolist(), strict=True)))

    def begin(self) -> _Shares:
        """Give a fresh state."""
        return _Shares(self)


class _Shares(CheckState):
    def __init__(self, of: Filled) -> None:
        self._of, self._empty = of, Counter[int]()

    def add(self, seen: Counter[int]) -> None:
        self._empty.update(seen)

    def findings(self, sources: Sequence[SourceSummary]) -> Iterator[Problem]:
        rows, empty = sum(one.table_rows for one in sources), self._empty.total()
        if not rows or 1 - empty / rows >= self._of.least:
            return
        some = [f"{sources[at].source} ({count:,})" for at, count in self._empty.most_common(_NAMED)]
        yield Problem.of(
            "too-few-filled",
            column=self._of.column,
            message=f"filled in {1 - empty / rows:.1%} of {rows:,} rows, expected at least {self._of.least:.1%}; "
            f"most empty cells: {', '.join(some)}",
            hint="does the column have another name in these sources? is a real value listed in `missing`?",
        )


def filled(check: Check) -> Filled:
    """The check that a plan describes."""
    return Filled(check.column, check.filled or 0.0)
