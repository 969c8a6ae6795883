"""The files of a record as text: rows of anything to lines of CSV, and back to texts."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from itertools import islice
from pathlib import Path
from typing import Any

import pyarrow as pa
import pyarrow.csv as pacsv

from integrum.arrow.arrays import texts
from integrum.arrow.csvlines import csv_lines
from integrum.writing.guarding import guard, unguard

_TOGETHER = 10_000


def lines_of(rows: Iterable[Sequence[object]], guarded: bool = False) -> Iterator[bytes]:
    r"""Write rows of one length as CSV; nothing is an empty cell.

    `guarded`: whether cells that a spreadsheet program would take for formulas are made harmless.

    Examples
    --------
    >>> b"".join(lines_of([("a.csv", 3, None), ("b.csv", 4, "=x\ry")], guarded=True))
    b'a.csv,3,\nb.csv,4,"\'=x\ry"\n'
    """
    waiting = iter(rows)
    while some := list(islice(waiting, _TOGETHER)):
        columns = [_column(cells) for cells in zip(*some, strict=True)]
        yield bytes(csv_lines([guard(column) for column in columns] if guarded else columns))


def table_of(path: Path, guarded: bool = False) -> pa.Table:
    """Read such a file back as a table of texts.

    Raises ValueError when it is not such a file.
    """
    return _plain(_read(path), guarded)


def tables_of(path: Path, guarded: bool = False) -> Iterator[pa.Table]:
    """The same; of a large file in batches."""
    if path.stat().st_size <= _LARGE:
        yield table_of(path, guarded)
        return
    with open(path, "rb") as file:
        header = file.readline()
    with pacsv.open_csv(str(path), **_options(header, _BLOCK)) as batches:
        for batch in batches:
            yield _plain(pa.Table.from_batches([batch]), guarded)


def _plain(table: pa.Table, guarded: bool) -> pa.Table:
    if not guarded:
        return table
    return pa.table([unguard(column) for column in table.columns], names=table.column_names)


_LARGE, _BLOCK = 32 << 20, 4 << 20


def _read(path: Path) -> pa.Table:
    data = path.read_bytes()
    return pacsv.read_csv(pa.BufferReader(data), **_options(data, len(data) + 1))


def _options(data: bytes, block: int) -> dict[str, Any]:
    return {
        # one block needs no threads, which would have to end before the process does
        "read_options": pacsv.ReadOptions(use_threads=False, block_size=block),
        "parse_options": pacsv.ParseOptions(newlines_in_values=True, ignore_empty_lines=False),
        "convert_options": pacsv.ConvertOptions(
            column_types=dict.fromkeys(data.split(b"\n", 1)[0].decode().split(","), pa.string()),
            strings_can_be_null=False,
        ),
    }


def _column(cells: Sequence[object]) -> pa.Array:
    said = [None if cell is None else str(cell) for cell in cells]
    try:
        return texts(said)
    except UnicodeEncodeError:  # half a letter that a system has let into a name
        return texts([one and one.encode("utf-8", "backslashreplace").decode() for one in said])
