"""The values of each column in each source, in the record: how many, the least, the median, the greatest."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import NamedTuple

import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import texts
from integrum.arrow.csvlines import csv_lines
from integrum.assembling.sketches import MANY, NAMES
from integrum.recording.lines import lines_of, rows_of, table_of
from integrum.recording.tables import VALUES, Named
from integrum.writing.guarding import guard

COLUMNS = (*NAMES[:2], "sheet", *NAMES[2:])


class ValuesEntry(NamedTuple):
    """The values of a column in a source.

    Attributes
    ----------
    column, source
        Their names.
    filled, empty
        Cells with a value and without one.
    least, median, greatest
        Of numbers, dates and times; as texts, empty where there are none. The median is that of up to 32 values from all
        over the source.
    first, last
        The first and the last cell.
    converted_from
        The unit that the values were converted from; empty where they were not.
    missing
        How often each missing code was met.
    counts
        How often each value of a text or a boolean column is there; None where there are more than 40.
    """

    column: str
    source: str
    filled: int
    empty: int
    least: str
    median: str
    greatest: str
    first: str
    last: str
    converted_from: str
    missing: Mapping[str, int] = {}
    counts: Mapping[str, int] | None = {}


def write_values(
    folder: Path, sketches: Iterable[pa.Table], names: Sequence[Named], guarded: bool = False
) -> None:
    """Write the file.

    Parameters
    ----------
    folder
        Where to write.
    sketches
        See `integrum.assembling.sketches.Sketches.tables`.
    names
        The names of the sources by number.
    guarded
        Whether cells that a spreadsheet program would take for formulas are made harmless.
    """
    sheets, files = texts([one.sheet for one in names]), texts([one.source for one in names])
    with open(folder / VALUES, "wb") as file:
        file.writelines(lines_of([COLUMNS]))
        for some in _together(sketches):
            table = some.combine_chunks()
            array = {name: table[name].chunk(0) for name in table.column_names}
            array["sheet"], array["source"] = sheets.take(array["source"]), files.take(array["source"])
            columns = [
                each if pa.types.is_string(each.type) else pc.cast(each, pa.string())
                for each in (array[name] for name in COLUMNS)
            ]
            file.write(csv_lines([guard(column) for column in columns] if guarded else columns))


def _together(tables: Iterable[pa.Table]) -> Iterator[pa.Table]:
    """Small tables as larger ones, as each costs some time."""
    some: list[pa.Table] = []
    for table in tables:
        some.append(table)
        if sum(map(len, some)) >= _ROWS:
            yield pa.concat_tables(some)
            some = []
    if some:
        yield pa.concat_tables(some)


_ROWS = 10_000


def read_values(folder: Path, guarded: bool = False) -> Iterator[ValuesEntry]:
    """Read the entries back, one by one."""
    return map(_entry, rows_of(folder / VALUES, guarded))


def values_table(folder: Path, guarded: bool = False) -> pa.Table:
    """The entries as a table of texts."""
    return table_of(folder / VALUES, guarded)


def _entry(row: Mapping[str, str]) -> ValuesEntry:
    return ValuesEntry(
        row["column"],
        Named(row["source"], row["sheet"]).name,
        int(row["filled"]),
        int(row["empty"]),
        row["least"],
        row["median"],
        row["greatest"],
        row["first"],
        row["last"],
        row["converted_from"],
        json.loads(row.get("missing") or "{}"),
        None if row.get("counts") == MANY else json.loads(row.get("counts") or "{}"),
    )
