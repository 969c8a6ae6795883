"""Whether all texts of a column are numbers in canonical form, found on their bytes without parsing them."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from integrum.values.types.letters import Bytes, Letters

Flags = npt.NDArray[np.bool_]

_POINT, _MINUS, _PLUS, _ZERO = b".-+0"
_EXPONENT = np.frombuffer(b"eE", np.uint8)


def are_whole(letters: Letters) -> bool:
    """Whether whole numbers, of which it is known that they are some, have no needless zero, and no minus before a zero.

    Examples
    --------
    >>> import pyarrow as pa
    >>> [are_whole(Letters.of(pa.array([text]))) for text in ("12", "-7", "0", "-0", "007")]
    [True, True, True, False, False]
    """
    lead, minus, several = _first_digits(letters)
    zero = lead == _ZERO
    return not bool((zero & (minus | several)).any())


def are_decimal(letters: Letters) -> bool:
    """Whether numbers without an exponent, of which it is known that they are some, have no needless zero and no lone point.

    Examples
    --------
    >>> import pyarrow as pa
    >>> [are_decimal(Letters.of(pa.array([text]))) for text in ("1.50", "-7", "-0.0", "1.", ".5", "00.5", "0")]
    [True, True, True, False, False, False, True]
    """
    lead, _, several = _first_digits(letters)
    if ((lead == _POINT) | ((lead == _ZERO) & several)).any():
        return False
    filled = letters.ends > letters.starts
    last = letters.data[letters.ends[filled] - 1] if not filled.all() else letters.data[letters.ends - 1]
    return not bool((last == _POINT).any())


def _first_digits(letters: Letters) -> tuple[Bytes, Flags, Flags]:
    """The first letter of each text, a minus aside; where there is one; and whether a digit follows that letter."""
    starts, ends, data = letters.starts, letters.ends, letters.data
    if not (ends > starts).all():
        filled = ends > starts
        starts, ends = starts[filled], ends[filled]
    lead = data[starts]
    minus = lead == _MINUS
    if minus.any():
        starts = starts + minus
        lead = data[np.minimum(starts, len(data) - 1)]
    second = np.minimum(starts + 1, len(data) - 1)
    several = (starts + 1 < ends) & ((data[second] - _ZERO) < 10)
    return lead, minus, several


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


def _points_inside(digit: Flags, point: Flags, first: Flags) -> bool:
    """Whether each point has a digit on both sides of the same text, and no text has two."""
    if not point.any():
        return True
    if point[-1] or bool((point[:-1] & ~(digit[1:] & ~first[1:-1])).any()):
        return False
    if bool((point[1:] & ~digit[:-1]).any()):
        return False
    # of the beginnings and the points in their order no two points may follow one another
    turns = np.compress(point | first[:-1], point)
    return not bool((turns[1:] & turns[:-1]).any())
