"""Sources whose rows are taken over from an earlier output, and the parts of it that are theirs."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

import pyarrow as pa

from integrum.engine.inspecting import Inspection
from integrum.engine.ledger import SourceSummary
from integrum.plan.layout import Layout
from integrum.problems import Problem
from integrum.reading.aside import SetAside
from integrum.reading.head import Head
from integrum.reading.left_out import LeftOutRow


@dataclass(frozen=True)
class TakenPiece:
    """A part of an earlier output that is taken over as it is.

    Attributes
    ----------
    source
        The number of the source that its rows are of, in the run at hand.
    place
        The file.
    start, end
        The offsets of its bytes in a CSV; elsewhere the numbers of its rows, from 0.
    rows
        How many rows of the table it counts for; of a CSV all rows count for its first part.
    is_first
        Whether it is the first part of its source.
    bytes
        How much it weighs.
    """

    source: int
    place: Path
    start: int
    end: int
    rows: int
    is_first: bool
    bytes: int


@dataclass(frozen=True)
class Taken:
    """What an earlier run established of a source whose rows are taken over.

    Attributes
    ----------
    was
        What became of it then.
    layout, head, inspection
        As they were then; the inspection has its number in the run at hand.
    problems
        What was said of it then.
    aside, left_out
        What was kept out of the table then; with its number in the run at hand.
    runs
        Which of its rows are in the table, where that does not say it: the first one, how many, and how many each gives.
    pieces
        The parts of the earlier output.
    """

    was: SourceSummary
    layout: Layout
    head: Head
    inspection: Inspection
    problems: Sequence[Problem]
    aside: Sequence[SetAside]
    left_out: Sequence[LeftOutRow]
    runs: Sequence[tuple[int, int, int]]
    pieces: Sequence[TakenPiece]

    def said_of_rows(self, name: str) -> list[Problem]:
        """What is to be said of its rows, whatever other sources there are."""
        return [replace(one, source=name) for one in self.problems if _is_of_rows(one)]

    def said_above(self) -> list[Problem]:
        """What is to be said of the lines above its rows."""
        return [one for one in self.problems if one.kind.scope == "above"]


@dataclass(frozen=True)
class TakenOver:
    """All that a run takes over.

    Attributes
    ----------
    sources
        By number the sources whose rows are taken over.
    values
        The entries of ``values.csv`` of these: ``source`` is the number in the run at hand.
    columns
        The columns of the earlier table, with their Arrow types as texts.
    copies
        Whether the parts of the earlier output are wanted, or only what is known of them.
    """

    sources: Mapping[int, Taken] = field(default_factory=dict)
    values: pa.Table | None = None
    columns: Sequence[tuple[str, str]] = ()
    copies: bool = True


class CannotTake(Exception):
    """Ends an attempt: the rows of the earlier output cannot be taken over; its text says why."""


@dataclass(frozen=True)
class TakenJob:
    """Parts of an earlier output that follow one another, and what is known of the sources that begin in them.

    Attributes
    ----------
    pieces
        In their order.
    taken
        By number the sources that they are of.
    output
        Which of the run's outputs the rows go to.
    copies
        Whether the rows themselves are wanted.
    """

    pieces: tuple[TakenPiece, ...]
    taken: dict[int, Taken]
    output: str = ""
    copies: bool = True

    @property
    def sources(self) -> dict[int, Taken]:
        """The sources by number, as a job has them."""
        return self.taken


def _is_of_rows(one: Problem) -> bool:
    # identifiers and sheets have problems with some of these codes, too: without a row, or as notes
    is_found_there = one.kind.scope == "rows" and one.severity != "note"
    return is_found_there and (one.row is not None or not one.kind.has_row)
