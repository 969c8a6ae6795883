"""Which names of a survey are one column: for certain, as a plan says, and as a guess."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import reduce

import pyarrow as pa

from integrum.columns.header import Header
from integrum.columns.names.certain import certain_columns
from integrum.columns.names.glossary import Glossary
from integrum.columns.names.guessing import guess_same
from integrum.columns.names.known import EvidenceContext, NameProfile, numbers_of
from integrum.intake.ledger import SourceSummary
from integrum.intake.matched import Matched
from integrum.plan.column import Column
from integrum.plan.plan import Plan
from integrum.surveying.missing import is_absent_word
from integrum.surveying.profile import Sampled
from integrum.surveying.seen import Seen
from integrum.values.evidence import type_of_kind

# this many values of a column are looked at, from this many sources
_MOST_VALUES, _MOST_SOURCES = 300, 100


@dataclass(frozen=True)
class ColumnGuess:
    """A guess that a column is another one under another name.

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
    known: Sequence[NameProfile], labels: Sequence[str], plan: Plan, claimed: Mapping[str, str]
) -> Reconciled:
    """Find out which names belong together.

    Parameters
    ----------
    known
        What is known of each name; those that are left out on purpose are not among them.
    claimed
        The names that a column of the plan claims, with the name of that column.
    """
    fixed = {column.name: column for column in plan.columns}
    groups: dict[str, list[NameProfile]] = {name: [] for name in fixed}
    free: list[list[NameProfile]] = []
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
        _of_plan(fixed[name], some) if name in fixed else reduce(NameProfile.with_other, some)
        for name, some in groups.items()
    ]
    columns += [reduce(NameProfile.with_other, some) for some in free]
    names = [*groups, *(one.name for one in columns[len(groups) :])]
    refused = {
        (at, to)
        for at, name in enumerate(groups)
        for to, other in enumerate(columns)
        if set(fixed[name].never) & set(other.names)
    }
    setting = EvidenceContext(len(labels), Glossary(plan.glossary), labels=tuple(labels))
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


def _join(column: Column, groups: dict[str, list[NameProfile]], free: list[list[NameProfile]]) -> None:
    """Give the last free names to a column of the plan, unless they stand beside its own or are refused."""
    new = free[-1]
    own = reduce(lambda bits, one: bits | one.sources, groups[column.name], 0)
    if not any(one.sources & own or one.name in column.never for one in new):
        groups[column.name] += free.pop()


def _of_plan(column: Column, some: Sequence[NameProfile]) -> NameProfile:
    """The profile of a column of a plan: from its names, or else from the plan alone."""
    said = NameProfile((column.name,), 0, {column.type: 1}, (column.unit,) if column.unit else ())
    if not some:
        return said
    both = reduce(NameProfile.with_other, some)
    named = dict.fromkeys((column.name, *both.names))
    return NameProfile(
        tuple(named),
        both.sources,
        both.kinds,
        both.units or said.units,
        both.sample,
        both.place,
        both.before,
        both.after,
    )


@dataclass
class _Name:
    """What is known of a name so far: the families that have it with its position, the sources as bits, and so on."""

    places: dict[int, int]
    sources: int = 0
    by_position: bool = False
    clashes: bool = False


def known_names(
    matched: Matched, summaries: Sequence[SourceSummary], seen: Iterable[Seen], sampled: Iterable[Sampled]
) -> list[NameProfile]:
    """Say what is known of each name in the headers of the sources that come in.

    In the order in which the names come first.
    """
    masks: dict[int, int] = {}
    for number, summary in enumerate(summaries):
        if summary.is_assembled:
            family = matched.family_of[number]
            masks[family] = masks.get(family, 0) | 1 << number
    headers = {family: matched.families[family].header for family in masks}
    names_of = {family: header.names for family, header in headers.items()}
    names = _names(headers, masks)
    kinds: dict[str, Counter[str]] = {name: Counter() for name in names}
    for one in seen:
        family = matched.family_of[one.source]
        kind = type_of_kind(one.kind)
        if kind and family in names_of and not (one.detail and is_absent_word(one.detail)):
            of_name = kinds[names_of[family][one.position]]
            of_name[kind.name] = of_name.get(kind.name, 0) + one.count
    samples = _Samples(sampled)
    return [
        NameProfile(
            (name,),
            about.sources,
            kinds[name],
            tuple(_units(about, headers)),
            samples.of(about, matched.family_of),
            _place(about, headers, masks),
            _beside(about, headers, masks, -1),
            _beside(about, headers, masks, 1),
            about.by_position,
        )
        for name, about in names.items()
        if not about.clashes
    ]


def _names(headers: Mapping[int, Header], masks: Mapping[int, int]) -> dict[str, _Name]:
    names: dict[str, _Name] = {}
    for family, header in headers.items():
        nameless = header.nameless
        for position, name in header.named.items():
            about = names.setdefault(name, _Name({}, by_position=position in nameless))
            about.places[family] = position
            about.sources |= masks[family]
            # a name by place in one source that is written in the header of another says nothing for certain
            about.clashes |= about.by_position != (position in nameless)
    return names


def _units(about: _Name, headers: Mapping[int, Header]) -> list[str]:
    found = dict.fromkeys(headers[family].unit_at(position) for family, position in about.places.items())
    return [unit for unit in found if unit]


def _place(about: _Name, headers: Mapping[int, Header], masks: Mapping[int, int]) -> float:
    weights = {family: masks[family].bit_count() for family in about.places}
    total = sum(
        weights[family] * position / max(len(headers[family].names) - 1, 1)
        for family, position in about.places.items()
    )
    return total / sum(weights.values())


def _beside(
    about: _Name, headers: Mapping[int, Header], masks: Mapping[int, int], step: int
) -> dict[str, int]:
    """The names that stand before or behind it; an empty one where there is none."""
    found: dict[str, int] = {}
    for family, position in about.places.items():
        names = headers[family].names
        name = names[position + step] if 0 <= position + step < len(names) else ""
        found[name] = found.get(name, 0) + masks[family].bit_count()
    return found


class _Samples:
    """Some values of each source, found by its number."""

    def __init__(self, sampled: Iterable[Sampled]) -> None:
        self._of: dict[int, list[tuple[Mapping[int, pa.Array], int, int]]] = {}
        for some in sampled:
            start = 0
            for number, count in zip(some.sources, some.counts, strict=True):
                self._of.setdefault(number, []).append((some.columns, start, count))
                start += count

    def of(self, about: _Name, family_of: Sequence[int]) -> tuple[str, ...]:
        """Values of a column, as many from each of some sources all over those that have it."""
        numbers = list(numbers_of(about.sources))
        chosen = numbers[:: -(-len(numbers) // _MOST_SOURCES)]
        share = max(2, _MOST_VALUES // max(len(chosen), 1))
        values: list[str] = []
        for number in chosen:
            found = self._values(number, about.places[family_of[number]])
            values += found[:: max(1, len(found) // share)][:share]
        return tuple(values)

    def _values(self, number: int, position: int) -> list[str]:
        return [
            plain
            for columns, start, count in self._of.get(number, ())
            if position in columns
            for value in columns[position].slice(start, count).to_pylist()
            if value is not None and (plain := value.strip())
        ]
