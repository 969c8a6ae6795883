"""The sketches of a run put together: the values of each column in each source, in bounded memory."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import groupby, pairwise

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import NOTHING, Floats, Ints, floats, in_one, ints, text, texts, wholes
from integrum.arrow.shelf import Shelf
from integrum.engine.state import State
from integrum.measures.measure import Context, Made, Measure, Recalled, ValueLines
from integrum.measures.value_sketch import ColumnSketch, sketch_columns
from integrum.plan.column import Column
from integrum.values.sketch import Sketch
from integrum.values.types import TYPES, Type

_KEPT = pa.schema(
    [(name, pa.int64()) for name in ("column", "source", "rows", "filled")]
    + [(name, pa.float64()) for name in ("least", "median", "greatest")]
    + [(name, pa.string()) for name in ("first", "last")]
)
# what a sketch weighs besides its sources, and how much is kept in memory
_WEIGHT, MOST = 8, 1 << 19
# about so many rows are put together at once
_TOGETHER = 50_000


@dataclass(frozen=True)
class _Known:
    """What is known of the values of some columns, ordered by column and source."""

    columns: Ints
    sources: Ints
    rows: Ints
    sketch: Sketch
    first: pa.Array
    last: pa.Array


def _rows_of(made: Sequence[ColumnSketch], columns: Sequence[Column]) -> pa.Table:
    """Sketches as rows, in their order."""
    kinds = [columns[one.number].kind for one in made]
    sizes = [len(one.sources) for one in made]
    numbers = [
        np.repeat(np.array([one.number for one in made], np.int64), sizes),
        np.concatenate([one.sources for one in made]),
        np.concatenate([one.rows for one in made]),
        np.concatenate([one.sketch.filled for one in made]),
    ]
    values = [np.concatenate([getattr(one.sketch, name) for one in made]) for name in Sketch._fields[1:]]
    cells = [_all_as_text([getattr(one, name) for one in made], kinds) for name in ("first", "last")]
    return pa.Table.from_arrays([*map(ints, numbers), *map(_floats, values), *cells], schema=_KEPT)


def _all_as_text(cells: Sequence[pa.Array], kinds: Sequence[Type]) -> pa.Array:
    """Cells of all columns as texts; neighbours of one type at once."""
    found = []
    for kind, some in groupby(zip(cells, kinds, strict=True), key=lambda one: (one[0].type, one[1].name)):
        run = list(some)
        whole = pa.concat_arrays([cell for cell, _ in run])
        found.append(whole if pa.types.is_string(kind[0]) else run[0][1].full_text(whole))
    return pa.concat_arrays(found)


def _known(away: pa.Table) -> _Known:
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
    return _Known(columns, sources, rows, values, first, last)


def _floats(values: Floats) -> pa.Array:
    buffer = pa.py_buffer(np.ascontiguousarray(values, np.float64))
    return pa.Array.from_buffers(pa.float64(), len(values), [None, buffer])


class ValuesBySource(State[Sequence[ColumnSketch]]):
    """Puts the sketches of a run together."""

    def __init__(self, context: Context) -> None:
        self._columns = context.columns
        self._place = {column.name: at for at, column in enumerate(self._columns)}
        self._reach = np.full((len(self._columns), 2), np.nan)
        self._made: list[ColumnSketch] = []
        self._shelf, self._held = Shelf(_KEPT), 0

    def add(self, seen: Sequence[ColumnSketch]) -> None:
        """Take those of a task."""
        for one in seen:
            self._held += _WEIGHT + len(one.sources)
            if len(one.sources):
                reach = self._reach[one.number]
                reach[0] = np.fmin(reach[0], np.fmin.reduce(one.sketch.least))
                reach[1] = np.fmax(reach[1], np.fmax.reduce(one.sketch.greatest))
        self._made += seen
        if self._held > MOST:
            self._put_away()

    def _put_away(self) -> None:
        if self._made:
            self._shelf.add(_rows_of(self._made, self._columns))
        self._made, self._held = [], 0

    def _groups(self, wanted: Callable[[Column], bool] = lambda _: True) -> Iterator[_Known]:
        """What is known of the columns, a few at a time whose numbers stand for values in the same way."""
        self._put_away()
        most = max(1, _TOGETHER * len(self._columns) // max(len(self._shelf), 1))
        for _, some in groupby(range(len(self._columns)), key=self._way_back):
            numbers = list(some)
            if not any(wanted(self._columns[at]) for at in numbers):
                continue
            for start in range(0, len(numbers), most):
                here = numbers[start : start + most]
                away = self._shelf.between(here[0], here[-1])
                if len(away):
                    yield _known(away)

    def _way_back(self, at: int) -> Callable[[Floats], pa.Array]:
        """The way from the numbers of a sketch back to the texts of the values of a column."""
        return self._columns[at].kind.from_numbers

    def lines(self, others: Mapping[str, Callable[[int], Mapping[int, str]]]) -> Iterator[pa.Table]:
        """The lines of ``values.csv``, column by column: a row for each source.

        Yields the number of the source, and texts.

        `others`: columns of the file that other measures fill: by name what gives the cells of a column by source.
        """
        for known in self._groups():
            first = int(known.columns[0])
            back = self._way_back(first)
            names = texts([column.name for column in self._columns[first : known.columns[-1] + 1]])
            cells = {
                "column": names.take(ints(known.columns - first)),
                "source": ints(known.sources),
                "filled": ints(known.sketch.filled),
                "empty": ints(known.rows - known.sketch.filled),
                "least": back(known.sketch.least),
                "median": back(known.sketch.median),
                "greatest": back(known.sketch.greatest),
                "first": known.first,
                "last": known.last,
            }
            for name, of in others.items():
                some = [_said(of(at), known.sources[place]) for at, place in _each(known.columns)]
                cells[name] = pa.concat_arrays(some)
            yield pa.table(cells)

    def reaches(self) -> dict[str, tuple[str, str]]:
        """The least and the greatest value of each column of numbers, dates or times."""
        found = {}
        for back, some in groupby(range(len(self._columns)), key=self._way_back):
            numbers = list(some)
            said = [back(self._reach[numbers, end]).to_pylist() for end in (0, 1)]
            for at, least, greatest in zip(numbers, *said, strict=True):
                if least is not None:
                    found[self._columns[at].name] = (least, greatest)
        return found

    def filled(self, name: str) -> dict[int, int]:
        """How many values each source has in a column."""
        self._put_away()
        known = _known(self._shelf.of(self._place[name]))
        return dict(zip(known.sources.tolist(), known.sketch.filled.tolist(), strict=True))

    def ranges(self) -> Iterator[tuple[Column, Ints, Sketch]]:
        """The sources of each column of numbers, and what is known of its values in each."""
        for known in self._groups(lambda column: column.kind.is_number):
            for at, place in _each(known.columns):
                if self._columns[at].kind.is_number:
                    yield self._columns[at], known.sources[place], known.sketch.at(place)


class Values(Measure[Made, Sequence[ColumnSketch], ValuesBySource]):
    """The values of each column in each source."""

    begin = ValuesBySource

    def look(self, rows: Made) -> Sequence[ColumnSketch]:
        """Sketch the columns that the sources have, family by family."""
        wanted = rows.schema.columns
        return [
            made
            for one in rows.converted
            for made in sketch_columns(one.columns, one.typed, wanted, one.source)
        ]

    def recall(self, earlier: Recalled) -> Sequence[ColumnSketch]:
        """The sketches that the record has; each source as if it had come at once."""
        columns, lines = earlier.schema.columns, earlier.values
        if not len(lines.sources):  # later rows of a source that began before
            return ()
        filled, first, last = lines.whole("filled"), _or_none(lines, "first"), _or_none(lines, "last")
        rows = filled + lines.whole("empty")
        reach = [_numbers(lines, name, columns) for name in Sketch._fields[1:]]
        return [
            ColumnSketch(
                at,
                lines.sources[here],
                rows[here],
                Sketch(filled[here], *(each[here] for each in reach)),
                first[here],
                last[here],
            )
            for at, here in _each(lines.columns)
        ]


def _each(columns: Ints) -> Iterator[tuple[int, slice]]:
    """Numbers of columns, which stand together, with the places of each."""
    starts = np.flatnonzero(np.diff(columns, prepend=-1, append=-1)).tolist()
    for start, end in pairwise(starts):
        yield int(columns[start]), slice(start, end)


def _numbers(lines: ValueLines, name: str, columns: Sequence[Column]) -> Floats:
    """The numbers that stand for values; all of one type at once."""
    cells, found = _or_none(lines, name), np.empty(len(lines.columns))
    kinds = np.array([column.type for column in columns])[lines.columns]
    for kind in np.unique(kinds).tolist():
        at = np.flatnonzero(kinds == kind)
        found[at] = TYPES[kind].numbers_in(cells.take(ints(at)))
    return found


def _or_none(lines: ValueLines, name: str) -> pa.Array:
    array = lines.column(name)
    return pc.if_else(pc.equal(array, text("")), NOTHING, array)


def _said(of: Mapping[int, str], sources: Ints) -> pa.Array:
    return (
        texts([of.get(number) for number in sources.tolist()]) if of else pa.nulls(len(sources), pa.string())
    )


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
