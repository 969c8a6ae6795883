"""The look at the result: shape, first and last rows, rows per source, identifiers, columns; a screen."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

from integrum.columns.expectation import coverage_of, tidied_expectation
from integrum.columns.identifiers import Identified
from integrum.intake.ledger import SourceSummary
from integrum.measures.items import CheckResult, ColumnEntry, EndRow
from integrum.measures.result import Result
from integrum.plan.plan import Plan
from integrum.problems import notebook
from integrum.problems.problem import clipped, counted, middle, visible

# a screen that is piped is as wide as any
_WIDTH = 200
_WIDEST_CELL, _WIDEST_NAME = 24, 28
_MOST_COLUMNS, _MOST_CHECKS, _MOST_ABSENT = 20, 5, 6
_ENDS = 3
# this many sources are all named
_FEW = 5
_VALUES = 52


@dataclass(frozen=True)
class Overview:
    """A screen about the result of a run; printing it shows it.

    Attributes
    ----------
    result
        What the run established.
    plan
        The plan of the run.
    output
        The output that it is about, as the sources name it; None for all of them.
    changed
        What is to be said of a table that is not as the run wrote it any more.
    """

    result: Result
    plan: Plan
    output: str | None = None
    changed: str = ""

    @property
    def names(self) -> Sequence[str]:
        """The columns of the table, in order."""
        return self.result.names

    @cached_property
    def sources(self) -> Sequence[SourceSummary]:
        """What became of each source."""
        return [one for one in self.result.sources if self.output in (None, one.output)]

    @property
    def rows(self) -> int:
        """Rows in the table."""
        return sum(one.table_rows for one in self.sources if one.is_assembled)

    @cached_property
    def ends(self) -> Sequence[EndRow]:
        """The first and the last rows; of the first output where it is about all."""
        ends = self.result.ends
        output = ends[0].output if ends and self.output is None else self.output
        return [one for one in ends if one.output == output]

    @property
    def columns(self) -> Sequence[ColumnEntry]:
        """The codebook."""
        return self.result.columns

    @property
    def checks(self) -> Sequence[CheckResult]:
        """What each check of the plan has found."""
        return self.result.checks

    def _repr_html_(self) -> str:
        assembled = sum(one.is_assembled for one in self.sources)
        parts = [notebook.title(shape_of(self.rows, len(self.names), assembled, len(self.sources)))]
        parts += [notebook.line(str(self.result.lost))] if self.output is None else []
        parts += [notebook.line(f"note: {self.changed}")] if self.changed else []
        if self.ends:
            parts.append(notebook.table(["row", *self.names], self._end_rows()))
        if self.columns:
            names = ["column", "type", "unit", "filled", "values"]
            parts += [notebook.title("Columns"), notebook.table(names, self._column_rows(), most=200)]
        lines = [*self._per_source(), *self._identifiers(), *self._checks()]
        return notebook.view(*parts, notebook.plain("\n".join(lines)) if lines else "")

    def _end_rows(self) -> list[list[str]]:
        """The first and the last rows, with a row of dots for those between."""
        rows = [[f"{one.row:,}", *map(_cell, one.cells)] for one in self.ends]
        gaps = [at for at, (one, two) in enumerate(pairwise(self.ends), 1) if two.row > one.row + 1]
        for at in reversed(gaps):
            rows.insert(at, ["…", *[""] * len(self.names)])
        return rows

    def __str__(self) -> str:
        return self.text()

    def text(self, width: int = _WIDTH) -> str:
        """The same for a screen of some width; longer lines are cut.

        Parameters
        ----------
        width
            The width of the text, in letters.
        """
        lines = self.lines(width)
        return "\n".join(line if len(line) <= width else f"{line[: width - 1]}…" for line in lines)

    def lines(self, width: int = _WIDTH) -> list[str]:
        """The same as lines; the first and last rows fit a width, other lines can be longer."""
        parts = [
            self._ends(width),
            self._columns(),
            [*self._per_source(), *self._identifiers(), *self._checks()],
        ]
        assembled = sum(one.is_assembled for one in self.sources)
        lines = [shape_of(self.rows, len(self.names), assembled, len(self.sources))]
        if self.output is None:
            lines.append(str(self.result.lost))
        lines += [f"note: {self.changed}"] if self.changed else []
        for part in parts:
            if part:
                lines += ["", *part]
        return list(map(visible, lines))

    def _ends(self, width: int) -> list[str]:
        """The first and the last rows; columns that do not fit are only counted."""
        if not self.ends:
            return []
        numbers = [f"{one.row:,}" for one in self.ends]
        table = [["row", *numbers]]
        table += [
            [clipped(name, _WIDEST_CELL), *(_cell(one.cells[at]) for one in self.ends)]
            for at, name in enumerate(self.names)
        ]
        widths = [max(map(len, cells)) for cells in table]
        fit, room = 0, width
        while fit < len(widths) and room >= widths[fit] + 2:
            room -= widths[fit] + 2
            fit += 1
        lines = []
        for at in range(len(self.ends) + 1):
            cells = [table[0][at].rjust(widths[0])]
            cells += [table[number][at].ljust(widths[number]) for number in range(1, fit)]
            lines.append("  ".join(cells).rstrip())
        gaps = [at for at, (one, two) in enumerate(pairwise(self.ends), 2) if two.row > one.row + 1]
        for at in reversed(gaps):
            lines.insert(at, "…".rjust(widths[0]))
        left = len(widths) - fit
        if left:
            lines.append(f"and {counted(left, 'more column')}: {_listed(self.names[fit - 1 :])}")
        return lines

    def _columns(self) -> list[str]:
        """Of each column its type, its filled cells, its least and greatest value, or its values."""
        if not self.columns:
            return []
        rows = [("column", "type", "unit", "filled", "values")]
        rows += [
            (clipped(name, _WIDEST_NAME), kind, clipped(unit, 12), filled, said)
            for name, kind, unit, filled, said in self._column_rows()[:_MOST_COLUMNS]
        ]
        widths = [max(len(row[at]) for row in rows) for at in range(4)]
        lines = [
            f"{name.ljust(widths[0])}  {kind.ljust(widths[1])}  {unit.ljust(widths[2])}  "
            f"{filled.rjust(widths[3])}  {said}".rstrip()
            for name, kind, unit, filled, said in rows
        ]
        left = len(self.columns) - _MOST_COLUMNS
        return [*lines, f"and {counted(left, 'more column')}"] if left > 0 else lines

    def _column_rows(self) -> list[tuple[str, str, str, str, str]]:
        """Of each column its name, its type, its unit, how much of it is filled, and its values."""
        rows, categories = [], self.result.by_category()
        for one in self.columns:
            if one.least or one.greatest:
                said = f"{one.least} to {one.greatest}" if one.least != one.greatest else one.least
            else:
                said = _counted(categories.get(one.column, {}))
                said = said or ("more than 40 different" if one.filled and one.type == "text" else "")
            rows.append((one.column, one.type, one.unit, share(one.filled, self.rows), said))
        return rows

    def _per_source(self) -> list[str]:
        there = sorted(
            (one for one in self.sources if one.is_assembled), key=lambda one: (one.table_rows, one.source)
        )
        if not there:
            return []
        low, high = there[0].table_rows, there[-1].table_rows
        if low == high:
            return [f"rows per source: {low:,} in each"]
        if len(there) <= _FEW:
            return [f"rows per source: {_named(there)}"]
        middle = there[(len(there) - 1) // 2].table_rows
        lowest, highest = _named(there[:_ENDS]), _named(there[-_ENDS:][::-1])
        lines = [f"rows per source: {low:,} to {high:,}, mostly about {middle:,}", f"  fewest: {lowest}"]
        return [*lines, f"  most: {highest}"]

    def _identifiers(self) -> list[str]:
        """How many values each identifier has, of those that are expected; and combinations that are missing."""
        names = self.plan.identifiers
        there = [one for one in self.sources if one.is_assembled]
        lines = []
        for name in names:
            wanted = {
                value
                for group in self.plan.sources
                if isinstance(group.expect, Mapping)
                for value in tidied_expectation(group.expect, self.plan).get(name, ())
            }
            found = {value for one in there if (value := one.identifiers.get(name))}
            said = (
                f"{len(found):,} different"
                if not wanted
                else f"{len(found & wanted):,} of {len(wanted):,} expected"
            )
            if wanted - found:
                said += f"; missing: {_listed(sorted(wanted - found))}"
            if wanted and found - wanted:
                said += f"; not expected: {_listed(sorted(found - wanted))}"
            lines.append(f"  {name}: {said}")
        coverage = coverage_of(self.plan, [Identified(one.identifiers) for one in there])
        if coverage and coverage.absent:
            lines.append(f"  without a source: {_listed(coverage.absent, '; ')}")
        return ["identifiers", *lines] if lines else []

    def _checks(self) -> list[str]:
        if not self.checks:
            return []
        failed = [one for one in self.checks if not one.has_passed]
        lines = [f"checks: {len(self.checks) - len(failed):,} passed, {len(failed):,} failed"]
        lines += [f"  failed: {one.name} ({one.found:,})" for one in failed[:_MOST_CHECKS]]
        more = len(failed) - _MOST_CHECKS
        return [*lines, f"  and {more:,} more"] if more > 0 else lines


def shape_of(rows: int, columns: int, assembled: int, sources: int) -> str:
    """The shape of a table, in a line.

    Examples
    --------
    >>> shape_of(5220, 10, 29, 30), shape_of(1, 1, 1, 1)
    ('5,220 rows × 10 columns from 29 of 30 sources', '1 row × 1 column from 1 of 1 source')
    """
    return (
        f"{counted(rows, 'row')} × {counted(columns, 'column')} "
        f"from {assembled:,} of {counted(sources, 'source')}"
    )


def share(count: int, total: int) -> str:
    """A share that is 100 % only when all are there, and 0 % only when none is."""
    if not total or count in (0, total):
        return "100 %" if total and count else "0 %"
    return f"{min(max(100 * count / total, 0.1), 99.9):.1f} %"


def _cell(text: str) -> str:
    """A cell that fits; of a path both ends stay."""
    return middle(text, _WIDEST_CELL) if "/" in text else clipped(text, _WIDEST_CELL)


def _counted(values: Mapping[str, int]) -> str:
    said: list[str] = []
    for value, count in values.items():
        one = f"{clipped(value, 20)} {count:,}"
        if said and len(", ".join([*said, one])) > _VALUES:
            break
        said.append(one)
    left = len(values) - len(said)
    return ", ".join(said) + (f" and {left:,} more" if left else "")


def _named(sources: Sequence[SourceSummary]) -> str:
    return ", ".join(f"{middle(one.source, 40)} ({one.table_rows:,})" for one in sources)


def _listed(names: Sequence[str], between: str = ", ") -> str:
    said = between.join(clipped(name, 40) for name in names[:_MOST_ABSENT])
    return said + (f"{between}and {len(names) - _MOST_ABSENT:,} more" if len(names) > _MOST_ABSENT else "")
