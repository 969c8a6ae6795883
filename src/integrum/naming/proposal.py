"""Propose a scheme for the names of sources, when they show one."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

from integrum.plan.scheme import Scheme, Schemes
from integrum.sources.suffixes import unpacked_name

_SEPARATORS = ("_", "-", " ", ".")
_FEWEST = 3
_MOST_NOT_FITTING = 0.2
_CONTENT = (
    ("date", re.compile(r"(19|20)\d\d[-.]?[01]\d[-.]?[0-3]\d")),
    ("month", re.compile(r"(19|20)\d\d[-.]?[01]\d")),
    ("year", re.compile(r"(19|20)\d\d")),
    ("number", re.compile(r"\d+")),
)


@dataclass(frozen=True)
class Proposal:
    """A scheme, and the names that do not fit it."""

    scheme: str
    fits: int
    others: tuple[str, ...]


def fitting(scheme: str, names: Sequence[str]) -> Proposal:
    """How many names fit a scheme, and which do not."""
    made = Scheme(scheme)
    others = tuple(name for name in names if made.fit(unpacked_name(name)).values is None)
    return Proposal(scheme, len(names) - len(others), others)


def propose(names: Sequence[str]) -> Proposal | None:
    """Propose a scheme.

    None when the names do not show a scheme that at least four in five of them fit, or all but one of four.

    `names`: the names of sources, with ``/``.

    Examples
    --------
    >>> names = ["amb/amb_2024-05_0417.csv", "amb/amb_2024-06_0417.csv", "qui/qui_2024-05_0448.csv", "odd.csv"]
    >>> propose([*names[:3], "qui/qui_2024-06_0448.csv", "hol/hol_2024-05_0479.csv"]).scheme
    '{name}_{month}_{number}.csv'
    >>> propose(["batch1.csv", "batch2.csv", "batch10.csv"]).scheme
    'batch{number}.csv'
    """
    if len(names) < _FEWEST:
        return None
    stems = [_split(unpacked_name(name)) for name in names]
    suffix = Counter(suffix for _, suffix in stems).most_common(1)[0][0]
    candidates = [_by_separator([stem for stem, _ in stems], each) for each in _SEPARATORS]
    candidates.append(_by_number([stem for stem, _ in stems]))
    best: Proposal | None = None
    for text in candidates:
        if not text:
            continue
        made = _widened(text + suffix, names)
        most = max(_MOST_NOT_FITTING * len(names), len(names) > _FEWEST)
        if len(made.others) <= most and (best is None or made.fits > best.fits):
            best = made
    return best


def _widened(scheme: str, names: Sequence[str]) -> Proposal:
    """A scheme, with the identifiers marked that have to contain their separator if all names shall fit."""
    best = fitting(scheme, names)
    slots = Scheme(scheme).names
    for count in (1, 2):
        if not best.others:
            return best
        for some in combinations(slots, count):
            wide = scheme
            for name in some:
                wide = wide.replace(f"{{{name}}}", f"{{{name}+}}")
            made = fitting(wide, names)
            if made.fits > best.fits:
                best = made
    return best


def _split(name: str) -> tuple[str, str]:
    last = name.rsplit("/", 1)[-1]
    found = re.search(r"(\.[A-Za-z][A-Za-z0-9]{0,5}){1,2}$", last)
    return (last[: found.start()], found[0]) if found else (last, "")


def _by_separator(stems: Sequence[str], separator: str) -> str:
    split = [stem.split(separator) for stem in stems]
    count = Counter(len(parts) for parts in split).most_common(1)[0][0]
    if count < 2:
        return ""
    usual = [parts for parts in split if len(parts) == count and all(parts)]
    parts: list[str] = []
    used: Counter[str] = Counter()
    for values in zip(*usual, strict=True):
        if len(set(values)) == 1 and not _CONTENT[-1][1].fullmatch(values[0]):
            parts.append(values[0])
            continue
        name = next((name for name, content in _CONTENT if _most(content, values)), "name")
        used[name] += 1
        parts.append(f"{{{name}_{used[name]}}}" if used[name] > 1 else f"{{{name}}}")
    text = separator.join(parts)
    return text if "{" in text and not set("[]") & set(text) else ""


def _most(content: re.Pattern[str], values: Sequence[str]) -> bool:
    return sum(content.fullmatch(value) is not None for value in values) >= (1 - _MOST_NOT_FITTING) * len(
        values
    )


def _by_number(stems: Sequence[str]) -> str:
    found = [re.fullmatch(r"([^\d\[\]{}]+)(\d+)", stem) for stem in stems]
    prefixes = Counter(each[1] for each in found if each)
    if not prefixes:
        return ""
    return f"{prefixes.most_common(1)[0][0]}{{number}}"


def nearer(schemes: Sequence[str], names: Sequence[str]) -> tuple[str, ...]:
    """Schemes that fit more of some names than these do: one with a mark more, or one more beside them.

    Empty where none is found.

    Examples
    --------
    >>> nearer(["{lake}_{month}.csv"], ["quillon_tarn_2024-05.csv", "amber_2024-05.csv", "amber_2024-06.csv"])
    ('{lake+}_{month}.csv',)
    >>> nearer(["{lake}_{year}.csv"], ["amber_2021.csv", "2021 amber.csv", "2022 amber.csv", "2023 brindle.csv"])
    ('{lake}_{year}.csv', '{year} {name}.csv')
    """
    others = [name for name in names if Schemes(schemes).fit(unpacked_name(name)).values is None]
    if not others:
        return ()
    wide = [_widened(scheme, names) for scheme in schemes] if len(schemes) == 1 else []
    best = max(wide, key=lambda one: one.fits, default=None)
    if best is not None and not best.others:
        return (best.scheme,)
    more = propose(others)
    if more is None:
        return (best.scheme,) if best and len(best.others) < len(others) else ()
    return (*schemes, more.scheme)
