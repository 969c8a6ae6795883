"""A row of the table with the line that it came from, and what was done to each value."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import zip_longest
from typing import overload

from integrum.columns.binding import AS_IT_IS
from integrum.plan.layout import SPACES
from integrum.problems import notebook
from integrum.problems.problem import clipped, visible
from integrum.reading.records import Dialect

_WIDTH, _BEFORE = 100, 30
_WIDEST = 34


@dataclass(frozen=True)
class TracedValue:
    """A value of the table, and the cells that it came from."""

    column: str
    value: str | None  # what is in the table, as text; None where the cell is empty
    # the header cells and the cells of the source that it is filled from; none when it is from elsewhere
    headers: tuple[str, ...] = ()
    cells: tuple[str | None, ...] = ()
    positions: tuple[int, ...] = ()  # where these cells stand in their row, from 0
    places: tuple[str, ...] = ()  # of a workbook: the names of the cells, such as ``C7``
    said: str = ""
    asked: bool = False


@dataclass(frozen=True)
class Traced:
    """Where a row of the table came from; printing it shows it."""

    # the output, and the number of the row there, from 1
    output: str
    row: int
    # the file, relative to the common folder, and the sheet of a workbook; and where the file lies
    source: str
    sheet: str
    path: str
    source_row: int | None  # the row there, the header counted; None when it cannot be told
    # the lines of the header, and the line of the row, as they are written
    header: tuple[str, ...]
    raw: str | None
    values: tuple[TracedValue, ...]
    remarks: tuple[str, ...]  # what is not as it was at the time of the run
    dialect: Dialect  # how the cells of a line are told apart
    # the line of the file that the row begins in: not the row where cells above have line breaks. 0 when it
    # is not known.
    line: int = 0

    def __str__(self) -> str:
        where = self.source + (f", sheet {self.sheet}" if self.sheet else "")
        row = f", row {self.source_row:,}" if self.source_row is not None else ""
        row += f" (line {self.line:,})" if self.line and self.line != self.source_row else ""
        lines = [f"row {self.row:,} of {self.output} is from {where}{row}"]
        lines += [f"  note: {one}" for one in self.remarks]
        if self.raw is not None:
            lines += ["", *self._lines()]
        lines += ["", *self._values()]
        return visible("\n".join(lines))

    def html(self) -> str:
        """The same for a notebook."""
        first, *rest = str(self).partition("\n\n")[0].splitlines()
        rows = [
            (
                one.column,
                "(empty)" if one.value is None else one.value,
                " + ".join("(empty)" if cell is None else cell for cell in one.cells),
                one.said,
            )
            for one in self.values
        ]
        lines = notebook.plain("\n".join(self._lines())) if self.raw is not None else ""
        table = notebook.table(["column", "in the table", "in the source", "what was done"], rows, most=200)
        return "".join([notebook.title(first), *map(notebook.line, rest), lines, table])

    def _lines(self) -> list[str]:
        """The header and the line, with marks under the cells that were asked about, or changed."""
        marked = {at for one in self._marked() for at in one.positions}
        raw = self.raw or ""
        spans = cell_spans(raw, self.dialect)
        starts = [start for at, (start, _) in enumerate(spans) if at in marked]
        first = max(0, min(starts, default=0) - _BEFORE) if len(raw) > _WIDTH else 0
        number = f"{self.source_row:,}"
        lines = [
            f"  {'header':>{max(6, len(number))}} | {_marked_line(one, (), set(), first)[0]}"
            for one in self.header
        ]
        margin = max(6, len(number))
        shown, marks = _marked_line(raw, spans, marked, first)
        if self.dialect.delimiter == SPACES:
            shown = shown.replace("→", " ")
        lines.append(f"  {number:>{margin}} | {shown}")
        if marks.strip():
            lines.append(f"  {'':>{margin}}   {marks}")
        return lines

    def _marked(self) -> list[TracedValue]:
        asked = [one for one in self.values if one.asked]
        return asked or [
            one for one in self.values if one.positions and one.said not in (AS_IT_IS, "empty there")
        ]

    def _values(self) -> list[str]:
        """A line for each value."""
        rows = [("column", "in the table", "in the source", "what was done")]
        for one in self.values:
            many = len(one.headers) > 1 or one.headers[:1] not in ((), (one.column,))
            names = [f"{clipped(name, 24)}: " for name in one.headers] if many else []
            cells = " + ".join(
                f"{place}{name}{'(empty)' if cell is None else clipped(cell, _WIDEST)}"
                for cell, place, name in zip_longest(
                    one.cells, (f"{each} " for each in one.places), names[: len(one.cells)], fillvalue=""
                )
            )
            value = "(empty)" if one.value is None else clipped(one.value, _WIDEST)
            rows.append((clipped(one.column, 24), value, cells, one.said))
        widths = [max(len(row[at]) for row in rows) for at in range(3)]
        return [
            "  " + "  ".join([*(row[at].ljust(widths[at]) for at in range(3)), row[3]]).rstrip()
            for row in rows
        ]


@dataclass(frozen=True)
class Trace:
    """Rows of a table, each with the line that it came from; printing it shows them. It is a list of its rows.

    Attributes
    ----------
    rows
        The traced rows, each with its line and its values.
    count
        How many rows were asked for, or fit the condition; more than those that are shown, perhaps.
    remarks
        What is to be said of the output as a whole.
    """

    rows: tuple[Traced, ...]
    count: int
    remarks: tuple[str, ...] = ()

    def _repr_html_(self) -> str:
        parts = [notebook.line(f"note: {one}") for one in self.remarks]
        parts += [one.html() for one in self.rows] or [notebook.line("no row fits")]
        if self.rows and self.count > len(self.rows):
            parts.append(notebook.line(f"and {self.count - len(self.rows):,} more rows that fit", "dim"))
        return notebook.view(*parts)

    def __len__(self) -> int:
        return len(self.rows)

    def __iter__(self) -> Iterator[Traced]:
        return iter(self.rows)

    @overload
    def __getitem__(self, place: int) -> Traced: ...
    @overload
    def __getitem__(self, place: slice) -> tuple[Traced, ...]: ...
    def __getitem__(self, place: int | slice) -> Traced | tuple[Traced, ...]:
        """One of its rows, or some of them."""
        return self.rows[place]

    def __str__(self) -> str:
        parts = [f"note: {one}" for one in self.remarks]
        parts += map(str, self.rows)
        if not self.rows:
            parts.append("no row fits")
        if self.count > len(self.rows) and self.rows:
            parts.append(f"and {self.count - len(self.rows):,} more rows that fit")
        return "\n\n".join(parts)


def cell_spans(raw: str, dialect: Dialect) -> list[tuple[int, int]]:
    """Where each cell of a line begins and ends, its quotes with it.

    Examples
    --------
    >>> cell_spans('a,"b, c",d', Dialect())
    [(0, 1), (2, 8), (9, 10)]
    >>> cell_spans("a   b", Dialect(delimiter=" "))
    [(0, 1), (4, 5)]
    """
    runs = dialect.delimiter == SPACES
    between = (SPACES, "\t") if runs else (dialect.delimiter,)
    spans: list[tuple[int, int]] = []
    start, at, is_quoted = 0, 0, False
    while at < len(raw):
        letter = raw[at]
        if is_quoted:
            pair = raw[at : at + 2]
            doubled = pair == 2 * dialect.quote or (dialect.escape and letter == dialect.escape)
            is_quoted = bool(doubled) or letter != dialect.quote
            at += 2 if doubled else 1
        elif letter in between:
            if not runs or at > start:
                spans.append((start, at))
            at += 1
            start = at
        else:
            is_quoted = at == start and bool(dialect.quote) and letter == dialect.quote
            at += 1
    if not runs or start < len(raw):
        spans.append((start, len(raw)))
    return spans


def _marked_line(raw: str, spans: Sequence[tuple[int, int]], marked: set[int], first: int) -> tuple[str, str]:
    """A part of a line as it is shown, and the marks below it."""
    end = first + _WIDTH
    shown, marks = ("…" if first else ""), (" " if first else "")
    at = first
    while at < min(end, len(raw)):
        letter = visible(raw[at]).replace("\n", "␊").replace("\t", "→")
        inside = any(number in marked and start <= at < stop for number, (start, stop) in enumerate(spans))
        empty = any(number in marked and start == stop == at for number, (start, stop) in enumerate(spans))
        shown += letter
        marks += ("^" if inside or empty else " ") * len(letter)
        at += 1
    if at == len(raw) and any(
        number in marked and start == stop == at for number, (start, stop) in enumerate(spans)
    ):
        marks += "^"
    return shown + ("…" if at < len(raw) else ""), marks.rstrip()
