"""The engine: each source once through inspection, admission and the workers. A survey and a run both stand on it."""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Executor
from contextlib import AbstractContextManager
from dataclasses import replace
from pathlib import Path
from typing import Any, NamedTuple

from integrum.columns.expectation import against_expectation
from integrum.dispatch.failing import Failed, SourcesFailed
from integrum.dispatch.feed import Feed, Ledgers
from integrum.dispatch.job import Job, Task, TaskResult
from integrum.dispatch.progress import RunProgress
from integrum.dispatch.spreading import Dispatcher
from integrum.intake.judging import header_above
from integrum.intake.ledger import about_rows, broken_law, check_total
from integrum.intake.matched import Matched
from integrum.intake.siblings import about_columns, about_headers, unlike_siblings
from integrum.problems.problem import Problem, SourceFault
from integrum.reading.head import Head
from integrum.reading.parts import BLANK, FOOTER, LeftOutRow
from integrum.reading.pieces import Piece
from integrum.workers.pool import workers_of
from integrum.workers.progress import Watch

_log = logging.getLogger(__name__)

# this many lines right above a header may be data that a guess has cut off
_LINES_ABOVE = 2

_TELL = "this is a bug in Integrum; please report it"
_HEADER_ABOVE = Problem.of(
    "header-in-preamble",
    message="this line above the data looks like the header; the columns are named by position instead",
    hint='set header_row in the layout, and short_rows = "pad" if rows may end early',
)
_TWO_HEADERS = Problem.of(
    "header-in-preamble",
    message="this line right above the header looks like the header",
    hint="if it is, set header_row in the layout, and describing_rows for the rows below it",
)
_NUL = Problem.of(
    "nul-bytes",
    message="the text has NUL characters, which rarely belong there; they are in the table",
    hint="was the file written by a device that lost power? get a new copy",
)
_MISREAD = Problem.of(
    "text-misread",
    message="these letters look like UTF-8 that was read in another encoding; they are in the table as they are",
    hint="get the file as it was first written; if it was never UTF-8, this is not a problem",
)


class FoundBySource(NamedTuple):
    """The problems that do not come from measures."""

    of_all: Sequence[Problem]  # about the search and the columns
    # of each source: what was told before its rows were looked at, and after
    of_sources: Sequence[tuple[Sequence[Problem], Sequence[Problem]]]


