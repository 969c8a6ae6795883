"""One job of a run: pieces in, rows of the table out. Runs on any worker."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Hashable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.columns.binding import Binding
from integrum.columns.table_schema import TableSchema, zone_of
from integrum.dispatch.job import FamilyRows, Job, Looked, counted
from integrum.measures.measure import FamilyTable, TableBatch
from integrum.plan.column import Column
from integrum.reading.parsing import Rows, raw_rows, rows_of_cells
from integrum.reading.parts import DATA, SET_ASIDE, LeftOutRow, SetAside, in_place
from integrum.values.arrays import Ints, Mask, each_once, flags, ints, texts, truths
from integrum.values.checking import Converted
from integrum.values.joining import convert_joined
from integrum.values.notation import Conversion
from integrum.values.pipeline import convert, convert_together
from integrum.writing.output import Pack


@dataclass(frozen=True)
class Bad:
    """Values that do not have the type of their column: positions, raw texts, reasons."""

    binding: Binding
    positions: Ints
    raw: pa.Array
    said: Mapping[int, str]


@dataclass(frozen=True)
class FamilyColumns:
    """The columns of the table from one family."""

    rows: Rows  # the rows of the table, before those with bad values are taken out
    columns: list[pa.Array]
    bad: list[Bad]  # values that are not of the type of their column
    differing: list[SetAside]  # cells that a column would take, too, but that differ from the one that it has
    empty: Ints  # the sources of cells of wide sources that gave no row, one entry for each
    # how often each missing code was met, by source, column and code
    missing: Counter[tuple[int, str, str]] = field(default_factory=Counter)
    # the same of signs that were read in numbers though no plan tells of them
    signs: Counter[tuple[int, str, str]] = field(default_factory=Counter)
    # the same of dates that could only be read in another order of day and month, by that order
    other_orders: Counter[tuple[int, str, str]] = field(default_factory=Counter)
    # by the number of a column that the source has: its values as Arrow types, where they were cast anyway
    wholes: dict[int, pa.Array | None] = field(default_factory=dict)


def table_columns(parts: Sequence[FamilyRows], schema: TableSchema, as_text: bool) -> list[FamilyColumns]:
    """Make the columns of the table from the rows of each family; equal conversions are made at once."""
    begun = []
    for part in parts:
        wide = part.family.bound.wide
        begun.append(rows_of_cells(part.rows, wide) if wide else (part.rows, part.rows.source[:0]))
    converted = _converted(parts, [rows for rows, _ in begun], as_text)
    return [
        _of_family(part, rows, without, schema, as_text, done)
        for part, (rows, without), done in zip(parts, begun, converted, strict=True)
    ]


def _converted(
    parts: Sequence[FamilyRows], rows: Sequence[Rows], as_text: bool
) -> list[dict[int, Converted]]:
    """The columns that are made of one cell each, by family and number of the column."""
    alike: dict[Hashable, list[tuple[int, int]]] = {}
    how: dict[Hashable, Conversion] = {}
    for number, part in enumerate(parts):
        for at, binding in enumerate(part.family.bound.bindings):
            if len(binding.positions) == 1 and not binding.joined:
                conversion = binding.conversion_at(0)
                key = conversion.key or (number, at)
                how.setdefault(key, conversion)
                alike.setdefault(key, []).append((number, at))
    found: list[dict[int, Converted]] = [{} for _ in parts]
    for key, places in alike.items():
        raw = [rows[number].columns[_position(parts[number], at)] for number, at in places]
        for (number, at), done in zip(places, convert_together(raw, how[key], as_text), strict=True):
            found[number][at] = done
    return found


def _position(part: FamilyRows, at: int) -> int:
    return part.family.bound.bindings[at].positions[0]


def _of_family(
    part: FamilyRows,
    rows: Rows,
    without: Ints,
    schema: TableSchema,
    as_text: bool,
    converted: Mapping[int, Converted],
) -> FamilyColumns:
    """The columns of the table from the rows of one family."""
    made = FamilyColumns(rows, [], [], [], without)
    nothing: dict[tuple[str, str], pa.Array] = {}
    for binding, column in zip(part.family.bound.bindings, schema.columns, strict=True):
        if not binding.positions:
            key = ("text" if as_text else column.type, zone_of(column))
            if key not in nothing:
                empty = pa.nulls(len(rows.row), pa.string())
                nothing[key] = empty if as_text else Converted(empty).typed(column.kind, key[1])
            made.columns.append(nothing[key])
            continue
        raw = rows.columns[binding.positions[0]]
        if binding.joined:
            cells = [rows.columns[at] for at in binding.positions]
            done, raw = convert_joined(cells, binding.conversion, as_text)
        elif len(binding.positions) > 1:
            done, raw = _first_filled(rows, binding, column, made.differing)
        else:
            done = converted[len(made.columns)]
        typed = done.whole if as_text else done.typed(column.kind, zone_of(column))
        made.columns.append(done.text if as_text else typed)
        made.wholes[len(made.columns) - 1] = typed
        if len(done.bad):
            made.bad.append(Bad(binding, done.bad, raw.take(ints(done.bad)), done.said))
        if (done.missing or done.signs or done.other_orders) and not binding.conversion.take:
            for found, met in (
                (made.missing, done.missing),
                (made.signs, done.signs),
                (made.other_orders, done.other_orders),
            ):
                for text, at in met.items():
                    here = counted(rows.source[at]).items()
                    found.update({(number, binding.column, text): count for number, count in here})
    return made


def _first_filled(
    rows: Rows, binding: Binding, column: Column, differing: list[SetAside]
) -> tuple[Converted, pa.Array]:
    """The first filled cell of several in each row, with the raw texts; different ones are noted."""
    first, *others = (
        _Cells(rows.columns[at], binding.conversion_at(number)) for number, at in enumerate(binding.positions)
    )
    for other in others:
        both = np.flatnonzero(first.filled & other.filled)
        if len(both):
            differing += _differing(rows, column, first, other, both)
        first = first.completed(other)
    return Converted(first.text, np.flatnonzero(first.bad)), first.raw


class _Cells:
    """The cells at one position: raw texts, canonical texts, which are filled, which are bad."""

    def __init__(self, raw: pa.Array, how: Conversion) -> None:
        done = convert(raw, how)
        self.raw, self.text = raw, done.text
        self.bad = np.zeros(len(raw), bool)
        self.bad[done.bad] = True
        self.filled = truths(done.text.is_valid()) | self.bad

    def completed(self, other: _Cells) -> _Cells:
        """The same with the other's cells where it has none."""
        has = flags(self.filled)
        both = object.__new__(_Cells)
        both.raw, both.text = pc.if_else(has, self.raw, other.raw), pc.if_else(has, self.text, other.text)
        both.bad = np.where(self.filled, self.bad, other.bad)
        both.filled = self.filled | other.filled
        return both


