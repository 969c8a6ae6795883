"""Which sources have which columns, as a grid for a page that can be large: a letter for each cell."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from integrum.columns.states import CLAIMED, GUESSED, IN_PART, LEFT_OUT, UNLISTED
from integrum.engine.variants import Family
from integrum.plan.column import Column
from integrum.problems import Problem, clipped

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
# so many names and findings are written out
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
