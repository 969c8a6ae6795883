"""The lines of a source as a page shows them: each with its part, and how that is known of those that are left out."""

from __future__ import annotations

import csv
from collections.abc import Mapping, Sequence

from integrum.detecting.endings import is_summary, leading
from integrum.detecting.marks import Marks
from integrum.detecting.statistics import Above, above_in_source
from integrum.engine.ledger import SourceSummary
from integrum.plan.layout import Layout
from integrum.previewing.ends import Ends, is_read_whole
from integrum.previewing.views import LeftOutView, Line, SourceView
from integrum.problems import SourceFault
from integrum.reading.parts import (
    BLANK,
    COMMENT,
    DESCRIPTION,
    FOOTER,
    HEADER,
    PARTS,
    PREAMBLE,
    REPEATED,
    SET_ASIDE,
    UNITS,
    Part,
)
from integrum.sources.source import Source
from integrum.surveying.look import SeenRow

# so many letters of a line are shown; of a short page fewer
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
    """How it is known of rows that they are a part, where that is the same for all of them; empty for data.

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
