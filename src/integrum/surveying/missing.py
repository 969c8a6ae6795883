"""Missing codes: words that say that there is no value, and numbers far outside the range of all others."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from functools import lru_cache

from integrum.surveying.decision import Place
from integrum.surveying.seen import Range, Seen
from integrum.surveying.thresholds import (
    CODE_APART,
    CODE_BEYOND,
    CODE_DIGITS,
    CODE_MAYBE,
    CODE_SURE,
    CODE_TIMES,
    CODES,
)
from integrum.values.evidence import INTEGER, NUMBER, TEXT
from integrum.values.written.absent import AMONG_NUMBERS, CLEAR

# a code among codes is so short, and this many of the others are like it
_SHORT, _MOSTLY = 3, 0.6


@lru_cache(1 << 14)
def is_absent_word(text: str, among_numbers: bool = True) -> bool:
    """Whether a text says that there is no value.

    `among_numbers`: whether it stands among numbers or times, where a lone point or ``NA`` can mean nothing else.

    Examples
    --------
    >>> is_absent_word("n/a"), is_absent_word("-"), is_absent_word("-", among_numbers=False), is_absent_word("none at all")
    (True, True, False, False)
    """
    plain = text.strip().lower()
    return bool(plain) and (plain in CLEAR or (among_numbers and plain in AMONG_NUMBERS))


def is_of_kind(word: str, others: Mapping[str, int], is_shown: bool = False) -> bool:
    """Whether a word for "no value" is written like the other values of a text column, so that it is a value.

    Parameters
    ----------
    others
        The texts of the column and how often each is there; it may be among them.
    is_shown
        Whether columns beside it show that it stands for no value; then it has to be a short code among codes as long.

    Examples
    --------
    >>> names = {"Reed": 3, "Pike": 2, "Null": 1}
    >>> is_of_kind("Null", names), is_of_kind("null", names), is_of_kind("n/a", names)
    (True, False, False)
    >>> is_of_kind("NA", {"DE": 1, "NA": 1, "FR": 2}, True), is_of_kind("NA", {"REED": 1, "SAND": 2}, True)
    (True, False)
    """
    style = _style(word)
    rest = {text: count for text, count in others.items() if text != word and not is_absent_word(text)}
    total = sum(rest.values())
    if not style or not total:
        return False
    alike = [text for text in rest if _style(text) == style]
    if is_shown:
        alike = [text for text in alike if len(text) == len(word) <= _SHORT]
    return sum(rest[text] for text in alike) >= _MOSTLY * total


def _style(text: str) -> str:
    """How the letters of one word are written; empty for several words, and for signs."""
    plain = text.strip()
    if not plain.isalpha():
        return ""
    return "lower" if plain.islower() else "upper" if plain.isupper() else "title" if plain.istitle() else ""


def codes_among(seen: Sequence[Seen], ranges: Sequence[Range]) -> tuple[tuple[Place, ...], list[Seen]]:
    """Split numbers into missing codes and the rest.

    Returns the codes, and what is no code.

    `seen`: what is typed in a column; numbers that may be codes have themselves as detail.

    Examples
    --------
    >>> seen = [Seen(0, 0, NUMBER, 90, 2, "7.2"), Seen(0, 0, INTEGER, 1, 40, "-999", "-999")]
    >>> [one.text for one in codes_among(seen, [Range(0, 0, 90, 1.5, 12.0)])[0]]
    ['-999']
    >>> codes_among(seen, [Range(0, 0, 90, -2500.0, 12.0)])[0]
    ()
    """
    maybe = [one for one in seen if one.detail and one.kind in (INTEGER, NUMBER)]
    count = sum(one.count for one in ranges)
    if not maybe or not count:
        return (), list(seen)
    least, greatest = min(one.least for one in ranges), max(one.greatest for one in ranges)
    times: dict[float, int] = {}
    for one in maybe:
        times[value_of(one.detail)] = times.get(value_of(one.detail), 0) + one.count
    codes: set[float] = set()
    # the nearest first: what is no code belongs to the range of the others
    for value in sorted(times, key=lambda each: least - each if each < least else each - greatest):
        if _is_code(value, times[value], least, greatest, count):
            codes.add(value)
        else:
            least, greatest = min(least, value), max(greatest, value)
    found: dict[str, Place] = {}
    for one in maybe:
        if value_of(one.detail) in codes:
            before = found.get(one.detail)
            place = Place(one.detail, one.count, one.source, one.row)
            found[one.detail] = replace(before, count=before.count + one.count) if before else place
    rest = [one for one in seen if not (is_code(one) and value_of(one.detail) in codes)]
    return tuple(found.values()), rest


def is_code(one: Seen) -> bool:
    """Whether numbers can be nothing but a missing code among dates, times, or words for true and false.

    Examples
    --------
    >>> is_code(Seen(0, 0, INTEGER, 2, 9, "-999", "-999")), is_code(Seen(0, 0, INTEGER, 2, 9, "1"))
    (True, False)
    """
    return one.kind in (INTEGER, NUMBER) and bool(one.detail) and value_of(one.detail) in CODES


def value_of(text: str) -> float:
    """The number that a text of plain digits is."""
    plain = text.strip().replace(" ", "").replace("−", "-")
    return float(
        plain.replace(",", ".") if plain.count(",") == 1 and "." not in plain else plain.replace(",", "")
    )


def _is_code(value: float, times: int, least: float, greatest: float, count: int) -> bool:
    width = max(greatest - least, abs(greatest), abs(least), 1e-9) if count > 1 else max(abs(greatest), 1.0)
    if value < 0:
        if least >= 0:  # where nothing else is below zero, digits of one kind mean nothing else
            return value <= CODE_SURE or (value <= CODE_MAYBE and times >= CODE_TIMES)
        return least - value > CODE_APART * width and (times >= CODE_TIMES or value < 10 * least)
    digits = len(str(int(value)))
    beyond = value > CODE_BEYOND * max(greatest, 0.0) and value - greatest > CODE_APART * width
    return beyond and times >= CODE_TIMES and digits >= CODE_DIGITS


def first_places(seen: Iterable[Seen]) -> tuple[Place, ...]:
    """The texts of some values with their number and their first place, the most frequent first."""
    found: dict[str, Place] = {}
    for one in seen:
        said = said_by(one)
        before = found.get(said)
        place = Place(said, one.count, one.source, one.row)
        found[said] = replace(before, count=before.count + one.count) if before else place
    return tuple(sorted(found.values(), key=lambda one: -one.count))


def said_by(one: Seen) -> str:
    """The text of some values, as a missing code is written."""
    return one.detail if one.detail and (one.kind == TEXT or is_code(one)) else one.raw
