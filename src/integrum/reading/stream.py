"""The bytes of a source as text: decoded, in blocks or line by line, from any place on; turned if its table lies down."""

from __future__ import annotations

import codecs
from collections.abc import Callable
from contextlib import AbstractContextManager
from itertools import zip_longest
from types import TracebackType
from typing import Self

from integrum.plan.layout import Layout, is_ascii_like
from integrum.problems.problem import SourceFault
from integrum.reading.plain import split_cells
from integrum.reading.records import Dialect, spans
from integrum.sources.own import START
from integrum.sources.source import Source, read_full
from integrum.workers.pool import still_wanted

# a larger text is not turned, as all of it is in memory
MOST_TURNED, _SAID = 64 << 20, "64 MB"
_BOMS = ((codecs.BOM_UTF8, "utf-8"), (codecs.BOM_UTF16_LE, "utf-16-le"), (codecs.BOM_UTF16_BE, "utf-16-be"))
_UTF_8, _UTF_16 = ("utf-8", "utf-8-sig"), ("utf-16", "utf-16-le", "utf-16-be")
_LONGEST_LETTER = 4
_CHUNK = 4 << 20


def turned_over(text: bytes, layout: Layout) -> bytes:
    r"""Transpose a text: its columns become rows.

    Raises SourceFault when it is too large.

    Examples
    --------
    >>> turned_over(b"lake,Amber,Vessel\nph,7.1,\n", Layout(on_its_side=True))
    b'lake,ph\nAmber,7.1\nVessel,\n'
    """
    if len(text) > MOST_TURNED:
        raise SourceFault(
            "on-its-side",
            f"it has more than {_SAID}, too much for a table that is turned",
            "turn it with another program, or divide it",
        )
    dialect = Dialect(layout.delimiter, layout.quote, layout.escape, layout.comment_mark)
    rows = [
        split_cells(text[start:end].decode("utf-8"), dialect)
        for start, end in spans(text, dialect, last=True)
    ]
    rows = [cells for cells in rows if any(cell.strip() for cell in cells)]
    if layout.comment_mark:
        rows = [cells for cells in rows if not cells[0].startswith(layout.comment_mark)]
    columns = zip_longest(*rows, fillvalue="")
    lines = (layout.delimiter.join(_quoted(cell, layout) for cell in column) for column in columns)
    return "".join(f"{line}\n" for line in lines).encode()


def _quoted(cell: str, layout: Layout) -> str:
    quote = layout.quote
    if not quote or not any(mark in cell for mark in (layout.delimiter, quote, "\n", "\r")):
        return cell
    return quote + cell.replace(quote, (layout.escape or quote) + quote) + quote


def reads_ranges(source: Source, layout: Layout) -> bool:
    """Whether ranges of the file can be read on their own, since its bytes are UTF-8 text."""
    encoding = codecs.lookup(layout.encoding).name
    return source.has_ranges and encoding in _UTF_8 and not layout.on_its_side


