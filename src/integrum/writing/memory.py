"""A table in memory."""

from __future__ import annotations

from collections.abc import Sequence

import pyarrow as pa

from integrum.columns.table_schema import TableSchema
from integrum.writing.output import BATCHES, Spans


def pack_batch(batch: pa.RecordBatch, counts: Sequence[int]) -> tuple[pa.RecordBatch, Sequence[int]]:
    """Nothing to pack."""
    return batch, [0] * len(counts)


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

    def append(self, payload: pa.RecordBatch, rows: int, spans: Spans = ()) -> None:  # noqa: ARG002
        """Keep a batch."""
        if rows:
            self._batches.append(payload)

    def finish(self) -> None:
        """All batches are there."""

    def table(self) -> pa.Table:
        """The table."""
        return pa.Table.from_batches(self._batches, self._schema)
