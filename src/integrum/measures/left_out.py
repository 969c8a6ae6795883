"""Rows that are not in the table for the part that they are: in the record, and a problem where they look like data."""

from __future__ import annotations

import csv
from collections.abc import Iterable, Iterator, Mapping, Sequence
from itertools import groupby, islice
from typing import NamedTuple

from integrum.detecting.dialect import Marks
from integrum.detecting.footers import tables_in
from integrum.detecting.sample import Row
from integrum.detecting.statistics import above_in_source
from integrum.detecting.vocabulary import leading
from integrum.dispatch.failing import of_source
from integrum.dispatch.job import Looked, State
from integrum.intake.judging import Judged, Likeness, tables_above
from integrum.measures.measure import Context, Measure, Recalled, Rows, TableBatch
from integrum.measures.tables import LEFT_OUT
from integrum.problems.problem import Problem, SourceFault
from integrum.reading.head import Head, read_above
from integrum.reading.parts import BESIDE, SET_ASIDE, LeftOutRow, Part

LIKE_DATA, TOTAL = "left-out-like-data", "total-in-table"
SECOND, TURNED = "second-table", "table-on-its-side"
# what is told of them: a run that takes rows over has it from the record
TOLD = frozenset({LIKE_DATA, TOTAL, SECOND, TURNED})
# this many rows above the data of one source are handed on at once
_TOGETHER = 5_000
# this many rows beside the table of a sheet are looked at
_MOST_BESIDE = 400


class LeftOut(NamedTuple):
    """The left-out rows of a job."""

    first: int  # the number of its first source
    entries: Sequence[LeftOutRow]  # the rows, in the order of their places
    judged: Sequence[Judged] = ()  # which of them read like the data, for each family
    told: Mapping[int, Sequence[Problem]] = {}  # of sources that are taken over: what was said of them


