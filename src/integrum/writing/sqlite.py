"""A database in one file, as SQLite has it: the table, and what there is to know about it in tables joined by keys."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Iterator, Sequence
from contextlib import closing, contextmanager
from pathlib import Path
from typing import ClassVar, NamedTuple

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.columns.table_schema import TableSchema
from integrum.errors import OutputError
from integrum.problems.problem import near
from integrum.values.arrays import ints, texts
from integrum.values.types import TYPES, Type
from integrum.writing.output import About, AboutTable, Spans
from integrum.writing.typed import TypedFile

TABLE = "data"
_TOGETHER = 1 << 15
# what comes behind a time: Arrow writes +0200, SQLite and ISO 8601 +02:00
_OFFSET = r"([+-][0-9]{2})([0-9]{2})$"
# the keys of the table: the number of a row, from 1, and the source that it is from
ROW_KEY, SOURCE_KEY = "table_row", "source_id"
_OTHER = "; a .csv or .parquet file can hold them"
# this many bytes of pages are kept in memory (given in KiB, with a minus)
_CACHE = -64 * 1024
_PAGE = 4096
# tables about the run whose names a query would have to put in quotes
_NAMED = {"values": "column_values"}
# what the header of a file says of how often it was written, and by which version of the library; as it is put here, the
# same run gives the same bytes (https://www.sqlite.org/fileformat2.html, section 1.3)
_HEADER = {24: b"\0\0\0\1", 92: b"\0\0\0\1", 96: bytes(4)}
_WAS = "was"
SOURCES = "sources"


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


class SqliteOutput(TypedFile):
    """Writes an SQLite database, row by row.

    The table is named ``data``. Each row has its number as the primary key, and the key of its source.
    """

    has_tables: ClassVar[bool] = True

    def __init__(self, path: Path) -> None:
        super().__init__(path)
        self._rows = 0
        self._attached: Path | None = None
        self._base: sqlite3.Connection | None = None

    def begin(self, schema: TableSchema) -> int:
        """Make the table.

        Raises OutputError when a database cannot have its columns: too many, or two names that differ in capitals only.
        """
        self._schema = schema
        with self._told():
            # nobody else sees the file until it is put in its place, so it needs no journal
            base = sqlite3.connect(
                self._path.absolute().as_uri(), isolation_level=None, check_same_thread=False, uri=True
            )
            self._base = base
            self._keys = _keys(schema.names)
            self._check_names(base.getlimit(sqlite3.SQLITE_LIMIT_COLUMN))
            for setting in (
                f"page_size = {_PAGE}",
                "journal_mode = OFF",
                "synchronous = OFF",
                f"cache_size = {_CACHE}",
            ):
                base.execute(f"PRAGMA {setting}")
            row, source = self._keys
            columns = [f"{quoted(row)} INTEGER PRIMARY KEY", _key_of_source(source)]
            columns += [f"{quoted(field.name)} {declared(field.type)}" for field in schema.arrow]
            base.execute("BEGIN")
            base.execute(f"CREATE TABLE {TABLE} ({', '.join(columns)})")
            self._insert = _insert(TABLE, len(columns))
            self._cells = ", ".join(map(quoted, schema.names)) or "NULL"
        return 0

    def _check_names(self, most: int) -> None:
        names = [*self._keys, *self._schema.names]
        if len(names) > most:
            raise OutputError(
                f"the table has {len(self._schema.names):,} columns, but a database holds {most - 2:,}{_OTHER}"
            )
        first: dict[str, str] = {}
        for name in names:
            if "\0" in name:
                raise OutputError(
                    f"a database cannot have a column with the character NUL in its name: {name!r}"
                )
            other = first.setdefault(_folded(name), name)
            if other is not name:
                raise OutputError(
                    f'the columns "{other}" and "{name}" differ in capitals only, which a database does not tell apart; '
                    f"rename one in the plan{_OTHER}"
                )

    def append(self, payload: pa.RecordBatch | Sequence[StoredRows], rows: int, spans: Spans = ()) -> None:
        """Write a batch, or copy rows of an earlier database."""
        if not rows:
            return
        assert self._base
        if not isinstance(payload, pa.RecordBatch):
            self._copy(payload)
            return
        numbers = range(self._rows + 1, self._rows + rows + 1)
        sources = np.repeat([number + 1 for number, _, _ in spans], [size for _, size, _ in spans])
        columns = [
            cells_of(column, kind) for column, kind in zip(payload.columns, self._schema.types, strict=True)
        ]
        with self._told():
            self._base.executemany(
                self._insert, zip(numbers, ints(sources).to_pylist(), *columns, strict=True)
            )
        self._rows += rows

    def _copy(self, parts: Sequence[StoredRows]) -> None:
        """Copy rows of an earlier database, without a look at their cells."""
        assert self._base
        with self._told():
            for place, start, end, source in parts:
                self._attach(place)
                copied = (
                    f"INSERT INTO {TABLE} SELECT {self._key_there} + ?, ?, {self._cells} FROM {_WAS}.{TABLE}"
                )
                where = f" WHERE {self._key_there} > ? AND {self._key_there} <= ? ORDER BY {self._key_there}"
                found = self._base.execute(
                    copied + where, (self._rows - start, source + 1, start, end)
                ).rowcount
                if found != end - start:
                    raise OutputError(
                        f"{near(place)} does not have the rows that its record says; add --afresh"
                    )
                self._rows += found

    def _attach(self, place: Path) -> None:
        """Have an earlier database at hand."""
        assert self._base
        if place == self._attached:
            return
        self._base.execute("COMMIT")  # there is no way to do so in a transaction
        if self._attached:
            self._base.execute(f"DETACH {_WAS}")
        self._base.execute(f"ATTACH ? AS {_WAS}", (as_address(place),))
        self._attached = place
        key = self._base.execute("SELECT name FROM pragma_table_info(?, ?) LIMIT 1", (TABLE, _WAS)).fetchone()
        self._key_there = quoted(key[0])
        self._base.execute("BEGIN")

    def finish(self) -> None:
        """Bring all rows into the file, where the table before can be compared with them."""
        assert self._base
        with self._told():
            self._base.execute("COMMIT")
            if self._attached:
                self._base.execute(f"DETACH {_WAS}")

    def document(self, about: About) -> None:
        """Write the tables about the run, and the indexes."""
        assert self._base
        with self._told():
            said = about()
            self._base.execute("BEGIN")
            keys = self._write_sources(said.tables[SOURCES]())
            for name, table in said.tables.items():
                if name != SOURCES:
                    self._write_about(_NAMED.get(name, name.replace("-", "_")), table(), keys)
            taken: set[str] = set()
            for columns in dict.fromkeys([(self._keys[1],), *said.looked_up]):
                listed, index = ", ".join(map(quoted, columns)), "_".join((TABLE, *columns))
                while _folded(index) in taken:
                    index += "_"
                taken.add(_folded(index))
                self._base.execute(f"CREATE INDEX {quoted(index)} ON {TABLE} ({listed})")
            self._base.execute("COMMIT")

    def _write_sources(self, about: AboutTable) -> dict[tuple[object, object], int]:
        """The table of the sources; gives their keys by file and sheet."""
        file, sheet = about.header.index("source"), about.header.index("sheet")
        keys: dict[tuple[object, object], int] = {}

        def rows() -> Iterator[list[object]]:
            for number, cells in enumerate(about.rows, 1):
                keys[cells[file], cells[sheet] or ""] = number
                yield [number, *map(filled, cells)]

        self._fill(SOURCES, ["id INTEGER PRIMARY KEY", *_columns(about)], rows())
        return keys

    def _write_about(self, name: str, about: AboutTable, keys: dict[tuple[object, object], int]) -> None:
        """One of the other tables; where it names a source it has its key."""
        columns, rows = _columns(about), (list(map(filled, cells)) for cells in about.rows)
        if "source" not in about.header:
            self._fill(name, columns, rows)
            return
        file, sheet = about.header.index("source"), about.header.index("sheet")
        with_keys = ([keys.get((cells[file], cells[sheet] or "")), *cells] for cells in rows)
        self._fill(name, [_key_of_source(SOURCE_KEY), *columns], with_keys)
        self._base.execute(f"CREATE INDEX {name}_source ON {name} ({SOURCE_KEY})")  # type: ignore[union-attr]

    def _fill(self, name: str, columns: Sequence[str], rows: Iterable[Sequence[object]]) -> None:
        assert self._base
        self._base.execute(f"CREATE TABLE {name} ({', '.join(columns)})")
        self._base.executemany(_insert(name, len(columns)), rows)

    def close(self) -> None:
        """Close the file."""
        if self._base is None:
            return
        self._base.close()
        self._base = None
        with open(self._path, "r+b") as file:
            for place, said in _HEADER.items():
                file.seek(place)
                file.write(said)

    def discard(self) -> None:
        """Give up."""
        if self._base is not None:
            self._base.close()
            self._base = None

    @contextmanager
    def _told(self) -> Iterator[None]:
        try:
            yield
        except sqlite3.Error as error:
            raise OutputError(f"the database cannot be written: {error}") from error

    @staticmethod
    def load(path: Path, schema: TableSchema, guarded: bool = False) -> pa.Table:
        """Read the table back."""
        return pa.Table.from_batches(SqliteOutput.batches(path, schema, guarded), schema.arrow)

    @staticmethod
    def batches(path: Path, schema: TableSchema, guarded: bool = False) -> Iterator[pa.RecordBatch]:  # noqa: ARG004
        """Read it back in batches."""
        yield from rows_of(path, schema.arrow)


def _keys(names: Sequence[str]) -> tuple[str, str]:
    """The names of the two keys, with a line behind them where the table has a column of such a name."""
    taken = set(map(_folded, names))
    found = []
    for key in (ROW_KEY, SOURCE_KEY):
        while key in taken:
            key += "_"
        found.append(key)
    return found[0], found[1]


def _folded(name: str) -> str:
    """A name as a database compares it: only letters of ASCII are folded."""
    return "".join(letter.lower() if letter.isascii() else letter for letter in name)


def _key_of_source(name: str) -> str:
    return f"{quoted(name)} INTEGER REFERENCES {SOURCES}(id)"


def _columns(about: AboutTable) -> list[str]:
    return [f"{quoted(name)} {'INTEGER' if name in about.numbers else 'TEXT'}" for name in about.header]


def _insert(name: str, columns: int) -> str:
    return f"INSERT INTO {name} VALUES ({', '.join('?' * columns)})"
