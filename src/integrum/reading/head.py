"""The start of a source: its header, and where its data begins."""

from __future__ import annotations

import csv
from dataclasses import dataclass
from functools import lru_cache

from integrum.problems import SourceFault
from integrum.reading.records import find_records, first_end
from integrum.sources.source import Source, read_full

LONGEST_RECORD = 64 << 20
_FIRST_LOOK = 16 << 10
_BOM = b"\xef\xbb\xbf"
_UTF16 = (b"\xff\xfe", b"\xfe\xff")


@dataclass(frozen=True)
class Head:
    """What the start of a source says.

    Attributes
    ----------
    cells
        The header cells as they are written.
    names
        The same, tidied: outer and double spaces and line breaks gone, an empty cell named after its
        position, a repeated one told apart.
    header_row
        The row of the header, from 1.
    data_at
        Offset in bytes of the first row below the header.
    delimiter
        The character between cells.
    """

    cells: tuple[str, ...]
    names: tuple[str, ...]
    header_row: int
    data_at: int
    delimiter: str = ","


def read_head(source: Source) -> Head:
    """Read the header of a source.

    Parameters
    ----------
    source
        A delimited text, UTF-8, with its header in the first row.

    Returns
    -------
    Head

    Raises
    ------
    SourceFault
        When the file cannot be read, is empty, is not UTF-8, or has no header.
    """
    try:
        with source.open() as file:
            data = read_full(file.read, _FIRST_LOOK)
            last = len(data) < _FIRST_LOOK
            start = len(_BOM) if data.startswith(_BOM) else 0
            while (
                not last
                and len(data) < LONGEST_RECORD
                and not find_records(data[start:], ord(","), last).count
            ):
                want = len(data)
                more = read_full(file.read, want)
                last = len(more) < want
                data += more
    except OSError as error:
        raise unreadable(error) from error
    if not data[start:].strip():
        raise SourceFault("empty-source", "the file is empty", "ask where it came from for a whole copy")
    if data[:2] in _UTF16:
        raise SourceFault(
            "bytes-not-valid",
            "not UTF-8: the file begins with the mark of UTF-16 (offset 0)",
            "save it as UTF-8 text",
        )
    records = find_records(data[start:], ord(","), last)
    if not records.count:
        raise quote_not_closed(1) if records.open_record is not None else no_line_end(1)
    text = data[start : start + first_end(data[start:], ord(","), last)]
    try:
        header = text.decode("utf-8")
    except UnicodeDecodeError as error:
        raise bytes_not_valid(start + error.start, text[error.start]) from None
    cells = tuple(next(csv.reader([header.rstrip("\r\n")], strict=False), []))
    if not any(cell.strip() for cell in cells):
        raise SourceFault(
            "no-header", "the first row has no cell with text", "the header belongs in row 1", 1
        )
    return Head(cells, tidy_names(cells), 1, start + len(text))


@lru_cache(maxsize=256)
def tidy_names(cells: tuple[str, ...]) -> tuple[str, ...]:
    """Give every header cell a name of its own.

    Examples
    --------
    >>> tidy_names((" Depth  (m)", "", "Depth (m)"))
    ('Depth (m)', 'column 2', 'Depth (m) (2)')
    """
    names: list[str] = []
    written = {" ".join(cell.split()) for cell in cells}
    for position, cell in enumerate(cells, 1):
        plain = " ".join(cell.split()) or f"column {position}"
        name, number = plain, 2
        while name in names or (name != plain and name in written):
            name, number = f"{plain} ({number})", number + 1
        names.append(name)
    return tuple(names)


def unreadable(error: OSError) -> SourceFault:
    """The fault of a file that the system does not let us read."""
    return SourceFault(
        "unreadable",
        f"cannot be read: {error.strerror or error}",
        "check that it exists and that you may read it",
    )


def bytes_not_valid(offset: int, byte: int, row: int | None = None) -> SourceFault:
    """The fault of bytes that are not text in the source's encoding."""
    return SourceFault(
        "bytes-not-valid",
        f"not UTF-8: the byte 0x{byte:02X} at offset {offset:,} is not valid there",
        "save it as UTF-8 text",
        row,
    )


def no_line_end(row: int) -> SourceFault:
    """The fault of a row that does not end."""
    return SourceFault(
        "no-line-end", f"row {row:,} is longer than {LONGEST_RECORD >> 20} MB", "is this file a text?", row
    )


def quote_not_closed(row: int) -> SourceFault:
    """The fault of a quote that is still open where the source ends."""
    return SourceFault(
        "quote-not-closed",
        f"the quote that opens in row {row:,} is never closed",
        "close it in the file, or remove it; the true culprit may stand in an earlier row",
        row,
    )
