"""The engine: each source once through inspection, admission and the workers. A survey and a run both stand on it."""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import Executor
from contextlib import AbstractContextManager
from dataclasses import replace
from itertools import chain
from pathlib import Path
from typing import Any

from integrum.columns.binding import Binding, Bound
from integrum.columns.expectation import against_expectation
from integrum.dispatch.failing import Failed, SourcesFailed
from integrum.dispatch.feed import Advance, feed
from integrum.dispatch.job import Done, Job, State, Task, TaskPiece
from integrum.dispatch.spreading import Spread
from integrum.errors import StoppedAtFirst
from integrum.intake.admission import Admission
from integrum.intake.inspecting import Candidate, Inspection, pieces_of
from integrum.intake.intake import CannotTake
from integrum.intake.judging import header_above
from integrum.intake.ledger import SourceSummary, about_rows, broken_law, check_total
from integrum.intake.matched import Matched, summary_of
from integrum.intake.siblings import about_columns, about_headers, unlike_siblings
from integrum.problems.problem import Problem, SourceFault
from integrum.reading.head import Head
from integrum.reading.parts import BLANK, FOOTER, LeftOutRow
from integrum.reading.pieces import Piece
from integrum.workers.pool import workers_of
from integrum.workers.progress import Watch

_log = logging.getLogger(__name__)

