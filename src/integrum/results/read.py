"""Read a record back as objects, each of its files when it is asked for."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from functools import cached_property
from pathlib import Path
from typing import Any, TypeVar

import pyarrow as pa

from integrum.columns.table_schema import TableSchema
from integrum.errors import IntegrumError, OutputError
from integrum.intake.ledger import SourceSummary
from integrum.measures.items import RowRun, ValuesEntry
from integrum.measures.measures import SOURCES, VALUES, files_since
from integrum.measures.result import Result, lost_of
from integrum.measures.tables import LEFT_OUT, PLAN, PROBLEMS, ROWS, SET_ASIDE
from integrum.plan.from_toml import read_plan
from integrum.plan.plan import Plan
from integrum.problems.found import Entries, findings
from integrum.problems.lost import Lost
from integrum.problems.problem import first_few
from integrum.publish.codebook import CodebookColumn, codebook_of
from integrum.publish.methods import methods_of
from integrum.publish.places import record_with
from integrum.publish.swap import settle, settle_in
from integrum.publish.write import WrittenOutput, changed_in
from integrum.reading.parts import LeftOutRow, SetAside
from integrum.record.run_file import READABLE, SCHEMA, RunFile, is_record, read_run, seal_of
from integrum.record.table import RecordTable
from integrum.remote.addresses import is_remote, joined
from integrum.sources.own import size_of
from integrum.writing.parquet_folder import content_of, is_in_folder

Item = TypeVar("Item")
_NAMED = 3
# the first schema that is read: its files are in every record
FIRST = READABLE[0]
# what a file of a record that somebody has changed may give rise to
_BROKEN = (OSError, LookupError, ValueError, TypeError, AttributeError, ArithmeticError, RecursionError)
# the first schema whose ``run.json`` says what is lost
LOST_SINCE = 8


class Record(Result):
    """What a record says; its files are read when they are asked for.

    Parameters
    ----------
    folder
        The folder of the record.
    run
        What ``run.json`` says: versions, times, counts.

    Raises
    ------
    OutputError
        From any of its properties, when the file is damaged.
    """

    def __init__(self, folder: Path, run: RunFile) -> None:
        super().__init__(run.column_names, {})
        self.folder, self.run = folder, run

    def __repr__(self) -> str:
        return f"<Record: {self.folder}>"

    def all_of(self, table: RecordTable[Item]) -> Entries[Item]:
        """The entries of a file."""
        if table not in self._tables:
            self._tables[table] = self._read(lambda: self._entries(table))
        return self._tables[table]

    def _entries(self, table: RecordTable[Any]) -> Entries[Any]:
        if table.since != FIRST and not (self.folder / table.file).exists():
            return Entries()
        found = table.read(self.folder, self.is_guarded)
        if table == PROBLEMS:
            return findings(found)
        if table == SOURCES:
            base = joined(self.folder, self.run.common_folder)
            found = (_placed(one, base) for one in found)
        return Entries(found)

    @cached_property
    def lost(self) -> Lost:
        """What is not in the table; of an older record it is counted again, but for identifiers."""
        if self.run.schema >= LOST_SINCE:
            return self.run.lost
        return lost_of(self.sources, self.problems, self.plan, {})

    @property
    def methods(self) -> str:
        """What was done, in words for the section "Methods" of a paper."""
        tables = [one.path.name for one in self.outputs]
        seal = self.seal if self.run.schema == SCHEMA else ""  # an older one cannot be verified
        return self._read(lambda: methods_of(self, self.plan, self.run, seal, tables))

    @property
    def seal(self) -> str:
        """The seal of the table and its record; see `Outcome.seal`."""
        return seal_of(self.folder)

    @cached_property
    def codebook(self) -> Entries[CodebookColumn]:
        """What each column of the table is, in words."""

        def read() -> Entries[CodebookColumn]:
            return Entries(codebook_of(self, self.plan, self.schema, self.run.rows), CodebookColumn)

        return self._read(read)

    @cached_property
    def plan(self) -> Plan:
        """The plan as used; its relative paths mean: relative to `folder`."""
        return self._read(lambda: read_plan(self.folder / PLAN))

    @property
    def set_aside(self) -> Entries[SetAside]:
        """Cells, rows and sources with a problem, with their raw text."""
        return self.all_of(SET_ASIDE)

    @property
    def left_out(self) -> Entries[LeftOutRow]:
        """Every row that is not in the table, with the part that it is and its raw text."""
        return self.all_of(LEFT_OUT)

    @property
    def values(self) -> Entries[ValuesEntry]:
        """The values of each column in each source."""
        return self.all_of(VALUES)

    @property
    def rows(self) -> Entries[RowRun]:
        """Which rows of its source the rows of the table are, where the table does not say it."""
        return self.all_of(ROWS)

    @cached_property
    def outputs(self) -> tuple[WrittenOutput, ...]:
        """The outputs, with absolute paths."""

        def read() -> tuple[WrittenOutput, ...]:
            return tuple(
                WrittenOutput(
                    Path(os.path.normpath(self.folder / one.path)),
                    one.rows,
                    one.bytes,
                    one.blake3,
                    one.modified,
                )
                for one in self.run.outputs
            )

        return self._read(read)

    @cached_property
    def schema(self) -> pa.Schema:
        """The columns of the table, with their Arrow types."""
        return self.table_schema.arrow

    @cached_property
    def table_schema(self) -> TableSchema:
        """The columns of the table, with their types."""

        def read() -> TableSchema:
            names = self.run.column_names
            return TableSchema.of(names, self.plan.table_columns, self.plan.provenance)

        return self._read(read)

    @property
    def is_guarded(self) -> bool:
        """Whether its tables are guarded against formulas."""
        return self.run.guard_formulas

    def _read(self, read: Callable[[], Item]) -> Item:
        try:
            return read()
        except _BROKEN as error:
            raise OutputError(f"{self.folder} is not a complete record: {error}") from error


@contextmanager
def looking_at(record: Record) -> Iterator[None]:
    """Look at a record that may be damaged in ways that nobody has thought of.

    Raises OutputError, naming the file, for what a changed file leads to; errors that come of a whole record are left alone.
    """
    try:
        yield
    except _BROKEN as error:
        changed = changed_in(record.folder, record.run.manifest_blake3)
        if isinstance(error, IntegrumError) or not changed:
            raise
        are = "is" if len(changed) == 1 else "are"
        raise OutputError(
            f"{record.folder} is damaged: {first_few(changed, _NAMED)} {are} not as the run wrote it; assemble again"
        ) from error


def _placed(one: SourceSummary, base: str) -> SourceSummary:
    """Resolve the path of a source."""
    path = one.file if is_remote(one.file) else os.path.join(base, one.file)
    one.path = path if is_remote(path) else os.path.normpath(path)
    return one


def read_record(place: str | os.PathLike[str]) -> Record:
    """Read a record.

    Parameters
    ----------
    place
        The folder of a record, or an output: then the record that belongs to it.

    Returns
    -------
    Record

    Raises
    ------
    OutputError
        When there is no record, or one that this version cannot read.

    Examples
    --------
    >>> import integrum as ig, tempfile, pathlib
    >>> folder = pathlib.Path(tempfile.mkdtemp())
    >>> _ = (folder / "2021.csv").write_text("day,depth\\n2021-05-01,3.20\\n2021-05-02,deep\\n")
    >>> plan = ig.Plan([ig.Sources(str(folder))], [ig.Column("day", "date"), ig.Column("depth", "number")])
    >>> _ = ig.assemble(plan, to=folder / "out" / "lakes.csv")
    >>> record = read_record(folder / "out" / "lakes.csv")
    >>> [(one.source, one.first_table_row, one.last_table_row) for one in record.sources]
    [('2021.csv', 1, 2)]
    >>> [(one.source, one.row, one.raw) for one in record.set_aside]
    [('2021.csv', 3, 'deep')]
    """
    if is_remote(os.fspath(place)):
        raise OutputError(f"{place}: copy the table and its record to this machine to look at them")
    path = Path(os.path.abspath(place))
    settle_in(path.parent)
    folder = (
        path if is_record(path) or (os.path.isdir(path) and not is_in_folder(path)) else record_with(path)
    )
    settle(folder)
    if not is_record(folder):
        raise OutputError(f"{place}: there is no record here; expected the folder {folder}")
    run = read_run(folder)
    absent = [name for name in files_since(run.schema) if not (folder / name).exists()]
    if absent:
        raise OutputError(f"{folder} is not a complete record: {', '.join(absent)} is missing")
    return Record(folder, run)


def since_changed(record: Record) -> str:
    """Say which outputs are not as the run left them; an empty text when all are."""
    changed = [
        one.path.name for one in record.outputs if not (is_as_written(one, True) or is_as_written(one))
    ]
    if not changed:
        return ""
    are = "is" if len(changed) == 1 else "are"
    return (
        f"{first_few(changed, _NAMED)} {are} not as the run wrote it any more; all that is said here is about what the "
        "run wrote."
    )


def is_as_written(one: WrittenOutput, trusts_times: bool = False) -> bool:
    """Whether an output is what the run has written.

    `trusts_times`: whether the size and the time of change stand for the content.
    """
    with suppress(OSError):
        state = one.path.stat()
        if size_of(one.path) != one.bytes:
            return False
        return state.st_mtime_ns == one.modified if trusts_times else content_of(one.path) == one.content
    return False
