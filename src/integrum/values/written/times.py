"""Dates and times as people write them, and what their shapes are rewritten to.

Day, month and year in digits are only read in an order that is given; a year of four digits at the front, or a month in
letters, leaves no doubt.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from functools import cache, lru_cache

from integrum.values.notation import Notation
from integrum.values.shapes import Century, Hour, Part, ShapeMatch, Slice, two_digits
from integrum.values.written.absent import DAYS, MONTHS, plain
from integrum.values.written.formats import format_parts

_GAP = "(?: |\u00a0|\u202f)"
_WORD = r"[^\W\d_]{1,12}\.?"
_WEEKDAY = rf"(?:(?P<weekday>{_WORD}),?{_GAP}+)?"
_DATES = tuple(
    _WEEKDAY + text
    for text in (
        r"(?P<Y>9999)(?P<sep>[-/.])(?P<m>99?)(?P=sep)(?P<d>99?)",
        r"(?P<one>99?)(?P<sep>[-/.]| |\. )(?P<two>99?)(?P=sep)(?P<Y>9999)",
        r"(?P<one>99?)(?P<sep>[-/.])(?P<two>99?)(?P=sep)(?P<y>99)",
        rf"(?P<d>99?)(?:st|nd|rd|th|er|\.|º)?(?:{_GAP}de(?={_GAP}))?(?P<sep>[-/. ]?|{_GAP}+)(?P<month>{_WORD})"
        rf"(?:{_GAP}del?(?={_GAP}))?(?:[-/,]?{_GAP}*|[-/. ]?)(?:(?P<Y>9999)|[’']?(?P<y>99))",
        rf"(?P<month>{_WORD})(?:[- ]|{_GAP})(?P<d>99?)(?:st|nd|rd|th)?,?{_GAP}+(?P<Y>9999)",
        rf"(?P<Y>9999)[-/ ](?P<month>{_WORD})[-/ ](?P<d>99?)",
    )
)
_MONTHS = (
    r"(?P<Y>9999)(?:[-/.]|-?M)(?P<m>99)",
    r"(?P<m>99)[-/.](?P<Y>9999)",
    rf"(?P<month>{_WORD})(?:[-/,]?{_GAP}|[-/])(?P<Y>9999)",
    rf"(?P<Y>9999)(?:[-/]|{_GAP})(?P<month>{_WORD})",
)
_CLOCK = (
    r"(?P<H>99?)(?:[:h](?P<M>99)(?::(?P<S>99)(?:[.,](?P<f>9{1,9}))?)?)"
    rf"(?:{_GAP}?(?P<half>[AaPp]\.?{_GAP}?[Mm]\.?))?"
)
_HOUR = rf"(?P<H>99?){_GAP}?(?P<half>[AaPp]\.?{_GAP}?[Mm]\.?)"
_ZONE = rf"(?:{_GAP}?(?:(?P<Z>[Zz]|UTC|GMT)|(?:UTC|GMT)?(?P<offset>(?:[+-]|−)99(?::?99)?)))"
_BETWEEN = rf"(?:[Tt]|,?{_GAP}+|,{_GAP}*)"
_PAD = rf"(?:{_GAP}|\t)*"
_BASIC = r"(?P<Y>9999)(?P<m>99)(?P<d>99)[Tt](?P<H>99)(?P<M>99)(?P<S>99)?"


@cache
def _patterns(what: str) -> list[re.Pattern[str]]:
    """The patterns of dates, moments or times; compiled when they are first needed, as that takes a while."""
    if what == "date":
        return [re.compile(f"{_PAD}{date}{_PAD}") for date in _DATES]
    if what == "month":
        return [re.compile(f"{_PAD}{month}{_PAD}") for month in _MONTHS]
    if what == "time":
        return [re.compile(f"{_PAD}(?:{clock}){_PAD}") for clock in (_CLOCK, _HOUR)]
    moments = [f"{date}{_BETWEEN}(?:{clock})" for date in _DATES for clock in (_CLOCK, _HOUR)]
    return [re.compile(f"{_PAD}{moment}{_ZONE}?{_PAD}") for moment in (*moments, _BASIC)]


@lru_cache(maxsize=8192)
def date_parts(shape: bytes, notation: Notation) -> Sequence[Part] | None:
    """The parts of the canonical date for a shape: 2024-05-01.

    Examples
    --------
    >>> from integrum.values.shapes import rewritten
    >>> import pyarrow as pa
    >>> def read(*texts, **notation):
    ...     return rewritten(pa.array(texts), lambda shape: date_parts(shape, Notation(**notation)))[0].to_pylist()
    >>> read("1.5.2024", "01/05/24", "2024/5/1", date_order="dmy"), read("5/1/2024", date_order="mdy")
    (['2024-05-01', '2024-05-01', '2024-05-01'], ['2024-05-01'])
    >>> read("01/05/2024", "1 May 2024", "1er févr. 2024", "May 1, 2024", "1 de mayo de 2024")
    [None, '2024-05-01', '2024-02-01', '2024-05-01', '2024-05-01']
    """
    if notation.format:
        return format_parts(shape, notation, "date") or _iso_day(shape)
    return next((parts for found in _all("date", shape) if (parts := _day(found, notation))), None)


@lru_cache(maxsize=8192)
def moment_parts(shape: bytes, notation: Notation) -> Sequence[Part] | None:
    """The parts of the canonical datetime for a shape: 2024-05-01 12:30, with seconds if they are written.

    A date without a time is the beginning of its day. An offset is not part of it; see `offset_parts`.

    Examples
    --------
    >>> from integrum.values.shapes import rewritten
    >>> import pyarrow as pa
    >>> def read(*texts, **notation):
    ...     return rewritten(pa.array(texts), lambda shape: moment_parts(shape, Notation(**notation)))[0].to_pylist()
    >>> read("1.5.2024 9:05", "01.05.2024, 12:30:05", date_order="dmy"), read("5/1/24 12:05 AM", date_order="mdy")
    (['2024-05-01 09:05', '2024-05-01 12:30:05'], ['2024-05-01 00:05'])
    >>> read("2024-05-01T12:30Z"), read("2024-05-01T12:30+02:00", zoned=True)
    ([None], ['2024-05-01 12:30'])
    """
    if notation.format:
        made = format_parts(shape, notation, "datetime")
        return made if made is not None else _iso_moment(shape, notation)
    for found in _all("moment", shape):
        if (found["Z"] or found["offset"]) and not notation.zoned:
            continue
        day = _day(found, notation)
        if day is not None:
            return [*day, b" ", *_clock(found)]
    whole = date_parts(shape, notation)
    return None if whole is None else [*whole, b" 00:00"]


@lru_cache(maxsize=1024)
def clock_parts(shape: bytes, notation: Notation) -> Sequence[Part] | None:
    """The parts of the canonical time for a shape: 09:05, with seconds if they are written.

    Examples
    --------
    >>> from integrum.values.shapes import rewritten
    >>> import pyarrow as pa
    >>> rewritten(pa.array(["9:05", "12:30:05", "3 pm"]), lambda shape: clock_parts(shape, Notation()))[0].to_pylist()
    ['09:05', '12:30:05', '15:00']
    """
    if notation.format:
        return format_parts(shape, notation, "time")
    return next((_clock(found) for found in _all("time", shape)), None)


@lru_cache(maxsize=1024)
def month_parts(shape: bytes, notation: Notation) -> Sequence[Part] | None:  # noqa: ARG001
    """The parts of the canonical month for a shape: 2024-05.

    Examples
    --------
    >>> from integrum.values.shapes import rewritten
    >>> import pyarrow as pa
    >>> texts = ["05/2024", "May 2024", "2024M05", "mai 2024", "5/2024"]
    >>> rewritten(pa.array(texts), lambda shape: month_parts(shape, Notation()))[0].to_pylist()
    ['2024-05', '2024-05', '2024-05', '2024-05', None]
    """
    for found in _all("month", shape):
        year = Slice(*found.span("Y"))
        if found["m"]:
            return [year, b"-", Slice(*found.span("m"))]
        number = MONTHS.get(plain(found["month"]))
        if number is not None:
            return [year, b"-%02d" % number]
    return None


@lru_cache(maxsize=1024)
def offset_parts(shape: bytes, notation: Notation) -> Sequence[Part] | None:
    """The offset from UTC behind a date with a time: +02:00.

    Examples
    --------
    >>> offset_parts(b"9999-99-99T99:99Z", Notation(zoned=True))
    [b'+00:00']
    """
    if notation.format:
        made = format_parts(shape, notation, "offset")
        if made is not None:
            return made
    for found in _all("moment", shape):
        if found["Z"]:
            return [b"+00:00"]
        if found["offset"]:
            start, stop = found.span("offset")
            sign = found["offset"][0]
            at = start + len(sign.encode())
            minutes: Part = Slice(stop - 2, stop) if stop - at > 2 else b"00"
            return [b"+" if sign == "+" else b"-", Slice(at, at + 2), b":", minutes]
    return None


def _iso_day(shape: bytes) -> Sequence[Part] | None:
    return [Slice(0, len(shape))] if shape == b"9999-99-99" else None


def _iso_moment(shape: bytes, notation: Notation) -> Sequence[Part] | None:
    """The parts of a datetime in ISO 8601, which is read in any format."""
    found = ShapeMatch.of(_patterns("moment")[0], shape)
    if found is None or found["sep"] != "-" or found["weekday"]:
        return None
    if (found["Z"] or found["offset"]) and not notation.zoned:
        return None
    day = _day(found, notation)
    return None if day is None else [*day, b" ", *_clock(found)]


def _all(what: str, shape: bytes) -> Iterator[ShapeMatch]:
    if len(shape) > 60:
        return
    for pattern in _patterns(what):
        found = ShapeMatch.of(pattern, shape)
        if found is not None:
            yield found


def _day(found: ShapeMatch, notation: Notation) -> list[Part] | None:
    if found["weekday"] and plain(found["weekday"]) not in DAYS:
        return None
    if found["month"]:
        number = MONTHS.get(plain(found["month"]))
        if number is None or (found["y"] and notation.date_order in ("ymd", "mdy")):
            return None
        return [*_year(found, notation), b"-%02d-" % number, *two_digits(found, "d")]
    if found["m"]:
        return [*_year(found, notation), b"-", *two_digits(found, "m"), b"-", *two_digits(found, "d")]
    if notation.date_order == "ymd":
        # nobody writes 24.05.01 for the first of May
        if not found["y"] or len(found["one"]) < 2 or found["sep"] != "-":
            return None
        start, _ = found.span("one")
        year: list[Part] = [Century(start, notation.century_from), Slice(start, start + 2)]
        return [*year, b"-", *two_digits(found, "two"), b"-", Slice(*found.span("y"))]
    if notation.date_order not in ("dmy", "mdy"):
        return None
    day, month = ("one", "two") if notation.date_order == "dmy" else ("two", "one")
    return [*_year(found, notation), b"-", *two_digits(found, month), b"-", *two_digits(found, day)]


def _year(found: ShapeMatch, notation: Notation) -> list[Part]:
    if found["Y"]:
        return [Slice(*found.span("Y"))]
    start, stop = found.span("y")
    return [Century(start, notation.century_from), Slice(start, stop)]


def _clock(found: ShapeMatch) -> list[Part]:
    start, stop = found.span("H")
    if found["half"]:
        hour: list[Part] = [Hour(start, stop, found["half"][0] in "Pp")]
    else:
        hour = two_digits(found, "H")
    minutes: Part = Slice(*found.span("M")) if found["M"] else b"00"
    seconds: list[Part] = [b":", Slice(*found.span("S"))] if found["S"] else []
    if found["f"]:
        start, stop = found.span("f")
        seconds += [b".", Slice(start, min(stop, start + 6))]
    return [*hour, b":", minutes, *seconds]
