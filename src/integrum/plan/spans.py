"""Spans of time as a plan writes them: a number and a unit."""

from __future__ import annotations

import re
from typing import NamedTuple

_FORM = re.compile(r"\s*(\d+)\s*([a-z]+)\s*")
_SECOND = 1_000_000
# microseconds of each unit; months are counted by the calendar
LENGTHS = {
    "s": _SECOND,
    "min": 60 * _SECOND,
    "h": 3_600 * _SECOND,
    "d": 86_400 * _SECOND,
    "week": 7 * 86_400 * _SECOND,
}
MONTHS = {"month": 1, "year": 12}
UNITS = (*LENGTHS, *MONTHS)


class Span(NamedTuple):
    """A span of time."""

    micros: int  # its microseconds; 0 for one of months
    months: int  # its months; 0 for one of a fixed length


def span_of(text: str) -> Span | None:
    """The span that a text says, or None.

    Examples
    --------
    >>> span_of("10 min"), span_of("2 years"), span_of("soon")
    (Span(micros=600000000, months=0), Span(micros=0, months=24), None)
    """
    found = _FORM.fullmatch(text)
    if found is None or not int(found[1]):
        return None
    unit = found[2] if found[2] in UNITS else found[2].removesuffix("s")
    if unit in LENGTHS:
        return Span(int(found[1]) * LENGTHS[unit], 0)
    return Span(0, int(found[1]) * MONTHS[unit]) if unit in MONTHS else None
