"""What the rows of the record's files are as objects, where nothing else has a class for them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, NamedTuple

from integrum.columns.header import Header
from integrum.problems.found import SPREAD

# cells of a row of the table, as texts
Cells = tuple[str, ...]


class RowRun(NamedTuple):
    """Consecutive rows of a source."""

    source: Any  # its number; in a record its name
    row: int
    rows: int
    each: int = 1  # how many rows of the table each gives; more than one in wide sources

    def of(self, source: str | int) -> RowRun:
        """The same run with another source."""
        return self._replace(source=source)


class EndRow(NamedTuple):
    """A row near an end of a table."""

    output: str
    row: int  # its number in the table, from 1
    cells: Cells


@dataclass(frozen=True)
class HeaderEntry:
    """A header cell and what became of it."""

    header: str
    state: str  # ``"matched"``, ``"in part"``, ``"left out"``, ``"guessed"`` or ``"unlisted"``
    column: str
    sources: int  # how many sources that come in have it in this state
    first: str


@dataclass
class ColumnEntry:
    """One column in the codebook.

    Attributes
    ----------
    column, type, unit
        Its name, type and unit: the unit of the plan, or the first one in the sources.
    filled
        Cells with a value.
    sources
        Number of sources that have it.
    description
        What it is, from the plan.
    least, greatest
        The least and the greatest value of numbers, dates and times; as texts.
    headers
        Its headers, with the number of sources that have each.
    missing
        Its missing codes, with the number of cells of each.
    converted
        The units that its values were converted from, with the number of sources that have each.
    """

    column: str
    type: str
    unit: str
    filled: int = 0
    sources: int = 0
    description: str = ""
    least: str = ""
    greatest: str = ""
    headers: dict[str, int] = field(default_factory=dict)
    missing: dict[str, int] = field(default_factory=dict)
    converted: dict[str, int] = field(default_factory=dict)


@dataclass(frozen=True)
class CheckResult:
    """What a check has found."""

    # its name, its kind, and the severity of what it finds
    name: str
    kind: str
    severity: str
    columns: tuple[str, ...]
    found: int  # how much does not hold; 0 when it has passed

    @property
    def has_passed(self) -> bool:
        """Whether the check has passed."""
        return not self.found


class VariantEntry(NamedTuple):
    """A header as it is written: its number, that of its variant, and the header."""

    number: int
    variant: int
    header: Header


class BlockEntry(NamedTuple):
    """A block of lines of a source: its first line, the lines of a whole block, and the hash of the block."""

    source: str
    line: int
    lines: int
    blake3: str


class CategoryEntry(NamedTuple):
    """How often a value of a column is in the table."""

    column: str
    value: str
    rows: int


@dataclass(frozen=True, slots=True)
class ValuesEntry:
    """The values of a column in a source."""

    # their names
    column: str
    source: str
    # cells with a value and without one
    filled: int
    empty: int
    # of numbers, dates and times; as texts, empty where there are none. The median is that of up to 32
    # values from all over the source.
    least: str
    median: str
    greatest: str
    # the first and the last cell
    first: str
    last: str
    converted_from: str  # the unit that the values were converted from; empty where they were not
    missing: Mapping[str, int] = field(default_factory=dict)  # how often each missing code was met
    # how often each value of a text or a boolean column is there; None where there are more than 40
    counts: Mapping[str, int] | None = field(default_factory=dict)
    # what else measures say, by the name of their column in the file
    others: Mapping[str, Any] = field(default_factory=dict, repr=False, metadata=SPREAD)