def _differing(rows: Rows, column: Column, one: _Cells, other: _Cells, at: Ints) -> Iterator[SetAside]:
    taking, zone = ints(at), zone_of(column)
    values = [Converted(cells.text.take(taking)).typed(column.kind, zone) for cells in (one, other)]
    same = truths(pc.equal(*values))  # never where one of them is bad
    places: Sequence[int] = at[~same].tolist()
    for place in places:
        said = f"{one.raw[place].as_py()} | {other.raw[place].as_py()}"
        yield SetAside(int(rows.source[place]), int(rows.row[place]), column.name, "values-differ", said)


def made_of(job: Job, schema: TableSchema, as_text: bool, pack: Pack) -> tuple[TableBatch, Any]:
    """Make rows of the table of a job: parse, bind, convert, pack.

    Returns the rows, for measures to look at, and what the output appends.
    """
    looked = Looked.of(job)
    counts, aside = looked.counts, looked.aside
    missing: Counter[tuple[int, str, str]] = Counter()
    signs: Counter[tuple[int, str, str]] = Counter()
    other_orders: Counter[tuple[int, str, str]] = Counter()
    pieces_of_table, converted = [], []
    every = table_columns(looked.families, schema, as_text)
    for part, made in zip(looked.families, every, strict=True):
        columns, source, row = made.columns, made.rows.source, made.rows.row
        counts.empty.update(counted(made.empty))
        missing.update(made.missing)
        signs.update(made.signs)
        other_orders.update(made.other_orders)
        aside += made.differing
        if any(one.binding.bad_values == "set-row-aside" for one in made.bad):
            gone = {(one.source, one.row): one for one in _rows_aside(part, made)}
            aside += (one for one in _bad_cells(made, "blank") if (one.source, one.row) not in gone)
            aside += gone.values()
            keep, here = _without(made.rows, gone), Counter(number for number, _ in gone)
            counts.parts[DATA].subtract(here)
            counts.parts[SET_ASIDE].update(here)
            counts.empty.subtract(_empty_in(made, part, gone))
            columns = [column.filter(flags(keep)) for column in columns]
            source, row = source[keep], row[keep]
            made.wholes.update(dict.fromkeys(made.wholes))
        elif made.bad:
            aside += _bad_cells(made, "blank", "set-source-aside")
        counts.table.update(counted(source))
        converted.append(FamilyTable(columns, made.wholes, source))
        pieces_of_table.append((columns, source, row))

    columns, source, row = _stacked(pieces_of_table, len(schema.columns))
    columns = _with_identifiers(columns, schema.columns, job, source)
    batch = pa.RecordBatch.from_arrays(
        [*_provenance(schema, job, source, row), *columns],
        schema=None if as_text else schema.arrow,
        names=schema.names if as_text else None,
    )
    numbers = sorted(number for number, count in counts.table.items() if count)
    rows = [counts.table[number] for number in numbers]
    payload, sizes = pack(batch, rows)
    left_out = [one for part in looked.families for one in part.rows.left_out]
    left_out += [LeftOutRow(one.source, one.row, SET_ASIDE, one.raw) for one in aside if one.is_row]
    spans = list(zip(numbers, rows, sizes, strict=True))
    made_rows = (
        schema,
        batch,
        columns,
        converted,
        source,
        row,
        in_place(left_out),
        missing,
        signs,
        other_orders,
        spans,
    )
    return TableBatch(job, looked.families, counts, aside, *made_rows), payload


