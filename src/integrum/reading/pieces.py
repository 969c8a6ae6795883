"""Pieces of a source: where some whole records lie, and how they are read again where they are wanted."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from integrum.arrow.arrays import Ints
from integrum.plan.layout import Layout
from integrum.problems import SourceFault
from integrum.reading.head import format_of
from integrum.reading.left_out import LeftOutRow, raw_text, rows_in
from integrum.reading.onward import Onward
from integrum.reading.parts import COMMENT, FOOTER
from integrum.reading.records import CR, LF
from integrum.reading.stream import reads_ranges
from integrum.sources.source import Source, read_full

Hole = tuple[int, int, int]


@dataclass(frozen=True)
class Piece:
    """Where some whole records of one source lie."""

    source: int  # the number of the source in the run
    family: int  # the number of its family of sources in the run
    # offset and bytes: in the file, where its ranges can be read as they are; else in its text
    start: int
    size: int
    first_row: int  # the row in the source of the first record
    rows: int  # how many records, with those that are cut out
    # rows with text behind a closing quote: the number of each, and where it lies in the piece
    broken: tuple[Hole, ...] = ()
    comments: tuple[Hole, ...] = ()  # the same of rows that are comments
    # how many rows of the footer follow right behind, and their bytes
    footer: int = 0
    footer_size: int = 0
    # the records themselves and the footer, where they cannot be read again on their own
    text: bytes | None = None
    is_reused: ClassVar[bool] = False

    @property
    def bytes(self) -> int:
        """What is read of it."""
        return self.size + self.footer_size


@dataclass(frozen=True)
class Loaded:
    """The records of a piece."""

    # as those of the piece
    source: int
    first_row: int
    rows: int
    data: bytes  # UTF-8 bytes, ending with a line end; broken rows and comments are cut out
    gone: Ints  # the rows that are cut out, in order
    broken: tuple[tuple[int, str], ...] = ()  # those of them that are not comments, with their texts
    left_out: tuple[LeftOutRow, ...] = ()  # the comments, and the footer that follows, with their texts


def load(piece: Piece, source: Source, layout: Layout, onward: Onward | None = None) -> Loaded:
    """Read the records of a piece.

    Raises SourceFault when the file is not what it was when it was cut.

    `onward`: reads sources that can only be read from their start; without it they are read from there each time.
    """
    data = _read(piece, source, layout, onward) if piece.text is None else piece.text
    left_out = [
        LeftOutRow(piece.source, row, COMMENT, raw_text(data[start:end]))
        for row, start, end in piece.comments
    ]
    if piece.footer:
        dialect = format_of(source, layout).dialect
        below = piece.first_row + piece.rows
        left_out += rows_in(data[piece.size :], dialect, piece.source, below, FOOTER)
        data = data[: piece.size]
    holes = sorted({*piece.broken, *piece.comments}, key=lambda hole: hole[1])
    broken = tuple((row, data[start:end].decode("utf-8").rstrip("\r\n")) for row, start, end in piece.broken)
    if holes:
        edges = [0, *(edge for _, start, end in holes for edge in (start, end)), len(data)]
        data = b"".join(data[a:b] for a, b in zip(edges[0::2], edges[1::2], strict=True))
    if data and data[-1] not in (LF, CR):
        data += b"\n"
    gone = np.array([row for row, _, _ in holes], np.int64)
    return Loaded(piece.source, piece.first_row, piece.rows, data, gone, broken, tuple(left_out))


def _read(piece: Piece, source: Source, layout: Layout, onward: Onward | None) -> bytes:
    if not piece.bytes:
        return b""
    try:
        if reads_ranges(source, layout):
            with source.open() as file:
                file.seek(piece.start)
                data = read_full(file.read, piece.bytes)
        elif onward is not None:
            data = onward.read(source, layout, piece.start, piece.bytes)
        else:
            with Onward() as once:
                data = once.read(source, layout, piece.start, piece.bytes)
    except (OSError, SourceFault) as error:
        raise changed() from error
    if len(data) != piece.bytes or source.has_changed():
        raise changed()
    return data


def changed() -> SourceFault:
    """The fault of a source that is not what it was."""
    return SourceFault("source-changed", "the file changed while it was being read", "run it again")
