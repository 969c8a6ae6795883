"""A few rows of each source by their hashes, chosen by these, so that the same rows of two sources are found again.

A row is of level 0, every fourth one of level 1 as well, every sixteenth of level 2 and so on. Of each level the rows at
both ends of a source are kept, and all rows of the level at which there are few: whatever the size of an overlap, some rows
of it are among those that both sources keep, and the memory for a source does not grow with it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from hashlib import blake2b
from typing import Self
from urllib.parse import quote, unquote

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.values.arrays import Hashes, Ints, Mask, flags, ints, text
from integrum.values.digits import Letters

# at each end this many rows of a level are kept, and of the highest with more than a few this many at most
_ENDS, _FEW = 6, 32
# this much of a hash: with a million rows two different ones are the same once in a million
_BYTES = 5
# of larger sources, by their bytes, not every row is looked at
_SIZES = (8 << 10, 24 << 10, 48 << 10)
_LEVELS, _COLUMNS = 16, 8
# the row that a hash is told apart by has this many digits and letters; others may be the same by chance
_DIGITS, _LETTERS = 6, 10
_BETWEEN = "\x1f"
_PRIMES = (0x9E3779B97F4A7C15, 0xBF58476D1CE4E5B9)


@dataclass(frozen=True)
class Marks:
    """Hashes of some rows of a source, by which overlaps are found."""

    # in the order of the rows: their numbers, their levels, their hashes
    rows: Ints
    levels: Ints
    hashes: Ints
    # the first and the last row of data, and how many there are
    first: int = 0
    last: int = 0
    count: int = 0
    full: int = 0  # the level from which on no row is left out
    # where there is a column that names sources, as in a table that was made of them: those at both ends
    named: tuple[str, ...] = ()

    @classmethod
    def none(cls) -> Self:
        """Marks of no rows."""
        nothing = np.array([], np.int64)
        return cls(nothing, nothing, nothing)

    def __len__(self) -> int:
        return len(self.rows)

    def with_more(self, other: Marks) -> Marks:
        """The marks of these rows and of others below them."""
        if not self.count:
            return other
        rows, levels, hashes = (
            np.concatenate(each)
            for each in zip(
                (self.rows, self.levels, self.hashes), (other.rows, other.levels, other.hashes), strict=True
            )
        )
        full, count = max(self.full, other.full), self.count + other.count
        named = tuple(dict.fromkeys((*self.named[:1], *other.named[-1:])))
        return _kept(Marks(rows, levels, hashes, self.first, other.last, count, full, named))

    def as_text(self) -> str:
        """The marks as a record has them: row, level and hash of each."""
        if not self.count:
            return ""
        each = zip(self.rows.tolist(), self.levels.tolist(), self.hashes.tolist(), strict=True)
        named = ",".join(map(quote, self.named)) or "-"
        head = f"{self.first} {self.last} {self.count} {self.full} {named} "
        return head + " ".join(f"{row}:{level}:{one:x}" for row, level, one in each)

    @classmethod
    def of_text(cls, text: str) -> Marks:
        """Read the marks from a record.

        Examples
        --------
        >>> Marks.of_text("2 9 8 0 a%20b.csv 2:0:ff 9:1:a0").as_text()
        '2 9 8 0 a%20b.csv 2:0:ff 9:1:a0'
        """
        if not text:
            return cls.none()
        first, last, count, full, said, *each = text.split()
        named = tuple(map(unquote, said.split(","))) if said != "-" else ()
        parts = [one.split(":") for one in each]
        rows, levels = (np.array([int(one[at]) for one in parts], np.int64) for at in (0, 1))
        hashes = np.array([int(one[2], 16) for one in parts], np.int64)
        return cls(rows, levels, hashes, int(first), int(last), int(count), int(full), named)


def marks_of(
    columns: Sequence[pa.Array], source: Ints, row: Ints, sizes: dict[int, int], comma: bool = False
) -> dict[int, Marks]:
    """The marks of some rows, source by source.

    Parameters
    ----------
    columns
        The cells of the rows as texts.
    source, row
        The source of each row, in order, and its number there.
    sizes
        Bytes of each source, by its number.
    comma
        Whether their decimal mark is a comma, so that the same numbers with a point are the same.
    """
    if not len(source) or not columns:
        return {}
    first = np.flatnonzero(np.diff(source, prepend=-1))
    ends = np.append(first[1:], len(source))
    numbers = source[first].tolist()
    # where there are many columns, rows are few, and a look at some costs as much as one at all
    share = max(1, len(columns) // _COLUMNS)
    base = [sum(sizes.get(number, 0) > size * share for size in _SIZES) for number in numbers]
    quick = _quick(columns, len(source), comma)
    if max(base):
        bits = [(1 << 2 * level) - 1 for level in base]
        wanted = bits[0] if len(set(bits)) == 1 else np.repeat(bits, ends - first)
        at = np.flatnonzero((quick & wanted) == 0)
        quick = quick[at]
    else:
        at = np.arange(len(source))
    lines = _lines([column.take(ints(at)) for column in columns] if len(at) < len(source) else columns, comma)
    says = _says(lines)
    at = at[says]
    texts = pc.cast(lines.filter(flags(says)), pa.binary()).to_pylist()
    hashes = np.fromiter(map(_hash, texts), np.int64, len(texts))
    level = _by_hash(quick[says])
    found = {}
    for number, start, end, full in zip(numbers, first.tolist(), ends.tolist(), base, strict=True):
        low, high = np.searchsorted(at, (start, end))
        here = slice(int(low), int(high))
        found[number] = _kept(
            Marks(
                row[at[here]],
                level[here],
                hashes[here],
                int(row[start]),
                int(row[end - 1]),
                end - start,
                full,
            )
        )
    return found


def lines_of(columns: Sequence[pa.Array], comma: bool) -> list[bytes]:
    """Each row as one text; equal rows give equal texts."""
    return pc.cast(_lines(columns, comma), pa.binary()).to_pylist()  # type: ignore[no-any-return]


def wide_hash(line: bytes) -> bytes:
    """A hash of 128 bits, by which equal rows are told for certain."""
    return blake2b(line, digest_size=16).digest()


def _lines(columns: Sequence[pa.Array], comma: bool) -> pa.Array:
    """The cells of each row as one text."""
    lines = pc.binary_join_element_wise(
        *columns, text(_BETWEEN), null_handling="replace", null_replacement=""
    )
    return pc.replace_substring(lines, ",", ".") if comma else lines


def _hash(line: bytes) -> int:
    return int.from_bytes(blake2b(line, digest_size=_BYTES).digest())


def _quick(columns: Sequence[pa.Array], count: int, comma: bool) -> Ints:
    """A cheap number for each row, from the last letters of some cells."""
    total = np.zeros(count, np.uint64)
    for place in sorted({0, len(columns) // 2}):
        total = (total ^ (total >> np.uint64(29))) * np.uint64(_PRIMES[0]) + _last_letters(
            columns[place], comma
        )
    total ^= total >> np.uint64(31)
    total *= np.uint64(_PRIMES[1])
    total ^= total >> np.uint64(29)
    total *= np.uint64(_PRIMES[0])
    return (total >> np.uint64(8)).astype(np.int64)


def _last_letters(column: pa.Array, comma: bool) -> Hashes:
    """The last eight bytes of each text as a number; those of an empty one are 1."""
    letters = Letters.of(column)
    if not len(letters.data):
        return np.ones(len(column), np.uint64)
    data = np.concatenate([np.zeros(8, np.uint8), letters.data])
    if comma:
        data[data == ord(",")] = ord(".")
    windows = np.ndarray((len(data) - 7,), "<u8", data, strides=(1,))
    beyond = 8 * (8 - np.minimum(letters.lengths, 8)).astype(np.uint64)
    empty = letters.lengths == 0
    beyond[empty] = 0
    numbers: Hashes = windows[letters.ends] >> beyond
    numbers[empty] = 1
    return numbers


def _by_hash(hashes: Ints) -> Ints:
    """The level of a hash: how often four divides it."""
    levels = np.zeros(len(hashes), np.int64)
    for level in range(1, _LEVELS):
        divided = (hashes & ((1 << 2 * level) - 1)) == 0
        if not divided.any():
            break
        levels += divided
    return levels


def _says(lines: pa.Array) -> Mask:
    """Mask of rows with enough digits and letters that an equal row is hardly chance."""
    letters = Letters.of(lines)
    if not len(letters.data):
        return np.zeros(len(lines), bool)
    digits, others = (letters.data >= 48) & (letters.data <= 57), letters.data > 32
    says: Mask = np.ones(len(lines), bool)
    for which, least in ((digits, _DIGITS), (others, _LETTERS)):
        counts = np.append(0, np.cumsum(which, dtype=np.int32))
        says &= counts[letters.ends] - counts[letters.starts] >= least
    return says


def _few(levels: Ints, level: int) -> int:
    """The lowest level, from one on, that only few rows reach."""
    while int((levels >= level).sum()) > _FEW:
        level += 1
    return level


def _kept(marks: Marks) -> Marks:
    """The marks that are kept."""
    if len(marks) <= _FEW:
        return marks
    full = _few(marks.levels, marks.full)
    keep = marks.levels >= full
    for level in range(full):
        there = np.flatnonzero(marks.levels >= level)
        keep[there[:_ENDS]] = True
        keep[there[-_ENDS:]] = True
    rows, levels, hashes = marks.rows[keep], marks.levels[keep], marks.hashes[keep]
    return Marks(rows, levels, hashes, marks.first, marks.last, marks.count, full, marks.named)
