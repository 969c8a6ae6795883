"""Which sources are expected, which are missing, and which combinations of identifiers there are."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import product

from integrum.columns.binding import conversion
from integrum.columns.identifiers import Identified
from integrum.plan.plan import Plan
from integrum.plan.sources import Sources
from integrum.problems.problem import Problem, counted, first_few, middle
from integrum.sources.order import natural_key
from integrum.sources.source import Source
from integrum.values.arrays import texts
from integrum.values.pipeline import convert

MISSING = "missing"
MOST_DOWN, MOST_ACROSS, MOST_ABSENT = 40, 20, 20
_MOST_HOLES = 0.5
_PERIOD = re.compile(r"(?<!\d)((?:19|20)\d{2})(?:[-_.]?(0[1-9]|1[0-2]))?(?!\d)")
# this many folders or years are named, and this many sources
_MOST, _NAMED = 3, 3
# this many sources without a period are named beside the others
_BESIDE = 2


def against_expectation(
    plan: Plan, sources: Sequence[Source], identified: Sequence[Identified]
) -> list[Problem]:
    """Hold the found sources against what each group expects.

    Returns an error for each that is missing, a warning for each that was not expected.
    """
    problems: list[Problem] = []
    for number, group in enumerate(plan.sources, 1):
        here = [at for at, source in enumerate(sources) if source.group == number]
        names = [sources[at].name for at in here]
        files = [sources[at].file for at in here]
        if isinstance(group.expect, int):
            problems += _by_number(group, names)
        elif isinstance(group.expect, Mapping):
            problems += _by_identifiers(
                tidied_expectation(group.expect, plan), names, [identified[at] for at in here]
            )
        elif group.expect is not None:
            problems += _by_name(group.expect, names, files)
        there = {*names, *files}
        problems += [_no_such_label(label) for label in group.labels if label not in there]
    return problems


def tidied_expectation(expect: Mapping[str, Sequence[str]], plan: Plan) -> dict[str, tuple[str, ...]]:
    """What is expected of identifiers, in the form that their values have in the table; texts may stand as in the names.

    Examples
    --------
    >>> from integrum.plan.column import Column
    >>> plan = Plan([Sources("x", ids="{lake}.csv")], [Column("lake", values={"amb": "Ambermere"})])
    >>> tidied_expectation({"lake": ["amb", "Ambermere", "qui"]}, plan)
    {'lake': ('Ambermere', 'qui')}
    """
    columns = {column.name: column for column in plan.table_columns}
    tidied = {}
    for name, values in expect.items():
        done = convert(texts(list(values)), conversion(columns[name])).text.to_pylist()
        both = (own if made is None else made for own, made in zip(values, done, strict=True))
        tidied[name] = tuple(dict.fromkeys(both))
    return tidied


def _no_such_label(label: str) -> Problem:
    return Problem.of(
        "label-unused",
        label,
        message="the plan has a label for this name, but there is no such source",
    )


def _by_number(group: Sources, names: Sequence[str]) -> Iterator[Problem]:
    assert isinstance(group.expect, int)
    if len(names) != group.expect:
        yield Problem.of(
            "source-count",
            group.group,
            count=abs(group.expect - len(names)),
            message=f"{group.expect:,} sources were expected in {', '.join(group.find)}; "
            + ("1 is there" if len(names) == 1 else f"{len(names):,} are there"),
            hint="integrum survey lists them",
        )


def _by_name(expected: Sequence[str], names: Sequence[str], files: Sequence[str]) -> Iterator[Problem]:
    wanted = dict.fromkeys(expected, False)
    for name, file in zip(names, files, strict=True):
        fits = [each for one in dict.fromkeys((name, file)) for each in _meant_by(one) if each in wanted]
        wanted |= dict.fromkeys(fits, True)
        if not fits:
            yield _unexpected(name, "not in the list of expected sources")
    for each, found in wanted.items():
        if not found:
            yield _absent(each)


def _meant_by(name: str) -> Iterator[str]:
    """What a source can be called: its path or the end of it, its file name, or that without its suffix."""
    parts = name.split("/")
    yield from ("/".join(parts[at:]) for at in range(len(parts)))
    yield parts[-1].split(".")[0]


def _by_identifiers(
    expected: Mapping[str, Sequence[str]], names: Sequence[str], identified: Sequence[Identified]
) -> Iterator[Problem]:
    values_of = [tuple(one.values.get(key) or "" for key in expected) for one in identified]
    there = set(values_of)
    wanted = dict.fromkeys(product(*expected.values()))
    for name, values in zip(names, values_of, strict=True):
        if values not in wanted:
            yield _unexpected(name, f"{_said(expected, values)} was not expected")
    for values in wanted:
        if values not in there:
            yield _absent(_said(expected, values))


def _said(keys: Mapping[str, Sequence[str]], values: Sequence[str]) -> str:
    return ", ".join(f"{key} = {value or '(empty)'}" for key, value in zip(keys, values, strict=True))


def _absent(what: str) -> Problem:
    return Problem.of(
        "source-missing",
        what,
        message="expected, but missing",
        hint="find the file, or remove it from `expect`",
    )


def _unexpected(name: str, why: str) -> Problem:
    return Problem.of("source-unexpected", name, message=why, hint="add it to `expect`, or exclude it")


@dataclass(frozen=True)
class Coverage:
    """Combinations of identifiers and how many sources have each."""

    # the names of the identifiers
    down: str
    across: str
    # their values, in natural order; ``""`` for sources without a value
    rows: tuple[str, ...]
    columns: tuple[str, ...]
    # sources by row and column; a combination that is missing here has none
    counts: Mapping[tuple[str, str], int]
    expected: frozenset[tuple[str, str]]  # the combinations that the plan expects; empty when it does not say

    @property
    def cut(self) -> str:
        """What a printed grid leaves out, in words."""
        down, across = len(self.rows) - MOST_DOWN, len(self.columns) - MOST_ACROSS
        said = [f"{down:,} more of {self.down}"] if down > 0 else []
        said += [f"{across:,} more of {self.across}"] if across > 0 else []
        return f"and {' and '.join(said)}" if said else ""

    @property
    def absent(self) -> list[str]:
        """The combinations that no source has, in words; none where most are missing and none is expected."""
        every = [(row, column) for row in self.rows for column in self.columns if row and column]
        holes = [pair for pair in every if pair not in self.counts]
        if self.expected:
            holes = [pair for pair in holes if pair in self.expected]
        elif len(holes) > _MOST_HOLES * len(every):
            return []
        return [f"{self.down} = {row}, {self.across} = {column}" for row, column in holes]

    def cell(self, row: str, column: str) -> str:
        """What a cell shows: a count, ``missing`` where one was expected, or ``-``."""
        count = self.counts.get((row, column), 0)
        if count:
            return str(count)
        return MISSING if (row, column) in self.expected else "-"

    def __str__(self) -> str:
        across = self.columns[:MOST_ACROSS]
        table = [["", *(column or "(none)" for column in across)]]
        table += [
            [row or "(none)", *(self.cell(row, column) for column in across)] for row in self.rows[:MOST_DOWN]
        ]
        widths = [max(len(line[at]) for line in table) for at in range(len(table[0]))]
        lines = [f"sources by {self.down} (down) and {self.across} (across)"]
        for name, *cells in table:
            numbers = (cell.rjust(width) for cell, width in zip(cells, widths[1:], strict=True))
            lines.append("  " + "  ".join([name.ljust(widths[0]), *numbers]))
        if self.cut:
            lines.append(f"  {self.cut}")
        return "\n".join([*lines, *self.missing_lines()])

    def missing_lines(self) -> list[str]:
        """Lines that name the combinations that no source has."""
        absent = self.absent
        if not absent:
            return []
        more = [f"  and {len(absent) - MOST_ABSENT:,} more"] if len(absent) > MOST_ABSENT else []
        count = counted(len(absent), "combination")
        return [f"{count} without a source", *(f"  {each}" for each in absent[:MOST_ABSENT]), *more]


def coverage_of(plan: Plan, identified: Sequence[Identified]) -> Coverage | None:
    """The coverage of the first two identifiers that vary, or of those that the plan expects; the longer one runs down.

    None when there are no two such identifiers.
    """
    expect = next((group.expect for group in plan.sources if isinstance(group.expect, Mapping)), {})
    wanted = tidied_expectation(expect, plan)
    names = list(wanted) or list(plan.identifiers)
    found = {
        name: {one.values.get(name) or "" for one in identified} | set(wanted.get(name, ())) for name in names
    }
    varying = [name for name in names if len(found[name]) > 1]
    if len(varying) < 2:
        return None
    down, across = sorted(varying[:2], key=lambda name: -len(found[name]))
    counts = Counter((one.values.get(down) or "", one.values.get(across) or "") for one in identified)
    expected = frozenset(product(wanted.get(down, ()), wanted.get(across, ())))
    rows, columns = (tuple(sorted(found[name], key=natural_key)) for name in (down, across))
    return Coverage(down, across, rows, columns, dict(counts), expected)


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
