"""What a file of the record is: a list of columns, each with its way there and back; and its lines."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from itertools import islice
from operator import attrgetter
from pathlib import Path
from typing import Any, Generic, NamedTuple, TypeVar

import pyarrow as pa
import pyarrow.csv as pacsv

from integrum.values.arrays import texts
from integrum.values.csv_lines import csv_lines, guard, unguard

_TOGETHER = 10_000
Item = TypeVar("Item")
# how a cell stands for the place of an object
FILE, SHEET, OUTPUT = "file", "sheet", "output"


def lines_of(rows: Iterable[Sequence[object]], guarded: bool = False) -> Iterator[bytes]:
    r"""Write rows as lines of CSV.

    `guarded`: whether cells that a spreadsheet program would take for formulas are made harmless.

    Examples
    --------
    >>> b"".join(lines_of([("a.csv", 3, None), ("b.csv", 4, "=x\ry")], guarded=True))
    b'a.csv,3,\nb.csv,4,"\'=x\ry"\n'
    """
    waiting = iter(rows)
    while some := list(islice(waiting, _TOGETHER)):
        columns = [_column(cells) for cells in zip(*some, strict=True)]
        yield bytes(csv_lines([guard(column) for column in columns] if guarded else columns))


def table_of(path: Path, guarded: bool = False) -> pa.Table:
    """Read a file of the record as a table of texts.

    Raises ValueError when it is not such a file.
    """
    return _plain(_read(path), guarded)


def tables_of(path: Path, guarded: bool = False) -> Iterator[pa.Table]:
    """Read a large file of the record in batches."""
    if path.stat().st_size <= _LARGE:
        yield table_of(path, guarded)
        return
    with open(path, "rb") as file:
        header = file.readline()
    with pacsv.open_csv(str(path), **_options(header, _BLOCK)) as batches:
        for batch in batches:
            yield _plain(pa.Table.from_batches([batch]), guarded)


def _plain(table: pa.Table, guarded: bool) -> pa.Table:
    if not guarded:
        return table
    return pa.table([unguard(column) for column in table.columns], names=table.column_names)


_LARGE, _BLOCK = 32 << 20, 4 << 20


def _read(path: Path) -> pa.Table:
    data = path.read_bytes()
    return pacsv.read_csv(pa.BufferReader(data), **_options(data, len(data) + 1))


def _options(data: bytes, block: int) -> dict[str, Any]:
    return {
        # one block needs no threads, which would have to end before the process does
        "read_options": pacsv.ReadOptions(use_threads=False, block_size=block),
        "parse_options": pacsv.ParseOptions(newlines_in_values=True, ignore_empty_lines=False),
        "convert_options": pacsv.ConvertOptions(
            column_types=dict.fromkeys(data.split(b"\n", 1)[0].decode().split(","), pa.string()),
            strings_can_be_null=False,
        ),
    }


def _column(cells: Sequence[object]) -> pa.Array:
    said = [None if cell is None else str(cell) for cell in cells]
    try:
        return texts(said)
    except UnicodeEncodeError:  # half a letter that a system has let into a name
        return texts([one and one.encode("utf-8", "backslashreplace").decode() for one in said])


class Named(NamedTuple):
    """A source by the name of its file and its sheet."""

    source: str
    sheet: str

    @property
    def name(self) -> str:
        """The name of the source."""
        return f"{self.source}/{self.sheet}" if self.sheet else self.source


@dataclass(frozen=True)
class Places:
    """How a record names sources and outputs."""

    # file and sheet of each source, by its name or its number
    sources: Mapping[Any, Named] = field(default_factory=dict)
    # the outputs relative to the record, by the names that a run has for them; empty texts for those that
    # are not written
    outputs: Mapping[str, str] = field(default_factory=dict)

    def source(self, key: Any) -> Named:
        """File and sheet of a source; what is no source has its own name, or none."""
        return self.sources.get(key) or Named(str(key), "")


@dataclass(frozen=True)
class RecordColumn:
    """A column of a file of a record."""

    name: str
    about: str  # what it means, for the docs
    # the attribute that it is of the objects, perhaps of one inside them (``ledger.rows``); its name by
    # default
    attribute: str = ""
    # the way to its cell and back, where a value is not just its text
    write: Callable[[Any], object] | None = None
    read: Callable[[str], Any] = str
    place: str = ""  # `FILE` and `SHEET` for the two cells that name a source, `OUTPUT` for an output
    absent: str = ""  # its cell in records that were made before there was this column
    is_number: bool = False  # whether its cells are whole numbers

    def __post_init__(self) -> None:
        object.__setattr__(self, "attribute", self.attribute or self.name)


def source_columns(about: str, attribute: str = "source", prefix: str = "") -> tuple[RecordColumn, ...]:
    """The two columns that name a source."""
    return (
        RecordColumn(f"{prefix}source", about, attribute, place=FILE),
        RecordColumn(f"{prefix}sheet", "the sheet of a workbook", attribute, place=SHEET),
    )


def whole(name: str, about: str, attribute: str = "") -> RecordColumn:
    """A column of whole numbers."""
    return RecordColumn(name, about, attribute, read=int, is_number=True)


def whole_or_none(name: str, about: str, attribute: str = "") -> RecordColumn:
    """A column of whole numbers, empty where there is none."""
    return RecordColumn(name, about, attribute, read=lambda cell: int(cell) if cell else None, is_number=True)


def whole_or_zero(name: str, about: str, attribute: str = "") -> RecordColumn:
    """A column of whole numbers, empty for 0."""
    return RecordColumn(
        name, about, attribute, lambda one: one or "", lambda cell: int(cell or 0), is_number=True
    )


def as_json(
    name: str, about: str, attribute: str = "", read: Callable[[Any], Any] = dict, may_be_empty: bool = True
) -> RecordColumn:
    """A column of JSON, empty where there is nothing to say."""
    return RecordColumn(
        name,
        about,
        attribute,
        lambda one: json_text(one) if one or not may_be_empty else "",
        lambda cell: read(json.loads(cell) if cell else ()),
    )


def json_text(value: object) -> str:
    """A value as JSON, with letters as they are."""
    return json.dumps(value, ensure_ascii=False)


@dataclass(frozen=True, eq=False)
class RecordTable(Generic[Item]):
    """One file of a record."""

    file: str
    item: Callable[..., Item]  # makes an object of the values of a row, by attribute
    columns: tuple[RecordColumn, ...]
    # the schema from which on every record has it; 0 where it is only there when there is something to say
    since: int = 6

    @property
    def header(self) -> tuple[str, ...]:
        """The names of its columns."""
        return tuple(column.name for column in self.columns)

    @cached_property
    def _take(self) -> Callable[[Item], tuple[Any, ...]]:
        return attrgetter(*(column.attribute for column in self.columns))

    @cached_property
    def _others(self) -> list[tuple[int, RecordColumn]]:
        """The columns whose cells are not just the attributes."""
        return [(at, one) for at, one in enumerate(self.columns) if one.write or one.place]

    def cells(self, item: Item, places: Places) -> Sequence[object]:
        """The cells of an object."""
        cells: list[Any] = list(self._take(item))
        for at, column in self._others:
            value = cells[at]
            if column.write:
                cells[at] = column.write(value)
            elif column.place == OUTPUT:
                cells[at] = places.outputs.get(value, "")
            else:
                cells[at] = places.source(value)[column.place == SHEET]
        return cells

    def write(self, folder: Path, items: Iterable[Item], places: Places, guarded: bool = False) -> None:
        """Write the file, perhaps guarded against formulas."""
        with open(folder / self.file, "wb") as file:
            file.writelines(lines_of([self.header]))
            file.writelines(lines_of((self.cells(item, places) for item in items), guarded))

    def read(self, folder: Path, guarded: bool = False) -> Iterator[Item]:
        """Read the objects back, one by one."""
        for table in tables_of(folder / self.file, guarded):
            there, made = set(table.column_names), dict[str, list[Any]]()
            for one in self.columns:
                cells = table[one.name].to_pylist() if one.name in there else [one.absent] * table.num_rows
                if one.place == SHEET:
                    pairs = zip(made[one.attribute], cells, strict=True)
                    made[one.attribute] = (
                        [Named(*pair).name for pair in pairs] if any(cells) else made[one.attribute]
                    )
                else:
                    made[one.attribute] = cells if one.read is str else list(map(one.read, cells))
            for values in zip(*made.values(), strict=True):
                yield self.item(**dict(zip(made, values, strict=True)))
