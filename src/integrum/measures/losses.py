"""Count what is lost: by what became of the sources, and by what was found."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence

from integrum.codes import CODES, COSTS
from integrum.engine.ledger import SourceSummary
from integrum.lost import Loss, Lost
from integrum.plan.plan import Plan
from integrum.plan.sources import Sources
from integrum.problems import Problem

# rows that are set aside for one cell: what else the ledger has is this
_BAD = "bad-value"
# so many of the lost columns are kept by name
_NAMED = 3
_BAD_CELLS = (_BAD, "bad-share")
_COUNT = "source-count"
_ASIDE = ("row-too-long", "row-too-short", "text-after-quote")


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
    """How many sources a group has less than a plan expects."""
    wanted = group.expect if isinstance(group.expect, int) else 0
    return max(wanted - sum(one.group == number for one in sources), 0)


class _Blanks:
    """In which columns of which groups a bad value is an empty cell, and not a row that is set aside."""

    def __init__(self, plan: Plan) -> None:
        self._plan = plan
        self._columns = {one.name: one for one in plan.table_columns}

    def are_cells(self, name: str, group: int) -> bool:
        column = self._columns.get(name)
        of_group = self._plan.sources[group - 1].bad_values
        return ((column and column.bad_values) or of_group or self._plan.rules.bad_values) == "blank"
