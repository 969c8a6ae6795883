"""Dates and times that are numbers: days of spreadsheets, seconds since 1970."""

from __future__ import annotations

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import each_once, flags, floats, texts, truths
from integrum.values.checking import Converted, checked
from integrum.values.types.number import NUMBER

_SECOND = 1_000_000
_DAY = 86_400 * _SECOND
# by name: microseconds in a unit, and the instant 0 in microseconds since 1970
_COUNTED = {
    # day 60 of spreadsheets is a 29 February 1900 that there never was; what lies before 1 March 1900 is not read
    "serial-days": (_DAY, -25_569 * _DAY),
    "serial-days-1904": (_DAY, -24_107 * _DAY),
    "epoch-seconds": (_SECOND, 0),
    "epoch-milliseconds": (1_000, 0),
}
_FIRST_SERIAL = 61
# the years 1 to 9999, in microseconds since 1970
_LEAST, _MOST = -62_135_596_800 * _SECOND, 253_402_300_799 * _SECOND


def numbered(values: pa.Array, form: str, has_clock: bool) -> Converted:
    """Read numbers as dates or times.

    Parameters
    ----------
    form
        What they count, such as ``"serial-days"``.
    has_clock
        Whether there is a time beside the day; a date has no part of a day.

    Examples
    --------
    >>> numbered(pa.array(["45413", "45413.5", "x"]), "serial-days", True).text.to_pylist()
    ['2024-05-01 00:00:00', '2024-05-01 12:00:00', None]
    >>> numbered(pa.array(["1714566600"]), "epoch-seconds", True).text.to_pylist()
    ['2024-05-01 12:30:00']
    """
    unit, first = _COUNTED[form]
    done = checked(values, NUMBER)
    numbers = floats(done.typed(NUMBER))
    with np.errstate(invalid="ignore", over="ignore"):
        # to a thousandth of a second, as a day in a number is hardly finer
        at = np.rint(numbers * unit / 1_000) * 1_000 + first
        good = np.isfinite(at) & (at >= _LEAST) & (at <= _MOST)
        if form == "serial-days":
            good &= numbers >= _FIRST_SERIAL
    micros = np.where(good, at, 0).astype(np.int64)
    if not has_clock:
        good &= micros % _DAY == 0
    whole = pc.cast(
        pa.Array.from_buffers(pa.timestamp("us"), len(micros), [None, pa.py_buffer(micros)]), pa.string()
    )
    length = 10 if not has_clock else 19 if not (micros % _SECOND).any() else 23
    made = pc.if_else(flags(good), pc.utf8_slice_codeunits(whole, 0, length), texts([None])[0])
    stray = truths(done.text.is_valid()) & ~good
    return Converted(made, each_once(np.concatenate([done.bad, np.flatnonzero(stray)])).astype(np.int64))
