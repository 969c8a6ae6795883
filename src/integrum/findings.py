"""The problems of a run, however many: a few are a tuple, many lie on the disk and come back when they are asked for."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from itertools import chain, islice
from typing import TYPE_CHECKING, Any, SupportsIndex, cast

from integrum.entries import Entries
from integrum.problems import Problem
from integrum.temporary import folder_for

if TYPE_CHECKING:
    import pandas

# so many are kept in memory, and so many are read from the disk at once
MOST, _TOGETHER = 50_000, 5_000
_FIELDS = ("severity", "code", "source", "row", "column", "raw", "count", "message", "hint")


def findings(problems: Iterable[Problem]) -> Entries[Problem]:
    """Keep problems as a sequence.

    Or , where there are many, `ManyProblems`, which has the same methods.

    `problems`: in order; taken one by one.

    Examples
    --------
    >>> found = findings(Problem("warning", "no-data-rows", f"{at}.csv") for at in range(60_000))
    >>> len(found), found[59_999].source, found.number_of("warning")
    (60000, '59999.csv', 60000)
    """
    waiting = iter(problems)
    first = list(islice(waiting, MOST + 1))
    if len(first) <= MOST:
        return Entries(first, Problem)
    # it is no tuple, but does all that is done with one
    return cast(Entries[Problem], ManyProblems(chain(first, waiting)))


class ManyProblems(Sequence[Problem]):
    """A sequence of problems that lie on the disk.

    Parameters
    ----------
    problems
        In order; taken one by one.
    """

    def __init__(self, problems: Iterable[Problem]) -> None:
        import pyarrow as pa

        schema = pa.schema(
            [(name, pa.int64() if name in ("row", "count") else pa.string()) for name in _FIELDS]
        )
        place = folder_for(self) / "problems.arrow"
        self._counts: Counter[str] = Counter()
        self._size = 0
        waiting = iter(problems)
        with pa.ipc.new_file(str(place), schema) as file:
            while some := list(islice(waiting, _TOGETHER)):
                self._counts.update(one.severity for one in some)
                self._size += len(some)
                columns = [
                    pa.array([getattr(one, name) for one in some], schema.field(name).type)
                    for name in _FIELDS
                ]
                file.write_batch(pa.record_batch(columns, schema=schema))
        self._batches = pa.ipc.open_file(pa.OSFile(str(place)))  # a map would count as memory

    def __len__(self) -> int:
        return self._size

    def __iter__(self) -> Iterator[Problem]:
        for number in range(self._batches.num_record_batches):
            yield from self._some(number)

    def __getitem__(self, place: SupportsIndex | slice) -> Any:
        """One of them, or some of them as a sequence."""
        if isinstance(place, slice):
            return Entries([self[at] for at in range(*place.indices(self._size))], Problem)
        at = range(self._size)[place]
        return self._some(at // _TOGETHER)[at % _TOGETHER]

    def _some(self, number: int) -> list[Problem]:
        columns = [column.to_pylist() for column in self._batches.get_batch(number).columns]
        return [Problem(*cells) for cells in zip(*columns, strict=True)]

    def number_of(self, severity: str) -> int:
        """How many are of a severity."""
        return self._counts[severity]

    def to_pandas(self) -> pandas.DataFrame:
        """A data frame with a row for each."""
        frame = self._batches.read_all().to_pandas()
        return frame.astype({"row": "Int64"})

    def __repr__(self) -> str:
        return f"<{self._size:,} problems>"
