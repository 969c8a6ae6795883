"""Date: year, month and day, as in 2024-05-01."""

from __future__ import annotations

import re
from datetime import date

import pyarrow as pa

from integrum.arrow.arrays import truths
from integrum.values.types.letters import Letters
from integrum.values.types.type import Mask, Tested, Type, tested_by_cast

LENGTH, YEAR = len("2024-05-01"), len("2024")
_FORM = re.compile(r"[0-9]{4}-[0-9]{2}-[0-9]{2}")
_MIDNIGHT = re.compile(r"([0-9-]{10})[ T]00:00(?::00(?:\.0+)?)?")
_FIRST = (date.min - date(1970, 1, 1)).days  # the calendar begins with the year 1


def _parse(text: str) -> str | None:
    midnight = _MIDNIGHT.fullmatch(text)
    text = midnight[1] if midnight else text
    if not _FORM.fullmatch(text):
        return None
    try:
        date.fromisoformat(text)
    except ValueError:
        return None
    return text


def _test(values: pa.Array) -> Tested:
    return (False, None) if _odd(values).any() else tested_by_cast(values, pa.date32(), pa.int32(), _FIRST)


def _odd(values: pa.Array) -> Mask:
    letters = Letters.of(values)
    wrong: Mask = letters.lengths != LENGTH
    if len(letters.data):
        wrong |= letters.first(letters.starts + YEAR) != ord("-")
    return wrong & truths(values.is_valid()) if wrong.any() else wrong


DATE = Type("date", pa.date32(), "a date", _parse, _test, _odd, pattern="^[0-9]{4}-[0-9]{2}-[0-9]{2}$")