class Engine:
    """Takes sources through inspection, admission and the workers, and keeps their ledgers.

    Parameters
    ----------
    executor
        Where the work is done; results come in order whichever it is.
    watch
        Is called with the name of the source at hand, the bytes done and the bytes in all.
    in_flight
        Bytes of sources that may be under work at one time; 0: one piece for each worker, and one more.
    folder
        A folder that all workers reach, where they are other processes and there is one.
    in_files
        Whether workers write finished files, which then have the same rows whatever does the work.

    Attributes
    ----------
    summaries
        What became of each source.
    inspections
        What the inspection of each source found.
    """

    def __init__(
        self,
        matched: Matched,
        executor: Executor,
        watch: Watch | None = None,
        in_flight: int = 0,
        folder: Path | None = None,
        in_files: bool = False,
    ) -> None:
        self._matched, self._intake = matched, matched.intake
        self._spread = Dispatcher(executor, folder, in_files, in_flight)
        self._total = sum(source.size for source in self._intake.sources)
        self._progress = RunProgress(self._total, workers_of(executor) if self._spread.is_far else 0, watch)
        self._begun: set[int] = set()
        self._ledgers = Ledgers(matched)
        self.summaries, self.inspections = self._ledgers.summaries, self._ledgers.inspections
        self.tell = self._ledgers.tell

    def results(self, begin: Callable[[], AbstractContextManager[Any]]) -> Iterator[TaskResult]:
        """Do the work on all rows that come in.

        Yields what came back, in order.

        Raises SourcesFailed when sources fail that came in already; see `integrum.dispatch.failing`.

        `begin`: opens a worker; for processes it must be importable.
        """
        spread = self._spread
        feed = Feed(
            self._matched,
            self._ledgers,
            self._progress,
            spread.executor,
            spread.room,
            not spread.in_stretches,
        )
        tasks = (self._task(output, pieces) for output, pieces in feed.pieces())
        failed: dict[int, SourceFault] = {}
        sent = map(self._progress.sent, tasks)
        families = self._matched.families
        for done in spread.results(sent, begin, families, self._total, self._progress.flying):
            self._progress.came(0 if isinstance(done, Failed) else done.read)
            if isinstance(done, Failed):
                failed |= done.faults
            elif not failed:  # else the rest is read only to know what else fails
                yield done
        if failed:
            raise SourcesFailed(failed)
        self._progress.end()

    def close(self, table_rows: int | None = None) -> FoundBySource:
        """Check that rows in are rows out, and give what was found about sources.

        Raises SourcesFailed when rows in are not rows out in a source. Raises LedgerError when the rows of the
        sources are not those of the table.

        `table_rows`: rows that came out; None when there is no table.
        """
        intake, problems = self._intake, self._ledgers.problems
        broken = {
            number: SourceFault("unforeseen", f"its rows do not add up: {wrong}", _TELL)
            for number, summary in enumerate(self.summaries)
            if (wrong := broken_law(summary, table_rows is not None))
        }
        if broken:
            raise SourcesFailed(broken)
        if table_rows is not None:
            check_total(self.summaries, table_rows)
        before = [len(some) for some in problems]
        for number, summary in enumerate(self.summaries):
            problems[number] += about_rows(summary, len(intake.again.get(number, ())))
            head = intake.heads[number]
            if summary.is_assembled and isinstance(head, Head) and (above := header_above(head)):
                row, raw = above
                self.tell(
                    number, replace(_TWO_HEADERS if head.header_row else _HEADER_ABOVE, row=row, raw=raw)
                )
            if number in intake.reuse.sources:
                self.tell(number, *intake.reuse.said_above(number))
            if number in self.inspections and self.inspections[number].nul:
                self.tell(number, _NUL)
            if number in self.inspections and (misread := self.inspections[number].misread):
                self.tell(number, replace(_MISREAD, row=misread[0], raw=misread[1]))
        for number, problem in unlike_siblings(self.summaries, self.inspections):
            self.tell(number, problem)
        of_all = (
            *intake.problems,
            *against_expectation(intake.plan, intake.sources, intake.identified),
            *about_columns(self._matched, self.summaries),
            *about_headers(self._matched, self.summaries),
        )
        return FoundBySource(
            of_all, tuple((some[:at], some[at:]) for some, at in zip(problems, before, strict=True))
        )

    def _task(self, output: str, pieces: Sequence[Any]) -> Task:
        if pieces[0].is_reused:
            return self._intake.reuse.task(pieces, output)  # type: ignore[no-any-return]
        intake, matched = self._intake, self._matched
        numbers = sorted({piece.source for piece in pieces})
        families = sorted({piece.family for piece in pieces})
        return Job(
            tuple(pieces),
            {number: matched.families[number] for number in families},
            {number: intake.sources[number] for number in numbers},
            {number: intake.layouts[number] for number in numbers},
            {number: self.summaries[number].label for number in numbers},
            {number: intake.identified[number].values for number in numbers},
            output,
            tuple(one for number in numbers for one in self._right_above(number)),
            self._goes_on(pieces[-1]),
            {number: intake.again[number] for number in numbers if number in intake.again},
        )

    def _goes_on(self, last: Piece) -> int:
        """The number of the source whose footer is still to come in later pieces; -1 where there is none."""
        seen = self.inspections[last.source]
        ends = not seen.again and seen.pieces[-1].first_row == last.first_row
        return -1 if ends or not seen.parts.get(FOOTER) else last.source

    def _right_above(self, number: int) -> Iterator[LeftOutRow]:
        """The header, the units and the last lines above them, of each source once."""
        head = self._intake.heads[number]
        if number in self._begun or not isinstance(head, Head):
            return
        self._begun.add(number)
        rows = [LeftOutRow(number, *row) for row in head.above or () if row[1] != BLANK]
        named = sum(one.part.says_columns for one in rows)
        yield from rows[max(0, len(rows) - named - _LINES_ABOVE) :]
