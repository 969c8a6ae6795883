"""Where in a table-like list of rows the header, the units, the data and the footer lie."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from integrum.values.cells import is_absent, is_value
from integrum.values.units import is_unit

_SUMMARY = re.compile(
    r"\s*(total|sum|mean|average|avg|median|min|max|minimum|maximum|count|std|end\b|eof|note|remark|comment|checked|"
    r"signed|signature|printed|generated|exported|source|legend|n\s*=|\*|—|--)",
    re.IGNORECASE,
)
_SUM = re.compile(r"(?:grand |sub)?(?:totals?|sums?|means?|averages?)\s*:?", re.IGNORECASE)
_CLOSE = 0.7
_SPARSE_ROWS = 3


class Row:
    """A row of a sample.

    Parameters
    ----------
    number
        Its number in the source, from 1; 0 where it is not known.
    cells
        Its cells.
    """

    __slots__ = ("cells", "filled", "first", "number", "values")

    def __init__(self, number: int, cells: Sequence[str]) -> None:
        self.number, self.cells = number, tuple(cells)
        plain = [cell.strip() for cell in cells]
        # how many cells have text, the first that has, and which look like values
        self.filled = len(plain) - plain.count("")
        self.first = next(filter(None, plain), "")
        self.values = [is_value(cell) for cell in plain]


@dataclass(frozen=True)
class Shape:
    """Where the parts lie.

    Attributes
    ----------
    header_row
        The first row of the header; 0 when there is none.
    header_rows
        How many rows it has.
    units_row
        Whether units stand below it.
    data_row
        The first row of data; 0 when there is none.
    footer
        The first row of the footer, or None.
    second_table
        The row of another header further down; 0 when there is none.
    confidence
        The share of the rows below the header that look like the data of one table, from 0 to 1.
    """

    header_row: int
    header_rows: int
    units_row: bool
    data_row: int
    footer: Row | None
    second_table: int
    confidence: float


class Reader:
    """Reads the shape of a sample.

    Parameters
    ----------
    head
        The first rows of the source, numbered; comments are left out.
    others
        Rows of the middle.
    tail
        The last rows, when they are not part of `head`.
    """

    def __init__(self, head: Sequence[Row], others: Sequence[Row], tail: Sequence[Row]) -> None:
        self.head, self.tail = list(head), list(tail) or list(head)
        every = [row for row in [*head, *others, *tail] if row.filled]
        # the further down a row stands, the more likely it is one of the table
        votes: Counter[int] = Counter()
        for place, row in enumerate(every):
            if len(row.cells) > 1:
                votes[len(row.cells)] += 1 + 3 * place // max(len(every), 1)
        # of rows with equal votes, the wider ones are more likely the table
        self.width = max(votes, key=lambda width: (votes[width] * width**0.5, width)) if votes else 1
        table = [row for row in every if len(row.cells) == self.width]
        lowest = [row for row in table if not _SUMMARY.match(row.first)][
            -max(3, int(0.4 * len(table))) :
        ] or table
        fills = sorted(row.filled for row in lowest)
        self.typical = fills[len(fills) // 2] if fills else 1
        solid = [row for row in lowest if row.filled >= 0.5 * self.typical]
        self.typed = [at for at in range(self.width) if _typed(solid, at)]
        self.core = max(
            (at + 1 for row in solid for at, cell in enumerate(row.cells) if cell.strip()), default=1
        )

    def shape(self) -> Shape:
        """Decide."""
        start = self._first_data()
        if start is None:
            return self._without_data()
        header, rows, units = self._above(start)
        below = [row for row in self.head[start:] if row.filled]
        good = sum(self.is_data(row) for row in below)
        header_row = self.head[header].number if header is not None else 0
        footer = self._footer(start)
        if footer is not None:
            good += sum(1 for row in below if row.number >= footer.number and not self.is_data(row))
        second = self._second_table(start, header, footer)
        return Shape(
            header_row,
            rows,
            units,
            self.head[start].number,
            footer,
            second,
            good / len(below) if below else 0.0,
        )

    def is_data(self, row: Row) -> bool:
        """Whether a row looks like the rows of the table."""
        cells = row.cells
        while len(cells) > self.width and not cells[-1].strip():
            cells = cells[:-1]
        if len(cells) != self.width or row.filled < min(0.4 * self.typical, self.typical - 1):
            return False
        if not row.filled:
            return False
        if not self.typed:
            return True
        good = sum(row.values[at] for at in self.typed)
        said = good + sum(not row.values[at] and not is_absent(cells[at]) for at in self.typed)
        return good >= _CLOSE * said if said else self.width > 1

    def _is_surely_data(self, row: Row) -> bool:
        """Whether a row looks like data, and has a value where the table has values."""
        return self.is_data(row) and any(row.values[at] for at in self.typed)

    def _first_data(self) -> int | None:
        if not self.typed:
            return self._first_text_data()
        for at, row in enumerate(self.head):
            alone = row.filled == 1 and self.width > 1 and not self._is_surely_data(row)
            if self.is_data(row) and not alone and not _is_entry(row):
                before = {each.cells for each in self.head[:at]}  # a repeated header says nothing
                following = [
                    each
                    for each in self.head[at + 1 : at + 10]
                    if each.filled and each.cells not in before and not _is_entry(each)
                ]
                sure = [self._is_surely_data(each) for each in following[:4]]
                if (not sure and self._is_surely_data(row)) or (
                    sure and sure[0] and sum(sure) >= 0.5 * len(sure)
                ):
                    return at
        return None

    def _first_text_data(self) -> int | None:
        """In a table of texts alone the first full row is the header, unless its cells come again below."""
        full = [
            at
            for at, row in enumerate(self.head)
            if len(row.cells) == self.width and row.filled >= 0.6 * self.typical
        ]
        if not full:
            return None
        first = self.head[full[0]]
        again = sum(
            any(self.head[at].cells[column] == cell for at in full[1:])
            for column, cell in enumerate(first.cells)
            if cell.strip()
        )
        if again >= 0.5 * max(first.filled, 1) and len(full) > 2:
            return full[0]
        at = full[1] if len(full) > 1 else None
        if at is not None and len(full) > 2 and _is_units(self.head[at], self.width):
            at = full[2]
        return at

    def _above(self, start: int) -> tuple[int | None, int, bool]:
        """The header above the first data: its index, how many rows it has, and whether units stand below it."""
        at = self._filled_above(start)
        for _ in range(_SPARSE_ROWS):
            if at is not None and self._is_sparse(self.head[at]):
                at = self._filled_above(at)
        if at is None:
            return None, 1, False
        units = False
        higher = self._filled_above(at)
        if higher is not None and _is_units(self.head[at], self.width):
            above = self.head[higher]
            units = self._is_header(above) and not self._is_pair(above)
            at = higher if units else at
        if not self._is_header(self.head[at]):
            return None, 1, False
        rows = 1
        while rows < 3 and at > 0 and self._is_group_row(self.head[at - 1]):
            at, rows = at - 1, rows + 1
        return at, rows, units

    def _filled_above(self, at: int) -> int | None:
        return next((each for each in range(at - 1, -1, -1) if self.head[each].filled), None)

    def _is_sparse(self, row: Row) -> bool:
        """Whether a row has nothing but some values where the table has values."""
        return len(row.cells) == self.width and sum(row.values[at] for at in self.typed) == row.filled > 0

    def _is_header(self, row: Row) -> bool:
        width = len(row.cells)
        while width and not row.cells[width - 1].strip():
            width -= 1
        if self.width == 1:
            return width == 1 and not is_value(row.first)
        if len(row.cells) > self.width + 1 or width < max(2, 0.5 * self.core) or row.filled < 0.5 * width:
            return False
        values = sum(row.values)
        return values <= 0.4 * row.filled or not self.typed

    def _is_pair(self, row: Row) -> bool:
        """Whether a row is a line of a preamble that was filled up with empty cells."""
        return row.filled <= 2 and self.width > 3 and not any(cell.strip() for cell in row.cells[2:])

    def _is_group_row(self, row: Row) -> bool:
        """Whether a row right above the header names groups of its columns."""
        if self.core < 3 or not self.core <= len(row.cells) <= self.width or row.filled < 2:
            return False
        if any(is_value(cell) for cell in row.cells) or any(
            cell.rstrip().endswith(":") for cell in row.cells
        ):
            return False
        return any(cell.strip() for cell in row.cells[2:])

    def _footer(self, start: int) -> Row | None:
        """The first of the rows at the end that are no data."""
        rows = self.tail if self.tail is not self.head else self.head[start + 1 :]
        apart = [row for before, row in pairwise(rows) if row.filled and not before.filled]
        found: Row | None = None
        for row in reversed([row for row in rows if row.filled]):
            if not self._ends(row, row in apart):
                break
            found = row
        return found if found and sum(map(self.is_data, rows)) else None

    def _ends(self, row: Row, apart: bool) -> bool:
        first = row.first
        if self.width == 1:
            return _SUMMARY.match(first) is not None
        blank_first = not row.cells[0].strip()
        if is_value(first):
            return False
        if 0 in self.typed and not blank_first and not is_absent(first):
            return True
        if not self.is_data(row) and not self._short_data(row):
            return True
        if _SUM.fullmatch(first):
            return True
        return _SUMMARY.match(first) is not None and (apart or row.filled < self.typical)

    def _short_data(self, row: Row) -> bool:
        """Whether a row is data that was cut off, or has a cell too many."""
        said = [row.cells[at] for at in self.typed if at < len(row.cells) and not is_absent(row.cells[at])]
        return bool(said) and len(row.cells) > 1 and all(map(is_value, said))

    def _second_table(self, start: int, header: int | None, footer: Row | None) -> int:
        own = self.head[header].cells if header is not None else ()
        for at in range((header or 0) - 2):
            row, following = self.head[at], self.head[at + 1 : at + 3]
            if (
                row.filled >= 2
                and not any(map(is_value, row.cells))
                and all(
                    len(each.cells) == len(row.cells)
                    and is_value(each.cells[0])
                    and any(map(is_value, each.cells[1:]))
                    for each in following
                )
            ):
                return row.number
        for at in range(start + 1, len(self.head) - 2):
            row = self.head[at]
            if footer is not None and row.number >= footer.number and not self.head[at + 1].filled:
                return 0
            before = self.head[at - 1]
            texts = row.filled >= 2 and not any(row.values)
            if not texts or row.cells == own or before.filled:
                continue
            following = [each for each in self.head[at + 1 : at + 4] if each.filled]
            if len(following) >= 2 and all(
                len(each.cells) == len(row.cells) and any(each.values) for each in following
            ):
                return row.number
        return 0

    def _without_data(self) -> Shape:
        """A header and nothing below it, as far as can be told."""
        full = [row for row in self.head if row.filled and len(row.cells) == self.width]
        header = next((row for row in full if self._is_header(row) and not self._is_pair(row)), None)
        number = header.number if header else (full[0].number if full else 1)
        return Shape(number, 1, False, 0, None, 0, 0.5)


def _is_entry(row: Row) -> bool:
    """Whether a row is surely a line of a preamble: a key and perhaps its value."""
    return row.filled <= 2 and row.first.endswith((":", "="))


def _typed(rows: Sequence[Row], at: int) -> bool:
    good = sum(row.values[at] for row in rows)
    return good > 0 and good >= 0.6 * (
        good + sum(not row.values[at] and not is_absent(row.cells[at]) for row in rows)
    )


def _is_units(row: Row, width: int) -> bool:
    cells = [cell for cell in row.cells if cell.strip()]
    if not cells or len(row.cells) > width + 1:
        return False
    return sum(map(is_unit, cells)) >= 0.6 * len(cells)
