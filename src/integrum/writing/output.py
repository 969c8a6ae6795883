"""What a run needs of an output, whatever its format."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any, Protocol, Self

import pyarrow as pa

from integrum.columns.table_schema import TableSchema

# a batch, and how many rows of it each of its sources has; gives a payload, and its bytes by source or 0
Pack = Callable[[pa.RecordBatch, Sequence[int]], tuple[Any, Sequence[int]]]
# how an output takes what workers elsewhere have written: as ranges of bytes, as batches, or as files that are finished
BYTES, BATCHES, FILES = "bytes", "batches", "files"
# makes tables about the table: by name, the header and the rows of each
Tables = Callable[[], Mapping[str, tuple[Sequence[str], Sequence[Sequence[object]]]]]


class Output(Protocol):
    """Takes the batches of a table, in order."""

    @property
    def as_text(self) -> bool:
        """Whether it takes canonical text instead of Arrow types."""

    @property
    def parts(self) -> str:
        """How it takes the files that workers elsewhere have written: `BYTES`, `BATCHES` or `FILES`."""

    @property
    def pack(self) -> Pack:
        """Is called on the workers: turns a batch into a payload."""

    def begin(self, schema: TableSchema) -> int:
        """Take the schema, before anything else; gives the bytes that stand before the rows, where that can be told."""

    def append(self, payload: Any, rows: int) -> None:
        """Take the next payload."""

    def finish(self) -> None:
        """No more will come."""


class FileOutput(Output, Protocol):
    """An output in a file."""

    @classmethod
    def at(cls, place: Path, guarded: bool = False) -> Self:
        """Open one for writing to a place."""

    def document(self, tables: Tables) -> None:
        """Take tables about the table; after `finish`."""

    def close(self) -> None:
        """Write what is left; after `document`."""

    def content(self) -> str:
        """The content hash of the file; after `close`."""

    def discard(self) -> None:
        """Give up; what was written does not matter."""

    @staticmethod
    def load(path: Path, schema: TableSchema, guarded: bool = False) -> pa.Table:
        """Read the table back from a finished file."""

    @staticmethod
    def batches(path: Path, schema: TableSchema, guarded: bool = False) -> Iterator[pa.RecordBatch]:
        """Read it back in batches, so that no more than some of it is in memory."""
