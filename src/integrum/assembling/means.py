"""What a worker needs to do the jobs of a run, and how its rows come back: with the result, or in part files."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from functools import partial
from pathlib import Path

from integrum.assembling.job import Batch, assemble_batch
from integrum.assembling.schema import Schema
from integrum.assembling.taking import take_over
from integrum.checking.checks import Prepared
from integrum.engine.job import Job
from integrum.engine.taken import TakenJob
from integrum.writing.part_files import PartFiles

Work = Callable[[Job | TakenJob], Batch]


@dataclass(frozen=True)
class Means:
    """What all jobs of a run need.

    Attributes
    ----------
    schema, checks
        The table, and the checks of its rows.
    folder
        Where part files go; None: the rows come back with the results.
    kind
        How the output takes part files; see `integrum.writing.part_files`.
    columns
        The columns of finished files, by output.
    """

    schema: Schema
    checks: Sequence[Prepared]
    folder: Path | None = None
    kind: str = ""
    columns: Mapping[str, Sequence[str]] = field(default_factory=dict)

    @contextmanager
    def begin(self) -> Iterator[Work]:
        """Open what some jobs need that are done in a row."""
        if self.folder is None:
            yield self._work
            return
        with PartFiles(self.folder, self.kind, self.columns) as files:
            yield partial(self._work_into, files)

    def _work(self, job: Job | TakenJob) -> Batch:
        """Do a job: read sources, or take rows over that were written before."""
        if isinstance(job, TakenJob):
            return take_over(job, self.schema, self.checks)
        return assemble_batch(job, self.schema, self.checks)

    def _work_into(self, files: PartFiles, job: Job | TakenJob) -> Batch:
        batch = self._work(job)
        if batch.payload is None:
            return batch
        return replace(batch, payload=files.add(batch.output, batch.payload, batch.rows))
