"""Number: digits, perhaps a point and an exponent; no signs between thousands, no leading zeros, finite."""

from __future__ import annotations

import re

import pyarrow as pa
import pyarrow.compute as pc

from integrum.values.types.digits import are_decimal, are_plain
from integrum.values.types.letters import Letters
from integrum.values.types.type import Mask, Tested, Type, cast

_PARTS = re.compile(r"([+-]?)([0-9]*)(?:\.([0-9]*))?([eE][+-]?[0-9]+)?", re.ASCII)
_PATTERN = r"^-?(?:0|[1-9][0-9]*)(?:\.[0-9]+)?(?:[eE][+-]?[0-9]+)?$"
_DECIMAL, _EXPONENT = b"0123456789.-", b"eE+"
_ALPHABET = b"0123456789.eE+-"
# so many letters without an exponent are always finite
_SURE = 300


def _parse(text: str) -> str | None:
    found = _PARTS.fullmatch(text)
    if not found or not (found[2] or found[3]):
        return None
    whole = found[2].lstrip("0") or "0"
    value = ("-" if found[1] == "-" else "") + whole + (f".{found[3]}" if found[3] else "") + (found[4] or "")
    return value if abs(float(value)) != float("inf") else None


def _test(values: pa.Array) -> Tested:
    if values.null_count == len(values):
        return True, None
    letters = Letters.of(values)
    others = letters.others(_DECIMAL)
    # a cast that fails costs far more than a look at the letters
    if others.translate(None, _EXPONENT) or (done := cast(values, pa.float64())) is None:
        return False, None
    if not others and letters.lengths.max() <= _SURE:
        return are_decimal(letters), done
    if pc.all(pc.is_finite(done)).as_py() is False:
        return False, None
    return are_plain(letters), done


def _read(values: pa.Array) -> pa.Array | None:
    """What the cast takes besides canonical forms are plus signs, needless zeros and lone points; and infinity."""
    done = cast(values, pa.float64())
    return None if done is None or pc.all(pc.is_finite(done)).as_py() is False else done


def _odd(values: pa.Array) -> Mask:
    letters = Letters.of(values)
    return letters.with_others(_ALPHABET) | letters.begun_by(b"+.")


NUMBER = Type("number", pa.float64(), "a number", _parse, _test, _odd, _read, pattern=_PATTERN)
