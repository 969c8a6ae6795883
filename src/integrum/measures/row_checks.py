"""Checks of rows: unique ones, complete combinations, how many there are."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import product

import numpy as np
import numpy.typing as npt
import pyarrow as pa

from integrum.columns.table_schema import as_numbers
from integrum.intake.ledger import SourceSummary
from integrum.measures.measure import CheckState, Kind, TableRows
from integrum.plan.check import ALL, Check
from integrum.problems.problem import Problem
from integrum.values.arrays import Hashes, Ints, Mask
from integrum.values.row_hashes import row_hashes

Unsigned = Hashes
Seen = tuple[Unsigned, Unsigned, npt.NDArray[np.int32], Ints]
_MOST = 1_000_000
_NAMED = 3
Combination = tuple[str, ...]
Combinations = tuple[list[Combination], dict[str, list[str]]]


@dataclass(frozen=True)
class SameRows(Kind):
    """Rows that are there more than once, by some columns."""

    columns: tuple[str, ...]  # the columns that make rows the same; none: all but those of provenance
    between_sources: bool  # whether only the same rows of two sources count

    def look(self, rows: TableRows) -> Seen:
        """The hashes of some rows, and where they are from."""
        names = self.columns or tuple(name for name in rows.columns if name in rows.about)
        # by value: 7.2 is 7.20
        arrays = [_by_value(rows, name) for name in names]
        return (*row_hashes(arrays), rows.source.astype(np.int32), rows.row)

    def begin(self) -> _Hashes:
        """Give a fresh state."""
        return _Hashes(self)


def _by_value(rows: TableRows, name: str) -> pa.Array:
    array, about = rows.columns[name], rows.about.get(name)
    is_text = pa.types.is_string(array.type)
    return as_numbers(array, about) if about is not None and about.kind.has_order and is_text else array


class _Hashes(CheckState):
    def __init__(self, of: SameRows) -> None:
        self._of = of
        self._seen: list[Seen] = []

    def add(self, seen: Seen) -> None:
        if len(seen[0]):
            self._seen.append(seen)

    def findings(self, sources: Sequence[SourceSummary]) -> Iterator[Problem]:
        if not self._seen:
            return
        one, two, source, row = (np.concatenate(each) for each in zip(*self._seen, strict=True))
        self._seen.clear()
        again_there = _repeated(one)
        if not again_there.any():
            return
        one, two, source, row = (each[again_there] for each in (one, two, source, row))
        order = np.lexsort((row, source, two, one))
        one, two, source, row = one[order], two[order], source[order], row[order]
        begins = np.append(True, (one[1:] != one[:-1]) | (two[1:] != two[:-1]))
        first = np.maximum.accumulate(np.where(begins, np.arange(len(one)), 0))
        again = ~begins
        if self._of.between_sources:
            again &= source != source[first]
        at = np.flatnonzero(again)
        if not len(at):
            return
        # by the source that repeats, and when two sources are compared with each other by that, too
        groups = source[at].astype(np.int64)
        if self._of.between_sources:
            groups = groups * len(sources) + source[first[at]]
        in_order = at[np.lexsort((row[at], groups))]
        groups = np.sort(groups)
        starts = np.flatnonzero(np.diff(groups, prepend=-1))
        for start, end in zip(starts, np.append(starts[1:], len(groups)), strict=True):
            place = int(in_order[start])
            yield self._finding(
                int(source[place]), int(row[place]), int(end - start), sources, source, row, first[place]
            )

    def _finding(
        self,
        number: int,
        place: int,
        count: int,
        sources: Sequence[SourceSummary],
        source: npt.NDArray[np.int32],
        row: Ints,
        first: int,
    ) -> Problem:
        other = sources[int(source[first])].source
        same = "the same " + (", ".join(self._of.columns) if self._of.columns else "cells")
        where = f"row {int(row[first]):,}" + ("" if int(source[first]) == number else f" of {other}")
        if self._of.between_sources:
            return Problem.of(
                "row-in-two-sources",
                sources[number].source,
                place,
                count=count,
                message=f"a row with {same} is also in {other}: row {place:,} here, row {int(row[first]):,} there",
                hint="do the files overlap? keep one of them, or remove the duplicate rows",
            )
        return Problem.of(
            "not-unique",
            sources[number].source,
            place,
            count=count,
            message=f"{same} as {where}",
            hint="is a row or a source a duplicate, or does the key need another column?",
        )


def _repeated(values: Unsigned) -> Mask:
    """Which values are there more than once."""
    in_order = np.sort(values)
    twice = np.unique(in_order[1:][in_order[1:] == in_order[:-1]])
    if not len(twice):
        return np.zeros(len(values), bool)
    at = np.minimum(np.searchsorted(twice, values), len(twice) - 1)
    same: Mask = twice[at] == values
    return same


def unique(check: Check) -> SameRows:
    """The check that a plan describes."""
    return SameRows(tuple(check.unique), False)


def in_one_source(check: Check) -> SameRows:
    """The check that a plan describes."""
    return SameRows(() if check.in_one_source == (ALL,) else tuple(check.in_one_source), True)


@dataclass(frozen=True)
class Complete(Kind):
    """All combinations of the values of some columns."""

    columns: tuple[str, ...]
    values: Mapping[str, Sequence[str]]

    def look(self, rows: TableRows) -> Combinations:
        """The combinations that some rows have, and the values that there should be, as they are written there."""
        wanted = {name: rows.wanted(name, values).to_pylist() for name, values in self.values.items()}
        return rows.groups(self.columns)[1], wanted

    def begin(self) -> _Combinations:
        """Give a fresh state."""
        return _Combinations(self)


class _Combinations(CheckState):
    def __init__(self, of: Complete) -> None:
        self._of = of
        self._there: dict[Combination, None] = {}
        self._wanted: Mapping[str, Sequence[str]] = of.values

    def add(self, seen: Combinations) -> None:
        combinations, self._wanted = seen
        if len(self._there) <= _MOST:
            self._there.update(dict.fromkeys(combinations))

    def findings(self, sources: Sequence[SourceSummary]) -> Iterator[Problem]:  # noqa: ARG002
        lists = [
            sorted({*self._wanted.get(name, ()), *(one[at] for one in self._there if one[at])})
            for at, name in enumerate(self._of.columns)
        ]
        count, names = math.prod(map(len, lists)), " and ".join(self._of.columns)
        if count > _MOST:
            yield Problem.of(
                "check-impossible",
                message=f"{names} have {count:,} combinations; at most {_MOST:,} can be checked",
                hint="check fewer columns, or columns with fewer different values",
            )
            return
        absent = [one for one in product(*lists) if one not in self._there]
        if absent:
            some = "; ".join(", ".join(one) for one in absent[:_NAMED])
            more = f"; and {len(absent) - _NAMED:,} more" if len(absent) > _NAMED else ""
            self.found = len(absent)
            yield Problem.of(
                "combination-missing",
                message=f"{len(absent):,} of {count:,} combinations of {names} are missing: {some}{more}",
                hint="is a source missing, or is a value written in two ways?",
            )


def complete(check: Check) -> Complete:
    """The check that a plan describes."""
    return Complete(tuple(check.complete), check.values)


@dataclass(frozen=True)
class _Counting(Kind, CheckState):
    """A check that needs no look at rows."""

    least: int
    most: int
    needs_rows = False

    def look(self, rows: TableRows) -> None:
        """Nothing."""

    def add(self, seen: None) -> None:
        """Nothing."""

    @property
    def _wanted(self) -> str:
        return f"{self.least:,}" if self.least == self.most else f"{self.least:,} to {self.most:,}"


class RowCount(_Counting):
    """How many rows each source gives."""

    def begin(self) -> RowCount:
        """The state is the check itself."""
        return self

    def findings(self, sources: Sequence[SourceSummary]) -> Iterator[Problem]:
        """Sources that give too few or too many rows."""
        for one in sources:
            if one.is_assembled and not self.least <= one.table_rows <= self.most:
                yield Problem.of(
                    "rows-per-source",
                    one.source,
                    message=f"gives {one.table_rows:,} rows of the table, expected {self._wanted}",
                    hint="is it cut off, a duplicate, or a different kind of file?",
                )


class SourceCount(_Counting):
    """How many sources are in the table."""

    def begin(self) -> SourceCount:
        """The state is the check itself."""
        return self

    def findings(self, sources: Sequence[SourceSummary]) -> Iterator[Problem]:
        """Whether there are too few or too many."""
        count = sum(one.is_assembled for one in sources)
        if not self.least <= count <= self.most:
            yield Problem.of(
                "number-of-sources",
                message=f"{count:,} sources are in the table, expected {self._wanted}",
                hint="sources.csv in the record lists all sources and shows which were set aside",
            )


def row_count(check: Check) -> RowCount:
    """The check that a plan describes."""
    return RowCount(*check.rows)


def source_count(check: Check) -> SourceCount:
    """The check that a plan describes."""
    return SourceCount(*check.sources)
