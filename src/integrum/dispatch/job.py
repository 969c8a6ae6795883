"""A job for a worker, and the states that take what comes back of it."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, Generic, Protocol, Self, TypeVar

import numpy as np

from integrum.intake.judging import Judged, judge
from integrum.intake.matched import Family
from integrum.plan.layout import Layout
from integrum.problems.problem import Problem
from integrum.reading.parsing import Rows, parse, without_again
from integrum.reading.parts import BLANK, DATA, SET_ASIDE, LeftOutRow, Part, SetAside
from integrum.reading.pieces import Loaded, Piece, load
from integrum.reading.stream import SequentialReader, reads_ranges
from integrum.record.table import RecordTable
from integrum.sources.source import Source
from integrum.values.arrays import Ints
from integrum.workers.pool import still_wanted

Seen = TypeVar("Seen")


@dataclass(frozen=True)
class TaskResult:
    """What a task gives back."""

    seen: Sequence[Any]  # what each measure saw, in their order
    first: int  # the number of its first source
    read: int  # rows of data
    # which output, what it appends, and how many rows that is; a survey has none
    output: str = ""
    payload: Any = None
    rows: int = 0
    spans: Sequence[
        tuple[int, int, int]
    ] = ()  # the rows of each source in the payload; see `Spans` of outputs


class Worker(Protocol):
    """Does tasks."""

    def read(self, job: Job) -> TaskResult:
        """Read some pieces of sources."""


class TaskPiece(Protocol):
    """A part of the rows of a source."""

    @property
    def source(self) -> int:
        """The number of the source."""

    @property
    def bytes(self) -> int:
        """How much it weighs."""

    @property
    def is_reused(self) -> bool:
        """Whether it lies in an earlier output."""


class Task(Protocol):
    """Consecutive pieces for a worker; it carries where they lie, not the pieces themselves."""

    @property
    def pieces(self) -> Sequence[TaskPiece]:
        """They, in their order."""

    @property
    def sources(self) -> Collection[int]:
        """The numbers of the sources that they are of."""

    def do(self, worker: Any) -> TaskResult:
        """Do it."""

    def part(self, source: int) -> Self:
        """That of it which is of one source."""

    def is_continued_by(self, after: Any) -> bool:
        """Whether another one goes on in a source that can only be read from its start."""

    def reading(self, sequential: SequentialReader) -> Self:
        """The same, where this is open for sources that can only be read from their start."""


@dataclass(frozen=True)
class Job:
    """Pieces of sources."""

    pieces: tuple[Piece, ...]  # in their order
    families: Mapping[int, Family]  # by number, those that the pieces have
    # by number, the sources that the pieces are of, and their layouts
    sources: Mapping[int, Source]
    layouts: Mapping[int, Layout]
    # by number, what stands in the provenance column, and the identifiers that a source has
    labels: Mapping[int, str]
    identifiers: Mapping[int, Mapping[str, str | None]]
    output: str = ""  # which of the run's outputs the rows go to
    # of the sources whose first piece this is: rows that stand right above the data
    above: tuple[LeftOutRow, ...] = ()
    # the number of a source of which more pieces follow, with a footer in them; -1 when there is none
    open: int = -1
    # by source: the rows that are taken from an earlier source
    again: Mapping[int, Ints] = field(default_factory=dict)
    sequential: SequentialReader | None = (
        None  # on the worker: what reads sources that can only be read from their start
    )

    def do(self, worker: Worker) -> TaskResult:
        """Read the pieces."""
        return worker.read(self)

    def part(self, source: int) -> Job:
        """The pieces of one source."""
        return replace(self, pieces=tuple(piece for piece in self.pieces if piece.source == source))

    def is_continued_by(self, after: Task) -> bool:
        """Whether another one goes on in a source that can only be read from its start."""
        last, first = self.pieces[-1].source, after.pieces[0]
        return not first.is_reused and last == first.source and not self._reads_ranges(last)

    def reading(self, sequential: SequentialReader) -> Job:
        """The same, with sources that can only be read from their start kept open."""
        return replace(self, sequential=sequential)

    def _reads_ranges(self, number: int) -> bool:
        """Whether any part of one of its sources can be read on its own."""
        return reads_ranges(self.sources[number], self.layouts[number])


@dataclass(frozen=True)
class FamilyRows:
    """The rows of one family in a job, and what was found about those that are left out."""

    family: Family
    rows: Rows
    pieces: Sequence[Loaded]
    judged: Judged = field(default_factory=Judged)


@dataclass
class Counts:
    """The rows of a job by what they are, for each source; rows of the table, and cells that gave none."""

    parts: dict[Part, Counter[int]] = field(default_factory=lambda: defaultdict(Counter))
    table: Counter[int] = field(default_factory=Counter)
    empty: Counter[int] = field(default_factory=Counter)

    @classmethod
    def of(cls, families: Iterable[FamilyRows]) -> Counts:
        """Those of parsed rows."""
        counts = cls()
        for one in families:
            counts.parts[DATA].update(counted(one.rows.source))
            counts.parts[BLANK].update(counted(one.rows.blank))
            counts.parts[SET_ASIDE].update(each.source for each in one.rows.aside if each.is_row)
            for row in one.rows.left_out:
                if row.part.counted == "rows":
                    counts.parts[row.part][row.source] += 1
        return counts


@dataclass
class Looked:
    """The rows of a job on its worker, for measures to look at."""

    job: Job
    families: Sequence[FamilyRows]
    counts: Counts  # its rows by what they are
    aside: list[SetAside]  # cells and rows that are kept out of the table

    @classmethod
    def of(cls, job: Job) -> Looked:
        """Read and parse the pieces of a job, those of one family together."""
        families = _parsed(job)
        return cls(job, families, Counts.of(families), [one for each in families for one in each.rows.aside])

    @property
    def first(self) -> int:
        """The number of its first source."""
        return min(self.job.sources)

    @property
    def read(self) -> int:
        """Rows of data."""
        return sum(self.counts.parts[DATA].values())


def _parsed(job: Job) -> list[FamilyRows]:
    by_family: dict[int, list[Loaded]] = {}
    for piece in job.pieces:
        still_wanted()
        loaded = load(piece, job.sources[piece.source], job.layouts[piece.source], job.sequential)
        by_family.setdefault(piece.family, []).append(loaded)
    found = []
    for number, pieces in by_family.items():
        family = job.families[number]
        rows = parse(pieces, family.header, family.format)
        if any(piece.source in job.again for piece in pieces):
            rows = without_again(rows, job.again, pieces, family.format.dialect)
        numbers = {piece.source for piece in pieces}
        above = [one for one in job.above if one.source in numbers]
        found.append(
            FamilyRows(family, rows, pieces, judge(rows, above, family.header, family.format, job.open))
        )
    return found


def in_order(aside: Iterable[SetAside]) -> list[SetAside]:
    """Cells and rows in the order of their places."""
    return sorted(aside, key=lambda one: (one.source, one.row or 0))


def counted(source: Ints) -> Counter[int]:
    """How often each number of a source is there."""
    numbers, counts = np.unique(source, return_counts=True)
    return Counter(dict(zip(numbers.tolist(), counts.tolist(), strict=True)))


class State(Generic[Seen]):
    """Takes what was seen of each task, in order; it has those of these methods that there is something to say in."""

    def add(self, seen: Seen) -> None:
        """Take what was seen of a task."""

    def finish(self) -> None:
        """All tasks have come."""

    def problems(self, number: int) -> Iterable[Problem]:  # noqa: ARG002
        """What is to be said of the rows of a source."""
        return ()

    def findings(self) -> Iterable[Problem]:
        """What is to be said of the table as a whole."""
        return ()

    def entries(self) -> Iterable[tuple[RecordTable[Any], Iterable[Any]]]:
        """Files of the record that it fills, with their entries."""
        return ()

    def of_source(self, number: int) -> object:  # noqa: ARG002
        """Its cell of a source in ``sources.csv``, where its measure has a column there."""
        return ""

    def of_values(self, at: int) -> Mapping[int, str]:  # noqa: ARG002
        """By source its cells of a column in ``values.csv``, where its measure has a column there."""
        return {}
