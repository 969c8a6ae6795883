"""Counts of the values of columns that have only a few, in the pass of the run."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import pyarrow as pa
import pyarrow.compute as pc

from integrum.plan.column import Column

# so many distinct values are a few
MOST = 40
_FIRST = 2_000

# by the number of a column its values with their counts; None: it has too many
Counts = Mapping[int, Mapping[str, int] | None]


def count_values(columns: Sequence[pa.Array], wanted: Sequence[Column]) -> Counts:
    """Count the values of the columns of a batch that have a few.

    Parameters
    ----------
    columns
        The columns.
    wanted
        What the plan says of them.

    Examples
    --------
    >>> many = pa.array([str(at) for at in range(50)])
    >>> count_values([pa.array(["a", "b", "a", None]), many], [Column("lake"), Column("remark")])
    {0: {'a': 2, 'b': 1}, 1: None}
    """
    found: dict[int, Mapping[str, int] | None] = {}
    for at, (array, column) in enumerate(zip(columns, wanted, strict=True)):
        if column.type not in ("text", "boolean") or array.null_count == len(array):
            continue
        if len(pc.unique(array.slice(0, _FIRST))) > MOST + 1:
            found[at] = None
            continue
        coded = array.dictionary_encode()
        if len(coded.dictionary) > MOST:
            found[at] = None
            continue
        values = [str(one).lower() if one in (True, False) else one for one in coded.dictionary.to_pylist()]
        counts = {
            one["values"]: one["counts"]
            for one in coded.indices.value_counts().to_pylist()
            if one["values"] is not None
        }
        found[at] = {value: counts[code] for code, value in enumerate(values)}
    return found


class Categories:
    """The counts of a run.

    Parameters
    ----------
    columns
        The columns of the table.
    """

    def __init__(self, columns: Sequence[Column]) -> None:
        self._columns = columns
        self._counts: dict[int, dict[str, int] | None] = {}

    def add(self, counts: Counts) -> None:
        """Take those of a batch."""
        for at, some in counts.items():
            total = self._counts.setdefault(at, {})
            if some is None or total is None:
                self._counts[at] = None
                continue
            for value, count in some.items():
                total[value] = total.get(value, 0) + count
            if len(total) > MOST:
                self._counts[at] = None

    def by_column(self) -> dict[str, dict[str, int]]:
        """The values of each column that has a few, the most frequent first."""
        return {
            self._columns[at].name: dict(sorted(some.items(), key=lambda one: (-one[1], one[0])))
            for at, some in sorted(self._counts.items())
            if some
        }
