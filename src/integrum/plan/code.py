"""Where a plan names a function of the analyst's own: a file, and the name of the function in it."""

from __future__ import annotations

import re

from integrum.errors import PlanError

_PLACE = re.compile(r"(.+\.py):([^\W\d]\w*)")


def check_place(text: str) -> tuple[str, str]:
    """The file and the name of the function.

    Raises PlanError when a text does not name a function.

    Examples
    --------
    >>> check_place("steps.py:depth")
    ('steps.py', 'depth')
    """
    found = _PLACE.fullmatch(text)
    if found is None:
        raise PlanError(
            f'expected a file and a function in it, such as "steps.py:depth", got "{text}"', "read"
        )
    return found[1], found[2]


def place_of(function: object) -> str:
    """How a plan names a function of Python.

    Examples
    --------
    >>> place_of(check_place).endswith("code.py:check_place")
    True
    """
    place = getattr(function, "place", "")
    code = getattr(function, "__code__", None)
    file = code.co_filename if code else "unknown.py"
    name = re.sub(r"\W", "_", getattr(function, "__name__", type(function).__name__))
    return place or f"{file if file.endswith('.py') else 'unknown.py'}:{name}"
