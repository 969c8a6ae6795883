"""What a job finds out about the values of its columns, source by source."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import Floats, Ints, ints, truths
from integrum.columns.typed import as_numbers
from integrum.measures.measure import FamilyTable
from integrum.plan.column import Column
from integrum.problems import MOST_RAW
from integrum.values.sketch import SAMPLED, Sketch, numbers_of, sketch


class Sketches(NamedTuple):
    """The values of columns in sources, an entry for each column of each source."""

    columns: Ints
    # the numbers of the sources, and how many rows of the table are of each
    sources: Ints
    rows: Ints
    sketch: Sketch  # of numbers, dates and times; of others only how many there are
    # the first and the last value of each source, as texts; null where that cell is empty
    first: pa.Array
    last: pa.Array


@dataclass
class _Alike:
    """Columns whose values are sketched as one: their entries, and where the values of each begin."""

    columns: list[int] = field(default_factory=list)
    values: list[pa.Array] = field(default_factory=list)
    # of each column: the first rows of its sources, and their numbers
    first: list[Ints] = field(default_factory=list)
    sources: list[Ints] = field(default_factory=list)
    # as they stand in the table: the first and the last value of each source
    heads: list[pa.Array] = field(default_factory=list)
    tails: list[pa.Array] = field(default_factory=list)
    held: int = 0


# so many values are sketched at once
_VALUES = 1 << 18


def sketch_columns(families: Sequence[FamilyTable], wanted: Sequence[Column]) -> list[Sketches]:
    """Sketch the columns of some rows, those of one type together: with few rows each call costs more than their values.

    Examples
    --------
    >>> one = FamilyTable([pa.array(["7.2", None, "8"])], {0: pa.array([7.2, None, 8.0])}, np.array([0, 0, 1]))
    >>> made, = sketch_columns([one], [Column("depth", "number")])
    >>> made.sources.tolist(), made.sketch.filled.tolist(), made.first.to_pylist(), made.last.to_pylist()
    ([0, 1], [1, 1], ['7.2', '8'], [None, '8'])
    """
    found: list[Sketches] = []
    waiting: dict[tuple[pa.DataType, pa.DataType, str], _Alike] = {}
    for family in families:
        columns, wholes, source = family.columns, family.typed, family.source
        if not len(source) or not wholes:
            continue
        first = np.flatnonzero(np.diff(source, prepend=-1))
        last, sources = np.append(first[1:], len(source)) - 1, source[first]
        there = pa.RecordBatch.from_arrays([columns[at] for at in wholes], [f"{at}" for at in wholes])
        heads, tails = (_cut(there.take(ints(places))) for places in (first, last))
        weight = len(source) + SAMPLED * len(first)
        for (at, whole), head, tail in zip(wholes.items(), heads, tails, strict=True):
            values = columns[at] if whole is None else whole
            if pa.types.is_string(values.type) and wanted[at].kind.has_order:
                values = as_numbers(columns[at], wanted[at])
            key = (values.type, head.type, wanted[at].type)
            some = waiting.setdefault(key, _Alike())
            if some.held and some.held + weight > _VALUES:
                found.append(_sketched(some, wanted))
                some = waiting[key] = _Alike()
            some.held += weight
            some.columns.append(at)
            some.values.append(values)
            some.first.append(first)
            some.sources.append(sources)
            some.heads.append(head)
            some.tails.append(tail)
    return [*found, *(_sketched(some, wanted) for some in waiting.values())]


def _cut(some: pa.RecordBatch) -> Sequence[pa.Array]:
    """The columns of some rows; of very long texts only the first letters."""
    if some.nbytes <= MOST_RAW:
        return list(some.columns)
    return [
        pc.utf8_slice_codeunits(column, 0, MOST_RAW)
        if pa.types.is_string(column.type) and column.nbytes > MOST_RAW
        else column
        for column in some.columns
    ]


def _texts(cells: Sequence[pa.Array], full_text: Callable[[pa.Array], pa.Array]) -> pa.Array:
    whole = cells[0] if len(cells) == 1 else pa.concat_arrays(cells)
    return whole if pa.types.is_string(whole.type) else full_text(whole)


def _sketched(some: _Alike, wanted: Sequence[Column]) -> Sketches:
    """The sketches of columns of one type: of numbers, dates and times; of others only how many there are."""
    kind = wanted[some.columns[0]].kind
    sizes, counts = [len(one) for one in some.values], [len(one) for one in some.first]
    shifts = np.cumsum([0, *sizes[:-1]])
    first = np.concatenate([one + shift for one, shift in zip(some.first, shifts.tolist(), strict=True)])
    rows = np.diff(first, append=sum(sizes))
    values = some.values[0] if len(some.values) == 1 else pa.concat_arrays(some.values)
    heads, tails = (_texts(cells, kind.full_text) for cells in (some.heads, some.tails))
    numbers = numbers_of(values)
    if numbers is None:
        filled = rows
        if values.null_count:
            filled = np.add.reduceat(truths(values.is_valid()), first, dtype=np.int64)
        nothing: Floats = np.full(len(first), np.nan)
        made = Sketch(filled, nothing, nothing, nothing)
    else:
        made = sketch(numbers, first)
    columns = np.repeat(np.array(some.columns, np.int64), counts)
    return Sketches(columns, np.concatenate(some.sources), rows, made, heads, tails)
