"""What a page shows of sources and columns, ready to be drawn."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from integrum.grouped import Group


@dataclass(frozen=True)
class Line:
    """A row of a source."""

    row: int
    part: str  # as the ledger has it; empty where that is not known
    words: str  # the same in a sentence
    text: str
    cut: int = 0  # so many letters of it are not shown
    proof: str = ""  # of a row that is left out: how that is known


@dataclass(frozen=True)
class SourceView:
    """A source with its first and last rows."""

    name: str
    number: int  # its place among the sources, from 0
    variant: int
    ledger: str  # how many rows are what, in words
    lines: tuple[Line | int, ...]  # a number stands for so many rows that are not shown
    evidence: tuple[str, ...] = ()  # how its layout is known
    fault: str = ""  # why it is set aside


@dataclass(frozen=True)
class VariantView:
    """Sources with the same header."""

    number: int  # 0: those without a header
    count: int
    columns: int
    difference: str  # what tells it from the first variant
    sources: tuple[SourceView, ...]  # those whose rows are shown; the first is shown at once
    others: int = 0  # so many are not shown


@dataclass(frozen=True)
class NameView:
    """A header of a column."""

    header: str
    unit: str
    sources: int
    first: str  # the first source that has it


@dataclass(frozen=True)
class Sample:
    """A value as it is written, and as it is in the table."""

    source: str
    row: int
    raw: str
    value: str | None  # None: an empty cell
    said: str  # what was done to it
    is_same: bool


@dataclass(frozen=True)
class Told:
    """A text with how often it is there, and where first."""

    text: str
    count: int
    where: str


@dataclass(frozen=True)
class ColumnView:
    """A column of the table."""

    name: str
    type: str
    unit: str
    description: str
    filled: str  # how much of it is filled, in words
    names: tuple[NameView, ...] = ()
    samples: tuple[Sample, ...] = ()
    missing: tuple[Told, ...] = ()
    unreadable: tuple[Told, ...] = ()
    more_unreadable: int = 0
    picture: str = ""  # an SVG element, ready for the page
    reach: str = ""  # from the least to the greatest value
    frequent: tuple[
        tuple[str, int], ...
    ] = ()  # its most frequent values with their counts, in the rows that were looked at
    evidence: Sequence[str] = ()
    more_names: int = 0
    converted: str = ""
    filled_from: str = ""  # of an identifier: where it is from
    undecided: str = ""


@dataclass(frozen=True)
class PathPart:
    """A stretch of a path, with the identifier that it gives; empty where it gives none."""

    text: str
    name: str = ""


@dataclass(frozen=True)
class PathsView:
    """The names of the files of a group, with the parts that become columns."""

    scheme: str
    is_used: bool  # whether the plan has it; else it is a proposal
    names: tuple[str, ...]  # the identifiers
    paths: tuple[tuple[PathPart, ...], ...]
    others: tuple[str, ...] = ()  # names that do not fit
    count: int = 0


@dataclass(frozen=True)
class LeftOutView:
    """Rows of one part that are not in the table."""

    part: str
    words: str
    rows: int
    sources: int
    shown: tuple[tuple[str, Line], ...] = field(default=())


@dataclass(frozen=True)
class ShownGroup:
    """Like problems, as a page has them."""

    severity: str
    said: str
    also: str
    hint: str
    code: str
    source: str  # the source of the first

    @classmethod
    def of(cls, group: Group) -> ShownGroup:
        """Those of a group."""
        first = group.first
        said = group.lines[0].partition(": ")[2].removesuffix(f" [{first.code}]")
        also = "" if len(group.lines) == 1 else group.also()
        return cls(first.severity, said, also, first.hint, first.code, first.source)
