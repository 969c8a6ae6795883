"""Number: digits, perhaps a point and an exponent; no signs between thousands, no leading zeros, finite."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator, Sequence

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.values.arrays import Mask, truths
from integrum.values.digits import Letters, are_decimal, are_plain
from integrum.values.notation import Conversion
from integrum.values.shapes import shape_of
from integrum.values.types.type import Tested, Type, cast
from integrum.values.units import is_unit
from integrum.values.written.numbers import CURRENCIES, number_parts, unit_in

_PARTS = re.compile(r"([+-]?)([0-9]*)(?:\.([0-9]*))?([eE][+-]?[0-9]+)?", re.ASCII)
_PATTERN = r"^-?(?:0|[1-9][0-9]*)(?:\.[0-9]+)?(?:[eE][+-]?[0-9]+)?$"
# what is zero, and not only too small for a number of 64 bits
_ZERO = re.compile(r"-?[0.]+(?:[eE].*)?")
_NOT_ZERO = r"^[^eE]*[1-9]"
_DECIMAL, _EXPONENT = b"0123456789.-", b"eE+"
_ALPHABET = b"0123456789.eE+-"
# this many letters without an exponent are always finite
_SURE = 300
# more digits than a number can hold exactly
_LONG_WHOLE, _LONG = "^-?[0-9]{19,}$", 18
# a plot such as 1E2, and a number in scientific notation that can be nothing else
_PLOT, _SCIENTIFIC = "^[1-9][0-9]{0,2}E[0-9]{1,2}$", "[.][0-9]*[eE]|[eE][+-]"
_FIRST_PARTS = 12
_WITH_POINT = re.compile(r"(-?[0-9]+)\.([0-9]+)([eE][+-]?[0-9]+)?")
_VERSION, _LONGEST_PART, _SHOWN = "^[0-9]{1,4}[.][0-9]{1,3}$", 3, 200
# a mark before three digits, which may separate thousands or be the decimal mark; and a comma that is one
_ONE_GROUP, _COMMA = (
    re.compile(r"\D{0,4}[1-9]\d{0,2}([.,])\d{3}\D{0,4}"),
    re.compile(r"[+-]?\d+(?:\.\d{3})*,\d+"),
)
# begin a number that is only known to lie below or above
_SIGNS = ("<", ">", "≤", "≥")


def _parse(text: str) -> str | None:
    found = _PARTS.fullmatch(text)
    if not found or not (found[2] or found[3]):
        return None
    whole = found[2].lstrip("0") or "0"
    value = ("-" if found[1] == "-" else "") + whole + (f".{found[3]}" if found[3] else "") + (found[4] or "")
    number = abs(float(value))
    is_lost = number == float("inf") or (number == 0 and not _ZERO.fullmatch(value))
    return None if is_lost else value


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
    if pc.all(pc.is_finite(done)).as_py() is False or _is_any_lost(values, done):
        return False, None
    return are_plain(letters), done


def _is_any_lost(values: pa.Array, numbers: pa.Array) -> bool:
    """Whether a nonzero number became zero, as it is too small for 64 bits."""
    zeros = pc.equal(numbers, 0.0)
    if not pc.any(zeros).as_py():
        return False
    return bool(pc.any(pc.match_substring_regex(values.filter(zeros), _NOT_ZERO)).as_py())


def _read(values: pa.Array) -> pa.Array | None:
    """Rewrite what a cast accepts and is not canonical: plus signs, leading zeros, lone points."""
    done = cast(values, pa.float64())
    if done is None or pc.all(pc.is_finite(done)).as_py() is False:
        return None
    letters = Letters.of(values)
    data = letters.data.tobytes()
    may_be_small = b"e" in data or b"E" in data or (len(values) and letters.lengths.max() > _SURE)
    return None if may_be_small and _is_any_lost(values, done) else done


def _odd(values: pa.Array) -> Mask:
    letters = Letters.of(values)
    return letters.with_others(_ALPHABET) | letters.begun_by(b"+.")


def _unlikely(values: pa.Array) -> Mask:
    """Mask of numbers that are rather codes: too many digits, plots such as 1E2, versions."""
    longest = pc.max(pc.binary_length(values)).as_py()
    if longest is None:
        return np.zeros(len(values), bool)
    found = np.zeros(len(values), bool)
    if longest > _LONG:
        found |= truths(pc.match_substring_regex(values, _LONG_WHOLE))
    data = Letters.of(values).data.tobytes()
    if b"E" in data:
        plots = truths(pc.match_substring_regex(values, _PLOT))
        if plots.any() and not pc.any(pc.match_substring_regex(values, _SCIENTIFIC)).as_py():
            found |= plots
    if b"." in data and _are_versions(values.slice(0, _SHOWN).to_pylist()):
        found |= truths(pc.match_substring_regex(values, _VERSION))
    return found


def _are_versions(values: Sequence[str | None]) -> bool:
    """Whether numbers go from 1.9 to 1.10, as versions and sections do.

    Examples
    --------
    >>> _are_versions(["1.8", "1.9", "1.10"]), _are_versions(["1.9", "1.10", "0.55"]), _are_versions(["1.90", "1.10"])
    (True, False, False)
    """
    behind: dict[str, set[int]] = {}
    for value in values:
        found = _WITH_POINT.fullmatch(value.strip()) if value else None
        if found:
            whole, rest = found[1], found[2]
            if found[3] or len(rest) > _LONGEST_PART or (rest[0] == "0" and rest != "0"):
                return False
            behind.setdefault(whole, set()).add(int(rest))
    counts_on = [
        some
        for some in behind.values()
        if len(some) == max(some) - min(some) + 1 and min(some) <= _FIRST_PARTS
    ]
    return len(counts_on) == len(behind) and any({9, 10} <= some for some in counts_on)


def _steps(text: str, how: Conversion, signs: str) -> Iterator[str]:
    notation = how.notation
    if notation.decimal_mark != "." and notation.decimal_mark in text:
        yield f'"{notation.decimal_mark}" is the decimal mark'
    if notation.thousands_mark and notation.thousands_mark in text:
        yield f'"{notation.thousands_mark}" separates thousands'
    if notation.unit and text.endswith(notation.unit):
        yield f"the unit {notation.unit} removed"
    if notation.percent and text.endswith("%"):
        yield "a share" if notation.percent == "share" else "the percent sign removed"
    if notation.censored and text[:1] in _SIGNS:
        yield f"its sign goes to the column {signs}"


def _advice(raw: str, given: Collection[str]) -> str:
    if raw.strip()[:1] in _SIGNS and "censored" not in given:
        return 'set censored = "NAME" for the column: the sign goes into a column of that name'
    if raw.strip()[-1:] == "%" and "percent" not in given:
        return 'set percent = "as-written" or "share" for the column, or unit = "%"'
    if found := _ONE_GROUP.fullmatch(raw.strip()):
        mark = found[1]
        other = "." if mark == "," else ","
        return (
            f'if "{mark}" separates thousands here, set thousands_mark = "{mark}" in the layout of the source'
            + (
                f'; if it is the decimal mark, decimal_mark = "{mark}"'
                if mark == ","
                else f' and decimal_mark = "{other}"'
            )
        )
    if _COMMA.fullmatch(raw.strip()):
        return 'set decimal_mark = "," in the layout of the source'
    if (unit := unit_in(shape_of(raw))) and "unit" not in given and (is_unit(unit) or unit in CURRENCIES):
        return f'set unit = "{unit}" for the column'
    return ""


NUMBER = Type(
    "number",
    pa.float64(),
    "a number",
    ("-1.50", "0", "7.2", "1e3"),
    _parse,
    _test,
    _odd,
    _read,
    pattern=_PATTERN,
    rule=number_parts,
    tried=2,
    unlikely=_unlikely,
    is_number=True,
    has_one_text=False,
    keys=frozenset({"percent", "censored"}),
    checks=frozenset({"range"}),
    datatype="double",
    steps=_steps,
    advice=_advice,
)
