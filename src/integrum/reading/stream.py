"""The text of a source as UTF-8 bytes, whatever its encoding; runs of spaces as tabs where they separate."""

from __future__ import annotations

import codecs
from collections.abc import Callable
from contextlib import AbstractContextManager
from types import TracebackType

from integrum.plan.layout import Layout
from integrum.problems import SourceFault
from integrum.sources.foreign import START
from integrum.sources.source import Source, read_full
from integrum.workers.pool import still_wanted

_BOMS = ((codecs.BOM_UTF8, "utf-8"), (codecs.BOM_UTF16_LE, "utf-16-le"), (codecs.BOM_UTF16_BE, "utf-16-be"))
_UTF_8 = ("utf-8", "utf-8-sig")
_CHUNK = 4 << 20


def reads_ranges(source: Source, layout: Layout) -> bool:
    """Whether ranges of the file can be read on their own, as they are its text in UTF-8."""
    encoding = codecs.lookup(layout.encoding).name
    return source.has_ranges and encoding in _UTF_8


class TextStream(AbstractContextManager["TextStream"]):
    """Reads a source as UTF-8 text without a byte order mark.

    Raises SourceFault: while reading, when bytes are not valid in the encoding; the message names the offset in the
    file.

    Parameters
    ----------
    layout
        Its layout; the encoding matters here.
    seen
        Is called with all bytes of the file, as they are read.

    Attributes
    ----------
    start
        The first bytes of the file.
    """

    def __init__(self, source: Source, layout: Layout, seen: Callable[[bytes], object] | None = None) -> None:
        self._file = source.open()
        self._seen = seen
        try:
            self._begin(layout)
        except BaseException:
            self._file.close()
            raise

    def _begin(self, layout: Layout) -> None:
        start = self._raw(START)
        self.start = start
        bom = next(((mark, name) for mark, name in _BOMS if start.startswith(mark)), None)
        name = _decoder_name(layout.encoding, bom[1] if bom else None)
        self._name = layout.encoding
        self._decodes = name != "utf-8"
        self._decoder = codecs.getincrementaldecoder(name)("strict")
        self._decoded = self.skipped = len(bom[0]) if bom and bom[1] == name else 0
        self._ready = self._turned(start[self.skipped :], not start)

    def read(self, want: int) -> bytes:
        """At least `want` bytes, unless the end comes first; more than that where it is convenient."""
        parts, size = [self._ready], len(self._ready)
        self._ready = b""
        while size < want:
            raw = self._raw(_CHUNK if self._decodes else want - size)
            text = self._turned(raw, not raw)
            parts.append(text)
            size += len(text)
            if not raw:
                break
        return parts[0] if len(parts) == 1 else b"".join(parts)

    def _raw(self, size: int) -> bytes:
        still_wanted()
        data = read_full(self._file.read, size)
        if self._seen:
            self._seen(data)
        return data

    def _turned(self, raw: bytes, last: bool) -> bytes:
        if not self._decodes:
            return raw
        waiting = self._decoder.getstate()[0]  # the first bytes of a letter that is not complete
        begin = self._decoded - len(waiting)
        self._decoded += len(raw)
        try:
            return self._decoder.decode(raw, last).encode("utf-8")
        except UnicodeDecodeError as error:
            raise not_valid(begin + error.start, error.object[error.start], self._name) from None
        except UnicodeEncodeError:
            raise not_valid(begin, (waiting + raw)[0], self._name) from None

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._file.close()


def _decoder_name(wanted: str, by_mark: str | None) -> str:
    plain = codecs.lookup(wanted).name
    if plain == "utf-16":
        return by_mark if by_mark and by_mark.startswith("utf-16") else "utf-16-le"
    return "utf-8" if plain in _UTF_8 else plain


def not_valid(offset: int, byte: int, encoding: str, row: int | None = None) -> SourceFault:
    """The fault of bytes that are not text in the source's encoding."""
    return SourceFault(
        "bytes-not-valid",
        f"not {encoding.upper()}: byte 0x{byte:02X} at offset {offset:,} is not valid",
        "set encoding in the layout; integrum survey shows the most likely one",
        row,
    )
