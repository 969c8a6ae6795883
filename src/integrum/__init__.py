"""Integrum: many delimited files become one table that can be trusted.

`survey` looks at every source, `draft` writes what it saw into a plan, `assemble` does what the plan says.
"""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from integrum.calls import assemble, draft, look, survey
    from integrum.drafting.draft import Draft
    from integrum.engine.ledger import Account, Ledger
    from integrum.errors import (
        IntegrumError,
        LedgerError,
        NothingFound,
        OutputError,
        PlanError,
        SourceChanged,
    )
    from integrum.plan.layout import Layout
    from integrum.plan.model import Column, Plan, Provenance, Rules, Sources
    from integrum.plan.toml import parse_plan, read_plan, write_plan
    from integrum.problems import Problem
    from integrum.recording.outcome import Outcome
    from integrum.surveying.findings import Survey

__version__ = "0.1.0"

# public name -> the module it lives in; loaded when first used, so that the command line starts at once
_HOMES = {
    "Account": "engine.ledger",
    "Column": "plan.model",
    "Draft": "drafting.draft",
    "IntegrumError": "errors",
    "Layout": "plan.layout",
    "Ledger": "engine.ledger",
    "LedgerError": "errors",
    "NothingFound": "errors",
    "Outcome": "recording.outcome",
    "OutputError": "errors",
    "Plan": "plan.model",
    "PlanError": "errors",
    "Problem": "problems",
    "Provenance": "plan.model",
    "Rules": "plan.model",
    "SourceChanged": "errors",
    "Sources": "plan.model",
    "Survey": "surveying.findings",
    "assemble": "calls",
    "draft": "calls",
    "look": "calls",
    "parse_plan": "plan.toml",
    "read_plan": "plan.toml",
    "survey": "calls",
    "write_plan": "plan.toml",
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
