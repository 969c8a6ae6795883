"""The union of many headers as one list of columns, in a stable order."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from integrum.plan.names import loosened


@dataclass(frozen=True)
class CountedHeader:
    """One distinct header and how many sources have it."""

    names: tuple[str, ...]
    sources: int


@dataclass(frozen=True)
class United:
    """One column of the union."""

    name: str  # the spelling that most sources have
    # every spelling with the number of sources that have it, the most frequent first
    spellings: tuple[tuple[str, int], ...]


def unite(headers: Sequence[CountedHeader], key_of: Mapping[str, str] | None = None) -> list[United]:
    """Unite headers: names that are one column stand together.

    Names that stand side by side in one header are different columns, however alike they are. A column
    that only some headers have comes after the one that precedes it there.

    `key_of`: by name the column that it certainly belongs to; of others it is a matter of how they are written.

    Examples
    --------
    >>> one, two = CountedHeader(("day", "Depth (m)"), 3), CountedHeader(("Day", "wind", "depth m"), 1)
    >>> [column.name for column in unite([one, two])]
    ['day', 'wind', 'Depth (m)']
    """
    apart = _apart(headers)
    following: dict[str, list[str]] = {"": []}
    counts: dict[str, dict[str, int]] = {}
    for header in headers:
        before = ""
        keys = [
            f"+{key_of[name]}" if key_of and name in key_of else _key(name, apart) for name in header.names
        ]
        shares = any(key in counts for key in keys)
        for name, key in zip(header.names, keys, strict=True):
            if key not in counts:
                counts[key] = {}
                following[key] = []
                # the columns of a header that shares none with those before come behind them
                following[before].insert(0 if before or shares else len(following[before]), key)
            spellings = counts[key]
            spellings[name] = spellings.get(name, 0) + header.sources
            before = key
    order = _in_turn(following)
    united = []
    for key in order:
        spellings_by_count = sorted(counts[key].items(), key=lambda item: -item[1])
        united.append(United(spellings_by_count[0][0], tuple(spellings_by_count)))
    return united


def _in_turn(following: dict[str, list[str]]) -> list[str]:
    """Every name behind the one that it was seen behind first, the latest of several the nearest."""
    order, waiting = [], [""]
    while waiting:
        key = waiting.pop()
        order.append(key)
        waiting += reversed(following[key])
    return order[1:]


def _apart(headers: Sequence[CountedHeader]) -> set[str]:
    """Loosened names of which one header has two."""
    apart = {""}
    for header in headers:
        seen: set[str] = set()
        for name in header.names:
            loose = loosened(name)
            if loose in seen:
                apart.add(loose)
            seen.add(loose)
    return apart


def _key(name: str, apart: set[str]) -> str:
    loose = loosened(name)
    return f"={name}" if loose in apart else f"~{loose}"
