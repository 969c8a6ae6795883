"""Parts of an output that is there, read back as they are: bytes of a CSV, rows of a Parquet file."""

from __future__ import annotations

import io
from collections.abc import Iterator
from functools import lru_cache
from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.csv as pacsv

from integrum.sources.source import read_full
from integrum.values.csv_lines import unguard
from integrum.writing.output import CSV, PARQUET, SQLITE, suffix_of

# the formats that can be read so
SUFFIXES = (CSV, PARQUET, SQLITE)
_BLOCK = 8 << 20


def csv_part(place: Path, start: int, end: int) -> bytes:
    """Some bytes of a file; fewer where it ends before."""
    with open(place, "rb", buffering=0) as file:
        file.seek(start)
        return read_full(file.read, end - start)


def typed_part(place: Path, start: int, end: int, schema: pa.Schema) -> pa.RecordBatch:
    """The rows of an output with types from one number up to another, from 0."""
    if suffix_of(place) != SQLITE:
        return parquet_part(place, start, end, schema)
    from integrum.writing.sqlite import rows_of

    batches = list(rows_of(place, schema, start, end))
    return pa.Table.from_batches(batches, schema).combine_chunks().to_batches(end - start)[0]


def typed_rows(
    place: Path, suffix: str, numbers: tuple[int, int], schema: pa.Schema, names: list[str]
) -> Iterator[pa.RecordBatch]:
    """Some columns of them, in batches.

    `suffix`: that of the output, as it may lie under another name until it is put in its place.
    """
    if suffix == SQLITE:
        from integrum.writing.sqlite import rows_of

        return rows_of(place, pa.schema([schema.field(name) for name in names]), *numbers)
    return (parquet_rows if suffix == PARQUET else arrow_rows)(place, *numbers, names)


def parquet_part(place: Path, start: int, end: int, schema: pa.Schema) -> pa.RecordBatch:
    """The rows of a Parquet file from one number up to another, from 0."""
    import pyarrow.parquet as pq

    with pq.ParquetFile(str(place)) as file:
        ends = np.cumsum([file.metadata.row_group(at).num_rows for at in range(file.metadata.num_row_groups)])
        first, last = (int(np.searchsorted(ends, at, "right")) for at in (start, end - 1))
        table = file.read_row_groups(list(range(first, last + 1)), use_threads=False)
    before = int(ends[first - 1]) if first else 0
    some = table.slice(start - before, end - start).combine_chunks()
    columns = [column.chunk(0) if column.num_chunks else pa.nulls(0, column.type) for column in some.columns]
    return pa.RecordBatch.from_arrays(columns, schema=schema)


def csv_rows(
    data: io.RawIOBase | io.BytesIO, schema: pa.Schema, wanted: list[str], guarded: bool = False
) -> Iterator[pa.RecordBatch]:
    r"""Rows of a CSV without its header, in batches; the columns as texts, but those of whole numbers that say a row.

    `schema`: that of the table; columns of text are read as texts, and so are all others.

    Examples
    --------
    >>> schema = pa.schema({"source": pa.string(), "depth": pa.float64()})
    >>> [batch.to_pydict() for batch in csv_rows(io.BytesIO(b"a.csv,7.20\n,\n"), schema, ["depth"])]
    [{'depth': ['7.20', None]}]
    """
    names = [str(at) for at in range(len(schema))]
    at = [schema.names.index(name) for name in wanted]
    options = {
        "read_options": pacsv.ReadOptions(column_names=names, block_size=_BLOCK),
        "parse_options": pacsv.ParseOptions(newlines_in_values=True),
        "convert_options": pacsv.ConvertOptions(
            column_types=dict.fromkeys(names, pa.string()),
            include_columns=[names[place] for place in at],
            strings_can_be_null=True,
            null_values=[""],
            quoted_strings_can_be_null=True,
        ),
    }
    with pacsv.open_csv(data, **options) as batches:
        for batch in batches:
            columns = [unguard(column) for column in batch.columns] if guarded else batch.columns
            yield pa.RecordBatch.from_arrays(columns, names=wanted)


class ByteRange(io.RawIOBase):
    """Some bytes of a file, as a file."""

    def __init__(self, place: Path, start: int, end: int) -> None:
        super().__init__()
        self._file = open(place, "rb", buffering=0)  # noqa: SIM115
        self._file.seek(start)
        self._left = end - start

    def readable(self) -> bool:
        """It can be read."""
        return True

    def readinto(self, room: memoryview) -> int:  # type: ignore[override]
        """Read the next bytes."""
        data = self._file.read(min(len(room), self._left))
        room[: len(data)] = data
        self._left -= len(data)
        return len(data)

    def close(self) -> None:
        """Close the file."""
        self._file.close()
        super().close()


def parquet_rows(place: Path, start: int, end: int, names: list[str]) -> Iterator[pa.RecordBatch]:
    """Some columns of the rows of a Parquet file from one number up to another, from 0, in batches."""
    when, before = place.stat().st_mtime_ns, 0
    for group, size in enumerate(_group_sizes(place, when)):
        if before < end and before + size > start:
            table = _group(place, when, group).select(names)
            some = table.slice(max(start - before, 0), min(end, before + size) - max(start, before))
            yield from some.combine_chunks().to_batches()
        before += size


@lru_cache(4)
def _group_sizes(place: Path, when: int) -> tuple[int, ...]:  # noqa: ARG001
    """The rows of each row group of a file, as it was at a time."""
    import pyarrow.parquet as pq

    with pq.ParquetFile(str(place)) as file:
        return tuple(file.metadata.row_group(at).num_rows for at in range(file.metadata.num_row_groups))


@lru_cache(4)
def _group(place: Path, when: int, group: int) -> pa.Table:  # noqa: ARG001
    """A row group; a few are kept, as many sources may lie in one."""
    import pyarrow.parquet as pq

    with pq.ParquetFile(str(place)) as file:
        return file.read_row_group(group, use_threads=False)


def forget_groups() -> None:
    """Let go of the row groups that are kept."""
    _group.cache_clear()


def arrow_rows(place: Path, start: int, end: int, names: list[str]) -> Iterator[pa.RecordBatch]:
    """The same of an Arrow file."""
    with pa.memory_map(str(place)) as file:
        before = 0
        batches = pa.ipc.open_file(file)
        for at in range(batches.num_record_batches):
            batch = batches.get_batch(at).select(names)
            size = batch.num_rows
            if before < end and before + size > start:
                yield batch.slice(max(start - before, 0), min(end, before + size) - max(start, before))
            before += size
