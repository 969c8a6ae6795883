"""The first and last lines of a source, part by part."""

from __future__ import annotations

import csv
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from integrum.detecting.dialect import Marks
from integrum.detecting.statistics import Above, above_in_source
from integrum.detecting.vocabulary import is_summary, leading
from integrum.intake.ledger import SourceSummary
from integrum.pages.grid import LeftOutView, Line, SourceView
from integrum.plan.layout import Layout
from integrum.problems.problem import SourceFault
from integrum.reading.cutting import cut
from integrum.reading.head import Head, read_above
from integrum.reading.parsing import Rows
from integrum.reading.parts import (
    BLANK,
    COMMENT,
    DATA,
    DESCRIPTION,
    FOOTER,
    HEADER,
    PARTS,
    PREAMBLE,
    REPEATED,
    SET_ASIDE,
    UNITS,
    Part,
    raw_text,
)
from integrum.reading.pieces import Piece
from integrum.reading.stream import TextStream
from integrum.sources.source import Source
from integrum.surveying.rows import SeenRow, rows_of_piece

# this many rows of data are shown at the beginning and at the end, and this many of other parts on each side
_DATA, _OTHERS = 4, 14
# a source of this machine is read to its end for its last rows when it is not larger
LARGEST = 64 << 20
_START = 64 << 10
_NO_PART = Part("", "")
# this many letters of a line are shown; of a short page fewer
LONGEST = 240
_PROOFS: dict[str, str] = {
    PREAMBLE: "it is above the header",
    HEADER: "it gives the columns their names",
    UNITS: "it is right below the header and has units",
    DESCRIPTION: "it is right below the header and describes the columns",
    REPEATED: "it has the same cells as the header",
    BLANK: "no cell has a value",
    SET_ASIDE: "it does not fit the header; it is kept with the reason",
}
_NOTE, _STATISTIC = "a note below the data", "proved: its numbers are the statistic of the columns above it"
_NAMED = "its first cell says that the data ends here"


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
    """The first rows of data and what stands above and among them; long preambles are cut in the middle."""
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


class LinesOf:
    """Makes the lines of one source.

    Parameters
    ----------
    source, layout
        The source, and its layout.
    """

    def __init__(self, source: Source, layout: Layout) -> None:
        self._source, self._layout = source, layout
        self._above: Above | None = None
        self._tried = False

    def line(self, row: SeenRow, longest: int = LONGEST) -> Line:
        """A row, ready to be shown."""
        return shown_line(row.row, row.part, row.text, self._proof(row), longest)

    def _proof(self, row: SeenRow) -> str:
        if row.part == COMMENT:
            return f"it begins with {self._layout.comment_mark}"
        if row.part == FOOTER:
            cells = cells_of(row.text, self._layout)
            first = next((cell for cell in cells if cell.strip()), "")
            if is_summary(first) and (above := self._numbers()) is not None and above.proves(cells):
                return _STATISTIC
            return _NAMED if leading(first) in self._layout.footer_from else _NOTE
        return proof_of(row.part)

    def _numbers(self) -> Above | None:
        if not self._tried:
            self._tried = True
            if is_read_whole(self._source):
                marks = Marks(self._layout.decimal_mark, self._layout.thousands_mark)
                try:
                    self._above = above_in_source(self._source, self._layout, marks)
                except SourceFault:
                    self._above = None
        return self._above


def shown_line(row: int, part: Part, text: str, proof: str, longest: int = LONGEST) -> Line:
    """A row as it is shown: on one line, and cut where it is long."""
    text = text.replace("\r", " ").replace("\n", "⏎")
    cut = max(len(text) - longest, 0)
    return Line(row, str(part), part.words if part else "", text[:longest], cut, proof)


def left_out_views(
    summaries: Sequence[SourceSummary], rows: Mapping[str, Sequence[tuple[str, Line]]]
) -> list[LeftOutView]:
    """The parts whose rows are not in the table: how many there are, and some of them.

    `rows`: by part some rows, each with its source.
    """
    made = []
    for part in PARTS:
        having = [count for one in summaries if (count := one.ledger.counts.get(part, 0))]
        if part.is_left_out and having:
            some = tuple(rows.get(str(part), ()))
            made.append(LeftOutView(str(part), part.words, sum(having), len(having), some))
    return made


def proof_of(part: str) -> str:
    """What proves that rows are a part; empty for data and where it differs between rows.

    Examples
    --------
    >>> proof_of("repeated-header"), proof_of("data")
    ('it has the same cells as the header', '')
    """
    return _PROOFS.get(part, "")


def cells_of(text: str, layout: Layout) -> list[str]:
    """The cells of a row."""
    if layout.delimiter == " ":
        return text.split()
    if not layout.quote:
        return text.split(layout.delimiter)
    try:
        return next(csv.reader([text], delimiter=layout.delimiter, quotechar=layout.quote), [])
    except csv.Error:  # a cell that is longer than the library takes
        return text.split(layout.delimiter)


def source_view(
    name: str,
    number: int,
    variant: int,
    ledger: str,
    ends: Ends,
    lines: LinesOf,
    evidence: Sequence[str] = (),
    longest: int = LONGEST,
) -> SourceView:
    """A source with its first and last rows."""
    shown = tuple(row if isinstance(row, int) else lines.line(row, longest) for row in ends.rows)
    return SourceView(name, number, variant, ledger, shown, tuple(evidence), ends.fault)


def size_of(view: SourceView) -> int:
    """About how many letters of a page a source takes."""
    return 200 + sum(60 if isinstance(one, int) else 160 + len(one.text) for one in view.lines)
