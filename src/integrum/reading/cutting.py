"""Cut a source into pieces of whole records, and make sure on the way that it can be trusted."""

from __future__ import annotations

from codecs import BOM_UTF8
from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import BinaryIO

from integrum.plan.layout import Layout
from integrum.problems.problem import unreadable
from integrum.reading.head import LONGEST_RECORD, Head, no_line_end, quote_not_closed
from integrum.reading.pieces import Hole, Piece
from integrum.reading.records import LF, Records, bounds, find_records, first_with_cell, records_beginning
from integrum.reading.stream import TextStream, not_valid, reads_ranges
from integrum.sources.source import Source, read_full

PIECE = 4 << 20
# the rows of a source of this many bytes are not read twice
_SMALL = 256 << 10
# this much is looked at in several ways before the next is read
_BLOCK = 256 << 10

Text = bytes | bytearray


def cut(
    source: Source,
    number: int,
    family: int,
    head: Head,
    layout: Layout,
    seen: Callable[[bytes], int] | None = None,
    keep: bool = False,
    remember: bool = False,
) -> Iterator[Piece]:
    """Read a source and cut the rows below its header into pieces.

    Yields some 4 MB each, in order.

    Raises SourceFault when the bytes are not valid text, a quote is never closed, or the file cannot be read.

    Parameters
    ----------
    number, family
        Its number in the run, and that of its family of sources.
    seen
        Is called with all bytes of the source, in order.
    keep
        Whether the pieces have their texts, and none of them is to be read again.
    remember
        The same for a source whose ranges can be read, where it is small.
    """
    blank = Piece(number, family, 0, 0, 0, 0)
    try:
        if reads_ranges(source, layout) and not keep:
            with source.open() as file:
                remember = remember and source.size <= _SMALL
                yield from _RangeCutter(file, source.size, seen, blank, head, layout, remember).pieces()
        else:
            with TextStream(source, layout, seen) as stream:
                yield from _StreamCutter(stream, blank, head, layout, keep).pieces()
    except OSError as error:
        raise unreadable(error) from error


class _Cutter:
    """Cuts text that begins at the start of a record into pieces."""

    def __init__(self, blank: Piece, head: Head, layout: Layout, keep: bool = False) -> None:
        self._blank, self._keep = blank, keep
        self._head, self._layout, self._dialect = head, layout, head.format.dialect
        self._row, self._offset, self._base = head.first_row, head.data_at, 0

    def stretches(self) -> Iterator[tuple[Text, Records]]:
        """Text from the start of a record, and the records in it; the text may go on behind the last of them."""
        raise NotImplementedError

    def pieces(self) -> Iterator[Piece]:
        """Yield pieces of whole records, in order, the footer included."""
        for data, records in self.stretches():
            if not self._is_ascii:
                self._check_text(data, records.end)
            yield self._footed(data, records)
            self._row += records.count
            self._offset += records.end

    def _records(self, data: Text, last: bool) -> Records:
        """The records in a stretch.

        Raises SourceFault when a quote is never closed, or a record does not end.
        """
        records = find_records(data, self._dialect, last)
        too_long = not records.end and len(data) > LONGEST_RECORD
        if records.open_record is not None and (last or too_long):
            raise quote_not_closed(self._row + records.open_record)
        if too_long:
            raise no_line_end(self._row)
        return records

    def _footed(self, data: Text, records: Records) -> Piece:
        """The piece of some records, up to the footer."""
        layout = self._layout
        if not (layout.footer_from or layout.comment_mark or self._keep or layout.last_row is not None):
            return self._piece(b"", records)
        body = bytes(memoryview(data)[: records.end])
        footer_at = self._footer_at(body, records)
        if footer_at is None:
            return self._piece(body, records)
        number, start = footer_at
        self._in_footer = True
        above = find_records(body[:start], self._dialect, True) if number else Records(0, 0)
        return replace(
            self._piece(body[:start], above),
            footer=records.count - number,
            footer_size=len(body) - start,
            text=body if self._keep else None,
        )

    _in_footer = _is_ascii = False

    def _footer_at(self, body: bytes, records: Records) -> tuple[int, int] | None:
        """The number and offset of the first record that is no longer data."""
        if self._in_footer:
            return 0, 0
        layout, found = self._layout, None
        if layout.footer_from:
            found = first_with_cell(body, self._dialect, layout.footer_from)
        if layout.last_row is not None and self._row + records.count - 1 > layout.last_row:
            number = max(layout.last_row + 1 - self._row, 0)
            if found is None or number < found[0]:
                found = number, int(bounds(body, self._dialect, last=True)[0][number])
        return found

    def _check_text(self, data: Text, end: int) -> None:
        if data.isascii():
            return
        body = bytes(memoryview(data)[:end])
        try:
            body.decode("utf-8")
        except UnicodeDecodeError as error:
            before = find_records(body[: error.start], self._dialect, last=False).count
            offset = self._base + self._offset + error.start
            raise not_valid(offset, body[error.start], "utf-8", self._row + before) from None

    def _piece(self, data: bytes, records: Records) -> Piece:
        comments: tuple[Hole, ...] = ()
        if self._layout.comment_mark:
            begin = records_beginning(data, self._dialect, self._head.format.comments)
            comments = tuple((self._row + at, start, end) for at, start, end in begin)
        removed = {row for row, _, _ in comments}
        broken = tuple(
            (self._row + at, start, end) for at, start, end in records.broken if self._row + at not in removed
        )
        return replace(
            self._blank,
            start=self._start + self._offset,
            size=records.end,
            first_row=self._row,
            rows=records.count,
            broken=broken,
            comments=comments,
            text=data if self._keep else None,
        )

    @property
    def _start(self) -> int:
        """The offset at which the text begins."""
        return 0


