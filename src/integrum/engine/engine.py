"""The engine: each source once through inspection, admission and the workers. A survey and a run both stand on it."""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from concurrent.futures import Executor
from contextlib import AbstractContextManager
from dataclasses import replace
from itertools import chain
from pathlib import Path
from typing import Any, TypeVar

from integrum.columns.binding import Binding, Bound
from integrum.engine.admission import Admission
from integrum.engine.advance import Advance
from integrum.engine.failing import Failed, SourcesFailed
from integrum.engine.feed import feed
from integrum.engine.inspecting import Candidate, Inspection, pieces_of
from integrum.engine.intake import Intake, Learned
from integrum.engine.job import Job, Worked
from integrum.engine.judging import Likeness, header_above
from integrum.engine.ledger import SourceSummary, about_rows, broken_law, check_total
from integrum.engine.presence import about_columns, not_common
from integrum.engine.siblings import about_headers, unlike_siblings
from integrum.engine.spreading import Spread
from integrum.engine.summaries import summary_of
from integrum.engine.taken import CannotTake, TakenJob, TakenPiece
from integrum.engine.tally import Tally
from integrum.engine.trust import with_seen
from integrum.engine.variants import Family, families_of, variants_of
from integrum.errors import StoppedAtFirst
from integrum.naming.expectation import against_expectation
from integrum.plan.column import Column
from integrum.plan.model import Plan
from integrum.problems import Problem, SourceFault
from integrum.reading.head import Head
from integrum.reading.left_out import LeftOutRow
from integrum.reading.parts import BLANK, DATA, FOOTER
from integrum.reading.pieces import Piece
from integrum.workers.pool import workers_of
from integrum.workers.progress import Watch

_log = logging.getLogger(__name__)

Result = TypeVar("Result", bound=Worked)

# so many lines right above a header may be data that a guess has cut off
_LINES_ABOVE = 2

_TELL = "this is a bug in Integrum; please report it"
_HEADER_ABOVE = Problem.of(
    "header-in-preamble",
    message="this line above the data looks like the header; the columns are named by position instead",
    hint='set header_row in the layout, and short_rows = "pad" if rows may end early',
)
_NUL = Problem.of(
    "nul-bytes",
    message="the text has NUL characters, which rarely belong there; they are in the table",
    hint="was the file written by a device that lost power? get a new copy",
)


