"""How the fields of a plan's objects are written in its file: marks on the fields that say so."""

from __future__ import annotations

# marks a field whose values are objects of their own, or lists of such: a table in the plan's file
HOLDS = "holds"
# marks such a list whose objects are each a table of its own there, and not inline
AS_TABLES = "as tables"


def key_of_field(name: str) -> str:
    """The key of a field in the file: without the underscore that keeps it from being a word of Python.

    Examples
    --------
    >>> key_of_field("in_"), key_of_field("unit")
    ('in', 'unit')
    """
    return name.removesuffix("_")
