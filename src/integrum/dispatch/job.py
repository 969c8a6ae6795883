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
    """The result of a job."""

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
    """Carries out jobs."""

    def read(self, job: Job) -> TaskResult:
        """Read some pieces of sources."""


class TaskPiece(Protocol):
    """A piece of a source, as the engine sees it."""

    @property
    def source(self) -> int:
        """The number of the source."""

    @property
    def bytes(self) -> int:
        """Its size in bytes."""

    @property
    def is_reused(self) -> bool:
        """Whether it lies in an earlier output."""


class Task(Protocol):
    """Consecutive pieces for a worker. It says where they lie and does not hold them."""

    @property
    def pieces(self) -> Sequence[TaskPiece]:
        """The pieces, in order."""

    @property
    def sources(self) -> Collection[int]:
        """The numbers of their sources."""

    def do(self, worker: Any) -> TaskResult:
        """Do the job."""

    def part(self, source: int) -> Self:
        """The part of the job that is about one source."""

    def is_continued_by(self, after: Any) -> bool:
        """Whether the next job goes on in a source that can only be read from its start."""

    def reading(self, sequential: SequentialReader) -> Self:
        """The same job with a reader that is kept open, for sources that can only be read from their start."""


@dataclass(frozen=True)
class Job:
    """Consecutive pieces of sources to read and to parse."""

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
        """Whether the next job goes on in a source that can only be read from its start."""
        last, first = self.pieces[-1].source, after.pieces[0]
        return not first.is_reused and last == first.source and not self._reads_ranges(last)

    def reading(self, sequential: SequentialReader) -> Job:
        """The same job with a reader that is kept open, for sources that can only be read from their start."""
        return replace(self, sequential=sequential)

    def _reads_ranges(self, number: int) -> bool:
        """Whether any part of a source can be read on its own."""
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
    """The rows of a job by source and part; the rows of the table, and the cells without a row."""

    parts: dict[Part, Counter[int]] = field(default_factory=lambda: defaultdict(Counter))
    table: Counter[int] = field(default_factory=Counter)
    empty: Counter[int] = field(default_factory=Counter)

    @classmethod
    def of(cls, families: Iterable[FamilyRows]) -> Counts:
        """The counts of parsed rows."""
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
    """Sort cells and rows by their places."""
    return sorted(aside, key=lambda one: (one.source, one.row or 0))


def counted(source: Ints) -> Counter[int]:
    """Count how often each source number occurs."""
    numbers, counts = np.unique(source, return_counts=True)
    return Counter(dict(zip(numbers.tolist(), counts.tolist(), strict=True)))


class State(Generic[Seen]):
    """Collects what a measure saw in each job, in order. A subclass has the methods that it needs."""

    def add(self, seen: Seen) -> None:
        """Add what was seen in one job."""

    def finish(self) -> None:
        """Note that all jobs have come."""

    def problems(self, number: int) -> Iterable[Problem]:  # noqa: ARG002
        """The problems of a source."""
        return ()

    def findings(self) -> Iterable[Problem]:
        """The problems of the table as a whole."""
        return ()

    def entries(self) -> Iterable[tuple[RecordTable[Any], Iterable[Any]]]:
        """The files of the record that it fills, with their entries."""
        return ()

    def of_source(self, number: int) -> object:  # noqa: ARG002
        """Its value for a source in ``sources.csv``."""
        return ""

    def of_values(self, at: int) -> Mapping[int, str]:  # noqa: ARG002
        """By source, its values for a column in ``values.csv``."""
        return {}
