"""The cells of a sheet as CSV, with what is to be said about them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import pyarrow as pa

from integrum.csvlines import csv_lines
from integrum.problems import Problem
from integrum.workbooks.cells import column_texts
from integrum.workbooks.errors import UNSAVED
from integrum.workbooks.places import Sheet, letters
from integrum.workbooks.scanned import Scanned

Merged = tuple[int, int, int]


@dataclass(frozen=True)
class Grid:
    """Columns of cells; the first is the column `left`, their first cells stand in the row `top`, both from 1."""

    columns: Sequence[Sequence[Any]]
    top: int = 1
    left: int = 1
    merged: Sequence[tuple[tuple[int, int], tuple[int, int]]] = ()


@dataclass(frozen=True)
class SheetText:
    """A sheet as CSV.

    Attributes
    ----------
    text
        UTF-8, a record for each row from the first row of the sheet to the last that has a cell.
    tabular
        Rows with two cells or more.
    last_rows
        For each column of the text the last row that has a cell there; 0 where there is none.
    merged
        Cells merged across: row from 1, first and last position in the text.
    problems
        What is to be said; without the name of the source.
    """

    text: bytes
    tabular: int = 0
    last_rows: tuple[int, ...] = ()
    merged: tuple[Merged, ...] = ()
    problems: tuple[Problem, ...] = ()


def as_text(grid: Grid, sheet: Sheet, scanned: Scanned) -> SheetText:
    """Write the cells of a sheet as CSV.

    Parameters
    ----------
    grid
        Its cells, as the library gives them.
    sheet
        Which columns of it are wanted.
    scanned
        What the library does not tell about it.

    Returns
    -------
    SheetText
    """
    put = scanned.errors | {place: f"{UNSAVED} ={formula}" for place, formula in scanned.unsaved.items()}
    placed = {place: text for place, text in put.items() if all(place)}
    grid, down = _with_merged(_with_cells(grid, placed))
    if not grid.columns:
        return SheetText(b"", problems=tuple(_said(scanned, down, [], sheet)))
    right = grid.left + len(grid.columns) - 1
    last = sheet.last_column or right
    height = len(grid.columns[0])
    filled = np.zeros(height, np.int64)
    columns, last_rows = [], []
    for number in range(sheet.first_column, last + 1):
        if grid.left <= number <= right:
            columns.append(column_texts(grid.columns[number - grid.left], sheet.decimal))
            has = np.flatnonzero(_lengths(columns[-1]))
            filled[has] += 1
            last_rows.append(grid.top + int(has[-1]) if len(has) else 0)
        else:
            columns.append(pa.nulls(height, pa.string()))
            last_rows.append(0)
    beside = [
        (number, values)
        for number, values in enumerate(grid.columns, grid.left)
        if not sheet.first_column <= number <= last
    ]
    merged = tuple(
        (first[0] + 1, first[1] + 1 - sheet.first_column, final[1] + 1 - sheet.first_column)
        for first, final in grid.merged
        if final[1] > first[1]
    )
    text = b"\n" * (grid.top - 1) + bytes(csv_lines(columns)) if columns else b""
    problems = _said(scanned, down, _beside(beside, grid.top), sheet)
    return SheetText(text, int((filled > 1).sum()), tuple(last_rows), merged, tuple(problems))


def _lengths(column: pa.Array) -> Any:
    offsets = np.frombuffer(column.buffers()[1], np.int32)[column.offset : column.offset + len(column) + 1]
    return np.diff(offsets)


def _with_cells(grid: Grid, placed: Mapping[tuple[int, int], str]) -> Grid:
    """Put cells where the library gave empty ones, or none."""
    if not placed:
        return grid
    rows, numbers = [row for row, _ in placed], [column for _, column in placed]
    if not grid.columns:
        grid = Grid([[""]], min(rows), min(numbers))
    top, left = min(grid.top, *rows), min(grid.left, *numbers)
    bottom = max(grid.top + len(grid.columns[0]) - 1, *rows)
    right = max(grid.left + len(grid.columns) - 1, *numbers)
    above, below = [""] * (grid.top - top), [""] * (bottom - grid.top - len(grid.columns[0]) + 1)
    columns: list[list[Any]] = [[""] * (bottom - top + 1) for _ in range(grid.left - left)]
    columns += [[*above, *column, *below] for column in grid.columns]
    columns += [[""] * (bottom - top + 1) for _ in range(right - left + 1 - len(columns))]
    for (row, column), text in placed.items():
        columns[column - left][row - top] = text
    return Grid(columns, top, left, grid.merged)


def _with_merged(grid: Grid) -> tuple[Grid, list[tuple[int, int, Any]]]:
    """Repeat cells that are merged over several rows in each of them; gives their places, too."""
    columns = list(grid.columns)
    done: list[tuple[int, int, Any]] = []
    for (top, left), (bottom, _) in grid.merged:
        at, start = left + 1 - grid.left, top + 1 - grid.top
        if bottom == top or not 0 <= at < len(columns) or not 0 <= start < len(columns[at]):
            continue
        value = columns[at][start]
        stop = min(bottom + 2 - grid.top, len(columns[at]))
        if value == "" or stop - start < 2:
            continue
        if not isinstance(columns[at], list):
            columns[at] = list(columns[at])
        columns[at][start:stop] = [value] * (stop - start)  # type: ignore[index]
        done.append((top + 1, left + 1, value))
    return Grid(columns, grid.top, grid.left, grid.merged), done


def _beside(columns: Iterable[tuple[int, Sequence[Any]]], top: int) -> list[tuple[int, int, Any]]:
    return [
        (row, number, value)
        for number, values in columns
        for row, value in enumerate(values, top)
        if value != ""
    ]


def _said(
    scanned: Scanned, down: list[tuple[int, int, Any]], beside: list[tuple[int, int, Any]], sheet: Sheet
) -> list[Problem]:
    problems = []
    if scanned.unsaved:
        (row, column), formula = min(scanned.unsaved.items())
        problems.append(
            _problem(
                "error",
                "formulas-not-saved",
                (row, column, f"={formula}"),
                len(scanned.unsaved),
                "formulas have no saved values; these cells are bad values",
                "open the workbook in a spreadsheet program and save it there",
            )
        )
    if (0, 0) in scanned.errors:
        problems.append(
            Problem(
                "error",
                "error-without-place",
                raw=scanned.errors[0, 0],
                message="the workbook does not say where its error cells are; they are empty in the table",
                hint="open the workbook in a spreadsheet program and save it there",
            )
        )
    if down:
        message = "merged over several rows, so it stands in each of them"
        problems.append(_problem("note", "merged-down", min(down, key=_by_row), len(down), message, ""))
    if beside:
        wanted = f"{letters(sheet.first_column)} to {letters(sheet.last_column) or 'the last'}"
        message = f"stands beside the columns {wanted}, so it is left out"
        problems.append(
            _problem("note", "beside-the-table", min(beside, key=_by_row), len(beside), message, "")
        )
    return problems


def _by_row(cell: tuple[int, int, Any]) -> tuple[int, int]:
    return cell[:2]


def _problem(
    severity: str, code: str, cell: tuple[int, int, Any], count: int, message: str, hint: str
) -> Problem:
    row, column, value = cell
    raw = column_texts([value])[0].as_py()
    return Problem(severity, code, "", row or None, letters(column), raw, count, message, hint)
