"""A table in memory."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import pyarrow as pa
from blake3 import blake3

from integrum.columns.table_schema import TableSchema
from integrum.writing.output import BATCHES

_CHUNK = 8 << 20


def pack_batch(batch: pa.RecordBatch, counts: Sequence[int]) -> tuple[pa.RecordBatch, Sequence[int]]:
    """Nothing to pack."""
    return batch, [0] * len(counts)


def hash_of(path: Path) -> str:
    """The content hash of a file: BLAKE3, 256 bits, in hexadecimal."""
    hasher = blake3(max_threads=blake3.AUTO)
    with open(path, "rb", buffering=0) as file:
        while data := file.read(_CHUNK):
            hasher.update(data)
    return hasher.hexdigest()


class MemoryOutput:
    """Keeps the batches as one Arrow table."""

    as_text = False
    parts = BATCHES
    pack = staticmethod(pack_batch)

    def __init__(self) -> None:
        self._batches: list[pa.RecordBatch] = []

    def begin(self, schema: TableSchema) -> int:
        """Take the schema."""
        self._schema = schema.arrow
        return 0

    def append(self, payload: pa.RecordBatch, rows: int) -> None:
        """Keep a batch."""
        if rows:
            self._batches.append(payload)

    def finish(self) -> None:
        """All batches are there."""

    def table(self) -> pa.Table:
        """The table."""
        return pa.Table.from_batches(self._batches, self._schema)
