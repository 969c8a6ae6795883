"""CSV: UTF-8, LF, quotes only where a cell needs them (RFC 4180 otherwise)."""

from __future__ import annotations

from pathlib import Path
from typing import BinaryIO

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.csv as pacsv

from integrum.arrays import text, texts

_NEED_QUOTES = '[",\r\n]'


def pack_csv(batch: pa.RecordBatch) -> bytes | pa.Buffer:
    r"""Write a batch as CSV lines.

    Examples
    --------
    >>> bytes(pack_csv(pa.record_batch({"a": ["7.20", None], "b": ['a "b" c', "x, y"]})))
    b'7.20,"a ""b"" c"\n,"x, y"\n'
    """
    if not batch.num_rows:
        return b""
    columns = [_quoted(column, alone=batch.num_columns == 1) for column in batch.columns]
    if not any(changed for _, changed in columns):
        sink = pa.BufferOutputStream()
        options = pacsv.WriteOptions(include_header=False, batch_size=1 << 17, quoting_style="none")
        pacsv.write_csv(batch, sink, options)
        return sink.getvalue()
    cells = [pc.fill_null(pc.cast(column, pa.large_string()), _large("")) for column, _ in columns]
    ends = pc.binary_join_element_wise(cells[-1], _large("\n"), _large(""))
    lines = pc.binary_join_element_wise(*cells[:-1], ends, _large(","))
    return _bytes(lines, np.int64)


def _quoted(column: pa.Array, alone: bool) -> tuple[pa.Array, bool]:
    """The column with quotes around the cells that need them, and whether any did.

    An empty cell that is alone on its line needs them too: an empty line is no row.
    """
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


class CsvOutput:
    """Writes CSV to a binary stream.

    Parameters
    ----------
    stream
        Open for writing bytes; is flushed, not closed.
    """

    as_text = True
    pack = staticmethod(pack_csv)

    def __init__(self, stream: BinaryIO) -> None:
        self._stream = stream

    def begin(self, schema: pa.Schema) -> None:
        """Write the header."""
        cells = [texts([name]) for name in schema.names]
        self._stream.write(pack_csv(pa.RecordBatch.from_arrays(cells, [str(at) for at in range(len(cells))])))

    def append(self, payload: bytes | pa.Buffer, rows: int) -> None:  # noqa: ARG002
        """Write some lines."""
        self._stream.write(payload)

    def finish(self) -> None:
        """Hand everything to the system."""
        self._stream.flush()


def load_csv(path: Path, schema: pa.Schema) -> pa.Table:
    """Read the table back, with its types."""
    if not len(schema):
        return pa.table({})
    return pacsv.read_csv(
        str(path),
        parse_options=pacsv.ParseOptions(newlines_in_values=True),
        convert_options=pacsv.ConvertOptions(
            column_types=schema, strings_can_be_null=True, null_values=[""], quoted_strings_can_be_null=True
        ),
    )
