"""The plan of a run for a folder that is handed on: where its sources, its code and its lists lie there."""

from __future__ import annotations

import os
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path

from integrum.plan.code import check_place, place_of
from integrum.plan.plan import Plan
from integrum.plan.toml import moved
from integrum.remote.addresses import is_remote
from integrum.sources.patterns import looked_in

SOURCES, CODE, LISTS = "sources", "code", "lists"


@dataclass(frozen=True)
class Relocated:
    """A plan as it stands in a folder that is handed on."""

    plan: Plan  # its places are relative to that folder
    base: Path  # what stands on this machine where ``sources`` stands there
    others: Mapping[str, Path]  # code and lists, by their paths there


def relocated(plan: Plan) -> Relocated:
    """Write the places of a plan as they are in a folder that is handed on.

    Sources keep their places among each other, so that they have the same names there.

    `plan`: its paths are absolute.

    Examples
    --------
    >>> from integrum.plan.sources import Sources
    >>> made = relocated(Plan([Sources(["/lakes/loggers/**/*.csv", "/lakes/visits/a.csv"])]))
    >>> made.plan.sources[0].find, made.base.as_posix()
    (('sources/loggers/**/*.csv', 'sources/visits/a.csv'), '/lakes')
    """
    places = [each for group in plan.sources for each in group.find if not is_remote(each)]
    base = _common([looked_in(each)[0] for each in places])
    code = [
        check_place(one.read if isinstance(one.read, str) else place_of(one.read))[0]
        for one in plan.columns
        if one.read is not None
    ]
    lists = [check.listed for check in plan.checks if check.listed]
    there = {**_named(lists, LISTS), **_named(code, CODE)}

    def place(each: str) -> str:
        if each in there:
            return there[each]
        if is_remote(each):
            return each
        below = Path(os.path.relpath(each, base)).as_posix()
        return SOURCES if below == "." else f"{SOURCES}/{below}"

    others = {new: Path(old) for old, new in there.items() if os.path.isfile(old)}
    return Relocated(moved(plan, {}, place)[0], base, others)


def searched_above(plan: Plan, folder: Path) -> str:
    """A folder in which the plan looks for sources down to a folder; empty when there is none.

    `plan`: its paths are absolute.
    """
    for place in (each for group in plan.sources for each in group.find if not is_remote(each)):
        top, is_deep = looked_in(place)
        if is_deep and Path(top) in folder.parents:
            return top
    return ""


def _common(folders: Iterable[str]) -> Path:
    some = [os.path.abspath(each) for each in folders]
    return Path(os.path.commonpath(some)) if some else Path(os.path.abspath(os.sep))


def _named(files: Iterable[str], folder: str) -> dict[str, str]:
    """Files by their names in a folder; one of a name that is taken has a number."""
    found: dict[str, str] = {}
    for each in dict.fromkeys(files):
        name, number = os.path.basename(each), 1
        while f"{folder}/{name}" in found.values():
            number += 1
            stem, suffix = os.path.splitext(os.path.basename(each))
            name = f"{stem}_{number}{suffix}"
        found[each] = f"{folder}/{name}"
    return found
