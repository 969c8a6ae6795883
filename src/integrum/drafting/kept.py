"""A plan that is there already: what is kept of it, and what a draft adds to it."""

from __future__ import annotations

import os
from collections.abc import Sequence
from dataclasses import fields, replace
from functools import partial
from pathlib import Path
from typing import Any

from integrum.drafting.clusters import patterns_for
from integrum.drafting.columns import beside, complete, guesses_of, unlisted_line
from integrum.drafting.draft import Draft, near_place
from integrum.drafting.from_survey import drafted_column
from integrum.errors import PlanError
from integrum.plan.column import Column
from integrum.plan.fields import key_of_field
from integrum.plan.plan import Plan
from integrum.plan.sources import Sources
from integrum.plan.toml import default_of, moved
from integrum.problems.problem import first_few
from integrum.remote.addresses import is_remote
from integrum.sources.patterns import places_of
from integrum.surveying.view import Survey
from integrum.values.notation import ORDER_WORDS

# what a call can say of the sources besides where they are
_CHOSEN = ("ids", "sheets", "exclude", "expect", "access")


def with_groups(kept: Plan, groups: Sequence[Sources], folder: Path, name: str) -> tuple[Plan, list[str]]:
    """Merge the sources of the code into a kept plan, and say what differs.

    Raises PlanError where both name other sources, or where the plan has several groups and the code says something else
    of all of them.

    Parameters
    ----------
    groups
        The sources of the code, with paths relative to the working folder.
    folder, name
        What the paths of the kept plan are relative to, and its file.
    """
    here = {_place(place, Path.cwd()) for group in groups for place in group.find}
    there = {_place(place, folder) for group in kept.sources for place in group.find}
    strange = sorted(place for place in here if not any(_covers(place, other) for other in there))
    if strange:
        raise PlanError(
            f"the code and {name} look at different places: {', '.join(sorted(here))} and {', '.join(sorted(there))}; "
            f"delete {name} to draft it again, or correct one of the two",
            "keep",
        )
    said: list[str] = []
    changes = {}
    for key in _CHOSEN:
        given = {repr(getattr(group, key)): getattr(group, key) for group in groups}
        value = next(iter(given.values())) if len(given) == 1 else None
        if not value or all(getattr(group, key) == value for group in kept.sources):
            continue
        if len(kept.sources) > 1:
            raise PlanError(
                f"{key} is {_said(value)} in the code, and {name} has {len(kept.sources)} groups of sources that say "
                f"{' and '.join(_said(getattr(group, key)) for group in kept.sources)}; delete {name} to draft it again, or "
                "change it there",
                "keep",
            )
        said.append(
            f"{key}: {_said(value)}, as the code says; {name} has {_said(getattr(kept.sources[0], key))}"
        )
        changes[key] = value
    if not changes:
        return kept, []
    return replace(kept, sources=[replace(kept.sources[0], **changes)]), said


def with_columns(
    kept: Plan, given: Sequence[Column | str], survey: Survey, name: str
) -> tuple[Plan, list[str]]:
    """Merge the columns of the code into a kept plan, and say what differs.

    A key that the code gives goes before that of the plan; what it leaves open stays as it was drafted, and a column that
    the plan does not have is completed from the values.

    `survey`, `name`: a survey of the sources, and the file of the plan.
    """
    there = {column.name: column for column in kept.columns}
    own = set(kept.identifiers)
    said: list[str] = []
    columns: list[Column] = []
    new: list[Column] = []
    untyped = set()
    for one in given:
        column = Column(one) if isinstance(one, str) else one
        before = there.get(column.name)
        if before is None:
            said.append(f"{column.name}: a new column in the code; it is not in {name}")
            new.append(column)
            untyped |= {column.name} if isinstance(one, str) else set()
            columns.append(column)
            continue
        changes = {} if isinstance(one, str) else _differing(column, before)
        for key, value in changes.items():
            said.append(
                f"{column.name}: {key_of_field(key)} = {_said(value)}, as the code says; {name} has "
                f"{_said(getattr(before, key))}"
            )
        columns.append(replace(before, **changes))
    names = {column.name for column in columns}
    said += [f"{one}: not a column in the code any more" for one in there if one not in names | own]
    columns = [*(there[one] for one in there if one in own - names), *columns]
    plan = replace(kept, columns=columns)
    if new:
        made = complete(survey, plan, untyped, fill=True)
        completed = {column.name: column for column in made.columns}
        wanted = {column.name for column in new}
        plan = replace(kept, columns=[completed[one.name] if one.name in wanted else one for one in columns])
    return plan, said


