"""Rows that are there more than once: by some columns, anywhere or in two sources.

This keeps 28 bytes of each row in memory, whatever the row holds: two hashes, its source and its place.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import pyarrow as pa

from integrum.arrow.arrays import Hashes, Ints, Mask
from integrum.arrow.hashing import row_hashes
from integrum.checking.kind import CheckState, Kind
from integrum.checking.rows import TableRows
from integrum.columns.typed import as_numbers
from integrum.engine.ledger import SourceSummary
from integrum.plan.check import ALL, Check
from integrum.problems import Problem

Unsigned = Hashes
Seen = tuple[Unsigned, Unsigned, npt.NDArray[np.int32], Ints]


@dataclass(frozen=True)
class SameRows(Kind):
    """The check that a plan describes."""

    columns: tuple[str, ...]  # the columns that make rows the same; none: all but those of provenance
    between_sources: bool  # whether only the same rows of two sources count

    def look(self, rows: TableRows) -> Seen:
        """The hashes of some rows, and where they are from."""
        names = self.columns or tuple(name for name in rows.columns if name in rows.about)
        # by value: 7.2 is 7.20
        arrays = [_by_value(rows, name) for name in names]
        return (*row_hashes(arrays), rows.source.astype(np.int32), rows.row)

    def begin(self) -> _Hashes:
        """A state that has seen nothing."""
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
