"""What a survey finds: header variants, columns with their evidence, problems."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING, Any

from integrum.columns.expectation import Coverage
from integrum.columns.names.known import NameProfile
from integrum.detecting.detect import Detected
from integrum.intake.intake import SurveyCache
from integrum.intake.ledger import SourceSummary
from integrum.measures.items import HeaderEntry
from integrum.plan.sources import Sources
from integrum.problems.found import Entries
from integrum.problems.problem import Problem, SourceFault, counted
from integrum.reading.head import Head
from integrum.sources.source import Source
from integrum.surveying.decision import Decision
from integrum.surveying.reconciled import ColumnGuess
from integrum.values.types import TYPES

if TYPE_CHECKING:
    from integrum.surveying.column_values import ColumnValues


@dataclass(frozen=True)
class HeaderVariant:
    """One distinct list of headers.

    Attributes
    ----------
    number
        The number of the variant, from 1; the most frequent one is 1.
    names
        The header cells without outer spaces.
    sources
        The names of the sources that have it.
    """

    number: int
    names: tuple[str, ...]
    sources: tuple[str, ...]


@dataclass(frozen=True)
class SourceRange:
    """The numbers of a column in one source: how many, the least, the median and the greatest."""

    source: str
    count: int
    least: float
    median: float
    greatest: float


@dataclass(frozen=True)
class ColumnSurvey:
    """A column of all sources together, with the evidence.

    Attributes
    ----------
    name
        The most frequent spelling.
    spellings
        Every spelling, with the number of sources that have it.
    type
        The type that fits all values; text if there is none.
    filled
        Number of cells with a value, without missing codes.
    sources
        Number of sources that have it.
    lacking
        The sources that do not have it.
    kinds
        Number of values that look like each type.
    units
        The units in the sources, with the number of sources that have each, the most frequent first.
    ranges
        For numbers: the range and the median in each source, without missing codes.
    decision
        What is decided about its values.
    said
        The decision in words, a line each.
    missing_in
        In which sources it is missing, in words; or in which it is, when these are fewer.
    """

    name: str
    spellings: tuple[tuple[str, int], ...]
    type: str
    filled: int
    sources: int
    lacking: tuple[str, ...]
    kinds: dict[str, int]
    units: tuple[tuple[str, int], ...] = ()
    ranges: tuple[SourceRange, ...] = ()
    decision: Decision = field(default_factory=Decision)
    said: tuple[str, ...] = ()
    missing_in: str = ""

    @property
    def reach(self) -> str:
        """From the least number to the greatest; empty where there are none."""
        if not self.ranges or not TYPES[self.type].is_number:
            return ""
        least, greatest = min(one.least for one in self.ranges), max(one.greatest for one in self.ranges)
        return f"{least:,.6g} to {greatest:,.6g}"

    @property
    def remarks(self) -> list[str]:
        """The evidence in words, a line each."""
        lines = []
        others = [f'"{spelling}" in {_sources(count)}' for spelling, count in self.spellings[1:]]
        if others:
            lines.append(f"also written {', '.join(others)}")
        if self.lacking:
            lines.append(self.missing_in or f"missing in {counted(len(self.lacking), 'source')}")
        if len(self.units) > 1:
            given = ", ".join(f"{unit} in {_sources(count)}" for unit, count in self.units)
            lines.append(f"different units: {given}; converted to the first where possible")
        if not self.filled:
            lines.append("no source has a value here")
        lines += self.said
        return lines


@dataclass(frozen=True)
class ColumnMapping:
    """What a column of a plan is filled from."""

    # its name and its type in the plan
    column: str
    type: str
    # the header cells that it is filled from, with the number of sources that have each, the most frequent
    # first
    headers: tuple[tuple[str, int], ...]
    identifier: bool  # whether it is filled from outside the data rows: from names, sheets or preambles
    lacking: tuple[str, ...]  # the sources that have none of them
    missing_in: str = ""  # the same in words


@dataclass(frozen=True)
class SurveyData:
    """What is known of all sources; `integrum.surveying.view.Survey` shows it."""

    groups: tuple[Sources, ...]
    base: Path | str
    sources: Entries[SourceSummary]
    variants: Entries[HeaderVariant]
    columns: Entries[ColumnSurvey]
    problems: Entries[Problem]
    coverage: Coverage | None = None
    identifiers: Mapping[str, tuple[str | None, ...]] = field(default_factory=dict)
    layouts: tuple[Detected, ...] = ()
    heads: tuple[Head | SourceFault, ...] = ()
    passed: tuple[tuple[int, str], ...] = ()
    mapping: tuple[ColumnMapping, ...] = ()
    unlisted: tuple[tuple[str, int], ...] = ()
    guesses: tuple[ColumnGuess, ...] = ()
    headers: tuple[HeaderEntry, ...] = ()
    states: Mapping[tuple[int, str], tuple[tuple[str, str], ...]] = field(default_factory=dict, repr=False)
    known: tuple[NameProfile, ...] = field(default=(), repr=False)
    found: tuple[Source, ...] = field(default=(), repr=False)
    cached: tuple[SurveyCache, ...] = field(default=(), repr=False)
    books: Mapping[tuple[object, ...], Any] = field(default_factory=dict, repr=False)
    values: ColumnValues | None = field(default=None, repr=False, compare=False)

    def states_of(self, header: str, variant: int) -> list[tuple[str, str]]:
        """What becomes of a header cell in the sources of a variant: its states and columns; of a survey of a plan."""
        return list(self.states.get((variant, header), ()))

    @property
    def rows(self) -> int:
        """Rows of data in all sources."""
        return sum(one.ledger.data for one in self.sources)

    def __repr__(self) -> str:
        counted = f"{len(self.sources):,} sources, {len(self.variants):,} header variants"
        return f"<{type(self).__name__}: {counted}, {self.rows:,} rows>"


def _sources(count: int) -> str:
    return f"{count:,} source" + ("" if count == 1 else "s")
