"""Whether single values of a plan are of their kind; each error says what was expected and what came."""

from __future__ import annotations

import math
import os
from collections.abc import Mapping
from datetime import date, time
from typing import Any

from integrum.errors import PlanError
from integrum.plan.wrong_words import meant
from integrum.problems.problem import clipped

MOST_EXPECTED = 100_000


def set_on(target: object, name: str, value: object) -> None:
    """Set a field of a frozen object while it is made."""
    object.__setattr__(target, name, value)


def expected(what: str, came: object) -> str:
    """What was expected and what came, as a message.

    Examples
    --------
    >>> expected("a number", "seven"), expected("a text", [1])
    ('expected a number, got "seven"', 'expected a text, got a list: [1]')
    """
    return f"expected {what}, got {_shown(came)}"


def _shown(came: object) -> str:
    if isinstance(came, str):
        return f'"{came}"'
    if came is None or isinstance(came, bool):
        return str(came).lower() if isinstance(came, bool) else "None"
    if isinstance(came, (int, float)):
        return f"the number {came}"
    if isinstance(came, (list, tuple, Mapping)):
        return f"a {'table' if isinstance(came, Mapping) else 'list'}: {clipped(str(came), 80)}"
    kind = type(came).__name__
    return f"{'an' if kind[:1] in 'AEIOU' else 'a'} {kind}"


def text(value: object, place: str, what: str = "a text", empty: bool = False) -> str:
    """Check a text; it may be empty only where that is allowed."""
    if not isinstance(value, str):
        # a number or a date of the plan, which has to be compared as it is written in cells
        plain = isinstance(value, (int, float, date, time)) and not isinstance(value, bool)
        raise PlanError(expected(what, value) + (f'; write "{value}"' if plain else ""), place)
    if not value.strip() and not empty:
        raise PlanError(f"expected {what}, got an empty text", place)
    try:
        value.encode()
    except UnicodeEncodeError as error:
        raise PlanError(f"expected {what} in valid Unicode, got {value!r}", place) from error
    return value


def texts(value: Any, place: str, lone: bool = False, empty: bool = False) -> tuple[str, ...]:
    """A tuple of texts; one text alone is taken for a list of one where `lone`."""
    if lone and isinstance(value, str):
        value = (value,)
    if not isinstance(value, (list, tuple)):
        raise PlanError(expected("a list of texts", value), place)
    return tuple(text(item, f"{place}[{number}]", empty=empty) for number, item in enumerate(value, 1))


def texts_or(kind: type, value: Any, place: str) -> tuple[Any, ...]:
    """A tuple of texts and objects of one kind; one alone is taken for a list of one."""
    if isinstance(value, (str, kind)):
        value = (value,)
    if not isinstance(value, (list, tuple)):
        raise PlanError(expected(f"a list of texts and {kind.__name__}", value), place)
    for number, item in enumerate(value, 1):
        if not isinstance(item, kind):
            text(item, f"{place}[{number}]")
    return tuple(value)


def share(value: object, place: str) -> float:
    """Check a number from 0 to 1."""
    if isinstance(value, bool) or not isinstance(value, (int, float)) or not 0 <= value <= 1:
        raise PlanError(expected("a number from 0 to 1", value), place)
    return float(value)


def word_lists(value: Any, place: str) -> dict[str, tuple[str, ...]]:
    """Check lists of texts by a text."""
    if not isinstance(value, Mapping):
        raise PlanError(expected("a table of lists of texts", value), place)
    return {text(key, place): texts(words, f"{place}.{key}", lone=True) for key, words in value.items()}


def objects(value: Any, kind: type, place: str, short: str = "") -> tuple[Any, ...]:
    """A tuple of objects of one kind; one alone is a list of one, and a text makes one where `short` says what it is."""
    if isinstance(value, kind) or (short and isinstance(value, (str, os.PathLike))):
        value = (value,)
    what = f"{kind.__name__} objects" + (f" or {short}" if short else "")
    if not isinstance(value, (list, tuple)):
        raise PlanError(expected(f"a list of {what}", value), place)
    made = []
    for number, item in enumerate(value, 1):
        if short and isinstance(item, (str, os.PathLike)):
            item = kind(os.fspath(item))
        if not isinstance(item, kind):
            raise PlanError(expected(f"a list of {what}", item), f"{place}[{number}]")
        made.append(item)
    return tuple(made)


def pairs(value: Any, place: str) -> dict[str, str]:
    """Check a table of texts."""
    if not isinstance(value, Mapping):
        raise PlanError(expected("a table of texts", value), place)
    return {
        text(key, f"{place}, a key"): text(item, f"{place}.{key}", empty=True) for key, item in value.items()
    }


def as_text(value: Any) -> Any:
    """The same with texts instead of paths."""
    if isinstance(value, os.PathLike):
        return os.fspath(value)
    if isinstance(value, (list, tuple)):
        return tuple(os.fspath(each) if isinstance(each, os.PathLike) else each for each in value)
    return value


def places(value: Any, place: str) -> tuple[str, ...]:
    """A tuple of paths or patterns; one alone is taken for a list of one."""
    found = texts(as_text(value), place, lone=True)
    for number, each in enumerate(found, 1):
        if "\0" in each:
            raise PlanError(f"a path cannot have the character NUL in it, got {each!r}", f"{place}[{number}]")
    return found


def expectation(value: Any) -> Any:
    """What `expect` may be."""
    if value is None or (isinstance(value, int) and not isinstance(value, bool) and value >= 0):
        return value
    if isinstance(value, Mapping):
        lists = {
            text(key, "expect, a key"): texts(item, f"expect.{key}", lone=True) for key, item in value.items()
        }
        combinations = math.prod(len(set(each)) for each in lists.values())
        if combinations > MOST_EXPECTED:
            raise PlanError(
                f"that would be {combinations:,} sources; at most {MOST_EXPECTED:,} can be expected", "expect"
            )
        return lists
    if isinstance(value, (list, tuple, str, os.PathLike)):
        return places(value, "expect")
    raise PlanError(
        expected("a number of sources, a list of paths, or a table of identifier values", value), "expect"
    )


def one_of(value: object, words: tuple[str, ...], place: str) -> None:
    """Check that a value is one of some words."""
    if value not in words:
        near = meant(value, words) if isinstance(value, str) else ""
        known = ", ".join(word for word in words if word)
        raise PlanError(expected(f"one of {known}", value) + near, place)


def yes_or_no(value: object, place: str) -> None:
    """Check for true or false."""
    if not isinstance(value, bool):
        raise PlanError(expected("true or false", value), place)
