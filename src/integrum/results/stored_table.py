"""A table that a run has written, opened again with the types of its columns."""

from __future__ import annotations

import csv
import gzip
import io
import json
import os
import re
import sqlite3
from collections.abc import Iterator, Mapping, Sequence
from contextlib import closing
from pathlib import Path

import pyarrow as pa
import pyarrow.parquet as pq

from integrum.columns.table_schema import TableSchema
from integrum.errors import OutputError
from integrum.measures.items import ColumnEntry
from integrum.plan.column import Column
from integrum.plan.rules import Provenance
from integrum.plan.wrong_words import answers_wrong_words
from integrum.problems.found import Entries
from integrum.problems.problem import first_few, near
from integrum.problems.problem import quoted as quoted_names
from integrum.publish.places import record_with
from integrum.publish.write import WrittenOutput
from integrum.record.run_file import is_record, outputs_of
from integrum.results.read import Record, is_as_written, read_record
from integrum.results.table_access import TableAccess
from integrum.sources.own import metadata_place
from integrum.values.arrays import texts
from integrum.values.csv_lines import unguard
from integrum.values.types import TYPES
from integrum.workbooks.places import Sheet
from integrum.workbooks.workbook import Workbook
from integrum.writing.csvw import described_in
from integrum.writing.formats import check_suffix, format_of
from integrum.writing.output import CSV, PACKED_CSV, PARQUET, SQLITE, WORKBOOK, suffix_of
from integrum.writing.parquet_folder import is_in_folder, named_in, part_files
from integrum.writing.sqlite import TABLE, quoted
from integrum.writing.workbook import CODEBOOK
from integrum.writing.workbook import TABLE as SHEET

# without the record it is not known in which zone times with an offset are; they stay the same moments
_ZONE, _OFFSET = "UTC", re.compile(r"(Z|[+-][0-9]{2}:?[0-9]{2})$")


class StoredTable(TableAccess):
    """A table that a run has written.

    Attributes
    ----------
    places
        The files that it is in, in order.
    record
        What documents the run; None where the table was handed on without it.
    """

    def __init__(
        self, places: Sequence[Path], schema: TableSchema, record: Record | None, guarded: bool
    ) -> None:
        self.places, self.record = tuple(places), record
        self._schema, self._guarded = schema, guarded

    @property
    def schema(self) -> pa.Schema:
        """The columns, with their Arrow types; what is known of each is in the metadata of its field."""
        return self._schema.arrow

    @property
    def _columns(self) -> pa.Schema:
        return self.schema

    @property
    def columns(self) -> Entries[ColumnEntry]:
        """The codebook, from the record; empty where there is none."""
        return self.record.columns if self.record else Entries((), ColumnEntry)

    @property
    def table(self) -> pa.Table:
        """The table, as a whole in memory.

        Raises
        ------
        OutputError
            When a file is not there, or is not as a run wrote it.
        """
        return pa.Table.from_batches(self.batches(), self.schema)

    def batches(self) -> Iterator[pa.RecordBatch]:
        """The table in batches of rows, so that no more than some of it is in memory.

        Raises
        ------
        OutputError
            When a file is not there, or is not as a run wrote it.
        """
        for place in self.places:
            if not os.path.lexists(place):
                raise OutputError(f"{near(place)}: the table is not there any more")
            try:
                self._check_header(place)
                for batch in format_of(place).batches(place, self._schema, self._guarded):
                    yield pa.RecordBatch.from_arrays(batch.columns, schema=self.schema)
            except OSError as error:
                raise OutputError(f"{near(place)} cannot be read: {error.strerror or error}") from error
            except (pa.ArrowException, ValueError, KeyError) as error:
                raise OutputError(f"{near(place)} is not as a run wrote it: {error}") from error

    def _check_header(self, place: Path) -> None:
        """Refuse a table whose columns somebody has put into another order, as they are read by their places."""
        names = self._schema.names
        suffix = suffix_of(place)
        there = names
        if suffix in (CSV, PACKED_CSV) and names:
            with (gzip.open if suffix == PACKED_CSV else open)(
                place, "rt", encoding="utf-8", newline=""
            ) as file:
                there = next(csv.reader(file), [])
            if self._guarded:
                there = unguard(texts(there)).to_pylist()
        elif suffix == WORKBOOK:
            there = list(csv.DictReader(_lines(Workbook(place.read_bytes()), SHEET)).fieldnames or ())
        elif suffix != SQLITE and not place.is_dir():
            there = _of_arrow(place).names
        if there != names:
            raise ValueError(f"its columns are {quoted_names(there)}, and were {quoted_names(names)}")

    def _orders(self) -> Mapping[str, Sequence[str]]:
        return {one.name: one.allowed for one in self._schema.columns if one.allowed}

    def __repr__(self) -> str:
        names = ", ".join(place.name for place in self.places[:3]) + ", ..." * (len(self.places) > 3)
        return f"<StoredTable: {names}, {len(self.schema)} columns>"


