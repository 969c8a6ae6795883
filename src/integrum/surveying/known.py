"""What a survey knows of each name: who has it, where it stands, and some of the values below it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import pyarrow as pa

from integrum.columns.header import Header
from integrum.deciding.missing import is_absent_word
from integrum.deciding.seen import Seen
from integrum.engine.ledger import SourceSummary
from integrum.engine.matched import Matched
from integrum.reconciling.known import Known, numbers_of
from integrum.surveying.profile import Sampled
from integrum.values.evidence import type_of_kind

# so many values of a column are looked at, from so many sources
_MOST_VALUES, _MOST_SOURCES = 300, 100


@dataclass
class _Name:
    """What is known of a name so far: the families that have it with its position, the sources as bits, and so on."""

    places: dict[int, int]
    sources: int = 0
    by_position: bool = False
    clashes: bool = False


def known_names(
    matched: Matched, summaries: Sequence[SourceSummary], seen: Iterable[Seen], sampled: Iterable[Sampled]
) -> list[Known]:
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
        Known(
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
