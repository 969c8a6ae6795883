"""The first and the last rows of a source, each with its part, and the cells of the rows of data among them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from integrum.plan.layout import Layout
from integrum.problems import SourceFault
from integrum.reading.cutting import cut
from integrum.reading.head import Head, read_above
from integrum.reading.left_out import raw_text
from integrum.reading.parsing import Rows
from integrum.reading.parts import DATA, PREAMBLE, Part
from integrum.reading.pieces import Piece
from integrum.reading.stream import TextStream
from integrum.sources.source import Source
from integrum.surveying.look import SeenRow, rows_of_piece

# so many rows of data are shown at the beginning and at the end, and so many of other parts on each side
_DATA, _OTHERS = 4, 14
# a source of this machine is read to its end for its last rows when it is not larger
LARGEST = 64 << 20
_START = 64 << 10
_NO_PART = Part("", "")


@dataclass(frozen=True)
class Ends:
    """The first and the last rows of a source."""

    rows: tuple[SeenRow | int, ...]  # a number stands for so many rows that are not shown
    left_out: tuple[SeenRow, ...] = ()  # rows below its header that are not data, as far as it was read
    first: Rows | None = None  # the cells of its first piece; None where it cannot be read
    fault: str = ""  # why it cannot be read


def ends_of(source: Source, layout: Layout, head: Head | SourceFault, rows: int = 0) -> Ends:
    """Read the first and the last rows of a source.

    Parameters
    ----------
    head
        Its head with the layout, or why it has none.
    rows
        How many rows it has; 0 where that is not known.
    """
    if isinstance(head, SourceFault):
        return Ends(_raw_lines(source, layout), fault=head.message)
    try:
        above: list[SeenRow] = []
        read_above(source, layout, lambda *row: above.append(SeenRow(*row)))
        first, last, parsed = _pieces(source, head, layout)
    except SourceFault as fault:
        return Ends(_raw_lines(source, layout), fault=fault.message)
    every = last or first or above
    total = max(rows, every[-1].row if every else 0)
    shown = {row.row: row for row in _beginning([*above, *first])}
    if is_read_whole(source):
        shown |= {row.row: row for row in _end(last or first)}
    found: list[SeenRow | int] = []
    before = 0
    for number in sorted(shown):
        if number > before + 1:
            found.append(number - before - 1)
        found.append(shown[number])
        before = number
    if total > before:
        found.append(total - before)
    left_out = [row for row in (*first, *(last or ())) if row.part.is_left_out]
    return Ends(tuple(found), tuple(left_out), parsed)


def is_read_whole(source: Source) -> bool:
    """Whether a source is read to its end for a page."""
    return source.size <= LARGEST and source.remote is None


def _pieces(source: Source, head: Head, layout: Layout) -> tuple[list[SeenRow], list[SeenRow], Rows | None]:
    """The rows of the first and of the last piece, none where that is the same; and the cells of the first."""
    first: Piece | None = None
    last: Piece | None = None
    for piece in cut(source, 0, 1, head, layout, keep=True):
        if first is not None:
            last = piece
            continue
        first = piece
        if not is_read_whole(source):
            break
    if first is None:
        return [], [], None
    rows, parsed = rows_of_piece(first, source, head, layout)
    return rows, rows_of_piece(last, source, head, layout)[0] if last else [], parsed


def _beginning(rows: Sequence[SeenRow]) -> list[SeenRow]:
    """The first rows of data, and what stands above and between them; a long preamble is cut in its middle."""
    found: list[SeenRow] = []
    data = preamble = 0
    above = sum(row.part == PREAMBLE for row in rows[: 4 * _OTHERS])
    for row in rows:
        if row.part == PREAMBLE:
            preamble += 1
            if above > _OTHERS and _OTHERS // 2 < preamble <= above - _OTHERS // 2:
                continue
        data += row.part == DATA
        if data > _DATA or len(found) > 3 * _OTHERS:
            break
        found.append(row)
    return found


def _end(rows: Sequence[SeenRow]) -> list[SeenRow]:
    """The last rows of data, and what stands below and between them."""
    found: list[SeenRow] = []
    data = 0
    for row in reversed(rows):
        data += row.part == DATA
        if data > _DATA or len(found) > _OTHERS:
            break
        found.append(row)
    return found


def _raw_lines(source: Source, layout: Layout) -> tuple[SeenRow | int, ...]:
    """The first lines of a source that cannot be read with its layout; they have no part."""
    try:
        try:
            with TextStream(source, layout) as stream:
                text = stream.read(_START)
        except SourceFault:
            with source.open() as file:
                text = file.read(_START)
    except (SourceFault, OSError):
        return ()
    lines = bytes(text).splitlines()[:_OTHERS]
    return tuple(SeenRow(at, _NO_PART, raw_text(line)) for at, line in enumerate(lines, 1))
