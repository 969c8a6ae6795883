"""Which cells of a wide source become which rows: the header of one variant compared with `wide` of its group."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from integrum.columns.states import IN_PART, Cell
from integrum.plan.wide import Wide
from integrum.problems import Problem


@dataclass(frozen=True)
class WideCells:
    """How each row of a wide source becomes several rows of the table."""

    names: tuple[str, ...]  # the columns that take header cells, or parts of them
    keys: tuple[tuple[str, ...], ...]  # for each row that a row of the file becomes: the values of `names`
    values: tuple[str, ...]  # the columns that take values
    # for each of `keys` and each of `values` the position of the cell, from 0, or -1 when there is none
    cells: tuple[tuple[int, ...], ...]
    keeps_empty: bool  # whether a cell without text gives a row
    # columns of the header. What becomes of the cells stands behind them: first `names`, then `values`.
    width: int

    @property
    def columns(self) -> tuple[str, ...]:
        """All columns that it fills, in the order in which they stand."""
        return (*self.names, *self.values)

    def position_of(self, column: str) -> int:
        """Where a column that it fills stands, behind those of the header."""
        return self.width + self.columns.index(column)


def wide_cells(
    free: Mapping[int, str], wide: Wide, column_of: Callable[[str], str], width: int
) -> tuple[WideCells | None, list[Cell], list[Problem]]:
    """Hold the free cells of a header against what a group says of wide sources.

    Returns how its rows become several, or None; the cells that are for it; what is wrong with it.

    `column_of`: gives the column of the plan that a text is the name of, or an empty text.

    Examples
    --------
    >>> made, cells, _ = wide_cells({1: "2024-04", 2: "2024-05"}, Wide("20*", "month", "count"), lambda name: name, 3)
    >>> made.columns, made.keys, made.cells
    (('month', 'count'), (('2024-04',), ('2024-05',)), ((1,), (2,)))
    """
    found: dict[tuple[str, ...], dict[str, int]] = {}
    cells: list[Cell] = []
    problems: list[Problem] = []
    for position, header in free.items():
        said = wide.read(header)
        column = column_of(said[1]) if said else ""
        if said is None or not column:
            continue
        there = found.setdefault(tuple(said[0].values()), {})
        if column in there:
            problems.append(_twice(column, free[there[column]], header))
        there[column] = position
        cells.append(Cell(position, header, IN_PART, column))
    if not found:
        return None, [], []
    values = tuple(dict.fromkeys(column for there in found.values() for column in there))
    places = tuple(tuple(there.get(column, -1) for column in values) for there in found.values())
    return WideCells(wide.names, tuple(found), values, places, wide.empty == "keep", width), cells, problems


def _twice(column: str, first: str, second: str) -> Problem:
    return Problem.of(
        "header-claimed-twice",
        column=column,
        raw=second,
        message=f'the headers "{first}" and "{second}" of this source have the same meaning',
        hint="add one of them to leave_out of the group, or fix `wide`",
    )
