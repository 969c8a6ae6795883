"""Checks of single values: which are wrong is told from a batch alone; they are counted by source."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from integrum.arrow.arrays import Mask, ints
from integrum.checking.kind import CheckState, Kind
from integrum.checking.rows import TableRows
from integrum.engine.ledger import SourceSummary
from integrum.problems import Problem

# the number of a source, how many of its values are wrong, the row of the first one, and that value
Wrong = tuple[int, int, int, str]


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
        """A state that has seen nothing."""
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
