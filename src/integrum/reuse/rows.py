"""Two tables row by row: which rows belong together, and what is different."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Iterable, Iterator, Sequence
from itertools import islice
from pathlib import Path
from typing import NamedTuple

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.columns.table_schema import TableSchema
from integrum.intake.ledger import SourceSummary
from integrum.values.arrays import Hashes, Ints, flags, text, truths, wholes
from integrum.values.row_hashes import row_hashes
from integrum.writing.output import CSV
from integrum.writing.parts import ByteRange, csv_part, csv_rows, typed_rows

Rows = Callable[[], Iterable[pa.RecordBatch]]
_CHUNK = 8 << 20
# stands between the cells of a row
_BETWEEN = "\x1f"


class Aligned(NamedTuple):
    """Which rows of two versions of a source belong together."""

    # pairs of rows that are not the same: the place in the old version and the one in the new
    changed: list[tuple[int, int]]
    # places in the new version, and in the old one, that have no partner
    added: list[int]
    removed: list[int]


def align(old: Hashes, new: Hashes) -> Aligned:
    """Align the rows of two versions.

    Examples
    --------
    >>> align(np.array([1, 2, 3, 4], np.uint64), np.array([1, 9, 3, 7, 4, 5], np.uint64))
    Aligned(changed=[(1, 1)], added=[3, 5], removed=[])
    """
    found = Aligned([], [], [])
    start = _alike(old, new)
    end = _alike(old[start:][::-1], new[start:][::-1])
    one, other = old[start : len(old) - end], new[start : len(new) - end]
    before_one = before_other = 0
    for at, place in [*_matched(one, other), (len(one), len(other))]:
        if at > before_one or place > before_other:
            _between(found, one, other, (before_one, at), (before_other, place), start)
        before_one, before_other = at + 1, place + 1
    return found


def _alike(old: Hashes, new: Hashes) -> int:
    """The number of equal rows at the start."""
    size = min(len(old), len(new))
    differ = np.flatnonzero(old[:size] != new[:size])
    return int(differ[0]) if len(differ) else size


def _matched(old: Hashes, new: Hashes) -> list[tuple[int, int]]:
    """Pairs of rows that are unique in both versions, in the longest order that both have."""
    values, places = _once(old)
    others, at = _once(new)
    both, in_old, in_new = np.intersect1d(values, others, assume_unique=True, return_indices=True)
    if not len(both):
        return []
    pairs = np.stack([places[in_old], at[in_new]], axis=1)
    pairs = pairs[np.argsort(pairs[:, 0])]
    return _longest_run([(int(one), int(other)) for one, other in pairs])


def _once(hashes: Hashes) -> tuple[Hashes, Ints]:
    values, places, counts = np.unique(hashes, return_index=True, return_counts=True)
    return values[counts == 1], places[counts == 1]


def _longest_run(pairs: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """The longest subsequence of pairs whose second places increase."""
    ends: list[int] = []
    at: list[int] = []
    before: list[int] = []
    for number, (_, place) in enumerate(pairs):
        length = bisect_left(ends, place)
        before.append(at[length - 1] if length else -1)
        if length == len(ends):
            ends.append(place)
            at.append(number)
        else:
            ends[length], at[length] = place, number
    run = []
    number = at[-1] if at else -1
    while number >= 0:
        run.append(pairs[number])
        number = before[number]
    return run[::-1]


def _between(
    found: Aligned, old: Hashes, new: Hashes, one: tuple[int, int], other: tuple[int, int], start: int
) -> None:
    """Pair the rows between two matched pairs by their places."""
    size, more = one[1] - one[0], other[1] - other[0]
    shared = min(size, more)
    differ = np.flatnonzero(old[one[0] : one[0] + shared] != new[other[0] : other[0] + shared])
    found.changed.extend((start + one[0] + at, start + other[0] + at) for at in differ.tolist())
    found.removed.extend(range(start + one[0] + shared, start + one[1]))
    found.added.extend(range(start + other[0] + shared, start + other[1]))


def same_bytes(places: tuple[Path, Path], was: SourceSummary, one: SourceSummary) -> bool:
    """Whether the lines of a source are equal in two tables."""
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
    """The same rows, kept in memory after the first read."""
    batches = list(rows())
    return lambda: batches


def hashes_of(rows: Rows, width: int) -> Hashes:
    """A hash of 64 bits for each row, over the first columns."""
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
    """The rows that differ from the row at the same place."""
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
    """The batches of two tables, cut to the same numbers of rows."""
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
    """The cells of some rows as texts; the places must increase."""
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
