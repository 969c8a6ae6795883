"""Numbers beside dates that are the same dates: spreadsheets count days, and some exports show the count."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from integrum.deciding.seen import Evidence, Seen
from integrum.values.evidence import DATE, DATETIME, INTEGER, NUMBER, WRITTEN_DATE, WRITTEN_DATETIME

# the day of spreadsheets on which 1970 begins, and the days of a year
_DAY_OF_1970, _YEAR = 25_569, 365.25
# the counts may lie so many years before and behind the dates that are written as such
_YEARS = 6
_YEAR_IN = re.compile(r"(?<![0-9])(?:1[89]|20)[0-9]{2}(?![0-9])")
_DAYS = frozenset({DATE, DATETIME, WRITTEN_DATE, WRITTEN_DATETIME})


@dataclass(frozen=True)
class SerialDays:
    """A column of dates of which some sources have the count of days."""

    dates: list[Seen]
    numbers: list[Seen]


def serial_days(typed: Sequence[Seen], evidence: Evidence) -> SerialDays | None:
    """The dates and the counts of a column, where sources have the one or the other and both lie in the same years.

    Examples
    --------
    >>> from integrum.deciding.seen import Evidence
    >>> from integrum.deciding.seen import Range
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
