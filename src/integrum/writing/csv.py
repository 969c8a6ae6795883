"""CSV: UTF-8, LF, quotes only where a cell needs them (RFC 4180 otherwise); also packed with gzip (RFC 1952)."""

from __future__ import annotations

import zlib
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from typing import Any, BinaryIO, ClassVar

import pyarrow as pa
import pyarrow.csv as pacsv
from blake3 import blake3

from integrum.columns.table_schema import TableSchema
from integrum.values.arrays import texts
from integrum.values.csv_lines import csv_lines, guard, line_sizes, unguard
from integrum.writing.output import BYTES, About, Pack, Spans

_BLOCK = 8 << 20
# larger ones are for rows that are longer; and what the library says of these
_BLOCKS, _TOO_LONG = (_BLOCK, 256 << 20, (1 << 31) - 1), "straddl"
# this few bytes are hashed at once
_SMALL = 64 << 10
Lines = Any  # bytes or an Arrow buffer
# the header that gzip writes without a name and a time, so that the same run gives the same bytes
_GZIP = 31
_LEVEL = 6


def pack_guarded(batch: pa.RecordBatch, counts: Sequence[int]) -> tuple[Lines, Sequence[int]]:
    r"""Write a batch as CSV lines that no spreadsheet program takes for formulas.

    Examples
    --------
    >>> lines, _ = pack_guarded(pa.record_batch({"a": ["=1+1", "-7.2"]}), [2])
    >>> bytes(lines)
    b"'=1+1\n-7.2\n"
    """
    columns = [guard(column) if pa.types.is_string(column.type) else column for column in batch.columns]
    lines = csv_lines(columns)
    return lines, line_sizes(lines, counts)


def pack_csv(batch: pa.RecordBatch, counts: Sequence[int]) -> tuple[Lines, Sequence[int]]:
    r"""Write a batch as CSV lines.

    Examples
    --------
    >>> lines, sizes = pack_csv(pa.record_batch({"a": ["7.20", None], "b": ['a "b" c', "x, y"]}), [1, 1])
    >>> bytes(lines), sizes
    (b'7.20,"a ""b"" c"\n,"x, y"\n', [17, 8])
    """
    lines = csv_lines(batch.columns)
    return lines, line_sizes(lines, counts)


class CsvOutput:
    """Writes CSV to a binary stream.

    Parameters
    ----------
    stream
        Open for writing bytes; is flushed, not closed.
    guarded
        Whether cells that a spreadsheet program would take for formulas are made harmless.
    """

    as_text = True
    has_tables: ClassVar[bool] = False
    parts = BYTES

    def __init__(self, stream: BinaryIO, guarded: bool = False) -> None:
        self._stream, self._hasher = stream, blake3()
        # what is hashed while it is being written
        self._aside = ThreadPoolExecutor(1)
        self._hashing: Future[object] | None = None
        self.pack: Pack = pack_guarded if guarded else pack_csv

    @classmethod
    def at(cls, place: Path, guarded: bool = False) -> CsvOutput:
        """Open one for writing to a place."""
        return cls(open(place, "wb"), guarded)

    def begin(self, schema: TableSchema) -> int:
        """Write the header."""
        cells = [texts([name]) for name in schema.names]
        lines, _ = self.pack(pa.RecordBatch.from_arrays(cells, [str(at) for at in range(len(cells))]), [1])
        self.append(lines, 0)
        return len(lines)

    def append(self, payload: Lines, rows: int, spans: Spans = ()) -> None:  # noqa: ARG002
        """Write some lines."""
        self._hashed()
        if len(payload) > _SMALL:
            self._hashing = self._aside.submit(self._hasher.update, payload)
        else:
            self._hasher.update(payload)
        self._stream.write(payload)

    def _hashed(self) -> None:
        if self._hashing is not None:
            self._hashing.result()
            self._hashing = None

    def finish(self) -> None:
        """Hand everything to the system."""
        self._hashed()
        self._aside.shutdown()
        self._stream.flush()

    def document(self, about: About) -> None:
        """Nothing: a text has no place for it."""

    def content(self) -> str:
        """The content hash of what was written: BLAKE3, 256 bits, in hexadecimal."""
        return self._hasher.hexdigest()

    def close(self) -> None:
        """Close the file."""
        self._aside.shutdown()
        self._stream.close()

    discard = close

    @staticmethod
    def load(path: Path, schema: TableSchema, guarded: bool = False) -> pa.Table:
        """Read the table back, with its types."""
        return read_csv(str(path), schema, guarded)

    @staticmethod
    def batches(path: Path, schema: TableSchema, guarded: bool = False) -> Iterator[pa.RecordBatch]:
        """Read it back in batches."""
        return csv_batches(str(path), schema, guarded)


