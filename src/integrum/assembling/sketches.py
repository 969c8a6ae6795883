"""The sketches of a run: the values of each column in each source, in bounded memory and in the same pass."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import floats, ints, texts, truths, wholes
from integrum.arrow.shelf import Shelf
from integrum.columns.typed import as_numbers
from integrum.deciding.seen import Range
from integrum.plan.column import Column
from integrum.values.sketch import Sketch, numbers_of, sketch

Ints = npt.NDArray[np.int64]
TIMES = {"date": pa.date32(), "time": pa.time64("us"), "datetime": pa.timestamp("us")}


@dataclass(frozen=True)
class ColumnSketch:
    """The values of one column in some sources of a batch.

    Attributes
    ----------
    number
        The number of the column.
    sources, rows
        The numbers of the sources, and how many rows of the table are of each.
    sketch
        Of numbers, dates and times; of others only how many there are.
    first, last
        The first and the last value of each source, as texts; null where that cell is empty.
    """

    number: int
    sources: Ints
    rows: Ints
    sketch: Sketch
    first: pa.Array
    last: pa.Array


def sketch_columns(
    columns: Sequence[pa.Array], wholes: Mapping[int, pa.Array | None], wanted: Sequence[Column], source: Ints
) -> list[ColumnSketch]:
    """Sketch the columns of some rows, which come source by source.

    Parameters
    ----------
    columns
        All columns of the table.
    wholes
        By number those that the sources have: as Arrow types, where they were cast anyway.
    wanted
        What the plan says of them.
    source
        The number of the source of each row.
    """
    if not len(source):
        return []
    first = np.flatnonzero(np.diff(source, prepend=-1))
    rows = np.diff(first, append=len(source))
    heads, tails = ints(first), ints(first + rows - 1)
    made = []
    for number, whole in wholes.items():
        array, column = columns[number], wanted[number]
        typed = array if whole is None else whole
        if pa.types.is_string(typed.type) and column.type in ("integer", "number", *TIMES):
            typed = as_numbers(array, column)
        numbers = numbers_of(typed)
        if numbers is None:
            filled = rows
            if array.null_count:
                filled = np.add.reduceat(truths(array.is_valid()), first, dtype=np.int64)
            nothing = np.full(len(first), np.nan)
            one = Sketch(filled, nothing, nothing, nothing)
        else:
            one = sketch(numbers, first)
        made.append(ColumnSketch(number, source[first], rows, one, array.take(heads), array.take(tails)))
    return made


_KEPT = pa.schema(
    [(name, pa.int64()) for name in ("column", "source", "rows", "filled")]
    + [(name, pa.float64()) for name in ("least", "median", "greatest")]
    + [(name, pa.string()) for name in ("first", "last")]
)
# what a sketch weighs besides its sources, and how much is kept in memory
_WEIGHT, MOST = 8, 1 << 20


def _put_away(at: int, some: Sequence[ColumnSketch]) -> pa.Table:
    sources = np.concatenate([one.sources for one in some])
    numbers = [
        np.full(len(sources), at),
        sources,
        np.concatenate([one.rows for one in some]),
        np.concatenate([one.sketch.filled for one in some]),
    ]
    values = [np.concatenate([getattr(one.sketch, name) for one in some]) for name in Sketch._fields[1:]]
    cells = [pa.concat_arrays([_as_text(getattr(one, name)) for one in some]) for name in ("first", "last")]
    arrays = [*map(ints, numbers), *map(_floats, values), *cells]
    return pa.Table.from_arrays(arrays, schema=_KEPT)


def _taken_out(at: int, away: pa.Table) -> ColumnSketch:
    array = {name: away[name].combine_chunks() for name in away.column_names}
    filled = wholes(array["filled"])
    values = (floats(array[name]) for name in ("least", "median", "greatest"))
    one = Sketch(filled, *values)
    return ColumnSketch(
        at, wholes(array["source"]), wholes(array["rows"]), one, array["first"], array["last"]
    )


def _floats(values: npt.NDArray[np.float64]) -> pa.Array:
    buffer = pa.py_buffer(np.ascontiguousarray(values, np.float64))
    return pa.Array.from_buffers(pa.float64(), len(values), [None, buffer])


@dataclass
class Sketches:
    """The sketches of a run.

    Attributes
    ----------
    columns
        The columns of the table.
    """

    columns: Sequence[Column]
    _made: list[list[ColumnSketch]] = field(default_factory=list)
    _shelf: Shelf = field(default_factory=lambda: Shelf(_KEPT))
    _held: int = 0

    def __post_init__(self) -> None:
        self._made = [[] for _ in self.columns]

    def add(self, made: Sequence[ColumnSketch]) -> None:
        """Take those of a batch."""
        for one in made:
            self._made[one.number].append(one)
            self._held += _WEIGHT + len(one.sources)
        if self._held > MOST:
            for at, some in enumerate(self._made):
                if some:
                    self._shelf.add(_put_away(at, some))
                    some.clear()
            self._held = 0

    def _some(self, at: int) -> list[ColumnSketch]:
        """Those of a column, in the order of the batches."""
        away = self._shelf.of(at)
        return [*([_taken_out(at, away)] if len(away) else []), *self._made[at]]

    def tables(
        self,
        converted: Mapping[tuple[str, int], str],
        missing: Callable[[int], Mapping[int, Mapping[str, int]]],
        values: Callable[[int], Mapping[int, Mapping[str, int] | None]],
    ) -> Iterator[pa.Table]:
        """All of them, column by column: a row for each source.

        Parameters
        ----------
        converted
            By column and source the unit that its values were converted from.
        missing
            By the number of a column: by source how often each missing code was met.
        values
            By the number of a column: by source the counts of its values; None where it has too many.

        Yields
        ------
        pyarrow.Table
            With the columns of `NAMES`: the number of the source, and texts.
        """
        for at in range(len(self.columns)):
            some = self._some(at)
            if some:
                codes = {number: _in_order(met) for number, met in missing(at).items()}
                counts = {
                    number: MANY if one is None else _in_order(one) for number, one in values(at).items()
                }
                yield self._of(at, some, converted, codes, counts)

    def _of(
        self,
        at: int,
        some: Sequence[ColumnSketch],
        converted: Mapping[tuple[str, int], str],
        missing: Mapping[int, str],
        counts: Mapping[int, str],
    ) -> pa.Table:
        sources = np.concatenate([one.sources for one in some])
        order = np.argsort(sources, kind="stable")
        sources, taking = sources[order], ints(order)
        rows = np.concatenate([one.rows for one in some])[order]
        whole = Sketch(
            *(np.concatenate(each)[order] for each in zip(*(one.sketch for one in some), strict=True))
        )
        first, last = (
            pa.concat_arrays([_as_text(getattr(one, name)) for one in some]).take(taking)
            for name in ("first", "last")
        )
        starts = np.flatnonzero(np.diff(sources, prepend=-1))
        ends = np.append(starts[1:], len(sources)) - 1
        if len(starts) < len(sources):
            whole = _joined(whole, rows, starts)
            rows = np.add.reduceat(rows, starts)
        kind = TIMES.get(self.columns[at].type)
        return pa.table(
            {
                "column": texts([self.columns[at].name]).take(ints(np.zeros(len(starts), np.int64))),
                "source": ints(sources[starts]),
                "filled": ints(whole.filled),
                "empty": ints(rows - whole.filled),
                "least": _texts_of(whole.least, kind),
                "median": _texts_of(whole.median, kind),
                "greatest": _texts_of(whole.greatest, kind),
                "first": first.take(ints(starts)),
                "last": last.take(ints(ends)),
                "converted_from": self._units(at, sources[starts], converted),
                "missing": _said(missing, sources[starts]),
                "counts": _said(counts, sources[starts]),
            }
        )

    def _units(self, at: int, sources: Ints, converted: Mapping[tuple[str, int], str]) -> pa.Array:
        name = self.columns[at].name
        if not any(column == name for column, _ in converted):
            return pa.nulls(len(sources), pa.string())
        return texts([converted.get((name, number)) for number in sources.tolist()])

    def reaches(self) -> dict[str, tuple[str, str]]:
        """The least and the greatest value of each column of numbers, dates or times."""
        found = {}
        for at, column in enumerate(self.columns):
            both = [(one.sketch.least, one.sketch.greatest) for one in self._some(at)]
            ends = np.array(
                [[np.fmin.reduce(low), np.fmax.reduce(high)] for low, high in both if len(low)]
                or [[np.nan] * 2]
            )
            least, greatest = np.fmin.reduce(ends[:, 0]), np.fmax.reduce(ends[:, 1])
            said = _texts_of(np.array([least, greatest]), TIMES.get(column.type)).to_pylist()
            if not np.isnan(least):
                found[column.name] = (said[0], said[1])
        return found

    def filled(self, name: str) -> dict[int, int]:
        """How many values each source has in a column."""
        found: dict[int, int] = {}
        for at, column in enumerate(self.columns):
            for one in self._some(at) if column.name == name else ():
                for number, count in zip(one.sources.tolist(), one.sketch.filled.tolist(), strict=True):
                    found[number] = found.get(number, 0) + count
        return found

    def ranges(self) -> Iterator[tuple[Column, list[Range]]]:
        """The ranges of each column of numbers, by source."""
        for at, column in enumerate(self.columns):
            if column.type not in ("integer", "number"):
                continue
            found: dict[int, Range] = {}
            for one in self._some(at):
                together = zip(one.sources.tolist(), *(each.tolist() for each in one.sketch), strict=True)
                for number, count, least, median, greatest in together:
                    if count:
                        here = Range(number, 0, count, least, greatest, median)
                        found[number] = here.with_more(found[number]) if number in found else here
            yield column, [found[number] for number in sorted(found)]


NAMES = (
    "column",
    "source",
    "filled",
    "empty",
    "least",
    "median",
    "greatest",
    "first",
    "last",
    "converted_from",
    "missing",
    "counts",
)
# stands for the counts of too many values
MANY = "many"


def _in_order(counts: Mapping[str, int]) -> str:
    """Counts as JSON, the most frequent first."""
    return json.dumps(dict(sorted(counts.items(), key=lambda one: (-one[1], one[0]))), ensure_ascii=False)


def _said(of: Mapping[int, str], sources: Ints) -> pa.Array:
    return (
        texts([of.get(number) for number in sources.tolist()]) if of else pa.nulls(len(sources), pa.string())
    )


def _joined(whole: Sketch, rows: Ints, starts: Ints) -> Sketch:
    """Sketches of several batches of a source as one; its median is that of the batch with most values."""
    ends = np.append(starts[1:], len(rows))
    most = np.array(
        [start + int(np.argmax(whole.filled[start:end])) for start, end in zip(starts, ends, strict=True)]
    )
    return Sketch(
        np.add.reduceat(whole.filled, starts),
        np.fmin.reduceat(whole.least, starts),
        whole.median[most],
        np.fmax.reduceat(whole.greatest, starts),
    )


def _as_text(values: pa.Array) -> pa.Array:
    return values if pa.types.is_string(values.type) else pc.cast(values, pa.string())


def _texts_of(values: npt.NDArray[np.float64], kind: pa.DataType | None) -> pa.Array:
    """Numbers as texts; those that stand for dates and times as these."""
    there = ~np.isnan(values)
    valid = pa.py_buffer(np.packbits(there, bitorder="little"))
    if kind is None:
        array = pa.Array.from_buffers(
            pa.float64(), len(values), [valid, pa.py_buffer(np.ascontiguousarray(values))]
        )
        return pc.cast(array, pa.string())
    whole = np.where(there, values, 0).astype(np.int64)
    array = pa.Array.from_buffers(pa.int64(), len(values), [valid, pa.py_buffer(whole)])
    if pa.types.is_time(kind):
        return _short(pc.cast(pc.cast(array, kind), pa.string()))
    moments = pc.cast(array, pa.timestamp("us"))
    if pa.types.is_date(kind):
        return pc.cast(pc.cast(moments, pa.date32(), safe=False), pa.string())
    return _short(pc.cast(moments, pa.string()))


def _short(times: pa.Array) -> pa.Array:
    """Times without a fraction of a second that says nothing."""
    return pc.replace_substring_regex(times, r"\.0+$", "")
