"""A decision in plain words, a line each."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from integrum.deciding.decision import Decision, Place
from integrum.problems import clipped, counted
from integrum.values.manner import ORDER_WORDS
from integrum.values.types import TYPES

_SHOWN, _MOST_ALIKE = 3, 8


def decision_lines(decision: Decision, names: Sequence[str]) -> Iterator[str]:
    """What was decided, and why.

    Examples
    --------
    >>> list(decision_lines(Decision("number", missing=(Place("n/a", 6, 0, 102),)), ["vessel-lake"]))
    ['missing code: "n/a" (6, first in vessel-lake, row 102)']
    >>> list(decision_lines(Decision(main="number", against=(Place("broken", 2, 0, 7),), values=270), ["lake"]))
    ['text; would be a number but for 2 of 270 values: 2 × "broken" in lake, first in row 7']
    """
    if decision.missing:
        shown = "; ".join(
            f'"{clipped(one.text, 30)}" ({one.count:,}, first in {names[one.source]}, row {one.row:,})'
            for one in decision.missing[:_SHOWN]
        )
        more = f"; and {len(decision.missing) - _SHOWN:,} more" if len(decision.missing) > _SHOWN else ""
        many = len(decision.missing) > 1
        yield f"missing {'codes' if many else 'code'}: {shown}{more}"
    if decision.bad:
        shown = "; ".join(told(one, names) for one in decision.bad[:_SHOWN])
        more = f"; and {len(decision.bad) - _SHOWN:,} more" if len(decision.bad) > _SHOWN else ""
        count = sum(one.count for one in decision.bad)
        values = "1 value is" if count == 1 else f"{count:,} values are"
        yield f"{values} not {TYPES[decision.type].words}, and will be empty and told: {shown}{more}"
    if reason := why_text(decision, names):
        yield reason
    if decision.advice:
        yield f"if you know it, set {', '.join(decision.advice)}"
    if decision.open_orders:
        first = decision.open_orders[0]
        yield (
            f"if you know it, add {names[first.source]}"
            + (f" and {len(decision.open_orders) - 1:,} more" if len(decision.open_orders) > 1 else "")
            + ' to date_order_in, as in date_order_in = { dmy = ["NAME"] }'
        )
    elif decision.date_order and not any(one.startswith("dates are ") for one in decision.notes):
        yield f"dates are {ORDER_WORDS[decision.date_order]}, as the values in every source show"
    if decision.zone:
        yield "all times have an offset or a zone; they are converted to UTC"
    yield from decision.notes
    for one in decision.alike[:_MOST_ALIKE]:
        yield f'"{clipped(one.value, 30)}" may be "{clipped(one.other, 30)}": {one.because}'
    if len(decision.alike) > _MOST_ALIKE:
        yield f"and {len(decision.alike) - _MOST_ALIKE:,} more that may be different spellings"


def why_text(decision: Decision, names: Sequence[str]) -> str:
    """Why a column is text; an empty text when most of its values are texts anyway.

    `decision`, `names`: as for `decision_lines`.
    """
    if decision.against:
        shown = "; ".join(told(one, names) for one in decision.against[:_SHOWN])
        more = f"; and {len(decision.against) - _SHOWN:,} more" if len(decision.against) > _SHOWN else ""
        count = sum(one.count for one in decision.against)
        return (
            f"text; would be {TYPES[decision.main].words} but for "
            f"{count:,} of {counted(decision.values, 'value')}: {shown}{more}"
        )
    return f"text, because {'; '.join(decision.reasons)}" if decision.reasons else ""


def told(one: Place, names: Sequence[str]) -> str:
    """Some values that look alike, with their first place."""
    first = ", first in row" if one.count > 1 else ", row"
    return f'{one.count:,} × "{clipped(one.text, 30)}" in {names[one.source]}{first} {one.row:,}'
