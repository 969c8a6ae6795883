"""Read a record back as objects, each of its files when it is asked for."""

from __future__ import annotations

import os
from collections.abc import Callable, Mapping
from functools import cached_property
from pathlib import Path
from typing import TypeVar

import pyarrow as pa

from integrum.assembling.codebook import ColumnEntry
from integrum.assembling.ends import EndRow
from integrum.assembling.row_runs import RowRun
from integrum.checking.checks import CheckResult
from integrum.columns.table_schema import TableSchema
from integrum.engine.headers import HeaderEntry
from integrum.engine.ledger import SourceSummary
from integrum.entries import Entries
from integrum.errors import OutputError
from integrum.findings import findings
from integrum.plan.from_toml import read_plan
from integrum.plan.model import Plan
from integrum.problems import Problem
from integrum.reading.aside import SetAside
from integrum.reading.blocks import Blocks
from integrum.reading.left_out import LeftOutRow
from integrum.reading.preamble import PreambleEntry
from integrum.record.table import RecordTable
from integrum.recording.record_places import record_with
from integrum.recording.swap import settle
from integrum.recording.tables import (
    BLOCKS,
    CATEGORIES,
    CHECKS,
    COLUMNS,
    ENDS,
    HEADERS,
    LEFT_OUT,
    PLAN,
    PREAMBLE,
    PROBLEMS,
    ROWS,
    SET_ASIDE,
    SOURCES,
    VALUES,
    VARIANTS,
    CategoryEntry,
    ValuesEntry,
    VariantEntry,
    files_since,
)
from integrum.recording.write import Written
from integrum.remote.addresses import is_remote, joined
from integrum.run_file import READABLE, RunFile, is_record, read_run
from integrum.writing.parquet_folder import is_in_folder

Item = TypeVar("Item")
# the first schema that is read: its files are in every record
FIRST = READABLE[0]


class Record:
    """What a record says; its files are read when they are asked for.

    Parameters
    ----------
    folder
        Where it lies.
    run
        What ``run.json`` says: versions, times, counts.

    Raises
    ------
    OutputError
        From any of its properties, when the file is damaged.
    """

    def __init__(self, folder: Path, run: RunFile) -> None:
        self.folder, self.run = folder, run

    def __repr__(self) -> str:
        return f"<Record: {self.folder}>"

    @cached_property
    def plan(self) -> Plan:
        """The plan as used; its relative paths mean: relative to `folder`."""
        return self._read(lambda: read_plan(self.folder / PLAN))

    @cached_property
    def sources(self) -> Entries[SourceSummary]:
        """What became of each source, in order."""

        def read() -> Entries[SourceSummary]:
            base = joined(self.folder, self.run.common_folder)
            found = Entries(SOURCES.read(self.folder, self.is_guarded))
            for one in found:
                path = one.file if is_remote(one.file) else os.path.join(base, one.file)
                one.path = path if is_remote(path) else os.path.normpath(path)
            return found

        return self._read(read)

    @cached_property
    def problems(self) -> Entries[Problem]:
        """All findings."""
        return self._read(lambda: findings(PROBLEMS.read(self.folder, self.is_guarded)))

    @cached_property
    def checks(self) -> Entries[CheckResult]:
        """What each check of the plan has found."""
        return self._all(CHECKS)

    @cached_property
    def set_aside(self) -> Entries[SetAside]:
        """Cells, rows and sources with a problem, with their raw text."""
        return self._all(SET_ASIDE)

    @cached_property
    def left_out(self) -> Entries[LeftOutRow]:
        """Every row that is not in the table, with the part that it is and its raw text."""
        return self._all(LEFT_OUT)

    @cached_property
    def columns(self) -> Entries[ColumnEntry]:
        """The codebook."""
        return self._all(COLUMNS)

    @cached_property
    def categories(self) -> Entries[CategoryEntry]:
        """How often each value of the columns that have a few is in the table."""
        return self._all(CATEGORIES)

    @cached_property
    def ends(self) -> Entries[EndRow]:
        """The first and the last rows of each output."""
        return self._all(ENDS)

    @cached_property
    def headers(self) -> Entries[HeaderEntry]:
        """What became of each header cell."""
        return self._all(HEADERS)

    @cached_property
    def values(self) -> Entries[ValuesEntry]:
        """The values of each column in each source."""
        return self._all(VALUES)

    @cached_property
    def preamble(self) -> Entries[PreambleEntry]:
        """What stood above the headers."""
        return self._all(PREAMBLE)

    @cached_property
    def rows(self) -> Entries[RowRun]:
        """Which rows of its source the rows of the table are, where the table does not say it."""
        return self._all(ROWS)

    @cached_property
    def variants(self) -> Entries[VariantEntry]:
        """The headers as they are written; none in a record of schema 6."""
        return self._all(VARIANTS)

    @cached_property
    def blocks(self) -> Mapping[str, Blocks]:
        """The hashes of the lines of each source, block by block, by its name; none in a record of schema 6."""
        found: dict[tuple[str, int], list[str]] = {}
        for one in self._all(BLOCKS):
            found.setdefault((one.source, one.lines), []).append(one.blake3)
        return {source: Blocks(lines, tuple(some)) for (source, lines), some in found.items()}

    @cached_property
    def outputs(self) -> tuple[Written, ...]:
        """The outputs, with absolute paths."""

        def read() -> tuple[Written, ...]:
            return tuple(
                Written(
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

    def all_of(self, table: RecordTable[Item]) -> Entries[Item]:
        """The entries of one of its files."""
        return self._all(table)

    def _all(self, table: RecordTable[Item]) -> Entries[Item]:
        if table.since != FIRST and not (self.folder / table.file).exists():
            return Entries(())
        return self._read(lambda: Entries(table.read(self.folder, self.is_guarded)))

    def _read(self, read: Callable[[], Item]) -> Item:
        try:
            return read()
        except (OSError, KeyError, ValueError, TypeError) as error:
            raise OutputError(f"{self.folder} is not a complete record: {error}") from error


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
