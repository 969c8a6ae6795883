"""The columns of the table from the rows of one family: bound, turned into rows where they are wide, converted."""

from __future__ import annotations

from collections import Counter
from collections.abc import Hashable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import Ints, flags, ints, truths
from integrum.columns.binding import Binding
from integrum.columns.table_schema import TableSchema
from integrum.columns.typed import zone_of
from integrum.engine.job import FamilyRows, counted
from integrum.plan.column import Column
from integrum.reading.aside import SetAside
from integrum.reading.parsing import Rows
from integrum.reading.wide_rows import rows_of_cells
from integrum.values.checking import Converted
from integrum.values.joining import convert_joined
from integrum.values.manner import Conversion
from integrum.values.pipeline import convert, convert_together


@dataclass(frozen=True)
class Bad:
    """Values that are not of the type of their column: their positions, their raw texts, and what is said of them."""

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
    """Make the columns of the table from the rows of each family; what is converted in one way is so at once."""
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
    """By family, and by the number of the column: those that are made of one cell each."""
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
    """Of several cells the first that is filled, with the raw texts; those that differ from it are noted."""
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
    """Cells of one position: their raw texts, their canonical ones, which are filled and which are bad."""

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
