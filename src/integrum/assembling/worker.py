"""What a worker needs to make rows of a table, and how they come back: with the result, or in part files."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from integrum.assembling.batch import made_of
from integrum.columns.table_schema import TableSchema
from integrum.engine.job import Done, Job
from integrum.measures.measure import Measure, Recalled
from integrum.writing.output import Pack
from integrum.writing.part_files import PartFiles


@dataclass(frozen=True)
class TableWorker:
    """Makes rows of a table."""

    schema: TableSchema
    measures: Sequence[Measure[Any, Any, Any]]  # what is found out on the way
    # whether the output takes canonical text, or Arrow types; and what turns a batch into what it appends
    as_text: bool
    pack: Pack
    folder: Path | None = None  # where part files go; None: the rows come back with the results
    kind: str = ""  # how the output takes part files; see `integrum.writing.part_files`
    # the columns of finished files, by output
    columns: Mapping[str, Sequence[str]] = field(default_factory=dict)
    files: PartFiles | None = None  # the part files that are open

    @contextmanager
    def begin(self) -> Iterator[TableWorker]:
        """Open what some tasks need that are done in a row."""
        if self.folder is None:
            yield self
            return
        with PartFiles(self.folder, self.kind, self.columns) as files:
            yield replace(self, files=files)

    def read(self, job: Job) -> Done:
        """Read some pieces of sources."""
        made, payload = made_of(job, self.schema, self.as_text, self.pack)
        seen = [measure.look(made) for measure in self.measures]
        return self._done(
            Done(seen, made.first, made.read, job.output, payload, made.table.num_rows, made.spans)
        )

    def recall(self, earlier: Recalled, payload: Any) -> Done:
        """Take rows over that were written before; without a payload only what is known of them is wanted."""
        seen = [measure.recall(earlier) for measure in self.measures]
        rows = sum(rows for _, rows, _ in earlier.spans)
        return self._done(Done(seen, earlier.first, rows, earlier.output, payload, rows, earlier.spans))

    def _done(self, done: Done) -> Done:
        if self.files is None or done.payload is None:
            return done
        return replace(done, payload=self.files.add(done.output, done.payload, done.rows))
