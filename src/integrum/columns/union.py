"""Many headers as one list of columns; and which cells of a wide header become rows."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from integrum.columns.header import IN_PART, Cell
from integrum.plan.fields import loosened
from integrum.plan.wide import Wide
from integrum.problems.problem import Problem


@dataclass(frozen=True)
class CountedHeader:
    """One distinct header and how many sources have it."""

    names: tuple[str, ...]
    sources: int


@dataclass(frozen=True)
class United:
    """One column of the union."""

    name: str  # the spelling that most sources have
    # every spelling with the number of sources that have it, the most frequent first
    spellings: tuple[tuple[str, int], ...]


def unite(headers: Sequence[CountedHeader], key_of: Mapping[str, str] | None = None) -> list[United]:
    """Unite headers: names that are one column stand together.

    Names that stand side by side in one header are different columns, however alike they are. A column
    that only some headers have comes after the one that precedes it there.

    `key_of`: by name the column that it certainly belongs to; of others it is a matter of how they are written.

    Examples
    --------
    >>> one, two = CountedHeader(("day", "Depth (m)"), 3), CountedHeader(("Day", "wind", "depth m"), 1)
    >>> [column.name for column in unite([one, two])]
    ['day', 'wind', 'Depth (m)']
    """
    apart = _apart(headers)
    following: dict[str, list[str]] = {"": []}
    counts: dict[str, dict[str, int]] = {}
    for header in headers:
        before = ""
        keys = [
            f"+{key_of[name]}" if key_of and name in key_of else _key(name, apart) for name in header.names
        ]
        shares = any(key in counts for key in keys)
        for name, key in zip(header.names, keys, strict=True):
            if key not in counts:
                counts[key] = {}
                following[key] = []
                # the columns of a header that shares none with those before come behind them
                following[before].insert(0 if before or shares else len(following[before]), key)
            spellings = counts[key]
            spellings[name] = spellings.get(name, 0) + header.sources
            before = key
    order = _in_turn(following)
    united = []
    for key in order:
        spellings_by_count = sorted(counts[key].items(), key=lambda item: -item[1])
        united.append(United(spellings_by_count[0][0], tuple(spellings_by_count)))
    return united


def _in_turn(following: dict[str, list[str]]) -> list[str]:
    """Each name comes after the name that it first followed; of several, the latest comes first."""
    order, waiting = [], [""]
    while waiting:
        key = waiting.pop()
        order.append(key)
        waiting += reversed(following[key])
    return order[1:]


def _apart(headers: Sequence[CountedHeader]) -> set[str]:
    """Loosened names of which one header has two."""
    apart = {""}
    for header in headers:
        seen: set[str] = set()
        for name in header.names:
            loose = loosened(name)
            if loose in seen:
                apart.add(loose)
            seen.add(loose)
    return apart


def _key(name: str, apart: set[str]) -> str:
    loose = loosened(name)
    return f"={name}" if loose in apart else f"~{loose}"


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
    """Find the header cells of a wide source that become rows.

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
