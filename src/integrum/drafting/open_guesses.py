"""Guesses of a draft that nobody has decided: headers that may belong to a column, values that may be others."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from integrum.drafting.answers import SameName, SameValue
from integrum.plan.decisions import accept_value, refuse_value
from integrum.values.unit_conversion import conversion_to

if TYPE_CHECKING:
    from integrum.drafting.drafted_plan import DraftedPlan


@dataclass(frozen=True)
class OpenGuess:
    """A guess of a draft that nobody has decided.

    Attributes
    ----------
    draft
        The draft.
    column, header
        The column, and the header cell that may belong to it.
    score, because
        The share of right guesses among those like it, and what speaks for it.
    """

    draft: DraftedPlan = field(repr=False)
    column: str
    header: str
    score: float
    because: str

    @property
    def sources(self) -> tuple[int, int]:
        """How many sources have the column, and how many the header."""
        both = (self.draft.known(self.column), self.draft.known(self.header))
        return both[0].count if both[0] else 0, both[1].count if both[1] else 0

    @property
    def examples(self) -> tuple[tuple[str, ...], tuple[str, ...]]:
        """Some values of the column, and some below the header."""
        both = (self.draft.known(self.column), self.draft.known(self.header))
        return both[0].examples if both[0] else (), both[1].examples if both[1] else ()

    @property
    def units_differ(self) -> bool:
        """Whether the two are given in different units, of which one cannot be converted to the other."""
        both = (self.draft.known(self.column), self.draft.known(self.header))
        mine, theirs = (one.given_units if one else () for one in both)
        return bool(mine and theirs) and not any(
            conversion_to(one, other) is not None for one in mine for other in theirs
        )

    def accept(self, why: str = "accepted") -> None:
        """Decide that the header belongs to the column; a column of its own that it had becomes part of that one."""
        self.draft.join(self.column, self.header, why)
        if why in ("accepted", "decided"):  # by a person, and not for its score
            self.draft.answered(SameName(self.column, self.header, True))

    def refuse(self) -> None:
        """Decide that the header never belongs to the column; it is not offered again."""
        self.draft.keep_apart(self.column, self.header)
        self.draft.answered(SameName(self.column, self.header, False))


@dataclass(frozen=True)
class OpenValue:
    """A guess that a value is another one in another spelling.

    Attributes
    ----------
    draft
        The draft.
    column
        The column.
    value, other
        The value, and the one that it may be.
    because
        What speaks for it.
    """

    draft: DraftedPlan = field(repr=False)
    column: str
    value: str
    other: str
    because: str

    def accept(self) -> None:
        """Decide that it is: `values` of the column says so."""
        self.draft.plan = accept_value(self.draft.plan, self.column, self.value)
        self.draft.answered(SameValue(self.column, self.value, self.other, True))

    def refuse(self) -> None:
        """Decide that it is not; it is not offered again."""
        self.draft.plan = refuse_value(self.draft.plan, self.column, self.value)
        self.draft.answered(SameValue(self.column, self.value, self.other, False))
