"""Sources that need no reading of quotes: split at line ends."""

from __future__ import annotations

import csv
import re
from functools import lru_cache

import pyarrow as pa
import pyarrow.csv as pacsv

from integrum.plan.layout import SPACES
from integrum.reading.records import Dialect

_BLANKS = re.compile(rb"[ \t]+")
_EDGES = re.compile(rb"(?:(?<=[\r\n])|\A)[ \t]+|[ \t]+(?=[\r\n]|\Z)")


def plain(data: bytes, dialect: Dialect) -> bytes:
    r"""Rewrite records with doubled quotes instead of escaped ones, and tabs instead of runs of blanks.

    Returns the same records, with `separator` between their cells.

    Examples
    --------
    >>> print(plain(rb"1,'it\'s',C:\temp,'C:\a\\'", Dialect(quote="'", escape="\\")).decode())
    1,'it''s',C:\temp,'C:\a\'
    >>> plain(b' 1   "a  b"\t7 \n', Dialect(" "))
    b'1\t"a  b"\t7\n'
    """
    if dialect.escape and (dialect.escape + dialect.quote).encode() in data:
        data = _cells(dialect).sub(lambda cell: _doubled(cell[0], dialect), data)
    if dialect.delimiter != SPACES:
        return data
    if not dialect.quote or dialect.quote.encode() not in data:
        return _BLANKS.sub(b"\t", _EDGES.sub(b"", data))
    return _spaced(dialect.quote).sub(lambda found: found[1] or (b"" if found[2] else b"\t"), data)


def separator(dialect: Dialect) -> str:
    """The delimiter after `plain`."""
    return "\t" if dialect.delimiter == SPACES else dialect.delimiter


def is_plain(dialect: Dialect) -> bool:
    """Whether `plain` would change nothing."""
    return dialect.delimiter != SPACES and not dialect.escape


def _doubled(cell: bytes, dialect: Dialect) -> bytes:
    """A quoted cell; escapes before a quote are read in pairs, and one that is left over escapes the quote."""
    escape, quote = dialect.escape.encode(), dialect.quote.encode()
    runs = re.compile(rb"(%s+)%s" % (re.escape(escape), re.escape(quote)))

    def written(run: re.Match[bytes]) -> bytes:
        pairs, left = divmod(len(run[1]), 2)
        return escape * pairs + quote * (1 + left)

    return runs.sub(written, cell)


@lru_cache(maxsize=32)
def _cells(dialect: Dialect) -> re.Pattern[bytes]:
    """A quoted cell in which quotes are escaped or doubled."""
    border, quote, escape = (
        re.escape(part) for part in (dialect.borders, dialect.quote.encode(), dialect.escape.encode())
    )
    inner = rb"[^%(q)s%(e)s]++|%(e)s%(e)s|%(e)s%(q)s|%(e)s|%(q)s%(q)s" % {b"q": quote, b"e": escape}
    return re.compile(rb"(?<![^%s])%s(?:%s)*+%s" % (border, quote, inner, quote))


@lru_cache(maxsize=8)
def _spaced(quote: str) -> re.Pattern[bytes]:
    """A quoted cell, blanks at the edge of a line, or blanks between cells."""
    mark = re.escape(quote.encode())
    cell = rb"(?<![^ \t\r\n])%s(?:[^%s]|%s%s)*+%s" % (mark, mark, mark, mark, mark)
    return re.compile(rb"(%s)|(%s)|[ \t]+" % (cell, _EDGES.pattern))


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
