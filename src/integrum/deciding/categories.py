"""Spellings of one category: case, spaces, zeros in front of numbers, a letter that differs."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

from rapidfuzz.distance import OSA

from integrum.deciding.thresholds import CATEGORY_MOST, CATEGORY_RARER, CATEGORY_REPEATED, CATEGORY_SHORTEST

# signs count, as in "> 20" and "B+"; but for those that only stand between words
_WORD = re.compile(r"[^\W\d_]+|\d+|[^\w\s]")
_BETWEEN = re.compile(r"(?<=\w)[-_.,:;/'’ ]+(?=\w)")


@dataclass(frozen=True)
class AlikeValue:
    """A value that may be another one in another spelling; nothing is done before somebody decides it."""

    value: str
    other: str
    because: str


def alike_values(counts: Mapping[str, int]) -> list[AlikeValue]:
    """Find values of a text column that may be one category.

    Returns the rarer value first in each.

    Examples
    --------
    >>> found = alike_values({"Reed bed": 40, "reed bed ": 3, "Open water": 30, "Open wather": 1, "P-07": 9, "P-7": 4})
    >>> [(one.value, one.because) for one in found]
    [('P-7', 'zeros in front'), ('reed bed ', 'case or spaces'), ('Open wather', 'one letter differs')]
    >>> alike_values({"inlet 1": 20, "inlet 2": 20, "lake A": 9, "lake B": 1, "> 20": 5, "< 20": 5, "B": 4, "B-": 4})
    []
    """
    total = sum(counts.values())
    if not 1 < len(counts) <= CATEGORY_MOST or total < CATEGORY_REPEATED * len(counts):
        return []
    order = sorted(counts, key=lambda value: -counts[value])
    found: dict[str, AlikeValue] = {}
    for at, value in enumerate(order):
        for other in order[:at]:
            because = "" if other in found else _because(value, other, counts)
            if because:
                found[value] = AlikeValue(value, other, because)
                break
    return list(found.values())


def _because(value: str, other: str, counts: Mapping[str, int]) -> str:
    mine, theirs = _words(value), _words(other)
    if mine == theirs:
        return "case or spaces" if mine else ""
    if _without_zeros(mine) == _without_zeros(theirs):
        return "zeros in front"
    if len(mine) != len(theirs):
        return "case or spaces" if mine and "".join(mine) == "".join(theirs) else ""
    differing = [(one, two) for one, two in zip(mine, theirs, strict=True) if one != two]
    if len(differing) != 1 or counts[value] * CATEGORY_RARER > counts[other]:
        return ""
    (one, two) = differing[0]
    if one.isdigit() or two.isdigit() or min(len(one), len(two)) < CATEGORY_SHORTEST:
        return ""
    return "one letter differs" if one[0] == two[0] and OSA.distance(one, two) == 1 else ""


def _words(value: str) -> tuple[str, ...]:
    return tuple(_WORD.findall(_BETWEEN.sub(" ", value.casefold().strip())))


def _without_zeros(words: tuple[str, ...]) -> tuple[str, ...]:
    return tuple(word.lstrip("0") or "0" if word.isdigit() else word for word in words)
