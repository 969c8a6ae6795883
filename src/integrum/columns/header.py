"""The header of a source: its cells, the names that they give to the columns, and their units."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache

from integrum.workbooks.places import letters

_BY_PLACE = re.compile(r"column (?:\d+|[A-Z]{1,3})")
_NUMBERED = re.compile(r"(.+) \(\d+\)")


@dataclass(frozen=True)
class Header:
    """A header; sources with an equal list of names are of one header variant."""

    # the tidied names of the columns, no two the same: outer and double spaces and line breaks gone, an
    # empty cell named after its position, a repeated one told apart
    names: tuple[str, ...]
    # the cells of the header's rows, and of the units row, as they are written
    rows: tuple[tuple[str, ...], ...] = ()
    units: tuple[str, ...] = ()  # the unit of each column, as it is written; empty where none is given
    # positions at the end where the header's cells are empty, and in a sheet those of columns without a
    # name and a cell below; they are columns only if some row has values there
    spare: tuple[int, ...] = ()
    used: tuple[int, ...] = ()  # of these, positions of columns that have values in the first rows

    def __hash__(self) -> int:  # a header may have thousands of cells
        return hash(self.names)

    @property
    def nameless(self) -> frozenset[int]:
        """Positions of the columns whose header cell is empty."""
        written = self._written
        return frozenset(
            at for at, name in enumerate(self.names) if _BY_PLACE.fullmatch(name) and name not in written
        )

    @property
    def written(self) -> list[str]:
        """The names that its cells give to columns, in order, without those of columns named after their place."""
        empty = self.nameless
        return [name for at, name in self.named.items() if at not in empty]

    @property
    def repeated(self) -> frozenset[int]:
        """Positions of the columns whose name had to be told apart from one before."""
        given, written = set(self.names), self._written
        return frozenset(
            at
            for at, name in enumerate(self.names)
            if (found := _NUMBERED.fullmatch(name)) and found[1] in given and name not in written
        )

    @property
    def _written(self) -> frozenset[str]:
        return frozenset(" ".join(cell.split()) for row in self.rows for cell in row)

    @property
    def named(self) -> dict[int, str]:
        """The names of the columns by position, without those that are spare."""
        spare = set(self.unused)
        return {at: name for at, name in enumerate(self.names) if at not in spare}

    @property
    def unused(self) -> tuple[int, ...]:
        """Positions of what is spare and no column."""
        return tuple(at for at in self.spare if at not in self.used)

    @property
    def least(self) -> int:
        """How many cells a row has at least: it may end where the names of the header end."""
        return len(self.names) - len(self.spare)

    def unit_at(self, position: int) -> str:
        """The unit of a column; empty where none is given."""
        return self.units[position] if position < len(self.units) else ""


@lru_cache(maxsize=256)
def tidy_names(cells: tuple[str, ...], first_column: int = 0) -> tuple[str, ...]:
    """Give every header cell a name of its own; an empty one is named after its place.

    Examples
    --------
    >>> tidy_names((" Depth  (m)", "", "Depth (m)"))
    ('Depth (m)', 'column 2', 'Depth (m) (2)')
    >>> tidy_names(("lake", ""), first_column=3)
    ('lake', 'column D')
    """
    names: dict[str, None] = {}
    written = {" ".join(cell.split()) for cell in cells}
    numbers: dict[str, int] = {}
    for position, cell in enumerate(cells, 1):
        place = letters(first_column + position - 1) if first_column else position
        plain = " ".join(cell.split()) or f"column {place}"
        name, number = plain, numbers.get(plain, 2)
        while name in names or (name != plain and name in written):
            name, number = f"{plain} ({number})", number + 1
        numbers[plain] = number
        names[name] = None
    return tuple(names)
