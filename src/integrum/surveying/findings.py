"""What a survey finds: header variants, columns with their evidence, problems."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING, Any

from integrum.deciding.decision import Decision
from integrum.detecting.detect import Detected
from integrum.engine.intake import Learned
from integrum.engine.ledger import SourceSummary
from integrum.entries import Entries
from integrum.errors import NothingFound
from integrum.measures.items import HeaderEntry
from integrum.naming.coverage import Coverage
from integrum.plan.sources import Sources
from integrum.problems import Problem, SourceFault, counted, visible
from integrum.reading.head import Head
from integrum.reconciling.known import Known
from integrum.sources.source import Source
from integrum.surveying.presence import LOOKS, Presence, presence_of
from integrum.surveying.reconciled import ColumnGuess
from integrum.values.types import TYPES

if TYPE_CHECKING:
    from matplotlib.figure import Figure

    from integrum.surveying.column_values import ColumnValues


@dataclass(frozen=True)
class HeaderVariant:
    """One distinct list of headers.

    Attributes
    ----------
    number
        From 1.
    names
        The headers, tidied.
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
class Survey:
    """What `integrum.survey` gives back; printing it shows it.

    Attributes
    ----------
    groups
        The groups of sources that were looked at.
    base
        The common folder.
    sources
        The sources, in order.
    variants
        The header variants, the most frequent first.
    columns
        The columns of all sources together, in a stable order.
    problems
        All problems.
    coverage
        Which combinations of identifiers have a source; None without identifiers.
    identifiers
        By name, the values of all sources, in their order.
    layouts, heads
        The layout of each source, and its header as it is read with it.
    passed
        Sheets without a table: the number of their group, and their names.
    mapping
        In a survey of a plan: what fills each of its columns.
    unlisted
        Headers that are not in the plan, with the number of sources that have each.
    guesses
        Columns that may be the same under other names, the surest first.
    headers
        In a survey of a plan: the state of each header.
    states
        In a survey of a plan: by variant and header its states, each with its column.
    known
        What is known of each name; guesses are made from it.
    found, learned, books
        The sources themselves, and what a run that follows at once does not have to find out again.
    values
        The values below each header, by which a draft decides about columns.
    """

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
    known: tuple[Known, ...] = field(default=(), repr=False)
    found: tuple[Source, ...] = field(default=(), repr=False)
    learned: tuple[Learned, ...] = field(default=(), repr=False)
    books: Mapping[tuple[object, ...], Any] = field(default_factory=dict, repr=False)
    values: ColumnValues | None = field(default=None, repr=False, compare=False)

    @property
    def presence(self) -> Presence:
        """Which columns are in which header variants."""
        return presence_of(self)

    def states_of(self, header: str, variant: int) -> list[tuple[str, str]]:
        """What becomes of a header cell in the sources of a variant: its states and columns; of a survey of a plan."""
        return list(self.states.get((variant, header), ()))

    def figure(self) -> Figure:
        """Draw which columns are in which sources; needs matplotlib.

        Returns
        -------
        matplotlib.figure.Figure
            Columns down, sources across in their order. ``figure().savefig("presence.png")`` writes it.

        Raises
        ------
        IntegrumError
            When matplotlib is not installed, or there is nothing to draw.

        Examples
        --------
        >>> import integrum as ig, tempfile, pathlib
        >>> folder = pathlib.Path(tempfile.mkdtemp())
        >>> _ = (folder / "2021.csv").write_text("day,depth\\n2021-05-01,3.2\\n")
        >>> ig.survey(folder).figure().get_size_inches().round(1).tolist()
        [12.8, 3.0]
        """
        from integrum.drawing.presence import draw_presence
        from integrum.surveying.words import headline

        grid = self.presence
        if not grid.columns or not self.sources:
            raise NothingFound("there is nothing to draw: no source has a readable header")
        at = {number: place for place, number in enumerate(grid.variants)}
        of = [at.get(one.variant) for one in self.sources]
        cells = [["absent" if place is None else row[place] for place in of] for row in grid.cells]
        names = [one.source for one in self.sources]
        return draw_presence(headline(self), grid.columns, names, cells, LOOKS)

    @property
    def rows(self) -> int:
        """Rows of data in all sources."""
        return sum(one.ledger.data for one in self.sources)

    def __repr__(self) -> str:
        counted = f"{len(self.sources):,} sources, {len(self.variants):,} header variants"
        return f"<Survey: {counted}, {self.rows:,} rows>"

    def _repr_html_(self) -> str:
        from integrum.surveying.view import survey_html

        return survey_html(self)

    def __str__(self) -> str:
        from integrum.surveying.words import survey_lines

        return visible("\n".join(survey_lines(self)))


def _sources(count: int) -> str:
    return f"{count:,} source" + ("" if count == 1 else "s")
