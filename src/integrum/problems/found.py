"""Lists of problems and other entries, kept on the disk once there are many; they can be data frames."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import fields, is_dataclass
from itertools import chain, islice
from typing import TYPE_CHECKING, Any, Self, SupportsIndex, TypeVar, cast, overload

import pyarrow as pa

from integrum.errors import check_extra
from integrum.problems import notebook
from integrum.problems.problem import Problem
from integrum.values.spill import folder_for

if TYPE_CHECKING:
    import pandas

Item = TypeVar("Item")
# marks an attribute whose items stand beside the other attributes in a data frame
SPREAD = {"spread": True}
# this many are kept in memory, and this many are read from the disk at once
MOST, _TOGETHER = 50_000, 5_000
_FIELDS = ("severity", "code", "source", "row", "column", "raw", "count", "message", "hint")


class Entries(tuple[Item, ...]):
    """A tuple of like objects, such as problems or sources, that can also be a data frame.

    Examples
    --------
    >>> from integrum.problems.problem import Problem
    >>> found = Entries([Problem("note", "passed-over", "notes.pdf"), Problem("warning", "no-data-rows", "may.csv")])
    >>> len(found), found[0].source
    (2, 'notes.pdf')
    >>> found[1:].to_pandas()["code"].tolist()
    ['no-data-rows']
    >>> found.to_pandas()[["severity", "source"]].values.tolist()
    [['note', 'notes.pdf'], ['warning', 'may.csv']]
    """

    _kind: type | None

    def __new__(cls, items: Iterable[Item] = (), kind: type | None = None) -> Self:
        """Take the objects; their kind names the columns of a data frame when there are none."""
        made = super().__new__(cls, items)
        made._kind = kind
        return made

    @overload
    def __getitem__(self, place: SupportsIndex) -> Item: ...
    @overload
    def __getitem__(self, place: slice) -> Entries[Item]: ...
    def __getitem__(self, place: SupportsIndex | slice) -> Item | Entries[Item]:
        """One of them, or some of them as a sequence of the same kind."""
        found = super().__getitem__(place)
        return Entries(found, self._kind) if isinstance(place, slice) else found  # type: ignore[arg-type, return-value]

    def to_pandas(self) -> pandas.DataFrame:
        """A data frame with a row for each object and a column for each of its attributes."""
        check_extra("a data frame", "pandas", "pandas")
        import pandas

        columns = None if self or self._kind is None else columns_of(self._kind)
        frame = pandas.DataFrame([row_of(item) for item in self], columns=columns)
        whole = [name for name in frame if all(_is_count(getattr(item, name, "")) for item in self)]
        return frame.astype(dict.fromkeys(whole, "Int64")) if len(frame) else frame

    def _repr_html_(self) -> str:
        rows = [row_of(item) for item in self]
        names = [
            name for name in (rows[0] if rows else ()) if any(row[name] not in (None, "", {}) for row in rows)
        ]
        if not names:
            return notebook.view(notebook.line("none"))
        return notebook.view(notebook.table(names, ([_short(row[name]) for name in names] for row in rows)))


def columns_of(kind: type) -> list[str]:
    """The attributes that objects of a kind have in a data frame.

    Examples
    --------
    >>> from integrum.problems.problem import Problem
    >>> columns_of(Problem)[:3]
    ['severity', 'code', 'source']
    """
    if not is_dataclass(kind):
        return list(getattr(kind, "_fields", ()))
    names: list[str] = []
    for each in fields(kind):
        if each.name == "ledger":
            names += columns_of(each.default_factory)  # type: ignore[arg-type]
        elif not each.name.startswith("_") and each.repr:
            names.append(each.name)
    return names


def row_of(item: Any) -> dict[str, Any]:
    """The attributes of an object by name; those of inner objects beside them.

    Examples
    --------
    >>> from integrum.intake.ledger import Ledger
    >>> list(row_of(Ledger(rows=2, data=2)))[:3]
    ['rows', 'preamble', 'header']
    """
    if not is_dataclass(item):
        return dict(item._asdict()) if hasattr(item, "_asdict") else {"value": item}
    row: dict[str, Any] = {}
    for each in fields(item):
        value = getattr(item, each.name)
        if each.metadata == SPREAD:
            row |= value
        elif each.name == "ledger":
            row |= row_of(value)
        elif not each.name.startswith("_") and each.repr:
            row[each.name] = value
    return row


def _is_count(value: Any) -> bool:
    return value is None or (isinstance(value, int) and not isinstance(value, bool))


def _short(value: Any) -> object:
    if isinstance(value, Mapping):
        return ", ".join(f"{key}: {said}" for key, said in value.items())
    if isinstance(value, tuple):
        return "; ".join(map(str, value))
    return value if value is None or isinstance(value, (int, float, str)) else str(value)


def findings(problems: Iterable[Problem]) -> Entries[Problem]:
    """Keep problems as a sequence, on the disk where they are many.

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
