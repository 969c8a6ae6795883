"""One source: where it lies and what it is called."""

from __future__ import annotations

import os
from collections.abc import Callable
from dataclasses import dataclass
from typing import BinaryIO

from integrum.sources.packing import unpacked


@dataclass(frozen=True)
class Source:
    """One table to bring in.

    Attributes
    ----------
    name
        The path relative to the common folder, with ``/`` on every system; for a member of an archive
        the archive's name and then the member's.
    path
        Where the file lies, as the system knows it.
    group
        The number of its group in the plan, from 0.
    size
        Bytes to be read, as far as is known when it is found.
    state
        Size and time of the last change (ns) of the file, when it was found.
    packing
        ``""``, or how it is packed: ``".gz"``, ``".zip"`` and so on.
    member
        In an archive: the position of the member in its list.
    """

    name: str
    path: str
    group: int
    size: int
    state: tuple[int, int]
    packing: str = ""
    member: int = -1

    def open(self) -> BinaryIO:
        """Open the bytes of the source for reading from the start; packed ones are unpacked on the way."""
        if self.packing:
            return unpacked(self.path, self.packing, self.member)
        return open(self.path, "rb", buffering=0)

    def has_changed(self) -> bool:
        """Whether the file is not what it was when it was found."""
        try:
            state = os.stat(self.path)
        except OSError:
            return True
        return (state.st_size, state.st_mtime_ns) != self.state


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
