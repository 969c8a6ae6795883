"""One source: where it lies and what it is called."""

from __future__ import annotations

import os
from collections.abc import Callable
from dataclasses import dataclass
from typing import BinaryIO


@dataclass(frozen=True)
class Source:
    """One table to bring in.

    Attributes
    ----------
    name
        The path relative to the common folder, with ``/`` on every system.
    path
        Where the file lies, as the system knows it.
    group
        The number of its group in the plan, from 0.
    size, stamp
        Bytes and time of the last change (ns), when it was found.
    """

    name: str
    path: str
    group: int
    size: int
    stamp: int

    def has_changed(self) -> bool:
        """Whether the file is not what it was when it was found."""
        try:
            state = os.stat(self.path)
        except OSError:
            return True
        return (state.st_size, state.st_mtime_ns) != (self.size, self.stamp)

    def open(self) -> BinaryIO:
        """Open the bytes of the source for reading from the start."""
        return open(self.path, "rb", buffering=0)


def read_full(read: Callable[[int], bytes], want: int) -> bytes:
    """Read until `want` bytes are there or the end is reached, also where single reads give less."""
    data = read(want)
    if not data or len(data) == want:
        return data
    parts, size = [data], len(data)
    while size < want and (more := read(want - size)):
        parts.append(more)
        size += len(more)
    return b"".join(parts)
