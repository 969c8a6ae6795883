"""Month: a month of a year, as in 2024-05."""

from __future__ import annotations

import re
from collections.abc import Iterator

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.values.arrays import Mask, flags, truths
from integrum.values.digits import Letters
from integrum.values.notation import Conversion
from integrum.values.types.type import Tested, Type
from integrum.values.written.times import month_parts

_FORM = r"^[0-9]{4}-(?:0[1-9]|1[0-2])$"
_LENGTH, _YEAR = len("2024-05"), len("2024")


def _parse(text: str) -> str | None:
    return text if re.fullmatch(_FORM, text, re.ASCII) else None


def _test(values: pa.Array) -> Tested:
    if _odd(values).any():
        return False, None
    return pc.all(pc.match_substring_regex(values, _FORM)).as_py() is not False, None


def _odd(values: pa.Array) -> Mask:
    letters = Letters.of(values)
    wrong: Mask = letters.lengths != _LENGTH
    if len(letters.data):
        wrong |= letters.first(letters.starts + _YEAR) != ord("-")
    return wrong & truths(values.is_valid()) if wrong.any() else wrong


def _unlikely(values: pa.Array) -> Mask:
    """Mask of what may be years over New Year, such as 2009-10."""
    found = truths(pc.match_substring_regex(values, _FORM))
    distinct = values.filter(flags(found)).unique().to_pylist()
    seasons = all((int(value[2:4]) + 1) % 100 == int(value[5:]) for value in distinct)
    return found if distinct and seasons else np.zeros(len(values), bool)


def _steps(text: str, _: Conversion, __: str) -> Iterator[str]:
    if not re.fullmatch(_FORM, text.strip()):
        yield "a month with its year"


MONTH = Type(
    "month",
    pa.string(),
    "a month",
    ("1895-07", "2024-02", "2024-05"),
    _parse,
    _test,
    _odd,
    pattern=_FORM,
    rule=month_parts,
    tried=7,
    unlikely=_unlikely,
    likeness="time",
    is_counted=True,
    has_order=False,
    datatype="gYearMonth",
    steps=_steps,
)
