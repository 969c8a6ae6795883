"""One job of a run: pieces in, rows of the table out. Runs on any worker."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterator, Mapping, Sequence
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import Ints, Mask, each_once, flags, ints, texts
from integrum.assembling.converting import FamilyColumns, table_columns
from integrum.columns.table_schema import TableSchema
from integrum.columns.typed import zone_of
from integrum.engine.job import FamilyRows, Job, Looked, counted
from integrum.measures.measure import FamilyTable, Made
from integrum.plan.column import Column
from integrum.reading.aside import SetAside
from integrum.reading.left_out import LeftOutRow, in_place
from integrum.reading.parsing import Rows, raw_rows
from integrum.reading.parts import DATA, SET_ASIDE
from integrum.values.checking import Converted
from integrum.writing.output import Pack


def made_of(job: Job, schema: TableSchema, as_text: bool, pack: Pack) -> tuple[Made, Any]:
    """Parse pieces, bring their columns into the table's order, convert the values, and pack the rows.

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
    return Made(job, looked.families, counts, aside, *made_rows), payload


def _bad_cells(made: FamilyColumns, *rules: str) -> Iterator[SetAside]:
    """One entry for each bad cell of the columns that have one of these rules."""
    rows = made.rows
    for bad in made.bad:
        if bad.binding.bad_values in rules:
            for at, raw in zip(bad.positions.tolist(), bad.raw.to_pylist(), strict=True):
                place = int(rows.source[at]), int(rows.row[at])
                yield SetAside(*place, bad.binding.column, "bad-value", raw, said=bad.said.get(at, ""))


def _rows_aside(part: FamilyRows, made: FamilyColumns) -> Iterator[SetAside]:
    """One entry for each row of a source that has a bad cell, with its raw text."""
    columns: dict[tuple[int, int], dict[str, None]] = {}
    said: dict[tuple[int, int], str] = {}
    for one in _bad_cells(made, "set-row-aside"):
        said.setdefault((one.source, one.row or 0), one.said)
        columns.setdefault((one.source, one.row or 0), {})[one.column] = None
    raw_of = raw_rows(part.pieces, columns, part.family.format.dialect)
    for place, names in columns.items():
        yield SetAside(*place, ", ".join(names), "bad-value", raw_of[place], True, said[place])


def _without(rows: Rows, gone: Collection[tuple[int, int | None]]) -> Mask:
    """Which rows of the table are not of these rows of the sources."""
    places = np.array(sorted((number, row or 0) for number, row in gone), np.int64)
    keep = np.ones(len(rows.row), bool)
    for number in each_once(places[:, 0]):
        keep[(rows.source == number) & np.isin(rows.row, places[places[:, 0] == number, 1])] = False
    return keep


def _empty_in(
    made: FamilyColumns, part: FamilyRows, gone: Collection[tuple[int, int | None]]
) -> Counter[int]:
    """Of rows of wide sources that are set aside: the cells that gave no row, which do not count any more."""
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
    """The rows of several families in the order of their sources."""
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
    """Where the rows of each source begin and end."""
    starts = np.flatnonzero(np.diff(source, prepend=-1)).tolist()
    return zip(starts, [*starts[1:], len(source)], strict=False)


# with so many rows of each source
_LONG = 64


def _with_identifiers(
    columns: list[pa.Array], wanted: Sequence[Column], job: Job, source: Ints
) -> list[pa.Array]:
    """Fill identifiers from their sources, where a source has them."""
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