@answers_wrong_words
def open_table(out: str | os.PathLike[str], *, edited: bool = False) -> StoredTable:
    """Open a table that a run has written, with the types that its columns have.

    Parameters
    ----------
    out
        A table: ``.csv``, ``.csv.gz``, ``.parquet``, ``.arrow``, ``.xlsx`` or ``.sqlite``, or a folder of Parquet files.
        Or a record: then all tables of its run, one behind the other.
    edited
        Whether to open a table that was changed since the run, too. Its columns still have to be those of the run.

    Returns
    -------
    StoredTable
        With `table`, `batches`, `to_pandas` and the protocols of Arrow and of data frames. Nothing is read yet but its
        record, or, where the table was handed on alone, what it or the metadata beside it say of its columns. Times with an
        offset are then in UTC.

    Raises
    ------
    OutputError
        When it is not there, was changed since the run, or its types are not known.

    Examples
    --------
    >>> import integrum as ig, tempfile, pathlib
    >>> folder = pathlib.Path(tempfile.mkdtemp())
    >>> _ = (folder / "2021.csv").write_text("lake,day\\nAmbermere,2021-05-01\\n")
    >>> _ = ig.assemble(folder, to=folder / "out" / "lakes.csv")
    >>> opened = open_table(folder / "out" / "lakes.csv")
    >>> [f"{field.name}: {field.type}" for field in opened.schema]
    ['source: string', 'source_row: int64', 'lake: string', 'day: date32[day]']
    >>> opened.table.num_rows
    1
    """
    path = Path(os.path.abspath(out))
    is_table = not is_record(path)
    if is_table and not os.path.lexists(path):
        raise OutputError(f"{near(path)}: there is no table here")
    folder = record_with(path) if is_table else path
    if is_record(folder) and (not is_table or str(path) in outputs_of(folder)):
        record = read_record(folder)
        outputs = [one for one in record.outputs if not is_table or one.path == path]
        changed = [near(one.path) for one in outputs if one.path.exists() and not _as_written(one)]
        if changed and not edited:
            are = "is" if len(changed) == 1 else "are"
            raise OutputError(
                f"{first_few(changed, 3)} {are} not as the run wrote it; to open it even so: open_table(..., edited=True)"
            )
        places = [one.path for one in outputs]
        return StoredTable(places, record.table_schema, record, record.is_guarded)
    if not path.is_dir():
        check_suffix(path)
    elif not is_in_folder(path):
        raise OutputError(f"{near(path)} is a folder, and neither a table nor a record")
    try:
        schema, guarded = _schema_of(path)
    except OSError as error:
        raise OutputError(f"{near(path)} cannot be read: {error.strerror or error}") from error
    except (pa.ArrowException, sqlite3.Error, ValueError, LookupError, TypeError) as error:
        raise OutputError(f"{near(path)} is not a table that a run wrote: {error}") from error
    return StoredTable([path], schema, None, guarded)


def _as_written(one: WrittenOutput) -> bool:
    """Whether an output is what the run has written; its hash is only taken where its time has changed."""
    return is_as_written(one, trusts_times=True) or is_as_written(one)


