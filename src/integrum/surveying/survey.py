"""The survey: every source looked at, all headers side by side, the evidence for each column."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from concurrent.futures import Executor
from dataclasses import replace
from typing import Any

import numpy as np

from integrum.assembling.run import same_content
from integrum.columns.union import Header, United, unite
from integrum.detecting.detect import Detected
from integrum.detecting.many import detect_layouts
from integrum.detecting.sheet import SheetDetected
from integrum.engine.feed import feed
from integrum.engine.inspecting import Look
from integrum.engine.ledger import Account, about_rows, check_law
from integrum.engine.tally import Tally
from integrum.naming.coverage import grid_of
from integrum.naming.expectation import against_expectation
from integrum.naming.identifiers import Identified, identify
from integrum.plan.model import Plan
from integrum.problems import Problem
from integrum.reading.head import Form, Head
from integrum.reading.heads import number_variants, read_heads
from integrum.reading.pieces import Inspected
from integrum.sources.duplicates import same_as_earlier
from integrum.sources.find import Found
from integrum.sources.source import Source
from integrum.surveying.findings import ColumnSurvey, Evidence, HeaderVariant, Survey
from integrum.surveying.profile import Inspection, Profile, Seen, profile
from integrum.values.evidence import KINDS, main_kind, verdict
from integrum.values.units import same_unit
from integrum.workers import Watch, ahead


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
    looked_at, passed = _tables(detect_layouts(plan, found.sources, executor))
    sources = tuple(source for source, _ in looked_at)
    detected = [one for _, one in looked_at]
    layouts = [source.written(one.layout) for source, one in looked_at]
    heads = read_heads(sources, layouts, executor)
    variants_of = number_variants(heads)
    numbered = variants_of.forms
    accounts = [_account(source) for source in sources]
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
                replace(same_content(twin, False, bool(account.sheet)), source=account.source)
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
            problems.setdefault(number, []).append(_second_table(sources[number].name, guess))
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
        *(_no_table(source) for source in passed),
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
        tuple((source.group + 1, source.sheet.name) for source in passed if source.sheet),
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
    accounts = tuple(map(_account, sources))
    files = list(
        {(each.path, each.member): replace(each, sheet=None, name=each.file) for each in sources}.values()
    )
    twins = [
        replace(same_content(files[first].name, False), source=files[at].name)
        for at, first in same_as_earlier(files, executor).items()
    ]
    problems = (
        *found.problems,
        *against_expectation(plan, sources, identified),
        *(problem for one in identified for problem in one.problems),
        *twins,
    )
    grid, by_name = grid_of(plan.sources, identified), _by_name(plan, identified)
    return Survey(tuple(plan.sources), found.base, accounts, (), (), problems, grid, by_name)


def _account(source: Source) -> Account:
    sheet = source.sheet.name if source.sheet else ""
    return Account(source.name, source.path, source.group + 1, source.size, sheet=sheet)


def _tables(
    looked_at: Sequence[tuple[Source, Detected]],
) -> tuple[list[tuple[Source, Detected]], list[Source]]:
    """Leave out sheets without a table, such as covers, unless others of their name have one."""
    kept = {
        (source.group, source.sheet.name)
        for source, one in looked_at
        if source.sheet and not (isinstance(one, SheetDetected) and not one.is_table)
    }
    good, passed = [], []
    for source, one in looked_at:
        if source.sheet and (source.group, source.sheet.name) not in kept:
            passed.append(source)
        else:
            good.append((source, one))
    return (good, passed) if good else (list(looked_at), [])


def _no_table(source: Source) -> Problem:
    return Problem(
        "note",
        "passed-over",
        source.name,
        message="a cover page or notes, as it seems, so it is no source",
        hint="name the sheet in the plan if it is one",
    )


def _second_table(name: str, guess: Detected) -> Problem:
    beside = bool(guess.second_column)
    return Problem(
        "warning",
        "second-table",
        name,
        guess.second_table,
        guess.second_column,
        message=f"another table seems to stand {'beside the first one' if beside else 'here'}",
        hint="say first_column and last_column in the layout for the one that you want"
        if beside
        else "say last_row in the layout for the first table, or header_row for the other one",
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
        accounts[one.source].ledger.set_aside += not one.column  # else it is a cell
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
    """The names of a form but those of spare columns."""
    return tuple(form.named.values())


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
