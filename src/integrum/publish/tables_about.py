"""What a database and a workbook say about the table: the tables of the record, as rows."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from pathlib import Path
from typing import Any

import pyarrow as pa
import pyarrow.compute as pc

from integrum.assembling.run import RunResult
from integrum.measures.measures import SOURCES, VALUES
from integrum.measures.tables import (
    CATEGORIES,
    CHECKS,
    COLUMNS,
    HEADERS,
    LEFT_OUT,
    PREAMBLE,
    PROBLEMS,
    SET_ASIDE,
)
from integrum.plan.plan import Plan
from integrum.publish.codebook import CodebookColumn, codebook_of
from integrum.record.table import Named, Places, RecordTable, lines_of
from integrum.values.arrays import texts
from integrum.values.csv_lines import csv_lines, guard
from integrum.writing.output import AboutRun, AboutTable

# those that say something of the table; the others are for the next run
_TOLD: tuple[RecordTable[Any], ...] = (SOURCES, COLUMNS, PROBLEMS, CHECKS, HEADERS, PREAMBLE, CATEGORIES)
# written while the run goes on
_KEPT_OUT: tuple[RecordTable[Any], ...] = (SET_ASIDE, LEFT_OUT)
# this many lines are written at once
_TOGETHER = 10_000


def about_run(made: RunResult, plan: Plan, output: str, record: Path | None) -> AboutRun:
    """What a run says of itself in an output that has room for it.

    Parameters
    ----------
    output
        The output, relative to the record.
    record
        Where the record is being written.
    """
    places = Places(names_of(made), dict.fromkeys(made.rows, output))
    tables: dict[str, Callable[[], AboutTable]] = {
        _name(table): _made_of(table, made, places) for table in _TOLD
    }
    tables[_name(VALUES)] = lambda: AboutTable(VALUES.header, _values(made, places), _numbers(VALUES))
    if record:
        tables |= {_name(table): _read_from(table, record, places) for table in _KEPT_OUT}
    rows = sum(made.rows.values())

    def codebook() -> AboutTable:
        entries = codebook_of(made, plan, made.schema.arrow, rows)
        return AboutTable(CodebookColumn.HEADER, (one.cells for one in entries), frozenset({"filled"}))

    return AboutRun(tables, codebook, tuple(_looked_up(made, plan)))


def names_of(made: RunResult) -> dict[str, Named]:
    """The sources as the table names them, by their names."""
    return {one.source: Named(one.file, one.sheet) for one in made.sources}


def _name(table: RecordTable[Any]) -> str:
    return Path(table.file).stem


def _made_of(table: RecordTable[Any], made: RunResult, places: Places) -> Callable[[], AboutTable]:
    return lambda: _about(table, made.all_of(table), places)


def _read_from(table: RecordTable[Any], record: Path, places: Places) -> Callable[[], AboutTable]:
    return lambda: _about(table, table.read(record), places)


def _about(table: RecordTable[Any], items: Iterable[Any], places: Places) -> AboutTable:
    return AboutTable(table.header, (table.cells(one, places) for one in items), _numbers(table))


def _numbers(table: RecordTable[Any]) -> frozenset[str]:
    return frozenset(one.name for one in table.columns if one.is_number)


def _values(made: RunResult, places: Places) -> Iterator[Sequence[object]]:
    """The lines of ``values.csv``."""
    names = [places.source(one.source) for one in made.sources]
    for some in made.values():
        columns = {name: some[name].to_pylist() for name in some.column_names}
        found = [names[number] for number in columns["source"]]
        columns["source"], columns["sheet"] = [one.source for one in found], [one.sheet for one in found]
        yield from zip(*(columns[name] for name in VALUES.header), strict=True)


def _looked_up(made: RunResult, plan: Plan) -> Iterator[tuple[str, ...]]:
    """Columns that identify a row, as a check has shown, and identifiers: they get an index."""
    unique = [one.columns for one in made.checks if one.kind == "unique" and one.has_passed]
    yield from unique
    first = {columns[0] for columns in unique}
    yield from ((name,) for name in plan.identifiers if name in made.names and name not in first)


def write_values(
    folder: Path, sketches: Iterable[pa.Table], names: Sequence[Named], guarded: bool = False
) -> None:
    """Write the file.

    Parameters
    ----------
    sketches
        See `integrum.assembling.run.RunResult.values`.
    guarded
        Whether cells that a spreadsheet program would take for formulas are made harmless.
    """
    sheets, files = texts([one.sheet for one in names]), texts([one.source for one in names])
    with open(folder / VALUES.file, "wb") as file:
        file.writelines(lines_of([VALUES.header]))
        for some in _together(sketches):
            table = some.combine_chunks()
            array = {name: table[name].chunk(0) for name in table.column_names}
            array["sheet"], array["source"] = sheets.take(array["source"]), files.take(array["source"])
            columns = [
                each if pa.types.is_string(each.type) else pc.cast(each, pa.string())
                for each in (array[name] for name in VALUES.header)
            ]
            file.write(csv_lines([guard(column) for column in columns] if guarded else columns))


def _together(tables: Iterable[pa.Table]) -> Iterator[pa.Table]:
    """Join small tables into larger ones."""
    some: list[pa.Table] = []
    for table in tables:
        some.append(table)
        if sum(map(len, some)) >= _TOGETHER:
            yield pa.concat_tables(some)
            some = []
    if some:
        yield pa.concat_tables(some)
