"""Which of the rows that a layout leaves out read like the data of their source. Runs on any worker."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.columns.header import Header
from integrum.detecting.body import Body, mask_of
from integrum.detecting.detect import is_on_its_side
from integrum.detecting.dialect import Marks
from integrum.detecting.footers import tables_in
from integrum.detecting.headers import are_places, has_name, is_full_of_words
from integrum.detecting.sample import Row
from integrum.detecting.statistics import Above
from integrum.detecting.vocabulary import STATISTICS, TOTALS, is_summary, leading
from integrum.reading.head import Format, Head
from integrum.reading.parsing import Rows
from integrum.reading.parts import BLANK, COMMENT, FOOTER, HEADER, PREAMBLE, REPEATED, UNITS, LeftOutRow, Part
from integrum.reading.plain import split_cells
from integrum.values.arrays import each_once, ints, texts, truths
from integrum.values.cells import is_absent, is_series, is_value, kind_of
from integrum.values.digits import Letters
from integrum.values.units import is_unit

# a header without a digit has no values but words for truth
_DIGIT = re.compile(r"\d")
_HEADERS = frozenset({HEADER, REPEATED})
# this many rows of data show what the columns of a source hold
_ROWS, _SHOWN = 60, 20
# this many rows without data beside them wait until it is known what the data of their source is like
_MOST_OPEN = 5_000
_TYPED, _FITTING, _FILLED, _FULL = 0.8, 0.5, 0.5, 0.8
_WIDE = 3
# this many cells have to fit of a row that has more cells than the data
_SURE = 2
# a table of one column has no totals; and this many rows that may be some are looked at
_LEAST_COLUMNS, _MOST_TOTALS = 2, 200
# a table has a header and this many rows; two side by side have this many columns each
_LEAST_TABLE, _SIDE = 2, 2
# a table on its side has this many columns; and this many rows tell of most tables that they are none
_LEAST_TURNED, _FEW = 3, 3
# what numbers and times begin with, and words for totals do not
_NO_WORD = b"0123456789-+."
_SAID = texts(
    sorted(
        form + end
        for word in STATISTICS
        for form in {word, word.upper(), word.capitalize(), word.title()}
        for end in ("", ":")
    )
)


@dataclass(frozen=True)
class Likeness:
    """What the rows of data of a source look like: kinds of cells by column, widths, texts."""

    width: int  # cells in a row
    filled: int  # how many of them have a value in most rows
    # by position: what most values of a column look like, where they are alike and not texts
    kinds: dict[int, str]
    rows: Sequence[Row] = ()  # the first of them

    @classmethod
    def of(cls, columns: Sequence[Sequence[str | None]]) -> Likeness:
        """Make it from some rows."""
        kinds: dict[int, str] = {}
        full = 0
        for at, cells in enumerate(columns):
            counts = Counter(kind for cell in cells if cell is not None and (kind := kind_of(cell)))
            full += sum(counts.values())
            if counts:
                kind, count = counts.most_common(1)[0]
                if kind != "text" and count >= _TYPED * counts.total():
                    kinds[at] = kind
        some = zip(*([cell or "" for cell in column[:_SHOWN]] for column in columns), strict=True)
        filled = round(full / max(len(columns[0]), 1)) if columns else 0
        return cls(len(columns), filled, kinds, [Row(0, cells) for cells in some])

    def fits(self, cells: Sequence[str], part: Part) -> bool:
        """Whether the cells of a row look like data of this source.

        Examples
        --------
        >>> rows = Likeness.of([["Amber", "Vessel"], ["3.1", "4.0"], ["7", "8"]])
        >>> [rows.fits(cells, FOOTER) for cells in (["Hollow", "2.2", "9"], ["Total", "2.2", "9"], ["checked", "", ""])]
        [True, False, False]
        """
        cells = list(cells)
        while len(cells) > self.width and not cells[-1].strip():
            cells.pop()
        # among the data a row that is longer would be set aside, with a word; as a footer it is only gone
        is_longer = len(cells) > self.width
        cells = cells[: self.width]
        filled = [cell for cell in cells if not is_absent(cell)]
        if len(cells) != self.width or len(filled) < max(1, _FILLED * self.filled):
            return False
        if part == FOOTER and is_summary(filled[0]):
            return False
        if not self.kinds:
            return not is_longer and self._fits_texts(filled, part)
        said = {at: kind for at in self.kinds if (kind := kind_of(cells[at]))}
        good = [at for at, kind in said.items() if kind == self.kinds[at]]
        if len(good) < (_SURE if is_longer else 1) or len(good) < _FITTING * len(said):
            return False
        if part == PREAMBLE and len(good) <= _FITTING * len(said):
            return False  # a key and its value
        if part in _HEADERS:  # years and depths name columns; a header of values alone has no names
            others = [kind_of(cell) for at, cell in enumerate(cells) if at not in self.kinds]
            if len(good) < len(said) or "" in others or is_series([cells[at] for at in good]):
                return False
            numbers = [at for at in good if self.kinds[at] == "number"]
            return not are_places(numbers, cells, Body(self.rows, self.width))
        return part != UNITS or sum(map(is_unit, filled)) < _TYPED * len(filled)

    def _fits_texts(self, filled: Sequence[str], part: Part) -> bool:
        """Whether a row fits a table of texts: all that can be asked is that it is full."""
        if part in _HEADERS or len(filled) < _FULL * self.filled or self.width < 2:
            return False
        if part == UNITS:
            return not any(map(is_unit, filled))
        return part != PREAMBLE or self.width >= _WIDE


@dataclass(frozen=True)
class Judged:
    """The left-out rows that look like data, and the rows of data that look like totals."""

    like_data: Sequence[LeftOutRow] = ()  # those that read like the data
    # those of a footer that say that they are a statistic, where not all rows above are at hand; with their cells
    summing: Sequence[tuple[LeftOutRow, tuple[str, ...]]] = ()
    totals: Sequence[tuple[int, int, str]] = ()  # rows of data that are totals: source, row, first cell
    tables: Sequence[tuple[int, int, int]] = ()  # tables in a footer: source, first and last row
    # columns without a name or a value between columns that have both: source and position, and whether it stays empty here
    apart: Mapping[tuple[int, int], bool] = field(default_factory=dict)
    turned: Sequence[int] = ()  # sources whose table lies on its side
    # those of a source whose data stands in earlier pieces alone, with their cells
    open: Sequence[tuple[LeftOutRow, tuple[str, ...]]] = ()
    # what the data of the last source is like, for pieces of it that follow
    last: tuple[int, Likeness] | None = None


def header_above(head: Head) -> tuple[int, str] | None:
    """The row right above the data or the header that looks like a header.

    Returns the number of the row, and its text.
    """
    above = [row for row in head.above or () if row[1] != BLANK]
    if head.header_row:
        right_above = [row for row in above if row[0] == head.header_row - 1 and row[1] == PREAMBLE]
        for number, _, raw in right_above:
            if is_full_of_words(Row(number, split_cells(raw, head.format.dialect)), len(head.header.named)):
                return number, raw
        return None
    if not above or above[-1][1] != PREAMBLE:
        return None
    number, _, raw = above[-1]
    cells = [cell.strip() for cell in split_cells(raw, head.format.dialect)]
    words = all(kind_of(cell) == "text" for cell in cells)
    is_one = len(cells) >= max(len(head.header.names), 2) and words and len(set(cells)) == len(cells)
    return (number, raw) if is_one else None


def judge(rows: Rows, above: Iterable[LeftOutRow], header: Header, form: Format, goes_on: int = -1) -> Judged:
    """Judge the left-out rows and the totals in some pieces.

    `above`: rows above the data of sources that begin here. `goes_on`: the number of a source of which more follows, so that
    what its data is like is wanted; or -1.
    """
    above = tuple(above)
    numbers = _Numbers(rows, form, {one.source for one in above})
    by_source: dict[int, list[LeftOutRow]] = {}
    summing: list[tuple[LeftOutRow, tuple[str, ...]]] = []
    for one in (*above, *rows.left_out):
        if one.part.like_data and one.raw and (one.part not in _HEADERS or _DIGIT.search(one.raw)):
            by_source.setdefault(one.source, []).append(one)
    found: list[LeftOutRow] = []
    waiting: list[tuple[LeftOutRow, tuple[str, ...]]] = []
    # a row that is set aside may be summed up with the others
    short = {one.source for one in rows.aside if one.is_row}
    known = {goes_on: _likeness(rows, goes_on)} if goes_on >= 0 else {}
    for source, entries in by_source.items():
        for one in entries:
            for cells in _readings(one, form):
                if one.part == FOOTER and is_summary(_first(cells)):
                    if not numbers.begins(source):
                        summing.append((one, tuple(cells)))
                    elif source not in short and numbers.above(source).compared(cells) is False:
                        found.append(one)
                    continue
                if len(cells) < len(rows.columns):
                    continue
                if one.part in _HEADERS and all(kind_of(cell) in ("text", "") for cell in cells):
                    break  # names
                if source not in known:
                    known[source] = _likeness(rows, source)
                likeness = known[source]
                if likeness is None:
                    if len(waiting) < _MOST_OPEN:
                        waiting.append((one, tuple(cells)))
                elif likeness.fits(cells, one.part):
                    found.append(one)
                    break
    likeness = known.get(goes_on)
    last = (goes_on, likeness) if likeness else None
    tables = [
        (source, first.number, end.number)
        for source, some in by_source.items()
        for first, end in tables_in(
            [row for one in some if one.part == FOOTER for row in (as_row(one, form),)]
        )
    ]
    begun = {one.source for one in above}
    turned = [source for source in begun if _lies_on_its_side(rows, source, header)]
    totals = list(numbers.totals())
    return Judged(found, summing, totals, tables, _apart(rows, header), turned, waiting, last)


def as_row(one: LeftOutRow, form: Format) -> Row:
    """Split the raw text of a left-out row into cells."""
    return Row(one.row or 0, split_cells(one.raw, form.dialect))


def tables_above(head: Head) -> Iterator[tuple[Row, Row]]:
    """The header and the last row of each table in the preamble of a source."""
    above = [row for row in head.above or () if row[1] in (PREAMBLE, BLANK)]
    if len(above) > _LEAST_TABLE:
        yield from tables_in([Row(number, split_cells(raw, head.format.dialect)) for number, _, raw in above])


def _apart(rows: Rows, header: Header) -> dict[tuple[int, int], bool]:
    """The unnamed columns between named ones, and whether they are empty, by source."""
    found: dict[tuple[int, int], bool] = {}
    nameless = header.nameless
    named = [at not in nameless for at in range(len(rows.columns))]
    for at in nameless:
        sides = named[max(0, at - _SIDE) : at], named[at + 1 : at + 1 + _SIDE]
        if all(len(side) == _SIDE and all(side) for side in sides):
            with_value = each_once(rows.source[truths(rows.columns[at].is_valid())])
            for source in each_once(rows.source).tolist():
                found[source, at] = source not in with_value
    return found


def _lies_on_its_side(rows: Rows, source: int, header: Header) -> bool:
    """Whether the variables of a source stand in rows. For most tables a few cells show that they do not."""
    if len(rows.columns) < _LEAST_TURNED:
        return False
    start, end = np.searchsorted(rows.source, [source, source + 1])
    names = rows.columns[0].slice(int(start), min(int(end - start), _FEW)).to_pylist()
    second = rows.columns[1].slice(int(start), min(int(end - start), _FEW)).to_pylist()
    kinds = {kind_of(cell) for cell in second if cell}
    if len(names) < _LEAST_TABLE or not all(names):
        return False
    if len(kinds) < 2 and not all(map(has_name, names)):
        return False
    length = min(int(end - start), _ROWS)
    columns = [column.slice(int(start), length).to_pylist() for column in rows.columns]
    cells = [["" if cell is None else cell for cell in row] for row in zip(*columns, strict=True)]
    named = header.nameless
    return is_on_its_side(["" if at in named else name for at, name in enumerate(header.names)], cells)


def _first(cells: Sequence[str]) -> str:
    return next((cell.strip() for cell in cells if cell.strip()), "")


class _Numbers:
    """The numbers of some rows by source. They are parsed only when a row claims to be a statistic of them."""

    def __init__(self, rows: Rows, form: Format, begin: Collection[int]) -> None:
        self._rows, self._begin = rows, begin
        self._marks = Marks(form.decimal_mark, form.thousands_mark)
        self._above: dict[int, Above] = {}

    def begins(self, source: int) -> bool:
        """Whether the first row of a source is among these rows."""
        return source in self._begin

    def above(self, source: int) -> Above:
        """The numbers in all rows of a source that are here."""
        if source not in self._above:
            start, end = np.searchsorted(self._rows.source, [source, source + 1])
            self._above[source] = self._between(int(start), int(end))
        return self._above[source]

    def _between(self, start: int, end: int) -> Above:
        above = Above(self._marks)
        if end > start:
            above.add_texts([column.slice(start, end - start) for column in self._rows.columns])
        return above

    def totals(self) -> Iterator[tuple[int, int, str]]:
        """The rows that begin with a word for a total, or are the statistic that they say: source, row and first cell."""
        columns, source = self._rows.columns, self._rows.source
        if len(columns) < _LEAST_COLUMNS or not len(source):
            return
        maybe = np.flatnonzero(~Letters.of(columns[0]).begun_by(_NO_WORD))
        if not len(maybe):
            return
        first_cells = columns[0] if len(maybe) == len(source) else columns[0].take(ints(maybe))
        found = maybe[truths(pc.is_in(first_cells, value_set=_SAID))]
        start = 0
        # where a word is no statistic in some row, it is a name
        said: list[tuple[int, int, str]] = []
        names: set[tuple[int, str]] = set()
        for at in found[:_MOST_TOTALS].tolist():
            number, cell = int(source[at]), str(columns[0][at].as_py())
            first = int(np.searchsorted(source, number))
            if leading(cell).casefold() in TOTALS:
                said.append((number, int(self._rows.row[at]), cell.strip()))
            elif first < at and (first > 0 or self.begins(number)) and not _is_like(columns[0], at):
                cells = [column[at].as_py() or "" for column in columns]
                is_data = self._has_common_text(cells, first)
                if not is_data and self._between(max(first, start), at).proves(cells):
                    said.append((number, int(self._rows.row[at]), cell.strip()))
                else:
                    names.add((number, cell.strip()))
            start = at + 1
        yield from (one for one in said if (one[0], one[2]) not in names)

    def _has_common_text(self, cells: Sequence[str], first: int) -> bool:
        """Whether a row has a text behind its first cell that other rows of its source have there, too; no statistic has."""
        for column, cell in zip(self._rows.columns[1:], cells[1:], strict=True):
            if cell.strip() and not self._marks.number(cell) and not is_value(cell):
                end = int(np.searchsorted(self._rows.source, int(self._rows.source[first]), side="right"))
                if pc.sum(pc.equal(column.slice(first, end - first), cell)).as_py() > 1:
                    return True
        return False


def _is_like(column: pa.Array, at: int) -> bool:
    """Whether a short cell is a code like the cell above it."""
    cell, before = str(column[at].as_py()), str(column[at - 1].as_py() or "")
    return len(cell) <= _SIDE and mask_of(cell) == mask_of(before)


def _readings(one: LeftOutRow, form: Format) -> Iterable[list[str]]:
    yield split_cells(one.raw, form.dialect)
    if one.part == COMMENT:
        yield split_cells(one.raw.lstrip('"').removeprefix(form.comment_mark).lstrip(), form.dialect)


def _likeness(rows: Rows, source: int) -> Likeness | None:
    """The likeness of a source from its first rows; None where they are not here."""
    start, end = np.searchsorted(rows.source, [source, source + 1])
    if start == end:
        return None
    length = min(int(end - start), _ROWS)
    return Likeness.of([column.slice(int(start), length).to_pylist() for column in rows.columns])
