"""The pieces of a source: whole records of some 4 MB; and their rows."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, NamedTuple

import numpy as np
from blake3 import blake3

from integrum.plan.layout import Layout
from integrum.problems.problem import SourceFault
from integrum.reading.head import format_of
from integrum.reading.parts import COMMENT, FOOTER, LeftOutRow, raw_text, rows_in
from integrum.reading.records import CR, LF
from integrum.reading.stream import SequentialReader, reads_ranges
from integrum.sources.source import Source, read_full
from integrum.values.arrays import Ints

Hole = tuple[int, int, int]
# lines of a block, until there are this many blocks that two and two of them become one
LINES, _MOST = 256, 128
# this much of a hash is kept: 64 bits, in hexadecimal
_DIGITS = 16


@dataclass(frozen=True)
class Piece:
    """Where some whole records of one source lie."""

    source: int  # the number of the source in the run
    family: int  # the number of its family of sources in the run
    # offset and bytes: in the file, where its ranges can be read as they are; else in its text
    start: int
    size: int
    first_row: int  # the row in the source of the first record
    rows: int  # how many records, with those that are cut out
    # rows with text behind a closing quote: the number of each, and where it lies in the piece
    broken: tuple[Hole, ...] = ()
    comments: tuple[Hole, ...] = ()  # the same of rows that are comments
    # how many rows of the footer follow right behind, and their bytes
    footer: int = 0
    footer_size: int = 0
    # the records themselves and the footer, where they cannot be read again on their own
    text: bytes | None = None
    is_reused: ClassVar[bool] = False

    @property
    def bytes(self) -> int:
        """The bytes that are read for it."""
        return self.size + self.footer_size


@dataclass(frozen=True)
class Loaded:
    """The records of a piece."""

    # as those of the piece
    source: int
    first_row: int
    rows: int
    data: bytes  # UTF-8 bytes, ending with a line end; broken rows and comments are cut out
    gone: Ints  # the rows that are cut out, in order
    broken: tuple[tuple[int, str], ...] = ()  # those of them that are not comments, with their texts
    left_out: tuple[LeftOutRow, ...] = ()  # the comments, and the footer that follows, with their texts


def load(piece: Piece, source: Source, layout: Layout, sequential: SequentialReader | None = None) -> Loaded:
    """Read the records of a piece.

    Raises SourceFault when the file is not what it was when it was cut.

    `sequential`: reads sources that can only be read from their start; without it they are read from there each time.
    """
    data = _read(piece, source, layout, sequential) if piece.text is None else piece.text
    left_out = [
        LeftOutRow(piece.source, row, COMMENT, raw_text(data[start:end]))
        for row, start, end in piece.comments
    ]
    if piece.footer:
        dialect = format_of(source, layout).dialect
        below = piece.first_row + piece.rows
        left_out += rows_in(data[piece.size :], dialect, piece.source, below, FOOTER)
        data = data[: piece.size]
    holes = sorted({*piece.broken, *piece.comments}, key=lambda hole: hole[1])
    broken = tuple((row, data[start:end].decode("utf-8").rstrip("\r\n")) for row, start, end in piece.broken)
    if holes:
        edges = [0, *(edge for _, start, end in holes for edge in (start, end)), len(data)]
        data = b"".join(data[a:b] for a, b in zip(edges[0::2], edges[1::2], strict=True))
    if data and data[-1] not in (LF, CR):
        data += b"\n"
    gone = np.array([row for row, _, _ in holes], np.int64)
    return Loaded(piece.source, piece.first_row, piece.rows, data, gone, broken, tuple(left_out))


def _read(piece: Piece, source: Source, layout: Layout, sequential: SequentialReader | None) -> bytes:
    if not piece.bytes:
        return b""
    try:
        if reads_ranges(source, layout):
            with source.open() as file:
                file.seek(piece.start)
                data = read_full(file.read, piece.bytes)
        elif sequential is not None:
            data = sequential.read(source, layout, piece.start, piece.bytes)
        else:
            with SequentialReader() as once:
                data = once.read(source, layout, piece.start, piece.bytes)
    except (OSError, SourceFault) as error:
        raise changed() from error
    if len(data) != piece.bytes or source.has_changed():
        raise changed()
    return data


def changed() -> SourceFault:
    """The fault of a source that has changed during the run."""
    return SourceFault("source-changed", "the file changed while it was being read", "run it again")


class Blocks(NamedTuple):
    """Hashes of the lines of a source, block by block."""

    lines: int = LINES  # lines of each block; the last one may have fewer
    hashes: tuple[str, ...] = ()

    def first_difference(self, other: Blocks) -> int:
        """The first line of the first block that is not the same in another source, from 1; 0 where all are.

        Examples
        --------
        >>> one, two = Blocks(256, ("a", "b")), Blocks(256, ("a", "c", "d"))
        >>> one.first_difference(two), one.first_difference(one)
        (257, 0)
        """
        size = max(self.lines, other.lines)
        one, two = self._of(size), other._of(size)
        for at, (mine, theirs) in enumerate(zip(one, two, strict=False)):
            if mine != theirs:
                return at * size + 1
        return 0 if len(one) == len(two) else min(len(one), len(two)) * size + 1

    def _of(self, size: int) -> tuple[str, ...]:
        hashes = list(self.hashes)
        lines = self.lines
        while lines < size:
            hashes, lines = _paired(hashes), lines * 2
        return tuple(hashes)


class LineBlocks:
    r"""Hashes the bytes of a source, block by block of lines.

    Examples
    --------
    >>> some = LineBlocks()
    >>> for part in (b"a\n" * 200, b"a\n" * 100):
    ...     _ = some.take(part)
    >>> blocks = some.blocks()
    >>> blocks.lines, len(blocks.hashes)
    (256, 2)
    """

    def __init__(self) -> None:
        self._lines, self._hashes = LINES, list[str]()
        self._open, self._count, self._is_empty = blake3(), 0, True

    def take(self, data: bytes) -> int:
        """Take the next bytes; gives how many line feeds are among them."""
        if not data:
            return 0
        letters = np.frombuffer(data, np.uint8) == LF
        every = found = int(np.count_nonzero(letters))
        start = 0
        if self._count + found >= self._lines:
            ends = np.flatnonzero(letters)
            used = 0
            while self._count + found - used >= self._lines:
                used += self._lines - self._count
                end = int(ends[used - 1]) + 1
                self._open.update(data[start:end])
                start = end
                self._close()
            found -= used
        self._count += found
        if start < len(data):
            self._open.update(data[start:] if start else data)
            self._is_empty = False
        return every

    def _close(self) -> None:
        self._hashes.append(self._open.hexdigest()[:_DIGITS])
        self._open, self._count, self._is_empty = blake3(), 0, True
        if len(self._hashes) == _MOST:
            self._hashes, self._lines = _paired(self._hashes), self._lines * 2

    def blocks(self) -> Blocks:
        """The blocks of all bytes that were taken."""
        last = () if self._is_empty else (self._open.hexdigest()[:_DIGITS],)
        return Blocks(self._lines, (*self._hashes, *last))


def _paired(hashes: list[str]) -> list[str]:
    """Concatenate neighbours in pairs; an odd last one stays."""
    pairs = [
        blake3("".join(hashes[at : at + 2]).encode()).hexdigest()[:_DIGITS]
        for at in range(0, len(hashes) - 1, 2)
    ]
    return pairs + hashes[len(hashes) // 2 * 2 :]
