"""File name patterns, the same on every system: no regard to capitals, `**` for any folders."""

from __future__ import annotations

import re
from functools import lru_cache

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
    out, parts = "", pattern.split("/")
    for number, part in enumerate(parts):
        last = number == len(parts) - 1
        if part == "**":
            out += ".*" if last else "(?:[^/]+/)*"
        else:
            out += _part(part) + ("" if last else "/")
    return re.compile(out + r"\Z", re.IGNORECASE | re.DOTALL)


def _part(part: str) -> str:
    out, place = "", 0
    while place < len(part):
        letter = part[place]
        close = part.find("]", place + 2) if letter == "[" else -1
        if letter == "*":
            out += "[^/]*"
        elif letter == "?":
            out += "[^/]"
        elif close > 0:
            inside = part[place + 1 : close].replace("\\", "\\\\").replace("[", "\\[")
            out += f"[^/{inside[1:]}]" if inside[0] == "!" else f"[{inside.replace('^', chr(92) + '^')}]"
            place = close
        else:
            out += re.escape(letter)
        place += 1
    return out


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
