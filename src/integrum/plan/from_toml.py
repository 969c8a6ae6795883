"""A plan from TOML: the file, its tables, and errors that name the line, the place and what to write."""

from __future__ import annotations

import tomllib
from collections.abc import Iterable, Mapping
from dataclasses import MISSING, Field, fields, is_dataclass
from pathlib import Path
from typing import Any

from integrum.errors import PlanError
from integrum.plan.column import Column
from integrum.plan.fields import AS_TABLES, HOLDS, explained, key_of_field
from integrum.plan.lines import line_of
from integrum.plan.model import FORMAT, home_of
from integrum.plan.plan import Plan
from integrum.plan.toml import LISTS, PARTS, default_of
from integrum.plan.validating import set_on
from integrum.plan.wrong_words import meant, nearest


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
    plan = _with_line(_tree_of(text), text)
    set_on(plan, "_text", text)
    return plan


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

    Raises PlanError: as `read_plan`, and when it has no columns.

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
    return nearest(key, known, 0.85) or home_of(key, place) or meant(key, known)


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
