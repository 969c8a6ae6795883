"""CSV packed with gzip (RFC 1952): the same lines, in a file of a fraction of the size."""

from __future__ import annotations

import zlib
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO

import pyarrow as pa
from blake3 import blake3

from integrum.columns.table_schema import TableSchema
from integrum.writing.csv import CsvOutput, Lines, csv_batches, read_csv

# the header that gzip writes without a name and a time, so that the same run gives the same bytes
_GZIP = 31
_LEVEL = 6


class PackedCsvOutput(CsvOutput):
    """Writes CSV lines to a binary stream, packed.

    Parameters
    ----------
    guarded
        Whether cells that a spreadsheet program would take for formulas are made harmless.
    """

    def __init__(self, stream: BinaryIO, guarded: bool = False) -> None:
        super().__init__(_Packing(stream), guarded)  # type: ignore[arg-type]

    def content(self) -> str:
        """The content hash of the file: BLAKE3, 256 bits, in hexadecimal."""
        return self._stream.content  # type: ignore[attr-defined, no-any-return]

    @staticmethod
    def load(path: Path, schema: TableSchema, guarded: bool = False) -> pa.Table:
        """Read the table back, with its types."""
        with pa.input_stream(str(path), compression="gzip") as stream:
            return read_csv(stream, schema, guarded)

    @staticmethod
    def batches(path: Path, schema: TableSchema, guarded: bool = False) -> Iterator[pa.RecordBatch]:
        """Read it back in batches."""
        with pa.input_stream(str(path), compression="gzip") as stream:
            yield from csv_batches(stream, schema, guarded)


class _Packing:
    """A stream that packs what is written to it; its bytes do not depend on the pieces that it comes in."""

    def __init__(self, stream: BinaryIO) -> None:
        self._stream, self._hasher = stream, blake3()
        self._pack = zlib.compressobj(_LEVEL, zlib.DEFLATED, _GZIP)
        self._is_open = True

    @property
    def content(self) -> str:
        return self._hasher.hexdigest()

    def write(self, lines: Lines) -> None:
        self._out(self._pack.compress(lines))

    def flush(self) -> None:
        """Nothing: a flush in the midst would change the bytes."""

    def close(self) -> None:
        if self._is_open:
            self._is_open = False
            self._out(self._pack.flush())
            self._stream.close()

    def _out(self, data: bytes) -> None:
        self._stream.write(data)
        self._hasher.update(data)
