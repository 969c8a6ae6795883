"""A plan as TOML, both ways: the keys are the field names of the Python objects."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import MISSING, Field, fields, is_dataclass, replace
from pathlib import Path
from typing import Any

import tomlkit
from tomlkit.items import AoT, Table

from integrum.errors import PlanError
from integrum.plan.code import check_place, place_of
from integrum.plan.column import Column
from integrum.plan.fields import AS_TABLES, HOLDS, key_of_field
from integrum.plan.homes import home_of
from integrum.plan.lines import line_of
from integrum.plan.model import FORMAT, Plan
from integrum.plan.validating import nearest

# comment lines by the part of the plan that they stand above: its key there, and the name of the column or the key of
# the group; ("plan", "") is the top
Remarks = Mapping[tuple[str, str], Sequence[str]]

PARTS = fields(Plan)
LISTS = tuple(each.name for each in PARTS if HOLDS in each.metadata and each.default_factory is MISSING)


def read_plan(path: str | Path) -> Plan:
    """Read a plan file.

    Parameters
    ----------
    path
        A TOML file.

    Returns
    -------
    Plan
        The validated plan. Its relative paths mean: relative to the folder of `path`.

    Raises
    ------
    PlanError
        When the file cannot be read, is not TOML, has an unknown key or a value of the wrong kind. The
        message names the place in the plan and the nearest correct key.

    Examples
    --------
    >>> read_plan("no-such-plan.toml")
    Traceback (most recent call last):
    ...
    integrum.errors.PlanError: no-such-plan.toml: file not found
    """
    text = _text_of(path)
    try:
        return parse_plan(text)
    except PlanError as error:
        raise error.within(str(path)) from None


def _text_of(path: str | Path) -> str:
    try:
        return Path(path).read_bytes().decode("utf-8-sig")
    except FileNotFoundError:
        raise PlanError("file not found", str(path)) from None
    except OSError as error:
        raise PlanError(f"the file cannot be read: {error.strerror}", str(path)) from error
    except UnicodeDecodeError as error:
        raise PlanError(
            f"a plan has to be UTF-8 text; the byte at offset {error.start} is not valid", str(path)
        ) from None
    except ValueError:
        raise PlanError("a path cannot have the character NUL in it", repr(path)) from None


def parse_plan(text: str) -> Plan:
    """Read a plan from TOML text.

    Parameters
    ----------
    text
        The content of a plan file.

    Returns
    -------
    Plan
        The validated plan.

    Raises
    ------
    PlanError
        As `read_plan`.

    Examples
    --------
    >>> parse_plan('''
    ... integrum = 1
    ... [[sources]]
    ... find = ["loggers"]
    ... [[columns]]
    ... name = "depth"
    ... tipe = "number"
    ... ''')
    Traceback (most recent call last):
    ...
    integrum.errors.PlanError: line 7, columns[1] "depth", key tipe: unknown key; did you mean "type"?
    """
    return _with_line(_tree_of(text), text)


def _with_line(tree: dict[str, Any], text: str) -> Plan:
    """The plan that the keys of a file make; an error names the line of the file."""
    try:
        return _plan_of(tree)
    except PlanError as error:
        line = line_of(error.place, text)
        raise (error.within(f"line {line}") if line else error) from None


def _tree_of(text: str) -> dict[str, Any]:
    """The keys of a plan file."""
    try:
        return tomllib.loads(text)
    except RecursionError:
        raise PlanError("its tables or lists are nested too deeply") from None
    except tomllib.TOMLDecodeError as error:
        from integrum.plan.faults import explained

        message, line = explained(error, text)
        raise PlanError(message, f"line {line}" if line else "") from None


def _plan_of(tree: dict[str, Any]) -> Plan:
    version = tree.pop("integrum", None)
    known = ["integrum", *(each.name for each in PARTS)]
    for key in tree:
        if key not in known:
            raise PlanError(f"unknown key{_meant(key, '', known)}", f"key {key}")
    if version is None:
        raise PlanError(f"missing; the first line of a plan has to be: integrum = {FORMAT}", "key integrum")
    if version != FORMAT or isinstance(version, bool):
        raise PlanError(
            f"this version of Integrum reads plans of format {FORMAT}, got {version!r}", "key integrum"
        )
    if "sources" not in tree:
        raise PlanError("missing; a plan needs at least one [[sources]]", "key sources")
    values = {each.name: _part(each, tree[each.name]) for each in PARTS if each.name in tree}
    try:
        return Plan(**values)
    except PlanError as error:
        if error.place.partition("[")[0].partition(".")[0] in ("leave_out", "glossary"):
            raise PlanError(error.message, f"key {error.place}") from None
        raise


def read_columns(path: str | Path) -> list[Column]:
    """Read the columns of a file: those of a plan, or a file that has nothing but ``[[columns]]``.

    Parameters
    ----------
    path
        A TOML file.

    Returns
    -------
    list of Column

    Raises
    ------
    PlanError
        As `read_plan`, and when it has no columns.

    Examples
    --------
    >>> import pathlib, tempfile
    >>> wanted = pathlib.Path(tempfile.mkdtemp()) / "wanted.toml"
    >>> _ = wanted.write_text('[[columns]]\\nname = "depth"\\ntype = "number"\\n')
    >>> [(column.name, column.type) for column in read_columns(wanted)]
    [('depth', 'number')]
    """
    text = _text_of(path)
    try:
        tree = _tree_of(text)
        if "sources" not in tree:
            tree = {"integrum": FORMAT, "sources": [{"find": ["."]}], "rules": {"unlisted": "keep"}} | tree
        columns = list(_with_line(tree, text).columns)
    except PlanError as error:
        raise error.within(str(path)) from None
    if not columns:
        raise PlanError("there is no [[columns]] in it", str(path))
    return columns


def _part(part: Field[Any], value: Any) -> Any:
    """One of the keys of a plan: a list of objects, one, or plain values, which the plan checks itself."""
    if HOLDS not in part.metadata:
        return value
    kind = part.metadata[HOLDS]
    if part.name not in LISTS:
        if not isinstance(value, dict):
            raise PlanError(f"expected a [{part.name}] table", f"key {part.name}")
        return build(kind, value, part.name)
    if not isinstance(value, list) or not all(isinstance(item, dict) for item in value):
        raise PlanError(f"expected [[{part.name}]] tables", f"key {part.name}")
    return [build(kind, item, _numbered(part.name, number, item)) for number, item in enumerate(value, 1)]


def write_plan(plan: Plan, remarks: Remarks | None = None) -> str:
    """Give a plan as TOML text.

    Parameters
    ----------
    plan
        The plan.
    remarks
        Comment lines to put above a part: keys are ``("plan", "")`` for the top, ``("columns", "depth")`` for a
        column, and ``("sources", KEY)`` for a group, by its `Sources.key`.

    Returns
    -------
    str
        The text of a plan file; `parse_plan` gives an equal plan back.

    Examples
    --------
    >>> from integrum.plan.column import Column
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
                group.append(table_of(item, remarks.get((part.name, key_of(item)), ())))
            if group:
                document.add(part.name, group)
        elif HOLDS not in part.metadata:
            if part.name == "glossary" and value:
                document.add(part.name, words_table(value))
        elif value != part.metadata[HOLDS]():
            document.add(part.name, table_of(value, remarks.get((part.name, ""), ())))
    return spaced(tomlkit.dumps(document))


