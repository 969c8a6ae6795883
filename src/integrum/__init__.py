"""Integrum: many delimited files become one table that can be trusted.

`survey` looks at every source, `draft` writes what it saw into a plan, `assemble` does what the plan says.
"""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from integrum.assembling.ledger import Account, Ledger
    from integrum.assembling.outcome import Outcome
    from integrum.calls import assemble, draft, look, survey
    from integrum.drafting import Draft
    from integrum.errors import (
        IntegrumError,
        LedgerError,
        NothingFound,
        OutputError,
        PlanError,
        SourceChanged,
    )
    from integrum.layout import Layout
    from integrum.plan import Column, Plan, Provenance, Rules, Sources
    from integrum.planfile import parse_plan, read_plan, write_plan
    from integrum.problems import Problem
    from integrum.surveying.findings import Survey

__version__ = "0.1.0"

# public name -> the module it lives in; loaded when first used, so that the command line starts at once
_HOMES = {
    "Account": "assembling.ledger",
    "Column": "plan",
    "Draft": "drafting",
    "IntegrumError": "errors",
    "Layout": "layout",
    "Ledger": "assembling.ledger",
    "LedgerError": "errors",
    "NothingFound": "errors",
    "Outcome": "assembling.outcome",
    "OutputError": "errors",
    "Plan": "plan",
    "PlanError": "errors",
    "Problem": "problems",
    "Provenance": "plan",
    "Rules": "plan",
    "SourceChanged": "errors",
    "Sources": "plan",
    "Survey": "surveying.findings",
    "assemble": "calls",
    "draft": "calls",
    "look": "calls",
    "parse_plan": "planfile",
    "read_plan": "planfile",
    "survey": "calls",
    "write_plan": "planfile",
}

__all__ = [
    "Account",
    "Column",
    "Draft",
    "IntegrumError",
    "Layout",
    "Ledger",
    "LedgerError",
    "NothingFound",
    "Outcome",
    "OutputError",
    "Plan",
    "PlanError",
    "Problem",
    "Provenance",
    "Rules",
    "SourceChanged",
    "Sources",
    "Survey",
    "__version__",
    "assemble",
    "draft",
    "look",
    "parse_plan",
    "read_plan",
    "survey",
    "write_plan",
]


def __getattr__(name: str) -> Any:
    if name not in _HOMES:
        raise AttributeError(f"integrum has no {name!r}")
    value = getattr(import_module(f"integrum.{_HOMES[name]}"), name)
    globals()[name] = value
    return value


def __dir__() -> list[str]:
    return __all__
