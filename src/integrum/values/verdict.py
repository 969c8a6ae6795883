"""From the kinds of values in a column to a type, and what speaks against it."""

from __future__ import annotations

from collections.abc import Mapping

from integrum.values.kinds import BOOLEAN, DATE, DATETIME, ERROR, INTEGER, KINDS, NUMBER, TEXT

_ALONE = (INTEGER, NUMBER, BOOLEAN, DATE, DATETIME)


def verdict(counts: Mapping[int, int]) -> tuple[str, tuple[int, ...]]:
    """The type that a column is drafted with.

    Parameters
    ----------
    counts
        How many values of each kind, as indexes into `KINDS`; without empty ones.

    Returns
    -------
    tuple
        The type, and the kinds that disagree with the most frequent one, rarest first. Integers among
        numbers and dates among times do not disagree; errors of spreadsheets are named, and do not count.

    Examples
    --------
    >>> verdict({INTEGER: 5, NUMBER: 70}), verdict({NUMBER: 70, TEXT: 2})
    (('number', ()), ('text', (6,)))
    """
    present = {kind: count for kind, count in counts.items() if count}
    errors = (ERROR,) if present.pop(ERROR, 0) else ()
    if set(present) == {INTEGER, NUMBER}:
        return "number", errors
    if set(present) == {DATE, DATETIME}:
        return "datetime", errors
    if len(present) <= 1:
        kind = next(iter(present), TEXT)
        return KINDS[kind] if kind in _ALONE else "text", errors
    main = main_kind(present)
    others = [kind for kind in present if kind != main and not (main == NUMBER and kind == INTEGER)]
    return "text", (*errors, *sorted(others, key=lambda kind: present[kind]))


def main_kind(counts: Mapping[int, int]) -> int:
    """The kind that most values have; integers count as numbers where there are numbers, errors not at all."""
    joined = {kind: count for kind, count in counts.items() if kind != ERROR}
    if not joined:
        return TEXT
    if joined.get(NUMBER):
        joined[NUMBER] += joined.pop(INTEGER, 0)
    return max(joined, key=lambda kind: joined[kind])
