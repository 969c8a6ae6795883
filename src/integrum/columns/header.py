"""The header of a source: its cells, their units, the names of the columns, and what becomes of each cell."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache

from integrum.values.units import conversion_to, is_unit, same_unit
from integrum.workbooks.places import letters

_BY_PLACE = re.compile(r"column (?:\d+|[A-Z]{1,3})")
_NUMBERED = re.compile(r"(.+) \(\d+\)")
CLAIMED, IN_PART, LEFT_OUT, GUESSED, UNLISTED = (
    "matched",
    "in part",
    "left out",
    "guessed",
    "unlisted",
)
# words of names that are units only by chance
_WORDS = frozenset(
    {"in", "a", "d", "h", "s", "g", "l", "t", "min", "count", "units", "local", "utc", "hour", "day", "n"}
)


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


@dataclass(frozen=True)
class Cell:
    """A header cell compared with the plan."""

    position: int  # in the header, from 0
    name: str
    # ``"matched"`` by a column; ``"in part"``: it fills columns together with others, as in wide sources;
    # ``"left out"`` on purpose; ``"guessed"``: it may belong to a column; ``"unlisted"``: the plan does not
    # know it
    state: str
    column: str = ""  # the column that it is for, or may be for; empty where there is none


@lru_cache(maxsize=4096)
def unit_behind(header: str, wanted: str) -> str:
    """The unit at the end of a header, when it is of the same quantity as the unit that is wanted.

    `wanted`: the unit of its column; empty when there is none.

    Examples
    --------
    >>> unit_behind("level_cm", "m"), unit_behind("nitrate_ug_l", "mg/L"), unit_behind("level_max", "m")
    ('cm', 'ug/l', '')
    """
    if not wanted:
        return ""
    parts = re.split(r"[_\s]+", header.strip())
    ends = ["/".join(parts[-2:])] if len(parts) > 2 else []
    ends += [parts[-1]] if len(parts) > 1 and parts[-1].lower() not in _WORDS else []
    for end in ends:
        if same_unit(end, wanted):
            return end
        if is_unit(end) and conversion_to(wanted, end) is not None:
            return end
    return ""
