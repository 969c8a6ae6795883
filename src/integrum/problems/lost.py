"""What is lost: data that is not in the table, counted by what it is and by its cause."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from integrum.problems.codes import COSTS
from integrum.problems.problem import clipped, counted

# this many columns are named
_NAMED = 3
NOTHING = "nothing is missing from the table"


@dataclass(frozen=True)
class Loss:
    """Data of one kind that is not in the table for one cause."""

    what: str  # ``"source"``, ``"row"``, ``"cell"``, ``"column"``, ``"identifier"``, or ``"missing"``
    cause: str  # the code of the problem
    count: int


@dataclass(frozen=True)
class Lost:
    """What is lost: data that is not in the table. It is true when anything is.

    Attributes
    ----------
    by_cause
        How much of each kind, by the code of the problem that is the cause.
    cell_columns, identifier_sources
        In how many columns the lost cells are, and in how many sources the identifiers.
    names
        The first of the lost columns.

    Examples
    --------
    >>> lost = Lost((Loss("row", "row-too-long", 3), Loss("cell", "bad-value", 108)), cell_columns=2)
    >>> print(lost)
    not in the table: 3 rows, 108 cells of 2 columns
    >>> lost.rows, lost.cells, lost.sources, bool(lost), bool(Lost())
    (3, 108, 0, True, False)
    >>> print(Lost())
    nothing is missing from the table
    """

    by_cause: tuple[Loss, ...] = ()
    cell_columns: int = 0
    identifier_sources: int = 0
    names: tuple[str, ...] = ()

    def of(self, what: str, cause: str = "") -> int:
        """How much of a kind is lost, for all causes or for one."""
        return sum(one.count for one in self.by_cause if one.what == what and cause in ("", one.cause))

    @property
    def sources(self) -> int:
        """Sources that were set aside, or not read; copies of others do not count."""
        return self.of("source")

    @property
    def rows(self) -> int:
        """Rows that were set aside, or left out though they look like data."""
        return self.of("row")

    @property
    def cells(self) -> int:
        """Cells that could not be read."""
        return self.of("cell")

    @property
    def columns(self) -> int:
        """Headers of sources that are in no column of the table."""
        return self.of("column")

    @property
    def identifiers(self) -> int:
        """Identifiers that were left empty."""
        return self.of("identifier")

    @property
    def missing(self) -> int:
        """Sources and columns that were expected and are not there: they are not lost, but missing."""
        return self.of("missing")

    def __bool__(self) -> bool:
        """Whether anything is lost; what is only missing is not."""
        return any(one.what != "missing" for one in self.by_cause)

    def __str__(self) -> str:
        parts = list(self._parts())
        return f"not in the table: {', '.join(parts)}" if parts else NOTHING

    def _parts(self) -> Any:
        alike = self.of("source", "tables-skipped")
        if alike:
            yield f"{counted(alike, 'file')} that look{'s' if alike == 1 else ''} like {_a(alike, 'table')}"
        if others := self.sources - alike:
            yield counted(others, "source")
        doubtful = sum(self.of("row", cause) for cause in _LEFT_OUT)
        if rows := self.rows - doubtful:
            yield counted(rows, "row")
        if doubtful:
            yield f"{counted(doubtful, 'row')} left out that look{'s' if doubtful == 1 else ''} like data"
        if self.cells:
            yield f"{counted(self.cells, 'cell')} of {counted(self.cell_columns, 'column')}"
        if self.columns:
            named = ", ".join(f'"{clipped(name, 30)}"' for name in self.names[:_NAMED])
            more = ", …" if self.columns > _NAMED else ""
            yield f"{counted(self.columns, 'column')} of the sources ({named}{more})"
        if self.identifiers:
            where = counted(self.identifier_sources, "source")
            yield f"{counted(self.identifiers, 'identifier')} of {where}"
        for cause, words in _MISSING.items():
            if count := self.of("missing", cause):
                yield f"{counted(count, words[0])}{words[1]}"

    def to_dict(self) -> dict[str, Any]:
        """All of it as plain data, for JSON."""
        return {
            **{f"{what}s": self.of(what) for what in COSTS if what not in ("", "missing")},
            "missing": self.missing,
            "by_cause": [vars(one) for one in self.by_cause],
            "said": str(self),
        }


# rows that a layout leaves out, though they may be data
_LEFT_OUT = ("left-out-like-data", "second-table")
# how what is expected and missing is called
_MISSING = {
    "source-missing": ("expected source", ""),
    "source-count": ("expected source", ""),
    "nothing-found": ("place", " of the plan without any source"),
    "column-nowhere": ("column", " of the plan that no source has"),
}


def _a(count: int, word: str) -> str:
    return f"a {word}" if count == 1 else f"{word}s"
