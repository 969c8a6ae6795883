"""What a job finds out about the values of its columns, source by source."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import Ints, ints, truths
from integrum.columns.typed import as_numbers
from integrum.plan.column import Column
from integrum.problems import MOST_RAW
from integrum.values.sketch import SAMPLED, Sketch, numbers_of, sketch


@dataclass(frozen=True)
class ColumnSketch:
    """The values of one column in some sources of a batch."""

    number: int
    # the numbers of the sources, and how many rows of the table are of each
    sources: Ints
    rows: Ints
    sketch: Sketch  # of numbers, dates and times; of others only how many there are
    # the first and the last value of each source, as texts; null where that cell is empty
    first: pa.Array
    last: pa.Array


def sketch_columns(
    columns: Sequence[pa.Array], wholes: Mapping[int, pa.Array | None], wanted: Sequence[Column], source: Ints
) -> list[ColumnSketch]:
    """Sketch the columns of some rows, which come source by source.

    `wholes`: by number those that the sources have: as Arrow types, where they were cast anyway.
    """
    if not len(source) or not wholes:
        return []
    first = np.flatnonzero(np.diff(source, prepend=-1))
    rows = np.diff(first, append=len(source))
    sources = source[first]
    there = pa.RecordBatch.from_arrays([columns[at] for at in wholes], [f"{at}" for at in wholes])
    heads, tails = (_cut(there.take(ints(places))) for places in (first, first + rows - 1))
    together = max(1, _VALUES // (len(source) + SAMPLED * len(first)))
    made = []
    numbers = list(wholes)
    for start in range(0, len(numbers), together):
        some = numbers[start : start + together]
        each = _sketched(
            [columns[at] for at in some], [wholes[at] for at in some], [wanted[at] for at in some], first
        )
        ends = zip(some, each, heads[start : start + together], tails[start : start + together], strict=True)
        made += [ColumnSketch(at, sources, rows, one, head, tail) for at, one, head, tail in ends]
    return made


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


# so many values are sketched at once, columns beside one another
_VALUES = 1 << 18


def _sketched(
    columns: Sequence[pa.Array], wholes: Sequence[pa.Array | None], wanted: Sequence[Column], first: Ints
) -> list[Sketch]:
    """The sketches of some columns: of numbers, dates and times at once; of others only how many there are."""
    found: list[Sketch | None] = []
    values = []
    for array, whole, column in zip(columns, wholes, wanted, strict=True):
        typed = array if whole is None else whole
        if pa.types.is_string(typed.type) and column.kind.has_order:
            typed = as_numbers(array, column)
        numbers = numbers_of(typed)
        if numbers is not None:
            values.append(numbers)
            found.append(None)
            continue
        filled = np.diff(first, append=len(array))
        if array.null_count:
            filled = np.add.reduceat(truths(array.is_valid()), first, dtype=np.int64)
        nothing = np.full(len(first), np.nan)
        found.append(Sketch(filled, nothing, nothing, nothing))
    if not values:
        return [one for one in found if one is not None]
    whole = sketch(np.stack(values) if len(values) > 1 else values[0][None, :], first)
    each = (Sketch(*some) for some in zip(*whole, strict=True))
    return [next(each) if one is None else one for one in found]
