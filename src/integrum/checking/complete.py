"""All combinations of the values of some columns."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import product

from integrum.checking.kind import CheckState, Kind
from integrum.checking.rows import TableRows
from integrum.engine.ledger import SourceSummary
from integrum.plan.check import Check
from integrum.problems import Problem

_MOST = 1_000_000
_NAMED = 3
Combination = tuple[str, ...]
Seen = tuple[list[Combination], dict[str, list[str]]]


@dataclass(frozen=True)
class Complete(Kind):
    """The check that a plan describes: the columns, and by column the values that there should be."""

    columns: tuple[str, ...]
    values: Mapping[str, Sequence[str]]

    def look(self, rows: TableRows) -> Seen:
        """The combinations that some rows have, and the values that there should be, as they are written there."""
        wanted = {name: rows.wanted(name, values).to_pylist() for name, values in self.values.items()}
        return rows.groups(self.columns)[1], wanted

    def begin(self) -> _Combinations:
        """A state that has seen nothing."""
        return _Combinations(self)


class _Combinations(CheckState):
    def __init__(self, of: Complete) -> None:
        self._of = of
        self._there: dict[Combination, None] = {}
        self._wanted: Mapping[str, Sequence[str]] = of.values

    def add(self, seen: Seen) -> None:
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
