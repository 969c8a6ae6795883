"""Spellings of one category: case, spaces, zeros in front of numbers, a letter that differs."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from rapidfuzz.distance import OSA

from integrum.surveying.thresholds import CATEGORY_MOST, CATEGORY_RARER, CATEGORY_REPEATED, CATEGORY_SHORTEST

# signs count, as in "> 20" and "B+"; but for those that only stand between words
_WORD = re.compile(r"[^\W\d_]+|\d+|[^\w\s]")
_BETWEEN = re.compile(r"(?<=\w)[-_.,:;/'’ ]+(?=\w)")


@dataclass(frozen=True)
class AlikeValue:
    """A value that may be another spelling of a more frequent one. A person decides."""

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
    words, frequency = [_words(value) for value in order], [counts[value] for value in order]
    found: list[AlikeValue] = []
    # of the values that are none in another spelling: those with each key, in order; and all with as many words
    places: dict[object, list[int]] = {}
    for at, value in enumerate(order):
        mine = words[at]
        if not mine:
            continue
        keys = (mine, (1, _without_zeros(mine)), (2, "".join(mine)))
        nearest = [
            (next(iter(places.get(keys[0], ())), at), "case or spaces"),
            (next(iter(places.get(keys[1], ())), at), "zeros in front"),
            (
                next((to for to in places.get(keys[2], ()) if len(words[to]) != len(mine)), at),
                "case or spaces",
            ),
            (_one_letter_away(at, places.get(len(mine), ()), words, frequency), "one letter differs"),
        ]
        to, because = min(nearest, key=lambda one: one[0])
        if to < at:
            found.append(AlikeValue(value, order[to], because))
            continue
        for key in (*keys, len(mine)):
            places.setdefault(key, []).append(at)
    return found


def _one_letter_away(
    at: int, others: Sequence[int], words: Sequence[tuple[str, ...]], counts: Sequence[int]
) -> int:
    """The first far more frequent value of which one word has another letter; the value itself where there is none."""
    mine = words[at]
    for to in others:
        if counts[at] * CATEGORY_RARER > counts[to]:
            break  # those that follow are rarer still
        differing = [(one, two) for one, two in zip(mine, words[to], strict=True) if one != two]
        if len(differing) == 1:
            (one, two) = differing[0]
            is_long = min(len(one), len(two)) >= CATEGORY_SHORTEST and not (one.isdigit() or two.isdigit())
            if is_long and one[0] == two[0] and OSA.distance(one, two) == 1:
                return to
    return at


def _words(value: str) -> tuple[str, ...]:
    return tuple(_WORD.findall(_BETWEEN.sub(" ", value.casefold().strip())))


def _without_zeros(words: tuple[str, ...]) -> tuple[str, ...]:
    return tuple(word.lstrip("0") or "0" if word.isdigit() else word for word in words)
