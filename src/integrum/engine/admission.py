"""Hold a source's form against the plan: its names, its units, and whether its header is one at all."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from integrum.columns.matching import Match, match
from integrum.plan.model import Plan
from integrum.problems import Problem, clipped
from integrum.reading.head import Form
from integrum.values.units import same_unit


def _in_place(made: Match, places: Sequence[int]) -> Match:
    """Positions among the named columns as positions among all."""
    return replace(
        made,
        positions=tuple(None if at is None else places[at] for at in made.positions),
        unlisted=tuple((name, places[at]) for name, at in made.unlisted),
    )


def match_form(form: Form, plan: Plan, filled: Sequence[str]) -> Match:
    """Hold a form against the plan.

    Parameters
    ----------
    form
        What sources of one variant have in common.
    plan
        The plan.
    filled
        Columns that are identifiers of these sources.

    Returns
    -------
    Match
        Refused also when no header cell is known to the plan, and when a unit differs from the plan's.
    """
    names = list(form.named.values())
    made = _in_place(match(names, plan, filled), list(form.named))
    wanted = [column for column in plan.columns if column.name not in filled]
    unknown = all(position is None for position in made.positions)
    said = any(problem.severity == "error" for problem in made.problems)
    if wanted and unknown and not said and plan.rules.unlisted != "keep":
        nothing = Problem(
            "error",
            "header-not-there",
            raw=", ".join(clipped(name, 40) for name in names[:8]),
            message="where the plan says that the header is, no cell is the name of a column",
            hint="is it a file of another kind, or is its header elsewhere? integrum survey FILE shows its layout",
        )
        return replace(made, problems=(nothing,), refused=True)
    wrong = [
        Problem(
            "error",
            "unit-differs",
            column=column.name,
            raw=form.units[position],
            message=f"the plan says that its unit is {column.unit}, but the source gives another one",
            hint="give it a column of its own, or correct the unit in the plan",
        )
        for column, position in zip(plan.table_columns, made.positions, strict=True)
        if position is not None
        and column.unit
        and form.units[position : position + 1] not in ((), ("",))
        and not same_unit(column.unit, form.units[position])
    ]
    return replace(made, problems=(*made.problems, *wrong), refused=made.refused or bool(wrong))
