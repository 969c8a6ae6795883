"""Outputs with Arrow types: Parquet and Arrow files, written block by block."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any, ClassVar, Self

import pyarrow as pa
import pyarrow.parquet as pq

from integrum.columns.table_schema import TableSchema
from integrum.record.hashing import hash_of
from integrum.writing.output import BATCHES, About, Spans, pack_batch

_MOST_ROWS, _LEAST_ROWS, _CELLS = 1 << 17, 1 << 10, 1 << 21


class RowBlocks:
    """Takes batches and gives blocks.

    Parameters
    ----------
    columns
        How many columns there are; blocks of many columns have fewer rows.

    Attributes
    ----------
    most
        Rows of a block.

    Examples
    --------
    >>> blocks = RowBlocks(1 << 11)
    >>> batch = pa.record_batch({"depth": [3.2] * 800})
    >>> [len(one) for some in (blocks.add(batch, 800), blocks.add(batch, 800), blocks.rest()) for one in some]
    [1024, 576]
    """

    def __init__(self, columns: int) -> None:
        self.most = min(_MOST_ROWS, max(_LEAST_ROWS, _CELLS // max(columns, 1)))
        self._batches: list[pa.RecordBatch] = []
        self._rows = 0

    def add(self, batch: pa.RecordBatch, rows: int) -> Iterator[pa.Table]:
        """Take a batch; gives the blocks that are full."""
        if not rows:
            return
        self._batches.append(batch)
        self._rows += rows
        if self._rows >= self.most:
            yield from self._taken(self._rows // self.most * self.most)

    def rest(self) -> Iterator[pa.Table]:
        """What is left."""
        if self._rows:
            yield from self._taken(self._rows)

    def _taken(self, rows: int) -> Iterator[pa.Table]:
        table = pa.Table.from_batches(self._batches)
        for start in range(0, rows, self.most):
            yield table.slice(start, min(self.most, rows - start)).combine_chunks()
        rest = table.slice(rows)
        self._batches, self._rows = rest.to_batches(), len(rest)


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
        """Open the file for writing."""
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


class ParquetOutput(TypedOutput):
    """Writes a Parquet file."""

    def _opened(self, schema: pa.Schema) -> pq.ParquetWriter:
        # only texts repeat this often that a dictionary pays
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
