"""All checks of a plan: prepared, shown each batch on its worker, and told of at the end."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from integrum.checking.allowed import allowed
from integrum.checking.complete import complete
from integrum.checking.counts import row_count, source_count
from integrum.checking.filled import filled
from integrum.checking.follow import follow
from integrum.checking.kind import Finding, Kind
from integrum.checking.listed import listed
from integrum.checking.pattern import pattern
from integrum.checking.rows import TableRows
from integrum.checking.same_rows import in_one_source, unique
from integrum.checking.steady import steady
from integrum.checking.value_range import value_range
from integrum.engine.ledger import SourceSummary
from integrum.plan.check import Check
from integrum.problems import Problem

# what makes a check of each kind
MAKERS: dict[str, Callable[[Check], Kind]] = {
    "unique": unique,
    "complete": complete,
    "range": value_range,
    "allowed": allowed,
    "match": pattern,
    "filled": filled,
    "rows": row_count,
    "sources": source_count,
    "steady": steady,
    "follow": follow,
    "in_one_source": in_one_source,
    "listed": listed,
}


@dataclass(frozen=True)
class CheckResult:
    """What a check has found.

    Attributes
    ----------
    name, kind, severity
        Its name, its kind, and the severity of what it finds.
    columns
        The columns that it looks at.
    found
        How much does not hold; 0 when it has passed.
    """

    name: str
    kind: str
    severity: str
    columns: tuple[str, ...]
    found: int

    @property
    def has_passed(self) -> bool:
        """Whether all is as it should be."""
        return not self.found


@dataclass(frozen=True)
class Prepared:
    """A check, ready to be made; None where the table lacks a column for it."""

    check: Check
    kind: Kind | None
    lacks: str = ""


def prepared(checks: Sequence[Check], columns: Sequence[str]) -> tuple[Prepared, ...]:
    """Prepare checks.

    Parameters
    ----------
    checks
        Those of a plan.
    columns
        The columns of the table.

    Raises
    ------
    PlanError
        When a list cannot be read, or a pattern is none.
    """
    made = []
    for check in checks:
        lacks = next((name for name in check.columns if name not in columns), "")
        made.append(Prepared(check, None if lacks else MAKERS[check.kind](check), lacks))
    return tuple(made)


def look(checks: Sequence[Prepared], rows: TableRows) -> list[Any]:
    """What each check sees in some rows, on a worker."""
    return [one.kind.look(rows) if one.kind else None for one in checks]


class Checks:
    """The checks of a run.

    Parameters
    ----------
    checks
        The checks.
    """

    def __init__(self, checks: Sequence[Prepared]) -> None:
        self._checks = checks
        self._states = [one.kind.begin() if one.kind else None for one in checks]

    def add(self, seen: Sequence[Any]) -> None:
        """Take what `look` gave of a batch; those of a source come in order."""
        for state, one in zip(self._states, seen, strict=True):
            if state:
                state.add(one)

    def results(self, sources: Sequence[SourceSummary]) -> tuple[list[CheckResult], list[Problem]]:
        """What each check has found, and the problems."""
        results, problems = [], []
        for one, state in zip(self._checks, self._states, strict=True):
            check = one.check
            found = list(state.findings(sources)) if state else [_impossible(one.lacks)]
            problems += [_problem(check, finding, sources) for finding in found]
            count = sum(finding.count for finding in found)
            results.append(CheckResult(check.key, check.kind, check.severity, check.columns, count))
        return results, problems


def _impossible(lacks: str) -> Finding:
    return Finding(
        "check-impossible",
        f'the table has no column "{lacks}"',
        "correct the name in the check, or add the column to the plan",
        column=lacks,
    )


def _problem(check: Check, finding: Finding, sources: Sequence[SourceSummary]) -> Problem:
    named = f' (check "{check.name}")' if check.name else ""
    return Problem(
        check.severity,
        finding.code,
        sources[finding.source].source if finding.source >= 0 else "",
        finding.row,
        finding.column,
        finding.raw,
        finding.count,
        finding.message + named,
        finding.hint,
    )