def _bad_cells(made: FamilyColumns, *rules: str) -> Iterator[SetAside]:
    """An entry for each bad cell of the columns with one of these rules."""
    rows = made.rows
    for bad in made.bad:
        if bad.binding.bad_values in rules:
            for at, raw in zip(bad.positions.tolist(), bad.raw.to_pylist(), strict=True):
                place = int(rows.source[at]), int(rows.row[at])
                yield SetAside(*place, bad.binding.column, "bad-value", raw, said=bad.said.get(at, ""))


def _rows_aside(part: FamilyRows, made: FamilyColumns) -> Iterator[SetAside]:
    """An entry, with its raw text, for each row that has a bad cell."""
    columns: dict[tuple[int, int], dict[str, None]] = {}
    said: dict[tuple[int, int], str] = {}
    for one in _bad_cells(made, "set-row-aside"):
        said.setdefault((one.source, one.row or 0), one.said)
        columns.setdefault((one.source, one.row or 0), {})[one.column] = None
    raw_of = raw_rows(part.pieces, columns, part.family.format.dialect)
    for place, names in columns.items():
        yield SetAside(*place, ", ".join(names), "bad-value", raw_of[place], True, said[place])


def _without(rows: Rows, gone: Collection[tuple[int, int | None]]) -> Mask:
    """Mask of the rows of the table that are not set aside."""
    places = np.array(sorted((number, row or 0) for number, row in gone), np.int64)
    keep = np.ones(len(rows.row), bool)
    for number in each_once(places[:, 0]):
        keep[(rows.source == number) & np.isin(rows.row, places[places[:, 0] == number, 1])] = False
    return keep


