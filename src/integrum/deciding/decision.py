"""What is decided about the values of a column."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from integrum.deciding.categories import AlikeValue
from integrum.plan.words import DateOrder
from integrum.values.types import TypeName


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
