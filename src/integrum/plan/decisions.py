"""Decide guesses of a plan: a header cell belongs to a column, or it never does."""

from __future__ import annotations

from dataclasses import fields, replace
from typing import cast

from integrum.errors import PlanError
from integrum.plan.column import Also, Column
from integrum.plan.plan import Plan
from integrum.plan.toml import default_of
from integrum.plan.wrong_words import nearest
from integrum.values.types import TYPES, TypeName
from integrum.values.units import same_unit


def accept_guess(plan: Plan, column: str, header: str) -> Plan:
    """Decide that a header cell belongs to a column.

    Raises PlanError when there is no such column.

    `header`: the header cell. Where it is the name of another column of the plan, the two become one: with the
    headers, missing codes and guesses of both, and a type that takes the values of both.

    Examples
    --------
    >>> from integrum.plan.sources import Sources
    >>> columns = [Column("water_temp", "number", maybe=["T_water"]), Column("T_water", "integer", also=["T water"])]
    >>> accept_guess(Plan([Sources("loggers")], columns), "water_temp", "T_water").columns[0].headers
    ('water_temp', 'T_water', 'T water')
    """
    target = _column(plan, column)
    guess = next((one for one in target.guesses if one.header == header), None)
    place = guess.in_ if guess else ""
    twin = next((each for each in plan.columns if each.name == header and each.name != column), None)
    entries: list[str | Also] = [Also(header, in_=place) if place and twin is None else header]
    merged = replace(target, never=[each for each in target.never if each != header])
    if twin is not None:
        entries += twin.also
        merged = replace(
            with_type(merged, _both(target.type, twin.type)),
            missing=tuple(dict.fromkeys((*target.missing, *twin.missing))),
            maybe=(*target.maybe, *twin.maybe),
            never=tuple(dict.fromkeys((*merged.never, *twin.never))),
            unit=target.unit or twin.unit,
        )
    there = {(one.header, one.in_) for one in target.others}
    new = [
        one for one in entries if ((one, "") if isinstance(one, str) else (one.header, one.in_)) not in there
    ]
    claimed = {column, *(one if isinstance(one, str) else one.header for one in (*target.also, *new))}
    merged = replace(
        merged,
        also=(*target.also, *new),
        maybe=[one for one in merged.maybe if (one if isinstance(one, str) else one.header) not in claimed],
    )
    if twin is not None:
        merged = _with_manner(merged, target, twin)
    columns = [merged if each is target else each for each in plan.columns if each is not twin]
    return replace(plan, columns=columns)


def refuse_guess(plan: Plan, column: str, header: str) -> Plan:
    """Decide that a header cell never belongs to a column; it is not offered again.

    Raises PlanError when there is no such column.

    `plan`, `column`, `header`: as for `accept_guess`.

    Examples
    --------
    >>> from integrum.plan.sources import Sources
    >>> plan = Plan([Sources("loggers")], [Column("water_temp", "number", maybe=["T_air"])])
    >>> decided = refuse_guess(plan, "water_temp", "T_air").columns[0]
    >>> decided.maybe, decided.never
    ((), ('T_air',))
    """
    target = _column(plan, column)
    kept = [one for one in target.maybe if (one if isinstance(one, str) else one.header) != header]
    decided = replace(target, maybe=kept, never=tuple(dict.fromkeys((*target.never, header))))
    return replace(plan, columns=[decided if each is target else each for each in plan.columns])


def accept_value(plan: Plan, column: str, value: str) -> Plan:
    """Decide that a value is another one in another spelling.

    Raises PlanError when there is no such column.

    `value`: the value, as it stands in `alike`.

    Examples
    --------
    >>> from integrum.plan.column import Alike
    >>> from integrum.plan.sources import Sources
    >>> plan = Plan([Sources("visits")], [Column("habitat", alike=[Alike("reed bed", "Reed bed")])])
    >>> accept_value(plan, "habitat", "reed bed").columns[0].values
    {'reed bed': 'Reed bed'}
    """
    target = _column(plan, column)
    other = next((one.as_ for one in target.alike if one.value == value), value)
    return _with_value(plan, target, value, other)


def refuse_value(plan: Plan, column: str, value: str) -> Plan:
    """Decide that a value stands for itself. It is not offered again.

    Raises PlanError when there is no such column.

    `plan`, `column`, `value`: as for `accept_value`.

    Examples
    --------
    >>> from integrum.plan.column import Alike
    >>> from integrum.plan.sources import Sources
    >>> plan = Plan([Sources("visits")], [Column("habitat", alike=[Alike("reed bed", "Reed bed")])])
    >>> refuse_value(plan, "habitat", "reed bed").columns[0].values
    {'reed bed': 'reed bed'}
    """
    return _with_value(plan, _column(plan, column), value, value)


