"""What a run has established, and what of the data is not in the table."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from functools import cached_property
from typing import Any, TypeVar

from integrum.intake.ledger import SourceSummary
from integrum.measures.items import CategoryEntry, CheckResult, ColumnEntry, EndRow, HeaderEntry, VariantEntry
from integrum.measures.measures import SOURCES
from integrum.measures.tables import (
    BLOCKS,
    CATEGORIES,
    CHECKS,
    COLUMNS,
    ENDS,
    HEADERS,
    PREAMBLE,
    PROBLEMS,
    VARIANTS,
)
from integrum.plan.plan import Plan
from integrum.plan.sources import Sources
from integrum.problems.codes import CODES, COSTS
from integrum.problems.found import Entries
from integrum.problems.lost import Loss, Lost
from integrum.problems.problem import Problem
from integrum.reading.head import PreambleEntry
from integrum.reading.pieces import Blocks
from integrum.record.table import RecordTable

Item = TypeVar("Item")
EVERYTHING_THERE = Lost()
# rows that are set aside for one cell: what else the ledger has is this
_BAD = "bad-value"
# this many of the lost columns are kept by name
_NAMED = 3
_BAD_CELLS = (_BAD, "bad-share")
_COUNT = "source-count"
_ASIDE = ("row-too-long", "row-too-short", "text-after-quote")


class Result:
    """What a run has established: the files of its record as lists of objects.

    Parameters
    ----------
    tables
        Files of the record with their entries; others seem to be empty.
    lost
        What is not in the table.
    """

    def __init__(
        self,
        names: Sequence[str],
        tables: Mapping[RecordTable[Any], Entries[Any]],
        lost: Lost = EVERYTHING_THERE,
    ) -> None:
        self.names, self._lost = names, lost
        self._tables = dict(tables)

    def all_of(self, table: RecordTable[Item]) -> Entries[Item]:
        """The entries of a file."""
        return self._tables.get(table, Entries())

    @property
    def lost(self) -> Lost:
        """What is not in the table."""
        return self._lost

    @property
    def sources(self) -> Entries[SourceSummary]:
        """What became of each source, in order."""
        return self.all_of(SOURCES)

    @property
    def problems(self) -> Entries[Problem]:
        """All findings."""
        return self.all_of(PROBLEMS)

    @property
    def checks(self) -> Entries[CheckResult]:
        """What each check of the plan has found."""
        return self.all_of(CHECKS)

    @property
    def columns(self) -> Entries[ColumnEntry]:
        """The codebook."""
        return self.all_of(COLUMNS)

    @property
    def categories(self) -> Entries[CategoryEntry]:
        """How often each value of the columns that have a few is in the table."""
        return self.all_of(CATEGORIES)

    @property
    def ends(self) -> Entries[EndRow]:
        """The first and the last rows of each output."""
        return self.all_of(ENDS)

    @property
    def headers(self) -> Entries[HeaderEntry]:
        """What became of each header cell."""
        return self.all_of(HEADERS)

    @property
    def preamble(self) -> Entries[PreambleEntry]:
        """What stood above the headers."""
        return self.all_of(PREAMBLE)

    @property
    def variants(self) -> Entries[VariantEntry]:
        """The headers as they are written; none in a record of schema 6."""
        return self.all_of(VARIANTS)

    @cached_property
    def blocks(self) -> Mapping[str, Blocks]:
        """The hashes of the lines of each source, block by block, by its name; none in a record of schema 6."""
        found: dict[tuple[str, int], list[str]] = {}
        for one in self.all_of(BLOCKS):
            found.setdefault((one.source, one.lines), []).append(one.blake3)
        return {source: Blocks(lines, tuple(some)) for (source, lines), some in found.items()}

    def by_category(self) -> Mapping[str, Mapping[str, int]]:
        """By column, where there are only a few, its values with their counts, the most frequent first."""
        found: dict[str, dict[str, int]] = {}
        for one in self.categories:
            found.setdefault(one.column, {})[one.value] = one.rows
        return found


def lost_of(
    sources: Sequence[SourceSummary],
    problems: Iterable[Problem],
    plan: Plan,
    left_empty: Mapping[str, Mapping[str, str]],
) -> Lost:
    """Count what is lost.

    Parameters
    ----------
    left_empty
        By the name of a source: its identifiers that were left empty, each with the code of the problem.
    """
    found: Counter[tuple[str, str]] = Counter()
    by_name = {one.source: one for one in sources}
    rows: dict[str, int] = {}  # of each source: rows that were set aside, and are not accounted for yet
    for one in sources:
        if one.is_assembled:
            rows[one.source] = one.ledger.set_aside
        elif not CODES[one.reason].is_copy:
            found["source", one.reason] += 1
    columns: dict[str, str] = {}
    cell_columns: set[str] = set()
    blanks = _Blanks(plan)
    for problem in problems:
        source = by_name.get(problem.source)
        if source is not None and not source.is_assembled:
            continue
        code, costs = problem.code, problem.costs
        if (source is not None and code in _ASIDE) or problem.kind.is_copy:
            if problem.source in rows:
                rows[problem.source] -= problem.count
            if costs:
                found["row", code] += problem.count
        elif code in _BAD_CELLS:
            if (problem.row is None and code == _BAD) or source is None:
                continue  # an identifier; it is among those that were left empty
            if blanks.are_cells(problem.column, source.group):
                found["cell", code] += problem.count
                cell_columns.add(problem.column)
        elif costs == "column":
            columns.setdefault(problem.column, code)
        elif costs == "cell":
            found["cell", code] += problem.count
            cell_columns.add(problem.column)
        elif code == "second-table" and problem.column:
            continue  # an empty column between two tables: both are in the table
        elif costs and costs != "identifier" and code != _COUNT:
            found[costs, code] += problem.count
    found["missing", _COUNT] = sum(_fewer(group, sources, at) for at, group in enumerate(plan.sources, 1))
    if aside := sum(rows.values()):
        found["row", _BAD] += aside
    found.update(Counter(("column", code) for code in columns.values()))
    empty = {name: some for name, some in left_empty.items() if by_name[name].is_assembled and some}
    found.update(Counter(("identifier", code) for some in empty.values() for code in some.values()))
    order = {what: at for at, what in enumerate(COSTS)}
    losses = [Loss(what, cause, count) for (what, cause), count in found.items() if count]
    losses.sort(key=lambda one: (order[one.what], one.cause))  # type: ignore[index]
    return Lost(tuple(losses), len(cell_columns), len(empty), tuple(columns)[:_NAMED])


def _fewer(group: Sources, sources: Sequence[SourceSummary], number: int) -> int:
    """The number of sources that are missing in a group, by what the plan expects."""
    wanted = group.expect if isinstance(group.expect, int) else 0
    return max(wanted - sum(one.group == number for one in sources), 0)


class _Blanks:
    """In which columns and groups a bad value becomes an empty cell."""

    def __init__(self, plan: Plan) -> None:
        self._plan = plan
        self._columns = {one.name: one for one in plan.table_columns}

    def are_cells(self, name: str, group: int) -> bool:
        column = self._columns.get(name)
        of_group = self._plan.sources[group - 1].bad_values
        return ((column and column.bad_values) or of_group or self._plan.rules.bad_values) == "blank"
