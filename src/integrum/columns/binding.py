"""Where each column of the table comes from in the sources of one header variant, resolved once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from integrum.columns.header import Header
from integrum.columns.matching import match
from integrum.plan.column import Column
from integrum.plan.model import Plan
from integrum.problems import Problem, clipped
from integrum.values.pipeline import Conversion
from integrum.values.units import same_unit


@dataclass(frozen=True)
class Binding:
    """Where one column of the table comes from, and what is done to its texts on the way.

    Attributes
    ----------
    column
        The name of the column.
    positions
        Of its header cells, from 0; none when the sources lack it.
    conversion
        From the cell to the table.
    unit
        The unit of the values: as the source gives it, or else as the plan does for this header.
    """

    column: str
    positions: tuple[int, ...]
    conversion: Conversion
    unit: str = ""


@dataclass(frozen=True)
class Bound:
    """A header held against the plan.

    Attributes
    ----------
    bindings
        One for each column of the table, in their order.
    unlisted
        Names that no column claims, with their positions.
    problems
        What is to be said about this header; the source is left open.
    refused
        Whether a source with this header is set aside.
    """

    bindings: tuple[Binding, ...]
    unlisted: tuple[tuple[str, int], ...] = ()
    problems: tuple[Problem, ...] = ()
    refused: bool = False

    def with_unlisted(self, kept: Sequence[tuple[str, Column]]) -> Bound:
        """The same with columns for headers that no column of the plan claims, by the names of the headers."""
        there = dict(self.unlisted)
        more = [
            Binding(column.name, (there[name],) if name in there else (), conversion(column))
            for name, column in kept
        ]
        return replace(self, bindings=(*self.bindings, *more))


def bind(header: Header, plan: Plan, filled: Sequence[str], marks: tuple[str, str] = (".", "")) -> Bound:
    """Bind the columns of a plan to a header.

    Parameters
    ----------
    header
        The header of sources of one variant.
    plan
        The plan.
    filled
        Columns that are identifiers of these sources.
    marks
        The decimal mark and the mark between thousands in these sources.

    Returns
    -------
    Bound
        Refused also when no header cell is known to the plan, and when a unit differs from the plan's.

    Examples
    --------
    >>> from integrum.plan.sources import Sources
    >>> plan = Plan([Sources("loggers")], [Column("day", "date"), Column("depth", "number", unit="m")])
    >>> bound = bind(Header(("Depth", "day"), units=("m", "")), plan, ())
    >>> [(one.column, one.positions, one.unit) for one in bound.bindings]
    [('day', (1,), ''), ('depth', (0,), 'm')]
    """
    named = header.named
    places = list(named)
    made = match(list(named.values()), plan, filled)
    bindings = tuple(
        _binding(header, column, None if at is None else places[at], marks)
        for column, at in zip(plan.table_columns, made.positions, strict=True)
    )
    unlisted = tuple((name, places[at]) for name, at in made.unlisted)
    wanted = [column for column in plan.columns if column.name not in filled]
    unknown = not any(one.positions for one in bindings)
    said = any(problem.severity == "error" for problem in made.problems)
    if wanted and unknown and not said and plan.rules.unlisted != "keep":
        return Bound(bindings, unlisted, (_not_there(list(named.values())),), refused=True)
    wrong = [
        _unit_differs(column, one)
        for column, one in zip(plan.table_columns, bindings, strict=True)
        if one.positions and column.unit and one.unit and not same_unit(column.unit, one.unit)
    ]
    return Bound(bindings, unlisted, (*made.problems, *wrong), made.refused or bool(wrong))


def conversion(column: Column, marks: tuple[str, str] = (".", "")) -> Conversion:
    """What is done to the texts of a column that are written with these marks."""
    return Conversion(
        column.type, tuple(column.missing), dict(column.swap), column.case, dict(column.values), *marks
    )


def _binding(header: Header, column: Column, at: int | None, marks: tuple[str, str]) -> Binding:
    if at is None:
        return Binding(column.name, (), conversion(column, marks))
    unit = header.unit_at(at) or column.unit_of(header.names[at])
    return Binding(column.name, (at,), conversion(column, marks), unit)


def _not_there(names: Sequence[str]) -> Problem:
    return Problem(
        "error",
        "header-not-there",
        raw=", ".join(clipped(name, 40) for name in names[:8]),
        message="where the plan says that the header is, no cell is the name of a column",
        hint="is it a file of another kind, or is its header elsewhere? integrum survey FILE shows its layout",
    )


def _unit_differs(column: Column, one: Binding) -> Problem:
    return Problem(
        "error",
        "unit-differs",
        column=column.name,
        raw=one.unit,
        message=f"the plan says that its unit is {column.unit}, but the source gives another one",
        hint="give it a column of its own, or correct the unit in the plan",
    )
