"""Rows that are not in the table for the part that they are: in the record, and a problem where they look like data."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import partial
from itertools import groupby
from typing import NamedTuple

from integrum.engine.failing import of_source
from integrum.engine.job import Looked
from integrum.engine.judging import Judged, Likeness
from integrum.engine.state import State
from integrum.measures.measure import Context, Made, Measure, Recalled, Rows
from integrum.measures.tables import LEFT_OUT
from integrum.problems import Problem
from integrum.reading.head import Head, read_above
from integrum.reading.left_out import LeftOutRow
from integrum.reading.parts import BESIDE, SET_ASIDE, Part

LIKE_DATA = "left-out-like-data"
# so many rows above the data of one source are handed on at once
_TOGETHER = 5_000


class LeftOut(NamedTuple):
    """What a task has of it."""

    first: int  # the number of its first source
    entries: Sequence[LeftOutRow]  # the rows, in the order of their places
    judged: Sequence[Judged] = ()  # which of them read like the data, for each family
    told: Mapping[int, Sequence[Problem]] = {}  # of sources that are taken over: what was said of them


class LeftOutProblems(State[LeftOut]):
    """Hands the rows on, those above the data of a source first, and counts those that read like the data."""

    def __init__(self, context: Context, hands_on: bool) -> None:
        self._context, self._keep = context, context.keep.left_out
        self._next, self._end = 0, len(context.summaries) if hands_on else 0
        self._like: dict[int, dict[Part, tuple[int, LeftOutRow]]] = {}
        self._told: dict[int, Sequence[Problem]] = {}
        self._likeness: tuple[int, Likeness] | None = None

    def add(self, seen: LeftOut) -> None:
        """Take those of a task."""
        self._up_to(seen.first)
        for number, some in groupby(seen.entries, key=lambda one: one.source):
            self._up_to(number + 1)
            self._keep(list(some))
        self._told |= seen.told
        for judged in seen.judged:
            self._count(judged.like_data)
            self._count(one for one, cells in judged.open if self._reads_like_data(one, cells))
            if judged.last:
                self._likeness = judged.last

    def finish(self) -> None:
        """Hand on what stands above the data of sources that have no rows."""
        self._up_to(self._end)

    def _reads_like_data(self, one: LeftOutRow, cells: Sequence[str]) -> bool:
        """Whether a row reads like the data that its source had in the job before."""
        return bool(
            self._likeness and self._likeness[0] == one.source and self._likeness[1].fits(cells, one.part)
        )

    def _count(self, entries: Iterable[LeftOutRow]) -> None:
        for one in entries:
            parts = self._like.setdefault(one.source, {})
            count, first = parts.get(one.part, (0, one))
            parts[one.part] = (count + 1, first)

    def problems(self, number: int) -> Iterator[Problem]:
        """The rows of a source that look like data, by the part that they were taken for."""
        yield from self._told.get(number, ())
        name = self._context.summaries[number].source
        for part, (count, first) in self._like.get(number, {}).items():
            yield Problem.of(LIKE_DATA, name, first.row, "", first.raw, count, part.like_data, part.hint)

    def _up_to(self, number: int) -> None:
        """Hand on the rows above the data of all sources before this one, once."""
        intake = self._context.matched.intake
        for each in range(self._next, number):
            head = intake.heads[each]
            if not self._context.summaries[each].is_assembled:
                self._keep([LeftOutRow(each, None, SET_ASIDE, "")])
            elif each not in intake.reuse.sources and isinstance(head, Head):
                of_source(each, partial(self._hand_on, each, head))
        self._next = max(self._next, number)

    def _hand_on(self, number: int, head: Head) -> None:
        intake = self._context.matched.intake
        source = intake.sources[number]
        beside = [LeftOutRow(number, row, BESIDE, raw) for row, raw in source.cells_beside()]
        if beside:
            self._keep(beside)
        if head.above is not None:
            self._keep([LeftOutRow(number, *row) for row in head.above if row[1].is_kept])
            return
        waiting: list[LeftOutRow] = []

        def take(row: int, part: Part, text: str) -> None:
            if part.is_kept:
                waiting.append(LeftOutRow(number, row, part, text))
            if len(waiting) >= _TOGETHER:
                self._keep(list(waiting))
                waiting.clear()

        read_above(source, intake.layouts[number], take)
        self._keep(waiting)


class _LeftOut(Measure[Rows, LeftOut, LeftOutProblems]):
    """What a run and a survey have in common."""

    hands_on = True

    def begin(self, context: Context) -> LeftOutProblems:
        """Nothing is left out yet."""
        return LeftOutProblems(context, self.hands_on)

    def recall(self, earlier: Recalled) -> LeftOut:
        """The entries of the record, and what was said of them."""
        told = {
            number: [one for one in earlier.problems(number) if one.code == LIKE_DATA]
            for number in earlier.was
        }
        return LeftOut(earlier.first, list(earlier.entries(LEFT_OUT)), (), told)


class LeftOutRows(_LeftOut[Made]):
    """The rows that are not in the table."""

    def look(self, rows: Made) -> LeftOut:
        """Those of a job."""
        return LeftOut(rows.first, rows.left_out, [one.judged for one in rows.families])


class JudgedRows(_LeftOut[Looked]):
    """Which of them read like the data; a survey wants to know no more."""

    hands_on = False

    def look(self, rows: Looked) -> LeftOut:
        """They were judged when they were parsed."""
        return LeftOut(0, (), [one.judged for one in rows.families])


LEFT, JUDGED = LeftOutRows(), JudgedRows()
