"""A plan as TOML: the keys are the field names of the Python objects; `from_toml` has the way back."""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import MISSING, Field, fields, is_dataclass, replace
from typing import Any, TypeVar

import tomlkit
from tomlkit.items import AoT, Table

from integrum.plan.dataset import check_place, place_of
from integrum.plan.fields import AS_TABLES, HOLDS, key_of_field
from integrum.plan.model import FORMAT, PlanParts
from integrum.plan.wrong_words import answers_wrong_words

# comment lines by the part of the plan that they stand above: its key there, and the name of the column or the key of
# the group; ("plan", "") is the top
Remarks = Mapping[tuple[str, str], Sequence[str]]

AnyPlan = TypeVar("AnyPlan", bound=PlanParts)
PARTS = fields(PlanParts)
LISTS = tuple(each.name for each in PARTS if HOLDS in each.metadata and each.default_factory is MISSING)


# keys that a draft writes even where there is nothing to say yet, as a place for what only people know
TO_FILL = ("description",)


@answers_wrong_words
def write_plan(plan: PlanParts, remarks: Remarks | None = None, to_fill: Collection[str] = ()) -> str:
    """Give a plan as TOML text.

    Parameters
    ----------
    remarks
        Comment lines to put above a part: keys are ``("plan", "")`` for the top, ``("columns", "depth")`` for a
        column, and ``("sources", KEY)`` for a group, by its `Sources.key`.
    to_fill
        Keys of columns that are written even where they are empty.

    Returns
    -------
    str
        The text of a plan file; `parse_plan` gives an equal plan back.

    Examples
    --------
    >>> from integrum.plan.column import Column
    >>> from integrum.plan.plan import Plan
    >>> from integrum.plan.sources import Sources
    >>> print(write_plan(Plan(sources=[Sources("loggers")], columns=[Column("depth", "number")])), end="")
    integrum = 1
    <BLANKLINE>
    [[sources]]
    find = ["loggers"]
    <BLANKLINE>
    [[columns]]
    name = "depth"
    type = "number"
    """
    remarks = remarks or {}
    document = tomlkit.document()
    for line in remarks.get(("plan", ""), ()):
        document.add(tomlkit.comment(_one_line(line)))
    document.add("integrum", tomlkit.item(FORMAT))
    if plan.leave_out:
        document.add("leave_out", plain(plan.leave_out))
    document.add(tomlkit.nl())
    for part in PARTS:
        value = getattr(plan, part.name)
        if part.name in LISTS:
            group = AoT([])
            for item in value:
                places = to_fill if part.name == "columns" else ()
                group.append(table_of(item, remarks.get((part.name, key_of(item)), ()), places))
            if group:
                document.add(part.name, group)
        elif HOLDS not in part.metadata:
            if part.name == "glossary" and value:
                document.add(part.name, words_table(value))
        elif value != part.metadata[HOLDS]():
            document.add(part.name, table_of(value, remarks.get((part.name, ""), ())))
    return spaced(tomlkit.dumps(document))


def moved(plan: AnyPlan, remarks: Remarks, place: Callable[[str], str]) -> tuple[AnyPlan, Remarks]:
    """The plan and its comments with all places rewritten."""
    groups = [replace(group, find=[place(each) for each in group.find]) for group in plan.sources]
    keys = {old.key: new.key for old, new in zip(plan.sources, groups, strict=True)}
    told = {
        (part, keys.get(key, key) if part == "sources" else key): lines
        for (part, key), lines in remarks.items()
    }
    columns = [
        replace(each, read=_moved_code(each.read, place)) if each.read is not None else each
        for each in plan.columns
    ]
    checks = [replace(one, listed=place(one.listed)) if one.listed else one for one in plan.checks]
    return replace(plan, sources=groups, columns=columns, checks=checks), told


def _moved_code(read: Any, place: Callable[[str], str]) -> Any:
    """The place of a function, rewritten."""
    if callable(read) and not hasattr(read, "place"):
        return read
    path, name = check_place(read if isinstance(read, str) else place_of(read))
    return f"{place(path)}:{name}"


def words_table(words: Mapping[str, Sequence[str]]) -> Table:
    """Lists of words as a table."""
    table = tomlkit.table()
    for key, each in words.items():
        table.add(key, plain(tuple(each)))
    return table


def key_of(item: Any) -> str:
    """The key of an object in a list."""
    return str(item.key) if hasattr(item, "key") else str(item.name)


def is_table(field: Field[Any]) -> bool:
    """Whether an object is written as a table of its own, not inline."""
    return is_dataclass(default_of(field))


def default_of(field: Field[Any]) -> Any:
    """The default of a field."""
    return field.default if field.default_factory is MISSING else field.default_factory()


def spaced(text: str) -> str:
    """At most one empty line between tables, and one line end at the end."""
    # line breaks inside texts are written as escapes, so these are all between tables
    return re.sub(r"\n{3,}", "\n\n", text).rstrip("\n") + "\n"


def table_of(item: Any, remarks: Sequence[str], to_fill: Collection[str] = ()) -> Table:
    """An object as a table, without keys that have their default."""
    table = tomlkit.table()
    for line in remarks:
        table.add(tomlkit.comment(_one_line(line)))
    for field in fields(item):
        value = getattr(item, field.name)
        if value == default_of(field) and field.name not in ("type", *to_fill):
            continue
        key = key_of_field(field.name)
        if is_dataclass(value) and is_table(field):
            table.add(tomlkit.nl())
            table.add(key, table_of(value, ()))
        elif AS_TABLES in field.metadata:
            table.add(tomlkit.nl())
            table.add(key, AoT([table_of(one, ()) for one in value]))
        else:
            table.add(key, plain(value))
    table.add(tomlkit.nl())
    return table


def plain(value: Any) -> Any:
    """Convert a value to what TOML can hold."""
    if isinstance(value, tuple):
        if len(value) > _LONG and all(isinstance(item, str) for item in value):
            # the library takes ever longer for each item that is added
            return tomlkit.array(f"[{', '.join(tomlkit.string(item).as_string() for item in value)}]")
        if not any(map(is_dataclass, value)):
            return [plain(item) for item in value]
        array = tomlkit.array()  # else the library makes a list of tables of it
        for item in value:
            array.append(plain(item))
        return array.multiline(len(value) > 1)
    if is_dataclass(value):
        value = {
            key_of_field(each.name): said
            for each in fields(value)
            if (said := getattr(value, each.name)) != default_of(each)
        }
    if callable(value):
        return place_of(value)
    if isinstance(value, Mapping):
        inline = tomlkit.inline_table()
        for key, item in value.items():
            inline.add(key, plain(item))
        return inline
    return value


_LONG = 200


def _one_line(text: str) -> str:
    return "".join(" " if ord(letter) < 32 or ord(letter) == 127 else letter for letter in text)
