"""One job of a run: pieces in, a finished batch of the table out. Runs on any worker."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import flags, ints, texts
from integrum.plan.model import Column, Provenance
from integrum.reading.head import Form
from integrum.reading.parsing import Rows, parse, raw_rows
from integrum.reading.pieces import Piece
from integrum.values.check import ARROW, check, typed
from integrum.values.pipeline import tidied, with_point

Pack = Callable[[pa.RecordBatch], Any]


@dataclass(frozen=True)
class Shape:
    """What the table is like; the same for all jobs of a run.

    Attributes
    ----------
    columns
        All columns but those of provenance, in order.
    provenance
        The columns that say where a row came from.
    bad_values
        The plan's rule.
    as_text
        Whether the output takes canonical text, or Arrow types.
    pack
        Turns a batch into what the output appends; importable, for workers elsewhere.
    """

    columns: tuple[Column, ...]
    provenance: Provenance
    bad_values: str
    as_text: bool
    pack: Pack

    @property
    def schema(self) -> pa.Schema:
        """The schema of the table that comes out, with its Arrow types."""
        fields = [
            pa.field(name, kind)
            for name, kind in (
                (self.provenance.source, pa.string()),
                (self.provenance.sheet, pa.string()),
                (self.provenance.source_row, pa.int64()),
            )
            if name is not False
        ]
        return pa.schema(fields + [pa.field(column.name, ARROW[column.type]) for column in self.columns])


@dataclass(frozen=True)
class Variant:
    """A header variant and where the table's columns stand in it."""

    form: Form
    positions: tuple[int | None, ...]


@dataclass(frozen=True)
class Job:
    """Consecutive pieces of the run, and what is needed to digest them.

    Attributes
    ----------
    shape
        What the table is like.
    pieces
        In their order.
    variants
        By number, those that the pieces have.
    names
        What stands in the provenance column, by source.
    sheets
        The same for the sheet of a workbook.
    identifiers
        By source, those that it has; a column that is not among them is filled from the data.
    output
        Which of the run's outputs the rows go to.
    """

    shape: Shape
    pieces: tuple[Piece, ...]
    variants: Mapping[int, Variant]
    names: Mapping[int, str]
    sheets: Mapping[int, str | None] = field(default_factory=dict)
    identifiers: Mapping[int, Mapping[str, str | None]] = field(default_factory=dict)
    output: str = ""


@dataclass(frozen=True)
class Aside:
    """A cell or row kept out of the table.

    Attributes
    ----------
    source, row
        Its place; `source` is the number of the source in the run. No row: the whole source.
    column
        For a cell: its column.
    code
        Why.
    raw
        Its text as it stands in the source.
    """

    source: int
    row: int | None
    column: str
    code: str
    raw: str


@dataclass
class Digest:
    """What a job gives back.

    Attributes
    ----------
    output, payload
        Which output, and what it appends.
    rows
        Rows in the payload.
    data, blank, repeated, aside_rows
        Rows per source.
    aside
        Cells and rows kept out, in order.
    filled
        Cells with a value, by column.
    """

    output: str
    payload: Any
    rows: int
    data: Counter[int]
    blank: Counter[int]
    repeated: Counter[int]
    aside_rows: Counter[int]
    aside: list[Aside] = field(default_factory=list)
    filled: tuple[int, ...] = ()


def digest(job: Job) -> Digest:
    """Parse pieces, bring their columns into the table's order, check the values, and pack the batch."""
    by_variant: dict[int, list[Piece]] = {}
    for piece in job.pieces:
        by_variant.setdefault(piece.variant, []).append(piece)
    parts = []
    for number, pieces in by_variant.items():
        variant = job.variants[number]
        rows = parse(pieces, variant.form)
        parts.append((localised(rows, variant, job.shape.columns), variant.positions))
    columns, source, row = stack(parts, len(job.shape.columns))
    aside = [Aside(one.source, one.row, "", one.code, one.text) for rows, _ in parts for one in rows.aside]
    aside_rows = Counter(one.source for one in aside)
    aside += [
        Aside(one.source, one.row, one.column, "beside-the-table", one.text)
        for rows, _ in parts
        for one in rows.beside
    ]
    checked, cells = check_columns(columns, job.shape.columns, source, row)
    checked = fill_identifiers(checked, job, source)
    if cells and job.shape.bad_values == "set-row-aside":
        rows_aside = _raw_rows(cells, job)
        bad = sorted({position for position, _ in cells})
        keep = np.ones(len(source), bool)
        keep[bad] = False
        checked = [column.filter(flags(keep)) for column in checked]
        aside_rows.update(source[bad].tolist())
        aside += rows_aside
        source, row = source[keep], row[keep]
    else:
        aside += [one for _, one in cells]
    aside.sort(key=lambda one: (one.source, one.row or 0))
    batch = _batch(job, checked, source, row)
    return Digest(
        job.output,
        job.shape.pack(batch),
        len(source),
        _count(source),
        _count(np.concatenate([rows.blank for rows, _ in parts])),
        _count(np.concatenate([rows.repeated for rows, _ in parts])),
        aside_rows,
        aside,
        tuple(len(column) - column.null_count for column in checked),
    )


