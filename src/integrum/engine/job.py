"""One job of a run: some pieces, read and parsed by family. Runs on any worker."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Protocol

import numpy as np
import numpy.typing as npt

from integrum.engine.judging import Judged, judge
from integrum.engine.variants import Family
from integrum.plan.layout import Layout
from integrum.reading.aside import SetAside
from integrum.reading.left_out import LeftOutRow
from integrum.reading.onward import Onward
from integrum.reading.parsing import Rows, parse
from integrum.reading.parts import BLANK, DATA, SET_ASIDE, Part
from integrum.reading.pieces import Loaded, Piece, load
from integrum.reading.stream import reads_ranges
from integrum.sources.source import Source
from integrum.workers.pool import still_wanted


@dataclass(frozen=True)
class Job:
    """Consecutive pieces, and what is needed to read them; it carries where they lie, not the pieces themselves.

    Attributes
    ----------
    pieces
        In their order.
    families
        By number, those that the pieces have.
    sources, layouts
        By number, the sources that the pieces are of, and their layouts.
    labels, identifiers
        By number, what stands in the provenance column, and the identifiers that a source has.
    output
        Which of the run's outputs the rows go to.
    above
        Of the sources whose first piece this is: rows that stand right above the data.
    open
        The number of a source of which more pieces follow, with a footer in them; -1 when there is none.
    onward
        On the worker: what reads sources that can only be read from their start.
    """

    pieces: tuple[Piece, ...]
    families: Mapping[int, Family]
    sources: Mapping[int, Source]
    layouts: Mapping[int, Layout]
    labels: Mapping[int, str]
    identifiers: Mapping[int, Mapping[str, str | None]]
    output: str = ""
    above: tuple[LeftOutRow, ...] = ()
    open: int = -1
    onward: Onward | None = None

    def reads_ranges(self, number: int) -> bool:
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


class Worked(Protocol):
    """What the engine reads of the result of a job."""

    @property
    def counts(self) -> Counts:
        """Its rows."""

    @property
    def aside(self) -> Sequence[SetAside]:
        """Cells and rows kept out, in the order of their places."""

    @property
    def left_out(self) -> Sequence[LeftOutRow]:
        """Rows that are not in the table, in the order of their places."""

    @property
    def judged(self) -> Sequence[Judged]:
        """Which of them read like the data, for each family."""

    @property
    def is_taken(self) -> bool:
        """Whether it was taken over from an earlier run, and is told of with what that has found."""

    @property
    def output(self) -> str:
        """The output that it is for."""


def parsed(job: Job) -> list[FamilyRows]:
    """Read and parse the pieces of a job, those of one family together."""
    by_family: dict[int, list[Loaded]] = {}
    for piece in job.pieces:
        still_wanted()
        loaded = load(piece, job.sources[piece.source], job.layouts[piece.source], job.onward)
        by_family.setdefault(piece.family, []).append(loaded)
    found = []
    for number, pieces in by_family.items():
        family = job.families[number]
        rows = parse(pieces, family.header, family.format)
        numbers = {piece.source for piece in pieces}
        above = [one for one in job.above if one.source in numbers]
        found.append(FamilyRows(family, rows, pieces, judge(rows, above, family.format, job.open)))
    return found


def in_order(aside: Iterable[SetAside]) -> list[SetAside]:
    """Cells and rows in the order of their places."""
    return sorted(aside, key=lambda one: (one.source, one.row or 0))


def counted(source: npt.NDArray[np.int64]) -> Counter[int]:
    """How often each number of a source is there."""
    numbers, counts = np.unique(source, return_counts=True)
    return Counter(dict(zip(numbers.tolist(), counts.tolist(), strict=True)))