def parse_csv(data: bytes, schema: TableSchema) -> pa.Table:
    """Read a table from CSV in memory, with its types."""
    return read_csv(pa.BufferReader(data), schema)


def read_csv(source: Any, schema: TableSchema, guarded: bool = False) -> pa.Table:
    """Read a table back, with its types."""
    if not schema.names:
        return pa.table({})
    table = _with_room(lambda block: pacsv.read_csv(source, **_options(schema, block)))
    return pa.table(_typed(table.columns, schema, guarded), schema=schema.arrow)


def csv_batches(source: Any, schema: TableSchema, guarded: bool = False) -> Iterator[pa.RecordBatch]:
    """The same in batches."""
    if not schema.names:
        return
    rows = 0
    for block in _BLOCKS:
        skip = rows  # what was given before a row came that did not fit into a block
        try:
            with pacsv.open_csv(source, **_options(schema, block)) as batches:
                for batch in batches:
                    rest = batch.slice(min(skip, batch.num_rows))
                    skip -= batch.num_rows - rest.num_rows
                    rows += rest.num_rows
                    if rest.num_rows:
                        yield pa.RecordBatch.from_arrays(
                            _typed(rest.columns, schema, guarded), schema=schema.arrow
                        )
            return
        except pa.ArrowInvalid as error:
            if _TOO_LONG not in str(error) or block == _BLOCKS[-1]:
                raise


def _with_room(read: Callable[[int], Any]) -> Any:
    """Read in blocks that the longest row fits into."""
    for block in _BLOCKS[:-1]:
        try:
            return read(block)
        except pa.ArrowInvalid as error:
            if _TOO_LONG not in str(error):
                raise
    return read(_BLOCKS[-1])


def _typed(columns: Sequence[Any], schema: TableSchema, guarded: bool) -> list[Any]:
    """Columns as they were read, without what guards them; types that the library does not read are cast from texts."""
    plain = [unguard(column) for column in columns] if guarded else columns
    return [
        kind.cast(column) if kind.to_arrow else column
        for column, kind in zip(plain, schema.types, strict=True)
    ]


def _options(schema: TableSchema, block: int = _BLOCK) -> dict[str, Any]:
    return {
        # by position, as guarded names are not those of the schema
        "read_options": pacsv.ReadOptions(
            column_names=schema.names, skip_rows_after_names=1, block_size=block
        ),
        "parse_options": pacsv.ParseOptions(newlines_in_values=True),
        "convert_options": pacsv.ConvertOptions(
            column_types={
                field.name: pa.string() if kind.to_arrow else field.type
                for field, kind in zip(schema.arrow, schema.types, strict=True)
            },
            strings_can_be_null=True,
            null_values=[""],
            quoted_strings_can_be_null=True,
        ),
    }


class PackedCsvOutput(CsvOutput):
    """Writes CSV lines to a binary stream, packed.

    Parameters
    ----------
    guarded
        Whether cells that a spreadsheet program would take for formulas are made harmless.
    """

    def __init__(self, stream: BinaryIO, guarded: bool = False) -> None:
        super().__init__(_Packing(stream), guarded)  # type: ignore[arg-type]

    def content(self) -> str:
        """The content hash of the file: BLAKE3, 256 bits, in hexadecimal."""
        return self._stream.content  # type: ignore[attr-defined, no-any-return]

    @staticmethod
    def load(path: Path, schema: TableSchema, guarded: bool = False) -> pa.Table:
        """Read the table back, with its types."""
        with pa.input_stream(str(path), compression="gzip") as stream:
            return read_csv(stream, schema, guarded)

    @staticmethod
    def batches(path: Path, schema: TableSchema, guarded: bool = False) -> Iterator[pa.RecordBatch]:
        """Read it back in batches."""
        with pa.input_stream(str(path), compression="gzip") as stream:
            yield from csv_batches(stream, schema, guarded)


class _Packing:
    """A stream that packs what is written to it; its bytes do not depend on the pieces that it comes in."""

    def __init__(self, stream: BinaryIO) -> None:
        self._stream, self._hasher = stream, blake3()
        self._pack = zlib.compressobj(_LEVEL, zlib.DEFLATED, _GZIP)
        self._is_open = True

    @property
    def content(self) -> str:
        return self._hasher.hexdigest()

    def write(self, lines: Lines) -> None:
        self._out(self._pack.compress(lines))

    def flush(self) -> None:
        """Nothing: a flush in the midst would change the bytes."""

    def close(self) -> None:
        if self._is_open:
            self._is_open = False
            self._out(self._pack.flush())
            self._stream.close()

    def _out(self, data: bytes) -> None:
        self._stream.write(data)
        self._hasher.update(data)
