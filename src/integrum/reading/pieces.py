"""Cut a source into pieces of whole records, and make sure on the way that it can be trusted."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from integrum.problems import SourceFault
from integrum.reading.head import (
    LONGEST_RECORD,
    Head,
    bytes_not_valid,
    no_line_end,
    quote_not_closed,
    unreadable,
)
from integrum.reading.records import CR, LF, Records, find_records
from integrum.sources.source import Source, read_full

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
        UTF-8 bytes, ending with a line end; the broken rows are cut out.
    first_row
        The row in the source of the first record.
    rows
        How many records, the broken ones included.
    broken
        Rows with text behind a closing quote.
    """

    source: int
    variant: int
    data: bytes
    first_row: int
    rows: int
    broken: tuple[Broken, ...] = ()


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
    pieces: int = 0
    piece: Piece | None = None
    fault: SourceFault | None = None


def inspect(source: Source, number: int, variant: int, head: Head | SourceFault) -> Inspected:
    """Read a source once from start to end: its hash, its rows, and whether it is sound.

    Parameters
    ----------
    source
        The source.
    number, variant
        Its number in the run and that of its header variant.
    head
        Its head, or why it has none.

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
    rows, kept, pieces = head.header_row, None, 0
    try:
        for piece in cut(source, number, variant, head, seen):
            rows += piece.rows
            pieces += 1
            kept = kept or piece
    except SourceFault as fault:
        rows = _hash_and_count(source, seen)
        return Inspected(number, rows, seen.size, hasher.hexdigest(), fault=fault)
    if source.has_changed():
        changed = SourceFault("source-changed", "the file changed while it was being read", "run it again")
        return Inspected(number, rows, seen.size, hasher.hexdigest(), fault=changed)
    return Inspected(number, rows, seen.size, hasher.hexdigest(), pieces, kept if pieces == 1 else None)


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
    source: Source, number: int, variant: int, head: Head, seen: Callable[[bytes], object] | None = None
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
        with source.open() as file:
            start = file.read(head.data_at)
            if seen:
                seen(start)
            yield from _cut(file.read, number, variant, head, seen)
    except OSError as error:
        raise unreadable(error) from error


def _cut(
    read: Callable[[int], bytes],
    number: int,
    variant: int,
    head: Head,
    seen: Callable[[bytes], object] | None,
) -> Iterator[Piece]:
    delimiter = ord(head.delimiter)
    row, offset, rest, want = head.header_row + 1, head.data_at, b"", PIECE
    while True:
        data = read_full(read, want)
        last = len(data) < want
        if seen:
            seen(data)
        if not data and not rest:
            return
        data = rest + data if rest else data
        records = find_records(data, delimiter, last)
        too_long = not records.end and len(data) > LONGEST_RECORD
        if records.open_record is not None and (last or too_long):
            raise quote_not_closed(row + records.open_record)
        if records.end:
            body = data[: records.end] if records.end < len(data) else data
            _check_text(body, offset, row, delimiter)
            yield _piece(number, variant, body, row, records)
            row += records.count
            offset += records.end
            rest, want = data[records.end :], PIECE
        else:
            if too_long:
                raise no_line_end(row)
            rest, want = data, max(PIECE, len(data))
        if last:
            return


def _check_text(data: bytes, offset: int, row: int, delimiter: int) -> None:
    if data.isascii():
        return
    try:
        data.decode("utf-8")
    except UnicodeDecodeError as error:
        before = find_records(data[: error.start], delimiter, last=False).count
        raise bytes_not_valid(offset + error.start, data[error.start], row + before) from None


def _piece(number: int, variant: int, data: bytes, row: int, records: Records) -> Piece:
    if data[-1] not in (LF, CR):
        data += b"\n"
    broken = tuple(
        Broken(row + at, data[start:end].decode("utf-8").rstrip("\r\n")) for at, start, end in records.broken
    )
    if broken:
        edges = [0, *(edge for _, start, end in records.broken for edge in (start, end)), len(data)]
        data = b"".join(data[a:b] for a, b in zip(edges[0::2], edges[1::2], strict=True))
    return Piece(number, variant, data, row, records.count, broken)
