"""A file of a record: one list of columns, from which it is written, read and described."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from operator import attrgetter
from pathlib import Path
from typing import Any, Generic, NamedTuple, TypeVar

from integrum.record.lines import lines_of, rows_of

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
    """How a record names sources and outputs.

    Attributes
    ----------
    sources
        File and sheet of each source, by its name or its number.
    outputs
        The outputs relative to the record, by the names that a run has for them; empty texts for those that are not written.
    """

    sources: Mapping[Any, Named] = field(default_factory=dict)
    outputs: Mapping[str, str] = field(default_factory=dict)

    def source(self, key: Any) -> Named:
        """File and sheet of a source; what is no source has its own name, or none."""
        return self.sources.get(key) or Named(str(key), "")


@dataclass(frozen=True)
class RecordColumn:
    """A column of a file of a record.

    Attributes
    ----------
    name
        In the file.
    about
        What it means, for the docs.
    attribute
        The attribute that it is of the objects, perhaps of one inside them (``ledger.rows``); its name by default.
    write, read
        The way to its cell and back, where a value is not just its text.
    place
        `FILE` and `SHEET` for the two cells that name a source, `OUTPUT` for an output.
    absent
        Its cell in records that were made before there was this column.
    """

    name: str
    about: str
    attribute: str = ""
    write: Callable[[Any], object] | None = None
    read: Callable[[str], Any] = str
    place: str = ""
    absent: str = ""

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
    return RecordColumn(name, about, attribute, read=int)


def whole_or_none(name: str, about: str, attribute: str = "") -> RecordColumn:
    """A column of whole numbers, empty where there is none."""
    return RecordColumn(name, about, attribute, read=lambda cell: int(cell) if cell else None)


def whole_or_zero(name: str, about: str, attribute: str = "") -> RecordColumn:
    """A column of whole numbers, empty for 0."""
    return RecordColumn(name, about, attribute, lambda one: one or "", lambda cell: int(cell or 0))


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
    """One file of a record.

    Attributes
    ----------
    file
        Its name.
    item
        Makes an object of the values of a row, by attribute.
    columns
        Its columns.
    since
        The schema from which on every record has it; 0 where it is only there when there is something to say.
    """

    file: str
    item: Callable[..., Item]
    columns: tuple[RecordColumn, ...]
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

    def object(self, row: Mapping[str, str]) -> Item:
        """The object of a row, by the names of its columns."""
        made: dict[str, Any] = {}
        for column in self.columns:
            cell = row.get(column.name, column.absent)
            if column.place != SHEET:
                made[column.attribute] = column.read(cell)
            elif cell:
                made[column.attribute] = Named(made[column.attribute], cell).name
        return self.item(**made)

    def write(self, folder: Path, items: Iterable[Item], places: Places, guarded: bool = False) -> None:
        """Write the file, perhaps guarded against formulas."""
        with open(folder / self.file, "wb") as file:
            file.writelines(lines_of([self.header]))
            file.writelines(lines_of((self.cells(item, places) for item in items), guarded))

    def read(self, folder: Path, guarded: bool = False) -> Iterator[Item]:
        """Read the objects back, one by one."""
        return map(self.object, rows_of(folder / self.file, guarded))
