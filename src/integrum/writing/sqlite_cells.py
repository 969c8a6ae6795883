"""Values of an SQLite database: from Arrow to what a cell holds, and back, in batches."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator, Sequence
from contextlib import closing
from pathlib import Path
from typing import NamedTuple

import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import texts
from integrum.values.types import TYPES, Type

TABLE = "data"
_TOGETHER = 1 << 15
# what comes behind a time: Arrow writes +0200, SQLite and ISO 8601 +02:00
_OFFSET = r"([+-][0-9]{2})([0-9]{2})$"


class StoredRows(NamedTuple):
    """Rows of the table of a database, from one number up to another, from 0; all of one source."""

    place: Path
    start: int
    end: int
    source: int  # its number in the run at hand


def declared(kind: pa.DataType) -> str:
    """The type that a column is declared with. Dates and times are texts, as the functions of SQLite take them.

    Examples
    --------
    >>> [declared(one) for one in (pa.float64(), pa.bool_(), pa.date32())]
    ['REAL', 'INTEGER', 'TEXT']
    """
    if pa.types.is_floating(kind):
        return "REAL"
    return "INTEGER" if pa.types.is_integer(kind) or pa.types.is_boolean(kind) else "TEXT"


def cells_of(column: pa.Array, kind: Type) -> list[object]:
    """The values of a column as cells.

    Examples
    --------
    >>> from integrum.values.types import TYPES
    >>> cells_of(pa.array([True, None]), TYPES["boolean"])
    [1, None]
    """
    if pa.types.is_boolean(column.type):
        return pc.cast(column, pa.int8()).to_pylist()  # type: ignore[no-any-return]
    if pa.types.is_temporal(column.type):
        has_zone = pa.types.is_timestamp(column.type) and column.type.tz
        column = kind.to_text(column)
        if has_zone:
            column = pc.replace_substring_regex(column, _OFFSET, r"\1:\2")
    return column.to_pylist()  # type: ignore[no-any-return]


def rows_of(
    path: Path, schema: pa.Schema, start: int = 0, end: int | None = None
) -> Iterator[pa.RecordBatch]:
    """The rows of the table of a database, from one number up to another, from 0, in batches.

    Raises ValueError when the file is no such database, or does not have the columns.

    `schema`: the columns that are wanted.
    """
    try:
        with closing(sqlite3.connect(as_address(path), uri=True)) as base:
            names = ", ".join(map(quoted, schema.names)) or "NULL"
            key = quoted(base.execute(f"SELECT name FROM pragma_table_info('{TABLE}') LIMIT 1").fetchone()[0])
            wanted = f"SELECT {names} FROM {TABLE} WHERE {key} > ? AND {key} <= ? ORDER BY {key}"
            cursor = base.execute(wanted, (start, (1 << 62) if end is None else end))
            while rows := cursor.fetchmany(_TOGETHER):
                columns = zip(*rows, strict=True) if schema.names else ()
                yield pa.RecordBatch.from_arrays(
                    [_array(cells, field.type) for cells, field in zip(columns, schema, strict=True)],
                    schema=schema,
                )
    except (sqlite3.Error, TypeError) as error:
        raise ValueError(f"{path.name} is not a database of a run: {error}") from error


def as_address(path: Path) -> str:
    """A database for reading: nobody changes it meanwhile, so nothing is locked, and no file is made beside it."""
    return f"{path.absolute().as_uri()}?mode=ro&immutable=1"


def _array(cells: Sequence[object], kind: pa.DataType) -> pa.Array:
    """Cells as an array of an Arrow type."""
    if pa.types.is_boolean(kind):
        return pa.array([None if cell is None else bool(cell) for cell in cells], kind)
    if pa.types.is_temporal(kind):
        plain = next((one for one in TYPES.values() if one.arrow == kind), None)
        values = texts(cells)  # type: ignore[arg-type]
        return plain.cast(values) if plain else pc.cast(values, kind)
    return texts(cells) if pa.types.is_string(kind) else pa.array(cells, kind)  # type: ignore[arg-type]


def filled(cell: object) -> object:
    """A cell of a table about the run; an empty one is NULL."""
    return None if cell == "" else cell


def quoted(name: str) -> str:
    """A name as SQL has it."""
    return '"' + name.replace('"', '""') + '"'
