"""A column of the table: its name, its type, and the header cells that belong to it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from integrum.plan.checks import one_of, pairs, set_on, text, texts, texts_or, yes_or_no
from integrum.plan.fields import HOLDS
from integrum.values.pipeline import CASES
from integrum.values.types import TYPES


@dataclass(frozen=True)
class Also:
    """Another header cell of a column, and what is known about the values below it.

    Parameters
    ----------
    header
        The header cell.
    unit
        The unit of its values, where the source does not give it.

    Raises
    ------
    PlanError
        When a value is not a text.

    Examples
    --------
    >>> Column("water_temp", "number", unit="degC", also=["Temp", Also("T", unit="°C")]).headers
    ('water_temp', 'Temp', 'T')
    """

    header: str
    unit: str = ""

    def __post_init__(self) -> None:
        text(self.header, "header")
        text(self.unit, "unit", empty=True)


@dataclass(frozen=True)
class Column:
    """One column of the table.

    Parameters
    ----------
    name
        Its name in the table; a header cell that reads the same belongs to it.
    type
        ``"text"``, ``"integer"``, ``"number"``, ``"boolean"``, ``"date"`` or ``"datetime"``.
    also
        Other header cells that belong to it.
    missing
        Cell texts that stand for "no value"; they are empty in the table.
    required
        Whether a source without this column is set aside.
    unit
        The unit of its values; a source that gives another one is set aside.
    case
        ``"lower"``, ``"upper"`` or ``"title"``: how letters are written in the table; as they are when empty.
    swap
        Texts inside the cells and what takes their place, such as ``{"-": " "}``.
    values
        Whole values and what they are called in the table, such as ``{"amb": "Ambermere"}``.

    Raises
    ------
    PlanError
        When a value is not of the kind described here.

    Examples
    --------
    >>> Column("water_temp", "number", also=["Temp (°C)"], missing=["-999"]).headers
    ('water_temp', 'Temp (°C)')
    """

    name: str
    type: str = "text"
    also: Sequence[str | Also] = field(default=(), metadata={HOLDS: Also})
    missing: Sequence[str] = ()
    required: bool = False
    unit: str = ""
    case: str = ""
    swap: Mapping[str, str] = field(default_factory=dict)
    values: Mapping[str, str] = field(default_factory=dict)

    def __post_init__(self) -> None:
        text(self.name, "name")
        one_of(self.type, tuple(TYPES), "type")
        set_on(self, "also", texts_or(Also, self.also, "also"))
        set_on(self, "missing", texts(self.missing, "missing", lone=True, empty=True))
        yes_or_no(self.required, "required")
        text(self.unit, "unit", empty=True)
        one_of(self.case, CASES, "case")
        set_on(self, "swap", pairs(self.swap, "swap"))
        set_on(self, "values", pairs(self.values, "values"))

    @property
    def headers(self) -> tuple[str, ...]:
        """Every header cell that belongs to this column, its own name first."""
        return (self.name, *(one if isinstance(one, str) else one.header for one in self.also))

    def unit_of(self, header: str) -> str:
        """The unit that the plan gives for one of its headers; empty when it says nothing.

        Examples
        --------
        >>> Column("depth", "number", also=[Also("Depth (ft)", unit="ft")]).unit_of("Depth (ft)")
        'ft'
        """
        given = (one.unit for one in self.also if isinstance(one, Also) and one.header == header)
        return next(given, "")
