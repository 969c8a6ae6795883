"""A column of the table: its name, its type, and the header cells that belong to it."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field

from integrum.errors import PlanError
from integrum.plan.checks import one_of, pairs, set_on, share, text, texts, texts_or, yes_or_no
from integrum.plan.fields import HOLDS
from integrum.values.pipeline import CASES
from integrum.values.types import TYPES


@dataclass(frozen=True)
class Also:
    """Another header cell of a column, and what is known about the values below it.

    Parameters
    ----------
    header
        The header cell; or a pattern (``*``, ``?``) where no source has a header cell that is literally so.
    unit
        The unit of its values, where the source does not give it.
    in_
        In which sources it means this column: a pattern of paths below the common folder, or the name of a group; all
        when empty. In a plan file ``in``.

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
    in_: str = ""

    def __post_init__(self) -> None:
        text(self.header, "header")
        text(self.unit, "unit", empty=True)
        text(self.in_, "in", empty=True)


@dataclass(frozen=True)
class Maybe:
    """A header cell that may belong to a column: a guess, which a run does not use.

    Parameters
    ----------
    header
        The header cell.
    score
        How likely the guess is right, from 0 to 1, as it was measured for guesses like it.
    because
        What speaks for it.
    in_
        In which sources, as for `Also`.

    Raises
    ------
    PlanError
        When a value is not of the kind described here.

    Examples
    --------
    >>> Column("water_temp", "number", maybe=[Maybe("T_water", 0.86, "similar name; same range")]).headers
    ('water_temp',)
    """

    header: str
    score: float = 0.0
    because: str = ""
    in_: str = ""

    def __post_init__(self) -> None:
        text(self.header, "header")
        share(self.score, "score")
        text(self.because, "because", empty=True)
        text(self.in_, "in", empty=True)


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
        Other header cells that belong to it, as texts or `Also`.
    maybe
        Header cells that may belong to it, as texts or `Maybe`; a run does not use them, and says so.
    never
        Header cells that were guessed and refused; they are not offered again.
    missing
        Cell texts that stand for "no value"; they are empty in the table.
    first_filled
        Whether a source may have several of its header cells. Each row takes the first that has a value, in the order
        of `also`; where two have one and they differ, that is a problem.
    required
        Whether a source without this column is set aside.
    optional
        Whether it is fine that no source has it.
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
    maybe: Sequence[str | Maybe] = field(default=(), metadata={HOLDS: Maybe})
    never: Sequence[str] = ()
    first_filled: bool = False
    missing: Sequence[str] = ()
    required: bool = False
    optional: bool = False
    unit: str = ""
    case: str = ""
    swap: Mapping[str, str] = field(default_factory=dict)
    values: Mapping[str, str] = field(default_factory=dict)

    def __post_init__(self) -> None:
        text(self.name, "name")
        one_of(self.type, tuple(TYPES), "type")
        set_on(self, "also", texts_or(Also, self.also, "also"))
        set_on(self, "maybe", texts_or(Maybe, self.maybe, "maybe"))
        set_on(self, "never", texts(self.never, "never", lone=True))
        for header in self.never:
            if header in self.headers:
                raise PlanError(
                    f'header "{header}" belongs to the column, and never does; take it out of one of the two',
                    "never",
                )
        yes_or_no(self.first_filled, "first_filled")
        set_on(self, "missing", texts(self.missing, "missing", lone=True, empty=True))
        yes_or_no(self.required, "required")
        yes_or_no(self.optional, "optional")
        if self.required and self.optional:
            raise PlanError("a column is required or optional, not both", "optional")
        text(self.unit, "unit", empty=True)
        one_of(self.case, CASES, "case")
        set_on(self, "swap", pairs(self.swap, "swap"))
        set_on(self, "values", pairs(self.values, "values"))

    @property
    def headers(self) -> tuple[str, ...]:
        """Every header cell that belongs to this column, its own name first."""
        return tuple(dict.fromkeys((self.name, *(one.header for one in self.others))))

    @property
    def others(self) -> tuple[Also, ...]:
        """The entries of `also`, each as an object."""
        return tuple(Also(one) if isinstance(one, str) else one for one in self.also)

    @property
    def guesses(self) -> tuple[Maybe, ...]:
        """The entries of `maybe`, each as an object."""
        return tuple(Maybe(one) if isinstance(one, str) else one for one in self.maybe)

    def unit_of(self, header: str, places: Collection[str] = ()) -> str:
        """The unit that the plan gives for one of its headers; empty when it says nothing.

        Parameters
        ----------
        header
            The header, or the pattern that it fits.
        places
            What `in` may say for the sources at hand.

        Examples
        --------
        >>> Column("depth", "number", also=[Also("Depth (ft)", unit="ft")]).unit_of("Depth (ft)")
        'ft'
        """
        given = [one for one in self.others if one.header == header and (not one.in_ or one.in_ in places)]
        return next((one.unit for one in sorted(given, key=lambda one: not one.in_) if one.unit), "")
