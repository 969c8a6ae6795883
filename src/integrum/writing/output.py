"""What a run needs of an output; the suffixes; a table in memory, and one that stays as it is."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, ClassVar, Protocol, Self

import pyarrow as pa

from integrum.columns.table_schema import TableSchema

# what the name of an output ends with
CSV, PACKED_CSV, PARQUET, ARROW, WORKBOOK, SQLITE = (
    ".csv",
    ".csv.gz",
    ".parquet",
    ".arrow",
    ".xlsx",
    ".sqlite",
)
SUFFIXES = (CSV, PACKED_CSV, PARQUET, ARROW, WORKBOOK, SQLITE)

# a batch, and how many rows of it each of its sources has; gives a payload, and its bytes by source or 0
Pack = Callable[[pa.RecordBatch, Sequence[int]], tuple[Any, Sequence[int]]]
# how an output takes what workers elsewhere have written: as ranges of bytes, as batches, or as files that are finished
BYTES, BATCHES, FILES = "bytes", "batches", "files"
# the sources of a payload, in order: the number of each, its rows, and its bytes or 0
Spans = Sequence[tuple[int, int, int]]


@dataclass(frozen=True)
class AboutTable:
    """A table about a run."""

    header: Sequence[str]
    rows: Iterable[Sequence[object]]
    numbers: frozenset[str] = frozenset()  # the columns of whole numbers


@dataclass(frozen=True)
class AboutRun:
    """What there is to say of a run in an output that keeps it beside the table."""

    tables: Mapping[str, Callable[[], AboutTable]]  # those of the record
    codebook: Callable[[], AboutTable]  # the columns in words, for people
    # the columns by which rows of the table are looked up
    looked_up: Sequence[tuple[str, ...]] = ()


About = Callable[[], AboutRun]


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

    def append(self, payload: Any, rows: int, spans: Spans = ()) -> None:
        """Take the next payload, with the sources of its rows."""

    def finish(self) -> None:
        """No more will come."""


class FileOutput(Output, Protocol):
    """An output in a file."""

    has_tables: ClassVar[bool]  # whether it keeps what there is to say of the run, too

    @classmethod
    def at(cls, place: Path, guarded: bool = False) -> Self:
        """Open one for writing to a place."""

    def document(self, about: About) -> None:
        """Take what there is to say of the run; after `finish`."""

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


def suffix_of(path: Path) -> str:
    """What the name of an output ends with, in lower case: one of `SUFFIXES`, or its last suffix.

    Examples
    --------
    >>> suffix_of(Path("out/lakes.v2.CSV.gz")), suffix_of(Path("lakes.v2.txt"))
    ('.csv.gz', '.txt')
    """
    name = path.name.lower()
    return max((one for one in SUFFIXES if name.endswith(one)), key=len, default=path.suffix.lower())


def stem_of(path: Path) -> str:
    """The name of an output without what it ends with.

    Examples
    --------
    >>> stem_of(Path("out/lakes.v2.csv.gz"))
    'lakes.v2'
    """
    return path.name[: len(path.name) - len(suffix_of(path))]


class KeptOutput:
    """Takes no rows; see `integrum.writing.output.FileOutput`.

    Parameters
    ----------
    like
        The format of the table.
    begins_at
        The bytes that stand before its rows.
    content
        The hash of its content (BLAKE3).
    pack
        Is called where a row comes even so.
    """

    def __init__(self, like: Any, begins_at: int, content: str, pack: Pack) -> None:
        self.as_text, self.parts, self.pack = like.as_text, like.parts, pack
        self._begins_at, self._content = begins_at, content

    def begin(self, schema: TableSchema) -> int:  # noqa: ARG002
        """The bytes before the rows."""
        return self._begins_at

    def append(self, payload: Any, rows: int, spans: Spans = ()) -> None:
        """Never called: nothing is packed."""

    def document(self, about: About) -> None:
        """What there is to say of it is in it."""

    def finish(self) -> None:
        """Do nothing: the file is whole already."""

    close = discard = finish

    def content(self) -> str:
        """The content hash."""
        return self._content


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
