"""File name patterns, the same on every system, and the places of a plan that they stand for."""

from __future__ import annotations

import os
import re
from functools import lru_cache

from integrum.plan.plan import Plan
from integrum.plan.sources import Sources
from integrum.sources.source import Source

_WILD = re.compile(r"[*?\[]")


def has_wildcard(text: str) -> bool:
    """Whether a text is a pattern.

    Examples
    --------
    >>> has_wildcard("loggers/*.csv"), has_wildcard("loggers/a.csv")
    (True, False)
    """
    return _WILD.search(text) is not None


def anchor(pattern: str) -> tuple[str, str]:
    """Split a pattern into the folder before its first wildcard and the rest.

    Examples
    --------
    >>> anchor("data/loggers/**/*.csv")
    ('data/loggers', '**/*.csv')
    >>> anchor("*.csv")
    ('', '*.csv')
    """
    parts = pattern.split("/")
    fixed = next(number for number, part in enumerate(parts) if has_wildcard(part))
    folder = "/".join(parts[:fixed])
    return (folder or "/") if pattern.startswith("/") else folder, "/".join(parts[fixed:])


@lru_cache(maxsize=512)
def _compiled(pattern: str) -> re.Pattern[str]:
    """A pattern as a regular expression that never backtracks."""
    stretches: list[list[str]] = [[]]
    for part in pattern.split("/"):
        if part == "**":
            stretches.append([])
        else:
            stretches[-1].append(_part(part))
    first, *others = ["".join(f"{part}/" for part in stretch) for stretch in stretches]
    out = first
    for stretch in others[:-1]:
        out += f"(?>(?:[^/]+/)*?{stretch})" if stretch else ""
    if others:
        out += f"(?:[^/]+/)*{others[-1]}" if others[-1] else ".*"
    return re.compile(out.removesuffix("/") + r"\Z", re.IGNORECASE | re.DOTALL)


def _part(part: str) -> str:
    """A part between slashes."""
    first, *others = _between_stars(part)
    if not others:
        return first
    middle = "".join(f"(?>[^/]*?{each})" for each in others[:-1] if each)
    return f"{first}{middle}[^/]*{others[-1]}"


def _between_stars(part: str) -> list[str]:
    out, place = [""], 0
    while place < len(part):
        letter = part[place]
        close = part.find("]", place + 2) if letter == "[" else -1
        if letter == "*":
            out.append("")
        elif letter == "?":
            out[-1] += "[^/]"
        elif close > 0:
            out[-1] += _one_of(part[place + 1 : close])
            place = close
        else:
            out[-1] += re.escape(letter)
        place += 1
    return out


def _one_of(letters: str) -> str:
    """The part between brackets; a range that runs backwards is taken as letters."""
    inside = re.sub(r"([\\\[^&~|])", r"\\\1", letters)
    found = f"[^/{inside[1:]}]" if letters[0] == "!" else f"[{inside}]"
    try:
        re.compile(found)
    except re.error:
        return re.escape(f"[{letters}]")
    return found


def matches(path: str, pattern: str) -> bool:
    """Whether a relative path with ``/`` fits a pattern.

    Examples
    --------
    >>> matches("a/b/Logger_1.CSV", "**/logger_[0-9].csv"), matches("a/b.csv", "*.csv")
    (True, False)
    """
    return _compiled(pattern).match(path) is not None


def is_excluded(path: str, patterns: tuple[str, ...]) -> bool:
    """Whether one of the patterns excludes the path; those without ``/`` look at the file name alone.

    Examples
    --------
    >>> is_excluded("a/b_old.csv", ("*_old.csv",)), is_excluded("a/b_old.csv", ("b/*",))
    (True, False)
    """
    name = path.rsplit("/", 1)[-1]
    return any(matches(path if "/" in pattern else name, pattern) for pattern in patterns)


def looked_in(place: str) -> tuple[str, bool]:
    """The folder that a place of a plan is looked for in, and whether folders below it are looked through, too.

    `place`: an absolute path or pattern.

    Examples
    --------
    >>> looked_in("/no/lakes/**/*.csv"), looked_in("/no/lakes/*.csv"), looked_in("/no/lakes.csv")
    (('/no/lakes', True), ('/no/lakes', False), ('/no', False))
    """
    if os.path.isdir(place):
        return os.path.normpath(place), True
    if os.path.exists(place) or not has_wildcard(place):
        return os.path.dirname(place), False
    start, pattern = anchor(place.replace(os.sep, "/"))
    return os.path.normpath(start), "/" in pattern


def places_of(plan: Plan, source: Source) -> frozenset[str]:
    """The places in the plan that hold for a source."""
    group = plan.group(source.group)
    return frozenset(place for place in plan.places if is_in(source, group, place))


def is_in(source: Source, group: Sources, place: str) -> bool:
    """Whether a source is where the plan says: in a group of this name, or at a path that fits this pattern."""
    return group.group == place or any(is_excluded(path, (place,)) for path in (source.file, source.name))
