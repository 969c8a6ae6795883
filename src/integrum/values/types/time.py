"""Time: a time of a day, as in 12:30 or 12:30:05.25."""

from __future__ import annotations

import re
from datetime import time

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import text, truths
from integrum.values.types.letters import Letters
from integrum.values.types.type import Mask, Tested, Type, cast

_FORM = re.compile(r"[0-9]{2}:[0-9]{2}(:[0-9]{2}(\.[0-9]{1,6})?)?")
_LENGTHS = tuple(map(len, ("12:30", "12:30:05")))
_LONGEST = len("12:30:05.123456")
_KIND = pa.time64("us")


def _parse(text: str) -> str | None:
    if not _FORM.fullmatch(text):
        return None
    try:
        time.fromisoformat(text)
    except ValueError:
        return None
    return text


def _cast(values: pa.Array) -> pa.Array:
    """A text is not cast to a time of a day, but to that time of the first day."""
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


TIME = Type("time", _KIND, "a time of day", _parse, _test, _odd, to_arrow=_cast)