def _schema_of(path: Path) -> tuple[TableSchema, bool]:
    """The columns of a table that stands alone, by what it says itself, or what is beside it; and whether it is guarded."""
    suffix = suffix_of(path)
    if suffix in (CSV, PACKED_CSV):
        return _described(path)
    if suffix == SQLITE:
        return _of_database(path), False
    return (_of_workbook(path) if suffix == WORKBOOK else _of_arrow(path)), False


def _described(path: Path) -> tuple[TableSchema, bool]:
    """The columns of a CSV, by its metadata in CSV on the Web."""
    beside = metadata_place(path)
    if not beside.exists():
        raise OutputError(
            f"{near(path)}: neither its record nor {beside.name} is here, so the types of its columns are not known"
        )
    columns, guarded = described_in(beside.read_text(encoding="utf-8"))
    return _schema([_column(one.name, one.kind.name, one.has_zone) for one in columns]), guarded


def _of_database(path: Path) -> TableSchema:
    with closing(sqlite3.connect(f"{path.as_uri()}?mode=ro", uri=True)) as base:
        said = list(base.execute("SELECT name, type FROM pragma_table_info(?)", (TABLE,)))[2:]
        types = dict(base.execute('SELECT "column", type FROM columns'))
        columns = []
        for name, stored in said:
            kind = types.get(name, "integer" if stored == "INTEGER" else "text")
            first = f"SELECT {quoted(name)} FROM {TABLE} WHERE {quoted(name)} IS NOT NULL LIMIT 1"
            cell = base.execute(first).fetchone() if TYPES[kind].has_clock else None
            columns.append(_column(name, kind, cell is not None and _has_zone(cell[0])))
    return _schema(columns)


def _of_workbook(path: Path) -> TableSchema:
    book = Workbook(path.read_bytes())
    types = {one["column"]: one["type"] for one in csv.DictReader(_lines(book, CODEBOOK))}
    rows = csv.DictReader(_lines(book, SHEET))
    names = list(rows.fieldnames or ())
    timed = {name for name in names if name in types and TYPES[types[name]].has_clock}
    zoned = {name for row in rows for name in timed if _has_zone(row[name])} if timed else set()
    return _schema([_column(name, types.get(name, "text"), name in zoned) for name in names])


def _lines(book: Workbook, sheet: str) -> io.StringIO:
    return io.StringIO(book.read(Sheet(sheet)).text.decode(), newline="")


def _of_arrow(path: Path) -> TableSchema:
    """The columns of a file with types, or of a folder of such files."""
    if path.is_dir():
        parts = part_files(path)
        if not parts:
            raise ValueError("there is no file in the folder")
        schema = pq.read_schema(str(parts[0]))
        for name, _ in named_in(path):
            schema = schema if name in schema.names else schema.append(pa.field(name, pa.string()))
    elif suffix_of(path) == PARQUET:
        schema = pq.read_schema(str(path))
    else:
        with pa.memory_map(str(path)) as file:
            schema = pa.ipc.open_file(file).schema
    return _schema([_of_field(field) for field in schema])


def _of_field(field: pa.Field) -> Column:
    about = {key.decode(): value.decode() for key, value in (field.metadata or {}).items()}
    said = {key: about[key] for key in ("unit", "description") if key in about}
    if "missing" in about:
        said["missing"] = json.loads(about["missing"])
    zone = getattr(field.type, "tz", None) or ""
    kind = next(
        (one.name for one in TYPES.values() if one.arrow == field.type), "datetime" if zone else "text"
    )
    return Column(field.name, kind, zone=zone, **said)  # type: ignore[arg-type]


def _has_zone(cell: str) -> bool:
    return _OFFSET.search(cell) is not None


def _column(name: str, kind: str, has_zone: bool) -> Column:
    return Column(name, kind, zone=_ZONE if has_zone else "")  # type: ignore[arg-type]


def _schema(columns: Sequence[Column]) -> TableSchema:
    return TableSchema(columns, Provenance(False, False, False))