def localised(rows: Rows, variant: Variant, wanted: Sequence[Column]) -> Rows:
    """Rows whose columns of numbers are written with a decimal point, as the type check wants them."""
    form = variant.form
    if form.decimal == "." and not form.thousands:
        return rows
    columns = list(rows.columns)
    for column, at in zip(wanted, variant.positions, strict=True):
        if at is not None and column.type in ("number", "integer"):
            columns[at] = with_point(columns[at], form.decimal, form.thousands)
    return replace(rows, columns=columns)


def check_columns(
    columns: Sequence[pa.Array],
    wanted: Sequence[Column],
    source: npt.NDArray[np.int64],
    row: npt.NDArray[np.int64],
) -> tuple[list[pa.Array], list[tuple[int, Aside]]]:
    """Check every column; give the canonical texts, and the bad cells with their positions."""
    done: list[pa.Array] = []
    cells: list[tuple[int, Aside]] = []
    for values, column in zip(columns, wanted, strict=True):
        result = check(tidied(values, column), column.type, tuple(column.missing))
        done.append(result.text)
        if len(result.bad):
            raw = values.take(ints(result.bad)).to_pylist()
            cells += [
                (at, Aside(int(source[at]), int(row[at]), column.name, "bad-value", text))
                for at, text in zip(result.bad.tolist(), raw, strict=True)
            ]
    return done, cells


def fill_identifiers(columns: list[pa.Array], job: Job, source: npt.NDArray[np.int64]) -> list[pa.Array]:
    """Fill identifiers from their sources, where a source has them."""
    numbers = sorted(job.names)
    at = np.searchsorted(np.array(numbers), source)
    result = list(columns)
    for position, column in enumerate(job.shape.columns):
        has = np.array([column.name in job.identifiers.get(number, ()) for number in numbers])
        if not has.any():
            continue
        values = texts([job.identifiers.get(number, {}).get(column.name) for number in numbers]).take(
            ints(at)
        )
        result[position] = values if has.all() else pc.if_else(flags(has[at]), values, columns[position])
    return result


def stack(
    parts: Sequence[tuple[Rows, tuple[int | None, ...]]], width: int
) -> tuple[list[pa.Array], npt.NDArray[np.int64], npt.NDArray[np.int64]]:
    """Bring parsed rows of several variants into the table's columns and the order of the sources."""
    arranged = []
    for rows, positions in parts:
        nothing = pa.nulls(len(rows.row), pa.string())
        arranged.append([nothing if at is None else rows.columns[at] for at in positions])
    source = np.concatenate([rows.source for rows, _ in parts])
    row = np.concatenate([rows.row for rows, _ in parts])
    if len(parts) == 1:
        return arranged[0], source, row
    order = np.argsort(source, kind="stable")
    taking = ints(order)
    columns = [pa.concat_arrays([part[at] for part in arranged]).take(taking) for at in range(width)]
    return columns, source[order], row[order]


def _raw_rows(cells: Sequence[tuple[int, Aside]], job: Job) -> list[Aside]:
    """One entry per row, with the row's raw text and the names of its bad columns."""
    columns: dict[tuple[int, int], list[str]] = {}
    for _, one in cells:
        columns.setdefault((one.source, one.row or 0), []).append(one.column)
    forms = {number: variant.form for number, variant in job.variants.items()}
    raw = raw_rows(job.pieces, list(columns), forms)
    return [Aside(*place, ", ".join(names), "bad-value", raw[place]) for place, names in columns.items()]


def _batch(
    job: Job, checked: list[pa.Array], source: npt.NDArray[np.int64], row: npt.NDArray[np.int64]
) -> pa.RecordBatch:
    shape = job.shape
    first: list[pa.Array] = []
    numbers = sorted(job.names)
    at = ints(np.searchsorted(np.array(numbers), source))
    for name, given in ((shape.provenance.source, job.names), (shape.provenance.sheet, job.sheets)):
        if name is not False:
            first.append(texts([given.get(number) for number in numbers]).take(at))
    if shape.provenance.source_row is not False:
        first.append(ints(row))
    if not shape.as_text:
        checked = [typed(text, column.type) for text, column in zip(checked, shape.columns, strict=True)]
    return pa.RecordBatch.from_arrays(first + checked, names=shape.schema.names)


def _count(source: npt.NDArray[np.int64]) -> Counter[int]:
    numbers, counts = np.unique(source, return_counts=True)
    return Counter(dict(zip(numbers.tolist(), counts.tolist(), strict=True)))
