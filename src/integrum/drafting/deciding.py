"""What is decided about the values of a column, as a column of a plan says it."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from dataclasses import replace
from typing import cast

from integrum.deciding.decision import Decision
from integrum.drafting.places import patterns_for
from integrum.plan.column import Alike, Column
from integrum.surveying.view import Survey
from integrum.values.types import TYPES, TypeName
from integrum.values.units import in_name


def decided(
    column: Column,
    made: Decision,
    survey: Survey,
    units: Mapping[str, int],
    free: Callable[[str], str] = str,
) -> Column:
    """A column with what was decided about its values.

    Parameters
    ----------
    units
        The units that its headers give, the most frequent first.
    free
        Gives the nearest name that is free.
    """
    # whole numbers in several units are converted to one, and hardly whole any more
    kind = cast(TypeName, TYPES[made.type].converted) if len(units) > 1 else made.type
    return replace(
        column,
        type=kind,
        missing=[one.text for one in made.missing],
        unit=next(iter(units), "") or made.unit,
        date_order=made.date_order,
        date_order_in=order_places(made, survey),
        format=made.format,
        zone=made.zone,
        spelling=made.spelling,
        censored=(column.censored or free(f"{in_name(column.name)[0]}_flag")) if made.censored else "",
        alike=[Alike(one.value, one.other, one.because) for one in made.alike],
    )


def order_places(made: Decision, survey: Survey) -> dict[str, tuple[str, ...]]:
    """By order of day and month the places of the sources that have another one than most."""
    names = [one.source for one in survey.sources]
    found = {}
    for order in sorted({*made.orders.values()} - {made.date_order}):
        mine = [names[number] for number in sorted(made.orders) if made.orders[number] == order]
        found[order] = patterns_for(mine, names)
    return found


def filled(
    given: Column, made: Decision, survey: Survey, units: Mapping[str, int], free: Callable[[str], str] = str
) -> Column:
    """A given column with what it leaves open filled from its values; what it says stays.

    `made`, `units`, `free`: as for `decided`; the decision is about values of the column's type.
    """
    whole = decided(given, made, survey, units, free)
    keys = given.kind.keys
    changes: dict[str, object] = {}
    if not given.missing:
        changes["missing"] = whole.missing
    if not given.unit and given.kind.is_number:
        changes["unit"] = whole.unit
    if "date_order" in keys and not (given.date_order or given.date_order_in or given.format):
        changes |= {name: getattr(whole, name) for name in ("date_order", "date_order_in", "format")}
    if "zone" in keys and not given.zone:
        changes["zone"] = whole.zone
    if not given.spelling and whole.spelling in given.kind.spellings:
        changes["spelling"] = whole.spelling
    if "censored" in keys and not given.censored and not given.first_filled:
        changes["censored"] = whole.censored
    return replace(given, **changes)  # type: ignore[arg-type]


def free_of(name: str, taken: Collection[str]) -> str:
    """The nearest name that is free.

    Examples
    --------
    >>> free_of("sheet", {"day"}), free_of("sheet", {"sheet"})
    ('sheet', 'file_sheet')
    """
    names = (name, f"file_{name}", *(f"file_{name}_{number}" for number in range(2, 1000)))
    return next(free for free in names if free not in taken)
