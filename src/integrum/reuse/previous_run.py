"""The run before: whether its rows can be taken over, and what would be lost."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from concurrent.futures import Executor
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path

import numpy as np
import pyarrow as pa

from integrum.errors import IntegrumError, OutputError
from integrum.intake.intake import CannotTake
from integrum.measures.measures import MANIFEST_SINCE
from integrum.plan.dataset import Dataset
from integrum.plan.plan import Plan
from integrum.plan.toml import moved
from integrum.problems.problem import first_few, near
from integrum.publish.write import changed_in
from integrum.record.run_file import SCHEMA, is_record
from integrum.remote.addresses import joined
from integrum.results.changes import Changes
from integrum.results.read import Record, is_as_written, read_record
from integrum.sources.source import Source
from integrum.version import __version__
from integrum.workers.pool import ahead
from integrum.writing.output import suffix_of
from integrum.writing.parquet_folder import is_in_folder
from integrum.writing.parts import SUFFIXES

_NAMED = 3
_FEW, _MOST = 64, 16 << 20


@dataclass(frozen=True)
class PreviousRun:
    """An earlier run to the same place, and why its rows cannot be used where they cannot."""

    record: Record | None = None  # its record; None when there is none that can be read
    # why its rows cannot be taken over; empty when they can, or when there was no earlier run
    why_not: str = ""
    trusts_times: bool = False  # whether a file of the same size and time of change counts as unchanged
    # whether the same source gives the same rows: plan and versions are unchanged
    same_plan: bool = False
    has_table: bool = False  # whether the earlier table is as that run left it
    has_record: bool = (
        False  # whether its record is as that run left it; one of an earlier version does not show it
    )
    remarks: tuple[str, ...] = ()  # what is different besides the sources: the plan, the record, the table

    # size and time of change (ns) of the tables that are there, before they were looked at
    states: tuple[tuple[Path, int, int], ...] = ()

    def check_tables(self) -> None:
        """Make sure that the tables have not changed meanwhile.

        Raises CannotTake when one has changed meanwhile.
        """
        for path, size, modified in self.states:
            if _state_of(path) != (path, size, modified):
                raise CannotTake(f"{near(path)} changed while it was read")

    @property
    def is_good(self) -> bool:
        """Whether rows can be taken over."""
        return self.record is not None and not self.why_not


def plan_of(record: Record) -> Plan:
    """The plan of a record, its paths absolute."""
    folder = record.folder
    return moved(record.plan, {}, partial(joined, folder))[0]


def previous_run_of(
    folder: Path,
    plan: Plan,
    outputs: Sequence[Path] | None,
    guarded: bool,
    trusts_times: bool = False,
) -> PreviousRun:
    """Read the record of an earlier run, and find out whether its rows can be taken over.

    Parameters
    ----------
    plan
        The plan of the run at hand, its paths absolute.
    outputs
        Where it is going to write; None when that does not matter.
    trusts_times
        Whether size and time of change stand for the content of a file.
    """
    if not is_record(folder):
        return PreviousRun()
    try:
        record = read_record(folder)
        states = tuple(_state_of(one.path) for one in record.outputs)
        differs = _differs(record, plan, guarded)
        files, table = _changed_files(record), _changed_outputs(record, trusts_times)
        why = differs or _cannot_take(record, outputs) or files or table
    except IntegrumError as error:
        return PreviousRun(None, str(error))
    except (KeyError, TypeError, ValueError, OSError, RecursionError) as error:
        return PreviousRun(None, f"{near(folder)} is not a complete record: {error}")
    checks = "" if differs or plan_of(record).checks == plan.checks else "the checks of the plan have changed"
    remarks = tuple(one for one in (differs, checks, files, table) if one)
    return PreviousRun(record, why, trusts_times, not differs, not table, not files, remarks, states)


def _state_of(path: Path) -> tuple[Path, int, int]:
    try:
        state = path.stat()
    except OSError:
        return path, -1, -1
    return path, state.st_size, state.st_mtime_ns


def _differs(record: Record, plan: Plan, guarded: bool) -> str:
    """Why the same source may give other rows than in the earlier run; empty where it cannot."""
    run = record.run
    if run.schema != SCHEMA:
        return "the record was written by an earlier version of Integrum"
    made_with = {"Integrum": run.version, "pyarrow": run.pyarrow, "numpy": run.numpy}
    for name, here in (("Integrum", __version__), ("pyarrow", pa.__version__), ("numpy", np.__version__)):
        if made_with[name] != here:
            return f"the last run used {name} {made_with[name]}, this one uses {here}"
    if run.code or any(column.read is not None for column in plan.columns):
        return "the plan has functions of your own"
    # what the checks and the title say changes no row
    before, now = (replace(one, checks=(), dataset=Dataset()) for one in (plan_of(record), plan))
    if before != now:
        return "the plan has changed"
    if record.is_guarded != guarded:
        return "cells are guarded against formulas in only one of the two runs"
    return ""


def _cannot_take(record: Record, outputs: Sequence[Path] | None) -> str:
    there = {one.path for one in record.outputs}
    if outputs is not None and not there.issuperset(outputs) and len(outputs) == 1:
        return f"the record is not that of {near(outputs[0])}"
    if any(is_in_folder(path) and path.is_dir() for path in there):
        return "rows are not taken over from a folder of Parquet files"
    other = next((path for path in there if suffix_of(path) not in SUFFIXES), None)
    if other:
        *some, last = SUFFIXES
        return f"rows are only taken over from {', '.join(some)} and {last}, and not from {suffix_of(other)}"
    return ""


def _changed_files(record: Record) -> str:
    """Whether a file of a record has been changed since the run."""
    changed = (
        changed_in(record.folder, record.run.manifest_blake3) if record.run.schema >= MANIFEST_SINCE else []
    )
    return f"{changed[0]} in the record has changed" if changed else ""


def _changed_outputs(record: Record, trusts_times: bool) -> str:
    for one in record.outputs:
        if not is_as_written(one, trusts_times):
            return f"{near(one.path)} is not as the last run left it"
    return ""


def refuse_loss(previous: PreviousRun, changes: Changes | None, unclear: str, there: Sequence[Path]) -> None:
    """Refuse a run after which a row of the last table could be changed or gone.

    Raises OutputError: naming the first sources of which rows would change.

    Parameters
    ----------
    changes
        What has changed since; None when there was no run before, or none that can be compared with.
    unclear
        Why it cannot be compared with.
    there
        Outputs that are there.
    """
    if changes is None and not previous.why_not and not unclear and not there:
        return  # there are no old rows
    is_older = previous.record is not None and previous.record.run.schema != SCHEMA
    why = unclear or ("" if changes and not is_older else previous.why_not)
    if not why and changes is None:
        why = f"{near(there[0])} is there, and no record says what is in it"
    if not why and not previous.has_table:
        why = "the table is not as the last run left it"
    if why or changes is None:
        raise OutputError(f"nothing was written, as old rows cannot be compared (--only-add): {why}")
    if changes.keeps_rows:
        return
    lost = [f"{one.source} ({one.kind}: {one.said})" for one in changes.sources if not one.keeps_rows]
    lost += [f"column {name}" for name in (*changes.new_columns, *changes.lost_columns)]
    raise OutputError(
        "nothing was written, as rows of the last table would change or go (--only-add): "
        f"{first_few(lost, _NAMED)}; integrum changes lists them"
    )


def contents(sources: Sequence[Source], executor: Executor) -> list[str]:
    """The content hash of each source; empty where it cannot be read, or changed meanwhile.

    Returns BLAKE3, 256 bits, in hexadecimal; of a sheet that of its cells.
    """
    return [one for some in ahead(executor, _contents, _handfuls(sources)) for one in some]


def _handfuls(sources: Sequence[Source]) -> Iterator[list[Source]]:
    some: list[Source] = []
    size = 0
    for source in sources:
        if some and (len(some) >= _FEW or size + source.size > _MOST):
            yield some
            some, size = [], 0
        some.append(source)
        size += source.size
    if some:
        yield some


def _contents(sources: Sequence[Source]) -> list[str]:
    return [_content(source) for source in sources]


def _content(source: Source) -> str:
    try:
        content = source.content()
    except Exception:  # the run that follows says what is wrong with it
        return ""
    return "" if source.has_changed() else content
