"""Columns as lines of CSV: quotes only where a cell needs them (RFC 4180), and a guard against formulas."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.csv as pacsv

from integrum.values.arrays import flags, text
from integrum.values.checking import not_canonical
from integrum.values.types import TYPES

# the library sets aside room for this many at a time
_MOST_CELLS = 1 << 21
_NEED_QUOTES = '[",\r\n]'
_MARK = "'"
_RISKY = r"^[=+@\t\r'-]"


def csv_lines(columns: Sequence[pa.Array]) -> bytes | pa.Buffer:
    r"""Write columns of one length as lines; null is an empty cell.

    Returns UTF-8, each line ending with LF. An empty cell that is alone on its line is quoted, as an empty line is no
    row.

    `columns`: at least one. Texts get quotes where they need them; other types are written by Arrow.

    Examples
    --------
    >>> bytes(csv_lines([pa.array(["7.20", None]), pa.array(['a "b" c', "x, y"])]))
    b'7.20,"a ""b"" c"\n,"x, y"\n'
    """
    if not len(columns[0]):
        return b""
    quoted = [_quoted(column, alone=len(columns) == 1) for column in columns]
    if not any(changed for _, changed in quoted):
        sink = pa.BufferOutputStream()
        batch = pa.RecordBatch.from_arrays(list(columns), [str(at) for at in range(len(columns))])
        rows = max(1, min(len(columns[0]), _MOST_CELLS // len(columns)))
        options = pacsv.WriteOptions(include_header=False, batch_size=rows, quoting_style="none")
        pacsv.write_csv(batch, sink, options)
        return sink.getvalue()
    cells = [pc.fill_null(pc.cast(column, pa.large_string()), _large("")) for column, _ in quoted]
    ends = pc.binary_join_element_wise(cells[-1], _large("\n"), _large(""))
    lines = pc.binary_join_element_wise(*cells[:-1], ends, _large(","))
    return _bytes(lines, np.int64)


def line_sizes(lines: bytes | pa.Buffer, counts: Sequence[int]) -> list[int]:
    r"""The bytes of consecutive runs of lines.

    `lines`: what `csv_lines` gave.

    Examples
    --------
    >>> line_sizes(b'1,2\n"a\nb",3\n4,5\n', [2, 1])
    [12, 4]
    """
    if len(counts) == 1:
        return [len(lines)]
    view = np.frombuffer(lines, np.uint8)
    ends = np.flatnonzero(view == ord("\n"))
    quotes = np.flatnonzero(view == ord('"'))
    if len(quotes):
        ends = ends[np.searchsorted(quotes, ends) % 2 == 0]
    last = ends[np.cumsum(counts) - 1] + 1 if len(counts) else ends
    sizes: list[int] = np.diff(last, prepend=0).tolist()
    return sizes


def _quoted(column: pa.Array, alone: bool) -> tuple[pa.Array, bool]:
    """The column with quotes around the cells that need them, and whether any did."""
    if not pa.types.is_string(column.type):
        return column, False
    changed = False
    data = _bytes(column, np.int32)
    if any(letter in data for letter in (b'"', b",", b"\n", b"\r")):
        needs = pc.match_substring_regex(column, _NEED_QUOTES)
        doubled = pc.replace_substring(column, '"', '""')
        quoted = pc.binary_join_element_wise(text('"'), doubled, text('"'), text(""))
        column = pc.if_else(needs, quoted, column)
        changed = True
    if alone and (column.null_count or pc.any(pc.equal(column, text(""))).as_py()):
        empty = pc.equal(pc.fill_null(column, text("")), text(""))
        column = pc.if_else(empty, text('""'), column)
        changed = True
    return column, changed


def _large(value: str) -> pa.Scalar:
    return pc.cast(text(value), pa.large_string())


def _bytes(column: pa.Array, offsets: type) -> bytes:
    if not len(column) or column.buffers()[2] is None:
        return b""
    places: npt.NDArray[np.integer] = np.frombuffer(column.buffers()[1], offsets)
    first, last = places[column.offset], places[column.offset + len(column)]
    return memoryview(column.buffers()[2])[first:last].tobytes()


def guard(column: pa.Array) -> pa.Array:
    r"""Guard the texts of a column.

    One that begins with ``=``, ``+``, ``-``, ``@``, a tab or a carriage return gets an apostrophe before it, unless it
    is a plain number; so does one that begins with an apostrophe, so that all can be taken back.

    Examples
    --------
    >>> guard(pa.array(["=1+1", "-7.2", "-x", "'x", None])).to_pylist()
    ["'=1+1", '-7.2', "'-x", "''x", None]
    """
    risky = pc.match_substring_regex(column, _RISKY)
    if not pc.any(risky).as_py():
        return column
    number = np.ones(len(column), bool)
    number[not_canonical(column, TYPES["number"])] = False
    marked = pc.binary_join_element_wise(text(_MARK), column, text(""))
    return pc.if_else(pc.and_not(risky, flags(number)), marked, column)


def unguard(column: pa.ChunkedArray) -> pa.ChunkedArray:
    """Take the apostrophes back.

    Examples
    --------
    >>> unguard(pa.chunked_array([["'=1+1", "-7.2", "''x"]])).to_pylist()
    ['=1+1', '-7.2', "'x"]
    """
    if not pa.types.is_string(column.type):
        return column
    return pc.if_else(pc.starts_with(column, _MARK), pc.utf8_slice_codeunits(column, 1), column)
