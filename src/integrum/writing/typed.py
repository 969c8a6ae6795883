"""What outputs with Arrow types have in common; most are written block by block."""

from __future__ import annotations

from pathlib import Path
from typing import Any, ClassVar, Self

import pyarrow as pa

from integrum.columns.table_schema import TableSchema
from integrum.hashing import hash_of
from integrum.writing.blocks import RowBlocks
from integrum.writing.memory import pack_batch
from integrum.writing.output import BATCHES, About, Spans


class TypedFile:
    """An output that takes Arrow types, with nothing beside it."""

    as_text = False
    has_tables: ClassVar[bool] = False
    parts = BATCHES
    pack = staticmethod(pack_batch)

    def __init__(self, path: Path) -> None:
        self._path = path

    @classmethod
    def at(cls, place: Path, guarded: bool = False) -> Self:  # noqa: ARG003
        """Open one for writing to a place."""
        return cls(place)

    def document(self, about: About) -> None:
        """Nothing: what there is to say of the columns is in its schema."""

    def close(self) -> None:
        """Nothing is left to do."""

    def content(self) -> str:
        """The content hash: BLAKE3, 256 bits, in hexadecimal."""
        return hash_of(self._path)


class TypedOutput(TypedFile):
    """Writes such a file block by block; those that inherit it open the file, and write a block."""

    _writer: Any = None

    def begin(self, schema: TableSchema) -> int:
        """Open the file."""
        self.open(schema.arrow)
        return 0

    def open(self, schema: pa.Schema) -> None:
        """Open the file for some columns."""
        self._blocks = RowBlocks(len(schema))
        self._writer = self._opened(schema)

    def append(self, payload: pa.RecordBatch, rows: int, spans: Spans = ()) -> None:  # noqa: ARG002
        """Keep a batch, and write the blocks that are full."""
        for block in self._blocks.add(payload, rows):
            self._write(block)

    def finish(self) -> None:
        """Write what is left, and the footer."""
        for block in self._blocks.rest():
            self._write(block)
        self.discard()

    def discard(self) -> None:
        """Close the file."""
        if self._writer is not None:
            self._writer.close()

    def _opened(self, schema: pa.Schema) -> Any:
        """The writer of the library."""
        raise NotImplementedError

    def _write(self, block: pa.Table) -> None:
        """Write a block."""
        raise NotImplementedError
