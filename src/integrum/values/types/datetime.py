"""Datetime: a date and a time of a day, as in 2024-05-01 12:30 or 2024-05-01T12:30:05.25."""

from __future__ import annotations

import re
from dataclasses import replace
from datetime import date, datetime, timedelta

import numpy as np
import pyarrow as pa

from integrum.values.arrays import Mask, truths
from integrum.values.digits import Letters
from integrum.values.sketch import moments_as_texts, timed_as_texts
from integrum.values.types.date import DATE, LENGTH, YEAR
from integrum.values.types.time import CLOCKS, FORM
from integrum.values.types.type import Tested, tested_by_cast
from integrum.values.written.times import moment_parts

_FORM = re.compile(r"[0-9]{4}-[0-9]{2}-[0-9]{2}[ T][0-9]{2}:[0-9]{2}(:[0-9]{2}(\.[0-9]{1,6})?)?")
# finer than a microsecond: cut off there
_FINE = re.compile(r"(.*\.[0-9]{6})[0-9]+")
_PATTERN = r"^[0-9]{4}-[0-9]{2}-[0-9]{2}[ T][0-9]{2}:[0-9]{2}(?::[0-9]{2}(?:\.[0-9]{1,6})?)?$"
# the end of a day is the beginning of the next
_MIDNIGHT = re.compile(r"([0-9-]{10})[ T]24:00(?::00(?:\.0+)?)?")
_FIRST = (datetime.min - datetime(1970, 1, 1)).days * 86_400_000_000
_LENGTHS = tuple(map(len, ("2024-05-01 12:30", "2024-05-01 12:30:05")))
_LONGEST = len("2024-05-01 12:30:05.123456")


def _parse(text: str) -> str | None:
    if len(text) == LENGTH:
        day = DATE.parse(text)
        return f"{day} 00:00" if day else None
    midnight = _MIDNIGHT.fullmatch(text)
    if midnight:
        day = DATE.parse(midnight[1])
        if day is None or day == date.max.isoformat():
            return None
        return f"{date.fromisoformat(day) + timedelta(days=1)}{text[LENGTH:].replace('24', '00', 1)}"
    fine = _FINE.fullmatch(text)
    text = fine[1] if fine else text
    if not _FORM.fullmatch(text):
        return None
    try:
        datetime.fromisoformat(text)
    except ValueError:
        return None
    return text


def _test(values: pa.Array) -> Tested:
    return (
        (False, None)
        if _odd(values).any()
        else tested_by_cast(values, pa.timestamp("us"), pa.int64(), _FIRST)
    )


def _odd(values: pa.Array) -> Mask:
    letters = Letters.of(values)
    lengths = letters.lengths
    good: Mask = (lengths == _LENGTHS[0]) | ((lengths >= _LENGTHS[1]) & (lengths <= _LONGEST))
    if not good.all():
        good |= ~truths(values.is_valid())
    if len(letters.data):
        filled = lengths > 0
        marks = (letters.first(letters.starts + LENGTH + 3) == ord(":")) & (
            letters.first(letters.starts + YEAR) == ord("-")
        )
        good &= ~filled | marks
    return np.logical_not(good)


DATETIME = replace(
    DATE,
    name="datetime",
    arrow=pa.timestamp("us"),
    words="a date and time",
    wrong="not a date and time",
    examples=("1895-07-14 12:30", "2024-05-01 00:00:00", "2024-05-01T12:30:05.25"),
    parse=_parse,
    test=_test,
    odd=_odd,
    to_text=timed_as_texts,
    pattern=_PATTERN,
    rule=moment_parts,
    tried=3,
    wider="",
    converted="datetime",
    has_one_text=False,
    has_clock=True,
    from_numbers=moments_as_texts(pa.timestamp("us")),
    keys=DATE.keys | {"zone"},
    spellings=[f"%Y-%m-%d{between}{clock}" for between in " T" for clock in CLOCKS],
    datatype={"base": "string", "format": rf"\d{{4}}-\d{{2}}-\d{{2}}[T ]{FORM}(Z|[+-]\d{{2}}:?\d{{2}})?"},
    spelled="datetime",
    cell_format="yyyy-mm-dd hh:mm:ss",
)
