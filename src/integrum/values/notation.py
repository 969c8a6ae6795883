"""How values are written in a source, and what is done to them on their way into the table."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Mapping
from dataclasses import dataclass, field, fields
from functools import cached_property

from integrum.values.units import Linear

# a function of the analyst's own
Own = Callable[[str], str | None]

ORDERS = ("dmy", "mdy", "ymd")
ORDER_WORDS = {"dmy": "day-month-year", "mdy": "month-day-year", "ymd": "year-month-day"}
# two-digit years stand for the hundred years from this one on, as POSIX has it
FIRST_YEAR = 1969
PERCENT = ("as-written", "share")
# the zone of texts whose local time stays, and whose offset goes to a column of its own
AS_WRITTEN = "as-written"


@dataclass(frozen=True)
class Notation:
    """How the values of a column are written in a source."""

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


PLAIN = Notation()


@dataclass(frozen=True)
class Conversion:
    """What is done to the texts of a column on their way into the table, in this order."""

    type: str = "text"  # what they are read as
    # texts that stand for "no value": as written, outer spaces aside, or as tidied
    missing: tuple[str, ...] = ()
    # how texts are tidied: parts replaced, letters, whole values replaced
    swap: Mapping[str, str] = field(default_factory=dict)
    case: str = ""
    values: Mapping[str, str] = field(default_factory=dict)
    own: Own | None = None  # A function of your own that reads a text first
    take: str = ""  # ``""`` for the value; ``"sign"`` or ``"offset"`` for what stands beside it
    notation: Notation = PLAIN  # how values are written, where that is not the canonical form
    zone: str = ""  # the zone that times are brought into
    linear: Linear | None = None  # how values become values of the column's unit
    spelling: str = ""  # the one spelling of dates and times
    allowed: tuple[str, ...] = ()  # the only values that there may be
    # the order of day and month that all dates of a source have, where the plan says another one: none of them is read
    contrary: str = ""
    seen: bool = False  # whether a survey has already seen that all of them are canonical

    @cached_property
    def key(self) -> Hashable:
        """A key that is equal for equal conversions; None with a function of the analyst."""
        if self.own is not None:
            return None
        every = (getattr(self, each.name) for each in fields(self))
        return tuple(tuple(one.items()) if isinstance(one, Mapping) else one for one in every)
