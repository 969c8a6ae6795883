"""Sources go in: inspected ahead of time on the workers, admitted or set aside, and cut into pieces."""

from __future__ import annotations

import logging
from collections.abc import Iterable, Iterator, Sequence
from concurrent.futures import Executor
from dataclasses import replace
from functools import partial

from integrum.columns.binding import Binding, Bound
from integrum.dispatch.failing import SourcesFailed, of_source
from integrum.dispatch.job import TaskPiece
from integrum.dispatch.progress import RunProgress
from integrum.errors import StoppedAtFirst
from integrum.intake.admission import Admission
from integrum.intake.inspecting import Candidate, Inspection, inspect_some, lost, pieces_of
from integrum.intake.intake import CannotTake
from integrum.intake.ledger import SourceSummary
from integrum.intake.matched import Matched, summary_of
from integrum.problems.problem import Problem
from integrum.reading.cutting import PIECE
from integrum.reading.head import Head
from integrum.reading.pieces import changed
from integrum.workers.pool import ahead

_log = logging.getLogger(__name__)

_FEW = 64
# this many pieces make a job, however small they are: what is found out about each is in memory until it is entered
_TOGETHER = 500
_UNPACKS_TO = 10


class Ledgers:
    """The ledgers, inspections and problems of all sources.

    Attributes
    ----------
    summaries
        What became of each source, with its ledger.
    inspections
        By number, what the inspection of a source found.
    problems
        What is to be said about each source.
    """

    def __init__(self, matched: Matched) -> None:
        self._sources = matched.intake.sources
        self.summaries = [summary_of(matched, number) for number in range(len(self._sources))]
        self.inspections: dict[int, Inspection] = {}
        self.problems: list[list[Problem]] = [[] for _ in self._sources]

    def tell(self, number: int, *problems: Problem) -> None:
        """Note what is to be said about a source."""
        name = self._sources[number].name
        self.problems[number] += [replace(problem, source=name) for problem in problems]


class Feed:
    """Has each source inspected on the workers, decides which come in, and hands out their pieces.

    Parameters
    ----------
    room
        Bytes of sources that may be under inspection at one time.
    whole_pieces
        Whether pieces lie in memory where that is faster; not so where they go to other processes.
    """

    def __init__(
        self,
        matched: Matched,
        ledgers: Ledgers,
        progress: RunProgress,
        executor: Executor,
        room: int,
        whole_pieces: bool,
    ) -> None:
        self._matched, self._intake, self._ledgers = matched, matched.intake, ledgers
        self._progress, self._executor, self._room = progress, executor, room
        self._whole_pieces = whole_pieces
        self._admission = Admission(self._intake.plan.rules.duplicates == "keep")

    def pieces(self) -> Iterator[tuple[str, list[TaskPiece]]]:
        """The pieces of the sources that come in.

        Yields an output, and pieces for it in their order, some 4 MB together.
        """
        outputs = self._intake.outputs
        waiting = _Waiting()
        for one, seen in self._inspected():
            self._progress.at(one.source.name)
            if self._enter(one, seen):
                for piece in self._sound(one, seen):
                    yield from waiting.add(outputs[one.number] if outputs else "", piece)
                    self._progress.at(one.source.name)
        yield from waiting.rest()

    def _inspected(self) -> Iterator[tuple[Candidate, Inspection]]:
        """Yield each source with its inspection, in order."""
        candidates = [self._candidate(number) for number in range(len(self._intake.sources))]
        found = {one.number: seen for one in candidates if (seen := self._known(one)) is not None}
        unknown = [one for one in candidates if one.number not in found]
        inspected = (
            seen
            for some in ahead(
                self._executor,
                inspect_some,
                _handfuls(unknown),
                self._room,
                _weight_of_all,
                partial(_one_by_one, self._executor),
            )
            for seen in some
        )
        for one in candidates:
            yield one, found[one.number] if one.number in found else next(inspected)

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
            self._whole_pieces,
        )

    def _known(self, one: Candidate) -> Inspection | None:
        """The inspection that a survey or an earlier run has made; None where there is none."""
        if one.number in self._intake.reuse.sources:
            return self._intake.reuse.inspection(one.number)
        cached = self._matched.cached.get(one.number)
        if cached is None or one.prove:
            return None
        seen = cached.inspection
        pieces = tuple(replace(piece, source=one.number, family=one.family) for piece in seen.pieces)
        return replace(seen, source=one.number, pieces=pieces)

    def _enter(self, one: Candidate, seen: Inspection) -> bool:
        """Enter an inspection into the ledger. Returns whether the source comes into the table."""
        number, summary = one.number, self._ledgers.summaries[one.number]
        summary.content, summary.size, summary.is_closed = seen.content, seen.size, seen.ends_closed
        summary.ledger.rows = seen.rows
        for part, count in seen.parts.items():
            summary.ledger.add(part, count)
        self._ledgers.inspections[number] = seen.without_texts()
        self._progress.entered(number, one.source.size, seen.size)
        identified, family = self._intake.identified[number], self._matched.family(number)
        bound = family.bound if family else None
        reason, problems = self._admission.decide(one.source, seen, bound, identified)
        if reason and number in self._intake.reuse.sources:
            raise CannotTake(f"{one.source.name} would be set aside now ({reason})")
        self._ledgers.tell(number, *identified.problems, *self._about_header(number, bound), *problems)
        if not reason:
            _log.debug("read: %s, %s rows", one.source.name, f"{seen.rows:,}")
        else:
            _log.info("set aside: %s (%s)", one.source.name, reason)
            self._progress.without(one.source.size)
            summary.set_aside(reason)
            if self._intake.stop_at_first:
                raise _stopped(summary, self._ledgers.problems[number])
        return not reason

    def _sound(self, one: Candidate, seen: Inspection) -> Iterator[TaskPiece]:
        """The pieces of a source. If it has changed since its inspection, it fails."""
        with of_source(one.number):
            pieces = iter(self._pieces(one, seen))
        is_reused = False
        while True:
            with of_source(one.number):
                piece = next(pieces, None)
            if piece is None:
                break
            is_reused = piece.is_reused
            yield piece
        if seen.again and not is_reused and one.source.has_changed():
            raise SourcesFailed({one.number: changed()})

    def _about_header(self, number: int, bound: Bound | None) -> list[Problem]:
        """The problems of binding the header, with the row of the header."""
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
        """The pieces of a source: of the file, or of an earlier output."""
        if one.number in self._intake.reuse.sources:
            return self._intake.reuse.pieces(one.number)
        return pieces_of(one, seen) if self._whole_pieces else seen.pieces


