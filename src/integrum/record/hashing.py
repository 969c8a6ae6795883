"""The hash of a content: BLAKE3, 256 bits, in hexadecimal."""

from __future__ import annotations

from pathlib import Path
from typing import BinaryIO

from blake3 import blake3

from integrum.workers.pool import still_wanted

# this much is read at once: what a cache holds; and this much that several threads have enough
_CHUNK, _MUCH = 1 << 20, 8 << 20


def hash_of(path: Path) -> str:
    """The BLAKE3 hash of a file."""
    with open(path, "rb", buffering=0) as file:
        return hash_in(file, _MUCH, blake3.AUTO)


def hash_in(file: BinaryIO, chunk: int = _CHUNK, threads: int = 1) -> str:
    """The BLAKE3 hash of an open file, from its position on."""
    hasher = blake3(max_threads=threads)
    while data := file.read(chunk):
        still_wanted()
        hasher.update(data)
    return hasher.hexdigest()