def _empty_in(
    made: FamilyColumns, part: FamilyRows, gone: Collection[tuple[int, int | None]]
) -> Counter[int]:
    """Count the empty cells of wide rows that are set aside; they must not be counted as skipped again."""
    wide = part.family.bound.wide
    if wide is None:
        return Counter()
    there = Counter(zip(made.rows.source.tolist(), made.rows.row.tolist(), strict=True))
    found: Counter[int] = Counter()
    for number, row in gone:
        found[number] += len(wide.keys) - there[number, row or 0]
    return found


def _stacked(
    parts: Sequence[tuple[list[pa.Array], Ints, Ints]], width: int
) -> tuple[list[pa.Array], Ints, Ints]:
    """Stack the rows of several families in the order of their sources."""
    if len(parts) == 1:
        return parts[0]
    source = np.concatenate([source for _, source, _ in parts])
    row = np.concatenate([row for _, _, row in parts])
    if (np.diff(source) >= 0).all():
        return (
            [pa.concat_arrays([columns[at] for columns, _, _ in parts]) for at in range(width)],
            source,
            row,
        )
    order = np.argsort(source, kind="stable")
    if len(source) > _LONG * len(each_once(source)):
        # the rows of a source stand together in a family: to copy them run by run is faster than one by one
        runs = sorted(
            (int(some[first]), number, int(first), int(end - first))
            for number, (_, some, _) in enumerate(parts)
            for first, end in _runs(some)
        )
        columns = [
            pa.concat_arrays([parts[number][0][at].slice(first, size) for _, number, first, size in runs])
            for at in range(width)
        ]
        return columns, source[order], row[order]
    taking = ints(order)
    columns = [pa.concat_arrays([columns[at] for columns, _, _ in parts]).take(taking) for at in range(width)]
    return columns, source[order], row[order]


def _runs(source: Ints) -> Iterator[tuple[int, int]]:
    """The first and the last row of each source."""
    starts = np.flatnonzero(np.diff(source, prepend=-1)).tolist()
    return zip(starts, [*starts[1:], len(source)], strict=False)


# with this many rows of each source
_LONG = 64


def _with_identifiers(
    columns: list[pa.Array], wanted: Sequence[Column], job: Job, source: Ints
) -> list[pa.Array]:
    """Fill identifiers."""
    numbers = sorted(job.sources)
    at = np.searchsorted(np.array(numbers), source)
    result = list(columns)
    given = {name for number in numbers for name in job.identifiers[number]}
    for position, column in enumerate(wanted):
        if column.name not in given:
            continue
        has = np.array([column.name in job.identifiers[number] for number in numbers])
        found = Converted(texts([job.identifiers[number].get(column.name) for number in numbers]))
        is_text = pa.types.is_string(columns[position].type)
        values = found.text if is_text else found.typed(column.kind, zone_of(column))
        values = values.take(ints(at))
        result[position] = values if has.all() else pc.if_else(flags(has[at]), values, columns[position])
    return result


def _provenance(schema: TableSchema, job: Job, source: Ints, row: Ints) -> list[pa.Array]:
    """The columns that say where each row came from."""
    numbers = sorted(job.sources)
    at = ints(np.searchsorted(np.array(numbers), source))
    sheets: Mapping[int, str | None] = {
        number: one.sheet.name if one.sheet else None for number, one in job.sources.items()
    }
    result: list[pa.Array] = []
    for name, given in ((schema.provenance.source, job.labels), (schema.provenance.sheet, sheets)):
        if name is not False:
            result.append(texts([given[number] for number in numbers]).take(at))
    if schema.provenance.source_row is not False:
        result.append(ints(row))
    return result
