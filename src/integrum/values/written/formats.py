"""Dates and times in a form that the plan gives in POSIX codes."""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import lru_cache

from integrum.values.notation import Notation
from integrum.values.shapes import Century, Hour, Part, ShapeMatch, Slice, two_digits
from integrum.values.written.absent import DAYS, MONTHS, plain

# numbers that count days or seconds: by the day or the second from which they count
NUMBERED = ("serial-days", "serial-days-1904", "epoch-seconds", "epoch-milliseconds")
_SHORT = {"%T": "%H:%M:%S", "%R": "%H:%M", "%F": "%Y-%m-%d", "%D": "%m/%d/%y", "%r": "%I:%M:%S %p"}
_WORD = r"[^\W\d_]{1,12}\.?"
_CODES = {
    "%Y": "(?P<Y>9999)",
    "%y": "(?P<y>99)",
    "%m": "(?P<m>99?)",
    "%d": "(?P<d>99?)",
    "%e": "(?: ?(?P<d>99?))",
    "%H": "(?P<H>99?)",
    "%I": "(?P<I>99?)",
    "%M": "(?P<M>99?)",
    "%S": "(?P<S>99?)",
    "%f": "(?P<f>9{1,9})",
    "%p": r"(?P<p>[AaPp]\.? ?[Mm]\.?)",
    "%b": f"(?P<b>{_WORD})",
    "%B": f"(?P<b>{_WORD})",
    "%h": f"(?P<b>{_WORD})",
    "%a": f"(?P<a>{_WORD})",
    "%A": f"(?P<a>{_WORD})",
    "%z": "(?:(?P<Z>[Zz])|(?P<z>[+-]99:?99))",
    "%Z": "(?P<Z>Z|UTC|GMT)",
    "%n": r"\s",
    "%t": r"\s",
    "%%": "%",
}


def format_error(text: str) -> str:
    """What is wrong with a format; an empty text when nothing is.

    Examples
    --------
    >>> format_error("%d.%m.%Y"), format_error("%d.%Q"), format_error("%d.%m")
    ('', '"%Q" is not known', 'it has no year')
    """
    if text in NUMBERED:
        return ""
    codes = re.findall("%.?", _spelled_out(text))
    for code in codes:
        if code not in _CODES:
            return f'"{code}" is not known'
    try:
        pattern = _pattern(text)
    except re.error:
        return "it has a part twice"
    groups = set(pattern.groupindex)
    day, clock = groups & {"Y", "y", "m", "b", "d"}, groups & {"H", "I", "M"}
    if not day and not clock:
        return "it has neither a date nor a time"
    for name, options in (("year", "Yy"), ("month", "mb"), ("day", "d")):
        if day and not groups & set(options):
            return f"it has no {name}"
    if clock and not groups & {"H", "I"}:
        return "it has no hour"
    return 'it has "%I", but no "%p"' if "I" in groups and "p" not in groups else ""


@lru_cache(maxsize=4096)
def format_parts(shape: bytes, notation: Notation, wanted: str) -> Sequence[Part] | None:
    """What a text of a shape is rewritten to, by the first of the formats that it has.

    `wanted`: ``"date"``, ``"datetime"``, ``"time"``, or ``"offset"``.

    Examples
    --------
    >>> format_parts(b"99.99.9999", Notation(format=("%d.%m.%Y",)), "date")
    [Slice(start=6, stop=10), b'-', Slice(start=3, stop=5), b'-', Slice(start=0, stop=2)]
    """
    for text in notation.format:
        if text in NUMBERED:
            continue
        pattern = _pattern(text)
        found = ShapeMatch.of(pattern, shape)
        if found is not None:
            made = _made(found, frozenset(pattern.groupindex), notation, wanted)
            if made is not None:
                return made
    return None


def _spelled_out(text: str) -> str:
    for short, long in _SHORT.items():
        text = text.replace(short, long)
    return text


@lru_cache(maxsize=256)
def _pattern(text: str) -> re.Pattern[str]:
    made, before = "", ""
    parts = re.findall("%.|[^%]", _spelled_out(text))
    for at, part in enumerate(parts):
        if part not in _CODES:
            made, before = made + re.escape(part), part
            continue
        code = _CODES[part]
        numeric = "99?" in code
        after = parts[at + 1] if at + 1 < len(parts) else ""
        if numeric and (
            before.startswith("%") or after.startswith("%") or before.isdigit() or after.isdigit()
        ):
            code = code.replace("99?", "99")  # digits side by side have their full width
        made, before = made + code, part
    return re.compile(rf"\s*{made}\s*")


def _made(found: ShapeMatch, groups: frozenset[str], notation: Notation, wanted: str) -> list[Part] | None:
    if "a" in groups and plain(found["a"]) not in DAYS:
        return None
    if wanted == "offset":
        return _offset(found, groups)
    if groups & {"Z", "z"} and not notation.zoned:
        return None
    day, clock = bool(groups & {"Y", "y"}), bool(groups & {"H", "I"})
    if wanted == "time":
        return None if day or not clock else _clock(found, groups)
    if not day or (wanted == "date" and clock):
        return None
    made = _date(found, groups, notation)
    if made is None or wanted == "date":
        return made
    return [*made, b" ", *(_clock(found, groups) if clock else [b"00:00"])]


def _date(found: ShapeMatch, groups: frozenset[str], notation: Notation) -> list[Part] | None:
    year: list[Part]
    if "Y" in groups:
        year = [Slice(*found.span("Y"))]
    else:
        start, stop = found.span("y")
        year = [Century(start, notation.century_from), Slice(start, stop)]
    if "b" in groups:
        number = MONTHS.get(plain(found["b"]))
        if number is None:
            return None
        month: list[Part] = [b"%02d" % number]
    else:
        month = two_digits(found, "m")
    return [*year, b"-", *month, b"-", *two_digits(found, "d")]


def _clock(found: ShapeMatch, groups: frozenset[str]) -> list[Part]:
    hour = [Hour(*found.span("I"), found["p"][0] in "Pp")] if "I" in groups else two_digits(found, "H")
    seconds = [b":", *two_digits(found, "S")] if "S" in groups else []
    if "f" in groups and seconds:
        start, stop = found.span("f")
        seconds += [b".", Slice(start, min(stop, start + 6))]
    return [*hour, b":", *(two_digits(found, "M") if "M" in groups else [b"00"]), *seconds]


def _offset(found: ShapeMatch, groups: frozenset[str]) -> list[Part] | None:
    if "Z" in groups and found["Z"]:
        return [b"+00:00"]
    if "z" not in groups or not found["z"]:
        return None
    start, stop = found.span("z")
    return [Slice(start, start + 3), b":", Slice(stop - 2, stop)]