class _StreamCutter(_Cutter):
    """Cuts a source that can only be read from its start."""

    def __init__(self, stream: TextStream, blank: Piece, head: Head, layout: Layout, keep: bool) -> None:
        super().__init__(blank, head, layout, keep)
        self._stream, self._base = stream, stream.skipped

    def stretches(self) -> Iterator[tuple[Text, Records]]:
        """Text from the start of a record, and the records in it."""
        start = self._stream.read(self._head.data_at)
        rest, want = start[self._head.data_at :], PIECE
        while True:
            data = self._stream.read(want)
            last = len(data) < want
            data, rest = rest + data if rest else data, b""
            if not data:
                return
            records = self._records(data, last)
            want = PIECE if records.end else max(PIECE, len(data))
            rest = data[records.end :]
            if records.end:
                yield data, records
            if last:
                return


class _RangeCutter(_Cutter):
    """Cuts a file whose bytes are its text. No byte is copied; the rest behind a cut is read again."""

    def __init__(
        self,
        file: BinaryIO,
        size: int,
        seen: Callable[[bytes], int] | None,
        blank: Piece,
        head: Head,
        layout: Layout,
        remember: bool,
    ) -> None:
        super().__init__(blank, head, layout, remember)
        self._file, self._size, self._seen = file, size, seen
        mark = read_full(file.read, len(BOM_UTF8))
        self._base = len(BOM_UTF8) if mark == BOM_UTF8 else 0

    @property
    def _start(self) -> int:
        return self._base

    def stretches(self) -> Iterator[tuple[Text, Records]]:
        """Text from the start of a record, and the records in it."""
        self._file.seek(0)
        above = read_full(self._file.read, self._base + self._head.data_at)
        if self._seen and above:
            self._seen(above)
        # no more than is needed, as room is cleared first
        room, rest = bytearray(min(PIECE, max(self._size - len(above), 0) + 1)), b""
        while True:
            room[: len(rest)] = rest
            scan = self._fill(room, rest)
            if not scan.size:
                return
            last = scan.size < len(room)
            data: Text = bytes(memoryview(room)[: scan.size]) if last else room
            records = scan.records(data, last) if scan.plain else self._records(data, last)
            if not records.end and len(data) > LONGEST_RECORD:
                raise no_line_end(self._row)
            self._is_ascii = scan.ascii
            if records.end:
                yield data, records
            if last:
                return
            rest = bytes(memoryview(data)[records.end :])
            if (
                not records.end or len(room) < PIECE
            ):  # a record that is longer than the room, or a file that grows
                room = bytearray(max(PIECE, 2 * len(rest)))

    def _fill(self, room: bytearray, rest: bytes) -> _Scan:
        """Fill some room behind what is left over; each block is looked at while it is near at hand."""
        scan, view = _Scan(self._dialect.quote.encode()), memoryview(room)
        scan.see(rest)
        while scan.size < len(room):
            more = self._file.readinto(view[scan.size : scan.size + _BLOCK])  # type: ignore[attr-defined]
            if not more:
                break
            block = bytes(view[scan.size : scan.size + more])
            scan.see(block, self._seen(block) if self._seen else None)
        return scan


class _Scan:
    """What the bytes of a text are like, block by block."""

    def __init__(self, quote: bytes) -> None:
        self._quote = quote
        self.size = self.feeds = 0
        self.ascii = self.plain = True

    def see(self, block: bytes, feeds: int | None = None) -> None:
        """Take the next block. `feeds`: how many line feeds are in it, where that is known."""
        self.size += len(block)
        self.ascii = self.ascii and block.isascii()
        if self.plain:  # every line feed ends a record
            self.plain = b"\r" not in block and not (self._quote and self._quote in block)
            self.feeds += block.count(b"\n") if feeds is None else feeds

    def records(self, data: Text, last: bool) -> Records:
        """The records in them, when they are plain."""
        open_end = last and data[-1] != LF
        return Records(self.feeds + open_end, len(data) if last else data.rfind(b"\n") + 1)