class LeftOutProblems(State[LeftOut]):
    """Writes left-out rows to the record in order, and counts those that look like data."""

    def __init__(self, context: Context, hands_on: bool) -> None:
        self._context, self._keep = context, context.keep.left_out
        self._next, self._end = 0, len(context.summaries) if hands_on else 0
        self._like: dict[int, dict[Part, tuple[int, LeftOutRow]]] = {}
        self._told: dict[int, Sequence[Problem]] = {}
        self._likeness: tuple[int, Likeness] | None = None
        self._totals: dict[int, tuple[int, int, str]] = {}
        self._tables: dict[int, list[tuple[int, int]]] = {}
        self._turned: set[int] = set()
        self._apart: dict[tuple[int, int], bool] = {}

    def add(self, seen: LeftOut) -> None:
        """Add the counts of one job."""
        self._up_to(seen.first)
        for number, some in groupby(seen.entries, key=lambda one: one.source):
            self._up_to(number + 1)
            self._keep(list(some))
        self._told |= seen.told
        for judged in seen.judged:
            self._count(judged.like_data)
            self._count(one for one, cells in judged.open if self._reads_like_data(one, cells))
            self._count(one for one, cells in judged.summing if self._is_no_statistic(one, cells))
            for source, row, cell in judged.totals:
                count, first, said = self._totals.get(source, (0, row, cell))
                self._totals[source] = (count + 1, first, said)
            for source, first_row, last_row in judged.tables:
                self._tables.setdefault(source, []).append((first_row, last_row))
            for place, empty in judged.apart.items():
                self._apart[place] = self._apart.get(place, True) and empty
            self._turned.update(judged.turned)
            if judged.last:
                self._likeness = judged.last

    def finish(self) -> None:
        """Write the rows above the data of sources without rows."""
        self._up_to(self._end)

    def _reads_like_data(self, one: LeftOutRow, cells: Sequence[str]) -> bool:
        """Whether a row looks like the data that its source had in the job before."""
        return bool(
            self._likeness and self._likeness[0] == one.source and self._likeness[1].fits(cells, one.part)
        )

    def _is_no_statistic(self, one: LeftOutRow, cells: Sequence[str]) -> bool:
        """Whether the numbers of a footer row are not the statistic that its first word names."""
        intake = self._context.matched.intake
        source, layout = intake.sources[one.source], intake.layouts[one.source]
        try:
            numbers = above_in_source(source, layout, Marks(layout.decimal_mark, layout.thousands_mark))
        except SourceFault:  # it is told when its rows are read
            return False
        return numbers.compared(cells) is False

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
        yield from self._second_tables(number)
        if number in self._turned:
            yield Problem.of(
                TURNED,
                name,
                message="the variables stand in rows, and each column is a sample: the table lies on its side",
                hint="to turn it, set on_its_side = true in the layout",
            )
        if number in self._totals:
            count, row, cell = self._totals[number]
            yield Problem.of(
                TOTAL,
                name,
                row,
                "",
                cell,
                count,
                "begins like a total, and is in the table as a row of data",
                f'to leave such rows out, set comment_mark = "{leading(cell)}" in the layout',
            )

    def _second_tables(self, number: int) -> Iterator[Problem]:
        """Tables above, below and beside that of a source."""
        head, summary = self._context.matched.intake.heads[number], self._context.summaries[number]
        if not isinstance(head, Head) or not summary.is_assembled or number in self._told:
            return
        above = [(first.number, last.number) for first, last in tables_above(head)]
        for first, last in (*above, *self._tables.get(number, ())):
            is_above = first < head.first_row
            yield Problem.of(
                SECOND,
                summary.source,
                first,
                count=last - first + 1,
                message=f"another table {'above' if is_above else 'below'} the one that is read, in rows {first:,} to "
                f"{last:,}; its rows are left out",
                hint=f"to have it instead, set header_row = {first} and last_row = {last} in the layout"
                if is_above
                else f"to have it instead, set header_row = {first} in the layout, and no footer_from",
            )
        if self._end:  # a survey has told of it where it guessed the layout
            yield from self._beside(number)
        for source, at in self._apart:
            if source == number and self._apart[source, at]:
                yield Problem.of(
                    SECOND,
                    summary.source,
                    head.header_row or None,
                    head.header.names[at],
                    message="an empty column without a name stands here: are these two tables side by side?",
                    hint="if they are, take their columns into two plans",
                )

    def _beside(self, number: int) -> Iterator[Problem]:
        """Tables among the cells beside that of a sheet."""
        cells = islice(self._context.matched.intake.sources[number].cells_beside(), _MOST_BESIDE)
        rows = [Row(row, next(csv.reader([raw]), [])) for row, raw in cells]
        for first, last in tables_in(rows):
            yield Problem.of(
                SECOND,
                self._context.summaries[number].source,
                first.number,
                count=last.number - first.number + 1,
                message=f"another table beside this one, in rows {first.number:,} to {last.number:,}, is left out",
                hint="to have it instead, set first_column and last_column in the layout",
            )

    def _up_to(self, number: int) -> None:
        """Write the rows above the data of all sources before this one, once."""
        intake = self._context.matched.intake
        for each in range(self._next, number):
            head = intake.heads[each]
            if not self._context.summaries[each].is_assembled:
                self._keep([LeftOutRow(each, None, SET_ASIDE, "")])
            elif each not in intake.reuse.sources and isinstance(head, Head):
                with of_source(each):
                    self._hand_on(each, head)
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
    """What a run and a survey share."""

    hands_on = True

    def begin(self, context: Context) -> LeftOutProblems:
        """Nothing is left out yet."""
        return LeftOutProblems(context, self.hands_on)

    def recall(self, earlier: Recalled) -> LeftOut:
        """The entries of the record, and what was said of them."""
        told = {
            number: [one for one in earlier.problems(number) if one.code in TOLD] for number in earlier.was
        }
        return LeftOut(earlier.first, list(earlier.entries(LEFT_OUT)), (), told)


class LeftOutRows(_LeftOut[TableBatch]):
    """The measure of the rows that are not in the table."""

    def look(self, rows: TableBatch) -> LeftOut:
        """Those of a job."""
        return LeftOut(rows.first, rows.left_out, [one.judged for one in rows.families])


class JudgedRows(_LeftOut[Looked]):
    """The measure of left-out rows that look like data, for a survey."""

    hands_on = False

    def look(self, rows: Looked) -> LeftOut:
        """They were judged when they were parsed."""
        return LeftOut(0, (), [one.judged for one in rows.families])


LEFT, JUDGED = LeftOutRows(), JudgedRows()