def accept_value_as(plan: Plan, column: str, value: str, other: str) -> Plan:
    """Decide what a value of a column is written as, whether or not it was offered.

    Raises PlanError when there is no such column.

    Examples
    --------
    >>> from integrum.plan.sources import Sources
    >>> plan = Plan([Sources("visits")], [Column("habitat")])
    >>> accept_value_as(plan, "habitat", "reed bed", "Reed bed").columns[0].values
    {'reed bed': 'Reed bed'}
    """
    return _with_value(plan, _column(plan, column), value, other)


def header_apart(plan: Plan, column: str, header: str) -> Plan:
    """Take a header out of a column; it becomes a column of its own, right behind it.

    Raises PlanError when there is no such column, or it does not have the header.

    Examples
    --------
    >>> from integrum.plan.sources import Sources
    >>> plan = Plan([Sources("loggers")], [Column("water_temp", "number", also=["T", "temp"], unit="degC")])
    >>> [(one.name, one.headers, one.never) for one in header_apart(plan, "water_temp", "T").columns]
    [('water_temp', ('water_temp', 'temp'), ('T',)), ('T', ('T',), ())]
    """
    target = _column(plan, column)
    if header not in target.headers:
        raise PlanError(f'"{header}" is not a header of "{column}"', "columns")
    taken = [one for one in target.others if one.header == header]
    left = [one for one in target.also if (one if isinstance(one, str) else one.header) != header]
    kept = replace(target, also=left, never=tuple(dict.fromkeys((*target.never, header))))
    unit = next((one.unit for one in taken if one.unit), "")
    made = Column(header, target.type, missing=target.missing, unit=unit)
    columns = [one for each in plan.columns for one in ((kept, made) if each is target else (each,))]
    return replace(plan, columns=columns)


def with_type(column: Column, kind: TypeName) -> Column:
    """Change the type of a column, and drop keys that are not for it.

    Examples
    --------
    >>> with_type(Column("day", "date", date_order="dmy"), "text").date_order
    ''
    """
    left = column.kind.keys - TYPES[kind].keys
    changes: dict[str, object] = {key: default_of(_FIELDS[key]) for key in left}
    if column.spelling not in TYPES[kind].spellings:
        changes["spelling"] = ""
    if "zone" in left:
        changes["offset"] = ""
    return replace(column, type=kind, **changes)  # type: ignore[arg-type]


_FIELDS = {field.name: field for field in fields(Column)}


def _with_value(plan: Plan, target: Column, value: str, other: str) -> Plan:
    left = [one for one in target.alike if one.value != value]
    decided = replace(target, alike=left, values={**target.values, value: other})
    return replace(plan, columns=[decided if each is target else each for each in plan.columns])


def _with_manner(merged: Column, one: Column, other: Column) -> Column:
    """Merge the notation of two columns; text where their orders of dates differ."""
    if one.date_order and other.date_order and one.date_order != other.date_order:
        return replace(merged, type="text", date_order="", spelling="", zone="")
    if merged.kind.is_number and one.unit and other.unit and not same_unit(one.unit, other.unit):
        merged = replace(merged, type=cast(TypeName, merged.kind.converted))
    keys = merged.kind.keys
    spellings = [each.spelling for each in (one, other) if each.spelling in merged.kind.spellings]
    return replace(
        merged,
        date_order=(one.date_order or other.date_order) if "date_order" in keys else "",
        zone=(one.zone or other.zone) if "zone" in keys else "",
        spelling=max(spellings, key=len, default="")
        if merged.type == (one.type if one.spelling else other.type)
        else "",
        censored=(one.censored or other.censored) if "censored" in keys else "",
        percent=(one.percent or other.percent) if "percent" in keys else "",
        values={**other.values, **one.values},
        alike=[*one.alike, *(each for each in other.alike if each not in one.alike)],
    )


def _column(plan: Plan, name: str) -> Column:
    found = next((column for column in plan.columns if column.name == name), None)
    if found is None:
        raise PlanError(
            f'there is no column "{name}"{nearest(name, [each.name for each in plan.columns])}', "columns"
        )
    return found


def _both(one: TypeName, other: TypeName) -> TypeName:
    """A type that takes the values of both, where one of the two does."""
    if one == other or TYPES[other].wider == one:
        return one
    return other if TYPES[one].wider == other else "text"
