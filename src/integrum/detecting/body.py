"""What the rows of data are like if the data begins in a certain row; and what a wrong guess costs."""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import cached_property, lru_cache

import numpy as np

from integrum.detecting import body as costs
from integrum.detecting.sample import Row
from integrum.values.arrays import Bytes
from integrum.values.cells import KINDS

_TYPED, _PURE = 0.6, 0.85
# of `KINDS`; those before it are no value, and text
_FIRST_TYPED = 2
_FITTING = 0.5
_DISTINCT, _SHORT = 200, 2
# this many columns with a word of their own
_NAMED, _MOSTLY = 4, 0.6
# texts of this few letters come again and again
_REMEMBERED = 60
# with more columns, arrays are faster than lists
_WIDE = 24
_DIGITS, _LETTERS = re.compile(r"\d"), re.compile(r"[^\W\d_]")
# a row above the header, or in a footer, that reads like the data
DROPPED_DATA = 8.0
# the same where the table has only texts, so that nothing but its width speaks for it
DROPPED_TEXT = 2.5
# any other row that is dropped; one with values in it, and one with values where no data would be left
DROPPED, DROPPED_VALUES, DROPPED_ALL = 0.15, 0.5, 2.0
# a row full of different words right above a header: it may be the header
DROPPED_WORDS = 1.5
# a row that is kept in the table and is not like the others: it is reported as a bad value, or set aside with its text
KEPT_NOTE = 1.0
KEPT_SHORT = 0.8
# the same of a row that has a word of its own in most columns of numbers or times, for each word: it names the columns
KEPT_NAMES = 2.0
# a column with values that has no name, and the first one, which is often an index
NAMELESS, NAMELESS_FIRST = 0.7, 0.1
# a header that comes again below speaks for itself, one with an empty row below it a little against
REPEATED, APART = 0.5, 0.5
# a column of numbers or times in which hardly anything else stands speaks for a reading, up to this many of them
PURE_COLUMN, MOST_PURE = 1.0, 3


@lru_cache(1 << 14)
def _mask_of_short(text: str) -> str:
    return _mask(text)


def mask_of(text: str) -> str:
    """A text with every digit as one sign and every letter as another; codes of one kind have one mask.

    Examples
    --------
    >>> mask_of("KA-07"), mask_of("x")
    ('aa-00', 'a')
    """
    return _mask_of_short(text) if len(text) <= _REMEMBERED else _mask(text)


def _mask(text: str) -> str:
    return _LETTERS.sub("a", _DIGITS.sub("0", text))


