"""Integrum: many delimited files become one table that can be trusted.

`survey` looks at every source, `draft` writes what it saw into a plan, `assemble` does what the plan says.
"""

from __future__ import annotations

import logging
import sys
from importlib import import_module
from typing import TYPE_CHECKING, Any

from integrum.version import __version__

if TYPE_CHECKING:
    from integrum.calls.changing import changes
    from integrum.calls.deposits import deposit
    from integrum.calls.drafts import draft, script
    from integrum.calls.results import overview, report
    from integrum.calls.runs import assemble
    from integrum.calls.surveys import look, survey
    from integrum.calls.traces import trace
    from integrum.calls.verifying import verify
    from integrum.drafting.answers import Settled
    from integrum.drafting.draft import Draft
    from integrum.drafting.drafted_plan import OpenGuess, OpenValue
    from integrum.drafting.page import DraftPage
    from integrum.drafting.questions import Question
    from integrum.errors import (
        ConditionError,
        ExtraNeeded,
        IntegrumError,
        LedgerError,
        NothingFound,
        OutputError,
        PlanError,
        StoppedAtFirst,
        WorkersLost,
    )
    from integrum.intake.ledger import Ledger, SourceSummary
    from integrum.measures.items import ColumnEntry
    from integrum.plan.check import Check
    from integrum.plan.column import Alike, Also, Column, Maybe
    from integrum.plan.dataset import Dataset, Person
    from integrum.plan.from_toml import parse_plan, read_plan
    from integrum.plan.layout import Layout
    from integrum.plan.merge import merge_plan
    from integrum.plan.plan import Plan
    from integrum.plan.rules import Provenance, Rules
    from integrum.plan.sources import Sources
    from integrum.plan.toml import write_plan
    from integrum.plan.wide import Wide
    from integrum.problems.codes import CODES
    from integrum.problems.found import Entries
    from integrum.problems.lost import Loss, Lost
    from integrum.problems.problem import Problem, SourceFault
    from integrum.reading.parts import LeftOutRow, SetAside
    from integrum.results.changes import CellChange, Changes, NewHeader, SourceChange
    from integrum.results.outcome import Outcome
    from integrum.results.overview import Overview
    from integrum.results.read import Record, read_record
    from integrum.results.stored_table import StoredTable, open_table
    from integrum.results.traced import Trace
    from integrum.results.verification import Verification, Verified
    from integrum.surveying.findings import ColumnSurvey, HeaderVariant
    from integrum.surveying.reconciled import ColumnGuess
    from integrum.surveying.rows import OneSource
    from integrum.surveying.view import Survey
    from integrum.workers.progress import Meter, Progress

# whoever wants to hear of it adds a handler of their own
logging.getLogger(__name__).addHandler(logging.NullHandler())

# public name -> the module it lives in; loaded when first used, so that the command line starts at once
_HOMES = {
    "Alike": "plan.column",
    "Also": "plan.column",
    "CODES": "problems.codes",
    "CellChange": "results.changes",
    "Changes": "results.changes",
    "Check": "plan.check",
    "Column": "plan.column",
    "ColumnEntry": "measures.items",
    "ColumnGuess": "surveying.reconciled",
    "ColumnSurvey": "surveying.findings",
    "ConditionError": "errors",
    "Dataset": "plan.dataset",
    "Draft": "drafting.draft",
    "Entries": "problems.found",
    "ExtraNeeded": "errors",
    "HeaderVariant": "surveying.findings",
    "IntegrumError": "errors",
    "Layout": "plan.layout",
    "Ledger": "intake.ledger",
    "LedgerError": "errors",
    "Loss": "problems.lost",
    "Lost": "problems.lost",
    "LeftOutRow": "reading.parts",
    "Maybe": "plan.column",
    "Meter": "workers.progress",
    "NewHeader": "results.changes",
    "NothingFound": "errors",
    "OneSource": "surveying.rows",
    "OpenGuess": "drafting.drafted_plan",
    "OpenValue": "drafting.drafted_plan",
    "DraftPage": "drafting.page",
    "Question": "drafting.questions",
    "Settled": "drafting.answers",
    "Outcome": "results.outcome",
    "OutputError": "errors",
    "Overview": "results.overview",
    "Person": "plan.dataset",
    "Plan": "plan.plan",
    "PlanError": "errors",
    "Problem": "problems.problem",
    "Progress": "workers.progress",
    "Provenance": "plan.rules",
    "Record": "results.read",
    "Rules": "plan.rules",
    "SetAside": "reading.parts",
    "SourceChange": "results.changes",
    "SourceFault": "problems.problem",
    "SourceSummary": "intake.ledger",
    "Sources": "plan.sources",
    "StoppedAtFirst": "errors",
    "StoredTable": "results.stored_table",
    "Survey": "surveying.view",
    "Trace": "results.traced",
    "Verification": "results.verification",
    "Verified": "results.verification",
    "Wide": "plan.wide",
    "WorkersLost": "errors",
    "assemble": "calls.runs",
    "changes": "calls.changing",
    "deposit": "calls.deposits",
    "draft": "calls.drafts",
    "look": "calls.surveys",
    "merge_plan": "plan.merge",
    "open_table": "results.stored_table",
    "overview": "calls.results",
    "parse_plan": "plan.from_toml",
    "read_plan": "plan.from_toml",
    "read_record": "results.read",
    "report": "calls.results",
    "script": "calls.drafts",
    "survey": "calls.surveys",
    "trace": "calls.traces",
    "verify": "calls.verifying",
    "write_plan": "plan.toml",
}

__all__ = [
    "CODES",
    "Alike",
    "Also",
    "CellChange",
    "Changes",
    "Check",
    "Column",
    "ColumnEntry",
    "ColumnGuess",
    "ColumnSurvey",
    "ConditionError",
    "Dataset",
    "Draft",
    "DraftPage",
    "Entries",
    "ExtraNeeded",
    "HeaderVariant",
    "IntegrumError",
    "Layout",
    "Ledger",
    "LedgerError",
    "LeftOutRow",
    "Loss",
    "Lost",
    "Maybe",
    "Meter",
    "NewHeader",
    "NothingFound",
    "OneSource",
    "OpenGuess",
    "OpenValue",
    "Outcome",
    "OutputError",
    "Overview",
    "Person",
    "Plan",
    "PlanError",
    "Problem",
    "Progress",
    "Provenance",
    "Question",
    "Record",
    "Rules",
    "SetAside",
    "Settled",
    "SourceChange",
    "SourceFault",
    "SourceSummary",
    "Sources",
    "StoppedAtFirst",
    "StoredTable",
    "Survey",
    "Trace",
    "Verification",
    "Verified",
    "Wide",
    "WorkersLost",
    "__version__",
    "assemble",
    "changes",
    "deposit",
    "draft",
    "look",
    "merge_plan",
    "open_table",
    "overview",
    "parse_plan",
    "read_plan",
    "read_record",
    "report",
    "script",
    "survey",
    "trace",
    "verify",
    "write_plan",
]


def __getattr__(name: str) -> Any:
    if name not in _HOMES:
        from integrum.plan.wrong_words import meant

        raise AttributeError(
            f"integrum has no {name!r}{meant(name, _HOMES)}", name=name, obj=sys.modules[__name__]
        )
    value = getattr(import_module(f"integrum.{_HOMES[name]}"), name)
    globals()[name] = value
    return value


def __dir__() -> list[str]:
    return __all__
