"""Counts of the values of columns that have only a few, for each source, in the pass of the run."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import wholes
from integrum.plan.column import Column

Ints = npt.NDArray[np.int64]

# so many distinct values are a few
MOST = 40
_FIRST = 2_000
# so many counts are kept side by side while they are made
_TABLE = 1 << 20


class ValueCounts(NamedTuple):
    """The values of a column in a source.

    Attributes
    ----------
    column, source
        Their numbers.
    values
        How often each value is there; None where it has too many.
    """

    column: int
    source: int
    values: Mapping[str, int] | None


Counts = Sequence[ValueCounts]


def count_values(columns: Sequence[pa.Array], wanted: Sequence[Column], source: Ints) -> list[ValueCounts]:
    """Count the values of the columns of a batch that have a few.

    Parameters
    ----------
    columns
        The columns.
    wanted
        What the plan says of them.
    source
        The number of the source of each row; the rows come source by source.

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
        if column.type in ("text", "boolean") and array.null_count < len(array):
            counts = _by_source(array, starts, ends)
            found += [
                ValueCounts(at, number, values)
                for number, values in zip(numbers, counts, strict=True)
                if values is None or values
            ]
    return found


def _by_source(array: pa.Array, starts: Ints, ends: Ints) -> Iterator[Mapping[str, int] | None]:
    """The counts of each source; the column of one that clearly has too many values is not looked at as a whole."""
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
    said = [str(one).lower() if one in (True, False) else one for one in coded.dictionary.to_pylist()]
    codes = wholes(coded.indices)
    each = len(said) * len(pairs) <= _TABLE
    for start, end in pairs:
        here = codes[start:end]
        here = here[here >= 0] if array.null_count else here
        if each:
            counts = np.bincount(here, minlength=len(said))
            distinct = np.flatnonzero(counts)
            counts = counts[distinct]
        else:
            distinct, counts = np.unique(here, return_counts=True)
        if len(distinct) > MOST:
            yield None
        else:
            yield {said[code]: count for code, count in zip(distinct.tolist(), counts.tolist(), strict=True)}


class Categories:
    """The counts of a run.

    Parameters
    ----------
    columns
        The columns of the table.
    """

    def __init__(self, columns: Sequence[Column]) -> None:
        self._columns = columns
        self._counts: dict[tuple[int, int], dict[str, int] | None] = {}

    def add(self, counts: Counts) -> None:
        """Take those of a batch."""
        for at, source, some in counts:
            total = self._counts.setdefault((at, source), {})
            if some is None or total is None:
                self._counts[at, source] = None
                continue
            for value, count in some.items():
                total[value] = total.get(value, 0) + count
            if len(total) > MOST:
                self._counts[at, source] = None

    @property
    def by_source(self) -> Mapping[tuple[int, int], Mapping[str, int] | None]:
        """By the numbers of a column and a source the counts of its values; None where it has too many."""
        return self._counts

    def by_column(self) -> dict[str, dict[str, int]]:
        """The values of each column that has a few, the most frequent first."""
        totals: dict[int, dict[str, int] | None] = {}
        for (at, _), some in self._counts.items():
            total = totals.setdefault(at, {})
            if some is None or total is None:
                totals[at] = None
                continue
            for value, count in some.items():
                total[value] = total.get(value, 0) + count
            if len(total) > MOST:
                totals[at] = None
        return {
            self._columns[at].name: dict(sorted(some.items(), key=lambda one: (-one[1], one[0])))
            for at, some in sorted(totals.items())
            if some
        }
