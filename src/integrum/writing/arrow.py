"""The Arrow file format: typed columns that can be mapped into memory as they are."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pyarrow as pa

from integrum.columns.table_schema import TableSchema
from integrum.writing.typed import TypedOutput


class ArrowOutput(TypedOutput):
    """Writes an Arrow file."""

    def _opened(self, schema: pa.Schema) -> pa.ipc.RecordBatchFileWriter:
        self._file = pa.OSFile(str(self._path), "wb")
        return pa.ipc.new_file(self._file, schema)

    def _write(self, block: pa.Table) -> None:
        self._writer.write_table(block)

    def discard(self) -> None:
        """Close the file; its writer leaves it open."""
        super().discard()
        if self._writer is not None:
            self._file.close()

    @staticmethod
    def load(path: Path, schema: TableSchema, guarded: bool = False) -> pa.Table:  # noqa: ARG004
        """Read the table back."""
        with pa.memory_map(str(path)) as file:
            return pa.ipc.open_file(file).read_all()

    @staticmethod
    def batches(path: Path, schema: TableSchema, guarded: bool = False) -> Iterator[pa.RecordBatch]:  # noqa: ARG004
        """Read it back in batches."""
        with pa.memory_map(str(path)) as file:
            whole = pa.ipc.open_file(file)
            for at in range(whole.num_record_batches):
                yield whole.get_batch(at)
