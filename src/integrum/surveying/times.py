"""Whether a column is one of dates, of times of a day, or of both; and in which order day and month stand."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Hashable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import cast

from integrum.plan.fields import DateOrder
from integrum.problems.problem import counted
from integrum.surveying.decision import Decision, Place
from integrum.surveying.seen import Evidence, Seen
from integrum.values.evidence import DATETIME, NUMBER, TIME, WRITTEN_DATE, WRITTEN_DATETIME, WRITTEN_TIME
from integrum.values.notation import FIRST_YEAR, ORDER_WORDS, ORDERS
from integrum.values.spelling import spelling_of
from integrum.values.types import TypeName

_ZONED = "zoned "
_SHORT_YEAR = re.compile(r"\s*\d{1,2}(?:[-/.]\d{1,2}[-/.]|\D*[^\W\d_]\D*)['’]?\d{2}(?![\d:/.-])")


def as_time(seen: Sequence[Seen], evidence: Evidence, counts: Sequence[Seen] = ()) -> Decision:
    """Decide about a column of dates or times.

    `counts`: numbers of some sources that are dates, too: they count days as spreadsheets do.

    Returns a text where day and month cannot be told apart in any source.
    """
    if all(one.kind in (TIME, WRITTEN_TIME) for one in seen):
        return Decision("time", spelling=spelling_of("", max(_digits(one) for one in seen)))
    name = "datetime" if any(one.kind in (DATETIME, WRITTEN_DATETIME) for one in seen) else "date"
    orders = orders_of(seen, evidence.office, evidence.orders)
    if orders.reason:
        advice = (*orders.advice, f'type = "{name}"') if orders.advice else ()
        return Decision(reasons=(orders.reason,), advice=advice)
    if counts and len({*orders.every.values()}) > 1:
        return Decision(reasons=("dates in several orders, and numbers that may be days",))
    zoned = sum(one.count for one in seen if one.detail.startswith(_ZONED))
    if zoned and zoned < sum(one.count for one in seen):
        have = "1 value has" if zoned == 1 else f"{zoned:,} values have"
        reason = f"{have} an offset from UTC, and the others have none"
        return Decision(reasons=(reason,), advice=('type = "datetime", zone = "UTC" if the others are UTC',))
    made = Decision(
        cast(TypeName, name),
        date_order=orders.main,
        orders=orders.every,
        open_orders=orders.open,
        notes=(*orders.notes, *_short_years(seen)),
    )
    if counts:
        many = sum(one.count for one in counts)
        said = f'{counted(many, "number")} such as "{counts[0].raw}" {"is" if many == 1 else "are"} read as the days that '
        made = replace(made, format=("serial-days",), notes=(*made.notes, f"{said}spreadsheets count"))
        if any(one.kind == NUMBER for one in counts):
            made = replace(made, type="datetime", spelling=spelling_of(" ", 2))
    if made.type == "date":
        return made
    if name == "date":
        return made
    digits = max(_digits(one) for one in seen if one.kind in (DATETIME, WRITTEN_DATETIME))
    iso = [one for one in seen if one.kind == DATETIME]
    most = max(iso, key=lambda one: one.count, default=None)
    between = most.raw.strip()[10] if most and most.raw.strip()[10] in "T " else " "
    return replace(made, zone="UTC" if zoned else "", spelling=spelling_of(between, digits))


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


@dataclass(frozen=True)
class Orders:
    """In which order day and month stand, by source."""

    main: DateOrder = ""  # in most sources; empty where sources are left open
    every: Mapping[int, str] = field(default_factory=dict)  # that of each source
    open: tuple[Place, ...] = ()  # the first date of each source that does not show it
    # why nothing can be said, and what a plan can say then
    reason: str = ""
    advice: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()


def orders_of(
    seen: Sequence[Seen],
    office: Callable[[Seen], Hashable] = lambda _: None,
    steps: Mapping[tuple[int, int], str] | None = None,
) -> Orders:
    """The order of day, month and year, told for each source from all of its values.

    A source that shows nothing is read as those that are written like it, where all of these that show it agree.

    Parameters
    ----------
    seen
        The dates.
    office
        What sources have in common that are written alike.
    steps
        By source and position the order that the steps between the times show.

    Examples
    --------
    >>> open_one = Seen(0, 0, WRITTEN_DATE, 9, 2, "01/05/2024", "dmy mdy")
    >>> orders_of([open_one, Seen(0, 0, WRITTEN_DATE, 3, 7, "25/05/2024", "dmy")]).main
    'dmy'
    >>> orders_of([open_one]).reason
    'every date in 1 source could be day-month and month-day, such as "01/05/2024"'
    >>> other = Seen(1, 0, WRITTEN_DATE, 3, 7, "25/05/2024", "dmy")
    >>> orders_of([open_one, other]).main, orders_of([open_one, other], lambda one: one.source).open
    ('dmy', (Place(text='01/05/2024', count=9, source=0, row=2),))
    """
    possible: dict[int, set[str]] = {}
    first: dict[int, Seen] = {}
    for one in seen:
        said = set(one.detail.removeprefix(_ZONED).split())
        if one.kind in (WRITTEN_DATE, WRITTEN_DATETIME) and "any" not in said:
            possible[one.source] = possible.get(one.source, set(ORDERS)) & said
            first.setdefault(one.source, one)
    if not possible:
        return Orders()
    by_steps = {
        number: order
        for number, one in first.items()
        if (order := (steps or {}).get((number, one.position), "")) in possible[number]
        and len(possible[number]) > 1
    }
    possible |= {number: {order} for number, order in by_steps.items()}
    torn = [number for number, orders in possible.items() if not orders]
    shown = {number: next(iter(orders)) for number, orders in possible.items() if len(orders) == 1}
    if not shown:
        return _undecided(possible, first, torn)
    offices: dict[Hashable, set[str]] = {}
    for number, order in shown.items():
        offices.setdefault(office(first[number]), set()).add(order)
    followed: dict[int, str] = {}
    for number, orders in possible.items():
        like = offices.get(office(first[number]), set()) & orders
        if len(orders) > 1 and len(offices.get(office(first[number]), ())) == 1 and like:
            followed[number] = next(iter(like))
    every = {**shown, **followed}
    left = tuple(_place(first[number]) for number in possible if number not in every)
    counts = Counter(every.values())
    main = "" if left else max(counts, key=lambda order: (counts[order], order))
    notes = [*_order_notes(shown, followed, left, torn, first)]
    if by_steps:
        notes.append(
            f"in {_sources(len(by_steps))} the steps between the times show the order: in the other one they would jump by "
            "weeks at midnight"
        )
    return Orders(cast(DateOrder, main), every, left, notes=tuple(notes))


def _undecided(possible: Mapping[int, set[str]], first: Mapping[int, Seen], torn: Sequence[int]) -> Orders:
    """The decision where no source shows its order."""
    if torn:
        reason = f"no order of day and month fits all dates in {_sources(len(torn))}, such as "
        return Orders(reason=f'{reason}"{first[torn[0]].raw}"')
    number, orders = next(iter(possible.items()))
    both = " and ".join(_ORDER_WORDS[order] for order in ORDERS if order in orders)
    reason = f'every date in {_sources(len(possible))} could be {both}, such as "{first[number].raw}"'
    return Orders(
        reason=reason,
        advice=(f"date_order = {' or '.join(json_text(order) for order in ORDERS if order in orders)}",),
    )


def _order_notes(
    shown: Mapping[int, str],
    followed: Mapping[int, str],
    left: Sequence[Place],
    torn: Sequence[int],
    first: Mapping[int, Seen],
) -> Iterator[str]:
    """Notes on orders that differ between sources, or that not every source shows."""
    counts = Counter(shown.values())
    if len(counts) > 1:
        said = " and ".join(
            f"{ORDER_WORDS[order]} in {_sources(count)}" for order, count in counts.most_common()
        )
        yield f"dates are {said}, as the values of each show"
    elif followed or left:
        order, count = next(iter(counts.items()))
        yield f"dates are {ORDER_WORDS[order]}, as the values in {_sources(count)} show"
    if followed:
        one = first[min(followed)]
        yield (
            f'the dates in {_sources(len(followed))} could be read in two ways, such as "{one.raw}"; they are read '
            "as in the sources that are written alike"
        )
    if left:
        why = "fit no order" if len(torn) == len(left) else "could be read in two ways"
        yield f'the dates in {_sources(len(left))} {why}, such as "{left[0].text}", and are not read'


def _place(one: Seen) -> Place:
    return Place(one.raw, one.count, one.source, one.row)


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
