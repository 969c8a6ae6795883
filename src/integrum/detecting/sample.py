"""A bounded sample of a source: its head, its middle and its tail."""

from __future__ import annotations

import os
from dataclasses import dataclass

from integrum.sources.source import Source, read_full

HEAD = 96 << 10
PART = 32 << 10
_UNPACKED = 64 << 20


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
