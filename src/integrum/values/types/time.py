"""Time: a time of a day, as in 12:30 or 12:30:05.25."""

from __future__ import annotations

import re
from collections.abc import Iterator
from datetime import time

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.values.arrays import Mask, text, truths
from integrum.values.digits import Letters
from integrum.values.notation import Conversion
from integrum.values.sketch import moments_as_texts, timed_as_texts
from integrum.values.types.date import time_steps
from integrum.values.types.type import Tested, Type, cast
from integrum.values.written.times import clock_parts

_FORM = re.compile(r"[0-9]{2}:[0-9]{2}(:[0-9]{2}(\.[0-9]{1,6})?)?")
_LENGTHS = tuple(map(len, ("12:30", "12:30:05")))
_LONGEST = len("12:30:05.123456")
_KIND = pa.time64("us")
# how fine a time may be written; %f stands for six digits
CLOCKS = ("%H:%M", "%H:%M:%S", "%H:%M:%S.%f")
# any of these, as a regular expression of CSV on the Web
FORM = r"\d{2}:\d{2}(:\d{2}(\.\d{1,6})?)?"


def _parse(text: str) -> str | None:
    if not _FORM.fullmatch(text):
        return None
    try:
        time.fromisoformat(text)
    except ValueError:
        return None
    return text


def _cast(values: pa.Array) -> pa.Array:
    """Cast to a time of the first day; texts cannot be cast to a time of a day."""
    moments = pc.binary_join_element_wise(text("1970-01-01 "), values, text(""))
    return pc.cast(pc.cast(moments, pa.timestamp("us")), _KIND)


def _test(values: pa.Array) -> Tested:
    if _odd(values).any():
        return False, None
    done = cast(values, _KIND, _cast)
    return done is not None, done


def _odd(values: pa.Array) -> Mask:
    letters = Letters.of(values)
    lengths = letters.lengths
    good: Mask = (lengths == _LENGTHS[0]) | ((lengths >= _LENGTHS[1]) & (lengths <= _LONGEST))
    good |= ~truths(values.is_valid())
    if len(letters.data):
        good &= (lengths == 0) | (letters.first(letters.starts + 2) == ord(":"))
    return np.logical_not(good)


def _steps(_: str, how: Conversion, __: str) -> Iterator[str]:
    if how.notation.format:
        yield f"read with the format {' or '.join(how.notation.format)}"
    elif how.notation.date_order:
        yield f"read in the order {how.notation.date_order}"
    yield from time_steps(how)


TIME = Type(
    "time",
    _KIND,
    "a time of day",
    ("00:00", "12:30", "12:30:05", "23:59:59.25"),
    _parse,
    _test,
    _odd,
    to_arrow=_cast,
    to_text=timed_as_texts,
    rule=clock_parts,
    tried=5,
    likeness="time",
    has_one_text=False,
    has_clock=True,
    from_numbers=moments_as_texts(_KIND),
    keys=frozenset({"date_order", "format"}),
    spellings=CLOCKS,
    checks=frozenset({"range"}),
    # with or without seconds, so it is none of the formats that the standard has
    datatype={"base": "string", "format": FORM},
    spelled="time",
    cell_format="hh:mm:ss",
    steps=_steps,
)