def _one_by_one(executor: Executor, some: Sequence[Candidate]) -> list[Inspection]:
    """Inspect sources one by one, to find out which of them kills its worker."""
    if len(some) == 1:
        return [lost(some[0])]
    each = ahead(executor, inspect_some, [[one] for one in some], instead=lambda one: [lost(one[0])])
    return [seen for found in each for seen in found]


class _Waiting:
    """Pieces that wait until there are enough of them for a job. They are never more than a few jobs' worth."""

    def __init__(self) -> None:
        self._pieces: dict[str, list[TaskPiece]] = {}
        self._sizes: dict[str, int] = {}

    def add(self, output: str, piece: TaskPiece) -> Iterator[tuple[str, list[TaskPiece]]]:
        size, before = self._sizes.get(output, 0), self._pieces.get(output)
        if before and (
            size + piece.bytes > PIECE or len(before) >= _TOGETHER or before[-1].is_reused != piece.is_reused
        ):
            yield output, self._take(output)
        self._pieces.setdefault(output, []).append(piece)
        self._sizes[output] = self._sizes.get(output, 0) + piece.bytes
        if sum(self._sizes.values()) > 4 * PIECE:
            largest = max(self._sizes, key=lambda each: self._sizes[each])
            yield largest, self._take(largest)

    def rest(self) -> Iterator[tuple[str, list[TaskPiece]]]:
        for output in list(self._pieces):
            yield output, self._take(output)

    def _take(self, output: str) -> list[TaskPiece]:
        self._sizes.pop(output)
        return self._pieces.pop(output)


def _weight(one: Candidate) -> int:
    """The bytes to read, estimated where the file is packed."""
    return one.source.size * (_UNPACKS_TO if one.source.packing else 1)


def _weight_of_all(some: Sequence[Candidate]) -> int:
    return sum(map(_weight, some))


def _handfuls(candidates: Sequence[Candidate]) -> Iterator[list[Candidate]]:
    """Group small sources, so that they share fixed costs."""
    some: list[Candidate] = []
    size = 0
    for one in candidates:
        if some and (len(some) >= _FEW or size + _weight(one) > PIECE):
            yield some
            some, size = [], 0
        some.append(one)
        size += _weight(one)
    if some:
        yield some


def _stopped(summary: SourceSummary, problems: Sequence[Problem]) -> StoppedAtFirst:
    """The error that names the source at which the run stops, and why."""
    why = next((one for one in problems if one.code == summary.reason), None)
    said = f"{why} ({why.hint})" if why else f"{summary.source} would be set aside [{summary.reason}]"
    return StoppedAtFirst(f"stopped at the first source that would be set aside; nothing was written: {said}")
