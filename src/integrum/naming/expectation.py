"""What should be there, and what is: missing sources, and some that nobody expected."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from itertools import product

from integrum.arrow.arrays import texts
from integrum.columns.binding import conversion
from integrum.naming.identifiers import Identified
from integrum.plan.plan import Plan
from integrum.plan.sources import Sources
from integrum.problems import Problem
from integrum.sources.source import Source
from integrum.values.pipeline import convert


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
