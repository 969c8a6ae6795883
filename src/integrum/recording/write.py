"""The record: the files beside an output that document the run it came from."""

from __future__ import annotations

import csv
import json
import os
import platform
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from datetime import UTC, datetime
from importlib.metadata import version
from pathlib import Path
from typing import Any

import pyarrow as pa

from integrum.assembling.job import Aside
from integrum.assembling.run import Described, Ran
from integrum.engine.ledger import PARTS, Account
from integrum.plan.model import Plan
from integrum.plan.toml import Remarks, write_plan
from integrum.problems import SEVERITIES, Problem, number_of
from integrum.sources.own import MARK, RUN_FILE

PLAN, SOURCES, PROBLEMS, SET_ASIDE = "plan.toml", "sources.csv", "problems.csv", "set-aside.csv"
COLUMNS, PREAMBLE = "columns.csv", "preamble.csv"
FILES = (PLAN, SOURCES, PROBLEMS, SET_ASIDE, COLUMNS, PREAMBLE, RUN_FILE)

_SOURCE_KEYS = (
    "source",
    "sheet",
    "label",
    "group",
    "status",
    "reason",
    "bytes",
    "blake2b",
    "variant",
    "rows",
    *PARTS,
)
_PROBLEM_KEYS = ("severity", "code", "source", "row", "column", "raw", "count", "message", "hint")
_COLUMN_KEYS = ("column", "type", "unit", "filled", "sources", "headers")
_PREAMBLE_KEYS = ("source", "row", "key", "value")
_ASIDE_KEYS = ("source", "row", "column", "code", "raw")


@contextmanager
def aside_file(folder: Path) -> Iterator[Callable[[str, Sequence[Aside]], None]]:
    """Open the record's file of what was set aside; gives a function that writes there as it comes."""
    with open(folder / SET_ASIDE, "w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(_ASIDE_KEYS)

        def keep(source: str, entries: Sequence[Aside]) -> None:
            writer.writerows([source, one.row, one.column, one.code, one.raw] for one in entries)

        yield keep


def write_record(
    folder: Path,
    final: Path,
    plan: Plan,
    remarks: Remarks,
    ran: Ran,
    output: Path | None,
    size: int,
    base: Path,
    started: datetime,
    guarded: bool = False,
) -> None:
    """Write all of a record but the rows that were set aside, which `aside_file` wrote during the run.

    Parameters
    ----------
    folder
        Where to write.
    final
        Where the record will lie; paths inside are relative to it.
    plan
        The plan as used, its paths absolute.
    remarks
        The evidence, when the plan was drafted on the fly.
    ran
        What the run established.
    output, size
        Where the output will lie, and its bytes.
    base
        The common folder of the sources.
    started
        When the run began.
    guarded
        Whether the output was guarded against formulas.
    """
    near = _near(plan, final)
    (folder / PLAN).write_text(write_plan(near, remarks), encoding="utf-8")
    for name, (keys, rows) in tables(ran).items():
        _rows(folder / f"{name}.csv", keys, rows)
    _rows(folder / PREAMBLE, _PREAMBLE_KEYS, ran.preamble)
    about = _about(ran, started) | {
        "output": _relative(output, final) if output else None,
        "output_bytes": size,
        "guard_formulas": guarded,
        "common_folder": _relative(base, final),
    }
    (folder / RUN_FILE).write_text(json.dumps(about, indent=2, ensure_ascii=False) + "\n", encoding="utf-8")


def tables(ran: Ran) -> dict[str, tuple[Sequence[str], list[list[object]]]]:
    """The tables about a run by name: the header and the rows of each."""
    return {
        "sources": (_SOURCE_KEYS, [_source_row(account) for account in ran.accounts]),
        "problems": (_PROBLEM_KEYS, [_problem_row(problem) for problem in ran.problems]),
        "columns": (_COLUMN_KEYS, [_column_row(column) for column in ran.columns]),
    }


def _about(ran: Ran, started: datetime) -> dict[str, Any]:
    assembled = sum(account.status == "assembled" for account in ran.accounts)
    return {
        "made_by": MARK,
        "version": version("integrum"),
        "python": platform.python_version(),
        "pyarrow": pa.__version__,
        "started": started.isoformat(timespec="seconds"),
        "seconds": round((datetime.now(UTC) - started).total_seconds(), 3),
        "rows": ran.rows,
        "columns": [{"name": each.name, "type": str(each.type)} for each in ran.shape.schema],
        "sources": {
            "found": len(ran.accounts),
            "assembled": assembled,
            "set_aside": len(ran.accounts) - assembled,
        },
        "problems": {severity: number_of(severity, ran.problems) for severity in SEVERITIES},
    }


def _near(plan: Plan, folder: Path) -> Plan:
    """The plan with its places seen from the record, so that it can be run from there."""
    return replace(
        plan,
        sources=[
            replace(group, find=[_relative(Path(place), folder) for place in group.find])
            for group in plan.sources
        ],
    )


def _relative(path: Path, folder: Path) -> str:
    try:
        return Path(os.path.relpath(path, folder)).as_posix()
    except ValueError:  # another drive
        return path.as_posix()


def _source_row(account: Account) -> list[object]:
    ledger = account.ledger
    return [
        account.source,
        account.sheet,
        account.label,
        account.group,
        account.status,
        account.reason,
        account.size,
        account.content,
        account.variant or "",
        ledger.rows,
        *(getattr(ledger, part) for part in PARTS),
    ]


def _column_row(column: Described) -> list[object]:
    headers = "; ".join(f"{header} ({count})" for header, count in column.headers.items())
    return [column.name, column.type, column.unit, column.filled, column.sources, headers]


def _problem_row(problem: Problem) -> list[object]:
    return [getattr(problem, key) for key in _PROBLEM_KEYS]


def _rows(path: Path, keys: Sequence[str], rows: Iterable[Sequence[object]]) -> None:
    with open(path, "w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(keys)
        writer.writerows(rows)
