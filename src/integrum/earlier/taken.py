"""Sources whose rows are taken over from an earlier output: what is known of them, and where their rows lie."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from pathlib import Path
from typing import Any, ClassVar

import numpy as np
import pyarrow as pa

from integrum.arrow.arrays import Ints, ints, wholes
from integrum.assembling.worker import TableWorker
from integrum.earlier.recalled import RecalledRows
from integrum.engine.inspecting import Inspection
from integrum.engine.job import Done, Task
from integrum.engine.ledger import SourceSummary
from integrum.engine.reuse import CannotTake
from integrum.problems import Problem
from integrum.reading.onward import Onward
from integrum.recording.write import Whole


@dataclass(frozen=True)
class TakenPiece:
    """A part of an earlier output that is taken over as it is."""

    source: int  # the number of the source that its rows are of, in the run at hand
    place: Path
    # the offsets of its bytes in a CSV; elsewhere the numbers of its rows, from 0
    start: int
    end: int
    rows: int  # how many rows of the table it counts for; of a CSV all rows count for its first part
    is_first: bool  # whether it is the first part of its source
    bytes: int  # how much it weighs
    is_reused: ClassVar[bool] = True


@dataclass(frozen=True)
class Taken:
    """What an earlier run established of a source whose rows are taken over."""

    was: SourceSummary
    inspection: Inspection  # what its inspection found, with its number in the run at hand
    identifiers: Mapping[str, str | None]
    problems: Sequence[Problem]
    # by file of the record its entries, with its number in the run at hand
    entries: Mapping[str, Sequence[Any]]
    pieces: Sequence[TakenPiece]  # the parts of the earlier output


@dataclass(frozen=True)
class TakenJob:
    """Parts of an earlier output that follow one another, and what is known of the sources that begin in them."""

    pieces: tuple[TakenPiece, ...]  # in their order
    taken: Mapping[int, Taken]  # by number the sources that they are of
    output: str  # which of the run's outputs the rows go to
    # the lines of ``values.csv`` of the sources that begin here; ``source`` is the number in the run at
    # hand
    values: pa.Table
    is_guarded: bool  # whether the earlier output is guarded against formulas
    copies: bool  # whether the rows themselves are wanted
    whole: Whole | None = None  # the earlier output, where it stays as it is

    @property
    def sources(self) -> Collection[int]:
        """The numbers of the sources."""
        return self.taken.keys()

    def do(self, worker: TableWorker) -> Done:
        """Read parts of the earlier output, and recall what was known of them.

        Raises CannotTake when they are not there any more, or are not what the record says.
        """
        try:
            recalled = RecalledRows(self, worker.schema, worker.as_text)
            wanted = self.copies and not self.whole
            return worker.recall(recalled, recalled.payload(worker.files is not None) if wanted else None)
        except (OSError, pa.ArrowException, ValueError, KeyError) as error:
            raise CannotTake(f"the earlier table cannot be read: {error}") from error

    def part(self, source: int) -> TakenJob:
        """Never asked for: what cannot be taken over ends the attempt."""
        raise CannotTake(f"the rows of source {source} cannot be taken over")

    def is_continued_by(self, after: Task) -> bool:  # noqa: ARG002
        """Every part of an output can be read on its own."""
        return False

    def reading(self, onward: Onward) -> TakenJob:  # noqa: ARG002
        """Nothing has to be kept open."""
        return self


@dataclass(frozen=True)
class TakenOver:
    """All that a run takes over; see `integrum.engine.reuse.Reuse`."""

    taken: Mapping[int, Taken]  # by number the sources whose rows are taken over
    values: pa.Table  # the lines of ``values.csv`` of these; ``source`` is the number in the run at hand
    columns: Sequence[tuple[str, str]]  # the columns of the earlier table, with their Arrow types as texts
    is_guarded: bool  # whether the earlier output is guarded against formulas
    copies: bool  # whether the parts of the earlier output are wanted, or only what is known of them
    whole: Whole | None = None  # the earlier output, where all of it is taken over
    sources: Collection[int] = field(init=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "sources", frozenset(self.taken))

    def check(self, schema: pa.Schema) -> None:
        """Make sure that the table has the columns of the earlier one.

        Raises CannotTake.
        """
        if list(self.columns) != [(each.name, str(each.type)) for each in schema]:
            raise CannotTake("the table has other columns now")

    def inspection(self, number: int) -> Inspection:
        """What the inspection of a source found then."""
        return self.taken[number].inspection

    def pieces(self, number: int) -> Sequence[TakenPiece]:
        """Where its rows lie in the earlier output."""
        return self.taken[number].pieces

    def task(self, pieces: Sequence[TakenPiece], output: str) -> TakenJob:
        """What takes some pieces over."""
        numbers = sorted({piece.source for piece in pieces})
        begun = [piece.source for piece in pieces if piece.is_first]
        taken = {number: self.taken[number] for number in numbers}
        values = self._values_of(begun)
        return TakenJob(tuple(pieces), taken, output, values, self.is_guarded, self.copies, self.whole)

    def said_above(self, number: int) -> list[Problem]:
        """What was said of the lines above its rows."""
        return [one for one in self.taken[number].problems if one.kind.scope == "above"]

    def _values_of(self, numbers: Sequence[int]) -> pa.Table:
        """The lines of some sources, which rise."""
        order, sources = self._in_order
        if numbers and numbers[-1] - numbers[0] + 1 == len(
            numbers
        ):  # most lie in the file as they are wanted
            found = order[slice(*np.searchsorted(sources, (numbers[0], numbers[-1] + 1)))]
            return self.values.take(ints(np.sort(found)))
        parts = [order[slice(*np.searchsorted(sources, (number, number + 1)))] for number in numbers]
        return self.values.take(ints(np.concatenate(parts))) if parts else self.values.slice(0, 0)

    @cached_property
    def _in_order(self) -> tuple[Ints, Ints]:
        """The lines in the order of their sources, and the number of the source of each."""
        sources = wholes(self.values["source"].combine_chunks())
        order = np.argsort(sources, kind="stable")
        return order, sources[order]
