"""The checks of a plan as measures."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

from integrum.dispatch.job import State
from integrum.measures import row_checks, time_checks, value_checks
from integrum.measures.items import CheckResult
from integrum.measures.measure import Context, Kind, Measure, Recalled, TableBatch, TableRows
from integrum.measures.tables import CHECKS
from integrum.plan.check import NEEDS, Check
from integrum.problems.problem import Problem
from integrum.record.table import RecordTable

# what makes a check of each kind
MAKERS: Mapping[str, Callable[[Check], Kind]] = {
    "unique": row_checks.unique,
    "complete": row_checks.complete,
    "range": value_checks.value_range,
    "allowed": value_checks.allowed,
    "match": value_checks.pattern,
    "filled": value_checks.filled,
    "rows": row_checks.row_count,
    "sources": row_checks.source_count,
    "steady": time_checks.steady,
    "follow": time_checks.follow,
    "in_one_source": row_checks.in_one_source,
    "listed": value_checks.listed,
}
# for each look what each check saw
Looks = Sequence[Sequence[Any]]


@dataclass(frozen=True)
class PreparedCheck:
    """A check that is ready to be made, or the reason why it cannot be made."""

    check: Check
    kind: Kind | None
    why: str = ""


def prepared(checks: Sequence[Check], types: Mapping[str, str]) -> tuple[PreparedCheck, ...]:
    """Prepare checks.

    Raises PlanError when a list cannot be read, or a pattern is none.
    """
    made = []
    for check in checks:
        absent = next((name for name in check.columns if name not in types), "")
        why = f'the table has no column "{absent}"' if absent else ""
        kind = types.get(check.column, "")
        if kind and kind not in NEEDS.get(check.kind, (kind,)):
            why = f'"{check.column}" is {kind}, and {check.kind} is for {", ".join(NEEDS[check.kind])}'
        made.append(PreparedCheck(check, None if why else MAKERS[check.kind](check), why))
    return tuple(made)


class CheckResults(State[Looks]):
    """Collects what the checks of a run see."""

    def __init__(self, checks: Sequence[PreparedCheck], context: Context) -> None:
        self._checks, self._context = checks, context
        self._states = [one.kind.begin() if one.kind else None for one in checks]

    def add(self, seen: Looks) -> None:
        """Add what the checks saw in one job."""
        for look in seen:
            for state, one in zip(self._states, look, strict=True):
                if state:
                    state.add(one)

    @cached_property
    def _results(self) -> list[tuple[CheckResult, list[Problem]]]:
        results = []
        for one, state in zip(self._checks, self._states, strict=True):
            check = one.check
            named = f' (check "{check.name}")' if check.name else ""
            found = list(state.findings(self._context.summaries)) if state else [_impossible(one)]
            problems = [
                replace(each, severity=check.severity, message=each.message + named) for each in found
            ]
            count = (state.found if state else 0) or sum(each.count for each in found)
            results.append(
                (CheckResult(check.key, check.kind, check.severity, check.columns, count), problems)
            )
        return results

    def findings(self) -> Iterator[Problem]:
        """The problems of the checks that failed."""
        return (problem for _, problems in self._results for problem in problems)

    def entries(self) -> Iterator[tuple[RecordTable[CheckResult], Iterable[CheckResult]]]:
        """The result of each check."""
        yield CHECKS, (result for result, _ in self._results)


def _impossible(one: PreparedCheck) -> Problem:
    return Problem.of(
        "check-impossible",
        column=one.check.column,
        message=f"the check cannot be made: {one.why}",
        hint="fix the check, or add the column to the plan",
    )


@dataclass(frozen=True)
class TableChecks(Measure[TableBatch, Looks, CheckResults]):
    """The measure of the checks of a plan."""

    checks: Sequence[PreparedCheck] = ()  # they, ready to be made

    def look(self, rows: TableBatch) -> Looks:
        """Let all checks look at the rows of a job at once."""
        return [self._look(rows.rows_for_checks)] if self.checks else ()

    def begin(self, context: Context) -> CheckResults:
        """Begin the state of all checks."""
        return CheckResults(self.checks, context)

    def recall(self, earlier: Recalled) -> Looks:
        """The rows that are taken over are looked at again, unless no check needs them."""
        looking = [one for one in self.checks if one.kind and one.kind.needs_rows]
        if not looking:
            return ()
        whole = any(not one.check.columns for one in looking)
        wanted = {name for one in looking for name in one.check.columns}
        names = None if whole else [name for name in earlier.schema.names if name in wanted]
        return [self._look(rows) for rows in earlier.table_rows(names)]

    def _look(self, rows: TableRows) -> Sequence[Any]:
        return [one.kind.look(rows) if one.kind else None for one in self.checks]
