"""Whether all texts of a column are numbers in canonical form, found on their bytes without parsing them."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from integrum.values.types.letters import Bytes, Letters

Flags = npt.NDArray[np.bool_]

_POINT, _MINUS, _PLUS, _ZERO = b".-+0"
_EXPONENT = np.frombuffer(b"eE", np.uint8)


def are_whole(letters: Letters) -> bool:
    """Whether all are whole numbers: digits, perhaps with a minus before them, and no needless zero.

    Examples
    --------
    >>> import pyarrow as pa
    >>> [are_whole(Letters.of(pa.array([text]))) for text in ("12", "-7", "0", "-0", "007", "1.5")]
    [True, True, True, False, False, False]
    """
    data = letters.data
    digit = (data - _ZERO) < 10
    minus = data == _MINUS
    if not bool((digit | minus).all()):
        return False
    first, lead, one = _leads(letters, minus)
    if not one or bool((lead & ~digit).any()) or bool((minus & ~first[:-1]).any()):
        return False
    zero = lead & (data == _ZERO)
    if not zero.any():
        return True
    after_minus = np.concatenate([[False], minus[:-1]])
    return not bool((zero[:-1] & ~first[1:-1]).any() or (zero & after_minus & ~first[:-1]).any())


def are_decimal(letters: Letters) -> bool | None:
    """Whether all are numbers without an exponent and without needless zeros; None where there are exponents.

    Examples
    --------
    >>> import pyarrow as pa
    >>> [are_decimal(Letters.of(pa.array([text]))) for text in ("1.50", "-7", "-0.0", "1.", ".5", "1.2.3", "1e5")]
    [True, True, True, False, False, False, None]
    """
    data = letters.data
    digit = (data - _ZERO) < 10
    minus, point = data == _MINUS, data == _POINT
    plain = digit | minus | point
    if not bool(plain.all()):
        others = data[~plain]
        return None if bool(np.isin(others, np.frombuffer(b"eE+", np.uint8)).all()) else False
    first, lead, one = _leads(letters, minus)
    if not one or bool((lead & ~digit).any()) or bool((minus & ~first[:-1]).any()):
        return False
    return _no_needless_zero(data, digit, first, lead) and _points_inside(digit, point, first)


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
