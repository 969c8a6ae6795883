"""The values of each column in each source: how many, the least, the median, the greatest."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from typing import NamedTuple

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.columns.table_schema import as_numbers
from integrum.dispatch.job import State
from integrum.measures.measure import Context, FamilyTable, Measure, Recalled, TableBatch, ValueLines
from integrum.plan.column import Column
from integrum.problems.problem import MOST_RAW
from integrum.values.arrays import (
    NOTHING,
    Floats,
    Ints,
    each_once,
    floats,
    in_one,
    ints,
    text,
    texts,
    truths,
    wholes,
)
from integrum.values.sketch import SAMPLED, Sketch, numbers_of, sketch
from integrum.values.spill import Spill
from integrum.values.types import TYPES

_KEPT = pa.schema(
    [(name, pa.int64()) for name in ("column", "source", "rows", "filled")]
    + [(name, pa.float64()) for name in ("least", "median", "greatest")]
    + [(name, pa.string()) for name in ("first", "last")]
)
# this many entries are kept in memory
MOST = 1 << 19
# about this many rows are put together at once
_TOGETHER = 16_000


class Sketches(NamedTuple):
    """Sketches of values: an entry for each column of each source."""

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


# this many values are sketched at once
_VALUES = 1 << 18


def sketch_columns(families: Sequence[FamilyTable], wanted: Sequence[Column]) -> list[Sketches]:
    """Sketch the columns of some rows, all columns of a type at once.

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


def _rows_of(made: Sequence[Sketches]) -> pa.Table:
    """Sketches as rows, in their order."""
    numbers = [np.concatenate([one[at] for one in made]) for at in range(3)]
    numbers.append(np.concatenate([one.sketch.filled for one in made]))
    values = [np.concatenate([getattr(one.sketch, name) for one in made]) for name in Sketch._fields[1:]]
    cells = [pa.concat_arrays([getattr(one, name) for one in made]) for name in ("first", "last")]
    return pa.Table.from_arrays([*map(ints, numbers), *map(_floats, values), *cells], schema=_KEPT)


def _known(away: pa.Table) -> Sketches:
    """Rows that were put away, those of a source in several batches as one."""
    array = {name: in_one(away[name]) for name in away.column_names}
    columns, sources, rows, filled = (wholes(array[name]) for name in ("column", "source", "rows", "filled"))
    values = Sketch(filled, *(floats(array[name]) for name in ("least", "median", "greatest")))
    first, last = array["first"], array["last"]
    order = np.lexsort((sources, columns))
    if (np.diff(order) < 0).any():
        columns, sources, rows = columns[order], sources[order], rows[order]
        values = values.at(order)
        first, last = first.take(ints(order)), last.take(ints(order))
    begins = (np.diff(columns, prepend=-1) != 0) | (np.diff(sources, prepend=-1) != 0)
    starts = np.flatnonzero(begins)
    if len(starts) < len(sources):
        ends = np.append(starts[1:], len(sources)) - 1
        values, rows = _joined(values, starts), np.add.reduceat(rows, starts)
        columns, sources = columns[starts], sources[starts]
        first, last = first.take(ints(starts)), last.take(ints(ends))
    return Sketches(columns, sources, rows, values, first, last)


def _floats(values: Floats) -> pa.Array:
    buffer = pa.py_buffer(np.ascontiguousarray(values, np.float64))
    return pa.Array.from_buffers(pa.float64(), len(values), [None, buffer])


