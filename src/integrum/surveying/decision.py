"""What is decided about the values of a column, and how it is told."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from integrum.plan.fields import DateOrder
from integrum.problems.problem import clipped, counted
from integrum.surveying.categories import AlikeValue
from integrum.values.notation import ORDER_WORDS
from integrum.values.types import TYPES, TypeName

_SHOWN, _MOST_ALIKE = 3, 8


@dataclass(frozen=True)
class Place:
    """Some values that look alike: how often, and where the first of them is."""

    text: str
    count: int
    source: int
    row: int


@dataclass(frozen=True)
class Decision:
    """The type of a column, and how its values are written."""

    type: TypeName = "text"  # the narrowest type that takes all values but those that say that there is none
    missing: tuple[Place, ...] = ()  # the texts that say so, the most frequent first
    main: str = ""  # of a text column: what most of its values are; empty where they are texts
    against: tuple[Place, ...] = ()  # then the values that are not, the most frequent first
    values: int = 0
    bad: tuple[Place, ...] = ()  # of a column of another type: the few values that are not of it
    reasons: tuple[str, ...] = ()  # what else makes it text
    # as a column of a plan has them; `unit` is that which stands behind the values
    date_order: DateOrder = ""
    orders: Mapping[int, str] = field(default_factory=dict)  # that of each source whose dates have one
    open_orders: tuple[Place, ...] = ()  # the first date of each source that does not show its order
    format: tuple[str, ...] = ()
    zone: str = ""
    spelling: str = ""
    unit: str = ""
    censored: bool = False
    notes: tuple[str, ...] = ()  # what else there is to say
    advice: tuple[str, ...] = ()  # what a plan can say where the evidence does not decide
    alike: tuple[AlikeValue, ...] = ()  # values that may be one category in several spellings

    @property
    def is_doubtful(self) -> bool:
        """Whether it is text though many of its values are not."""
        return bool(self.against or self.reasons)


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
    """Values that look alike in words, with their first place."""
    first = ", first in row" if one.count > 1 else ", row"
    return f'{one.count:,} × "{clipped(one.text, 30)}" in {names[one.source]}{first} {one.row:,}'
