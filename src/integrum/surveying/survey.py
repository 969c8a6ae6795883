"""The survey: every source looked at, all headers side by side, the evidence for each column."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from concurrent.futures import Executor
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import numpy as np

from integrum.assembling.expectation import against_expectation
from integrum.assembling.feed import Watch, feed
from integrum.assembling.identifiers import Identified, identify
from integrum.assembling.inspecting import Look
from integrum.assembling.ledger import Account, about_rows, check_law
from integrum.assembling.run import same_content
from integrum.assembling.tally import Tally
from integrum.columns.union import Header, United, unite
from integrum.plan import Plan, Sources
from integrum.problems import Problem, SourceFault, clipped
from integrum.reading.head import Form, Head
from integrum.reading.heads import number_variants, read_heads
from integrum.reading.pieces import Inspected
from integrum.reading.units import same_unit
from integrum.sources.find import Found
from integrum.sources.identity import same_as_earlier
from integrum.surveying.detect import Detected, detect_layouts
from integrum.surveying.grid import Grid, grid_of
from integrum.surveying.profile import Inspection, Profile, Seen, profile
from integrum.values.kinds import KINDS
from integrum.values.verdict import main_kind, verdict
from integrum.workers import ahead


@dataclass(frozen=True)
class HeaderVariant:
    """One distinct list of header cells.

    Attributes
    ----------
    number
        From 1.
    names
        The tidied header cells.
    sources
        The names of the sources that have it.
    """

    number: int
    names: tuple[str, ...]
    sources: tuple[str, ...]


@dataclass(frozen=True)
class Evidence:
    """Values of one kind in one column of one source: how many, and the first of them."""

    source: str
    kind: str
    count: int
    row: int
    raw: str


@dataclass(frozen=True)
class ColumnSurvey:
    """What is known of one column of the union.

    Attributes
    ----------
    name
        The spelling that most sources have.
    spellings
        Every spelling with the number of sources that have it.
    type
        The type that fits all values; text where they disagree.
    filled
        Cells with a value.
    sources
        How many sources have it.
    lacking
        The sources that do not.
    kinds
        How many values look like each type.
    main
        The kind that most values have.
    against
        What disagrees with it, by kind, the rarest first.
    units
        The units that the sources give, with how many give each, the most frequent first.
    """

    name: str
    spellings: tuple[tuple[str, int], ...]
    type: str
    filled: int
    sources: int
    lacking: tuple[str, ...]
    kinds: dict[str, int]
    main: str
    against: tuple[tuple[str, tuple[Evidence, ...]], ...]
    units: tuple[tuple[str, int], ...] = ()

    @property
    def remarks(self) -> list[str]:
        """The evidence in words, a line each."""
        lines = []
        others = [f'"{spelling}" in {_sources(count)}' for spelling, count in self.spellings[1:]]
        if others:
            lines.append(f"also written {', '.join(others)}")
        if self.lacking:
            names = ", ".join(self.lacking[:3]) + (", …" if len(self.lacking) > 3 else "")
            lines.append(f"absent in {_sources(len(self.lacking))}: {names}")
        if len(self.units) > 1:
            given = ", ".join(f"{unit} in {_sources(count)}" for unit, count in self.units)
            lines.append(f"units differ: {given}; sources with another than the plan's will be set aside")
        if not self.filled:
            lines.append("no source has a value here")
        for kind, evidence in self.against:
            total = sum(one.count for one in evidence)
            places = "; ".join(
                f'{one.count:,} in {one.source}, first "{clipped(one.raw, 30)}" in row {one.row:,}'
                for one in evidence[:3]
            )
            more = f"; and {_sources(len(evidence) - 3)} more" if len(evidence) > 3 else ""
            lines.append(
                f"{self.main}, but {total:,} of {self.filled:,} values {_are(total, kind)}: {places}{more}"
            )
        return lines


@dataclass(frozen=True)
class Survey:
    """What `integrum.survey` gives back; printing it shows it.

    Attributes
    ----------
    groups
        The groups of sources that were looked at.
    base
        The common folder.
    sources
        What is known of each source, in order.
    variants
        The header variants, the most frequent first.
    columns
        The union of the columns, in a stable order.
    problems
        All findings.
    grid
        Which combinations of the first identifiers are there, when the groups have some.
    identifiers
        By name, the values of all sources, in their order.
    layouts, heads
        What was decided about the layout of each source, and what its head is then.
    """

    groups: tuple[Sources, ...]
    base: Path
    sources: tuple[Account, ...]
    variants: tuple[HeaderVariant, ...]
    columns: tuple[ColumnSurvey, ...]
    problems: tuple[Problem, ...]
    grid: Grid | None = None
    identifiers: Mapping[str, tuple[str | None, ...]] = field(default_factory=dict)
    layouts: tuple[Detected, ...] = ()
    heads: tuple[Head | SourceFault, ...] = ()

    @property
    def rows(self) -> int:
        """Rows of data in all sources."""
        return sum(account.ledger.data for account in self.sources)

    def __repr__(self) -> str:
        counted = f"{len(self.sources):,} sources, {len(self.variants):,} header variants"
        return f"<Survey: {counted}, {self.rows:,} rows>"

    def __str__(self) -> str:
        from integrum.surveying.words import survey_lines

        return "\n".join(survey_lines(self))


def _sources(count: int) -> str:
    return f"{count:,} source" + ("" if count == 1 else "s")


def _are(count: int, kind: str) -> str:
    verb = "is" if count == 1 else "are"
    return (
        f"{verb} {'an' if kind == 'integer' else 'a'} {kind}"
        if count == 1 and kind != "text"
        else f"{verb} {kind}"
    )


def survey_found(plan: Plan, found: Found, executor: Executor, watch: Watch | None = None) -> Survey:
    """Look at all values of all sources.

    Parameters
    ----------
    plan
        Its groups of sources are looked at, and its identifiers tidied as it says.
    found
        What was found for them.
    executor
        Where the work is done.
    watch
        Is called with the name of the source at hand, the bytes done and the bytes in all.

    Returns
    -------
    Survey
    """
    sources = found.sources
    detected = detect_layouts(plan, sources, executor)
    layouts = [one.layout for one in detected]
    heads = read_heads(sources, layouts, executor)
    variants_of = number_variants(heads)
    numbered = variants_of.forms
    accounts = [Account(source.name, source.path, source.group + 1, source.size) for source in sources]
    problems: dict[int, list[Problem]] = {}
    first_with: dict[tuple[str, int], str] = {}
    looks = []
    for number, (source, head) in enumerate(zip(sources, heads, strict=True)):
        if isinstance(head, Head):
            accounts[number].variant = variants_of.of_source[number]
            for part, count in head.parts.items():
                setattr(accounts[number].ledger, part, count)
        looks.append(Look(source, number, accounts[number].variant, head, layouts[number]))

    def enter(seen: Inspected, look: Look) -> bool:
        account = accounts[look.number]
        account.content, account.size, account.ledger.rows = seen.content, seen.size, seen.rows
        account.ledger.comment += seen.comment
        account.ledger.footer += seen.footer
        if seen.fault:
            account.set_aside(seen.fault.code)
            problems.setdefault(look.number, []).append(seen.fault.problem(account.source))
            return False
        twin = first_with.setdefault((seen.content, seen.size), account.source)
        if twin != account.source:
            problems.setdefault(look.number, []).append(
                replace(same_content(twin, False), source=account.source)
            )
        return True

    inspections = (
        Inspection(tuple(pieces), {piece.variant: numbered[piece.variant] for piece in pieces})
        for _, pieces in feed(looks, executor, enter, watch)
    )
    tally = Tally({}, "blank")
    seen: dict[tuple[int, int, int], Seen] = {}
    for done in ahead(executor, profile, inspections):
        _enter(done, accounts, tally, seen)
    check_law(accounts, sum(account.ledger.data for account in accounts))
    for number, guess in enumerate(detected):
        if guess.second_table:
            problems.setdefault(number, []).append(_second_table(sources[number].name, guess.second_table))
    for number, problem in tally.problems(dict(enumerate(source.name for source in sources))):
        problems.setdefault(number, []).append(problem)
    for number, account in enumerate(accounts):
        problems.setdefault(number, []).extend(about_rows(account))
    identified = identify(plan, sources, heads)
    expected = against_expectation(plan, sources, identified)
    for number, one in enumerate(identified):
        problems.setdefault(number, []).extend(one.problems)
    listed = (
        *found.problems,
        *expected,
        *(one for number in range(len(sources)) for one in problems.get(number, ())),
    )
    variants = _variants(numbered, accounts)
    return Survey(
        tuple(plan.sources),
        found.base,
        tuple(accounts),
        variants,
        tuple(_columns(numbered, accounts, seen.values())),
        listed,
        grid_of(plan.sources, identified),
        _by_name(plan, identified),
        tuple(detected),
        tuple(heads),
    )


def names_found(plan: Plan, found: Found, executor: Executor) -> Survey:
    """Look at the names of the sources alone: what is there, what is absent, what is there twice.

    Parameters
    ----------
    plan
        Its groups of sources are looked at, and its identifiers tidied as it says.
    found
        What was found for them.
    executor
        Where sources of the same size are compared.

    Returns
    -------
    Survey
        Without header variants, columns and rows.
    """
    sources = found.sources
    identified = identify(plan, sources)
    accounts = tuple(Account(each.name, each.path, each.group + 1, each.size) for each in sources)
    twins = [
        replace(same_content(sources[first].name, False), source=sources[at].name)
        for at, first in same_as_earlier(sources, executor).items()
    ]
    problems = (
        *found.problems,
        *against_expectation(plan, sources, identified),
        *(problem for one in identified for problem in one.problems),
        *twins,
    )
    grid, by_name = grid_of(plan.sources, identified), _by_name(plan, identified)
    return Survey(tuple(plan.sources), found.base, accounts, (), (), problems, grid, by_name)


def _second_table(name: str, row: int) -> Problem:
    return Problem(
        "warning",
        "second-table",
        name,
        row,
        message="another table seems to stand here",
        hint="say last_row in the layout for the first table, or header_row for the other one",
    )


def _by_name(plan: Plan, identified: Sequence[Identified]) -> dict[str, tuple[str | None, ...]]:
    return {name: tuple(one.values.get(name) for one in identified) for name in plan.identifiers}


def _enter(
    done: Profile, accounts: list[Account], tally: Tally, seen: dict[tuple[int, int, int], Seen]
) -> None:
    for part, arrays in (("data", done.rows), ("blank", done.blank), ("repeated_header", done.repeated)):
        numbers, counts = np.unique(np.concatenate(arrays), return_counts=True)
        for number, count in zip(numbers.tolist(), counts.tolist(), strict=True):
            ledger = accounts[number].ledger
            setattr(ledger, part, getattr(ledger, part) + count)
    for one in done.aside:
        accounts[one.source].ledger.set_aside += 1
    tally.add(done.aside)
    for values in done.seen:
        key = (values.source, values.position, values.kind)
        before = seen.get(key)
        seen[key] = replace(before, count=before.count + values.count) if before else values


def _variants(numbered: dict[int, Form], accounts: Sequence[Account]) -> tuple[HeaderVariant, ...]:
    having: dict[tuple[str, ...], list[str]] = {}
    for account in accounts:
        if account.variant:
            having.setdefault(_named(numbered[account.variant]), []).append(account.source)
    variants = sorted(having.items(), key=lambda item: -len(item[1]))
    return tuple(
        HeaderVariant(number, names, tuple(which)) for number, (names, which) in enumerate(variants, 1)
    )


def _named(form: Form) -> tuple[str, ...]:
    """The names of a form but those of empty cells at its end."""
    return form.names[: len(form.names) - form.spare]


def _columns(numbered: dict[int, Form], accounts: Sequence[Account], seen: Any) -> list[ColumnSurvey]:
    counts = Counter(account.variant for account in accounts if account.status == "assembled")
    headers = [Header(_named(form), counts[number]) for number, form in numbered.items() if counts[number]]
    united = unite(headers)
    column_of = {name: at for at, column in enumerate(united) for name, _ in column.spellings}
    has: list[set[int]] = [
        {
            number
            for number, form in numbered.items()
            if not set(form.names).isdisjoint(dict(column.spellings))
        }
        for column in united
    ]
    values: list[list[Seen]] = [[] for _ in united]
    for one in seen:
        names = numbered[accounts[one.source].variant].names
        values[column_of[names[one.position]]].append(one)
    result = []
    for column, variants, found in zip(united, has, values, strict=True):
        total: Counter[int] = Counter()
        for one in found:
            total[one.kind] += one.count
        type_name, against = verdict(total)
        present = [account for account in accounts if account.status == "assembled"]
        lacking = tuple(account.source for account in present if account.variant not in variants)
        result.append(
            ColumnSurvey(
                column.name,
                column.spellings,
                type_name,
                total.total(),
                len(present) - len(lacking),
                lacking,
                {KINDS[kind]: count for kind, count in sorted(total.items())},
                KINDS[main_kind(total)],
                tuple((KINDS[kind], _evidence(kind, found, accounts)) for kind in against),
                _units(column, numbered, counts),
            )
        )
    return result


def _units(column: United, numbered: dict[int, Form], counts: Counter[int]) -> tuple[tuple[str, int], ...]:
    given: dict[str, int] = {}
    spellings = dict(column.spellings)
    for number, form in numbered.items():
        for name, unit in zip(form.names, form.units, strict=False):
            if name in spellings and unit.strip(" -–") and counts[number]:
                same = next((each for each in given if same_unit(each, unit)), unit)
                given[same] = given.get(same, 0) + counts[number]
    return tuple(sorted(given.items(), key=lambda item: -item[1]))


def _evidence(kind: int, found: Sequence[Seen], accounts: Sequence[Account]) -> tuple[Evidence, ...]:
    of_kind = sorted((one for one in found if one.kind == kind), key=lambda one: (-one.count, one.source))
    return tuple(
        Evidence(accounts[one.source].source, KINDS[kind], one.count, one.row, one.raw) for one in of_kind
    )
