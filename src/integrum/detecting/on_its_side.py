"""Whether a table lies on its side: its variables stand in rows, and each column is a sample."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

from integrum.detecting.headers import has_name, is_name
from integrum.values.cells import kind_of

# rows and columns that can be judged, and how many of the first are looked at
_LEAST_ROWS, _LEAST_COLUMNS, _LOOKED_AT = 2, 3, 40
_NAMED, _PURE = 0.7, 0.8


def is_on_its_side(header: Sequence[str], rows: Sequence[Sequence[str]]) -> bool:
    """Whether rows hold one kind each and columns do not, or the names of variables stand in the first column.

    Examples
    --------
    >>> rows = [["lake", "Amber", "Vessel", "Amber"], ["ph", "7.1", "7.2", "7.0"], ["day", "2024-05-01", "2024-05-02", ""]]
    >>> is_on_its_side(["sample", "S1", "S2", "S3"], rows)
    True
    >>> is_on_its_side(["lake", "ph", "temp"], [["Amber", "7.1", "12"], ["Vessel", "7.2", "11"]])
    False
    """
    rows = [list(row) for row in rows[:_LOOKED_AT] if any(cell.strip() for cell in row)]
    if len(rows) < _LEAST_ROWS or len(header) < _LEAST_COLUMNS:
        return False
    names = [row[0].strip() for row in rows if row]
    if not all(names) or len(set(names)) < len(names) or any(kind_of(name) != "text" for name in names):
        return False
    others = [cell for cell in header[1:] if cell.strip()]
    if 2 * sum(map(is_name, others)) > len(others):
        return False
    kinds = [[kind for cell in row[1:] if (kind := kind_of(cell))] for row in rows]
    pure = [set(some).pop() for some in kinds if len(some) > 1 and len(set(some)) == 1]
    if len(pure) < _PURE * len(rows):
        return False
    named = sum(map(has_name, names)) >= _NAMED * len(names)
    return (len(set(pure)) > 1 and (named or len(set(pure) - {"text"}) > 1 or _alternates(pure))) or (
        named and set(pure) <= {"number"} and not any(map(is_name, others))
    )


def _alternates(kinds: Sequence[str]) -> bool:
    """Whether rows of texts and rows of values stand among each other, and not one below the other."""
    changes = sum(one != other for one, other in pairwise(kinds))
    return changes > 1
