"""Sources as a plan names them in `in`: by a folder or a word that their names share and no other has, else one by one."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Sequence

_WORD = re.compile(r"[^\W\d_]+")


def patterns_for(some: Sequence[str], others: Iterable[str]) -> tuple[str, ...]:
    """Patterns that fit some names and none of the others.

    Parameters
    ----------
    some, others
        Names of sources with their folders.

    Examples
    --------
    >>> patterns_for(["north/a.csv", "north/b.csv", "c.csv"], ["south/a.csv"])
    ('north/**', 'c.csv')
    >>> patterns_for(["us_1.csv", "us_2.csv"], ["uk_1.csv"]), patterns_for(["1_us.csv", "2_us.csv"], ["1_uk.csv"])
    (('us_*',), ('*_us.csv',))
    """
    rest = [name for name in others if name not in set(some)]
    found: dict[str, None] = {}
    for name in some:
        folder = name.rpartition("/")[0]
        alone = folder and not any(other.startswith(f"{folder}/") for other in rest)
        several = sum(each.startswith(f"{folder}/") for each in some) > 1
        found[f"{literal(folder)}/**" if alone and several else name] = None
    left = [place for place in found if place in some]
    folders = [place for place in found if place not in some]
    common = _common_part(left, rest) if len(left) > 1 else ""
    return (*folders, *([common] if common else [literal(name) for name in left]))


def literal(name: str) -> str:
    """A name as a pattern that fits nothing else."""
    return "".join(f"[{letter}]" if letter in "*?[" else letter for letter in name)


def _common_part(some: Sequence[str], others: Sequence[str]) -> str:
    """A pattern made of the word at the beginning or the end that all names have, and no other."""
    if any("/" in name for name in some):
        return ""
    first = some[0]
    suffix = first[first.rfind(".") :] if "." in first else ""
    for word in _WORD.finditer(first):
        start = first[: word.end() + (first[word.end() : word.end() + 1] in ("_", "-", " "))]
        behind = first[max(word.start() - 1, 0) :]
        if word.start() == 0 and _has(some, start, str.startswith, others):
            return f"{literal(start)}*"
        is_last = bool(suffix) and first[word.end() :] == suffix and not behind[:1].isalpha()
        if is_last and _has(some, behind, str.endswith, others):
            return f"*{literal(behind)}"
    return ""


def _has(some: Sequence[str], part: str, test: Callable[[str, str], bool], others: Sequence[str]) -> bool:
    return all(test(name, part) for name in some) and not any(test(name, part) for name in others)