def _differing(column: Column, before: Column) -> dict[str, Any]:
    """Where code and plan differ. Other headers are added to those of the plan."""
    found: dict[str, Any] = {}
    for field in fields(column):
        value, old = getattr(column, field.name), getattr(before, field.name)
        if field.name in ("also", "maybe", "never", "missing"):
            more = [one for one in value if one not in old]
            if more:
                found[field.name] = (*old, *more)
        elif value != old and (field.name == "type" or value != default_of(field)):
            found[field.name] = value
    if "type" in found:  # what is for the other type goes
        keys = before.kind.keys - column.kind.keys
        found |= {key: default_of(_FIELDS[key]) for key in keys if getattr(before, key) and key not in found}
        if before.spelling and "spelling" not in found:
            found["spelling"] = ""
    return found


_FIELDS = {field.name: field for field in fields(Column)}


def _place(place: str, folder: Path) -> str:
    return place if is_remote(place) else os.path.abspath(folder / place)


def _covers(place: str, other: str) -> bool:
    """Whether a place is, or contains, another one."""
    return place == other or place.startswith(other.rstrip("/") + "/") or Path(other).match(place)


def _said(value: object) -> str:
    return '"' + value + '"' if isinstance(value, str) else repr(value)


def draft_onto(survey: Survey, plan: Plan, before: str, folder: Path, more: Draft | None = None) -> Draft:
    """Add to a plan what a survey of it finds.

    Returns the same plan with new spellings in `also`, new guesses in `maybe`, columns for headers that none claims,
    and groups for new sources. Nothing is removed.

    Parameters
    ----------
    folder
        What its relative paths are relative to.
    more
        A draft from sources that the plan does not have yet, with absolute paths.
    """
    made = complete(survey, plan)
    remarks: dict[tuple[str, str], Sequence[str]] = {}
    columns = []
    for column in made.columns:
        changed, said = _with_orders(column, survey, plan)
        columns.append(changed)
        made.lines.setdefault(column.name, []).extend(said)
    guesses = guesses_of(made.guesses)
    there = {name for column in columns for name in column.headers}
    for found in beside(survey, made.free):
        column, lines = drafted_column(survey, found, guesses.get(found.name, ()))
        if column.name not in there:
            columns.append(column)
            remarks["columns", column.name] = ["new", *lines]
    groups: list[Sources] = list(plan.sources)
    if more is not None:
        near, told = moved(more.plan, more.remarks, partial(near_place, folder=folder))
        groups += near.sources
        remarks |= {key: lines for key, lines in told.items() if key[0] == "sources"}
        names = {name for column in columns for name in column.headers}
        columns += [column for column in more.plan.columns if not names & set(column.headers)]
    new = [line for name, lines in made.lines.items() for line in (f"{name}: {each}" for each in lines)]
    new += [f"new column: {column.name}" for column in columns[len(plan.columns) :]]
    new += [f"new group of sources: {group.key}" for group in groups[len(plan.sources) :]]
    return Draft(
        replace(plan, sources=groups, columns=columns),
        remarks,
        folder,
        survey=replace(survey, guesses=made.guesses),
        new=tuple(new),
        before=before,
        typed=frozenset(column.name for column in plan.columns),
    )


def _with_orders(column: Column, survey: Survey, plan: Plan) -> tuple[Column, list[str]]:
    """Add to a date column the sources with another order than the plan says."""
    values, here = survey.values, [one for one in column.headers if survey.values and survey.values.has(one)]
    if values is None or not here or not column.kind.has_day or column.format or column.from_:
        return column, []
    made = values.decide(here, wanted=column.type)
    found: dict[str, list[int]] = {}
    for number, order in made.orders.items():
        source = survey.found[number]
        if order != (column.order_in(places_of(plan, source)) or plan.group(source.group).date_order):
            found.setdefault(order, []).append(number)
    if not found:
        return column, []
    names = [one.source for one in survey.sources]
    every = {order: list(some) for order, some in column.date_order_in.items()}
    for order, numbers in found.items():
        some = [names[number] for number in numbers]
        every[order] = [*every.get(order, ()), *patterns_for(some, names)]
    said = [
        f"{ORDER_WORDS[order]} in {first_few([names[at] for at in some], 3)}" for order, some in found.items()
    ]
    return replace(column, date_order_in=every), [f"its dates are {' and '.join(said)}"]


def kept_draft(survey: Survey, plan: Plan, before: str, folder: Path, said: Sequence[str] = ()) -> Draft:
    """A draft that was kept, with what is new among its sources.

    `survey`, `plan`, `before`, `folder`: as for `draft_onto`; `said`: what the code says otherwise.
    """
    made = complete(survey, plan)
    line = unlisted_line(made.unlisted)
    new = [*said, line] if line and plan.rules.unlisted != "keep" else [*said]
    new += [f"{name}: {each}" for name, lines in made.lines.items() for each in lines]
    return Draft(plan, {}, folder, survey=survey, new=tuple(new), before=before)
