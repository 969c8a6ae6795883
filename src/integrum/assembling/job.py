"""One job of a run: pieces in, a finished batch of the table out. Runs on any worker."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import flags, ints, texts
from integrum.assembling.schema import Schema
from integrum.engine.job import Counts, Job, Part, counted, in_order, parts_of
from integrum.engine.judging import Judged
from integrum.plan.column import Column
from integrum.reading.aside import Aside
from integrum.reading.left_out import SET_ASIDE, LeftOut, in_place
from integrum.reading.parsing import raw_rows
from integrum.values.pipeline import Converted, convert

Ints = npt.NDArray[np.int64]


@dataclass(frozen=True)
class Batch:
    """What a job gives back.

    Attributes
    ----------
    output, payload
        Which output, and what it appends.
    spans
        The number of each source in it, with its rows and its bytes in the payload; bytes only in CSV.
    counts
        Rows by what they are.
    aside
        Cells and rows kept out, in the order of their places.
    filled
        Cells with a value, by column.
    left_out, judged
        Rows that are not in the table, and which of them read like the data, for each family.
    """

    output: str
    payload: Any
    spans: tuple[tuple[int, int, int], ...]
    counts: Counts
    aside: Sequence[Aside]
    filled: tuple[int, ...]
    left_out: Sequence[LeftOut] = ()
    judged: Sequence[Judged] = ()

    @property
    def rows(self) -> int:
        """Rows in the payload."""
        return sum(rows for _, rows, _ in self.spans)


def assemble_batch(job: Job, schema: Schema) -> Batch:
    """Parse pieces, bring their columns into the table's order, convert the values, and pack the batch."""
    parts = parts_of(job)
    counts = Counts.of(parts)
    aside = [one for part in parts for one in part.rows.aside]
    pieces_of_table = []
    for part in parts:
        columns, bad = _converted(part, schema)
        source, row = part.rows.source, part.rows.row
        aside += _about_bad(part, bad, schema)
        if bad and schema.bad_values == "set-row-aside":
            keep = np.ones(len(source), bool)
            keep[np.concatenate([positions for _, positions in bad])] = False
            counts.set_aside.update(counted(source[~keep]))
            columns = [column.filter(flags(keep)) for column in columns]
            source, row = source[keep], row[keep]
        pieces_of_table.append((columns, source, row))
    by_rule = schema.bad_values == "set-row-aside"

    def is_row(one: Aside) -> bool:
        return one.is_row or (by_rule and one.code == "bad-value")

    columns, source, row = _stacked(pieces_of_table, len(schema.columns))
    columns = _with_identifiers(columns, schema.columns, job, source)
    counts.data = counted(source)
    batch = pa.RecordBatch.from_arrays(
        [*_provenance(schema, job, source, row), *columns],
        schema=schema.arrow if not schema.as_text else None,
        names=schema.arrow.names if schema.as_text else None,
    )
    numbers = sorted(counts.data)
    rows = [counts.data[number] for number in numbers]
    payload, sizes = schema.pack(batch, rows)
    filled = tuple(len(column) - column.null_count for column in columns)
    spans = tuple(zip(numbers, rows, sizes, strict=True))
    left_out = [one for part in parts for one in part.rows.left_out]
    left_out += [LeftOut(one.source, one.row, SET_ASIDE, one.raw) for one in aside if is_row(one)]
    judged = [part.judged for part in parts]
    return Batch(job.output, payload, spans, counts, in_order(aside), filled, in_place(left_out), judged)


def _converted(part: Part, schema: Schema) -> tuple[list[pa.Array], list[tuple[int, Ints]]]:
    """The columns of the table from one family, and the positions of bad values by the number of their column."""
    columns: list[pa.Array] = []
    bad: list[tuple[int, Ints]] = []
    nothing: dict[str, pa.Array] = {}
    size = len(part.rows.row)
    for number, (binding, column) in enumerate(zip(part.family.bound.bindings, schema.columns, strict=True)):
        if not binding.positions:
            kind = "text" if schema.as_text else column.type
            if kind not in nothing:
                nothing[kind] = Converted(pa.nulls(size, pa.string())).typed(kind)
            columns.append(nothing[kind])
            continue
        done = convert(part.rows.columns[binding.positions[0]], binding.conversion, schema.as_text)
        columns.append(done.text if schema.as_text else done.typed(column.type))
        if len(done.bad):
            bad.append((number, done.bad))
    return columns, bad


def _about_bad(part: Part, bad: Sequence[tuple[int, Ints]], schema: Schema) -> list[Aside]:
    """One entry for each bad cell; where their rows are set aside one for each row, with its raw text."""
    rows, bindings = part.rows, part.family.bound.bindings
    cells = [
        Aside(int(rows.source[at]), int(rows.row[at]), bindings[number].column, "bad-value", raw)
        for number, positions in bad
        for at, raw in zip(
            positions.tolist(),
            rows.columns[bindings[number].positions[0]].take(ints(positions)).to_pylist(),
            strict=True,
        )
    ]
    if schema.bad_values != "set-row-aside":
        return cells
    columns: dict[tuple[int, int], list[str]] = {}
    for one in cells:
        columns.setdefault((one.source, one.row or 0), []).append(one.column)
    raw_of = raw_rows(part.pieces, columns, part.family.format.dialect)
    return [Aside(*place, ", ".join(names), "bad-value", raw_of[place]) for place, names in columns.items()]


def _stacked(
    parts: Sequence[tuple[list[pa.Array], Ints, Ints]], width: int
) -> tuple[list[pa.Array], Ints, Ints]:
    """The rows of several families in the order of their sources."""
    if len(parts) == 1:
        return parts[0]
    source = np.concatenate([source for _, source, _ in parts])
    row = np.concatenate([row for _, _, row in parts])
    order = np.argsort(source, kind="stable")
    taking = ints(order)
    columns = [pa.concat_arrays([columns[at] for columns, _, _ in parts]).take(taking) for at in range(width)]
    return columns, source[order], row[order]


def _with_identifiers(
    columns: list[pa.Array], wanted: Sequence[Column], job: Job, source: Ints
) -> list[pa.Array]:
    """Fill identifiers from their sources, where a source has them."""
    numbers = sorted(job.sources)
    at = np.searchsorted(np.array(numbers), source)
    result = list(columns)
    for position, column in enumerate(wanted):
        has = np.array([column.name in job.identifiers[number] for number in numbers])
        if not has.any():
            continue
        kind = columns[position].type
        values = pc.cast(texts([job.identifiers[number].get(column.name) for number in numbers]), kind)
        values = values.take(ints(at))
        result[position] = values if has.all() else pc.if_else(flags(has[at]), values, columns[position])
    return result


def _provenance(schema: Schema, job: Job, source: Ints, row: Ints) -> list[pa.Array]:
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