class TextStream(AbstractContextManager["TextStream"]):
    """Reads a source as UTF-8 text without a byte order mark.

    A byte order mark says what the encoding is, and so do letters beyond ASCII that are valid UTF-8; the encoding of the
    layout is for all other bytes.

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
    by_mark
        The encoding that a byte order mark says, where the layout has another; else empty.
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
        if bom and start[len(bom[0]) :].startswith(b"\0\0"):
            bom = None  # that of UTF-32
        name = bom[1] if bom else _decoder_name(layout.encoding, start)
        self.by_mark = (
            bom[1].removesuffix("-le").removesuffix("-be")
            if bom and not _is_same(bom[1], layout.encoding)
            else ""
        )
        self._name = layout.encoding
        self._decodes = name != "utf-8"
        self._may_be_utf_8, self._cut_off = self._decodes and not bom and is_ascii_like(name), b""
        self._decoder = codecs.getincrementaldecoder(name)("strict")
        self._decoded = self.skipped = len(bom[0]) if bom else 0
        self._ready = self._turned(start[self.skipped :], not start)
        if layout.on_its_side:
            self._decodes = True  # all of it is read at once
            self._ready, self._decodes, self._may_be_utf_8 = (
                turned_over(self.read(MOST_TURNED + 1), layout),
                False,
                False,
            )

    def read(self, want: int) -> bytes:
        """Read at least `want` bytes, unless the end comes first."""
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
        if self._may_be_utf_8:
            raw, self._cut_off = self._cut_off + raw, b""
            if raw.isascii():
                self._decoded += len(raw)
                return raw
            whole = _whole_letters(raw) if not last else len(raw)
            if whole and raw[:whole].isascii():  # one letter that is not complete says nothing
                self._cut_off = raw[whole:]
                self._decoded += whole
                return raw[:whole]
            self._may_be_utf_8 = False
            self._decodes = not is_utf_8(raw[:whole])
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


def _decoder_name(wanted: str, start: bytes) -> str:
    """The encoding of a text without a byte order mark."""
    plain = codecs.lookup(wanted).name
    if plain in _UTF_16 and start and b"\0" not in start and is_utf_8(start[: _whole_letters(start)]):
        return "utf-8"  # each letter of ASCII would have a zero byte beside it
    if plain == "utf-16":
        return "utf-16-le"
    return "utf-8" if plain in _UTF_8 else plain


def _is_same(by_mark: str, wanted: str) -> bool:
    plain = codecs.lookup(wanted).name
    return plain in _UTF_8 if by_mark == "utf-8" else plain in ("utf-16", by_mark)


def is_utf_8(data: bytes) -> bool:
    """Whether bytes are valid UTF-8.

    Examples
    --------
    >>> is_utf_8("7.2 °C".encode()), is_utf_8("7.2 °C".encode("cp1252"))
    (True, False)
    """
    try:
        data.decode("utf-8")
    except UnicodeDecodeError:
        return False
    return True


def _whole_letters(data: bytes) -> int:
    """The bytes before a letter of UTF-8 that is cut off at the end."""
    for back in range(1, min(_LONGEST_LETTER, len(data)) + 1):
        byte = data[-back]
        if byte >= 0xC0:
            needs = 2 if byte < 0xE0 else 3 if byte < 0xF0 else 4
            return len(data) - back if needs > back else len(data)
        if byte < 0x80:
            break
    return len(data)


def not_valid(offset: int, byte: int, encoding: str, row: int | None = None) -> SourceFault:
    """The fault of bytes that are not text in the source's encoding."""
    return SourceFault(
        "bytes-not-valid",
        f"not {encoding.upper()}: byte 0x{byte:02X} at offset {offset:,} is not valid",
        "set encoding in the layout; integrum survey shows the most likely one",
        row,
    )


class SequentialReader:
    """Reads consecutive pieces of texts that can only be read from their start; one source at a time."""

    def __init__(self) -> None:
        self._stream: TextStream | None = None
        self._place: tuple[object, ...] = ()
        self._at, self._rest = 0, b""

    def __enter__(self) -> Self:
        return self

    def read(self, source: Source, layout: Layout, start: int, size: int) -> bytes:
        """Read a part of the text of a source; less where it ends before.

        `start`, `size`: where in its text, in UTF-8 and without a byte order mark.
        """
        place = (source.path, source.member, source.sheet)
        if place != self._place or start < self._at:
            self.close()
            self._stream, self._place = TextStream(source, layout), place
        assert self._stream
        while start > self._at:  # what is left out between two pieces
            if not self._forward(min(start - self._at, _STEP)):
                return b""
        return self._forward(size)

    def _forward(self, size: int) -> bytes:
        assert self._stream
        data = self._rest
        if len(data) < size:
            data += self._stream.read(size - len(data))
        self._rest, taken = data[size:], data[:size]
        self._at += len(taken)
        return taken

    def close(self) -> None:
        """Close what is open."""
        if self._stream is not None:
            self._stream.__exit__(None, None, None)
        self._stream, self._place, self._at, self._rest = None, (), 0, b""

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()


_STEP = 4 << 20
