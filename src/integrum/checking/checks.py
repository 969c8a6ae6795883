"""The checks of a plan, made ready."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from importlib import import_module

from integrum.checking.kind import Kind
from integrum.plan.check import NEEDS, Check

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
class PreparedCheck:
    """A check, ready to be made; no kind where it cannot be made, and why."""

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
        made.append(PreparedCheck(check, None if why else _made(check), why))
    return tuple(made)


def _made(check: Check) -> Kind:
    module, _, name = MAKERS[check.kind].partition(":")
    make: Callable[[Check], Kind] = getattr(import_module(f"integrum.checking.{module}"), name)
    return make(check)
