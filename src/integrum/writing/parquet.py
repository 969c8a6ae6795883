"""Parquet: typed columns, row groups of a fixed number of rows whatever the batches."""

from __future__ import annotations

from pathlib import Path

import pyarrow as pa
import pyarrow.parquet as pq

from integrum.writing.memory import hash_of, pack_batch
from integrum.writing.output import Tables

_MOST_ROWS, _LEAST_ROWS, _CELLS = 1 << 17, 1 << 10, 1 << 21


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
        self._batches: list[pa.RecordBatch] = []
        self._rows = 0

    @classmethod
    def at(cls, place: Path, guarded: bool = False) -> ParquetOutput:  # noqa: ARG003
        """Open one for writing to a place."""
        return cls(place)

    def begin(self, schema: pa.Schema) -> int:
        """Open the file; only texts repeat so often that a dictionary pays."""
        self._group = min(_MOST_ROWS, max(_LEAST_ROWS, _CELLS // max(len(schema), 1)))
        words = [field.name for field in schema if pa.types.is_string(field.type)]
        self._writer = pq.ParquetWriter(
            str(self._path), schema, compression="snappy", use_dictionary=words, write_batch_size=self._group
        )
        return 0

    def append(self, payload: pa.RecordBatch, rows: int) -> None:
        """Keep a batch, and write the row groups that are full."""
        if not rows:
            return
        self._batches.append(payload)
        self._rows += rows
        if self._rows >= self._group:
            self._write(self._rows // self._group * self._group)

    def finish(self) -> None:
        """Write what is left, and the footer."""
        self._write(self._rows)
        self._writer.close()

    def document(self, tables: Tables) -> None:
        """Nothing yet."""

    def close(self) -> None:
        """Nothing is left to do."""

    def content(self) -> str:
        """The content hash of the file: BLAKE3, 256 bits, in hexadecimal."""
        return hash_of(self._path)

    def discard(self) -> None:
        """Close the file."""
        if hasattr(self, "_writer"):
            self._writer.close()

    def _write(self, rows: int) -> None:
        if not rows:
            return
        table = pa.Table.from_batches(self._batches)
        for start in range(0, rows, self._group):
            # in one piece, so that the bytes do not depend on where the batches end
            whole = table.slice(start, min(self._group, rows - start)).combine_chunks()
            self._writer.write_table(whole, row_group_size=self._group)
        rest = table.slice(rows)
        self._batches, self._rows = rest.to_batches(), len(rest)

    @staticmethod
    def load(path: Path, schema: pa.Schema, guarded: bool = False) -> pa.Table:  # noqa: ARG004
        """Read the table back."""
        return pq.read_table(str(path))
