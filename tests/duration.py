"""Duration: hours and minutes of any number, as in 1:30, 36:00:00 or -0:05; a type that only the tests have."""

from __future__ import annotations

import re

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.values.arrays import Floats, Mask, truths
from integrum.values.sketch import numbers_of
from integrum.values.types.type import Tested, Type

_FORM = re.compile(r"(-?)(0|[1-9][0-9]*):([0-5][0-9])(?::([0-5][0-9]))?")
_MICROS = 1_000_000


def _parse(text: str) -> str | None:
    return text if _FORM.fullmatch(text) else None


def _micros(text: str) -> int:
    sign, hours, minutes, seconds = _FORM.fullmatch(text).groups()
    size = (int(hours) * 60 + int(minutes)) * 60 + int(seconds or 0)
    return (-size if sign else size) * _MICROS


def _said(micros: int) -> str:
    minutes, seconds = divmod(abs(micros) // _MICROS, 60)
    return f"{'-' if micros < 0 else ''}{minutes // 60}:{minutes % 60:02}:{seconds:02}"


def _to_arrow(values: pa.Array) -> pa.Array:
    whole = [None if one is None else _micros(one) for one in values.to_pylist()]
    return pa.array(whole, pa.int64()).cast(pa.duration("us"))


def _to_text(values: pa.Array) -> pa.Array:
    whole = values.cast(pa.int64()).to_pylist()
    return pa.array([None if one is None else _said(one) for one in whole], pa.string())


def _from_numbers(numbers: Floats) -> pa.Array:
    return pa.array([None if np.isnan(one) else _said(int(one)) for one in numbers.tolist()], pa.string())


def _odd(values: pa.Array) -> Mask:
    return ~truths(pc.match_substring_regex(values, f"^{_FORM.pattern}$")) & truths(values.is_valid())


def _test(values: pa.Array) -> Tested:
    if _odd(values).any():
        return False, None
    return True, _to_arrow(values)


assert numbers_of(_to_arrow(pa.array(["1:30"]))).tolist() == [5_400.0 * _MICROS]

DURATION = Type(
    "duration",
    pa.duration("us"),
    "a duration",
    ("-0:05", "1:30", "36:00:00"),
    _parse,
    _test,
    _odd,
    to_arrow=_to_arrow,
    to_text=_to_text,
    from_numbers=_from_numbers,
    has_one_text=False,
    checks=frozenset({"range"}),
)
