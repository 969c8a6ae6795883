"""Which of the rows that a layout leaves out read like the data of their source. Runs on any worker."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from integrum.detecting.endings import is_summary
from integrum.reading.head import Format, Head
from integrum.reading.left_out import LeftOutRow
from integrum.reading.parsing import Rows
from integrum.reading.parts import BLANK, COMMENT, FOOTER, HEADER, PREAMBLE, REPEATED, UNITS, Part
from integrum.reading.splitting import split_cells
from integrum.values.cells import is_absent, is_series, kind_of
from integrum.values.units import is_unit

# a header without a digit has no values but words for truth
_DIGIT = re.compile(r"\d")
_HEADERS = frozenset({HEADER, REPEATED})
# so many rows of data show what the columns of a source hold
_ROWS = 60
# so many rows without data beside them wait until it is known what the data of their source is like
_MOST_OPEN = 5_000
_TYPED, _FITTING, _FILLED, _FULL = 0.8, 0.5, 0.5, 0.8
_WIDE = 3
# so many cells have to fit of a row that has more cells than the data
_SURE = 2


@dataclass(frozen=True)
class Likeness:
    """What the rows of data of a source are like."""

    width: int  # cells in a row
    filled: int  # how many of them have a value in most rows
    # by position: what most values of a column look like, where they are alike and not texts
    kinds: dict[int, str]

    @classmethod
    def of(cls, columns: Sequence[Sequence[str | None]]) -> Likeness:
        """That of some rows, column by column."""
        kinds: dict[int, str] = {}
        full = 0
        for at, cells in enumerate(columns):
            counts = Counter(kind for cell in cells if cell is not None and (kind := kind_of(cell)))
            full += sum(counts.values())
            if counts:
                kind, count = counts.most_common(1)[0]
                if kind != "text" and count >= _TYPED * counts.total():
                    kinds[at] = kind
        return cls(len(columns), round(full / max(len(columns[0]), 1)) if columns else 0, kinds)

    def fits(self, cells: Sequence[str], part: Part) -> bool:
        """Whether the cells of a row could be data.

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
            return len(good) == len(said) and not is_series([cells[at] for at in good]) and "" not in others
        return part != UNITS or sum(map(is_unit, filled)) < _TYPED * len(filled)

    def _fits_texts(self, filled: Sequence[str], part: Part) -> bool:
        """In a table of texts a full row is all that can be asked for; its header cannot be told."""
        if part in _HEADERS or len(filled) < _FULL * self.filled or self.width < 2:
            return False
        if part == UNITS:
            return not any(map(is_unit, filled))
        return part != PREAMBLE or self.width >= _WIDE


@dataclass(frozen=True)
class Judged:
    """What was found about the rows that are left out of some pieces."""

    like_data: Sequence[LeftOutRow] = ()  # those that read like the data
    # those of a source whose data stands in earlier pieces alone, with their cells
    open: Sequence[tuple[LeftOutRow, tuple[str, ...]]] = ()
    # what the data of the last source is like, for pieces of it that follow
    last: tuple[int, Likeness] | None = None


def header_above(head: Head) -> tuple[int, str] | None:
    """The line right above the data that reads like its header, where the layout says that there is none.

    Returns the number of the row, and its text.
    """
    above = [row for row in head.above or () if row[1] != BLANK]
    if head.header_row or not above or above[-1][1] != PREAMBLE:
        return None
    number, _, raw = above[-1]
    cells = [cell.strip() for cell in split_cells(raw, head.format.dialect)]
    words = all(kind_of(cell) == "text" for cell in cells)
    is_one = len(cells) >= max(len(head.header.names), 2) and words and len(set(cells)) == len(cells)
    return (number, raw) if is_one else None


def judge(rows: Rows, above: Iterable[LeftOutRow], form: Format, goes_on: int = -1) -> Judged:
    """The rows above, among and below some data that read like it.

    `goes_on`: the number of a source of which more follows, so that what its data is like is wanted; or -1.
    """
    by_source: dict[int, list[LeftOutRow]] = {}
    for one in (*above, *rows.left_out):
        if one.part.like_data and one.raw and (one.part not in _HEADERS or _DIGIT.search(one.raw)):
            by_source.setdefault(one.source, []).append(one)
    found: list[LeftOutRow] = []
    waiting: list[tuple[LeftOutRow, tuple[str, ...]]] = []
    known = {goes_on: _likeness(rows, goes_on)} if goes_on >= 0 else {}
    for source, entries in by_source.items():
        for one in entries:
            for cells in _readings(one, form):
                if len(cells) < len(rows.columns):
                    continue
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
    return Judged(found, waiting, (goes_on, likeness) if likeness else None)


def _readings(one: LeftOutRow, form: Format) -> Iterable[list[str]]:
    yield split_cells(one.raw, form.dialect)
    if one.part == COMMENT:
        yield split_cells(one.raw.lstrip('"').removeprefix(form.comment_mark).lstrip(), form.dialect)


def _likeness(rows: Rows, source: int) -> Likeness | None:
    """What the first rows of a source are like; None where it has none here."""
    start, end = np.searchsorted(rows.source, [source, source + 1])
    if start == end:
        return None
    length = min(int(end - start), _ROWS)
    return Likeness.of([column.slice(int(start), length).to_pylist() for column in rows.columns])
