"""Jobs that take over the rows of an earlier output, and what each measure gets to know of them."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from pathlib import Path
from typing import Any, ClassVar, TypeVar

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.assembling.run import TableWorker
from integrum.columns.table_schema import TableSchema
from integrum.dispatch.job import Task, TaskResult
from integrum.intake.inspecting import Inspection
from integrum.intake.intake import CannotTake
from integrum.intake.ledger import SourceSummary
from integrum.measures.ends import ROWS, ends_of
from integrum.measures.items import Cells, RowRun
from integrum.measures.measure import Span, TableRows, ValueLines
from integrum.measures.tables import ROWS as ROW_RUNS
from integrum.problems.problem import Problem
from integrum.publish.write import UnchangedOutput
from integrum.reading.stream import SequentialReader
from integrum.record.table import RecordTable
from integrum.values.arrays import Ints, in_one, ints, wholes
from integrum.writing.output import SQLITE, suffix_of
from integrum.writing.parts import ByteRange, csv_part, csv_rows, typed_part
from integrum.writing.sqlite import StoredRows

Item = TypeVar("Item")

# this much of the end of some lines is looked at for the last rows
_NEAR_END = 64 << 10


class RecalledRows:
    """The rows of a job that takes rows over, for measures. Large files are read only when a measure asks.

    Parameters
    ----------
    job
        The parts of the earlier output, and what is known of their sources.
    """

    def __init__(self, job: ReuseJob, schema: TableSchema, as_text: bool) -> None:
        self.schema, self.output = schema, job.output
        self._job, self._as_text = job, as_text
        self._begun = [piece.source for piece in job.pieces if piece.is_first]
        self.first = min(piece.source for piece in job.pieces)
        self.was: Mapping[int, SourceSummary] = {number: job.taken[number].was for number in self._begun}
        self.identifiers: Mapping[int, Mapping[str, str | None]] = {
            number: job.taken[number].identifiers for number in self._begun
        }

    def problems(self, number: int) -> Sequence[Problem]:
        """What was said of a source."""
        return self._job.taken[number].problems

    def entries(self, table: RecordTable[Item]) -> Iterator[Item]:
        """Their entries of a file of the record, in order."""
        for number in self._begun:
            yield from self._job.taken[number].entries.get(table.file, ())

    def payload(self, in_files: bool) -> Any:
        """What the output appends: lines of CSV, rows, or the place of rows that it copies itself.

        `in_files`: whether it goes there through files, which take rows only.
        """
        if self._as_text:
            return self._lines_of_all
        if not in_files and all(suffix_of(piece.place) == SQLITE for piece in self._job.pieces):
            return [StoredRows(one.place, one.start, one.end, one.source) for one in self._job.pieces]
        return self._batch

    @cached_property
    def _batch(self) -> pa.RecordBatch:
        """The rows of the sources."""
        batches = [typed_part(*each, self.schema.arrow) for each in _in_a_row(self._job.pieces)]
        return pa.Table.from_batches(batches).combine_chunks().to_batches()[0]

    @cached_property
    def _lines_of_all(self) -> bytes:
        """The lines of the sources in CSV."""
        places = list(_in_a_row(self._job.pieces))
        parts = [csv_part(*each) for each in places]
        data = parts[0] if len(parts) == 1 else b"".join(parts)
        if len(data) != sum(piece.end - piece.start for piece in self._job.pieces):
            raise CannotTake("it is shorter than its record says")
        return data

    @cached_property
    def spans(self) -> Sequence[Span]:
        """The rows and bytes of each source."""
        found: dict[int, tuple[int, int]] = {}
        for piece in self._job.pieces:
            rows, before = found.get(piece.source, (0, 0))
            size = piece.end - piece.start if self._as_text and self._job.copies else 0
            found[piece.source] = (rows + piece.rows, before + size)
        return [(number, rows, size) for number, (rows, size) in found.items()]

    @cached_property
    def values(self) -> ValueLines:
        """Their lines of ``values.csv``."""
        table = self._job.values
        if not len(table):  # no source begins here
            return ValueLines(np.array([], np.int64), np.array([], np.int64), table)
        numbers = {column.name: at for at, column in enumerate(self.schema.columns)}
        names = in_one(table["column"]).dictionary_encode()
        columns = np.array([numbers.get(name, -1) for name in names.dictionary.to_pylist()], np.int64)
        columns, sources = columns[wholes(names.indices)], wholes(in_one(table["source"]))
        order = np.lexsort((sources, columns))
        if columns[order[0]] >= 0 and (np.diff(order) == 1).all():
            return ValueLines(columns, sources, table)
        order = order[columns[order] >= 0]
        return ValueLines(columns[order], sources[order], table.take(ints(order)))

    def ends(self) -> tuple[list[Cells], list[Cells]]:
        """The first and last rows. In CSV, cells are parsed one by one only where there are quotes."""
        if not self._job.copies:
            return [], []
        if self._job.whole:
            return self._recorded_ends(self._job.whole)
        if not self._as_text:
            return self._typed_ends()
        rows = sum(piece.rows for piece in self._job.pieces)
        if not rows:  # a later part of a source: its rows are those of its first part
            return [], []
        data = self._lines_of_all
        for piece in self._job.pieces:
            if piece.is_first:
                break
            data = data[piece.end - piece.start :]
        last, size = self._job.taken[self._job.pieces[-1].source].pieces, min(rows, ROWS)
        tail = data
        if len(last) > 1:
            tail = csv_part(last[-1].place, max(last[-1].start, last[-1].end - _NEAR_END), last[-1].end)
        begin, end = data.split(b"\n", size)[:-1], tail[-_NEAR_END:].split(b"\n")[:-1]
        if tail is not data or len(data) > _NEAR_END:
            end = end[1:]  # the first of them may be the rest of a line
        end = end[-size:]
        is_plain = not self._job.is_guarded and not any(b'"' in line for line in (*begin, *end))
        if is_plain and len(begin) == len(end) == size:
            return _cells(begin), _cells(end)
        one: list[Cells] = []
        other: list[Cells] = []
        pieces = [piece for number in self._begun for piece in self._job.taken[number].pieces]
        for each in _in_a_row(pieces):
            for batch in self._lines(each, self.schema.names):
                some = ends_of(batch, self.schema.types)
                one, other = (one + some[0])[:ROWS], (other + some[1])[-ROWS:]
        return one, other

    def _typed_ends(self) -> tuple[list[Cells], list[Cells]]:
        """Read only the first and the last rows of a typed output."""
        first: list[Cells] = []
        last: list[Cells] = []
        places = list(_in_a_row(self._job.pieces))
        for place, start, end in places:
            if len(first) < ROWS:
                some = typed_part(place, start, min(end, start + ROWS - len(first)), self.schema.arrow)
                first += ends_of(some, self.schema.types)[0]
        for place, start, end in reversed(places):
            if len(last) < ROWS:
                some = typed_part(place, max(start, end - ROWS + len(last)), end, self.schema.arrow)
                last = ends_of(some, self.schema.types)[0] + last
        return first, last

    def _recorded_ends(self, whole: UnchangedOutput) -> tuple[list[Cells], list[Cells]]:
        """The first and the last rows of a table that stays as it is, with the job that they lie in."""
        begin, end = self._job.pieces[0], self._job.pieces[-1]
        first, last = self._job.taken[begin.source], self._job.taken[end.source]
        is_begin = begin.is_first and first.was.first_table_row == 1
        is_end = end == last.pieces[-1] and last.was.last_table_row == whole.output.rows
        return list(whole.first if is_begin else ()), list(whole.last if is_end else ())

    def _lines(self, place: tuple[Path, int, int], names: Sequence[str]) -> Iterator[pa.RecordBatch]:
        return csv_rows(ByteRange(*place), self.schema.arrow, list(names), self._job.is_guarded)

    def table_rows(self, names: Sequence[str] | None) -> Iterator[TableRows]:
        """All rows of the sources that begin here, in batches; of a typed output the rows of this part."""
        if not self._as_text:
            source = np.concatenate(
                [np.full(piece.end - piece.start, piece.source) for piece in self._job.pieces]
            )
            yield self._rows(self._batch, source, self._places_of(self._batch))
            return
        row_name = self.schema.provenance.source_row
        wanted = self.schema.names if names is None else [*names]
        if row_name is not False and row_name not in wanted:
            wanted.append(row_name)
        wanted = wanted or self.schema.names[:1]
        for number in self._begun:
            taken, before = self._job.taken[number], 0
            rows = None if row_name is not False else _rows_of(taken.entries.get(ROW_RUNS.file, ()))
            for each in _in_a_row(taken.pieces):
                for batch in self._lines(each, wanted):
                    here = (
                        wholes(pc.cast(batch.column(wanted.index(str(row_name))), pa.int64()))
                        if rows is None
                        else rows[before : before + batch.num_rows]
                    )
                    yield self._rows(batch, np.full(batch.num_rows, number), here)
                    before += batch.num_rows
            if before != taken.was.table_rows:
                raise CannotTake("it does not have the rows that its record says")

    def _rows(self, batch: pa.RecordBatch, source: Ints, row: Ints) -> TableRows:
        columns = dict(zip(batch.schema.names, batch.columns, strict=True))
        row_name = self.schema.provenance.source_row
        if row_name is not False:
            columns[row_name] = ints(row)
        return TableRows(columns, {column.name: column for column in self.schema.columns}, source, row)

    def _places_of(self, batch: pa.RecordBatch) -> Ints:
        """Which row of its source each row is."""
        name = self.schema.provenance.source_row
        if name is not False:
            return wholes(batch.column(self.schema.names.index(name)))
        found = []
        for piece in self._job.pieces:
            taken = self._job.taken[piece.source]
            begin = piece.start - taken.pieces[0].start
            runs = taken.entries.get(ROW_RUNS.file, ())
            found.append(_rows_of(runs)[begin : begin + piece.end - piece.start])
        return np.concatenate(found)


def _in_a_row(pieces: Sequence[ReusedPiece]) -> Iterator[tuple[Path, int, int]]:
    """The places of some pieces; consecutive pieces are joined."""
    place: tuple[Path, int, int] | None = None
    for piece in pieces:
        if place and place[0] == piece.place and place[2] == piece.start:
            place = (piece.place, place[1], piece.end)
            continue
        if place:
            yield place
        place = (piece.place, piece.start, piece.end)
    if place:
        yield place


def _cells(lines: Sequence[bytes]) -> list[Cells]:
    return [tuple(line.decode().split(",")) for line in lines]


def _rows_of(runs: Sequence[RowRun]) -> Ints:
    """The numbers of all rows in some runs."""
    some = [np.repeat(np.arange(one.row, one.row + one.rows), one.each) for one in runs]
    return np.concatenate(some) if some else np.array([], np.int64)


@dataclass(frozen=True)
class ReusedPiece:
    """A part of an earlier output that is copied as it is."""

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
class Reused:
    """What an earlier run knows of a source whose rows are taken over."""

    was: SourceSummary
    inspection: Inspection  # what its inspection found, with its number in the run at hand
    identifiers: Mapping[str, str | None]
    problems: Sequence[Problem]
    # by file of the record its entries, with its number in the run at hand
    entries: Mapping[str, Sequence[Any]]
    pieces: Sequence[ReusedPiece]  # the parts of the earlier output


@dataclass(frozen=True)
class ReuseJob:
    """A job that copies consecutive parts of an earlier output."""

    pieces: tuple[ReusedPiece, ...]  # in their order
    taken: Mapping[int, Reused]  # by number the sources that they are of
    output: str  # which of the run's outputs the rows go to
    # the lines of ``values.csv`` of the sources that begin here; ``source`` is the number in the run at
    # hand
    values: pa.Table
    is_guarded: bool  # whether the earlier output is guarded against formulas
    copies: bool  # whether the rows themselves are wanted
    whole: UnchangedOutput | None = None  # the earlier output, where it stays as it is

    @property
    def sources(self) -> Collection[int]:
        """The numbers of the sources."""
        return self.taken.keys()

    def do(self, worker: TableWorker) -> TaskResult:
        """Read parts of the earlier output, and recall what was known of them.

        Raises CannotTake when they are not there any more, or are not what the record says.
        """
        try:
            recalled = RecalledRows(self, worker.schema, worker.as_text)
            wanted = self.copies and not self.whole
            return worker.recall(recalled, recalled.payload(worker.files is not None) if wanted else None)
        except (OSError, pa.ArrowException, ValueError, KeyError) as error:
            raise CannotTake(f"the earlier table cannot be read: {error}") from error

    def part(self, source: int) -> ReuseJob:
        """Never called: rows that cannot be taken over end the attempt."""
        raise CannotTake(f"the rows of source {source} cannot be taken over")

    def is_continued_by(self, after: Task) -> bool:  # noqa: ARG002
        """False: every part of an output can be read on its own."""
        return False

    def reading(self, sequential: SequentialReader) -> ReuseJob:  # noqa: ARG002
        """The same job: nothing is kept open."""
        return self


@dataclass(frozen=True)
class ReusedRows:
    """Everything that a run takes over; an `integrum.intake.intake.Reuse`."""

    taken: Mapping[int, Reused]  # by number the sources whose rows are taken over
    values: pa.Table  # the lines of ``values.csv`` of these; ``source`` is the number in the run at hand
    columns: Sequence[tuple[str, str]]  # the columns of the earlier table, with their Arrow types as texts
    is_guarded: bool  # whether the earlier output is guarded against formulas
    copies: bool  # whether the parts of the earlier output are wanted, or only what is known of them
    whole: UnchangedOutput | None = None  # the earlier output, where all of it is taken over
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

    def pieces(self, number: int) -> Sequence[ReusedPiece]:
        """Where its rows lie in the earlier output."""
        return self.taken[number].pieces

    def task(self, pieces: Sequence[ReusedPiece], output: str) -> ReuseJob:
        """What takes some pieces over."""
        numbers = sorted({piece.source for piece in pieces})
        begun = [piece.source for piece in pieces if piece.is_first]
        taken = {number: self.taken[number] for number in numbers}
        values = self._values_of(begun)
        return ReuseJob(tuple(pieces), taken, output, values, self.is_guarded, self.copies, self.whole)

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
