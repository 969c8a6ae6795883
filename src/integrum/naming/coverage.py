"""What is there and what is missing, as a grid: identifiers down and across."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import product

from integrum.naming.expectation import tidied_expectation
from integrum.naming.identifiers import Identified
from integrum.plan.plan import Plan
from integrum.problems import counted
from integrum.sources.order import natural_key

MISSING = "missing"
MOST_DOWN, MOST_ACROSS, MOST_ABSENT = 40, 20, 20
_MOST_HOLES = 0.5


@dataclass(frozen=True)
class Coverage:
    """Combinations of identifiers and how many sources have each."""

    # the names of the identifiers
    down: str
    across: str
    # their values, in natural order; ``""`` for sources without a value
    rows: tuple[str, ...]
    columns: tuple[str, ...]
    # sources by row and column; a combination that is missing here has none
    counts: Mapping[tuple[str, str], int]
    expected: frozenset[tuple[str, str]]  # the combinations that the plan expects; empty when it does not say

    @property
    def cut(self) -> str:
        """What a printed grid leaves out, in words."""
        down, across = len(self.rows) - MOST_DOWN, len(self.columns) - MOST_ACROSS
        said = [f"{down:,} more of {self.down}"] if down > 0 else []
        said += [f"{across:,} more of {self.across}"] if across > 0 else []
        return f"and {' and '.join(said)}" if said else ""

    @property
    def absent(self) -> list[str]:
        """The combinations that no source has, in words; none where most are missing and none is expected."""
        every = [(row, column) for row in self.rows for column in self.columns if row and column]
        holes = [pair for pair in every if pair not in self.counts]
        if self.expected:
            holes = [pair for pair in holes if pair in self.expected]
        elif len(holes) > _MOST_HOLES * len(every):
            return []
        return [f"{self.down} = {row}, {self.across} = {column}" for row, column in holes]

    def cell(self, row: str, column: str) -> str:
        """What a cell shows: a count, ``missing`` where one was expected, or ``-``."""
        count = self.counts.get((row, column), 0)
        if count:
            return str(count)
        return MISSING if (row, column) in self.expected else "-"

    def __str__(self) -> str:
        across = self.columns[:MOST_ACROSS]
        table = [["", *(column or "(none)" for column in across)]]
        table += [
            [row or "(none)", *(self.cell(row, column) for column in across)] for row in self.rows[:MOST_DOWN]
        ]
        widths = [max(len(line[at]) for line in table) for at in range(len(table[0]))]
        lines = [f"sources by {self.down} (down) and {self.across} (across)"]
        for name, *cells in table:
            numbers = (cell.rjust(width) for cell, width in zip(cells, widths[1:], strict=True))
            lines.append("  " + "  ".join([name.ljust(widths[0]), *numbers]))
        if self.cut:
            lines.append(f"  {self.cut}")
        return "\n".join([*lines, *self.missing_lines()])

    def missing_lines(self) -> list[str]:
        """Lines that name the combinations that no source has."""
        absent = self.absent
        if not absent:
            return []
        more = [f"  and {len(absent) - MOST_ABSENT:,} more"] if len(absent) > MOST_ABSENT else []
        count = counted(len(absent), "combination")
        return [f"{count} without a source", *(f"  {each}" for each in absent[:MOST_ABSENT]), *more]


def coverage_of(plan: Plan, identified: Sequence[Identified]) -> Coverage | None:
    """The coverage of the first two identifiers that vary, or of those that the plan expects; the longer one runs down.

    None when there are no two such identifiers.
    """
    expect = next((group.expect for group in plan.sources if isinstance(group.expect, Mapping)), {})
    wanted = tidied_expectation(expect, plan)
    names = list(wanted) or list(plan.identifiers)
    found = {
        name: {one.values.get(name) or "" for one in identified} | set(wanted.get(name, ())) for name in names
    }
    varying = [name for name in names if len(found[name]) > 1]
    if len(varying) < 2:
        return None
    down, across = sorted(varying[:2], key=lambda name: -len(found[name]))
    counts = Counter((one.values.get(down) or "", one.values.get(across) or "") for one in identified)
    expected = frozenset(product(wanted.get(down, ()), wanted.get(across, ())))
    rows, columns = (tuple(sorted(found[name], key=natural_key)) for name in (down, across))
    return Coverage(down, across, rows, columns, dict(counts), expected)
