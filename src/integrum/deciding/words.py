"""A decision in plain words, a line each."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from integrum.deciding.decision import Decision, Place
from integrum.problems import clipped

_SHOWN, _MOST_ALIKE = 3, 8
_PLURALS = {"number": "numbers", "date": "dates", "time": "times", "boolean": "true or false"}


def decision_lines(decision: Decision, names: Sequence[str]) -> Iterator[str]:
    """What was decided, and why.

    Parameters
    ----------
    decision
        The decision.
    names
        The names of the sources by number.

    Examples
    --------
    >>> list(decision_lines(Decision("number", missing=(Place("n/a", 6, 0, 102),)), ["vessel-lake"]))
    ['"n/a" (6, first in vessel-lake, row 102) is taken for "no value"']
    >>> list(decision_lines(Decision(main="number", against=(Place("broken", 2, 0, 7),)), ["vessel-lake"]))
    ['text, as not all values are numbers: 2 × "broken" in vessel-lake, first in row 7']
    """
    if decision.missing:
        shown = "; ".join(
            f'"{clipped(one.text, 30)}" ({one.count:,}, first in {names[one.source]}, row {one.row:,})'
            for one in decision.missing[:_SHOWN]
        )
        more = f"; and {len(decision.missing) - _SHOWN:,} more" if len(decision.missing) > _SHOWN else ""
        many = len(decision.missing) > 1
        yield f'{shown}{more} {"are" if many else "is"} taken for "no value"'
    if reason := why_text(decision, names):
        yield reason
    if decision.advice:
        yield f"say it if you know it: {', '.join(decision.advice)}"
    if decision.date_order:
        yield f"the dates are {_ORDERS[decision.date_order]}, as their values show in every source"
    if decision.zone:
        yield "all times have an offset or a zone: they are converted to UTC"
    yield from decision.notes
    for one in decision.alike[:_MOST_ALIKE]:
        yield f'"{clipped(one.value, 30)}" may be "{clipped(one.other, 30)}": {one.because}'
    if len(decision.alike) > _MOST_ALIKE:
        yield f"and {len(decision.alike) - _MOST_ALIKE:,} more that may be others in another spelling"


def why_text(decision: Decision, names: Sequence[str]) -> str:
    """Why a column is text; an empty text when most of its values are texts anyway.

    Parameters
    ----------
    decision, names
        As for `decision_lines`.
    """
    if decision.against:
        shown = "; ".join(_told(one, names) for one in decision.against[:_SHOWN])
        more = f"; and {len(decision.against) - _SHOWN:,} more" if len(decision.against) > _SHOWN else ""
        return f"text, as not all values are {_PLURALS[decision.main]}: {shown}{more}"
    return f"text, as {'; '.join(decision.reasons)}" if decision.reasons else ""


def _told(one: Place, names: Sequence[str]) -> str:
    first = ", first in row" if one.count > 1 else ", row"
    return f'{one.count:,} × "{clipped(one.text, 30)}" in {names[one.source]}{first} {one.row:,}'


_ORDERS = {"dmy": "day-month-year", "mdy": "month-day-year", "ymd": "year-month-day"}
