"""Date: year, month and day, as in 2024-05-01."""

from __future__ import annotations

import re
from datetime import date

import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import truths
from integrum.values.types.letters import Letters
from integrum.values.types.type import Mask, Tested, Type, cast

LENGTH = len("2024-05-01")
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
    if _odd(values).any():
        return False, None
    done = cast(values, pa.date32())
    if done is None or len(done) == done.null_count:
        return done is not None, done
    return pc.min(pc.cast(done, pa.int32())).as_py() >= _FIRST, done


def _odd(values: pa.Array) -> Mask:
    lengths = Letters.of(values).lengths
    wrong: Mask = lengths != LENGTH
    return wrong & truths(values.is_valid()) if wrong.any() else wrong


DATE = Type("date", pa.date32(), "a date", _parse, _test, _odd)
