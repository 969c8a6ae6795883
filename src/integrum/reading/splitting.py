"""The cells of single records, for the few that are looked at one by one."""

from __future__ import annotations

import csv

import pyarrow as pa
import pyarrow.csv as pacsv

from integrum.reading.plain import is_plain, plain, separator
from integrum.reading.records import Dialect


def split_cells(text: str, dialect: Dialect) -> list[str]:
    """The cells of one record."""
    if not is_plain(dialect):
        text = plain(text.encode("utf-8", "replace"), dialect).decode("utf-8")
    text = text.rstrip("\r\n")
    if not dialect.quote:
        return text.split(separator(dialect))
    lines = csv.reader([text], delimiter=separator(dialect), quotechar=dialect.quote)
    try:
        return next(lines, [])
    except csv.Error:  # a cell that is longer than the module takes
        return _long_cells(text.encode("utf-8", "replace"), dialect)


def is_blank(record: str, dialect: Dialect) -> bool:
    """Whether a record has no cell with more than white space."""
    return not any(map(str.strip, split_cells(record, dialect)))


def _long_cells(record: bytes, dialect: Dialect) -> list[str]:
    most = record.count(separator(dialect).encode()) + 1
    table = pacsv.read_csv(
        pa.BufferReader(record + b"\n"),
        read_options=pacsv.ReadOptions(
            use_threads=False, block_size=len(record) + 2, autogenerate_column_names=True
        ),
        parse_options=pacsv.ParseOptions(
            delimiter=separator(dialect), quote_char=dialect.quote, newlines_in_values=True
        ),
        convert_options=pacsv.ConvertOptions(
            column_types={f"f{at}": pa.string() for at in range(most)}, strings_can_be_null=False
        ),
    )
    return [column[0].as_py() for column in table.columns]
