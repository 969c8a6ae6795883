"""Sources that follow one another in time: without an overlap, and without too long a gap."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from integrum.checking.kind import CheckState, Kind
from integrum.checking.rows import TableRows
from integrum.checking.time_steps import length_of, shown, steps_of
from integrum.engine.ledger import SourceSummary
from integrum.plan.check import Check
from integrum.plan.spans import Span, span_of
from integrum.problems import Problem

Group = tuple[str, ...]
Reach = tuple[float, float]


@dataclass(frozen=True)
class Follow(Kind):
    """The check that a plan describes: the column, the groups, and the longest gap."""

    column: str
    within: tuple[str, ...]
    span: Span
    said: str

    def look(self, rows: TableRows) -> dict[tuple[Group, int], Reach]:
        """The first and the last time of some rows, by group and source."""
        times = rows.numbers(self.column)
        groups, names = rows.groups(self.within)
        there = np.flatnonzero(~np.isnan(times))
        if not len(there):
            return {}
        order = there[np.lexsort((groups[there], rows.source[there]))]
        source, group, time = rows.source[order], groups[order], times[order]
        starts = np.flatnonzero(np.append(True, (np.diff(source) != 0) | (np.diff(group) != 0)))
        low, high = np.minimum.reduceat(time, starts), np.maximum.reduceat(time, starts)
        return {
            (names[int(group[at])], int(source[at])): (float(one), float(two))
            for at, one, two in zip(starts.tolist(), low, high, strict=True)
        }

    def begin(self) -> _Reaches:
        """A state that has seen nothing."""
        return _Reaches(self)


class _Reaches(CheckState):
    """From when to when each source goes; bounded by how many sources and groups there are."""

    def __init__(self, of: Follow) -> None:
        self._of = of
        self._found: dict[tuple[Group, int], Reach] = {}

    def add(self, seen: dict[tuple[Group, int], Reach]) -> None:
        for key, (low, high) in seen.items():
            before = self._found.get(key, (low, high))
            self._found[key] = (min(low, before[0]), max(high, before[1]))

    def findings(self, sources: Sequence[SourceSummary]) -> Iterator[Problem]:
        of, most = self._of, self._of.span.micros or self._of.span.months
        in_order = sorted((group, low, number, high) for (group, number), (low, high) in self._found.items())
        # of the sources so far in the group the one that goes on longest
        ahead: tuple[Group, float, int] | None = None
        for group, low, number, high in in_order:
            if ahead and ahead[0] == group:
                name, where = sources[ahead[2]].source, f" ({', '.join(group)})" if any(group) else ""
                if low <= ahead[1]:
                    yield Problem.of(
                        "sources-overlap",
                        sources[number].source,
                        column=of.column,
                        message=f"begins at {shown(low)}{where}, before the end of {name} at {shown(ahead[1])}",
                        hint="do the files overlap? keep one of them, or remove the duplicate rows",
                    )
                elif steps_of(np.array([ahead[1], low]), of.span)[0] > most:
                    yield Problem.of(
                        "gap-between-sources",
                        sources[number].source,
                        column=of.column,
                        message=f"begins at {shown(low)}{where}, {length_of(int(low - ahead[1]))} after the end of {name} "
                        f"at {shown(ahead[1])}; at most {of.said} is allowed",
                        hint="is a source missing?",
                    )
            if ahead is None or ahead[0] != group or high > ahead[1]:
                ahead = (group, high, number)


def follow(check: Check) -> Follow:
    """The check that a plan describes."""
    span = span_of(check.follow)
    assert span is not None
    return Follow(check.column, tuple(check.within), span, check.follow)
