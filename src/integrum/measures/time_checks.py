"""Checks of times: even steps, and sources that follow one another."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy import datetime64

from integrum.intake.ledger import SourceSummary
from integrum.measures.measure import CheckState, Kind, TableRows
from integrum.plan.check import Check
from integrum.plan.fields import Span, span_of
from integrum.problems.problem import Problem
from integrum.values.arrays import Floats, Ints

Group = tuple[str, ...]
Reach = tuple[float, float]


def steps_of(times: Floats, span: Span) -> Ints:
    """From each time to the next, in microseconds or in whole months.

    `times`: microseconds since 1970, none of them NaN.

    Examples
    --------
    >>> steps_of(np.array([0.0, 6e7]), Span(60_000_000, 0)).tolist()
    [60000000]
    """
    whole = times.astype(np.int64)
    return np.diff(
        whole if span.micros else whole.astype("datetime64[us]").astype("datetime64[M]").astype(np.int64)
    )


def shown(time: float) -> str:
    """A time for a message.

    Examples
    --------
    >>> shown(0.0), shown(6e7)
    ('1970-01-01', '1970-01-01 00:01')
    """
    text = str(datetime64(int(time), "us"))
    day, _, clock = text.partition("T")
    clock = clock.rstrip("0").rstrip(".") if "." in clock else clock
    if clock in ("", "00:00:00"):
        return day
    return f"{day} {clock.removesuffix(':00') if clock.count(':') == 2 else clock}"


def length_of(micros: int) -> str:
    """A length of time in its largest fitting unit.

    Examples
    --------
    >>> length_of(90 * 60_000_000), length_of(2 * 86_400_000_000), length_of(5)
    ('90 min', '2 d', '5e-06 s')
    """
    for unit, size in (("d", 86_400_000_000), ("h", 3_600_000_000), ("min", 60_000_000)):
        if micros % size == 0:
            return f"{micros // size:,} {unit}"
    return f"{micros / 1_000_000:,g} s"


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
        """Give a fresh state."""
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
        """Give a fresh state."""
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
