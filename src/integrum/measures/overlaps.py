"""Which sources have rows of another one, told from a few rows of each."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence, Set
from dataclasses import dataclass
from itertools import combinations
from typing import Literal

import numpy as np

from integrum.measures.row_marks import Marks

Kind = Literal["copy", "beginning", "within", "overlap", "most", "together"]
# a row that is in more sources than this is nothing special
_MOST_SOURCES = 12
# so many of the rows that should be the same have to be, and so many at least where they stand anywhere
_AGREE, _SHARE, _LEAST, _ALIGNED = 0.8, 0.8, 3, 2
# and so many of a file that was put together of others
_TOGETHER = 6


@dataclass(frozen=True)
class Overlap:
    """Rows of one source that are in another, too."""

    kind: Kind
    source: int  # the number of the source that has them, too
    other: int  # that in which they are as well
    rows: int  # how many, as far as can be told from some of them
    row: int  # the first of them in the source


def overlaps_of(marks: Mapping[int, Marks]) -> Iterator[Overlap]:
    """The overlaps of some sources, by their numbers."""
    together = [(number, one) for number, one in marks.items() if len(one)]
    if len(together) < 2:
        return
    hashes = np.concatenate([one.hashes for _, one in together])
    owner = np.concatenate([np.full(len(one), number) for number, one in together])
    row = np.concatenate([one.rows for _, one in together])
    order = np.lexsort((owner, hashes))
    hashes, owner, row = hashes[order], owner[order], row[order]
    same = np.flatnonzero((hashes[1:] == hashes[:-1]) & (owner[1:] != owner[:-1]))
    if not len(same):
        return
    common: dict[tuple[int, int], list[tuple[int, int]]] = defaultdict(list)
    for value in np.unique(hashes[same]).tolist():
        start, end = np.searchsorted(hashes, (value, value + 1))
        there = list(zip(owner[start:end].tolist(), row[start:end].tolist(), strict=True))
        sources = [number for number, _ in there]
        if len(set(sources)) > _MOST_SOURCES or len(set(sources)) < len(sources):
            continue  # in one source more than once: it tells no place
        for (one, at), (other, there_at) in combinations(there, 2):
            common[one, other].append((at, there_at))
    told = set()
    for (one, other), places in sorted(common.items()):
        found = _judged(one, other, marks[one], marks[other], sorted(places))
        if found:
            told.add((found.source, found.other))
            yield found
    yield from _put_together(marks, common, told)


def _put_together(
    marks: Mapping[int, Marks],
    common: Mapping[tuple[int, int], Sequence[tuple[int, int]]],
    told: Set[tuple[int, int]],
) -> Iterator[Overlap]:
    """Sources of which nearly all rows are in several smaller ones, of each too few to be told by themselves."""
    parts: dict[int, dict[int, set[int]]] = defaultdict(dict)
    for (one, other), places in common.items():
        larger, smaller = (one, other) if marks[one].count > marks[other].count else (other, one)
        at = 0 if larger == one else 1
        parts[larger][smaller] = {place[at] for place in places}
    for larger, found in parts.items():
        mine = marks[larger]
        kept = set(mine.rows[mine.levels >= mine.full].tolist())
        again = kept & set().union(*found.values())
        if len(found) > 1 and len(kept) >= _TOGETHER and len(again) >= _SHARE * len(kept):
            for smaller, rows in found.items():
                if (smaller, larger) not in told:
                    yield Overlap("together", smaller, larger, len(rows), marks[smaller].first)


def _judged(
    one: int, other: int, mine: Marks, theirs: Marks, places: Sequence[tuple[int, int]]
) -> Overlap | None:
    """What some common rows of two sources make of them; `one` comes before `other`."""
    shifts = np.array([there - here for here, there in places])
    shift = int(np.median(shifts))
    aligned = [place for place, each in zip(places, shifts.tolist(), strict=True) if each == shift]
    if len(aligned) >= _AGREE * len(places):
        start, end = max(mine.first, theirs.first - shift), min(mine.last, theirs.last - shift)
        found, lacking = _agreement(mine, theirs, {here for here, _ in aligned}, start, end, shift)
        rows = end - start + 1
        whole_mine = (start, end) == (mine.first, mine.last)
        whole_theirs = (start + shift, end + shift) == (theirs.first, theirs.last)
        if not lacking and found >= min(_ALIGNED, rows):
            if whole_mine and whole_theirs:
                return Overlap("copy", other, one, rows, theirs.first) if mine.count == theirs.count else None
            if whole_mine:
                kind: Kind = "beginning" if start + shift == theirs.first else "within"
                return Overlap(kind, one, other, rows, mine.first)
            if whole_theirs:
                kind = "beginning" if start == mine.first else "within"
                return Overlap(kind, other, one, rows, theirs.first)
        is_chained = not (whole_mine or whole_theirs) and (
            (end == mine.last and start + shift == theirs.first)
            or (start == mine.first and end + shift == theirs.last)
        )
        if is_chained and lacking <= (1 - _AGREE) * found:
            return Overlap("overlap", other, one, rows, start + shift)
        return None
    return _scattered(one, other, mine, theirs, len(places))


def _agreement(
    mine: Marks, theirs: Marks, found: set[int], start: int, end: int, shift: int
) -> tuple[int, int]:
    """How many rows of a stretch that both would keep are the same, and how many are not."""
    full = max(mine.full, theirs.full)
    inside = (mine.rows >= start) & (mine.rows <= end)
    wanted = mine.rows[inside & (mine.levels >= full)]
    there = (theirs.rows >= start + shift) & (theirs.rows <= end + shift) & (theirs.levels >= full)
    lacking = max(
        sum(row not in found for row in wanted.tolist()),
        sum(row - shift not in found for row in theirs.rows[there].tolist()),
    )
    return len(found), lacking


def _scattered(one: int, other: int, mine: Marks, theirs: Marks, common: int) -> Overlap | None:
    """Whether most rows of the smaller source are in the larger one, in whatever order."""
    full = max(mine.full, theirs.full)
    smaller, larger = (one, other) if mine.count <= theirs.count else (other, one)
    few, many = (mine, theirs) if smaller == one else (theirs, mine)
    wanted = set(few.hashes[few.levels >= full].tolist())
    have = len(wanted & set(many.hashes[many.levels >= full].tolist()))
    if common < _LEAST or have < _SHARE * len(wanted) or not wanted:
        return None
    return Overlap("most", smaller, larger, round(few.count * have / len(wanted)), few.first)
