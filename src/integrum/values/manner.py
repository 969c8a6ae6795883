"""How the values of a column are written in a source, where that is not the canonical form."""

from __future__ import annotations

from dataclasses import dataclass

ORDERS = ("dmy", "mdy", "ymd")
ORDER_WORDS = {"dmy": "day-month-year", "mdy": "month-day-year", "ymd": "year-month-day"}
# two-digit years stand for the hundred years from this one on, as POSIX has it
FIRST_YEAR = 1969
PERCENT = ("as-written", "share")
# the zone of texts whose local time stays, and whose offset goes to a column of its own
AS_WRITTEN = "as-written"


@dataclass(frozen=True)
class Manner:
    """How values are written."""

    # the marks of numbers; spaces and apostrophes between thousands are read in any case
    decimal_mark: str = "."
    thousands_mark: str = ""
    unit: str = ""  # the unit that may stand behind or before a number
    # whether a percent sign may stand behind a number: ``"as-written"`` (45 % is 45) or ``"share"`` (it is
    # 0.45)
    percent: str = ""
    censored: bool = False  # whether a sign such as ``<`` may stand before a number, or a word instead of it
    # ``"dmy"``, ``"mdy"`` or ``"ymd"``: the order of day, month and year where all are digits
    date_order: str = ""
    # the forms that dates and times have, in POSIX codes; when there are some, no other form is read but
    # ISO 8601
    format: tuple[str, ...] = ()
    century_from: int = FIRST_YEAR  # the first of the hundred years that two-digit years stand for
    zoned: bool = False  # whether a zone or an offset may stand behind a time


PLAIN = Manner()
