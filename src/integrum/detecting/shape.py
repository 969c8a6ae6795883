"""Where in some rows the parts of a table lie: the guess that costs least if it is wrong."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from math import exp

from integrum.detecting import body as costs
from integrum.detecting.body import Body
from integrum.detecting.dialect import Marks, marks_of
from integrum.detecting.footers import are_names, footer_of
from integrum.detecting.headers import (
    Described,
    are_processing,
    described_below,
    header_score,
    is_full_of_words,
    is_group_row,
    is_name,
)
from integrum.detecting.sample import Row
from integrum.detecting.statistics import Above, above_in
from integrum.detecting.vocabulary import is_note, is_summary
from integrum.values.cells import is_value

# this many rows of a head are looked at one by one, and this many of the rest
_HEAD, _REST = 100, 80
_WIDTHS, _HEADERS = 4, 40
_MOST_HEADER_ROWS, _MOST_ENDS = 3, 12
# in this many rows the marks of numbers are looked for
_MARKED = 200
# this many rows below a header may describe its columns; and words for processing below other words are no names
_MOST_BELOW, _NO_NAMES = 4, 5.0
# a header so far down that more rows like this are lost is not looked for
_HOPELESS, _MANY_DROPPED = 12.0, 2
# with fewer rows of data than this, neighbours are asked
_LEAST_ROWS, _HARDLY_ANY = 2, 0.89
FEW = "there is hardly a row of data"
_UNPROVED = 0.7
_SHIFTED = "the header has one cell less than the rows, so its names may stand one column to the left"


@dataclass(frozen=True)
class Shape:
    """Where the parts lie."""

    header_row: int  # the first row of the header; 0 when there is none
    header_rows: int
    units_row: bool  # whether units stand below it
    describing_rows: int  # other rows below it that describe the columns
    data_row: int  # the first row of data; 0 when there is none
    footer: Row | None  # the first row of the footer, or None
    second_table: int  # the row of another header further down; 0 when there is none
    confidence: float  # how sure the guess is, from 0 to 1
    # the column over which the header begins; 2 where the first column has no cell in the header
    header_from: int = 1
    width: int = 1  # the columns of the table
    doubt: str = ""  # what else it could be, in words; empty when nothing else comes near


@dataclass(frozen=True)
class _Guess:
    """A way to read some rows, with its cost if it is wrong."""

    cost: float
    header: int | None
    header_rows: int
    below: Described  # the rows below it that describe the columns
    start: int | None
    width: int
    header_from: int = 1

    @property
    def place(self) -> tuple[object, ...]:
        """What matters to the table that comes of it."""
        return (self.header, self.below.rows, self.below.units, self.start, self.header_from)


class Reader:
    """Reads the shape of a sample.

    Parameters
    ----------
    head
        The first rows of the source, numbered; comments are left out.
    tail
        The last rows, when they are not part of `head`.
    above
        Gives the numbers between the first row of data and a row of the tail; without it no row of a tail is a statistic.
    """

    def __init__(
        self,
        head: Sequence[Row],
        others: Sequence[Row],
        tail: Sequence[Row],
        delimiter: str = ",",
        above: Callable[[int, Row, Marks], Above] | None = None,
    ) -> None:
        self._every, self._tail = list(head), list(tail) or list(head)
        self._delimiter, self._above = delimiter, above
        self._head = self._every[:_HEAD]
        rest = [*self._every[_HEAD:], *others, *tail]
        self._rest = rest[:: max(1, len(rest) // _REST)]
        # notes and totals at the end say nothing about the columns
        last = self._rest or self._head
        least = max(1, len(last) - _MOST_ENDS, len(last) // 3)
        while len(last) > least and _is_an_end(last[-1]):
            last = last[:-1]
        self._told = self._head if self._rest else last
        self._rest = last if self._rest else []
        self._bodies: dict[tuple[int, int], Body] = {}

    def shape(self) -> Shape:
        """Decide on the shape of least cost."""
        guesses = sorted(self._guesses(), key=lambda one: one.cost)
        if not guesses:
            return Shape(1, 1, False, 0, 0, None, 0, 0.5)
        best = guesses[0]
        other = next((one for one in guesses[1:] if one.place != best.place), None)
        margin = other.cost - best.cost if other else 10.0
        start = best.start
        body = self._body(start if start is not None else len(self._head), best.width)
        footer = self._footer(best, body)
        header_row = self._head[best.header].number if best.header is not None else 0
        confidence = confidence_of(margin)
        if len(body.rows) < _LEAST_ROWS and best.header is not None:
            confidence = min(confidence, _HARDLY_ANY)
        doubt = (
            self._in_words(other, best)
            if other and confidence_of(margin) < 1
            else FEW
            if confidence < 1
            else ""
        )
        if best.header_from > 1 and not _are_row_numbers(body):
            confidence, doubt = min(confidence, _UNPROVED), _SHIFTED
        second = self._second_table(best, footer) if start is not None else 0
        return Shape(
            header_row,
            best.header_rows,
            best.below.units,
            best.below.describing,
            self._head[start].number if start is not None else 0,
            footer,
            second,
            confidence,
            best.header_from,
            best.width,
            doubt,
        )

    def _in_words(self, other: _Guess, best: _Guess) -> str:
        if other.header == best.header is not None and other.below.rows != best.below.rows:
            more = other.below.rows > best.below.rows
            at = best.header + best.header_rows + (best.below.rows if more else other.below.rows)
            what = "data" if not more else "units" if not other.below.describing else "no data"
            return f"row {self._head[at].number:,} may be {what}"
        if other.header is None:
            return "it may have no header"
        units = " with units below" if other.below.units else ""
        return f"the header may be row {self._head[other.header].number:,}{units}"

    def _body(self, start: int, width: int) -> Body:
        if (start, width) not in self._bodies:
            self._bodies[start, width] = Body([*self._told[start:], *self._rest], width)
        return self._bodies[start, width]

    def _widths(self) -> list[int]:
        """The likeliest widths of the table; what stands further down counts more."""
        every = [row for row in (*self._head, *self._rest) if row.filled]
        votes: Counter[int] = Counter()
        for place, row in enumerate(every):
            votes[len(row.cells)] += 1 + 3 * place // max(len(every), 1)
        cores = Counter(row.reach for row in every)
        full = sorted(votes, key=lambda width: (-votes[width] * width**0.5, -width))[:_WIDTHS]
        # cells behind the last delimiter of all rows are not a column
        for width in list(full):
            rows = [row for row in every if len(row.cells) == width]
            reach = max((row.reach for row in rows), default=width)
            if 0 < reach < width and cores[reach] and reach not in full:
                full.append(reach)
        return full or [1]

    def _guesses(self) -> Iterator[_Guess]:
        for width in self._widths():
            yield from self._with_width(width)

    def _with_width(self, width: int) -> Iterator[_Guess]:
        filled = [at for at, row in enumerate(self._head) if row.filled]
        first_fit = next((at for at in filled if self._head[at].fits(width)), None)
        if first_fit is not None:
            yield self._without_header(width, first_fit)
        first_with = {self._head[at].cells: at for at in reversed(filled)}
        candidates = [
            at
            for at in filled
            if at < max(len(self._told), 1)
            and first_with[self._head[at].cells] == at
            and self._may_be_header(self._head[at], width)
        ][:_HEADERS]
        for at in candidates:
            guesses = list(self._with_header(width, at, filled))
            yield from guesses
            if any(guess.cost > _HOPELESS for guess in guesses) and at > filled[0] + 1:
                body = self._body(at, width)
                above = (self._head[each] for each in filled if each < at)
                if sum(map(body.reads_like_data, above)) > _MANY_DROPPED:
                    return

    def _may_be_header(self, row: Row, width: int) -> bool:
        over_index = width == 2 and row.reach == 2
        if row.filled == 0 or (
            row.filled == 1 and width > 1 and len(row.cells) != width - 1 and not over_index
        ):
            return False
        return row.fits(width) or len(row.cells) == width - 1

    def _without_header(self, width: int, start: int) -> _Guess:
        body = self._body(start, width)
        cost = sum(body.cost_to_drop(row) for row in self._head[:start] if row.filled)
        cost += sum(body.cost_to_keep(row) for row in body.rows)
        return _Guess(cost - body.order, None, 1, Described(), start, width)

    def _with_header(self, width: int, at: int, filled: Sequence[int]) -> Iterator[_Guess]:
        """The header in a row, and below it the data, or rows that describe the columns and then the data."""
        below = [each for each in filled if each > at]
        guess = self._named(width, at, below[0] if below else None, Described())
        if guess:
            yield guess
        close = [each for number, each in enumerate(below[:_MOST_BELOW]) if each == at + 1 + number]
        starts = [below[number + 1] if len(below) > number + 1 else None for number in range(len(close))]

        def body_below(count: int) -> Body:
            start = starts[count - 1]
            return self._body(len(self._head) if start is None else start, width)

        for described in described_below([self._head[each] for each in close], body_below):
            guess = self._named(width, at, starts[described.rows - 1], described)
            if guess:
                yield guess

    def _named(self, width: int, at: int, start: int | None, below: Described) -> _Guess | None:
        """One header with the data from some row on; None when its cells cannot stand over the columns."""
        row = self._head[at]
        body = self._body(len(self._head) if start is None else start, width)
        apart = start is not None and start != at + 1 + below.rows
        cells, header_from = list(row.cells[:width]), 1
        if len(cells) == width - 1:
            shifted = _is_shifted(body) and not apart
            if len(cells) == 1 and not (shifted and is_name(cells[0])):
                return None
            if shifted and not any(row.values):
                cells, header_from = ["", *cells], 2
        cells += [""] * (width - len(cells))
        others = [each for each in body.rows if each.cells != row.cells]
        comes_again = len(others) < len(body.rows)
        if comes_again:
            body = Body(others, width)
        score = header_score(cells, body) + below.score + body.order
        if at and are_processing(row) and self._head[at - 1].filled >= row.filled > 1:
            score -= _NO_NAMES * (not any(self._head[at - 1].values))
        score += costs.REPEATED * bool(comes_again and others) - costs.APART * apart
        top, rows = at, 1
        while rows < _MOST_HEADER_ROWS and top and is_group_row(self._head[top - 1], self._head[top], body):
            top, rows = top - 1, rows + 1
        cost = sum(body.cost_to_drop(each) for each in self._head[:top] if each.filled)
        cost += sum(body.cost_to_keep(each) for each in body.rows)
        if top and is_full_of_words(self._head[top - 1], width):
            cost += costs.DROPPED_WORDS
        return _Guess(cost - score, top, rows, below, start, width, header_from)

    def _footer(self, best: _Guess, body: Body) -> Row | None:
        if best.start is None:
            return None
        rows, start = self._every[best.start :], self._head[best.start].number
        if self._tail[:1] == self._every[:1]:
            return footer_of(rows, body, lambda row: above_in(rows, row, self._marks(rows)))
        from_file = self._above

        def above(row: Row) -> Above:
            marks = self._marks([*rows, *self._tail])
            return from_file(start, row, marks) if from_file else Above(marks)

        return footer_of(self._tail, body, above)

    def _marks(self, rows: Sequence[Row]) -> Marks:
        return marks_of([cell for row in rows[:_MARKED] for cell in row.cells], self._delimiter)

    def _second_table(self, best: _Guess, footer: Row | None) -> int:
        """The row of another header, above the table or below an empty row in it."""
        own = self._head[best.header].cells if best.header is not None else ()
        for at in range((best.header or 0) - 2):
            row, following = self._head[at], self._head[at + 1 : at + 3]
            if (
                row.filled >= 2
                and not any(row.values)
                and all(
                    len(each.cells) == len(row.cells)
                    and is_value(each.cells[0])
                    and any(map(is_value, each.cells[1:]))
                    for each in following
                )
            ):
                return row.number
        for at in range((best.start or 0) + 1, len(self._every) - 2):
            row, before = self._every[at], self._every[at - 1]
            if footer is not None and row.number >= footer.number > 0 and not self._every[at + 1].filled:
                return 0
            if before.filled or row.filled < 2 or any(row.values) or row.cells == own:
                continue
            following = [each for each in self._every[at + 1 : at + 4] if each.filled]
            alike = len(following) >= 2 and all(len(each.cells) == len(row.cells) for each in following)
            named = len({*row.cells}) == len(row.cells) == row.filled and are_names(row.cells)
            if alike and (named or all(any(each.values) for each in following)):
                return row.number
        return 0


def confidence_of(margin: float) -> float:
    """The confidence of a guess, by its cost beside that of the next one. Measured on generated tables.

    Examples
    --------
    >>> confidence_of(0.0) <= 0.6, confidence_of(8.0)
    (True, 1.0)
    """
    return min(1.0, round(1 / (1 + exp(-(0.4 + 1.8 * margin))) + 0.004, 2))


def _is_an_end(row: Row) -> bool:
    if not row.filled or is_summary(row.first):
        return True
    return row.filled <= 2 and is_note(row.first) and not any(row.values)


def _are_row_numbers(body: Body) -> bool:
    """Whether the first column counts the rows."""
    first = [row.cells[0].strip() for row in body.fitting if row.number]
    return first[:1] in (["0"], ["1"]) and first == [str(int(first[0]) + at) for at in range(len(first))]


def _is_shifted(body: Body) -> bool:
    """Whether all rows have as many cells as there are columns, with something in the last one."""
    last = sum(row.reach == body.width for row in body.fitting)
    return bool(body.fitting) and len(body.fitting) == len(body.rows) and last >= 0.5 * len(body.fitting)
