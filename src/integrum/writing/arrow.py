"""The Arrow file format: typed columns that can be mapped into memory as they are."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pyarrow as pa

from integrum.writing.blocks import Blocks
from integrum.writing.memory import hash_of, pack_batch
from integrum.writing.output import Tables


class ArrowOutput:
    """Writes an Arrow file.

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
    def at(cls, place: Path, guarded: bool = False) -> ArrowOutput:  # noqa: ARG003
        """Open one for writing to a place."""
        return cls(place)

    def begin(self, schema: pa.Schema) -> int:
        """Open the file."""
        self._file = pa.OSFile(str(self._path), "wb")
        self._writer = pa.ipc.new_file(self._file, schema)
        self._blocks = Blocks(len(schema))
        return 0

    def append(self, payload: pa.RecordBatch, rows: int) -> None:
        """Keep a batch, and write the blocks that are full."""
        for block in self._blocks.add(payload, rows):
            self._writer.write_table(block)

    def finish(self) -> None:
        """Write what is left, and the footer."""
        for block in self._blocks.rest():
            self._writer.write_table(block)
        self._writer.close()
        self._file.close()

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
            self._file.close()

    @staticmethod
    def load(path: Path, schema: pa.Schema, guarded: bool = False) -> pa.Table:  # noqa: ARG004
        """Read the table back."""
        with pa.memory_map(str(path)) as file:
            return pa.ipc.open_file(file).read_all()

    @staticmethod
    def batches(path: Path, schema: pa.Schema, guarded: bool = False) -> Iterator[pa.RecordBatch]:  # noqa: ARG004
        """Read it back in batches."""
        with pa.memory_map(str(path)) as file:
            whole = pa.ipc.open_file(file)
            for at in range(whole.num_record_batches):
                yield whole.get_batch(at)
