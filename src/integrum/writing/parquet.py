"""Parquet: typed columns, row groups of a fixed number of rows whatever the batches."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pyarrow as pa
import pyarrow.parquet as pq

from integrum.writing.blocks import Blocks
from integrum.writing.memory import hash_of, pack_batch
from integrum.writing.output import Tables


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

    @classmethod
    def at(cls, place: Path, guarded: bool = False) -> ParquetOutput:  # noqa: ARG003
        """Open one for writing to a place."""
        return cls(place)

    def begin(self, schema: pa.Schema) -> int:
        """Open the file; only texts repeat so often that a dictionary pays."""
        self._groups = Blocks(len(schema))
        words = [field.name for field in schema if pa.types.is_string(field.type)]
        self._writer = pq.ParquetWriter(
            str(self._path),
            schema,
            compression="snappy",
            use_dictionary=words,
            write_batch_size=self._groups.most,
        )
        return 0

    def append(self, payload: pa.RecordBatch, rows: int) -> None:
        """Keep a batch, and write the row groups that are full."""
        for group in self._groups.add(payload, rows):
            self._writer.write_table(group, row_group_size=self._groups.most)

    def finish(self) -> None:
        """Write what is left, and the footer."""
        for group in self._groups.rest():
            self._writer.write_table(group, row_group_size=self._groups.most)
        self._writer.close()

    def document(self, tables: Tables) -> None:
        """Nothing: what there is to say of the columns is in its schema."""

    def close(self) -> None:
        """Nothing is left to do."""

    def content(self) -> str:
        """The content hash of the file: BLAKE3, 256 bits, in hexadecimal."""
        return hash_of(self._path)

    def discard(self) -> None:
        """Close the file."""
        if hasattr(self, "_writer"):
            self._writer.close()

    @staticmethod
    def load(path: Path, schema: pa.Schema, guarded: bool = False) -> pa.Table:  # noqa: ARG004
        """Read the table back."""
        return pq.read_table(str(path))

    @staticmethod
    def batches(path: Path, schema: pa.Schema, guarded: bool = False) -> Iterator[pa.RecordBatch]:  # noqa: ARG004
        """Read it back in batches."""
        with pq.ParquetFile(str(path)) as file:
            yield from file.iter_batches()
