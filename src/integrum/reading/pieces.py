"""Cut a source into pieces of whole records, and read the pieces again where they are wanted."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from integrum.errors import SourceChanged
from integrum.plan.layout import Layout
from integrum.problems import SourceFault, unreadable
from integrum.reading.head import LONGEST_RECORD, Head, no_line_end, quote_not_closed
from integrum.reading.records import CR, LF, Dialect, Records, bounds, find_records, records_beginning
from integrum.reading.stream import TextStream, not_valid, reads_ranges
from integrum.sources.source import Source, read_full

PIECE = 8 << 20

Hole = tuple[int, int, int]


@dataclass(frozen=True)
class Piece:
    """Where some whole records of one source lie.

    Attributes
    ----------
    source
        The number of the source in the run.
    family
        The number of its family of sources in the run.
    start, size
        Offset and bytes: in the file, where its ranges can be read as they are; else in its text.
    first_row
        The row in the source of the first record.
    rows
        How many records, with those that are cut out.
    broken
        Rows with text behind a closing quote: the number of each, and where it lies in the piece.
    comments
        The same of rows that are comments.
    footer
        How many rows of the footer follow.
    text
        The records themselves, where they cannot be read again on their own.
    """

    source: int
    family: int
    start: int
    size: int
    first_row: int
    rows: int
    broken: tuple[Hole, ...] = ()
    comments: tuple[Hole, ...] = ()
    footer: int = 0
    text: bytes | None = None


@dataclass(frozen=True)
class Loaded:
    """The records of a piece.

    Attributes
    ----------
    source, first_row, rows
        As those of the piece.
    data
        UTF-8 bytes, ending with a line end; broken rows and comments are cut out.
    gone
        The rows that are cut out, in order.
    broken
        Those of them that are no comments, with their texts.
    """

    source: int
    first_row: int
    rows: int
    data: bytes
    gone: npt.NDArray[np.int64]
    broken: tuple[tuple[int, str], ...] = ()


def load(piece: Piece, source: Source, layout: Layout) -> Loaded:
    """Read the records of a piece.

    Parameters
    ----------
    piece
        The piece.
    source
        Its source.
    layout
        The layout of the source.

    Returns
    -------
    Loaded

    Raises
    ------
    SourceChanged
        When the file is not what it was when it was cut.
    """
    data = _read(piece, source, layout) if piece.text is None else piece.text
    holes = sorted({*piece.broken, *piece.comments}, key=lambda hole: hole[1])
    broken = tuple((row, data[start:end].decode("utf-8").rstrip("\r\n")) for row, start, end in piece.broken)
    if holes:
        edges = [0, *(edge for _, start, end in holes for edge in (start, end)), len(data)]
        data = b"".join(data[a:b] for a, b in zip(edges[0::2], edges[1::2], strict=True))
    if data and data[-1] not in (LF, CR):
        data += b"\n"
    gone = np.array([row for row, _, _ in holes], np.int64)
    return Loaded(piece.source, piece.first_row, piece.rows, data, gone, broken)


def _read(piece: Piece, source: Source, layout: Layout) -> bytes:
    if not piece.size:
        return b""
    try:
        if reads_ranges(source, layout):
            with source.open() as file:
                file.seek(piece.start)
                data = read_full(file.read, piece.size)
        else:
            with TextStream(source, layout) as stream:
                data = stream.read(piece.start + piece.size)[piece.start :][: piece.size]
    except (OSError, SourceFault) as error:
        raise changed(source) from error
    if len(data) != piece.size or source.has_changed():
        raise changed(source)
    return data


def changed(source: Source) -> SourceChanged:
    """What is raised when a source is not what it was."""
    return SourceChanged(f"{source.name} changed while it was being read; nothing was written, run it again")


def cut(
    source: Source,
    number: int,
    family: int,
    head: Head,
    layout: Layout,
    seen: Callable[[bytes], object] | None = None,
    keep: bool = False,
) -> Iterator[Piece]:
    """Read a source and cut the rows below its header into pieces.

    Parameters
    ----------
    source
        The source.
    number, family
        Its number in the run, and that of its family of sources.
    head
        Its head.
    layout
        The layout of its group.
    seen
        Is called with all bytes of the source, in order.
    keep
        Whether the pieces keep their texts.

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
            base = stream.skipped if reads_ranges(source, layout) else 0
            yield from _Cutter(stream, base, Piece(number, family, 0, 0, 0, 0), head, layout, keep).pieces()
    except OSError as error:
        raise unreadable(error) from error


class _Cutter:
    def __init__(
        self, stream: TextStream, base: int, blank: Piece, head: Head, layout: Layout, keep: bool
    ) -> None:
        self._stream, self._base, self._blank, self._keep = stream, base, blank, keep
        self._head, self._layout, self._dialect = head, layout, head.format.dialect
        self._row, self._offset = head.first_row, head.data_at

    def pieces(self) -> Iterator[Piece]:
        start = self._stream.read(self._head.data_at)
        rest, want, held = start[self._head.data_at :], PIECE, None
        while True:
            data = self._stream.read(want)
            last = len(data) < want
            plain = _is_plain(self._dialect, rest, data)
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
                if held and piece.footer and not piece.rows:
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

    def _footed(self, body: bytes, records: Records) -> Piece:
        """The piece that some records make, up to the footer."""
        footer_at = self._footer_at(body, records)
        if footer_at is None:
            return self._piece(body, records)
        number, start = footer_at
        self._in_footer = True
        footer = records.count - number
        if not number:
            return replace(self._blank, first_row=self._row, footer=footer, text=b"" if self._keep else None)
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
                found = number, int(bounds(body, self._dialect, last=True)[0][number])
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
        comments: tuple[Hole, ...] = ()
        if self._layout.comment:
            begin = records_beginning(data, self._dialect, [self._layout.comment], quoted=False)
            comments = tuple((self._row + at, start, end) for at, start, end in begin)
        removed = {row for row, _, _ in comments}
        broken = tuple(
            (self._row + at, start, end) for at, start, end in records.broken if self._row + at not in removed
        )
        return replace(
            self._blank,
            start=self._base + self._offset,
            size=len(data),
            first_row=self._row,
            rows=records.count,
            broken=broken,
            comments=comments,
            text=data if self._keep else None,
        )


def _is_plain(dialect: Dialect, *parts: bytes) -> bool:
    """Whether every line feed ends a record."""
    quote = dialect.quote.encode()
    return not any(b"\r" in part or (quote and quote in part) for part in parts)
