"""Whether a column is one of numbers, of days that are counted, or of true and false."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from integrum.problems.problem import counted
from integrum.surveying.decision import Decision
from integrum.surveying.missing import first_places
from integrum.surveying.seen import Evidence, Range, Seen, is_mostly
from integrum.values.evidence import (
    BOOLEAN,
    CENSORED,
    DATE,
    DATETIME,
    INTEGER,
    MARKS,
    NUMBER,
    WRITTEN_BOOLEAN,
    WRITTEN_DATE,
    WRITTEN_DATETIME,
    WRITTEN_NUMBER,
    letter_of,
)
from integrum.values.types.boolean import PAIRS
from integrum.values.units import same_unit

_WHOLE = "w"
_CODE = re.compile(r"\d+[A-Za-z]")
# the day of spreadsheets on which 1970 begins, and the days of a year
_DAY_OF_1970, _YEAR = 25_569, 365.25
# the counts may lie this many years before and behind the dates that are written as such
_YEARS = 6
_YEAR_IN = re.compile(r"(?<![0-9])(?:1[89]|20)[0-9]{2}(?![0-9])")
_DAYS = frozenset({DATE, DATETIME, WRITTEN_DATE, WRITTEN_DATETIME})


def as_number(seen: Sequence[Seen], evidence: Evidence) -> Decision:
    """Decide about a column whose values are numbers, all of them.

    Returns a text where some are written with other marks than their source is read with, or have several units.
    """
    if all(one.kind == CENSORED for one in seen):
        return Decision()
    if evidence.open:
        mark = next(letter for letter in evidence.open[0].text if letter in ",.")
        return Decision(reasons=(_two_numbers(evidence.open[0].text),), advice=_which_mark(mark))
    units: dict[str, int] = {}
    whole = True
    other = [one for one in seen if _has_other_marks(one, evidence)]
    if other and not is_mostly(other, seen):
        marks = other[0].detail.partition(" ")[0]
        return Decision(reasons=(_other_marks(other[0], marks),), advice=_mark_advice(marks))
    seen = [one for one in seen if one not in other]
    for one in seen:
        marks, _, unit = one.detail.partition(" ") if one.kind in (WRITTEN_NUMBER, CENSORED) else ("", "", "")
        if one.kind == CENSORED and not _has_marks(marks, one):
            continue  # a word, and no number
        whole &= one.kind == INTEGER or _WHOLE in marks
        if unit or one.kind in (WRITTEN_NUMBER, NUMBER, INTEGER):
            known = next((each for each in units if same_unit(each, unit)), unit)
            units[known] = units.get(known, 0) + one.count
    said = [unit for unit in units if unit]
    bare = units.get("", 0)
    wrong = _units_differ(said, evidence) or _as_shares(said, bare, seen, evidence)
    wrong = wrong or (_as_code(seen) if whole and bare and not evidence.unit else "")
    if wrong:
        return Decision(reasons=(wrong,))
    unit = said[0] if said else ""
    notes = [f'"{unit}" stands beside the number in {_values(units[unit])}'] if unit else []
    if unit and bare and not evidence.unit:
        notes.append(f"{_values(bare)} without a unit {'are' if bare > 1 else 'is'} taken as {unit}, too")
    if evidence.settled is not None:
        mark = (evidence.marks or {}).get(evidence.settled.source, (".", ""))[0]
        which = "a decimal mark" if mark in evidence.settled.text else "between thousands"
        notes.append(f'in "{evidence.settled.text}" the mark is {which}, as other numbers show')
    censored = [one for one in seen if one.kind == CENSORED]
    if censored:
        count, first = sum(one.count for one in censored), censored[0].raw.strip()
        are = f'"{first}" is' if count == 1 else f'{count:,} values such as "{first}" are'
        notes.append(f"{are} below or above what can be measured: the sign goes into a column of its own")
    return Decision(
        "integer" if whole else "number",
        unit="" if evidence.unit else unit,
        censored=bool(censored),
        notes=tuple(notes),
        bad=first_places(other),
    )


def _as_code(seen: Sequence[Seen]) -> str:
    """Why a unit may rather be a part of a code, such as ``12A`` among whole numbers."""
    values: dict[tuple[int, int], int] = {}
    for one in seen:
        place = (one.source, one.position)
        values[place] = values.get(place, 0) + one.count
    for one in seen:
        said = one.raw.strip()
        if _CODE.fullmatch(said) and 2 * one.count < values[one.source, one.position]:
            return f'"{said}" may be a code, or {said[:-1]} with the unit {said[-1]}'
    return ""


def _has_other_marks(one: Seen, evidence: Evidence) -> bool:
    """Whether a number is written with other marks than its source is read with."""
    if one.kind not in (WRITTEN_NUMBER, CENSORED):
        return False
    marks = one.detail.partition(" ")[0]
    if one.kind == CENSORED and not _has_marks(marks, one):
        return False  # a word, and no number
    return _letter(one, evidence) not in marks


def _values(count: int) -> str:
    return counted(count, "value")


def _has_marks(marks: str, one: Seen) -> bool:
    return bool(marks) and set(marks) <= {*MARKS, _WHOLE} and any(letter.isdigit() for letter in one.raw)


def _letter(one: Seen, evidence: Evidence) -> str:
    return letter_of(*(evidence.marks or {}).get(one.source, (".", "")))


def _other_marks(one: Seen, marks: str) -> str:
    plain = marks.replace(_WHOLE, "")
    if {*plain} & {"p", "t"} and {*plain} & {"c", "d"}:
        return _two_numbers(one.raw)
    plain = plain[:1]
    what = {
        "c": "a decimal comma",
        "t": "commas between thousands",
        "d": "a decimal comma and points between thousands",
    }
    have = "has" if one.count == 1 else "have"
    mark = what.get(plain, "a decimal point")
    return f'{counted(one.count, "value")} such as "{one.raw}" {have} {mark}, unlike the layout of the source'


def _two_numbers(raw: str) -> str:
    return f'"{raw}" can be read as two different numbers'


def _which_mark(mark: str) -> tuple[str, ...]:
    """A mark as a plan names it."""
    other = "." if mark == "," else ","
    return (
        f'type = "number" for the column, and in the layout decimal_mark = "{mark}", or decimal_mark = "{other}" and '
        f'thousands_mark = "{mark}"',
    )


def _mark_advice(marks: str) -> tuple[str, ...]:
    decimal, thousands = MARKS[marks[0]]
    return (
        f'decimal_mark = "{decimal}"'
        + (f', thousands_mark = "{thousands}"' if thousands else "")
        + " in the layout",
    )


def _units_differ(said: Sequence[str], evidence: Evidence) -> str:
    header = evidence.unit
    if len(said) > 1:
        return f"values have different units: {', '.join(said[:4])}"
    if said and header and not same_unit(said[0], header):
        return f'the header gives the unit {header}, and values have "{said[0]}"'
    return ""


def _as_shares(said: Sequence[str], bare: int, seen: Sequence[Seen], evidence: Evidence) -> str:
    """Why values without ``%`` may be shares, where other values have it."""
    if not bare or said[:1] != ["%"]:
        return ""
    signed, plain = set[tuple[int, int]](), set[tuple[int, int]]()
    for one in seen:
        has_sign = one.kind == WRITTEN_NUMBER and one.detail.endswith(" %")
        (signed if has_sign else plain).add((one.source, one.position))
    for each in evidence.ranges:
        place = (each.source, each.position)
        if place in plain and abs(each.least if place in signed else each.median) <= 1:
            have = "1 value has" if bare == 1 else f"{bare:,} values have"
            return f'{have} no "%" and may be shares, and the others have it'
    return ""


@dataclass(frozen=True)
class SerialDays:
    """Dates of a column, of which some sources have the serial number of the day."""

    dates: list[Seen]
    numbers: list[Seen]


def serial_days(typed: Sequence[Seen], evidence: Evidence) -> SerialDays | None:
    """The dates and the counts of a column, where sources have the one or the other and both lie in the same years.

    Examples
    --------
    >>> from integrum.surveying.seen import Evidence
    >>> from integrum.surveying.seen import Range
    >>> seen = [Seen(0, 0, DATE, 30, 2, "2024-05-01"), Seen(1, 0, INTEGER, 30, 2, "45413")]
    >>> serial_days(seen, Evidence(seen, [Range(1, 0, 30, 45413, 45442)])) is not None
    True
    >>> serial_days(seen, Evidence(seen, [Range(1, 0, 30, 1200, 1230)]))
    """
    dates = [one for one in typed if one.kind in _DAYS]
    numbers = [one for one in typed if one.kind in (INTEGER, NUMBER) and not one.detail]
    if not dates or not numbers or len(dates) + len(numbers) < len(typed):
        return None
    if {one.source for one in dates} & {one.source for one in numbers}:
        return None
    years = [int(found[0]) for one in dates if (found := _YEAR_IN.search(one.raw))]
    ranges = [one for one in evidence.ranges if one.source in {each.source for each in numbers}]
    if not years or not ranges:
        return None
    least, greatest = (
        1970 + (day - _DAY_OF_1970) / _YEAR
        for day in (min(one.least for one in ranges), max(one.greatest for one in ranges))
    )
    near = min(years) - _YEARS <= least and greatest <= max(years) + _YEARS
    return SerialDays(dates, numbers) if near else None


def as_boolean(seen: Sequence[Seen], ranges: Sequence[Range]) -> Decision | None:
    """Decide about a column with words of truth; None where it has others, or a word without its opposite.

    Examples
    --------
    >>> yes, no = Seen(0, 0, WRITTEN_BOOLEAN, 5, 2, "yes", "yes"), Seen(1, 0, WRITTEN_BOOLEAN, 3, 2, "no", "no")
    >>> as_boolean([yes, no], ()).type, as_boolean([yes], ())
    ('boolean', None)
    """
    if any(one.kind not in (BOOLEAN, WRITTEN_BOOLEAN, INTEGER) for one in seen):
        return None
    if any(one.kind == INTEGER for one in seen) and any(one.least < 0 or one.greatest > 1 for one in ranges):
        return None
    words = {one.detail.casefold() for one in seen if one.kind == WRITTEN_BOOLEAN}
    for word in words:
        opposites = {other for pair in PAIRS if word in pair for other in pair if other != word}
        if not opposites & words and not (opposites & {"true", "false"}):
            return None
    return Decision("boolean")
