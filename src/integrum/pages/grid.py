"""A grid of columns by sources, and the views of it that a page offers."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from integrum.columns.header import CLAIMED, GUESSED, IN_PART, LEFT_OUT, UNLISTED
from integrum.intake.matched import Family
from integrum.plan.column import Column
from integrum.problems.grouped import Group
from integrum.problems.problem import Problem, clipped

# what the letters stand for; a space is for a column that a source does not have
HAS, RENAMED, MAYBE, NOT_LISTED, OUT, NOT_THERE = "h", "r", "m", "u", "o", " "
WORDS = {
    HAS: "has the column",
    RENAMED: "has it under another name",
    MAYBE: "has a header that may be it",
    NOT_LISTED: "has a header that is in no column",
    OUT: "left out on purpose",
    NOT_THERE: "does not have it",
}
_STATES = {GUESSED: MAYBE, UNLISTED: NOT_LISTED, LEFT_OUT: OUT}
# this many names and findings are written out
_MOST_NAMES, _MOST_MARKS = 60_000, 3_000


def grid_of(
    columns: Sequence[Column],
    variants: Sequence[Sequence[Family]],
    variant_of: Sequence[int],
    sources: Sequence[str],
    problems: Iterable[Problem],
) -> dict[str, Any]:
    """The grid as plain data.

    Parameters
    ----------
    columns
        The columns of the table that are filled from cells.
    variants
        The families of each header variant, from 1 on.
    variant_of
        The number of the variant of each source; 0 where it has none.
    sources
        The names of the sources.
    problems
        What is odd; those of a source mark it, and those of a column of a source mark a cell.
    """
    names = [column.name for column in columns]
    row_of = {name: at for at, name in enumerate(names)}
    rows: list[list[str]] = [[NOT_THERE] * len(variants) for _ in names]
    written: dict[str, str] = {}
    for at, families in enumerate(variants):
        for family in families:
            for name, header, letter in _cells(family):
                if name not in row_of:
                    row_of[name] = len(rows)
                    rows.append([NOT_THERE] * len(variants))
                row = row_of[name]
                if rows[row][at] in (NOT_THERE, MAYBE):
                    rows[row][at] = letter
                    if header != name and len(written) < _MOST_NAMES:
                        written[f"{row},{at}"] = header
    for column in columns:  # a header that may be it has a column of its own until that is decided
        for guess in column.guesses:
            twin, row = row_of.get(guess.header), row_of[column.name]
            for at in range(len(variants)) if twin is not None else ():
                if rows[row][at] == NOT_THERE and rows[row_of[guess.header]][at] in (HAS, RENAMED):
                    rows[row][at] = MAYBE
                    written[f"{row},{at}"] = guess.header
    place = {name: at for at, name in enumerate(sources)}
    marks: list[list[Any]] = []
    for problem in problems:
        if problem.source in place and problem.severity != "note" and len(marks) < _MOST_MARKS:
            said = clipped(problem.message, 200)
            marks.append([place[problem.source], row_of.get(problem.column, -1), said])
    return {
        "columns": list(row_of),
        "cells": ["".join(row) for row in rows],
        "written": written,
        "variants": _counted(variant_of, len(variants)),
        "of": list(variant_of),
        "sources": list(sources),
        "marks": marks,
        "words": WORDS,
    }


def _counted(variant_of: Sequence[int], count: int) -> list[list[int]]:
    counts = [0] * (count + 1)
    for number in variant_of:
        counts[number] += 1
    return [[number, counts[number]] for number in range(1, count + 1)]


def _cells(family: Family) -> Iterable[tuple[str, str, str]]:
    """The columns of a family, each with the header cell and the letter."""
    for cell in family.bound.cells:
        if cell.state in (CLAIMED, IN_PART):
            yield cell.column, cell.name, HAS if cell.name == cell.column else RENAMED
        else:
            yield cell.column if cell.state == GUESSED else cell.name, cell.name, _STATES[cell.state]
    for binding in family.bound.bindings:
        if binding.joined and binding.positions:
            yield binding.column, " + ".join(binding.headers), RENAMED


def by_variant(
    families: Mapping[int, Family], family_of: Sequence[int], variant_of: Sequence[int], count: int
) -> list[list[Family]]:
    """The families of each variant, from 1 on."""
    found: list[dict[int, Family]] = [{} for _ in range(count)]
    for family, variant in zip(family_of, variant_of, strict=True):
        if family and variant:
            found[variant - 1].setdefault(family, families[family])
    return [list(one.values()) for one in found]


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
        """The views of one group."""
        first = group.first
        said = group.lines[0].partition(": ")[2].removesuffix(f" [{first.code}]")
        also = "" if len(group.lines) == 1 else group.also()
        return cls(first.severity, said, also, first.hint, first.code, first.source)
