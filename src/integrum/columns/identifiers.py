"""Identifiers from names, sheets and preambles; and a scheme for names that have none yet."""

from __future__ import annotations

import os
import re
from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from functools import lru_cache
from itertools import combinations
from typing import Protocol

from integrum.columns.binding import conversion
from integrum.plan.column import Column
from integrum.plan.fields import loosened
from integrum.plan.layout import Layout
from integrum.plan.plan import Plan
from integrum.plan.scheme import Accepts, Fit, Scheme, Schemes
from integrum.plan.sources import Sources
from integrum.problems.problem import Problem, SourceFault
from integrum.sources.patterns import places_of
from integrum.sources.source import Source
from integrum.sources.suffixes import WORKBOOKS, unpacked_name
from integrum.values.arrays import texts
from integrum.values.notation import Conversion
from integrum.values.pipeline import convert

# from this many sources on whose names do not fit, one problem names them; and this many names are written out
_MANY_MISNAMED, _NAMED = 4, 12
_SEPARATORS = ("_", "-", " ", ".")
_FEWEST = 3
_MOST_NOT_FITTING = 0.2
_CONTENT = (
    ("date", re.compile(r"(19|20)\d\d[-.]?[01]\d[-.]?[0-3]\d")),
    ("month", re.compile(r"(19|20)\d\d[-.]?[01]\d")),
    ("year", re.compile(r"(19|20)\d\d")),
    ("number", re.compile(r"\d+")),
)


class Entry(Protocol):
    """A line above a header, as a key and a value."""

    @property
    def row(self) -> int:
        """Its row in the source."""

    @property
    def key(self) -> str:
        """What stands before the colon; empty where there is none."""

    @property
    def value(self) -> str:
        """What stands behind it."""


class HasPreamble(Protocol):
    """The head of a source."""

    @property
    def preamble(self) -> Sequence[Entry]:
        """What stands above its header."""


@dataclass(frozen=True)
class Identified:
    """The identifiers of one source."""

    # by column name; None where there is no value. A name that is missing is not filled for this source.
    values: Mapping[str, str | None]
    problems: tuple[Problem, ...] = ()  # what is to be said about them
    refused: bool = False  # whether the source is set aside because of its path
    left_empty: Mapping[str, str] = field(
        default_factory=dict
    )  # those left empty, with the code of the problem


def identify(
    plan: Plan,
    sources: Sequence[Source],
    heads: Sequence[HasPreamble | SourceFault] | None = None,
    layouts: Sequence[Layout] | None = None,
) -> list[Identified]:
    """Find the identifiers of every source.

    Returns one per source, in their order.

    Parameters
    ----------
    heads
        Their heads, for what is captured from preambles; None when the files were not opened.
    layouts
        The layout of each, which says what is captured; that of its group when left out.
    """
    columns = {column.name: column for column in plan.table_columns}
    readers = [_Reader(group, columns, plan.rules.misnamed) for group in plan.sources]
    left_empty: list[dict[str, str]] = []
    raw = [
        readers[source.group - 1].read(source, heads[at] if heads else None, layouts[at] if layouts else None)
        for at, source in enumerate(sources)
    ]
    problems: list[list[Problem]] = [list(found) for _, found, _ in raw]
    for found, said, _ in raw:
        empty = {one.column: one.code for one in said if one.code == "capture-missing"}
        misfit = any(one.code == "path-does-not-fit" for one in said)
        empty |= {
            name: "path-does-not-fit" for name in found if misfit and not found[name] and name not in empty
        }
        left_empty.append(empty)
    values: list[dict[str, str | None]] = [{} for _ in sources]
    for name in plan.identifiers:
        having = [at for at, (found, _, _) in enumerate(raw) if name in found]
        for how, some in _by_conversion(plan, columns[name], sources, layouts, having):
            done = convert(texts([raw[at][0][name] or None for at in some]), how)
            bad = set(done.bad.tolist())
            for order, (at, text) in enumerate(zip(some, done.text.to_pylist(), strict=True)):
                values[at][name] = text
                if order in bad:
                    left_empty[at][name] = "bad-value"
                    group = plan.group(sources[at].group)
                    problems[at].append(_not_of_type(sources[at], group, columns[name], raw[at][0][name]))
    _join_misnamed(problems)
    return [
        Identified(found, tuple(said), refused, empty)
        for found, said, (_, _, refused), empty in zip(values, problems, raw, left_empty, strict=True)
    ]


def _by_conversion(
    plan: Plan,
    column: Column,
    sources: Sequence[Source],
    layouts: Sequence[Layout] | None,
    having: Sequence[int],
) -> Iterator[tuple[Conversion, list[int]]]:
    """Sources by how an identifier is written in them: what is captured has the marks and the order of dates there."""
    groups: dict[tuple[tuple[str, str], int, frozenset[str]], list[int]] = {}
    for at in having:
        group = plan.group(sources[at].group)
        layout = layouts[at] if layouts else group.possible_layouts[0]
        captured = column.name in layout.capture
        marks = (layout.decimal_mark, layout.thousands_mark) if captured else (".", "")
        groups.setdefault((marks, sources[at].group, places_of(plan, sources[at])), []).append(at)
    for (marks, number, here), some in groups.items():
        yield conversion(column, marks, plan.group(number), places=here), some


