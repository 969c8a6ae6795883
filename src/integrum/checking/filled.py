"""The share of filled cells of a column."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from integrum.arrow.arrays import truths
from integrum.checking.kind import CheckState, Kind
from integrum.checking.rows import TableRows
from integrum.engine.ledger import SourceSummary
from integrum.plan.check import Check
from integrum.problems import Problem

_NAMED = 3


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
        """A state that has seen nothing."""
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
