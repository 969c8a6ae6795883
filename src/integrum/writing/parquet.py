"""Parquet: typed columns, a row group for each batch."""

from __future__ import annotations

from pathlib import Path

import pyarrow as pa
import pyarrow.parquet as pq

from integrum.writing.memory import pack_batch


class ParquetOutput:
    """Writes a Parquet file.

    Parameters
    ----------
    path
        The file to write.
    """

    as_text = False
    pack = staticmethod(pack_batch)

    def __init__(self, path: Path) -> None:
        self._path = path
        self._writer: pq.ParquetWriter | None = None

    def begin(self, schema: pa.Schema) -> None:
        """Open the file."""
        self._writer = pq.ParquetWriter(str(self._path), schema, compression="zstd")

    def append(self, payload: pa.RecordBatch, rows: int) -> None:
        """Write a row group."""
        if self._writer and rows:
            self._writer.write_batch(payload)

    def finish(self) -> None:
        """Write the footer."""
        if self._writer:
            self._writer.close()


def load_parquet(path: Path) -> pa.Table:
    """Read the table back."""
    return pq.read_table(str(path))