def _join_misnamed(problems: list[list[Problem]]) -> None:
    """Say once for many sources that their names do not fit; an error stays with its source, which is set aside."""
    every = [one for found in problems for one in found if one.code == "path-does-not-fit"]
    if len(every) < _MANY_MISNAMED or any(one.severity == "error" for one in every):
        return
    names = ", ".join(one.source for one in every[1:_NAMED])
    more = f", and {len(every) - _NAMED:,} more" if len(every) > _NAMED else ""
    first = replace(
        every[0],
        message=f"{every[0].message}; {len(every) - 1:,} other names do not fit either: {names}{more}",
    )
    for found in problems:
        found[:] = [
            first if one is every[0] else one for one in found if one is every[0] or one.code != first.code
        ]


class _Reader:
    """Reads the identifiers of one group."""

    def __init__(self, group: Sources, columns: Mapping[str, Column], misnamed: str) -> None:
        self._group, self._refuse = group, misnamed == "set-source-aside"
        self._schemes = Schemes(group.schemes)
        self._accepts: dict[str, Callable[[str], bool]] = {
            name: _test(columns[name], group) for name in self._schemes.names if columns[name].type != "text"
        }

    def read(
        self, source: Source, head: HasPreamble | SourceFault | None, layout: Layout | None
    ) -> tuple[dict[str, str], list[Problem], bool]:
        values = dict(self._group.constants)
        values |= {name: _fact(source, fact) for name, fact in self._group.facts.items()}
        captured, problems = self._captured(source, head, (layout or self._group.possible_layouts[0]).capture)
        captured = {name: "" for each in self._group.possible_layouts for name in each.capture} | captured
        values |= captured
        if not self._schemes:
            return values, problems, False
        fit = self._fit(source, self._accepts)
        if fit.values is None:
            # the types of the identifiers may be what does not fit; then say so cell by cell
            plain = self._fit(source, None)
            if plain.values is not None:
                return plain.values | values, problems, False
            problem = Problem(
                "error" if self._refuse else "warning",
                "path-does-not-fit",
                source.name,
                message=fit.reason
                + ("; source set aside" if self._refuse else "; its identifiers are empty"),
                hint=f'rename the file, or add a scheme to ids: it is "{self._schemes.text}"',
            )
            return dict.fromkeys(self._schemes.names, "") | values, [problem, *problems], self._refuse
        return fit.values | values, problems, False

    def _fit(self, source: Source, accepts: Accepts | None) -> Fit:
        """Compare the path of a source with each scheme, with the sheet or the packing where the scheme has it."""
        fits = []
        for scheme in self._schemes.every:
            packed = scheme.text.lower().endswith(source.packing) if source.packing else True
            name = source.name if names_sheet(scheme.text) else source.file
            fits.append(scheme.fit(name if packed else unpacked_name(name), accepts))
            if fits[-1].values is not None:
                return fits[-1]
        return max(fits, key=lambda one: one.came)

    def _captured(
        self, source: Source, head: HasPreamble | SourceFault | None, wanted: Mapping[str, str]
    ) -> tuple[dict[str, str], list[Problem]]:
        """Entries of the preamble; a key is found however it is written."""
        if not wanted or head is None or isinstance(head, SourceFault):
            return dict.fromkeys(wanted, ""), []
        there: dict[str, str] = {}
        for entry in head.preamble:
            there.setdefault(loosened(entry.key), entry.value)
        problems = [
            Problem.of(
                "capture-missing",
                source.name,
                column=name,
                message=f'the preamble does not have the entry "{key}"; the identifier is empty',
                hint=f"its entries are: {', '.join(entry.key for entry in head.preamble if entry.key)[:200] or 'none'}",
            )
            for name, key in wanted.items()
            if loosened(key) not in there
        ]
        return {name: there.get(loosened(key), "") for name, key in wanted.items()}, problems


def names_sheet(scheme: str) -> bool:
    """Whether the last part of a scheme is the name of a sheet.

    Examples
    --------
    >>> names_sheet("{lake}_{year}.xlsx/{month}"), names_sheet("{round}/{lake}.xlsx")
    (True, False)
    """
    file, slash, _ = scheme.rpartition("/")
    return bool(slash) and file.lower().rstrip("]").endswith(WORKBOOKS)


def _test(column: Column, group: Sources) -> Callable[[str], bool]:
    how = conversion(column, group=group)

    @lru_cache(maxsize=4096)
    def test(text: str) -> bool:
        return not len(convert(texts([text]), how).bad)

    return test


def _fact(source: Source, fact: str) -> str:
    if fact == "modified":
        moment = datetime.fromtimestamp(source.state[1] // 10**9, UTC)
        return moment.strftime("%Y-%m-%d %H:%M:%S")
    if fact == "folder":
        return os.path.basename(os.path.dirname(source.path))
    if fact == "sheet":
        return source.sheet_name
    name = source.file.rsplit("/", 1)[-1]
    return name.split(".")[0] or name


def _not_of_type(source: Source, group: Sources, column: Column, raw: str) -> Problem:
    """The problem of an identifier whose text does not have the type of its column."""
    name = column.name
    if name in Schemes(group.schemes).names:
        fix = "rename the file"
    elif name in group.constants:
        fix = "correct it in constants"
    elif group.facts.get(name) == "sheet":
        fix = "rename the sheet"
    elif name in group.facts:
        fix = f"it is the {group.facts[name]} of the file"
    else:
        fix = f'it is from the preamble; list "{raw}" in missing if it means "no value"'
    return Problem.of(
        "bad-value",
        source.name,
        column=column.name,
        raw=raw,
        message=f"the identifier is {column.kind.wrong}, left empty",
        hint=f"{fix}, or change the column's type",
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