# so many lines right above a header may be data that a guess has cut off
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
        self._spread = Spread(executor, folder, in_files, in_flight)
        self._total = sum(source.size for source in self._intake.sources)
        self._advance = Advance(self._total, workers_of(executor) if self._spread.is_far else 0, watch)
        self._begun: set[int] = set()
        self.summaries = [summary_of(matched, number) for number in range(len(self._intake.sources))]
        self.inspections: dict[int, Inspection] = {}
        self._problems: list[list[Problem]] = [[] for _ in self._intake.sources]
        self._admission = Admission(self._intake.plan.rules.duplicates == "keep")

    def results(
        self, begin: Callable[[], AbstractContextManager[Any]], states: Sequence[State[Any]]
    ) -> Iterator[Done]:
        """Do the work on all rows that come in.

        Yields what came back, in order, after the states have taken it.

        Raises SourcesFailed when sources fail that came in already; see `integrum.dispatch.failing.carry_on`.

        Parameters
        ----------
        begin
            Opens a worker; for processes it must be importable.
        states
            Take what the measures of the worker have seen, in their order.
        """
        candidates = [self._candidate(number) for number in range(len(self._intake.sources))]
        outputs = self._intake.outputs
        tasks = (
            self._task(output, pieces)
            for output, pieces in feed(
                candidates,
                self._known,
                self._pieces,
                self._enter,
                self._spread.executor,
                self._spread.room,
                outputs.__getitem__ if outputs else lambda _: "",
                self._advance.at,
            )
        )
        failed: dict[int, SourceFault] = {}
        sent = map(self._advance.sent, tasks)
        families = self._matched.families
        for done in self._spread.results(sent, begin, families, self._total, self._advance.flying):
            self._advance.came(0 if isinstance(done, Failed) else done.read)
            if isinstance(done, Failed):
                failed |= done.faults
            elif not failed:  # else the rest is read only to know what else fails
                for state, seen in zip(states, done.seen, strict=True):
                    state.add(seen)
                yield done
        if failed:
            raise SourcesFailed(failed)
        self._advance.end()
        for state in states:
            state.finish()

    def close(self, states: Iterable[State[Any]], table_rows: int | None = None) -> Iterator[Problem]:
        """Check that rows in are rows out, and give all that was found.

        Returns what concerns the search first, then source by source, then of the table as a whole.

        Raises SourcesFailed when rows in are not rows out in a source. Raises LedgerError when the rows of the
        sources are not those of the table.

        `table_rows`: rows that came out; None when there is no table.
        """
        intake = self._intake
        broken = {
            number: SourceFault("unforeseen", f"its rows do not add up: {wrong}", _TELL)
            for number, summary in enumerate(self.summaries)
            if (wrong := broken_law(summary, table_rows is not None))
        }
        if broken:
            raise SourcesFailed(broken)
        if table_rows is not None:
            check_total(self.summaries, table_rows)
        before = [len(some) for some in self._problems]
        for number, summary in enumerate(self.summaries):
            self._problems[number] += about_rows(summary, len(intake.again.get(number, ())))
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
        of_all = [
            *intake.problems,
            *against_expectation(intake.plan, intake.sources, intake.identified),
            *about_columns(self._matched, self.summaries),
            *about_headers(self._matched, self.summaries),
        ]
        return chain(
            of_all, self._by_source(before, states), (one for state in states for one in state.findings())
        )

    def _by_source(self, before: Sequence[int], states: Iterable[State[Any]]) -> Iterator[Problem]:
        """What was found in each source: what was told before its rows, of its rows, and then."""
        telling = [state for state in states if type(state).problems is not State.problems]
        for number, (some, at) in enumerate(zip(self._problems, before, strict=True)):
            yield from some[:at]
            for state in telling:
                yield from state.problems(number)
            yield from some[at:]

    def tell(self, number: int, *problems: Problem) -> None:
        """Note what is to be said about a source."""
        name = self._intake.sources[number].name
        self._problems[number] += [replace(problem, source=name) for problem in problems]

    def _candidate(self, number: int) -> Candidate:
        intake, family = self._intake, self._matched.family(number)
        prove: tuple[Binding, ...] = ()
        if family:
            prove = tuple(one for one in family.bound.bindings if one.bad_values == "set-source-aside")
        return Candidate(
            intake.sources[number],
            number,
            self._matched.family_of[number],
            intake.heads[number],
            intake.layouts[number],
            prove,
            family.bound.wide if family and prove else None,
            not self._spread.in_stretches,
        )

    def _known(self, one: Candidate) -> Inspection | None:
        """What a survey or an earlier run found, as it stands in this run."""
        if one.number in self._intake.reuse.sources:
            return self._intake.reuse.inspection(one.number)
        learned = self._matched.learned.get(one.number)
        if learned is None or one.prove:
            return None
        seen = learned.inspection
        pieces = tuple(replace(piece, source=one.number, family=one.family) for piece in seen.pieces)
        return replace(seen, source=one.number, pieces=pieces)

    def _enter(self, one: Candidate, seen: Inspection) -> bool:
        """Enter what the inspection found; whether the source comes into the table."""
        number, summary = one.number, self.summaries[one.number]
        summary.content, summary.size, summary.is_closed = seen.content, seen.size, seen.ends_closed
        summary.ledger.rows = seen.rows
        for part, count in seen.parts.items():
            summary.ledger.add(part, count)
        self.inspections[number] = seen.without_texts()
        self._advance.entered(number, one.source.size, seen.size)
        identified, family = self._intake.identified[number], self._matched.family(number)
        bound = family.bound if family else None
        reason, problems = self._admission.decide(one.source, seen, bound, identified)
        if reason and number in self._intake.reuse.sources:
            raise CannotTake(f"{one.source.name} would be set aside now ({reason})")
        self.tell(number, *identified.problems, *self._about_header(number, bound), *problems)
        if not reason:
            _log.debug("read: %s, %s rows", one.source.name, f"{seen.rows:,}")
        else:
            _log.info("set aside: %s (%s)", one.source.name, reason)
            self._advance.without(one.source.size)
            summary.set_aside(reason)
            if self._intake.stop_at_first:
                raise _stopped(summary, self._problems[number])
        return not reason

    def _about_header(self, number: int, bound: Bound | None) -> list[Problem]:
        """What the binding found; where no cell is a column, with the row that should be the header."""
        head = self._intake.heads[number]
        if bound is None or not isinstance(head, Head):
            return []
        return [
            replace(
                one,
                row=head.header_row,
                message=f"row {head.header_row:,} should be the header, but {one.message}",
            )
            if one.code == "header-not-found" and head.header_row
            else one
            for one in bound.problems
        ]

    def _pieces(self, one: Candidate, seen: Inspection) -> Iterable[TaskPiece]:
        """Where the rows of a source are: in the source, or in an earlier output."""
        if one.number in self._intake.reuse.sources:
            return self._intake.reuse.pieces(one.number)
        return seen.pieces if self._spread.in_stretches else pieces_of(one, seen)

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
        """The source of a piece, when more of its pieces follow, with a footer in them."""
        seen = self.inspections[last.source]
        ends = not seen.again and seen.pieces[-1].first_row == last.first_row
        return -1 if ends or not seen.parts.get(FOOTER) else last.source

    def _right_above(self, number: int) -> Iterator[LeftOutRow]:
        """The header, the units and the last lines above them, once for each source."""
        head = self._intake.heads[number]
        if number in self._begun or not isinstance(head, Head):
            return
        self._begun.add(number)
        rows = [LeftOutRow(number, *row) for row in head.above or () if row[1] != BLANK]
        named = sum(one.part.says_columns for one in rows)
        yield from rows[max(0, len(rows) - named - _LINES_ABOVE) :]


def _stopped(summary: SourceSummary, problems: Sequence[Problem]) -> StoppedAtFirst:
    """Say at which source the run stops, and why."""
    why = next((one for one in problems if one.code == summary.reason), None)
    said = f"{why} ({why.hint})" if why else f"{summary.source} would be set aside [{summary.reason}]"
    return StoppedAtFirst(f"stopped at the first source that would be set aside; nothing was written: {said}")
