"""CSV: UTF-8, LF, quotes only where a cell needs them (RFC 4180 otherwise)."""

from __future__ import annotations

from pathlib import Path
from typing import BinaryIO

import pyarrow as pa
import pyarrow.csv as pacsv

from integrum.arrays import texts
from integrum.csvlines import csv_lines


def pack_csv(batch: pa.RecordBatch) -> bytes | pa.Buffer:
    r"""Write a batch as CSV lines.

    Examples
    --------
    >>> bytes(pack_csv(pa.record_batch({"a": ["7.20", None], "b": ['a "b" c', "x, y"]})))
    b'7.20,"a ""b"" c"\n,"x, y"\n'
    """
    return csv_lines(batch.columns)


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
