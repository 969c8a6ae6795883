"""Which names of a survey are one column: for certain, as a plan says, and as a guess."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import reduce

from integrum.plan.column import Column
from integrum.plan.plan import Plan
from integrum.reconciling.certain import certain_columns
from integrum.reconciling.evidence.evidence import Setting
from integrum.reconciling.glossary import Glossary
from integrum.reconciling.guessing import guess_same
from integrum.reconciling.known import Known


@dataclass(frozen=True)
class ColumnGuess:
    """That a column may be another one under other names.

    Attributes
    ----------
    column
        The name of the column.
    header, headers
        The most frequent name of the other one, and all of its names.
    score
        The share of right guesses among those like it.
    because
        What speaks for it.
    sources, other_sources
        How many sources have each of the two.
    examples, other_examples
        Some values of each.
    """

    column: str
    header: str
    headers: tuple[str, ...]
    score: float
    because: str
    sources: int = 0
    other_sources: int = 0
    examples: tuple[str, ...] = ()
    other_examples: tuple[str, ...] = ()


@dataclass(frozen=True)
class Reconciled:
    """What belongs together."""

    # for each column the names that are certainly it; those of a plan's columns first, under the names of
    # the columns
    columns: Mapping[str, tuple[str, ...]]
    guesses: tuple[ColumnGuess, ...]  # which of them may be the same, the surest first


def reconcile(
    known: Sequence[Known], labels: Sequence[str], plan: Plan, claimed: Mapping[str, str]
) -> Reconciled:
    """Put names together.

    Parameters
    ----------
    known
        What is known of each name; those that are left out on purpose are not among them.
    claimed
        The names that a column of the plan claims, with the name of that column.
    """
    fixed = {column.name: column for column in plan.columns}
    groups: dict[str, list[Known]] = {name: [] for name in fixed}
    free: list[list[Known]] = []
    for group in certain_columns(known):
        owners = dict.fromkeys(claimed[one.name] for one in group if one.name in claimed)
        new = [one for one in group if one.name not in claimed]
        for one in group:
            if one.name in claimed:
                groups[claimed[one.name]].append(one)
        if new:
            free.append(new)
            if len(owners) == 1:
                _join(fixed[next(iter(owners))], groups, free)
    columns = [
        _of_plan(fixed[name], some) if name in fixed else reduce(Known.with_other, some)
        for name, some in groups.items()
    ]
    columns += [reduce(Known.with_other, some) for some in free]
    names = [*groups, *(one.name for one in columns[len(groups) :])]
    refused = {
        (at, to)
        for at, name in enumerate(groups)
        for to, other in enumerate(columns)
        if set(fixed[name].never) & set(other.names)
    }
    setting = Setting(len(labels), Glossary(plan.glossary), labels=tuple(labels))
    found = guess_same(columns, setting, frozenset(range(len(groups))), frozenset(refused))
    listed = [*groups.values(), *free]
    return Reconciled(
        {name: tuple(one.name for one in some) for name, some in zip(names, listed, strict=True)},
        tuple(
            ColumnGuess(
                names[one.column],
                columns[one.other].name,
                columns[one.other].names,
                one.score,
                one.because,
                columns[one.column].count,
                columns[one.other].count,
                columns[one.column].examples,
                columns[one.other].examples,
            )
            for one in found
        ),
    )


def _join(column: Column, groups: dict[str, list[Known]], free: list[list[Known]]) -> None:
    """Give the last free names to a column of the plan, unless they stand beside its own or are refused."""
    new = free[-1]
    own = reduce(lambda bits, one: bits | one.sources, groups[column.name], 0)
    if not any(one.sources & own or one.name in column.never for one in new):
        groups[column.name] += free.pop()


def _of_plan(column: Column, some: Sequence[Known]) -> Known:
    """What is known of a column of a plan: what its names tell, or else only what the plan says."""
    said = Known((column.name,), 0, {column.type: 1}, (column.unit,) if column.unit else ())
    if not some:
        return said
    both = reduce(Known.with_other, some)
    named = dict.fromkeys((column.name, *both.names))
    return Known(
        tuple(named),
        both.sources,
        both.kinds,
        both.units or said.units,
        both.sample,
        both.place,
        both.before,
        both.after,
    )
