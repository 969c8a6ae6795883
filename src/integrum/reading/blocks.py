"""Hashes of blocks of lines of a source: where a source differs from what it was can be told without a copy of it."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from blake3 import blake3

from integrum.reading.records import LF

# lines of a block, until there are so many blocks that two and two of them become one
LINES, _MOST = 256, 128
# so much of a hash is kept: 64 bits, in hexadecimal
_DIGITS = 16


class Blocks(NamedTuple):
    """The blocks of a source."""

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
    r"""Takes the bytes of a source, in order, and gives its blocks.

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
        """Those of all that was taken."""
        last = () if self._is_empty else (self._open.hexdigest()[:_DIGITS],)
        return Blocks(self._lines, (*self._hashes, *last))


def _paired(hashes: list[str]) -> list[str]:
    """Two and two as one; a last one that is alone stays as it is."""
    pairs = [
        blake3("".join(hashes[at : at + 2]).encode()).hexdigest()[:_DIGITS]
        for at in range(0, len(hashes) - 1, 2)
    ]
    return pairs + hashes[len(hashes) // 2 * 2 :]
