"""Whether the numbers of a row are a statistic of the columns above it."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
import pyarrow as pa

from integrum.detecting.dialect import Marks
from integrum.detecting.sample import Row
from integrum.detecting.vocabulary import COUNTED, STATISTICS, TOTALS, leading
from integrum.plan.layout import Layout
from integrum.reading.cutting import cut
from integrum.reading.head import read_head
from integrum.reading.parsing import parse
from integrum.reading.pieces import load
from integrum.sources.source import Source
from integrum.values.arrays import Floats
from integrum.values.notation import Conversion, Notation
from integrum.values.pipeline import convert

_DATE = re.compile(r"\d{4}-\d\d-\d\d(?:[T ][\d:.]+)?")
# numbers that often stand for no value
_CODES = np.array([sign * float("9" * digits) for digits in range(2, 6) for sign in (1, -1)])
_DECIMALS = re.compile(r"\.(\d*)")


def _of(*made: Callable[[Floats], float]) -> Callable[[Floats], list[float]]:
    return lambda values: [one(values) for one in made]


def _spread(delta: int) -> Callable[[Floats], float]:
    return lambda values: float(values.std(ddof=delta)) if len(values) > delta else 0.0


_SAMPLE, _WHOLE = _spread(1), _spread(0)
# what each statistic may be, of the numbers of a column
_MADE: dict[str, Callable[[Floats], list[float]]] = {
    "sum": _of(lambda values: float(values.sum())),
    "mean": _of(lambda values: float(values.mean())),
    "median": _of(lambda values: float(np.median(values))),
    "least": _of(lambda values: float(values.min())),
    "greatest": _of(lambda values: float(values.max())),
    "count": _of(lambda values: float(len(values))),
    "range": _of(lambda values: float(values.max() - values.min())),
    "deviation": _of(_SAMPLE, _WHOLE),
    "variance": _of(lambda values: _SAMPLE(values) ** 2, lambda values: _WHOLE(values) ** 2),
    "error": _of(
        lambda values: _SAMPLE(values) / len(values) ** 0.5,
        lambda values: _WHOLE(values) / len(values) ** 0.5,
    ),
    "variation": _of(
        *(
            lambda values, made=made, times=times: (
                times * made(values) / float(values.mean()) if values.mean() else 0.0
            )
            for made in (_SAMPLE, _WHOLE)
            for times in (1, 100)
        )
    ),
    "quantile": lambda values: np.quantile(values, [0.05, 0.1, 0.25, 0.75, 0.9, 0.95]).tolist(),
}


_LOOKED_AT = 1_000
# these are values of the column, or a number of rows
_EXACT = ("least", "greatest", "median", "count")
# how often a row of data reads like the statistic that its first word names: a sum below "Total", a number of rows where no
# numbers are, a date at the end of a column of dates, and a number at most
_RARELY, _SELDOM, _SOMETIMES, _MOSTLY = 0.001, 0.01, 0.2, 0.99


@dataclass
class Above:
    """The numbers in the columns above a row, which it may sum up.

    Examples
    --------
    >>> above = Above(Marks())
    >>> for cells in (["A", "3", "1.5"], ["B", "7", "2.5"]):
    ...     above.add(cells)
    >>> [above.proves(cells) for cells in (["Total", "10", "4.0"], ["Mean", "5", ""], ["Max", "3", "2.5"], ["A", "10", "4"])]
    [True, True, False, False]
    """

    marks: Marks
    rows: int = 0
    numbers: dict[int, list[float]] = field(default_factory=dict)
    decimals: dict[int, int] = field(default_factory=dict)
    # the least and the greatest date or time, of columns that have them in the order of the calendar
    ends: dict[int, tuple[str, str]] = field(default_factory=dict)
    # columns with cells that are neither, so that a number below them may count what is not known here
    others: set[int] = field(default_factory=set)

    def add(self, cells: Sequence[str]) -> None:
        """Add a row."""
        self.rows += 1
        for at, cell in enumerate(cells):
            if number := self.marks.number(cell):
                self.numbers.setdefault(at, []).append(float(number))
                self.decimals[at] = max(self.decimals.get(at, 0), _decimals(number))
            elif _DATE.fullmatch(cell.strip()):
                least, greatest = self.ends.get(at, (cell.strip(), cell.strip()))
                self.ends[at] = min(least, cell.strip()), max(greatest, cell.strip())
            elif cell.strip():
                self.others.add(at)

    def add_texts(self, columns: Sequence[pa.Array]) -> None:
        """Add rows, column by column; null for empty cells."""
        self.rows += len(columns[0]) if columns else 0
        how = Conversion(
            "number", notation=Notation(decimal_mark=self.marks.decimal, thousands_mark=self.marks.thousands)
        )
        for at, column in enumerate(columns):
            done = convert(column, how)
            some = done.text.drop_null()
            if len(done.bad):
                self.others.add(at)
            if len(some):
                self.numbers.setdefault(at, []).extend(some.cast(pa.float64()).to_pylist())
                most = max(map(_decimals, some.slice(0, _LOOKED_AT).to_pylist()))
                self.decimals[at] = max(self.decimals.get(at, 0), most)

    def from_column(self, first: int) -> Above:
        """The same, counted from a column on."""
        return replace(
            self,
            numbers={at - first: some for at, some in self.numbers.items() if at >= first},
            decimals={at - first: some for at, some in self.decimals.items() if at >= first},
            ends={at - first: some for at, some in self.ends.items() if at >= first},
            others={at - first for at in self.others},
        )

    def proves(self, cells: Sequence[str]) -> bool:
        """Whether a row is the statistic of its first word: in at least one column, and against none."""
        return self.compared(cells) is True

    def compared(self, cells: Sequence[str]) -> bool | None:
        """Whether its numbers are the statistic that its first word names; None when it has none to tell by."""
        chance = self.chance(cells)
        return None if chance is None else chance < 1

    def chance(self, cells: Sequence[str]) -> float | None:
        """How likely a row of data would read like the statistic that its first word names.

        Returns 1 when one of its numbers is another one, and None when it has none to tell by.

        Examples
        --------
        >>> above = Above(Marks())
        >>> for cells in (["A", "0"], ["B", "1"], ["C", "2"]):
        ...     above.add(cells)
        >>> [above.chance(cells) for cells in (["Total", "3"], ["Total", "4"], ["Mean", ""])]
        [0.001, 1.0, None]
        >>> round(above.chance(["Max", "2"]), 2)  # one of three has it
        0.33
        """
        at, word = next(((at, cell.strip()) for at, cell in enumerate(cells) if cell.strip()), (0, ""))
        if COUNTED.fullmatch(word):
            return _RARELY if int(re.sub(r"\D", "", word)) == self.rows else 1.0
        kinds = STATISTICS.get(leading(word).casefold(), ())
        main = kinds[0] if leading(word).casefold() in TOTALS else ""
        said = [self._chance(kinds, main, place, cell) for place, cell in enumerate(cells) if place > at]
        told = [one for one in said if one is not None]
        return None if not told or not kinds else 1.0 if 1.0 in told else math.prod(told)

    def _chance(self, kinds: Sequence[str], main: str, at: int, cell: str) -> float | None:
        """The same for one cell and the column above it. `main`: the statistic of a word that hardly means another thing."""
        number = self.marks.number(cell)
        if not number:
            if at in self.ends and _DATE.fullmatch(cell.strip()):
                least, greatest = self.ends[at]
                is_end = ("least" in kinds and cell.strip() == least) or (
                    "greatest" in kinds and cell.strip() == greatest
                )
                return _SOMETIMES if is_end else 1.0
            return None if not cell.strip() or at not in self.numbers else 1.0
        counts = "count" in kinds and float(number) == self.rows
        if at not in self.numbers:
            return _SELDOM if counts else None
        values = np.array(self.numbers[at])
        good = values[~np.isin(values, _CODES)]
        near = [
            _RARELY if kind == main else min(len(kinds) * self._by_chance(kind, at, number, some), _MOSTLY)
            for some in (values, good)
            if len(some)
            for kind in kinds
            if self._is_near(kind, at, number, some)
        ]
        if counts:
            near.append(min(len(kinds) * self._by_chance("count", at, number, values), _MOSTLY))
        if near:
            return min(near)
        return None if at in self.others else 1.0

    def _by_chance(self, kind: str, at: int, number: str, values: Floats) -> float:
        """How often a number of a column is as close to a statistic of it."""
        wanted = float(number)
        if kind in ("least", "greatest", "median"):
            return min(max(1.0, float(np.sum(values == wanted))) / len(values), _MOSTLY)
        step = 2 * self._nearness(kind, at, number, values)
        spread = max(float(np.ptp(values)), abs(wanted - float(np.median(values)))) + step
        return min(len(_MADE[kind](values)) * step / spread, _MOSTLY)

    def _is_near(self, kind: str, at: int, number: str, values: Floats) -> bool:
        """Whether a number is the statistic, as far as it and the values are rounded."""
        near, wanted = self._nearness(kind, at, number, values), float(number)
        return any(abs(made - wanted) <= near for made in _MADE[kind](values))

    def _nearness(self, kind: str, at: int, number: str, values: Floats) -> float:
        """The tolerance of a statistic, by the rounding of it and of the values."""
        step = 0.5 * 10.0 ** -_decimals(number)
        own = self.decimals[at]
        # the statistic may be that of values with more digits than are shown
        error = (
            0.5 * 10.0**-own * (len(values) ** 0.5 if kind == "sum" else 1)
            if own and kind not in _EXACT
            else 0.0
        )
        return step + error + 1e-9 * abs(float(number))


def above_in(rows: Iterable[Row], end: Row, marks: Marks) -> Above:
    """The numbers of the rows before one of them."""
    above = Above(marks)
    for row in rows:
        if row is end:
            break
        if row.filled:
            above.add(row.cells)
    return above


def above_in_source(source: Source, layout: Layout, marks: Marks) -> Above:
    """The numbers of the rows of a source that a layout takes for data.

    Raises SourceFault when it cannot be read.
    """
    above, head = Above(marks), read_head(source, layout)
    for piece in cut(source, 0, 1, head, layout, keep=True):
        if piece.rows:
            rows = parse([load(piece, source, layout)], head.header, head.format)
            above.add_texts(rows.columns)
    return above


def _decimals(number: str) -> int:
    found = _DECIMALS.search(number)
    exponent = re.search(r"[eE]([+-]?\d+)", number)
    return max(len(found[1]) if found else 0, 0) - (int(exponent[1]) if exponent else 0)
