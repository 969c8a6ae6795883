"""The start of a source as a plan's layout sees it: preamble, header, units, and where the data begins."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from typing import NamedTuple

from integrum.columns.header import Header, tidy_names
from integrum.plan.fields import loosened
from integrum.plan.layout import Layout
from integrum.problems.problem import SourceFault, clipped, counted, unreadable
from integrum.reading.header_rows import header_of, row_of_units
from integrum.reading.parts import BLANK, COMMENT, DESCRIPTION, HEADER, PREAMBLE, UNITS, Part, raw_text
from integrum.reading.plain import split_cells
from integrum.reading.records import Dialect, find_records, spans
from integrum.reading.stream import TextStream, not_valid
from integrum.sources.own import refuse_foreign
from integrum.sources.source import Source
from integrum.values.units import in_name
from integrum.workbooks.places import letters

_PAIR = re.compile(r"\s*([^:=]{1,60}?)\s*(?:[:=])\s*(.*)", re.DOTALL)
LONGEST_RECORD = 64 << 20
_FIRST_LOOK, _LATER_LOOK = 16 << 10, 1 << 20
_SEARCHED_ROWS = 2_000
_MOST_ENTRIES = 10_000
_SHORT = 16 << 10
# a column of a sheet without a name is one if it has values in this many of its rows
_IN_SHEET = 0.5
NO_LINE_END = "no-line-end"


class PreambleEntry(NamedTuple):
    """One entry of the lines above a header."""

    source: str  # the name of its source; empty where it stands with the head of that source
    row: int
    # what stands there; the key is empty where a line has none
    key: str
    value: str


def entries(row: int, cells: Sequence[str]) -> list[PreambleEntry]:
    """Read the entries of one row: ``key: value``, ``key = value``, or a key with its value in the next cell.

    Examples
    --------
    >>> [tuple(one) for one in entries(3, ["Serial No:", "00417", ""]) + entries(4, ["Site = Ambermere"])]
    [('', 3, 'Serial No', '00417'), ('', 4, 'Site', 'Ambermere')]
    """
    filled = [cell.strip() for cell in cells if cell.strip()]
    if not filled:
        return []
    pair = _PAIR.fullmatch(filled[0])
    if pair and (pair[2] or len(filled) == 1):
        rest = " ".join([pair[2], *filled[1:]]) if pair[2] else ""
        return [PreambleEntry("", row, pair[1], rest)]
    if len(filled) == 1:
        return [PreambleEntry("", row, "", filled[0])]
    return [PreambleEntry("", row, filled[0].rstrip(":= "), " ".join(filled[1:]))]


@dataclass(frozen=True)
class Format:
    """How a source is written, as far as the rows below its header need it."""

    dialect: Dialect = field(default_factory=Dialect)  # how cells are separated and quoted
    # how numbers are written
    decimal_mark: str = "."
    thousands_mark: str = ""
    pads: bool = False  # whether rows with too few cells are filled up
    is_sheet: bool = False
    comment_mark: str = ""

    @property
    def comments(self) -> tuple[str, ...]:
        """What rows of comment begin with; a cell of a sheet has quotes in its text when it needs them."""
        mark = self.comment_mark
        return (mark, self.dialect.quote + mark) if mark and self.is_sheet else (mark,) if mark else ()


def format_of(source: Source, layout: Layout) -> Format:
    """How a source of a layout is written."""
    is_sheet, mark = source.sheet is not None, layout.comment_mark
    dialect = Dialect(layout.delimiter, layout.quote, layout.escape, "" if is_sheet else mark)
    pads = layout.short_rows == "pad"
    return Format(dialect, layout.decimal_mark, layout.thousands_mark, pads, is_sheet, mark)


@dataclass(frozen=True)
class Head:
    """The start of one source: preamble, header, units, and where the data begins."""

    # what it shares with the others of its variant
    header: Header
    format: Format
    header_row: int  # the row of the header, from 1; 0 when it has none
    first_row: int  # the row of the first data
    data_at: int  # offset of the first data in the text of the source, in bytes of UTF-8
    preamble: tuple[PreambleEntry, ...] = ()  # what stands above the header
    encoding: str = ""  # what a byte order mark says, where the layout says something else
    first_cells: tuple[str, ...] = ()  # where there is no header: the cells of the first row of data
    # the rows above the data, by part of the ledger
    parts: dict[Part, int] = field(default_factory=dict, hash=False, compare=False)
    # the same rows with their texts: number, part and text of each; None where they are long, and are read
    # again with `read_above` when they are wanted
    above: tuple[tuple[int, Part, str], ...] | None = field(default=(), hash=False, compare=False)


def read_head(source: Source, layout: Layout) -> Head:
    """Read the head of a source, as its layout says.

    Raises SourceFault when the file cannot be read, is empty, is not text in its encoding, or its header is not where
    the layout says; the message says what was found there.
    """
    return _opened(source, layout, _RowsAbove())


def read_above(source: Source, layout: Layout, take: Callable[[int, Part, str], object]) -> None:
    """Read the rows above the data: number, part and text of each.

    Raises SourceFault: as `read_head`.
    """
    _opened(source, layout, take)


def _opened(source: Source, layout: Layout, take: Callable[[int, Part, str], object]) -> Head:
    try:
        with TextStream(source, layout) as stream:
            if source.sheet is None:
                refuse_foreign(stream.start)
            return _Opening(stream, source, layout, take).head()
    except OSError as error:
        raise unreadable(error) from error


class _RowsAbove:
    """Keeps the rows above the data while they are short."""

    def __init__(self) -> None:
        self.rows: tuple[tuple[int, Part, str], ...] | None = ()
        self._room = _SHORT

    def __call__(self, row: int, part: Part, text: str) -> None:
        self._room -= len(text) + 32
        if self.rows is not None:
            self.rows = (*self.rows, (row, part, text)) if self._room > 0 else None


class _Opening:
    """The first records of a source, read only as far as needed. Those that were passed are dropped."""

    def __init__(
        self, stream: TextStream, source: Source, layout: Layout, take: Callable[[int, Part, str], object]
    ) -> None:
        self._stream, self._layout, self._source, self._take = stream, layout, source, take
        self._format = format_of(source, layout)
        self._dialect = self._format.dialect
        self._marks = tuple(mark.encode() for mark in self._format.comments)
        self._first_column = source.sheet.first_column if source.sheet else 0
        # the text from `_offset` on, in which the record `_number` is the first
        self._data, self._last, self._offset, self._number = b"", False, 0, 0
        self._bounds: list[tuple[int, int]] = []
        self._preamble: list[PreambleEntry] = []
        self._parts = Counter[Part]()
        self._more(_FIRST_LOOK)

    def head(self) -> Head:
        layout = self._layout
        if self._last and not self._data.strip():
            what = "sheet" if self._source.sheet else "file"
            raise SourceFault(
                "empty-source", f"the {what} is empty", "get a complete copy from where it came from"
            )
        if not layout.has_header:
            return self._without_header()
        at = self._header_at()
        below = at + layout.header_rows
        rows = [self.cells(number) for number in range(at, below)]
        if rows[0] and layout.comment_mark:
            rows[0][0] = rows[0][0].removeprefix(layout.comment_mark).lstrip()
        described = [tuple(self.cells(number)) for number in range(below, below + layout.rows_below)]
        units_at = below + row_of_units(described) if layout.units_row else -1
        below += layout.rows_below
        if not self._reach(below - 1):
            raise SourceFault(
                "header-not-found",
                f"ends in row {self._end:,}, before all {below - at} rows of its header",
                "integrum survey FILE shows the layout of one file",
            )
        if not any(cell.strip() for row in rows for cell in row):
            raise self._not_there(at, "does not have any text")
        self._parts.update(
            {
                HEADER: layout.header_rows,
                UNITS: int(layout.units_row),
                DESCRIPTION: layout.describing_rows,
            }
        )
        for number in range(at, below):
            is_header = number < at + layout.header_rows
            part = HEADER if is_header else UNITS if number == units_at else DESCRIPTION
            self._take(number + 1, part, raw_text(self.record(number)))
        self._forget(below)
        start = self._pass(max(below, (layout.first_row or 0) - 1))
        header = header_of(
            tuple(self._across(at + number, row) for number, row in enumerate(rows)),
            tuple(described),
            units_at - below + layout.rows_below if layout.units_row else -1,
            layout.header_from_column - 1,
            self._first_column,
            any(map(self._merged_in, range(at, below))),
        )
        header = replace(header, used=self._with_values(header.spare, start))
        void = self._void(header.names, start).difference(header.spare)
        if void:
            header = replace(header, spare=tuple(sorted((*header.spare, *void))))
        return self._made(header, at + 1)

    def _without_header(self) -> Head:
        start = self._pass((self._layout.first_row or 1) - 1)
        while self._is_comment(self.record(start)):
            start = self._pass(start + 1)
        cells, at = self.cells(start), start
        while not any(cell.strip() for cell in cells) and at < start + _SEARCHED_ROWS and self._reach(at + 1):
            at += 1
            cells = self.cells(at, self._layout.comment_mark)
        given = [*self._layout.header]
        width = max(len(cells), len(given), 1)
        names = tidy_names(tuple(given + [""] * (width - len(given))), self._first_column)
        return replace(self._made(Header(names), 0), first_cells=tuple(cells))

    def _made(self, header: Header, header_row: int) -> Head:
        row = self._number + 1
        return Head(
            header,
            self._format,
            header_row,
            row,
            self._offset,
            tuple(self._preamble),
            self._stream.by_mark,
            parts=dict(self._parts),
            above=self._take.rows if isinstance(self._take, _RowsAbove) else (),
        )

    def _with_values(self, spare: Sequence[int], start: int) -> tuple[int, ...]:
        """The columns at the end without a name that have values: in a file any, in a sheet in most rows.

        A sheet may have remarks beside its table; a delimiter is there for a column.
        """
        if not spare:
            return ()
        self._reach_further()
        values, rows = Counter[int](), 0
        for number in range(start, min(self._end, start + _SEARCHED_ROWS)):
            if self._is_comment(self.record(number)):
                continue
            cells = [cell.strip() for cell in self.cells(number)]
            rows += any(cells)
            values.update(at for at in spare if at < len(cells) and cells[at])
        least = max(1.0, _IN_SHEET * rows) if self._format.is_sheet else 1.0
        used = [at for at in spare if values[at] >= least]
        last = max(used, default=-1)
        if self._format.is_sheet:  # a column of the table stands right beside it
            last = next((at for at in spare if at not in used), spare[-1] + 1) - 1
        return tuple(at for at in spare if at <= last)

    def _reach_further(self) -> None:
        """Read more rows, if there are any."""
        if not self._last and len(self._data) < _LATER_LOOK:
            self._more(_LATER_LOOK)

    def _void(self, names: Sequence[str], start: int) -> set[int]:
        """Positions of the columns of a sheet that have no name and no cell from some row on."""
        reach = self._source.read.last_rows
        void = {at for at, last in enumerate(reach[: len(names)]) if last <= start}
        return {at for at in void if names[at] == f"column {letters(self._first_column + at)}"}

    def _merged_in(self, number: int) -> list[tuple[int, int]]:
        """Positions, first and last, of the cells that are merged across in a row, counted from 0."""
        return [(first, last) for row, first, last in self._source.read.merged if row == number + 1]

    def _across(self, number: int, cells: list[str]) -> tuple[str, ...]:
        """The cells of a row, a merged one in each of its places."""
        for first, last in self._merged_in(number):
            for at in range(max(first, 0), min(last + 1, len(cells))):
                cells[at] = cells[at] or cells[max(first, 0)]
        return tuple(cells)

    def _pass(self, number: int) -> int:
        """Count what stands above a record and drop it. Returns the number of the record, or of the end."""
        while self._number < number and self._reach(self._number):
            upto = min(number, self._end)
            for each in range(self._number, upto):
                self._count(each)
            self._forget(upto)
        return self._number

    def _count(self, number: int) -> None:
        """Count a record that stands above the header, or between it and the data."""
        is_comment = self._is_comment(self.record(number))
        cells = self.cells(number, self._layout.comment_mark if is_comment else "")
        is_blank = not is_comment and not any(cell.strip() for cell in cells)
        part = COMMENT if is_comment else BLANK if is_blank else PREAMBLE
        self._parts[part] += 1
        self._take(number + 1, part, raw_text(self.record(number)))
        if not is_blank and len(self._preamble) < _MOST_ENTRIES:
            self._preamble += entries(number + 1, cells)

    def _forget(self, number: int) -> None:
        """Drop the records before this one."""
        passed = number - self._number
        if passed:
            size = self._bounds[passed - 1][1]
            self._data, self._offset, self._number = self._data[size:], self._offset + size, number
            self._bounds = [(start - size, end - size) for start, end in self._bounds[passed:]]

    def _is_comment(self, raw: bytes) -> bool:
        return bool(self._marks) and raw.startswith(self._marks)

    def _header_at(self) -> int:
        """The number of the header's first record, from 0."""
        layout = self._layout
        if not layout.header_has:
            at = self._pass(int(layout.header_row) - 1)
            if at + 1 < int(layout.header_row) or not self._reach(at):
                raise SourceFault(
                    "header-not-found",
                    f"row {layout.header_row:,} should be the header, but the source has only {counted(at, 'row')}",
                    "integrum survey FILE shows the layout of one file",
                )
            return at
        wanted = {loosened(name) or name for name in layout.header_has}
        at = 0
        while at < _SEARCHED_ROWS and self._reach(at):
            cells = self.cells(at, layout.comment_mark)
            if wanted <= {loosened(cell) or cell for cell in cells} | {
                loosened(in_name(cell)[0]) for cell in cells
            }:
                return self._pass(at)
            at += 1
        raise SourceFault(
            "header-not-found",
            f"the header ({', '.join(layout.header_has)}) is not in the first {counted(at, 'row')}",
            f"its first row is: {self.shown(0)}; integrum survey FILE shows its layout",
        )

    def _not_there(self, at: int, what: str) -> SourceFault:
        return SourceFault(
            "no-header",
            f"row {at + 1:,} should be the header, but it {what}",
            f"the row is: {self.shown(at)}",
            at + 1,
        )

    @property
    def _end(self) -> int:
        """The number behind the last record that is known."""
        return self._number + len(self._bounds)

    def _reach(self, number: int) -> bool:
        """Read on until a record is there."""
        while number >= self._end and not self._last:
            known = self._bounds[-1][1] if self._bounds else 0
            if len(self._data) - known > LONGEST_RECORD:
                break
            self._more(max(len(self._data), _LATER_LOOK))
        if not self._bounds and number == self._number and self._data:
            found = find_records(self._data, self._dialect, self._last)
            raise (no_line_end if found.open_record is None else quote_not_closed)(number + 1)
        return number < self._end

    def _more(self, size: int) -> None:
        data = self._stream.read(size)
        self._last = len(data) < size
        self._data += data
        self._bounds = spans(self._data, self._dialect, self._last)

    def record(self, number: int) -> bytes:
        """The bytes of a record, or none when the source ends before it."""
        if not self._reach(number):
            return b""
        start, end = self._bounds[number - self._number]
        return self._data[start:end]

    def cells(self, number: int, without: str = "") -> list[str]:
        """The cells of a record, perhaps without the sign of a comment before them."""
        raw = self.record(number)
        try:
            text = raw.decode("utf-8")
        except UnicodeDecodeError as error:
            start = self._offset + self._bounds[number - self._number][0] + self._stream.skipped
            raise not_valid(start + error.start, raw[error.start], "utf-8", number + 1) from None
        cells = split_cells(text.removeprefix(without), self._dialect)
        if without and cells:
            cells[0] = cells[0].removeprefix(without).lstrip()
        return cells

    def shown(self, number: int) -> str:
        """A record for a message."""
        return f'"{clipped(self.record(number).decode("utf-8", "replace").rstrip(), 80)}"'


def no_line_end(row: int) -> SourceFault:
    """The fault of a row that does not end."""
    return SourceFault(
        NO_LINE_END, f"row {row:,} is longer than {LONGEST_RECORD >> 20} MB", "is it a text file?", row
    )


def quote_not_closed(row: int) -> SourceFault:
    """The fault of a quote that is still open where the source ends."""
    return SourceFault(
        "quote-not-closed",
        f"the quote that opens in row {row:,} is never closed",
        'if it opens a cell, close it, perhaps in an earlier row; if it is a sign for inches, set quote = "" in the layout',
        row,
    )
