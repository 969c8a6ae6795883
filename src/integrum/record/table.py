"""A file of a record: one list of columns, from which it is written, read and described."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from operator import attrgetter
from pathlib import Path
from typing import Any, Generic, NamedTuple, TypeVar

from integrum.record.lines import lines_of, tables_of

Item = TypeVar("Item")
# how a cell stands for the place of an object
FILE, SHEET, OUTPUT = "file", "sheet", "output"


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
