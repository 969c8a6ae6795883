"""What a kind of evidence gives: figures that are weighed, and a few words for who has to decide."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import NamedTuple

from integrum.reconciling.glossary import Glossary, Meanings, plain_glossary
from integrum.reconciling.known import Known


class Finding(NamedTuple):
    """Figures, mostly from 0 to 1, and what they mean in words; empty when they say little."""

    figures: tuple[float, ...]
    said: str = ""


@dataclass(frozen=True)
class Setting:
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
    weigh: Callable[[Known, Known, Setting], Finding]
