"""A bounded sample of a source, its rows, and what their cells look like."""

from __future__ import annotations

import os
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from integrum.sources.source import Source, read_full
from integrum.values.cells import KINDS, is_value, kind_of

HEAD = 96 << 10
PART = 32 << 10
_UNPACKED = 64 << 20
_CODE = {kind: code for code, kind in enumerate(KINDS)}


@dataclass(frozen=True)
class Sample:
    """Bytes of a source as they stand in the file."""

    head: bytes  # from the start
    # from further on; they begin and end anywhere. Empty when `head` is all there is.
    middle: bytes = b""
    tail: bytes = b""
    source: Source | None = None  # where all of it can be read

    @property
    def whole(self) -> bool:
        """Whether the head is the whole source."""
        return not self.tail


def take_sample(source: Source) -> Sample:
    """Read a sample; no more than some 160 KB of a file, and of a packed one no more than it takes to reach its end."""
    with source.open() as file:
        head = read_full(file.read, HEAD)
        if len(head) < HEAD:
            return Sample(head, source=source)
        if source.packing:
            kept, size = b"", 0
            while size < _UNPACKED and (more := read_full(file.read, 1 << 20)):
                kept, size = (kept + more)[-PART:], size + len(more)
            return Sample(head, b"", kept, source) if kept else Sample(head, source=source)
        end = file.seek(0, os.SEEK_END)
        if end <= HEAD:
            return Sample(head, source=source)
        file.seek(max(HEAD, end // 2) // 4 * 4)
        middle = read_full(file.read, PART) if end > HEAD + 2 * PART else b""
        file.seek(max(HEAD, end - PART) // 4 * 4)
        return Sample(head, middle, read_full(file.read, PART + 4), source)


class Row:
    """A row of a sample.

    Parameters
    ----------
    number
        Its number in the source, from 1; 0 where it is not known.
    start
        How its text begins in the source; its first cell when left out.
    """

    def __init__(self, number: int, cells: Sequence[str], start: str | None = None) -> None:
        self.number, self.cells = number, tuple(cells)
        self.plain = plain = [cell.strip() for cell in cells]
        self.start = (self.cells[0] if self.cells else "") if start is None else start
        # how many cells have text, the first that has, and where the last one stands, from 1
        self.filled = len(plain) - plain.count("")
        self.first = next(filter(None, plain), "")
        self.reach = len(plain)
        while self.reach and not plain[self.reach - 1]:
            self.reach -= 1

    @cached_property
    def kinds(self) -> tuple[str, ...]:
        """What each cell looks like; see `kind_of`."""
        return tuple(map(kind_of, self.cells))

    @cached_property
    def codes(self) -> bytes:
        """The kinds of its cells as indexes into `KINDS`."""
        return bytes(map(_CODE.__getitem__, self.kinds))

    @cached_property
    def values(self) -> list[bool]:
        """Which cells look like values."""
        return [is_value(cell) for cell in self.cells]

    def fits(self, width: int) -> bool:
        """Whether it has this many cells; empty surplus cells do not count.

        Examples
        --------
        >>> Row(1, ["a", "b", ""]).fits(2), Row(1, ["a", "b", "c"]).fits(2), Row(1, ["a"]).fits(2)
        (True, False, False)
        """
        return len(self.cells) == width or (len(self.cells) > width >= self.reach)
