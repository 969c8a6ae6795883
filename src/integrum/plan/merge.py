"""Bring the text of a plan file to say what a plan says, and leave all else in it as it is."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import fields, is_dataclass
from typing import Any

import tomlkit
from tomlkit.container import Container
from tomlkit.items import AoT, Table, Whitespace

from integrum.plan.fields import AS_TABLES, HOLDS, key_of_field
from integrum.plan.from_toml import build, parse_plan
from integrum.plan.plan import Plan
from integrum.plan.toml import (
    LISTS,
    PARTS,
    Remarks,
    default_of,
    is_table,
    key_of,
    plain,
    spaced,
    table_of,
    words_table,
)


def merge_plan(text: str, plan: Plan, remarks: Remarks | None = None, to_fill: Collection[str] = ()) -> str:
    """Bring the text of a plan file to say what a plan says, and leave all else in it as it is.

    Comments, order and spelling survive. Columns are told by their names, groups of sources by their names or by
    where their sources are; what the plan has besides is put where it has it, what it lacks is taken out.

    Parameters
    ----------
    text
        The content of a plan file.
    plan
        What it shall say.
    remarks
        Comment lines for parts of it, as for `write_plan`; those that are there already stay as they are.
    to_fill
        Keys of columns that are new, which are written even where they are empty.

    Returns
    -------
    str
        `parse_plan` gives a plan equal to `plan` back.

    Raises
    ------
    PlanError
        When the text is not a plan.

    Examples
    --------
    >>> old = '''integrum = 1
    ... [[sources]]
    ... find = "loggers"  # from the north shore
    ... [[columns]]
    ... name = "depth"
    ... '''
    >>> from integrum.plan.column import Column
    >>> from integrum.plan.sources import Sources
    >>> print(merge_plan(old, Plan([Sources("loggers")], [Column("depth", "number")])), end="")
    integrum = 1
    [[sources]]
    find = "loggers"  # from the north shore
    [[columns]]
    name = "depth"
    type = "number"
    """
    parse_plan(text)
    document = tomlkit.parse(text)
    leads: list[tuple[Table, str]] = []
    _lead(document, [], leads)
    for part in PARTS:
        value, kind = getattr(plan, part.name), part.metadata.get(HOLDS)
        if kind is None:
            _merge_plain(document, part.name, value, default_of(part))
        elif part.name in LISTS:
            _merge_list(
                document, part.name, kind, value, remarks or {}, to_fill if part.name == "columns" else ()
            )
        elif part.name in document:
            _merge_table(document[part.name], value)
        elif value != kind():
            document.add(part.name, table_of(value, (remarks or {}).get((part.name, ""), ())))
    for table, said in leads:
        table.trivia.indent = f"\n{said}" + table.trivia.indent
    return spaced(tomlkit.dumps(document))


def _merge_plain(document: Any, name: str, value: Any, default: Any) -> None:
    """Bring a key that stands above the tables, or a table of lists of words, to say a value."""
    words = isinstance(value, Mapping)
    said = document.unwrap().get(name, default)
    there = {key: tuple(each) for key, each in said.items()} if words else tuple(said)
    if there == value:
        return
    if value == default:
        document.remove(name)
    elif name in document:
        document[name] = words_table(value) if words else plain(value)
    elif words:
        document.add(name, words_table(value))
    else:  # behind the first key, which says the version
        at = next(number for number, (key, _) in enumerate(document.body) if key is not None)
        document._insert_at(at + 1, tomlkit.key(name), tomlkit.item(plain(value)))


def _lead(container: Container, above: list[tuple[Container, int]], leads: list[tuple[Table, str]]) -> None:
    """Take out the comments right above the head of a table, which the library counts to the table before it."""
    for at, (key, item) in enumerate(container.body):
        tables = [item] if isinstance(item, Table) else item.body if isinstance(item, AoT) else None
        if tables is None:
            above.clear() if key is not None else above.append((container, at))
            continue
        for table in tables:
            said = ""
            while above:
                holder, place = above.pop()
                line = holder.body[place][1].as_string()
                if not line.strip():
                    break
                said, holder.body[place] = line + said, (None, Whitespace(""))
            above.clear()
            if said:
                leads.append((table, said))
            _lead(table.value, above, leads)


def _merge_list(
    document: Any,
    name: str,
    kind: type,
    items: Sequence[Any],
    remarks: Remarks,
    to_fill: Collection[str],
) -> None:
    if name not in document:
        if items:
            document.add(name, AoT([]))
        else:
            return
    if not isinstance(document[name], AoT):  # written as an array of inline tables
        document[name] = AoT([table_of(item, remarks.get((name, key_of(item)), ())) for item in items])
        return
    tables: Any = document[name]
    # the same groups with other paths, as in a plan that is written to another folder
    before = {key_of(build(kind, table.unwrap(), name)) for table in tables}
    is_moved = (
        name == "sources" and len(tables) == len(items) and not before & {key_of(item) for item in items}
    )
    for at, item in enumerate(items):
        keys = [key_of(build(kind, table.unwrap(), name)) for table in tables]
        there = next((number for number in range(at, len(keys)) if keys[number] == key_of(item)), None)
        if there is None and is_moved:
            there = at
        if there is None:
            table = table_of(item, remarks.get((name, key_of(item)), ()), to_fill)
            table.trivia.indent = "\n"  # surplus ones are taken out at the end
            tables.insert(at, table)
            continue
        if there != at:
            moved = tables[there]
            del tables[there]
            tables.insert(at, moved)
        _merge_table(tables[at], item)
        _add_remarks(tables[at], remarks.get((name, key_of(item)), ()))
    while len(tables) > len(items):
        del tables[len(tables) - 1]


def _merge_table(table: Any, item: Any) -> None:
    """Change the keys of a table that say something else than an object does."""
    old = build(type(item), table.unwrap(), "")
    for field in fields(item):
        value = getattr(item, field.name)
        if getattr(old, field.name) == value:
            continue
        key = key_of_field(field.name)
        if is_dataclass(value) and is_table(field) and key in table:
            _merge_table(table[key], value)
        elif value == default_of(field):
            table.remove(key)
        elif AS_TABLES in field.metadata and key in table:
            table[key] = AoT([table_of(one, ()) for one in value])
        elif key in table:
            table[key] = plain(value)
        else:
            tail = _tail(table.value)
            if AS_TABLES in field.metadata:
                table.add(key, AoT([table_of(one, ()) for one in value]))
            else:
                table.add(
                    key, table_of(value, ()) if is_dataclass(value) and is_table(field) else plain(value)
                )
            table.value.body.extend(tail)


def _add_remarks(table: Any, lines: Sequence[str]) -> None:
    """Put comment lines behind the last key of a table, if they are not in it yet."""
    there = table.as_string()
    tail = _tail(table.value)
    for line in lines:
        if f"# {line}" not in there:
            table.add(tomlkit.comment(line))
    table.value.body.extend(tail)


def _tail(container: Container) -> list[Any]:
    """Take off what stands behind the last key."""
    end = max((at for at, (key, _) in enumerate(container.body) if key is not None), default=-1) + 1
    tail = container.body[end:]
    del container.body[end:]
    return tail