class Body:
    """Some rows as the data of a table with a certain width.

    Parameters
    ----------
    rows
        The rows that are taken for data; blank ones do not matter.
    """

    def __init__(self, rows: Sequence[Row], width: int) -> None:
        self.width = width
        self.rows = [row for row in rows if row.filled]
        self.fitting = [row for row in self.rows if row.fits(width)]
        fills = sorted(row.filled for row in self.fitting)
        self.typical = fills[len(fills) // 2] if fills else 0
        codes: Bytes = np.frombuffer(b"".join(row.codes[:width] for row in self.fitting), np.uint8)
        codes = codes.reshape(len(self.fitting), width)
        counts = np.stack([np.count_nonzero(codes == code, axis=0) for code in range(len(KINDS))])
        present = len(self.fitting) - counts[0]
        # text unless most of the values look like something else
        main = counts[_FIRST_TYPED:].argmax(axis=0) + _FIRST_TYPED
        main[counts[_FIRST_TYPED:].max(axis=0, initial=0) < _TYPED * present] = 1
        main[present == 0] = 0
        self.present: list[int] = present.tolist()
        self.kinds = [KINDS[code] for code in main.tolist()]
        most = counts[main, np.arange(width)]
        self.share: list[float] = (np.where(present > 0, most, 0) / np.maximum(present, 1)).tolist()
        self.typed: list[int] = np.flatnonzero(main >= _FIRST_TYPED).tolist()
        self._typed, self._kinds = np.array(self.typed, np.int64), main[main >= _FIRST_TYPED]
        self._texts: dict[int, set[str]] = {}

    @property
    def order(self) -> float:
        """How clearly its columns have kinds."""
        pure = sum(1 for at in self.typed if self.share[at] >= _PURE)
        return costs.PURE_COLUMN * min(pure, costs.MOST_PURE)

    @cached_property
    def codes(self) -> dict[int, str]:
        """The mask that all texts of a column have, by position, where they are short or have digits."""
        found = {}
        for at, kind in enumerate(self.kinds):
            if kind == "text" and self.present[at] > 1:
                texts = iter(self.texts(at) - {""})
                mask = mask_of(next(texts, ""))
                if (0 < len(mask) <= _SHORT or "0" in mask) and all(
                    len(text) == len(mask) and mask_of(text) == mask for text in texts
                ):
                    found[at] = mask
        return found

    def texts(self, at: int) -> set[str]:
        """The distinct cells of a column, so far as they are looked at."""
        if at not in self._texts:
            self._texts[at] = {row.plain[at] for row in self.fitting[:_DISTINCT]}
        return self._texts[at]

    def likeness(self, row: Row) -> float:
        """How much a row reads like the data, from 0 to 1.

        Examples
        --------
        >>> body = Body([Row(1, ["A", "3.1", "4"]), Row(2, ["B", "3.2", "5"])], 3)
        >>> [body.likeness(Row(0, cells)) for cells in (["C", "1", "2"], ["x", "low", "2"], ["a", "b", "c"], ["note"])]
        [1.0, 0.5, 0.0, 0.0]
        """
        if not row.filled or not row.fits(self.width):
            return 0.0
        full = row.filled >= 0.5 * self.typical
        if not self.typed:
            return 1.0 if full else 0.5
        if self.width > _WIDE:
            codes = np.frombuffer(row.codes, np.uint8)[self._typed]
            here = int(np.count_nonzero(codes))
            good = int(np.count_nonzero(codes == self._kinds))
            return good / here if here else 0.5 if full else 0.2
        said = [at for at in self.typed if row.kinds[at]]
        if not said:
            return 0.5 if full else 0.2
        return sum(row.kinds[at] == self.kinds[at] for at in said) / len(said)

    def reads_like_data(self, row: Row) -> bool:
        """Whether a row is full, of the right width, and its values fit most columns."""
        if not row.filled or row.filled < 0.5 * self.typical or self.likeness(row) < _FITTING:
            return False
        return not self.typed or any(row.kinds[at] == self.kinds[at] for at in self.typed)

    def cost_to_drop(self, row: Row) -> float:
        """The cost of leaving out a row above the header, if it is data."""
        if row.fits(self.width) and row.filled >= self.typical and self._has_code(row):
            return costs.DROPPED_TEXT
        if self.reads_like_data(row) and (self.likeness(row) > _FITTING or not self.typed):
            return costs.DROPPED_DATA if self.typed else costs.DROPPED_TEXT
        if len(row.cells) > 1 and any(kind in ("number", "time") for kind in row.kinds):
            return costs.DROPPED_VALUES if self.rows else costs.DROPPED_ALL
        return costs.DROPPED

    def _has_code(self, row: Row) -> bool:
        return any(mask_of(row.plain[at]) == mask for at, mask in self.codes.items())

    def names_columns(self, row: Row) -> bool:
        """Whether a row has a word of its own in most columns of numbers or times, so that it can be no row of data.

        Examples
        --------
        >>> body = Body([Row(at, ["A", "3.1", "4", "2024-05-01", "7"]) for at in range(9)], 5)
        >>> names, words = ["n", "temp", "ph", "day", "n2"], ["n", "dry", "dry", "dry", "dry"]
        >>> body.names_columns(Row(0, names)), body.names_columns(Row(0, words))
        (True, False)
        """
        if len(self.typed) < _NAMED or not row.fits(self.width) or any(row.values):
            return False
        filled = [at for at in self.typed if 2 * self.present[at] >= len(self.fitting)]
        words = [word for at in filled if (word := row.plain[at])]
        return len(words) >= max(_NAMED, _MOSTLY * len(filled)) and len(set(words)) == len(words)

    def cost_to_keep(self, row: Row) -> float:
        """The cost of keeping a row in the table, if it is no data."""
        if not row.fits(self.width):
            return costs.KEPT_SHORT
        if self.names_columns(row):
            return costs.KEPT_NAMES * sum(bool(row.plain[at]) for at in self.typed)
        return costs.KEPT_NOTE * max(0.0, 1 - 2 * self.likeness(row))
