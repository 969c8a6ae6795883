"""Counts of the values of columns that have only a few, for each source, in the pass of the run."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import NamedTuple

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.dispatch.job import State
from integrum.measures.items import CategoryEntry
from integrum.measures.measure import Context, Measure, Recalled, TableBatch
from integrum.measures.tables import CATEGORIES
from integrum.plan.column import Column
from integrum.record.table import RecordColumn, RecordTable, json_text
from integrum.values.arrays import Ints, ints, texts, wholes
from integrum.values.spill import Spill

# this many distinct values are a few; this stands for the counts of more
MOST, MANY = 40, "many"
_LONGEST = 1_000
_FIRST = 2_000
# this many counts are kept side by side while they are made
_TABLE = 1 << 20


class ValueCounts(NamedTuple):
    """The values of a column in a source."""

    # their numbers
    column: int
    source: int
    values: Mapping[str, int] | None  # how often each value is there; None where it has too many


Counts = Sequence[ValueCounts]


def count_values(columns: Sequence[pa.Array], wanted: Sequence[Column], source: Ints) -> list[ValueCounts]:
    """Count the values of the columns of a batch that have a few.

    `source`: the number of the source of each row; the rows come source by source.

    Examples
    --------
    >>> many = pa.array([str(at) for at in range(50)])
    >>> lake = pa.array(["a", "b", "a", None] + [None] * 46)
    >>> [tuple(one) for one in count_values([lake, many], [Column("lake"), Column("remark")], np.zeros(50, np.int64))]
    [(0, 0, {'a': 2, 'b': 1}), (1, 0, None)]
    """
    found: list[ValueCounts] = []
    if not len(source):
        return found
    starts = np.flatnonzero(np.diff(source, prepend=-1))
    ends = np.append(starts[1:], len(source))
    numbers = source[starts].tolist()
    for at, (array, column) in enumerate(zip(columns, wanted, strict=True)):
        if column.kind.is_counted and array.null_count < len(array):
            counts = _by_source(array, starts, ends)
            found += [
                ValueCounts(at, number, values)
                for number, values in zip(numbers, counts, strict=True)
                if values is None or values
            ]
    return found


def _by_source(array: pa.Array, starts: Ints, ends: Ints) -> Iterator[Mapping[str, int] | None]:
    """The counts of each source. A column that clearly has too many values is not counted."""
    pairs = list(zip(starts.tolist(), ends.tolist(), strict=True))
    if _has_many(array, *pairs[0]):
        for start, end in pairs:
            if _has_many(array, start, end):
                yield None
            else:
                yield from _counted(array.slice(start, end - start), [(0, end - start)])
        return
    yield from _counted(array, pairs)


def _has_many(array: pa.Array, start: int, end: int) -> bool:
    size = min(end - start, _FIRST)
    return size > MOST and len(pc.unique(array.slice(start, size))) > MOST + 1


def _counted(array: pa.Array, pairs: Sequence[tuple[int, int]]) -> Iterator[Mapping[str, int] | None]:
    coded = array.dictionary_encode()
    said = coded.dictionary.cast(pa.string())
    # texts as long as these are no categories; where there are some, none of the column are counted
    if said.nbytes > _LONGEST and pc.max(pc.binary_length(said)).as_py() > _LONGEST:
        yield from [None] * len(pairs)
        return
    said = said.to_pylist()
    codes = wholes(coded.indices)
    # each value of each source as one number
    sizes = [end - start for start, end in pairs]
    here = codes
    if len(pairs) > 1:
        here = np.repeat(np.arange(len(pairs)) * len(said), sizes) + codes
    here = here[codes >= 0] if array.null_count else here
    if len(said) * len(pairs) <= _TABLE:
        every = np.bincount(here, minlength=len(said) * len(pairs))
        distinct = np.flatnonzero(every)
        counts = every[distinct]
    else:
        distinct, counts = np.unique(here, return_counts=True)
    ends = np.searchsorted(distinct, np.arange(1, len(pairs) + 1) * len(said)).tolist()
    values, numbers, start = (distinct % max(len(said), 1)).tolist(), counts.tolist(), 0
    for end in ends:
        if end - start > MOST:
            yield None
        else:
            yield dict(zip([said[code] for code in values[start:end]], numbers[start:end], strict=True))
        start = end


class CategoryCounts(State[Counts]):
    """Adds up the counts of a run."""

    def __init__(self, context: Context) -> None:
        self._columns = context.columns
        self._counts = HeldCounts()
        self._totals: dict[int, dict[str, int] | None] = {}

    def add(self, seen: Counts) -> None:
        """Add the counts of one job."""
        for at, source, some in seen:
            self._counts.add(at, source, some)
            _merge(self._totals, at, some, MOST)

    def of_values(self, at: int) -> Mapping[int, str]:
        """By source the counts of the values of a column."""
        counts = self._counts.of(at, MOST)
        return {number: MANY if one is None else counts_text(one) for number, one in counts.items()}

    def entries(self) -> Iterator[tuple[RecordTable[CategoryEntry], Iterable[CategoryEntry]]]:
        """The values of each column that has a few, the most frequent first."""
        yield (
            CATEGORIES,
            (
                CategoryEntry(self._columns[at].name, value, count)
                for at, some in sorted(self._totals.items())
                if some
                for value, count in in_order(some)
            ),
        )


class Categories(Measure[TableBatch, Counts, CategoryCounts]):
    """The measure of how often each value is there, in columns with few values."""

    begin = CategoryCounts

    value_column = RecordColumn(
        "counts",
        f"JSON: how often each value of a text or a boolean is there; `{MANY}` where there are more than {MOST}",
        read=lambda cell: None if cell == MANY else json.loads(cell or "{}"),
    )

    def look(self, rows: TableBatch) -> Counts:
        """Count the values of a job."""
        return count_values(rows.columns, rows.schema.columns, rows.source)

    def recall(self, earlier: Recalled) -> Counts:
        """The counts of the record; an identifier has one value in all rows of its source."""
        found = [
            ValueCounts(column, source, None if said == MANY else json.loads(said))
            for column, source, said in earlier.values.said("counts")
            if earlier.schema.columns[column].name not in earlier.identifiers[source]
        ]
        for at, column in enumerate(earlier.schema.columns):
            for source, given in earlier.identifiers.items() if column.kind.is_counted else ():
                value = given.get(column.name)
                if value is not None:
                    found.append(ValueCounts(at, source, {value: earlier.was[source].table_rows}))
        return found


# this many counts, each of a column in a source, are kept in memory
MOST_KEPT = 1 << 17
_KEPT = pa.schema({"column": pa.int64(), "source": pa.int64(), "counts": pa.string()})


class HeldCounts:
    """Counts by column and source; most of them lie on the disk."""

    def __init__(self) -> None:
        self._counts: dict[int, dict[int, list[Mapping[str, int] | None]]] = {}
        self._shelf, self._held = Spill(_KEPT), 0

    def add(self, at: int, source: int, some: Mapping[str, int] | None) -> None:
        """Add some counts of a column in a source."""
        self._counts.setdefault(at, {}).setdefault(source, []).append(some)
        self._held += 1
        if self._held > MOST_KEPT:
            self._shelf.add(_put_away(self._counts))
            self._counts, self._held = {}, 0

    def of(self, at: int, most: int = 0) -> dict[int, dict[str, int] | None]:
        """The counts of a column, added up over the sources; None where there are too many values."""
        found: dict[int, dict[str, int] | None] = {}
        away = self._shelf.of(at)
        for source, said in zip(away["source"].to_pylist(), away["counts"].to_pylist(), strict=True):
            _merge(found, source, json.loads(said) if said else None, most)
        for source, parts in self._counts.get(at, {}).items():
            for some in parts:
                _merge(found, source, some, most)
        return found


def in_order(counts: Mapping[str, int]) -> list[tuple[str, int]]:
    """Sort counts, the most frequent first."""
    return sorted(counts.items(), key=lambda one: (-one[1], one[0]))


def counts_text(counts: Mapping[str, int]) -> str:
    """The counts as JSON."""
    return json_text(dict(in_order(counts)))


def _merge(
    into: dict[int, dict[str, int] | None], key: int, some: Mapping[str, int] | None, most: int = 0
) -> None:
    """Add counts; None stands for too many values."""
    total = into.setdefault(key, {})
    if some is None or total is None:
        into[key] = None
        return
    for value, count in some.items():
        total[value] = total.get(value, 0) + count
    if most and len(total) > most:
        into[key] = None


def _put_away(counts: Mapping[int, Mapping[int, Sequence[Mapping[str, int] | None]]]) -> pa.Table:
    every = [
        (at, source, "" if one is None else json.dumps(one, ensure_ascii=False))
        for at, some in counts.items()
        for source, parts in some.items()
        for one in parts
    ]
    columns, sources = (np.array([one[at] for one in every], np.int64) for at in (0, 1))
    said = texts([one[2] for one in every])
    return pa.Table.from_arrays([ints(columns), ints(sources), said], schema=_KEPT)


CATEGORY_COUNTS = Categories()
