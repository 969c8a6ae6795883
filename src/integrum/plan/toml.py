"""A plan as TOML, both ways: the keys are the field names of the Python objects."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Mapping, Sequence
from dataclasses import MISSING, fields
from pathlib import Path
from typing import Any

import tomlkit
from tomlkit.items import AoT, Table

from integrum.errors import PlanError
from integrum.plan.checks import nearest
from integrum.plan.layout import Layout
from integrum.plan.model import FORMAT, Column, Plan, Provenance, Rules, Sources

_LISTS = {"sources": Sources, "columns": Column}
_TABLES = {"provenance": Provenance, "rules": Rules}

Remarks = Mapping[tuple[str, int], Sequence[str]]


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
    integrum.errors.PlanError: no-such-plan.toml: there is no such file
    """
    try:
        text = Path(path).read_bytes().decode("utf-8-sig")
    except FileNotFoundError:
        raise PlanError("there is no such file", str(path)) from None
    except OSError as error:
        raise PlanError(f"the file cannot be read: {error.strerror}", str(path)) from error
    except UnicodeDecodeError as error:
        raise PlanError(f"a plan is UTF-8 text; the byte at offset {error.start} is not", str(path)) from None
    try:
        return parse_plan(text)
    except PlanError as error:
        raise error.within(str(path)) from None


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
    integrum.errors.PlanError: columns[1] "depth", key tipe: unknown key; did you mean "type"?
    """
    try:
        tree = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise PlanError(f"this is not TOML: {error}") from None
    known = ["integrum", *_LISTS, *_TABLES]
    for key in tree:
        if key not in known:
            raise PlanError(f"unknown key{nearest(key, known)}", f"key {key}")
    version = tree.pop("integrum", None)
    if version is None:
        raise PlanError(f"missing; the first line of a plan is: integrum = {FORMAT}", "key integrum")
    if version != FORMAT or isinstance(version, bool):
        raise PlanError(
            f"this version of Integrum reads plans of format {FORMAT}; came {version!r}", "key integrum"
        )
    if "sources" not in tree:
        raise PlanError("missing; a plan has at least one [[sources]]", "key sources")
    values: dict[str, Any] = {}
    for key, value in tree.items():
        if key in _LISTS:
            if not isinstance(value, list) or not all(isinstance(item, dict) for item in value):
                raise PlanError(f"expected [[{key}]] tables", f"key {key}")
            values[key] = [
                _build(_LISTS[key], item, _numbered(key, number, item))
                for number, item in enumerate(value, 1)
            ]
        else:
            if not isinstance(value, dict):
                raise PlanError(f"expected a [{key}] table", f"key {key}")
            values[key] = _build(_TABLES[key], value, key)
    return Plan(**values)


def write_plan(plan: Plan, remarks: Remarks | None = None) -> str:
    """Give a plan as TOML text.

    Parameters
    ----------
    plan
        The plan.
    remarks
        Comment lines to put above a part: keys are ``("plan", 0)`` for the top, and ``("sources", 0)``,
        ``("columns", 3)`` and so on, counted from 0.

    Returns
    -------
    str
        The text of a plan file; `parse_plan` gives an equal plan back.

    Examples
    --------
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
    for line in remarks.get(("plan", 0), ()):
        document.add(tomlkit.comment(_one_line(line)))
    document.add("integrum", tomlkit.item(FORMAT))
    document.add(tomlkit.nl())
    for key in _LISTS:
        group = AoT([])
        for number, item in enumerate(getattr(plan, key)):
            group.append(_table(item, remarks.get((key, number), ())))
        if group:
            document.add(key, group)
    for key, kind in _TABLES.items():
        item = getattr(plan, key)
        if item != kind():
            document.add(key, _table(item, remarks.get((key, 0), ())))
    # line breaks inside texts are written as escapes, so these are all between tables
    return re.sub(r"\n{3,}", "\n\n", tomlkit.dumps(document)).rstrip("\n") + "\n"


def _table(item: object, remarks: Sequence[str]) -> Table:
    table = tomlkit.table()
    for line in remarks:
        table.add(tomlkit.comment(_one_line(line)))
    for field in fields(item):  # type: ignore[arg-type]
        value = getattr(item, field.name)
        default = field.default if field.default_factory is MISSING else field.default_factory()
        if value == default and field.name != "type":
            continue
        if isinstance(value, Layout):
            table.add(tomlkit.nl())
            table.add(field.name, _table(value, ()))
            continue
        table.add(field.name, _plain(value))
    table.add(tomlkit.nl())
    return table


def _plain(value: Any) -> Any:
    if isinstance(value, tuple):
        return list(value)
    if isinstance(value, Mapping):
        inline = tomlkit.inline_table()
        for key, item in value.items():
            inline.add(key, _plain(item))
        return inline
    return value


def _one_line(text: str) -> str:
    return "".join(" " if ord(letter) < 32 or ord(letter) == 127 else letter for letter in text)


def _build(kind: type, given: dict[str, Any], place: str) -> Any:
    known = [field.name for field in fields(kind)]
    for key in given:
        if key not in known:
            raise PlanError(f"unknown key{nearest(key, known)}", f"{place}, key {key}")
    for field in fields(kind):
        if field.default is MISSING and field.default_factory is MISSING and field.name not in given:
            raise PlanError("missing", f"{place}, key {field.name}")
    if kind is Sources and "layout" in given:
        if not isinstance(given["layout"], dict):
            raise PlanError("expected a [sources.layout] table", f"{place}, key layout")
        given = given | {"layout": _build(Layout, given["layout"], f"{place}, layout")}
    try:
        return kind(**given)
    except PlanError as error:
        raise PlanError(error.message, f"{place}, key {error.place}") from None


def _numbered(key: str, number: int, item: Mapping[str, Any]) -> str:
    name = item.get("name")
    return f"{key}[{number}]" + (f' "{name}"' if isinstance(name, str) else "")