def moved(plan: Plan, remarks: Remarks, place: Callable[[str], str]) -> tuple[Plan, Remarks]:
    """The same plan and remarks with the places of its sources written in another way."""
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
    """Where a function is, written in another way; one that is there already stays."""
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
    """What tells one of a list of objects from the others."""
    return str(item.key) if hasattr(item, "key") else str(item.name)


def is_table(field: Field[Any]) -> bool:
    """Whether an object stands in a table of its own below the one that holds it, and not in a line of it."""
    return is_dataclass(default_of(field))


def default_of(field: Field[Any]) -> Any:
    """The default of a field."""
    return field.default if field.default_factory is MISSING else field.default_factory()


def spaced(text: str) -> str:
    """The text with at most one empty line between tables, and one line end at its end."""
    # line breaks inside texts are written as escapes, so these are all between tables
    return re.sub(r"\n{3,}", "\n\n", text).rstrip("\n") + "\n"


def table_of(item: Any, remarks: Sequence[str]) -> Table:
    """An object as a table; keys that say what holds anyway are left out."""
    table = tomlkit.table()
    for line in remarks:
        table.add(tomlkit.comment(_one_line(line)))
    for field in fields(item):
        value = getattr(item, field.name)
        if value == default_of(field) and field.name != "type":
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
    """A value as TOML has it."""
    if isinstance(value, tuple):
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


def _one_line(text: str) -> str:
    return "".join(" " if ord(letter) < 32 or ord(letter) == 127 else letter for letter in text)


def build(kind: type, given: dict[str, Any], place: str) -> Any:
    """Make an object of the keys of a table; errors name the place."""
    names = {key_of_field(field.name): field.name for field in fields(kind)}
    for key in given:
        if key not in names:
            raise PlanError(f"unknown key{_meant(key, place, names)}", f"{place}, key {key}")
    given = {names[key]: value for key, value in given.items()}
    for field in fields(kind):
        if field.default is MISSING and field.default_factory is MISSING and field.name not in given:
            raise PlanError("missing", f"{place}, key {field.name}")
    for field in fields(kind):
        if HOLDS in field.metadata and field.name in given:
            given = given | {field.name: _held(field, given[field.name], place)}
    try:
        return kind(**given)
    except PlanError as error:
        raise PlanError(error.message, f"{place}, key {error.place}") from None


def _meant(key: str, place: str, known: Iterable[str]) -> str:
    """What somebody who wrote an unknown key may have meant, as the end of a message."""
    known = list(known)
    return nearest(key, known, 0.85) or home_of(key, place) or nearest(key, known)


def _held(field: Field[Any], value: Any, place: str) -> Any:
    """What stands inside a table: an object, or texts and objects in a list."""
    kind = field.metadata[HOLDS]
    if default_of(field) is None:
        if not isinstance(value, dict):
            raise PlanError(f"expected a table: {field.name} = {{ ... }}", f"{place}, key {field.name}")
        return build(kind, value, f"{place}, {field.name}")
    if is_dataclass(default_of(field)):
        if not isinstance(value, dict):
            raise PlanError(f"expected a [sources.{field.name}] table", f"{place}, key {field.name}")
        return build(kind, value, f"{place}, {field.name}")
    if AS_TABLES in field.metadata and not (
        isinstance(value, list) and all(isinstance(one, dict) for one in value)
    ):
        raise PlanError(f"expected [[sources.{field.name}]] tables", f"{place}, key {field.name}")
    if not isinstance(value, list):
        return value
    return [
        build(kind, item, f"{place}, {field.name}[{number}]") if isinstance(item, dict) else item
        for number, item in enumerate(value, 1)
    ]


def _numbered(key: str, number: int, item: Mapping[str, Any]) -> str:
    name = item.get("name")
    return f"{key}[{number}]" + (f' "{name}"' if isinstance(name, str) else "")
