"""Rows that an earlier run has written, taken over: a batch of the table without a look at the sources."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import ints, texts, wholes
from integrum.assembling.categories import ValueCounts
from integrum.assembling.column_sketch import ColumnSketch
from integrum.assembling.ends import ROWS, Cells, ends_of
from integrum.assembling.job import Batch
from integrum.assembling.row_runs import RowRun
from integrum.assembling.schema import Schema
from integrum.assembling.sketches import MANY
from integrum.checking.checks import Prepared, look
from integrum.checking.rows import TableRows
from integrum.engine.job import Counts
from integrum.engine.taken import CannotTake, Taken, TakenJob, TakenOver, TakenPiece
from integrum.naming.identifiers import Identified
from integrum.plan.column import Column
from integrum.values.sketch import Sketch
from integrum.writing.parts import Range, csv_part, csv_rows, parquet_part

Ints = npt.NDArray[np.int64]

_SHORTER = "it is shorter than its record says"
# checks that are told by the account of rows alone
_WITHOUT_ROWS = frozenset({"rows", "sources"})
# so much of the end of some lines is looked at for the last rows
_NEAR_END = 64 << 10


def take_over(job: TakenJob, schema: Schema, checks: Sequence[Prepared] = ()) -> Batch:
    """Read parts of an earlier output, and give the batch that they were.

    Raises
    ------
    CannotTake
        When they are not there any more.
    """
    try:
        return _taken_over(job, schema, checks)
    except (OSError, pa.ArrowException, ValueError, KeyError) as error:
        raise CannotTake(f"the earlier table cannot be read: {error}") from error


def _taken_over(job: TakenJob, schema: Schema, checks: Sequence[Prepared]) -> Batch:
    begun = [piece for piece in job.pieces if piece.is_first]
    counts = _counts(begun, job.taken)
    looking = any(one.kind and one.check.kind not in _WITHOUT_ROWS for one in checks)
    looks: list[list[Any]] = []
    ends: tuple[list[Cells], list[Cells]] = ([], [])
    payload: Any = b""
    if schema.as_text:
        sizes = [piece.end - piece.start for piece in job.pieces]
        if job.copies:
            payload = _lines(job.pieces)
            ends = _ends(job, payload, schema)
        else:
            sizes = [0] * len(sizes)
        if looking:
            looks = _looks(job, schema, checks)
    else:
        sizes = [0] * len(job.pieces)
        if job.copies or looking:
            batches = [parquet_part(*each, schema.arrow) for each in _ranges(job.pieces)]
            payload = pa.Table.from_batches(batches).combine_chunks().to_batches()[0]
            ends = ends_of(payload, schema.types)
            if looking:
                source = np.concatenate([np.full(one.end - one.start, one.source) for one in job.pieces])
                looks = [_look(checks, payload, schema, source, _rows(job, payload, schema))]
    return Batch(
        job.output,
        payload if job.copies else None,
        _spans(job.pieces, sizes),
        counts,
        [one for piece in begun for one in job.taken[piece.source].aside],
        (),
        [one for piece in begun for one in job.taken[piece.source].left_out],
        looks=looks,
        runs=[RowRun(piece.source, *run) for piece in begun for run in job.taken[piece.source].runs],
        ends=ends,
        first=min(piece.source for piece in job.pieces),
        is_taken=True,
    )


def _counts(begun: Sequence[TakenPiece], taken: Mapping[int, Taken]) -> Counts:
    counts = Counts()
    for piece in begun:
        was = taken[piece.source].was
        for part, count in was.ledger.counts.items():
            if part.counted == "rows":
                counts.parts[part][piece.source] = count
        counts.table[piece.source], counts.empty[piece.source] = was.table_rows, was.empty_cells
    return counts


def _spans(pieces: Sequence[TakenPiece], sizes: Sequence[int]) -> tuple[tuple[int, int, int], ...]:
    """Rows and bytes of each source."""
    found: dict[int, tuple[int, int]] = {}
    for piece, size in zip(pieces, sizes, strict=True):
        rows, before = found.get(piece.source, (0, 0))
        found[piece.source] = (rows + piece.rows, before + size)
    return tuple((number, rows, size) for number, (rows, size) in found.items())


def _ranges(pieces: Sequence[TakenPiece]) -> list[tuple[Any, int, int]]:
    """Where some pieces lie; those that lie one behind the other as one."""
    found: list[tuple[Any, int, int]] = []
    for piece in pieces:
        if found and found[-1][0] == piece.place and found[-1][2] == piece.start:
            found[-1] = (piece.place, found[-1][1], piece.end)
        else:
            found.append((piece.place, piece.start, piece.end))
    return found


def _lines(pieces: Sequence[TakenPiece]) -> bytes:
    parts = [csv_part(*each) for each in _ranges(pieces)]
    data = parts[0] if len(parts) == 1 else b"".join(parts)
    if len(data) != sum(piece.end - piece.start for piece in pieces):
        raise CannotTake(_SHORTER)
    return data


def _ends(job: TakenJob, data: bytes, schema: Schema) -> tuple[list[Cells], list[Cells]]:
    """The first and the last rows of some lines; their cells are read one by one only where there are quotes."""
    rows = sum(piece.rows for piece in job.pieces)
    begun = [piece.source for piece in job.pieces if piece.is_first]
    if not rows:  # a later part of a source: its rows are those of its first part
        return [], []
    for piece in job.pieces:
        if piece.is_first:
            break
        data = data[piece.end - piece.start :]
    last, size = job.taken[job.pieces[-1].source].pieces, min(rows, ROWS)
    tail = data
    if len(last) > 1:
        tail = csv_part(last[-1].place, max(last[-1].start, last[-1].end - _NEAR_END), last[-1].end)
    begin, end = data.split(b"\n", size)[:-1], tail[-_NEAR_END:].split(b"\n")[:-1]
    if tail is not data or len(data) > _NEAR_END:
        end = end[1:]  # the first of them may be the rest of a line
    end = end[-size:]
    is_plain = not schema.is_guarded and not any(b'"' in line for line in (*begin, *end))
    if is_plain and len(begin) == len(end) == size:
        return _cells(begin), _cells(end)
    one: list[Cells] = []
    other: list[Cells] = []
    for each in _ranges([piece for number in begun for piece in job.taken[number].pieces]):
        for batch in csv_rows(Range(*each), schema.arrow, schema.arrow.names, schema.is_guarded):
            some = ends_of(batch, schema.types)
            one, other = (one + some[0])[:ROWS], (other + some[1])[-ROWS:]
    return one, other


def _cells(lines: Sequence[bytes]) -> list[Cells]:
    return [tuple(line.decode().split(",")) for line in lines]


def _looks(job: TakenJob, schema: Schema, checks: Sequence[Prepared]) -> list[list[Any]]:
    """What the checks see in the sources that begin in some lines, of which more may follow in other jobs."""
    wanted = {name for one in checks if one.kind for name in one.check.columns}
    whole = any(one.kind and not one.check.columns for one in checks)
    row_name = schema.provenance.source_row
    names = [name for name in schema.arrow.names if whole or name in wanted or name == row_name]
    names = names or schema.arrow.names[:1]
    found = []
    begun = [piece.source for piece in job.pieces if piece.is_first]
    for number in begun:
        taken, before = job.taken[number], 0
        rows = None if row_name is not False else _rows_of_runs(taken.runs)
        for each in _ranges(taken.pieces):
            for batch in csv_rows(Range(*each), schema.arrow, names, schema.is_guarded):
                here = (
                    wholes(pc.cast(batch.column(names.index(row_name)), pa.int64()))
                    if rows is None
                    else rows[before : before + batch.num_rows]
                )
                source = np.full(batch.num_rows, number)
                found.append(_look(checks, batch, schema, source, here))
                before += batch.num_rows
        if before != taken.was.table_rows:
            raise CannotTake("it does not have the rows that its record says")
    return found


def _look(
    checks: Sequence[Prepared], batch: pa.RecordBatch, schema: Schema, source: Ints, row: Ints
) -> list[Any]:
    columns = dict(zip(batch.schema.names, batch.columns, strict=True))
    row_name = schema.provenance.source_row
    if row_name is not False:
        columns[row_name] = ints(row)
    about = {column.name: column for column in schema.columns}
    return look(checks, TableRows(columns, about, source, row))


def _rows(job: TakenJob, batch: pa.RecordBatch, schema: Schema) -> Ints:
    """Which row of its source each row is."""
    name = schema.provenance.source_row
    if name is not False:
        return wholes(batch.column(schema.arrow.names.index(name)))
    found = []
    for piece in job.pieces:
        taken = job.taken[piece.source]
        begin = piece.start - taken.pieces[0].start
        found.append(_rows_of_runs(taken.runs)[begin : begin + piece.end - piece.start])
    return np.concatenate(found)


def _rows_of_runs(runs: Sequence[tuple[int, int, int]]) -> Ints:
    """The rows that runs stand for, one by one."""
    some = [np.repeat(np.arange(row, row + rows), each) for row, rows, each in runs]
    return np.concatenate(some) if some else np.array([], np.int64)


class Folded(NamedTuple):
    """What is known of the values of the sources that are taken over, as their batches gave it once."""

    sketches: list[ColumnSketch]
    missing: Counter[tuple[int, str, str]]
    categories: list[ValueCounts]
    filled: list[int]


def folded(over: TakenOver, columns: Sequence[Column], identified: Sequence[Identified]) -> Folded:
    """Fold what the record says of the values of sources.

    Parameters
    ----------
    over
        What is taken over.
    columns
        The columns of the table.
    identified
        The identifiers of all sources of the run.
    """
    made = Folded([], Counter(), [], [0] * len(columns))
    if over.values is None:
        return made
    table = over.values
    names, sources = table["column"].to_pylist(), wholes(table["source"].combine_chunks())
    places: dict[str, list[int]] = {}
    for at, name in enumerate(names):
        places.setdefault(name, []).append(at)
    given = {number: identified[number].values for number in over.sources}
    for number, column in enumerate(columns):
        lines = np.array(places.get(column.name, []), np.int64)
        here = sources[lines]
        if len(lines):
            some = table.take(ints(lines)).combine_chunks()
            made.sketches.append(_sketch(number, column, here, some))
            filled = made.sketches[-1].sketch.filled
            is_named = np.array([column.name in given[each] for each in here.tolist()])
            made.filled[number] += int(filled[~is_named].sum())
            _fold_counts(made, number, column, here, some, is_named)
        for each, values in given.items():
            value, rows = values.get(column.name), over.sources[each].was.table_rows
            if value is not None:
                made.filled[number] += rows
                if column.kind.is_counted:
                    made.categories.append(ValueCounts(number, each, {value: rows}))
    return made


def _fold_counts(
    made: Folded, number: int, column: Column, sources: Ints, some: pa.Table, is_named: npt.NDArray[np.bool_]
) -> None:
    for kind in ("missing", "counts"):
        array = some[kind].combine_chunks()
        for at in np.flatnonzero(wholes(pc.binary_length(array)) > 0).tolist():
            said, source = array[at].as_py(), int(sources[at])
            if kind == "missing":
                made.missing.update(
                    {(source, column.name, code): count for code, count in json.loads(said).items()}
                )
            elif not is_named[at]:
                values = None if said == MANY else json.loads(said)
                made.categories.append(ValueCounts(number, source, values))


def _sketch(number: int, column: Column, sources: Ints, some: pa.Table) -> ColumnSketch:
    filled, empty = (wholes(pc.cast(some[name].combine_chunks(), pa.int64())) for name in ("filled", "empty"))
    least, median, greatest = (
        _numbers(some[name].combine_chunks(), column) for name in ("least", "median", "greatest")
    )
    first, last = (_texts(some[name].combine_chunks()) for name in ("first", "last"))
    return ColumnSketch(number, sources, filled + empty, Sketch(filled, least, median, greatest), first, last)


def _texts(array: pa.Array) -> pa.Array:
    return pc.if_else(pc.equal(array, texts([""])[0]), texts([None])[0], array)


def _numbers(array: pa.Array, column: Column) -> npt.NDArray[np.float64]:
    """Values from texts, as the numbers that stand for them in sketches; NaN where there is none."""
    return column.kind.numbers_in(_texts(array))
