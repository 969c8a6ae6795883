"""The values of each column in each source, in the record: how many, the least, the median, the greatest."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from pathlib import Path

import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import texts
from integrum.arrow.csvlines import csv_lines
from integrum.measures.measures import VALUES
from integrum.record.lines import lines_of
from integrum.record.table import Named
from integrum.writing.guarding import guard

# so many lines are written at once
_TOGETHER = 10_000


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
    """Small tables as larger ones, as each costs some time."""
    some: list[pa.Table] = []
    for table in tables:
        some.append(table)
        if sum(map(len, some)) >= _TOGETHER:
            yield pa.concat_tables(some)
            some = []
    if some:
        yield pa.concat_tables(some)
