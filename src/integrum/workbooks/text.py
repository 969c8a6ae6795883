"""The cells of a sheet as CSV, with what is to be said about them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import pyarrow as pa

from integrum.problems.problem import Problem
from integrum.values.arrays import texts
from integrum.values.cells import UNSAVED
from integrum.values.csv_lines import csv_lines
from integrum.workbooks.grid import Cells, Grid, Merged, filled, merged_down, with_cells
from integrum.workbooks.places import Sheet, letters
from integrum.workbooks.scanned import Scanned

Across = tuple[int, int, int]


@dataclass(frozen=True)
class SheetText:
    """A sheet as CSV."""

    text: bytes  # UTF-8, a record for each row from the first row of the sheet to the last that has a cell
    # rows with two cells or more, and with three or more
    pairs: int = 0
    wide: int = 0
    # for each column of the text the last row that has a cell there; 0 where there is none
    last_rows: tuple[int, ...] = ()
    merged: tuple[Across, ...] = ()  # cells merged across: row from 1, first and last position in the text
    problems: tuple[Problem, ...] = ()  # what is to be said; without the name of the source
    # the cells beside the columns that are wanted, as CSV: the number of a row, and its cells as one text
    beside: bytes = b""


def as_text(grid: Grid, merged: Merged, sheet: Sheet, scanned: Scanned) -> SheetText:
    """Write the cells of a sheet as CSV.

    `scanned`: what the library does not tell about it.
    """
    put = (
        scanned.odd_days
        | scanned.errors
        | {place: f"{UNSAVED} ={formula}" for place, formula in scanned.unsaved.items()}
    )
    grid = with_cells(grid, {place: text for place, text in put.items() if all(place)})
    down, below = merged_down(grid, merged)
    grid = with_cells(grid, below)
    last = sheet.last_column or max(grid.right, 0)
    counts = np.zeros(grid.height, np.int64)
    columns, last_rows = [], []
    for number in range(sheet.first_column, last + 1 if grid.columns else 0):
        if grid.left <= number <= grid.right:
            columns.append(grid.columns[number - grid.left])
            places = filled(columns[-1])
            counts[places] += 1
            last_rows.append(grid.top + int(places[-1]) if len(places) else 0)
        else:
            columns.append(pa.nulls(grid.height, pa.string()))
            last_rows.append(0)
    text = b"\n" * (grid.top - 1) + bytes(csv_lines(columns)) if columns else b""
    across = tuple(
        (first[0] + 1, first[1] + 1 - sheet.first_column, final[1] + 1 - sheet.first_column)
        for first, final in merged
        if final[1] > first[1]
    )
    problems = [*_about_formulas(scanned), *_about_merged(down), *_about_others(grid, sheet, last)]
    pairs, wide = int((counts > 1).sum()), int((counts > 2).sum())
    beside = _beside(grid, sheet, last)
    return SheetText(text, pairs, wide, tuple(last_rows), across, tuple(problems), beside)


def _about_formulas(scanned: Scanned) -> Iterator[Problem]:
    if scanned.unsaved:
        (row, column), formula = min(scanned.unsaved.items())
        yield Problem.of(
            "formulas-not-saved",
            "",
            row or None,
            letters(column),
            f"={formula}",
            len(scanned.unsaved),
            "formulas without saved values; these cells are bad values",
            "open the workbook in a spreadsheet program and save it",
        )
    if (0, 0) in scanned.errors:
        yield Problem.of(
            "error-without-place",
            raw=scanned.errors[0, 0],
            message="the workbook does not show which cells are errors; they are empty in the table",
            hint="open the workbook in a spreadsheet program and save it",
        )


def _about_merged(down: Cells) -> Iterator[Problem]:
    if down:
        (row, column), text = min(down.items())
        message = "merged over several rows, so its value is in each of them"
        yield Problem.of("merged-down", "", row, letters(column), text, len(down), message)


def _beside(grid: Grid, sheet: Sheet, last: int) -> bytes:
    """The cells beside the columns that are wanted, row by row."""
    cells: dict[int, list[str]] = {}
    for number, column in enumerate(grid.columns, grid.left):
        if not sheet.first_column <= number <= last:
            for place in filled(column).tolist():
                cells.setdefault(grid.top + place, []).append(column[place].as_py())
    if not cells:
        return b""
    rows = sorted(cells)
    return bytes(
        csv_lines([texts([str(row) for row in rows]), texts([", ".join(cells[row]) for row in rows])])
    )


def _about_others(grid: Grid, sheet: Sheet, last: int) -> Iterator[Problem]:
    """What to say about cells beside the columns that are wanted."""
    beside = [
        (number, places)
        for number, column in enumerate(grid.columns, grid.left)
        if not sheet.first_column <= number <= last and len(places := filled(column))
    ]
    if not beside:
        return
    number, places = min(beside, key=lambda one: (int(one[1][0]), one[0]))
    at = int(places[0])
    wanted = f"{letters(sheet.first_column)} to {letters(sheet.last_column) or 'the last'}"
    yield Problem(
        "note",
        "beside-the-table",
        "",
        grid.top + at,
        letters(number),
        grid.columns[number - grid.left][at].as_py(),
        sum(len(places) for _, places in beside),
        f"beside the columns {wanted}, left out",
    )
