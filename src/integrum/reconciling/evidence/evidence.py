"""What a kind of evidence gives: figures that are weighed, and a few words for who has to decide."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import NamedTuple

from integrum.reconciling.glossary import Glossary, Meanings, plain_glossary


class Finding(NamedTuple):
    """Figures, mostly from 0 to 1, and what they mean in words; empty when they say little."""

    figures: tuple[float, ...]
    said: str = ""


@dataclass(frozen=True)
class Setting:
    """What evidence may look at besides the two columns.

    Attributes
    ----------
    sources
        How many sources there are.
    glossary
        What words mean.
    frequent
        In how many columns a meaning is.
    columns
        How many columns there are.
    same
        By name, the number of the column that it certainly belongs to.
    company
        By name, the numbers of the columns that stand in some source of it.
    labels
        The sources by number, as people know them.
    """

    sources: int
    glossary: Glossary = field(default_factory=plain_glossary)
    frequent: Mapping[Meanings, int] = field(default_factory=dict)
    columns: int = 1
    same: Mapping[str, int] = field(default_factory=dict)
    company: Mapping[str, frozenset[int]] = field(default_factory=dict)
    labels: tuple[str, ...] = ()
