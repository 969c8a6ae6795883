"""The rows of a source in two tables: read back, told apart by numbers, and compared place by place."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from itertools import islice
from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import Hashes, Ints, flags, text, truths, wholes
from integrum.arrow.hashing import row_hashes
from integrum.columns.table_schema import TableSchema
from integrum.earlier.aligning import Aligned
from integrum.engine.ledger import SourceSummary
from integrum.writing.output import CSV
from integrum.writing.parts import ByteRange, csv_part, csv_rows, typed_rows

Rows = Callable[[], Iterable[pa.RecordBatch]]
_CHUNK = 8 << 20
# stands between the cells of a row
_BETWEEN = "\x1f"


def same_bytes(places: tuple[Path, Path], was: SourceSummary, one: SourceSummary) -> bool:
    """Whether the lines of a source are the same in two tables; most are where a plan has changed a little."""
    size = was.end_byte - was.first_byte
    if size != one.end_byte - one.first_byte:
        return False
    for at in range(0, size, _CHUNK):
        end = min(at + _CHUNK, size)
        if csv_part(places[0], was.first_byte + at, was.first_byte + end) != csv_part(
            places[1], one.first_byte + at, one.first_byte + end
        ):
            return False
    return True


def numbers_of(rows: Rows) -> Ints:
    """The last column, which has whole numbers."""
    found = [wholes(pc.cast(batch.columns[-1], pa.int64())) for batch in rows()]
    return np.concatenate(found) if found else np.array([], np.int64)


def rows_of(
    place: Path,
    suffix: str,
    one: SourceSummary,
    first: int,
    schema: pa.Schema,
    guarded: bool,
    names: list[str],
) -> Rows:
    """The rows of a source in a table, in batches; some columns of them."""
    if not one.table_rows:
        return tuple
    last = first + one.table_rows
    if suffix == CSV:
        return lambda: csv_rows(ByteRange(place, one.first_byte, one.end_byte), schema, names, guarded)
    return lambda: typed_rows(place, suffix, (first, last), schema, names)


def kept(rows: Rows) -> Rows:
    """The same rows, read once."""
    batches = list(rows())
    return lambda: batches


def hashes_of(rows: Rows, width: int) -> Hashes:
    """A number of 64 bits for each row, the same for the same cells; the columns behind the first few do not count."""
    found = [np.array([], np.uint64)]
    for batch in rows():
        columns = batch.columns[:width]
        cells = [pc.coalesce(_as_texts(column), text("")) for column in columns]
        lines = pc.binary_join_element_wise(*cells, text(_BETWEEN))
        if pc.max(pc.count_substring(lines, _BETWEEN)).as_py() == width - 1:
            numbers = np.fromiter(map(hash, lines.to_pylist()), np.int64, len(lines))
            found.append(numbers.view(np.uint64))
        else:  # a text has the sign in it that stands between the cells
            one, two = row_hashes(columns)
            found.append(one ^ (two * np.uint64(0x9E3779B97F4A7C15)))
    return np.concatenate(found)


def _as_texts(column: pa.Array) -> pa.Array:
    return column if pa.types.is_string(column.type) else pc.cast(column, pa.string())


def place_by_place(old: Rows, new: Rows, width: int) -> Aligned:
    """Rows that are not the same at the same place."""
    changed: list[tuple[int, int]] = []
    before = 0
    for one, other in _in_step(old(), new()):
        differ = np.zeros(one.num_rows, bool)
        for at in range(width):
            mine, theirs = one.column(at), other.column(at)
            if not mine.equals(theirs):
                same = pc.fill_null(pc.equal(mine, theirs), flags(np.array([False]))[0])
                both = pc.and_(mine.is_null(), theirs.is_null())
                differ |= ~truths(pc.or_(same, both))
        changed += [(before + at, before + at) for at in np.flatnonzero(differ).tolist()]
        before += one.num_rows
    return Aligned(changed, [], [])


def _in_step(
    old: Iterable[pa.RecordBatch], new: Iterable[pa.RecordBatch]
) -> Iterator[tuple[pa.RecordBatch, pa.RecordBatch]]:
    """The batches of both, cut so that they have the same rows."""
    waiting, others = iter(old), iter(new)
    one = other = None
    while True:
        one = one if one is not None and one.num_rows else next(waiting, None)
        other = other if other is not None and other.num_rows else next(others, None)
        if one is None or other is None:
            return
        size = min(one.num_rows, other.num_rows)
        if size:
            yield one.slice(0, size), other.slice(0, size)
        one, other = one.slice(size), other.slice(size)


def picked(rows: Rows, places: Sequence[int], schema: TableSchema) -> list[dict[str, str]]:
    """Some rows, by their places, which rise: their cells as texts, empty where a cell is."""
    found: list[dict[str, str]] = []
    before = 0
    for batch in rows() if places else ():
        for place in islice(places, len(found), None):
            if place >= before + batch.num_rows:
                break
            row = batch.slice(place - before, 1)
            cells = {
                name: (column if pa.types.is_string(column.type) else schema.type_of(name).to_text(column))[0]
                for name, column in zip(batch.schema.names, row.columns, strict=True)
            }
            found.append({name: cell.as_py() or "" for name, cell in cells.items()})
        before += batch.num_rows
        if len(found) == len(places):
            break
    return found
