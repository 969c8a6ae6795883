"""Parquet: typed columns, row groups of a fixed number of rows whatever the batches."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pyarrow as pa
import pyarrow.parquet as pq

from integrum.columns.table_schema import TableSchema
from integrum.writing.typed import TypedOutput


class ParquetOutput(TypedOutput):
    """Writes a Parquet file."""

    def _opened(self, schema: pa.Schema) -> pq.ParquetWriter:
        # only texts repeat so often that a dictionary pays
        words = [field.name for field in schema if pa.types.is_string(field.type)]
        return pq.ParquetWriter(
            str(self._path),
            schema,
            compression="snappy",
            use_dictionary=words,
            write_batch_size=self._blocks.most,
        )

    def _write(self, block: pa.Table) -> None:
        self._writer.write_table(block, row_group_size=self._blocks.most)

    @staticmethod
    def load(path: Path, schema: TableSchema, guarded: bool = False) -> pa.Table:  # noqa: ARG004
        """Read the table back."""
        return pq.read_table(str(path))

    @staticmethod
    def batches(path: Path, schema: TableSchema, guarded: bool = False) -> Iterator[pa.RecordBatch]:  # noqa: ARG004
        """Read it back in batches."""
        with pq.ParquetFile(str(path)) as file:
            yield from file.iter_batches()