class Engine:
    """Takes sources through inspection, admission and the workers, and keeps their ledgers.

    Parameters
    ----------
    intake
        The sources.
    executor
        Where the work is done; results come in order whichever it is.
    watch
        Is called with the name of the source at hand, the bytes done and the bytes in all.
    in_flight
        Bytes of sources that may be under work at one time; 0: one piece for each worker, and one more.
    keeps
        Whether headers that are in no column become columns where the plan's rules keep them.
    folder
        A folder that all workers reach, where they are other processes and there is one.
    in_files
        Whether workers write finished files, which then have the same rows whatever does the work.

    Attributes
    ----------
    columns
        The columns of the table but those of provenance: those of the plan, then kept ones.
    not_common
        Columns that are not in the table because only common ones are wanted, with the sources that lack them.
    headers
        The distinct headers, as they are written.
    variants, families, family_of
        The header variants; the families of sources by number, and the number of each source's.
    summaries
        What became of each source.
    inspections
        What the inspection of each source found.
    """

    def __init__(
        self,
        intake: Intake,
        executor: Executor,
        watch: Watch | None = None,
        in_flight: int = 0,
        keeps: bool = True,
        folder: Path | None = None,
        in_files: bool = False,
    ) -> None:
        self.intake = intake
        self._spread = Spread(executor, folder, in_files, in_flight)
        self._total = sum(source.size for source in intake.sources)
        self._advance = Advance(self._total, workers_of(executor) if self._spread.is_far else 0, watch)
        plan = intake.plan
        self.variants = variants_of(intake.heads)
        self.families, self.family_of = families_of(plan, intake.sources, intake.heads)
        self.headers = list(dict.fromkeys(head.header for head in intake.heads if isinstance(head, Head)))
        numbers = {header: number for number, header in enumerate(self.headers, 1)}
        self._header_of = [numbers[head.header] if isinstance(head, Head) else 0 for head in intake.heads]
        kept = _kept(self, plan) if keeps and plan.rules.unlisted == "keep" else []
        self.columns: tuple[Column, ...] = (*plan.table_columns, *(column for _, column in kept))
        if kept:
            self._rebind(lambda bound: bound.with_unlisted(kept))
        self.not_common: dict[str, list[int]] = {}
        if keeps and plan.rules.only_common:
            self.not_common = not_common(self.columns, self.families, self.family_of, intake.identified)
            self.columns = tuple(column for column in self.columns if column.name not in self.not_common)
            self._rebind(lambda bound: bound.without(self.not_common))
        still = {number: one for number, one in intake.learned.items() if self._is_still(number, one)}
        if still:
            canonical = {number: one.canonical for number, one in still.items()}
            self.families = with_seen(self.families, self.family_of, canonical)
        self._learned = still
        self._begun: set[int] = set()
        self._likeness: tuple[int, Likeness] | None = None
        self.summaries = [
            summary_of(
                intake, number, self.variants.of_source[number], self._header_of[number], self._family(number)
            )
            for number in range(len(intake.sources))
        ]
        self.inspections: dict[int, Inspection] = {}
        self._problems: list[list[Problem]] = [[] for _ in intake.sources]
        self._tally = Tally({column.name: column for column in self.columns})
        self._admission = Admission(plan.rules.duplicates == "keep")

    def of_families(self) -> dict[int, list[int]]:
        """The sources that come in and have a head, by the number of their family."""
        found: dict[int, list[int]] = {}
        for number, summary in enumerate(self.summaries):
            if summary.is_assembled and self.family_of[number]:
                found.setdefault(self.family_of[number], []).append(number)
        return found

    def _family(self, number: int) -> Family | None:
        return self.families.get(self.family_of[number])

    def _rebind(self, change: Callable[[Bound], Bound]) -> None:
        self.families = {
            number: replace(family, bound=change(family.bound)) for number, family in self.families.items()
        }

    def results(
        self, begin: Callable[[], AbstractContextManager[Callable[[Any], Result]]]
    ) -> Iterator[Result]:
        """Do the work on all rows that come in.

        Parameters
        ----------
        begin
            Opens what a worker needs, and gives a function of a job; for processes it must be importable.

        Yields
        ------
        Worked
            The results in order, after they are entered in the ledgers.

        Raises
        ------
        SourcesFailed
            When sources fail that came in already; see `integrum.engine.failing.carry_on`.
        """
        candidates = [self._candidate(number) for number in range(len(self.intake.sources))]
        outputs = self.intake.outputs
        jobs = (
            self._job(output, pieces)
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
        sent = map(self._advance.sent, jobs)
        for done in self._spread.results(sent, begin, self.families, self._total, self._advance.flying):
            self._advance.came(0 if isinstance(done, Failed) else sum(done.counts.parts[DATA].values()))
            if isinstance(done, Failed):
                failed |= done.faults
                continue
            for part, counts in done.counts.parts.items():
                for number, count in counts.items():
                    self.summaries[number].ledger.add(part, count)
            for number, count in done.counts.table.items():
                self.summaries[number].table_rows += count
            for number, count in done.counts.empty.items():
                self.summaries[number].empty_cells += count
            if not done.is_taken:
                self._tally.add(done.aside)
            for judged in done.judged:
                self._tally.add_like_data(judged.like_data)
                self._tally.add_like_data(
                    one for one, cells in judged.open if self._reads_like_data(one, cells)
                )
                if judged.last:
                    self._likeness = judged.last
            if not failed:  # else the rest is read only to know what else fails
                yield done
        if failed:
            raise SourcesFailed(failed)
        self._advance.end()

    def close(self, table_rows: int | None = None) -> Iterator[Problem]:
        """Check that rows in are rows out, and give all that was found.

        Parameters
        ----------
        table_rows
            Rows that came out; None when there is no table.

        Returns
        -------
        iterator of Problem
            What concerns the search first, and then source by source.

        Raises
        ------
        SourcesFailed
            When rows in are not rows out in a source.
        LedgerError
            When the rows of the sources are not those of the table.
        """
        intake = self.intake
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
        for number, taken in intake.taken.sources.items():
            self.tell(number, *taken.said_of_rows(intake.sources[number].name))
        for number, summary in enumerate(self.summaries):
            self._problems[number] += about_rows(summary)
            head = intake.heads[number]
            if summary.is_assembled and isinstance(head, Head) and (above := header_above(head)):
                row, raw = above
                self.tell(number, replace(_HEADER_ABOVE, row=row, raw=raw))
            if number in intake.taken.sources:
                self.tell(number, *intake.taken.sources[number].said_above())
            if number in self.inspections and self.inspections[number].nul:
                self.tell(number, _NUL)
        for number, problem in unlike_siblings(self.summaries, self.inspections):
            self.tell(number, problem)
        of_all = [
            *intake.problems,
            *against_expectation(intake.plan, intake.sources, intake.identified),
            *about_columns(self),
            *about_headers(self.families, self.family_of, self.summaries),
        ]
        return chain(of_all, self._by_source(before))

    def _by_source(self, before: Sequence[int]) -> Iterator[Problem]:
        """What was found in each source: what was told before its rows, of its rows, and then."""
        for number, (some, at) in enumerate(zip(self._problems, before, strict=True)):
            yield from some[:at]
            yield from self._tally.problems(number, self.intake.sources[number].name)
            yield from some[at:]

    def check_shares(self, filled: Callable[[str], Mapping[int, int]]) -> None:
        """Report sources of which more than the plan's share of values are bad, once, instead of their bad values.

        Parameters
        ----------
        filled
            How many good values each source has in a column.
        """
        shares = {
            family: {one.column: one.bad_share for one in found.bound.bindings if one.bad_share < 1}
            for family, found in self.families.items()
        }
        known = {column: filled(column) for some in shares.values() for column in some}
        for number, column, count, raws in self._tally.bad_values() if known else ():
            most = shares[self.family_of[number]].get(column, 1.0)
            if most == 1:
                continue
            total = count + known[column].get(number, 0)
            if count > most * total:
                self._tally.forget(number, column)
                self.tell(
                    number,
                    Problem.of(
                        "bad-share",
                        column=column,
                        raw=raws[0],
                        count=count,
                        message=f"{count / total:.0%} of its {total:,} values cannot be read",
                        hint="is it another column with the same name, or another notation? set-aside.csv "
                        "lists them all",
                    ),
                )

    def tell(self, number: int, *problems: Problem) -> None:
        """Note what is to be said about a source."""
        name = self.intake.sources[number].name
        self._problems[number] += [replace(problem, source=name) for problem in problems]

    def _candidate(self, number: int) -> Candidate:
        intake, family = self.intake, self.family_of[number]
        prove: tuple[Binding, ...] = ()
        if family:
            bindings = self.families[family].bound.bindings
            prove = tuple(one for one in bindings if one.bad_values == "set-source-aside")
        return Candidate(
            intake.sources[number],
            number,
            family,
            intake.heads[number],
            intake.layouts[number],
            prove,
            self.families[family].bound.wide if prove else None,
        )

    def _is_still(self, number: int, learned: Learned) -> bool:
        """Whether what a survey has learned of a source still holds."""
        intake = self.intake
        head = intake.heads[number]
        same = learned.layout == intake.layouts[number] and (learned.head is head or learned.head == head)
        return same and not intake.sources[number].has_changed()

    def _known(self, one: Candidate) -> Inspection | None:
        """What a survey found, as it stands in this run."""
        taken = self.intake.taken.sources.get(one.number)
        if taken:
            return taken.inspection
        learned = self._learned.get(one.number)
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
        self.inspections[number] = seen
        self._advance.entered(number, one.source.size, seen.size)
        identified = self.intake.identified[number]
        bound = self.families[one.family].bound if one.family else None
        reason, problems = self._admission.decide(one.source, seen, bound, identified)
        if reason and number in self.intake.taken.sources:
            raise CannotTake(f"{one.source.name} would be set aside now ({reason})")
        self.tell(number, *identified.problems, *self._about_header(number, bound), *problems)
        if not reason:
            _log.debug("read: %s, %s rows", one.source.name, f"{seen.rows:,}")
        else:
            _log.info("set aside: %s (%s)", one.source.name, reason)
            self._advance.without(one.source.size)
            summary.set_aside(reason)
            if self.intake.stop_at_first:
                raise _stopped(summary, self._problems[number])
        return not reason

    def _about_header(self, number: int, bound: Bound | None) -> list[Problem]:
        """What the binding found; where no cell is a column, with the row that should be the header."""
        head = self.intake.heads[number]
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

    def _pieces(self, one: Candidate, seen: Inspection) -> Iterable[Piece | TakenPiece]:
        """Where the rows of a source are: in the source, or in an earlier output."""
        taken = self.intake.taken.sources.get(one.number)
        if taken:
            return taken.pieces
        return seen.pieces if self._spread.in_stretches else pieces_of(one, seen)

    def _job(self, output: str, some: Sequence[Piece | TakenPiece]) -> Job | TakenJob:
        numbers = sorted({piece.source for piece in some})
        taken = [piece for piece in some if isinstance(piece, TakenPiece)]
        if taken:
            over = self.intake.taken
            return TakenJob(
                tuple(taken), {number: over.sources[number] for number in numbers}, output, over.copies
            )
        pieces = [piece for piece in some if isinstance(piece, Piece)]
        families = sorted({piece.family for piece in pieces})
        return Job(
            tuple(pieces),
            {number: self.families[number] for number in families},
            {number: self.intake.sources[number] for number in numbers},
            {number: self.intake.layouts[number] for number in numbers},
            {number: self.summaries[number].label for number in numbers},
            {number: self.intake.identified[number].values for number in numbers},
            output,
            tuple(one for number in numbers for one in self._right_above(number)),
            self._goes_on(pieces[-1]),
        )

    def _goes_on(self, last: Piece) -> int:
        """The source of a piece, when more of its pieces follow, with a footer in them."""
        seen = self.inspections[last.source]
        ends = not seen.again and seen.pieces[-1].first_row == last.first_row
        return -1 if ends or not seen.parts.get(FOOTER) else last.source

    def _reads_like_data(self, one: LeftOutRow, cells: Sequence[str]) -> bool:
        """Whether a row reads like the data that its source had in the job before."""
        return bool(
            self._likeness and self._likeness[0] == one.source and self._likeness[1].fits(cells, one.part)
        )

    def _right_above(self, number: int) -> Iterator[LeftOutRow]:
        """The header, the units and the last lines above them, once for each source."""
        head = self.intake.heads[number]
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


def _kept(engine: Engine, plan: Plan) -> list[tuple[str, Column]]:
    """Columns for headers that no column of the plan claims, by the names of the headers."""
    unlisted = dict.fromkeys(name for family in engine.families.values() for name, _ in family.bound.unlisted)
    taken = set(plan.table_names)
    return [(name, Column(_free_name(name, taken))) for name in unlisted]


def _free_name(name: str, taken: set[str]) -> str:
    free, number = name, 2
    while free in taken:
        free, number = f"{name} ({number})", number + 1
    taken.add(free)
    return free
