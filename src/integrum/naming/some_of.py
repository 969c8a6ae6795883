"""What some of the sources have in common: all of a folder, all of a year, everything before a month."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence

from integrum.problems import counted, first_few, middle

_PERIOD = re.compile(r"(?<!\d)((?:19|20)\d{2})(?:[-_.]?(0[1-9]|1[0-2]))?(?!\d)")
# so many folders or years are named, and so many sources
_MOST, _NAMED = 3, 3
# so many sources without a period are named beside the others
_BESIDE = 2


def some_of(some: Sequence[str], every: Sequence[str]) -> str:
    """Say which sources some are: by a pattern when their names show one, else by their names.

    Examples
    --------
    >>> every = [f"{lake}/{lake}_{year}.csv" for lake in ("amber", "vessel") for year in range(2019, 2025)]
    >>> some_of([name for name in every if "amber" in name], every)
    'all in amber/'
    >>> some_of([name for name in every if "2024" not in name], every)
    'all before 2024'
    >>> some_of(every[2:4] + every[8:10], every)
    'all of 2021 and 2022'
    >>> some_of(every[:2], every)
    'amber/amber_2019.csv, amber/amber_2020.csv'
    """
    if _NAMED < len(some) < len(every):
        chosen = set(some)
        others = [name for name in every if name not in chosen]
        if said := _by_folder(some, others) or _by_period(some, others):
            return said
    return first_few([middle(name) for name in some], _NAMED)


def _by_folder(some: Sequence[str], others: Sequence[str]) -> str:
    folders = tuple(dict.fromkeys(name[: name.rfind("/") + 1] for name in some))
    # a folder has its sub-folders in it, too
    if len(folders) > _MOST or "" in folders or any(name.startswith(folders) for name in others):
        return ""
    return f"all in {_listed(folders)}"


def _by_period(some: Sequence[str], others: Sequence[str]) -> str:
    for months in (False, True):
        (here, beside), (there, _) = _periods(some, months), _periods(others, months)
        if not here or not there or here & there or len(beside) > _BESIDE:
            continue
        if max(here) < min(there):
            said = f"all before {min(there)}"
        elif min(here) > max(there):
            said = f"all from {min(here)} on"
        elif len(here) <= _MOST:
            said = f"all of {_listed(sorted(here))}"
        elif not any(min(here) < each < max(here) for each in there):
            said = f"all from {min(here)} to {max(here)}"
        else:
            continue
        return ", and ".join([said, *map(middle, beside)])
    return ""


def _periods(names: Sequence[str], months: bool) -> tuple[set[str], list[str]]:
    """The years or months of some names, and the names that do not have exactly one."""
    found: set[str] = set()
    beside = []
    for name in names:
        said = {
            match[1] + (f"-{match[2]}" if months and match[2] else "") for match in _PERIOD.finditer(name)
        }
        if len(said) == 1:
            found |= said
        else:
            beside.append(name)
    return found, beside


def _listed(texts: Iterable[str]) -> str:
    *first, last = texts
    return f"{', '.join(first)} and {last}" if first else last


def where_missing(lacking: Sequence[str], every: Sequence[str]) -> str:
    """Where something is missing; or where it is, when that is rarer.

    Examples
    --------
    >>> where_missing(["b.csv"], ["a.csv", "b.csv"]), where_missing(["b.csv", "c.csv"], ["a.csv", "b.csv", "c.csv"])
    ('missing in 1 of 2 sources: b.csv', 'only in 1 of 3 sources: a.csv')
    """
    if 2 * len(lacking) <= len(every):
        return f"missing in {missing_in(lacking, every)}"
    without = set(lacking)
    return f"only in {missing_in([name for name in every if name not in without], every)}"


def missing_in(lacking: Sequence[str], every: Sequence[str]) -> str:
    """In how many sources something is missing, and in which.

    Examples
    --------
    >>> missing_in(["b.csv"], ["a.csv", "b.csv"])
    '1 of 2 sources: b.csv'
    """
    return f"{len(lacking):,} of {counted(len(every), 'source')}: {some_of(lacking, every)}"
