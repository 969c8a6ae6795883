"""Tests on the bytes and letters of a whole text column at once."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np
import pyarrow as pa

from integrum.values.arrays import Bytes, Ints, Mask, truths

Places = Ints
Flags = Mask

_POINT, _MINUS, _PLUS, _ZERO = b".-+0"
_WHOLE_DOUBTS, _DECIMAL_DOUBTS = np.zeros((2, 256), bool)
_WHOLE_DOUBTS[[_MINUS, _ZERO]] = True
_DECIMAL_DOUBTS[[_MINUS, _ZERO, _POINT]] = True
_EXPONENT = np.frombuffer(b"eE", np.uint8)
Shown = Literal["proved", "open", ""]


@dataclass(frozen=True)
class Letters:
    """The bytes of a text column, and tests on them."""

    data: Bytes  # the bytes of all its texts, one after the other
    # where each text lies in them; an empty cell ends where it starts
    starts: Places
    ends: Places

    @classmethod
    def of(cls, values: pa.Array) -> Letters:
        """The bytes of a string array.

        Examples
        --------
        >>> letters = Letters.of(pa.array(["7.2", None, "x"])[1:])
        >>> letters.starts.tolist(), letters.ends.tolist(), letters.data.tolist()
        ([0, 0], [0, 1], [120])
        """
        if not len(values) or values.buffers()[2] is None:
            nothing = np.zeros(len(values), np.int64)
            return cls(np.zeros(0, np.uint8), nothing, nothing)
        offsets = np.frombuffer(values.buffers()[1], np.int32)[
            values.offset : values.offset + len(values) + 1
        ]
        data = np.frombuffer(values.buffers()[2], np.uint8)[offsets[0] : offsets[-1]]
        offsets = (offsets - offsets[0]).astype(np.int64)
        starts, ends = offsets[:-1], offsets[1:]
        if values.null_count:  # what stands below an empty cell is not ours
            ends = np.where(truths(values.is_valid()), ends, starts)
        return cls(data, starts, ends)

    @property
    def lengths(self) -> Places:
        """How many bytes each text has."""
        return self.ends - self.starts

    def all_among(self, alphabet: bytes) -> bool:
        """Whether the column has only these bytes."""
        return not self.others(alphabet)

    def others(self, alphabet: bytes) -> bytes:
        """All bytes but these."""
        return self.data.tobytes().translate(None, alphabet)

    def with_others(self, alphabet: bytes) -> Mask:
        """Mask of texts that have another byte than these."""
        result = np.zeros(len(self.starts), bool)
        if self.all_among(alphabet):
            return result
        known = np.zeros(256, bool)
        known[np.frombuffer(alphabet, np.uint8)] = True
        places = np.flatnonzero(~known[self.data])
        at = np.searchsorted(self.starts, places, side="right") - 1
        result[at] = True
        return result & (self.ends > self.starts)

    def begun_by(self, alphabet: bytes) -> Mask:
        """Mask of texts that begin with one of these bytes; false for empty ones.

        Examples
        --------
        >>> Letters.of(pa.array(["7.2", None, "x"])).begun_by(b"0123456789").tolist()
        [True, False, False]
        """
        if not len(self.data):
            return np.zeros(len(self.starts), bool)
        known = np.zeros(256, bool)
        known[np.frombuffer(alphabet, np.uint8)] = True
        return known[self.first(self.starts)] & (self.ends > self.starts)

    def first(self, starts: Places) -> Bytes:
        """The bytes at some places; the last one for places behind the end."""
        return self.data[np.minimum(starts, len(self.data) - 1)]


def are_whole(letters: Letters) -> bool:
    """Whether whole numbers are canonical: no leading zero, no minus before a zero.

    Examples
    --------
    >>> import pyarrow as pa
    >>> [are_whole(Letters.of(pa.array([text]))) for text in ("12", "-7", "0", "-0", "007")]
    [True, True, True, False, False]
    """
    lead, minus, several = _doubtful(letters, _WHOLE_DOUBTS)
    return not bool(((lead == _ZERO) & (minus | several)).any())


def are_decimal(letters: Letters) -> bool:
    """Whether numbers without an exponent are canonical: no leading zero, no lone point.

    Examples
    --------
    >>> import pyarrow as pa
    >>> [are_decimal(Letters.of(pa.array([text]))) for text in ("1.50", "-7", "-0.0", "1.", ".5", "00.5", "0")]
    [True, True, True, False, False, False, True]
    """
    lead, _, several = _doubtful(letters, _DECIMAL_DOUBTS)
    if ((lead == _POINT) | ((lead == _ZERO) & several)).any():
        return False
    ends = letters.ends
    filled = ends if (ends > letters.starts).all() else ends[ends > letters.starts]
    return not bool((letters.data[filled - 1] == _POINT).any())


def _doubtful(letters: Letters, doubts: Flags) -> tuple[Bytes, Flags, Flags]:
    """Among texts with a doubtful first letter: that letter, where there is one, and whether a digit follows.

    Most texts begin with a digit that is no zero, and need no second look.
    """
    data = letters.data
    at = np.flatnonzero(doubts[letters.first(letters.starts)] & (letters.ends > letters.starts))
    starts, ends = letters.starts[at], letters.ends[at]
    minus = data[starts] == _MINUS
    starts = starts + minus
    lead = data[np.minimum(starts, len(data) - 1)]
    second = data[np.minimum(starts + 1, len(data) - 1)]
    return lead, minus, (starts + 1 < ends) & ((second - _ZERO) < 10)


def are_plain(letters: Letters) -> bool:
    """Whether numbers with exponents are canonical.

    Examples
    --------
    >>> import pyarrow as pa
    >>> [are_plain(Letters.of(pa.array([text]))) for text in ("1e5", "1.5E+7", "1.e5", "+1e5", "01e5")]
    [True, True, False, False, False]
    """
    data = letters.data
    digit = (data - _ZERO) < 10
    first, lead, one = _leads(letters, data == _MINUS)
    if not one or bool((lead & ~digit).any()):
        return False
    point = data == _POINT
    around = bool((point[1:] & ~digit[:-1]).any()) or bool((point[:-1] & ~(digit[1:] & ~first[1:-1])).any())
    pluses = np.flatnonzero(data == _PLUS)
    return (
        not around
        and not bool(point[-1:].any())
        and bool(np.isin(data[pluses - 1], _EXPONENT).all())
        and _no_needless_zero(data, digit, first, lead)
    )


def _leads(letters: Letters, minus: Flags) -> tuple[Flags, Flags, bool]:
    """Where texts begin, where their first digits belong, and whether all have room for one.

    The first has a place more, behind the last byte.
    """
    first = np.zeros(len(letters.data) + 1, bool)
    first[letters.starts] = True
    first[-1] = True
    signed = first[:-1] & minus
    lead = first[:-1] & ~minus
    lead[1:] |= signed[:-1]
    return first, lead, not bool((signed & first[1:]).any())


def _no_needless_zero(data: Bytes, digit: Flags, first: Flags, lead: Flags) -> bool:
    zero = lead & (data == _ZERO)
    return not zero.any() or not bool((zero[:-1] & digit[1:] & ~first[1:-1]).any())


def shown_by(value: str, decimal_mark: str, thousands_mark: str = "") -> Shown:
    """What a number shows of its marks: that they can only be these, nothing certain, or nothing.

    Examples
    --------
    >>> [shown_by(value, ",") for value in ("12,5", "0,125", "1234,567", "12,345", "12")]
    ['proved', 'proved', 'proved', 'open', '']
    >>> [shown_by(value, ".", ",") for value in ("1,234", "1,234.567", "1,234,567", "1.234")]
    ['open', 'proved', 'proved', 'open']
    """
    if decimal_mark not in value and (not thousands_mark or thousands_mark not in value):
        return ""
    is_open, is_number = _patterns(decimal_mark, thousands_mark)
    return "open" if is_open.search(value) else "proved" if is_number.search(value) else ""


@lru_cache(maxsize=64)
def _patterns(decimal_mark: str, thousands_mark: str) -> tuple[re.Pattern[str], re.Pattern[str]]:
    marks = re.escape(decimal_mark) + (re.escape(thousands_mark) if thousands_mark not in ("", " ") else "")
    is_open = rf"(?<![0-9{marks}])[1-9][0-9]{{0,2}}[{marks}][0-9]{{3}}(?![0-9{marks}])"
    return re.compile(is_open), re.compile(rf"[{marks}][0-9]")