class ValuesBySource(State[Sequence[Sketches]]):
    """Collects the sketches of a run."""

    def __init__(self, context: Context) -> None:
        self._columns = context.columns
        self._place = {column.name: at for at, column in enumerate(self._columns)}
        self._reach = np.full((len(self._columns), 2), np.nan)
        # the ways back from the numbers of a sketch to the texts of values, and that of each column
        self._ways = list(dict.fromkeys(column.kind.from_numbers for column in self._columns))
        self._way_of = np.array([self._ways.index(one.kind.from_numbers) for one in self._columns], np.int64)
        self._made: list[Sketches] = []
        self._shelf, self._held = Spill(_KEPT), 0

    def add(self, seen: Sequence[Sketches]) -> None:
        """Add the counts of one job."""
        for one in seen:
            self._held += len(one.sources)
            np.fmin.at(self._reach[:, 0], one.columns, one.sketch.least)
            np.fmax.at(self._reach[:, 1], one.columns, one.sketch.greatest)
        self._made += seen
        if self._held > MOST:
            self._put_away()

    def _put_away(self) -> None:
        if self._made:
            self._shelf.add(_rows_of(self._made))
        self._made, self._held = [], 0

    def _groups(self) -> Iterator[Sketches]:
        """What is known of the columns, a few at a time."""
        self._put_away()
        most = max(1, _TOGETHER * len(self._columns) // max(len(self._shelf), 1))
        for start in range(0, len(self._columns), most):
            away = self._shelf.between(start, start + most - 1)
            if len(away):
                yield _known(away)

    def _as_texts(self, columns: Ints, values: Floats) -> pa.Array:
        """The texts of the values of columns that numbers of sketches stand for."""
        ways = self._way_of[columns]
        found, places = [], []
        for way in each_once(ways).tolist():
            at = np.flatnonzero(ways == way)
            found.append(self._ways[way](values[at]))
            places.append(at)
        if len(found) < 2:
            return found[0]
        order = np.empty(len(columns), np.int64)
        order[np.concatenate(places)] = np.arange(len(columns))
        return pa.concat_arrays(found).take(ints(order))

    def lines(self, others: Mapping[str, Callable[[int], Mapping[int, str]]]) -> Iterator[pa.Table]:
        """The lines of ``values.csv``, column by column: a row for each source.

        Yields the number of the source, and texts.

        `others`: columns of the file that other measures fill: by name what gives the cells of a column by source.
        """
        for known in self._groups():
            first = int(known.columns[0])
            names = texts([column.name for column in self._columns[first : known.columns[-1] + 1]])
            cells = {
                "column": names.take(ints(known.columns - first)),
                "source": ints(known.sources),
                "filled": ints(known.sketch.filled),
                "empty": ints(known.rows - known.sketch.filled),
                **{
                    name: self._as_texts(known.columns, getattr(known.sketch, name))
                    for name in ("least", "median", "greatest")
                },
                "first": known.first,
                "last": known.last,
            }
            for name, of in others.items():
                cells[name] = _said(of, known)
            yield pa.table(cells)

    def reaches(self) -> dict[str, tuple[str, str]]:
        """The least and the greatest value of each column of numbers, dates or times."""
        if not self._columns:
            return {}
        every = np.arange(len(self._columns))
        said = [self._as_texts(every, self._reach[:, end]).to_pylist() for end in (0, 1)]
        return {
            column.name: (least, greatest)
            for column, least, greatest in zip(self._columns, *said, strict=True)
            if least is not None
        }

    def filled(self, name: str) -> dict[int, int]:
        """How many values each source has in a column."""
        self._put_away()
        known = _known(self._shelf.of(self._place[name]))
        return dict(zip(known.sources.tolist(), known.sketch.filled.tolist(), strict=True))

    def ranges(self) -> Iterator[tuple[Column, Ints, Sketch]]:
        """The sources of each column of numbers, and what is known of its values in each."""
        for known in self._groups():
            for at, place in _each(known.columns):
                if self._columns[at].kind.is_number:
                    yield self._columns[at], known.sources[place], known.sketch.at(place)


class Values(Measure[TableBatch, Sequence[Sketches], ValuesBySource]):
    """The measure of the values of each column in each source."""

    begin = ValuesBySource

    def look(self, rows: TableBatch) -> Sequence[Sketches]:
        """Sketch the columns that the sources have."""
        return sketch_columns(rows.converted, rows.schema.columns)

    def recall(self, earlier: Recalled) -> Sequence[Sketches]:
        """The sketches that the record has; each source as if it had come at once."""
        columns, lines = earlier.schema.columns, earlier.values
        if not len(lines.sources):  # later rows of a source that began before
            return ()
        filled, first, last = lines.whole("filled"), _or_none(lines, "first"), _or_none(lines, "last")
        rows = filled + lines.whole("empty")
        reach = [_numbers(lines, name, columns) for name in Sketch._fields[1:]]
        return [Sketches(lines.columns, lines.sources, rows, Sketch(filled, *reach), first, last)]


def _each(columns: Ints) -> Iterator[tuple[int, slice]]:
    """Numbers of columns, which stand together, with the places of each."""
    starts = np.flatnonzero(np.diff(columns, prepend=-1, append=-1)).tolist()
    for start, end in pairwise(starts):
        yield int(columns[start]), slice(start, end)


def _numbers(lines: ValueLines, name: str, columns: Sequence[Column]) -> Floats:
    """The numbers that stand for values; all of one type at once."""
    cells, found = _or_none(lines, name), np.empty(len(lines.columns))
    kinds = np.array([column.type for column in columns])[lines.columns]
    for kind in each_once(kinds).tolist():
        at = np.flatnonzero(kinds == kind)
        found[at] = TYPES[kind].numbers_in(cells.take(ints(at)))
    return found


def _or_none(lines: ValueLines, name: str) -> pa.Array:
    array = lines.column(name)
    return pc.if_else(pc.equal(array, text("")), NOTHING, array)


def _said(of: Callable[[int], Mapping[int, str]], known: Sketches) -> pa.Array:
    """The column of `values.csv` that another measure fills; null where it has no value."""
    found: list[str | None] = []
    for at, place in _each(known.columns):
        some, sources = of(at), known.sources[place].tolist()
        found += [some.get(number) for number in sources] if some else [None] * len(sources)
    return texts(found)


VALUES = Values()


def _joined(whole: Sketch, starts: Ints) -> Sketch:
    """Sketches of several batches of a source as one; its median is that of the batch with most values."""
    which = np.repeat(np.arange(len(starts)), np.diff(starts, append=len(whole.filled)))
    most = np.lexsort((-whole.filled, which))[starts]
    return Sketch(
        np.add.reduceat(whole.filled, starts),
        np.fmin.reduceat(whole.least, starts),
        whole.median[most],
        np.fmax.reduceat(whole.greatest, starts),
    )
