"""Draft onto a plan that is there: its decisions, order and comments stay, and only what is new is added."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path

from integrum.drafting.columns import beside, complete, guesses_of, unlisted_line
from integrum.drafting.draft import Draft, near_place
from integrum.drafting.from_survey import drafted_column
from integrum.drafting.places import patterns_for
from integrum.plan.column import Column
from integrum.plan.plan import Plan
from integrum.plan.sources import Sources
from integrum.plan.toml import moved
from integrum.problems import first_few
from integrum.sources.places import places_of
from integrum.surveying.view import Survey
from integrum.values.manner import ORDER_WORDS


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
    """A column of dates with the sources that show another order than the plan says for them, and what is new."""
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
    """A plan that was drafted before, as it is, with what is new among its sources.

    `survey`, `plan`, `before`, `folder`: as for `draft_onto`; `said`: what the code says otherwise.
    """
    made = complete(survey, plan)
    line = unlisted_line(made.unlisted)
    new = [*said, line] if line and plan.rules.unlisted != "keep" else [*said]
    new += [f"{name}: {each}" for name, lines in made.lines.items() for each in lines]
    return Draft(plan, {}, folder, survey=survey, new=tuple(new), before=before)
