"""Which rows of two versions of a source are the same, by the hashes of the rows.

Rows whose hash is there once in both are matched first, in the longest run of them that keeps the order ("patience"
alignment); between two matched rows the others are paired by their places.
"""

from __future__ import annotations

from bisect import bisect_left
from typing import NamedTuple

import numpy as np

from integrum.arrow.arrays import Hashes, Ints


class Aligned(NamedTuple):
    """How the rows of two versions belong together."""

    # pairs of rows that are not the same: the place in the old version and the one in the new
    changed: list[tuple[int, int]]
    # places in the new version, and in the old one, that have no partner
    added: list[int]
    removed: list[int]


def align(old: Hashes, new: Hashes) -> Aligned:
    """Align the rows of two versions.

    Examples
    --------
    >>> align(np.array([1, 2, 3, 4], np.uint64), np.array([1, 9, 3, 7, 4, 5], np.uint64))
    Aligned(changed=[(1, 1)], added=[3, 5], removed=[])
    """
    found = Aligned([], [], [])
    start = _alike(old, new)
    end = _alike(old[start:][::-1], new[start:][::-1])
    one, other = old[start : len(old) - end], new[start : len(new) - end]
    before_one = before_other = 0
    for at, place in [*_matched(one, other), (len(one), len(other))]:
        if at > before_one or place > before_other:
            _between(found, one, other, (before_one, at), (before_other, place), start)
        before_one, before_other = at + 1, place + 1
    return found


def _alike(old: Hashes, new: Hashes) -> int:
    """How many rows are the same from the start."""
    size = min(len(old), len(new))
    differ = np.flatnonzero(old[:size] != new[:size])
    return int(differ[0]) if len(differ) else size


def _matched(old: Hashes, new: Hashes) -> list[tuple[int, int]]:
    """Rows that are there once in both, in the longest run that keeps the order."""
    values, places = _once(old)
    others, at = _once(new)
    both, in_old, in_new = np.intersect1d(values, others, assume_unique=True, return_indices=True)
    if not len(both):
        return []
    pairs = np.stack([places[in_old], at[in_new]], axis=1)
    pairs = pairs[np.argsort(pairs[:, 0])]
    return _longest_run([(int(one), int(other)) for one, other in pairs])


def _once(hashes: Hashes) -> tuple[Hashes, Ints]:
    values, places, counts = np.unique(hashes, return_index=True, return_counts=True)
    return values[counts == 1], places[counts == 1]


def _longest_run(pairs: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """The longest run of pairs whose second places rise."""
    ends: list[int] = []
    at: list[int] = []
    before: list[int] = []
    for number, (_, place) in enumerate(pairs):
        length = bisect_left(ends, place)
        before.append(at[length - 1] if length else -1)
        if length == len(ends):
            ends.append(place)
            at.append(number)
        else:
            ends[length], at[length] = place, number
    run = []
    number = at[-1] if at else -1
    while number >= 0:
        run.append(pairs[number])
        number = before[number]
    return run[::-1]


def _between(
    found: Aligned, old: Hashes, new: Hashes, one: tuple[int, int], other: tuple[int, int], start: int
) -> None:
    """Pair the rows between two matched ones by their places."""
    size, more = one[1] - one[0], other[1] - other[0]
    shared = min(size, more)
    differ = np.flatnonzero(old[one[0] : one[0] + shared] != new[other[0] : other[0] + shared])
    found.changed.extend((start + one[0] + at, start + other[0] + at) for at in differ.tolist())
    found.removed.extend(range(start + one[0] + shared, start + one[1]))
    found.added.extend(range(start + other[0] + shared, start + other[1]))
