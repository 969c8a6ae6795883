"""Cut a source into pieces of whole records, and make sure on the way that it can be trusted."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from integrum.plan.layout import Layout
from integrum.problems import SourceFault, unreadable
from integrum.reading.head import (
    LONGEST_RECORD,
    Head,
    no_line_end,
    quote_not_closed,
)
from integrum.reading.records import CR, LF, Records, bounds, find_records, records_beginning
from integrum.reading.stream import TextStream, not_valid
from integrum.sources.source import Source

PIECE = 8 << 20


@dataclass(frozen=True)
class Broken:
    """A row that is not readable as cells, cut out of its piece."""

    row: int
    text: str


@dataclass(frozen=True)
class Piece:
    """Whole records of one source.

    Attributes
    ----------
    source
        The number of the source in the run.
    variant
        The number of its header variant in the run.
    data
        UTF-8 bytes, ending with a line end; broken rows and comments are cut out.
    first_row
        The row in the source of the first record.
    rows
        How many records, with those that are cut out.
    broken
        Rows with text behind a closing quote.
    comments
        Rows that are comments.
    footer
        How many rows of the footer follow.
    """

    source: int
    variant: int
    data: bytes
    first_row: int
    rows: int
    broken: tuple[Broken, ...] = ()
    comments: tuple[int, ...] = ()
    footer: int = 0


@dataclass(frozen=True)
class Inspected:
    """What one reading of a source established.

    Attributes
    ----------
    source
        The number of the source in the run.
    rows
        Records, the header included; lines, where the records cannot be told.
    size
        Bytes read.
    content
        The content hash: BLAKE2b, 256 bits, in hexadecimal.
    comment, footer
        Rows below the header that are comments, and rows of the footer.
    pieces
        How many pieces the rows below the header make.
    piece
        The data, when it is one piece; larger sources are read again piece by piece.
    fault
        Why the source has to be set aside, if so.
    """

    source: int
    rows: int
    size: int
    content: str
    comment: int = 0
    footer: int = 0
    pieces: int = 0
    piece: Piece | None = None
    fault: SourceFault | None = None


def inspect(source: Source, number: int, variant: int, head: Head | SourceFault, layout: Layout) -> Inspected:
    """Read a source once from start to end: its hash, its rows, and whether it is sound.

    Parameters
    ----------
    source
        The source.
    number, variant
        Its number in the run and that of its header variant.
    head
        Its head, or why it has none.
    layout
        The layout of its group.

    Returns
    -------
    Inspected
        A fault is given back, not raised.
    """
    hasher = hashlib.blake2b(digest_size=32)
    seen = Counted(hasher.update)
    if isinstance(head, SourceFault):
        rows = _hash_and_count(source, seen)
        return Inspected(number, rows, seen.size, hasher.hexdigest(), fault=head)
    rows, kept, pieces, comment, footer = head.first_row - 1, None, 0, 0, 0
    try:
        for piece in cut(source, number, variant, head, layout, seen):
            rows += piece.rows + piece.footer
            comment += len(piece.comments)
            footer += piece.footer
            pieces += 1
            kept = kept or piece
    except SourceFault as fault:
        rows = _hash_and_count(source, seen)
        return Inspected(number, rows, seen.size, hasher.hexdigest(), fault=fault)
    if source.has_changed():
        changed = SourceFault("source-changed", "the file changed while it was being read", "run it again")
        return Inspected(number, rows, seen.size, hasher.hexdigest(), fault=changed)
    lone = kept if pieces == 1 else None
    return Inspected(number, rows, seen.size, hasher.hexdigest(), comment, footer, pieces, lone)


class Counted:
    """Hand bytes on and count them."""

    def __init__(self, hand_on: Callable[[bytes], object]) -> None:
        self.size = 0
        self._hand_on = hand_on

    def __call__(self, data: bytes) -> None:
        """Take the next bytes."""
        self.size += len(data)
        self._hand_on(data)


def _hash_and_count(source: Source, seen: Counted) -> int:
    """Take what was not read yet into the hash, and count the lines of the whole source."""
    rows, size, end = 0, 0, b""
    try:
        with source.open() as file:
            while data := file.read(PIECE):
                beyond = seen.size - size
                size += len(data)
                if beyond < len(data):
                    seen(data[max(beyond, 0) :])
                rows += data.count(b"\n")
                end = data[-1:]
    except (OSError, SourceFault):
        pass
    return rows + (end not in (b"\n", b""))


def cut(
    source: Source,
    number: int,
    variant: int,
    head: Head,
    layout: Layout,
    seen: Callable[[bytes], object] | None = None,
) -> Iterator[Piece]:
    """Read a source and cut the rows below its header into pieces.

    Parameters
    ----------
    source
        The source.
    number, variant
        Its number in the run and that of its header variant.
    head
        Its head.
    layout
        The layout of its group.
    seen
        Is called with all bytes of the source, in order.

    Yields
    ------
    Piece
        Some 8 MB each, in order.

    Raises
    ------
    SourceFault
        When the bytes are not valid text, a quote is never closed, or the file cannot be read.
    """
    try:
        with TextStream(source, layout, seen) as stream:
            yield from _Cutter(stream, number, variant, head, layout).pieces()
    except OSError as error:
        raise unreadable(error) from error


class _Cutter:
    def __init__(self, stream: TextStream, number: int, variant: int, head: Head, layout: Layout) -> None:
        self._stream, self._number, self._variant = stream, number, variant
        self._head, self._layout, self._dialect = head, layout, head.form.dialect
        self._row, self._offset = head.first_row, head.data_at

    def pieces(self) -> Iterator[Piece]:
        start = self._stream.read(self._head.data_at)
        rest, want, held = start[self._head.data_at :], PIECE, None
        while True:
            data = self._stream.read(want)
            last = len(data) < want
            plain = self._is_plain(rest, data)
            end = data.rfind(b"\n") + 1 if plain and not last else 0
            if end:  # cut before joining, so that the bytes are copied once
                rest, data = data[end:], b"".join((rest, memoryview(data)[:end]))
            else:
                rest, data = b"", rest + data if rest else data
            if not data:
                break
            records = find_records(data, self._dialect, last)
            too_long = not records.end and len(data) > LONGEST_RECORD
            if records.open_record is not None and (last or too_long):
                raise quote_not_closed(self._row + records.open_record)
            if too_long:
                raise no_line_end(self._row)
            want = PIECE if records.end else max(PIECE, len(data))
            rest = data[records.end :] + rest
            if records.end:
                body = data[: records.end] if records.end < len(data) else data
                self._check_text(body)
                piece = self._footed(body, records)
                if held and piece.footer == piece.rows + piece.footer and not piece.rows:
                    held = replace(held, footer=held.footer + piece.footer)
                else:
                    if held:
                        yield held
                    held = piece
                self._row += records.count
                self._offset += records.end
            if last:
                break
        if held:
            yield held

    def _is_plain(self, *parts: bytes) -> bool:
        """Whether every line feed ends a record."""
        quote = self._dialect.quote.encode()
        return not any(b"\r" in part or (quote and quote in part) for part in parts)

    def _footed(self, body: bytes, records: Records) -> Piece:
        """The piece that some records make, up to the footer."""
        footer_at = self._footer_at(body, records)
        if footer_at is None:
            return self._piece(body, records)
        number, start = footer_at
        self._in_footer = True
        footer = records.count - number
        if not number:
            return Piece(self._number, self._variant, b"", self._row, 0, footer=footer)
        return replace(
            self._piece(body[:start], find_records(body[:start], self._dialect, True)), footer=footer
        )

    _in_footer = False

    def _footer_at(self, body: bytes, records: Records) -> tuple[int, int] | None:
        """The number and offset of the first record that is no longer data."""
        if self._in_footer:
            return 0, 0
        layout, found = self._layout, None
        if layout.footer_from:
            begin = records_beginning(body, self._dialect, layout.footer_from, quoted=True)
            found = begin[0][:2] if begin else None
        if layout.last_row is not None and self._row + records.count - 1 > layout.last_row:
            number = max(layout.last_row + 1 - self._row, 0)
            if found is None or number < found[0]:
                found = number, bounds(body, self._dialect, last=True)[number][0]
        return found

    def _check_text(self, data: bytes) -> None:
        if data.isascii():
            return
        try:
            data.decode("utf-8")
        except UnicodeDecodeError as error:
            before = find_records(data[: error.start], self._dialect, last=False).count
            offset = self._offset + self._stream.skipped + error.start
            raise not_valid(offset, data[error.start], "utf-8", self._row + before) from None

    def _piece(self, data: bytes, records: Records) -> Piece:
        comments: list[tuple[int, int, int]] = []
        if self._layout.comment:
            comments = records_beginning(data, self._dialect, [self._layout.comment], quoted=False)
        removed = {at for at, _, _ in comments}
        broken = tuple(
            Broken(self._row + at, data[start:end].decode("utf-8").rstrip("\r\n"))
            for at, start, end in records.broken
            if at not in removed
        )
        holes = sorted({(start, end) for _, start, end in (*records.broken, *comments)})
        if holes:
            edges = [0, *(edge for hole in holes for edge in hole), len(data)]
            data = b"".join(data[a:b] for a, b in zip(edges[0::2], edges[1::2], strict=True))
        if data and data[-1] not in (LF, CR):
            data += b"\n"
        rows = tuple(self._row + at for at, _, _ in comments)
        return Piece(self._number, self._variant, data, self._row, records.count, broken, rows)
