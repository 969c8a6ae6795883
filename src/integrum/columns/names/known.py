"""What is known of a name, and what evidence may look at besides."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import NamedTuple

import numpy as np

from integrum.columns.names.glossary import Glossary, Meanings, plain_glossary
from integrum.columns.names.words import split_unit
from integrum.values.arrays import Floats
from integrum.values.cells import is_absent
from integrum.values.types import TYPES

_DIGITS, _LETTERS = re.compile(r"\d"), re.compile(r"[^\W\d_]+")
_EXAMPLES = 5
_QUANTILES = (5, 25, 50, 75, 95)


@dataclass(frozen=True)
class NameProfile:
    """What is known of the column below a name: sources, values, units."""

    names: tuple[str, ...]  # its names, the most frequent first
    sources: int  # the sources that have it: bit n for source n, in their order
    # by the names of types how many of its values look like them
    kinds: Mapping[str, int] = field(default_factory=dict)
    units: tuple[str, ...] = ()  # the units that its sources give
    # some of its values, from all over its sources; empty cells are not among them
    sample: tuple[str, ...] = ()
    # where it stands in its headers on average, from 0 for the first column to 1 for the last
    place: float = 0.5
    # the columns that stand beside it, with how many sources have them there
    before: Mapping[str, int] = field(default_factory=dict)
    after: Mapping[str, int] = field(default_factory=dict)
    by_position: bool = False  # whether its sources have no header, and its name is only its place
    # whether its name is a number with a letter before it, as all names of its sources are; it says nothing
    # either
    coded: bool = False

    @property
    def is_wanted(self) -> bool:
        """Whether it is a column of the plan that no source has."""
        return not self.sources

    @property
    def is_mute(self) -> bool:
        """Whether its name says nothing about it."""
        return self.by_position or self.coded

    @property
    def name(self) -> str:
        """Its first name."""
        return self.names[0]

    @cached_property
    def count(self) -> int:
        """How many sources have it."""
        return self.sources.bit_count()

    @cached_property
    def words(self) -> tuple[str, ...]:
        """The words of its name, without a unit."""
        return split_unit(self.name)[0]

    @cached_property
    def all_words(self) -> tuple[tuple[str, ...], ...]:
        """The words of each of its names that has others, without a unit."""
        return tuple(dict.fromkeys(split_unit(name)[0] for name in self.names))

    @cached_property
    def given_units(self) -> tuple[str, ...]:
        """The units that sources and names give."""
        named = (split_unit(name)[1] for name in self.names)
        return tuple(dict.fromkeys(unit for unit in (*self.units, *named) if unit.strip(" -–")))

    @cached_property
    def family(self) -> str:
        """What most of its values are: the `likeness` of their type; empty when it has none."""
        counts: Counter[str] = Counter()
        for kind, count in self.kinds.items():
            counts[TYPES[kind].likeness] += count
        return counts.most_common(1)[0][0] if counts.total() else ""

    @cached_property
    def is_digits(self) -> bool:
        """Whether its values are digits alone, as those of codes are, with zeros in front or without."""
        return bool(self.values) and sum(map(str.isdigit, self.values)) > 0.9 * len(self.values)

    def may_be_of_kind(self, other: NameProfile) -> bool:
        """Whether its values can be of one kind with those of another column."""
        same = not self.family or not other.family or self.family == other.family
        return same or (self.is_digits and other.is_digits)

    @cached_property
    def values(self) -> tuple[str, ...]:
        """Its sample without what says that there is no value."""
        return tuple(value for value in self.sample if not is_absent(value))

    @cached_property
    def numbers(self) -> Floats:
        """The numbers of its sample, in order of size; decimal commas are read as points where there are no points."""
        comma = not any("." in value for value in self.values)
        found = []
        for value in self.values:
            try:
                found.append(float(value.replace(",", ".") if comma else value))
            except ValueError:
                continue
        numbers = np.array(found)
        return np.sort(numbers[np.isfinite(numbers)])

    @cached_property
    def quantiles(self) -> Floats:
        """The 5th, 25th, 50th, 75th and 95th percentile of its numbers; empty when most values are none."""
        if len(self.numbers) < max(1, len(self.values) // 2):
            return np.array([])
        return np.percentile(self.numbers, _QUANTILES)

    @cached_property
    def distinct(self) -> frozenset[str]:
        """The distinct values of its sample, without regard to case."""
        return frozenset(value.strip().casefold() for value in self.values)

    @cached_property
    def shapes(self) -> Mapping[str, float]:
        """How its values are written, as shares: digits as 9, words as a."""
        counts = Counter(_LETTERS.sub("a", _DIGITS.sub("9", value.strip())) for value in self.values[:100])
        total = counts.total() or 1
        return {shape: count / total for shape, count in counts.items()}

    @cached_property
    def decimals(self) -> int:
        """The most frequent number of digits behind the decimal mark."""
        found = Counter(
            len(re.split("[.,]", value)[1]) if re.search("[.,]", value) else 0 for value in self.values
        )
        return found.most_common(1)[0][0] if found else 0

    @property
    def examples(self) -> tuple[str, ...]:
        """A few values that differ, from all over its sources."""
        values = list(dict.fromkeys(self.sample))
        return tuple(values[:: max(1, len(values) // _EXAMPLES)][:_EXAMPLES])

    def with_other(self, other: NameProfile) -> NameProfile:
        """Merge with the profile of another name of the same column."""
        share = self.count / max(self.count + other.count, 1)
        return NameProfile(
            tuple(dict.fromkeys((*self.names, *other.names))),
            self.sources | other.sources,
            Counter(self.kinds) + Counter(other.kinds),
            tuple(dict.fromkeys((*self.units, *other.units))),
            (*self.sample, *other.sample),
            share * self.place + (1 - share) * other.place,
            Counter(self.before) + Counter(other.before),
            Counter(self.after) + Counter(other.after),
            self.by_position,
            self.coded,
        )


def numbers_of(sources: int) -> Iterable[int]:
    """The numbers of the sources in a set of bits, in order."""
    while sources:
        low = sources & -sources
        yield low.bit_length() - 1
        sources ^= low


class Finding(NamedTuple):
    """Figures, mostly from 0 to 1, and what they mean in words; empty when they say little."""

    figures: tuple[float, ...]
    said: str = ""


@dataclass(frozen=True)
class EvidenceContext:
    """What evidence may look at besides the two columns."""

    sources: int
    glossary: Glossary = field(default_factory=plain_glossary)  # what words mean
    frequent: Mapping[Meanings, int] = field(default_factory=dict)  # in how many columns a meaning is
    columns: int = 1
    # by name, the number of the column that it certainly belongs to
    same: Mapping[str, int] = field(default_factory=dict)
    # by name, the numbers of the columns that stand in some source of it
    company: Mapping[str, frozenset[int]] = field(default_factory=dict)
    labels: tuple[str, ...] = ()  # the sources by number, as people know them
    # what was found out on the way: how much each word weighs among these columns, and how alike two words are
    weights: dict[Meanings, float] = field(default_factory=dict, compare=False)
    alike: dict[tuple[Meanings, Meanings], float] = field(default_factory=dict, compare=False)


class Evidence(NamedTuple):
    """A kind of evidence that two names mean the same column."""

    figures: tuple[str, ...]  # the names of its figures
    # compares two columns in a setting
    weigh: Callable[[NameProfile, NameProfile, EvidenceContext], Finding]
