"""Open files that are packed, with a limit on what they may unpack to."""

from __future__ import annotations

import bz2
import gzip
import io
import lzma
import zipfile
import zlib
from collections.abc import Callable
from contextlib import ExitStack
from typing import BinaryIO, cast

import pyarrow as pa

from integrum.problems.problem import SourceFault

PACKED = (".gz", ".bz2", ".xz", ".zst")
MOST_BYTES = 64 << 30
MOST_RATIO = 200
FREE_BYTES = 256 << 20

# what the libraries raise when packed bytes are damaged or cut off
DAMAGED = (
    EOFError,
    zlib.error,
    lzma.LZMAError,
    zipfile.BadZipFile,
    pa.ArrowException,
    NotImplementedError,
    RuntimeError,
    UnicodeDecodeError,
)


def unpacked(packed: BinaryIO, packing: str, member: int = -1) -> BinaryIO:
    """Open a packed file, or a member of an archive, as the bytes in it.

    Reading raises SourceFault when the bytes are damaged, or when they unpack to more than `MOST_BYTES`, or
    to more than `MOST_RATIO` times their packed size (the first `FREE_BYTES` are free).

    Parameters
    ----------
    packed
        The file, open for reading; is closed with what comes out.
    packing
        One of `PACKED`, or ``".zip"``.
    member
        For an archive: the position of the member in its list.
    """
    with ExitStack() as stack:
        raw = stack.enter_context(packed)
        try:
            if packing == ".zip":
                archive = stack.enter_context(zipfile.ZipFile(raw))
                info = archive.infolist()[member]
                size, stream = info.compress_size, cast(BinaryIO, archive.open(info))
            else:
                size, stream = raw.seek(0, io.SEEK_END), _OPENERS[packing](raw)
                raw.seek(0)
            stack.callback(stream.close)
        except DAMAGED as error:
            raise damaged(error) from error
        return cast(BinaryIO, _Guarded(stream, size, stack.pop_all()))


def damaged(error: BaseException) -> SourceFault:
    """The fault of packed bytes that cannot be unpacked."""
    if isinstance(error, RuntimeError) and "password" in str(error):
        return SourceFault("unreadable", "it is protected by a password", "unpack it first")
    return SourceFault(
        "unreadable", f"cannot be unpacked: {error}", "get a complete copy from where it came from"
    )


_OPENERS: dict[str, Callable[[BinaryIO], BinaryIO]] = {
    ".gz": lambda raw: cast(BinaryIO, gzip.GzipFile(fileobj=raw, mode="rb")),
    ".bz2": lambda raw: cast(BinaryIO, bz2.BZ2File(raw)),
    ".xz": lambda raw: cast(BinaryIO, lzma.LZMAFile(raw)),  # noqa: SIM115
    ".zst": lambda raw: cast(BinaryIO, pa.CompressedInputStream(pa.PythonFile(raw, "r"), "zstd")),
}


class _Guarded(io.RawIOBase):
    """Counts what comes out, and stops when it is too much."""

    def __init__(self, stream: BinaryIO, size: int, opened: ExitStack) -> None:
        self._stream, self._size, self._opened, self._given = stream, size, opened, 0

    def read(self, size: int = -1) -> bytes:
        try:
            data = bytes(self._stream.read(size))
        except SourceFault:
            raise
        except (*DAMAGED, OSError) as error:
            raise damaged(error) from error
        self._given += len(data)
        if self._given > MOST_BYTES or self._given > max(FREE_BYTES, MOST_RATIO * self._size):
            raise SourceFault(
                "unpacks-too-large",
                f"unpacks to more than {self._given >> 20:,} MB from {self._size:,} bytes; it may be a "
                "decompression bomb",
                "if you trust it, unpack it yourself and use the unpacked file",
            )
        return data

    def close(self) -> None:
        self._opened.close()
        super().close()
