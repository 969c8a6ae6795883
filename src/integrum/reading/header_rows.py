"""The header that some rows make: the names of its columns, their units, and the columns that are spare."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

from integrum.columns.header import Header, tidy_names
from integrum.plan.fields import without_serial
from integrum.values.units import in_name, is_unit

Cells = tuple[str, ...]


# of many sources most have the header of one before them
@lru_cache(maxsize=64)
def header_of(
    rows: tuple[Cells, ...],
    described: tuple[Cells, ...] = (),
    units_at: int = -1,
    before: int = 0,
    first_column: int = 0,
    merged: bool = False,
) -> Header:
    """Put a header together.

    Parameters
    ----------
    described
        The cells of the rows below it that describe the columns.
    units_at
        Which of these gives the units; -1 for none.
    before
        How many columns of the data stand before the first cell.
    first_column
        The number of the first column in its sheet, from 1; 0 in a file.
    merged
        Whether cells are merged in these rows, so that each stands where it belongs.

    Examples
    --------
    >>> made = header_of((("Water", "", "Air"), ("Temp (°C)", "pH", "Temp", "")), (("", "", "degC"),), 0)
    >>> made.names, made.units, made.spare
    (('Water Temp (°C)', 'Water pH', 'Air Temp', 'Air'), ('°C', '', 'degC', ''), (3,))
    """
    padded = [[*[""] * before, *row] for row in rows]
    given: Sequence[str] = described[units_at] if units_at >= 0 else ()
    if len(given) <= max(map(len, padded)):
        given = [*[""] * before, *given]
    names, spare = _names(padded, first_column, merged)
    said = tuple(
        in_name(without_serial(name))[1] or (given[at].strip().strip("[]()") if at < len(given) else "")
        for at, name in enumerate(names)
    )
    return Header(names, (*rows, *described), said, spare)


def row_of_units(described: Sequence[Cells]) -> int:
    """Which of the rows below a header gives the units: that with the most of them, the first of several.

    Examples
    --------
    >>> row_of_units([("", "Avg", "Max"), ("TS", "degC", "m/s")])
    1
    """
    counts = [sum(bool(cell.strip()) and is_unit(cell) for cell in cells) for cells in described]
    return counts.index(max(counts)) if counts else -1


def _names(rows: Sequence[Sequence[str]], first_column: int, merged: bool) -> tuple[Cells, tuple[int, ...]]:
    """The names of the columns, and the positions of the empty cells that end the header."""
    width = max(map(len, rows))
    filled: list[list[str]] = []
    for number, row in enumerate(rows):
        cells = [*row, *[""] * (width - len(row))]
        if number < len(rows) - 1 and not merged:  # a group's cell stands over all of its columns
            for at in range(1, width):
                cells[at] = cells[at] or cells[at - 1]
        filled.append(cells)
    joined = [
        " ".join(dict.fromkeys(cell.strip() for cell in column if cell.strip()))
        for column in zip(*filled, strict=True)
    ]
    last = max((at for at, cell in enumerate(filled[-1]) if cell.strip()), default=width - 1)
    return tidy_names(tuple(joined), first_column), tuple(range(last + 1, width))
