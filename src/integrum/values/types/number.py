"""Number: digits, perhaps a point and an exponent; no signs between thousands, no leading zeros, finite."""

from __future__ import annotations

import re

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.values.types.letters import Bytes, Letters
from integrum.values.types.type import Mask, Type, cast

_PARTS = re.compile(r"([+-]?)([0-9]*)(?:\.([0-9]*))?([eE][+-]?[0-9]+)?", re.ASCII)
_ALPHABET = b"0123456789.eE+-"
_MINUS, _PLUS, _POINT, _ZERO, _NINE = b"-+.09"


def _parse(text: str) -> str | None:
    found = _PARTS.fullmatch(text)
    if not found or not (found[2] or found[3]):
        return None
    whole = found[2].lstrip("0") or "0"
    value = ("-" if found[1] == "-" else "") + whole + (f".{found[3]}" if found[3] else "") + (found[4] or "")
    return value if abs(float(value)) != float("inf") else None


def _whole(values: pa.Array) -> pa.Array | None:
    letters = Letters.of(values)
    if not letters.all_among(_ALPHABET) or not _are_plain(letters):
        return None
    done = cast(values, pa.float64())
    return done if done is not None and pc.all(pc.is_finite(done)).as_py() is not False else None


def _are_plain(letters: Letters) -> bool:
    """No leading zero, a digit on both sides of every point, a plus only behind an exponent's letter."""
    starts, ends = letters.filled()
    data = letters.data
    if not len(starts):
        return True
    starts = starts + (data[starts] == _MINUS)
    first, second = letters.first(starts), letters.first(starts + 1)
    if bool(np.any((first == _ZERO) & (ends - starts > 1) & _digits(second))):
        return False
    if not bool(np.all(_digits(first)) and np.all(data[ends - 1] != _POINT)):
        return False
    points = np.flatnonzero(data == _POINT)
    behind = data[np.minimum(points + 1, len(data) - 1)]
    if not bool(np.all(_digits(data[points - 1])) and np.all(_digits(behind))):
        return False
    pluses = np.flatnonzero(data == _PLUS)
    return bool(np.all(np.isin(data[pluses - 1], (ord("e"), ord("E")))))


def _digits(data: Bytes) -> Mask:
    return (data >= _ZERO) & (data <= _NINE)


def _odd(values: pa.Array) -> Mask:
    return Letters.of(values).with_others(_ALPHABET)


NUMBER = Type("number", pa.float64(), "a number", _parse, _whole, _odd)
