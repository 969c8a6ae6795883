"""One output of a run with its record, from the moment they are opened beside their places."""

from __future__ import annotations

import sys
from collections.abc import Sequence
from contextlib import ExitStack
from datetime import datetime
from pathlib import Path

from integrum.assembling.job import Aside
from integrum.assembling.run import KeepAside, Ran, Target
from integrum.plan.model import Plan
from integrum.plan.toml import Remarks
from integrum.recording.outcome import Outcome
from integrum.recording.swap import together
from integrum.recording.write import FILES, aside_file, tables, write_record
from integrum.writing.csv import CsvOutput
from integrum.writing.formats import file_output, loader
from integrum.writing.memory import MemoryOutput
from integrum.writing.output import Documented, Output


class RecordedOutput:
    """One output of a run, with its record when there is one.

    Parameters
    ----------
    path
        Where the output shall lie; ``""`` when it is no file.
    record
        Where the record shall lie, if there shall be one.
    to
        What the caller asked for: None keeps the table in memory.
    guarded
        Whether CSV is guarded against formulas.
    """

    def __init__(self, path: str, record: Path | None, to: str | None, guarded: bool) -> None:
        self._path, self._record, self._to = Path(path) if path else None, record, to
        self._guarded = guarded
        self._memory, self._kept = MemoryOutput(), _Kept()

    def open(self, stack: ExitStack) -> None:
        """Open everything; when the stack ends well, output and record appear."""
        self._beside = stack.enter_context(together(self._path, self._record, FILES))
        self._files = stack.enter_context(ExitStack())
        self._output: Output = self._memory
        if self._path and self._beside.output:
            self._output = self._files.enter_context(
                file_output(self._path, self._beside.output, self._guarded)
            )
        elif self._to is not None:
            self._output = CsvOutput(sys.stdout.buffer, self._guarded)
        self._aside: KeepAside = self._kept
        if self._beside.record:
            self._aside = self._files.enter_context(aside_file(self._beside.record))

    def target(self) -> Target:
        """What the run writes to."""
        return Target(self._output, self._aside)

    def write_record(self, plan: Plan, remarks: Remarks, ran: Ran, base: Path, started: datetime) -> None:
        """Close the files, and write the record when there is one."""
        if isinstance(self._output, Documented):
            self._output.document(tables(ran))
        self._files.close()
        if self._beside.record and self._record:
            size = self._beside.output.stat().st_size if self._beside.output else 0
            place, final, output = self._beside.record, self._record, self._path
            guarded = self._guarded
            write_record(place, final, plan, remarks, ran, output, size, base, started, guarded)

    def outcome(self, plan: Plan, ran: Ran) -> Outcome:
        """What is given back."""
        schema = ran.shape.schema
        load = (
            self._memory.table
            if self._to is None
            else loader(self._path, schema, self._guarded)
            if self._path
            else None
        )
        return Outcome(
            plan,
            tuple(ran.accounts),
            tuple(ran.problems),
            schema,
            ran.rows,
            self._path,
            self._record,
            tuple(self._kept.entries),
            _load=load,
        )


class _Kept:
    """Keeps what was set aside in memory, for runs without a record."""

    def __init__(self) -> None:
        self.entries: list[tuple[str, Aside]] = []

    def __call__(self, source: str, entries: Sequence[Aside]) -> None:
        self.entries += [(source, one) for one in entries]


def record_of(target: Path | None) -> Path | None:
    """Where the record of an output lies when no other place is said."""
    return target.with_name(f"{target.stem}-record") if target else None
