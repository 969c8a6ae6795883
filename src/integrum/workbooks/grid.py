"""The cells of a sheet as columns of text, made block by block, and cells put where there were none."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import islice
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import Ints, flags, texts
from integrum.workbooks.cells import column_texts

# rows that are Python objects at one time
BLOCK = 1 << 16
Cells = Mapping[tuple[int, int], str]
Merged = Sequence[tuple[tuple[int, int], tuple[int, int]]]


@dataclass(frozen=True)
class Grid:
    """Columns of text of one length."""

    columns: Sequence[pa.Array]  # string arrays; an empty cell is empty or null
    # the row and the column of the first cell, from 1
    top: int = 1
    left: int = 1

    @property
    def height(self) -> int:
        """How many rows it has."""
        return len(self.columns[0]) if self.columns else 0

    @property
    def right(self) -> int:
        """The last column."""
        return self.left + len(self.columns) - 1


def grid_of(rows: Iterable[Sequence[Any]], top: int = 1, left: int = 1, decimal_mark: str = ".") -> Grid:
    """Make a grid of rows of cells, all of one length.

    Examples
    --------
    >>> [column.to_pylist() for column in grid_of([["lake", "depth"], ["Ambermere", 3.5]]).columns]
    [['lake', 'Ambermere'], ['depth', '3.5']]
    """
    left_over = iter(rows)
    blocks = []
    while block := list(islice(left_over, BLOCK)):
        blocks.append([column_texts(values, decimal_mark) for values in zip(*block, strict=True)])
    return Grid([pa.concat_arrays(parts) for parts in zip(*blocks, strict=True)], top, left)


def filled(column: pa.Array) -> Ints:
    """The positions of the cells of a column that are not empty."""
    offsets = np.frombuffer(column.buffers()[1], np.int32)[column.offset : column.offset + len(column) + 1]
    return np.flatnonzero(np.diff(offsets))


def with_cells(grid: Grid, cells: Cells) -> Grid:
    """Put cells, by row and column, into a grid, which grows where that is needed."""
    if not cells:
        return grid
    rows, numbers = [row for row, _ in cells], [number for _, number in cells]
    if not grid.columns:
        grid = Grid([texts([""])], min(rows), min(numbers))
    top, left = min(grid.top, *rows), min(grid.left, *numbers)
    height = max(grid.top + grid.height, max(rows) + 1) - top
    by_column: dict[int, dict[int, str]] = {}
    for (row, number), text in cells.items():
        by_column.setdefault(number, {})[row - top] = text
    columns = []
    for number in range(left, max(grid.right, *numbers) + 1):
        column = pa.nulls(height, pa.string())
        if grid.left <= number <= grid.right:
            above, below = grid.top - top, height - grid.height - (grid.top - top)
            padding = [pa.nulls(above, pa.string()), pa.nulls(below, pa.string())]
            column = pa.concat_arrays([padding[0], grid.columns[number - grid.left], padding[1]])
        if number in by_column:
            places = sorted(by_column[number])
            mask = np.zeros(height, bool)
            mask[places] = True
            put = texts([by_column[number][place] for place in places])
            column = pc.replace_with_mask(column, flags(mask), put)
        columns.append(column)
    return Grid(columns, top, left)


def merged_down(grid: Grid, merged: Merged) -> tuple[dict[tuple[int, int], str], dict[tuple[int, int], str]]:
    """Cells that are merged over several rows: where they stand, and the cells below that read the same."""
    first: dict[tuple[int, int], str] = {}
    below: dict[tuple[int, int], str] = {}
    for (top, left), (bottom, _) in merged:
        at, start = left + 1 - grid.left, top + 1 - grid.top
        stop = min(bottom + 2 - grid.top, grid.height)
        if not 0 <= at < len(grid.columns) or start < 0 or stop - start < 2:
            continue
        text = grid.columns[at][start].as_py()
        if text:
            first[top + 1, left + 1] = text
            below.update({(row, left + 1): text for row in range(top + 2, grid.top + stop)})
    return first, below
