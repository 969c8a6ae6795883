"""Whether a column is one of dates, of times of a day, or of both; and in which order day and month stand."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import TYPE_CHECKING, cast

from integrum.deciding.decision import Decision
from integrum.deciding.seen import Seen
from integrum.plan.words import DateOrder
from integrum.values.evidence import (
    DATETIME,
    TIME,
    WRITTEN_DATE,
    WRITTEN_DATETIME,
    WRITTEN_TIME,
)
from integrum.values.manner import FIRST_YEAR, ORDERS
from integrum.values.spelling import spelling_of

if TYPE_CHECKING:
    from integrum.deciding.column import Evidence

_ZONED = "zoned "
_SHORT_YEAR = re.compile(r"\s*\d{1,2}(?:[-/.]\d{1,2}[-/.]|\D*[^\W\d_]\D*)['’]?\d{2}(?![\d:/.-])")


def as_time(seen: Sequence[Seen], evidence: Evidence) -> Decision:  # noqa: ARG001
    """Decide about a column whose values are dates or times, all of them.

    Returns a text where day and month cannot be told apart for certain in some source.
    """
    if all(one.kind in (TIME, WRITTEN_TIME) for one in seen):
        return Decision("time", spelling=spelling_of("", max(_digits(one) for one in seen)))
    name = "datetime" if any(one.kind in (DATETIME, WRITTEN_DATETIME) for one in seen) else "date"
    order, reason, advice = order_of(seen)
    if reason:
        return Decision(reasons=(reason,), advice=(*advice, f'type = "{name}"') if advice else ())
    zoned = sum(one.count for one in seen if one.detail.startswith(_ZONED))
    if zoned and zoned < sum(one.count for one in seen):
        have = "1 value has" if zoned == 1 else f"{zoned:,} values have"
        reason = f"{have} an offset from UTC, and the others have none"
        return Decision(reasons=(reason,), advice=('type = "datetime", zone = "UTC" if the others are UTC',))
    notes = _short_years(seen)
    if name == "date":
        return Decision("date", date_order=order, notes=notes)
    digits = max(_digits(one) for one in seen if one.kind in (DATETIME, WRITTEN_DATETIME))
    iso = [one for one in seen if one.kind == DATETIME]
    most = max(iso, key=lambda one: one.count, default=None)
    between = most.raw.strip()[10] if most and most.raw.strip()[10] in "T " else " "
    return Decision(
        "datetime",
        date_order=order,
        zone="UTC" if zoned else "",
        spelling=spelling_of(between, digits),
        notes=notes,
    )


def _short_years(seen: Sequence[Seen]) -> tuple[str, ...]:
    """What years of two digits are taken for, where there are some."""
    if not any(one.kind in (WRITTEN_DATE, WRITTEN_DATETIME) and _SHORT_YEAR.match(one.raw) for one in seen):
        return ()
    return (
        (
            f"years with two digits are read as {FIRST_YEAR} to {FIRST_YEAR + 99}: set century_from to "
            "change that"
        ),
    )


def order_of(seen: Sequence[Seen]) -> tuple[DateOrder, str, tuple[str, ...]]:
    """The order of day, month and year, told for each source from all of its values.

    Returns the order, or the reason why there is none, and what a plan can say.

    Examples
    --------
    >>> open_one = Seen(0, 0, WRITTEN_DATE, 9, 2, "01/05/2024", "dmy mdy")
    >>> order_of([open_one, Seen(0, 0, WRITTEN_DATE, 3, 7, "25/05/2024", "dmy")])
    ('dmy', '', ())
    >>> order_of([open_one])[1]
    'every date in 1 source could be day-month and month-day, such as "01/05/2024"'
    """
    possible: dict[int, set[str]] = {}
    first: dict[int, Seen] = {}
    for one in seen:
        said = set(one.detail.removeprefix(_ZONED).split())
        if one.kind in (WRITTEN_DATE, WRITTEN_DATETIME) and "any" not in said:
            possible[one.source] = possible.get(one.source, set(ORDERS)) & said
            first.setdefault(one.source, one)
    if not possible:
        return "", "", ()
    torn = [number for number, orders in possible.items() if not orders]
    if torn:
        return (
            "",
            (
                f"no order of day and month fits all dates in {_sources(len(torn))}, such as "
                f'"{first[torn[0]].raw}"'
            ),
            (),
        )
    decided = {next(iter(orders)) for orders in possible.values() if len(orders) == 1}
    open_ones = [number for number, orders in possible.items() if len(orders) > 1]
    if len(decided) > 1:
        counts = {order: sum(orders == {order} for orders in possible.values()) for order in sorted(decided)}
        said_counts = ", ".join(f"{order} in {_sources(count)}" for order, count in counts.items())
        return (
            "",
            f"the order of day and month differs: {said_counts}",
            ("date_order for each group of sources",),
        )
    if open_ones:
        orders = possible[open_ones[0]]
        both = " and ".join(_ORDER_WORDS[order] for order in ORDERS if order in orders)
        raw = first[open_ones[0]].raw
        reason = f'every date in {_sources(len(open_ones))} could be {both}, such as "{raw}"'
        best = decided or {order for order in ORDERS if order in orders}
        return (
            "",
            reason,
            (f"date_order = {' or '.join(json_text(order) for order in ORDERS if order in best)}",),
        )
    return cast(DateOrder, decided.pop()), "", ()


_ORDER_WORDS = {"dmy": "day-month", "mdy": "month-day", "ymd": "year-month-day"}


def json_text(text: str) -> str:
    """A text in quotes."""
    return f'"{text}"'


def _sources(count: int) -> str:
    return f"{count:,} source" + ("" if count == 1 else "s")


def _digits(one: Seen) -> int:
    """Digits of the seconds and their parts: in a canonical value by its detail, or else by the first one."""
    if one.kind in (DATETIME, TIME) and one.detail:
        return int(one.detail)
    return seconds_in(one.raw)


def seconds_in(text: str) -> int:
    """How many digits the seconds of a time have, with their parts.

    Examples
    --------
    >>> seconds_in("2024-05-01 12:30"), seconds_in("1.5.2024 12:30:05"), seconds_in("12:30:05.25")
    (0, 2, 4)
    """
    colons = text.split(":")
    if len(colons) < 3:
        return 0
    digits = ""
    for letter in colons[2]:
        if letter not in "0123456789.,":
            break
        digits += letter if letter.isdigit() else ""
    return len(digits)
