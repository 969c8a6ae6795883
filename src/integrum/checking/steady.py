"""A time that goes on in even steps, within each group."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from integrum.checking.kind import CheckState, Kind
from integrum.checking.rows import TableRows
from integrum.checking.time_steps import length_of, shown, steps_of
from integrum.engine.ledger import SourceSummary
from integrum.plan.check import Check
from integrum.plan.spans import Span, span_of
from integrum.problems import Problem

Group = tuple[str, ...]


class Times(NamedTuple):
    """The times of a group in a source: the first and the last with their rows, and the steps that are not even."""

    first: float
    first_row: int
    last: float
    last_row: int
    wrong: int
    before: float
    after: float
    row: int


@dataclass(frozen=True)
class Steady(Kind):
    """The check that a plan describes: the column, the groups, and the step."""

    column: str
    within: tuple[str, ...]
    span: Span
    said: str

    def look(self, rows: TableRows) -> dict[tuple[int, Group], Times]:
        """The times of some rows, by source and group."""
        times = rows.numbers(self.column)
        groups, names = rows.groups(self.within)
        there = np.flatnonzero(~np.isnan(times))
        order = there[np.lexsort((there, groups[there], rows.source[there]))]
        if not len(order):
            return {}
        source, group, time, row = rows.source[order], groups[order], times[order], rows.row[order]
        starts = np.flatnonzero(np.append(True, (np.diff(source) != 0) | (np.diff(group) != 0)))
        ends = np.append(starts[1:], len(order))
        uneven = np.append(False, steps_of(time, self.span) != (self.span.micros or self.span.months))
        uneven[starts] = False
        counts = np.add.reduceat(uneven, starts, dtype=np.int64)
        found = {}
        for start, end, count in zip(starts.tolist(), ends.tolist(), counts.tolist(), strict=True):
            at = start + int(np.argmax(uneven[start:end])) if count else start
            found[int(source[start]), names[int(group[start])]] = Times(
                float(time[start]),
                int(row[start]),
                float(time[end - 1]),
                int(row[end - 1]),
                count,
                float(time[at - 1]) if count else 0.0,
                float(time[at]),
                int(row[at]),
            )
        return found

    def begin(self) -> _Runs:
        """A state that has seen nothing."""
        return _Runs(self)

    def is_even(self, before: float, after: float) -> bool:
        """Whether from one time to another it is one step."""
        step = steps_of(np.array([before, after]), self.span)[0]
        return bool(step == (self.span.micros or self.span.months))


class _Runs(CheckState):
    """The runs of each source and group; bounded by how many of these there are."""

    def __init__(self, of: Steady) -> None:
        self._of = of
        self._found: dict[tuple[int, Group], Times] = {}

    def add(self, seen: dict[tuple[int, Group], Times]) -> None:
        for key, run in seen.items():
            before = self._found.get(key)
            self._found[key] = self._joined(before, run) if before else run

    def _joined(self, one: Times, other: Times) -> Times:
        even = self._of.is_even(one.last, other.first)
        firsts = [(each.before, each.after, each.row) for each in (one, other) if each.wrong]
        if not even:
            firsts.insert(1 if one.wrong else 0, (one.last, other.first, other.first_row))
        before, after, row = firsts[0] if firsts else (one.before, one.after, one.row)
        wrong = one.wrong + other.wrong + (not even)
        return Times(one.first, one.first_row, other.last, other.last_row, wrong, before, after, row)

    def findings(self, sources: Sequence[SourceSummary]) -> Iterator[Problem]:
        last: dict[Group, Times] = {}
        for (number, group), run in sorted(self._found.items()):
            if (earlier := last.get(group)) and not self._of.is_even(earlier.last, run.first):
                wrong = run.wrong + 1
                run_ = run._replace(wrong=wrong, before=earlier.last, after=run.first, row=run.first_row)
            else:
                run_ = run
            last[group] = run
            if run_.wrong:
                yield self._problem(sources[number].source, group, run_)

    def _problem(self, source: str, group: Group, run: Times) -> Problem:
        of = self._of
        where = f" ({', '.join(group)})" if any(group) else ""
        step = run.after - run.before
        said = "the same time again" if not step else "back in time" if step < 0 else "not a whole step"
        far = f", {length_of(int(abs(step)))}" if step and of.span.micros else ""
        return Problem.of(
            "time-not-steady",
            source,
            run.row,
            of.column,
            count=run.wrong,
            message=f"not in steps of {of.said}{where}: from {shown(run.before)} to {shown(run.after)}{far}, {said}",
            hint="are rows or sources missing, duplicate or out of order?",
        )


def steady(check: Check) -> Steady:
    """The check that a plan describes."""
    span = span_of(check.steady)
    assert span is not None
    return Steady(check.column, tuple(check.within), span, check.steady)
