"""Whether all texts of a column are numbers in canonical form, found on their bytes without parsing them."""

from __future__ import annotations

import numpy as np

from integrum.arrow.arrays import Bytes, Mask
from integrum.values.letters import Letters

Flags = Mask

_POINT, _MINUS, _PLUS, _ZERO = b".-+0"
_WHOLE_DOUBTS, _DECIMAL_DOUBTS = np.zeros((2, 256), bool)
_WHOLE_DOUBTS[[_MINUS, _ZERO]] = True
_DECIMAL_DOUBTS[[_MINUS, _ZERO, _POINT]] = True
_EXPONENT = np.frombuffer(b"eE", np.uint8)


def are_whole(letters: Letters) -> bool:
    """Whether whole numbers, of which it is known that they are some, have no needless zero, and no minus before a zero.

    Examples
    --------
    >>> import pyarrow as pa
    >>> [are_whole(Letters.of(pa.array([text]))) for text in ("12", "-7", "0", "-0", "007")]
    [True, True, True, False, False]
    """
    lead, minus, several = _doubtful(letters, _WHOLE_DOUBTS)
    return not bool(((lead == _ZERO) & (minus | several)).any())


def are_decimal(letters: Letters) -> bool:
    """Whether numbers without an exponent, of which it is known that they are some, have no needless zero and no lone point.

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
    """Of texts whose first letter leaves a doubt: that letter, a minus aside; where there is one; whether a digit follows.

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
    """Whether numbers with exponents, of which it is known that they are numbers, are in canonical form.

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
