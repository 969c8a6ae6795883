"""All checks of a plan: prepared, shown each batch on its worker, and told of at the end."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from importlib import import_module
from typing import Any

from integrum.checking.kind import Finding, Kind
from integrum.checking.rows import TableRows
from integrum.engine.ledger import SourceSummary
from integrum.plan.check import NEEDS, Check
from integrum.problems import Problem

# what makes a check of each kind: a function in a file of this room, loaded when a plan has such a check
MAKERS = {
    "unique": "same_rows:unique",
    "complete": "complete:complete",
    "range": "value_range:value_range",
    "allowed": "allowed:allowed",
    "match": "pattern:pattern",
    "filled": "filled:filled",
    "rows": "counts:row_count",
    "sources": "counts:source_count",
    "steady": "steady:steady",
    "follow": "follow:follow",
    "in_one_source": "same_rows:in_one_source",
    "listed": "listed:listed",
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
    """A check, ready to be made; no kind where it cannot be made, and why."""

    check: Check
    kind: Kind | None
    why: str = ""


def prepared(checks: Sequence[Check], types: Mapping[str, str]) -> tuple[Prepared, ...]:
    """Prepare checks.

    Parameters
    ----------
    checks
        Those of a plan.
    types
        The columns of the table, with their types.

    Raises
    ------
    PlanError
        When a list cannot be read, or a pattern is none.
    """
    made = []
    for check in checks:
        absent = next((name for name in check.columns if name not in types), "")
        why = f'the table has no column "{absent}"' if absent else ""
        kind = types.get(check.column, "")
        if kind and kind not in NEEDS.get(check.kind, (kind,)):
            why = f'"{check.column}" is {kind}, and {check.kind} is for {", ".join(NEEDS[check.kind])}'
        made.append(Prepared(check, None if why else _made(check), why))
    return tuple(made)


def _made(check: Check) -> Kind:
    module, _, name = MAKERS[check.kind].partition(":")
    make: Callable[[Check], Kind] = getattr(import_module(f"integrum.checking.{module}"), name)
    return make(check)


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
            found = list(state.findings(sources)) if state else [_impossible(one)]
            problems += [_problem(check, finding, sources) for finding in found]
            count = sum(finding.found or finding.count for finding in found)
            results.append(CheckResult(check.key, check.kind, check.severity, check.columns, count))
        return results, problems


def _impossible(one: Prepared) -> Finding:
    return Finding(
        "check-impossible",
        f"the check cannot be made: {one.why}",
        "fix the check, or add the column to the plan",
        column=one.check.column,
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
