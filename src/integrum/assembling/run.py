"""A run: the rows of all sources that come in, through the workers to the outputs, in order, with bounded memory."""

from __future__ import annotations

import secrets
from collections.abc import Iterable, Iterator, Mapping, Sequence
from concurrent.futures import Executor
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any, TypeVar

import pyarrow as pa

from integrum.assembling.batch import made_of
from integrum.columns.table_schema import TableSchema
from integrum.dispatch.engine import Engine
from integrum.dispatch.job import Job, TaskResult
from integrum.dispatch.spreading import is_there
from integrum.errors import OutputError
from integrum.intake.intake import Intake
from integrum.intake.ledger import SourceSummary
from integrum.intake.matched import match
from integrum.measures.accounts import SPANS
from integrum.measures.checks import prepared
from integrum.measures.codebook import codebook, units_of
from integrum.measures.filled import BAD_SHARES, DATE_ORDERS, FILLED
from integrum.measures.measure import KEEP_NOTHING, Context, Measure, Recalled, RecordSink
from integrum.measures.measures import SHOWN, SOURCES, States, measures_of
from integrum.measures.missing_codes import MISSING_CODES
from integrum.measures.outlying import outlying_ranges
from integrum.measures.result import Result, lost_of
from integrum.measures.set_aside import ASIDE
from integrum.measures.tables import COLUMNS, PROBLEMS
from integrum.measures.values import VALUES as SKETCHES
from integrum.problems.found import Entries, findings
from integrum.problems.lost import Lost
from integrum.record.table import RecordTable
from integrum.workers.pool import on_every_worker, shares_memory
from integrum.workers.progress import Watch
from integrum.writing.output import FILES, Output, Pack, Spans
from integrum.writing.parquet_folder import without_named
from integrum.writing.part_files import PartFiles, PartRef, forget_parts, payload_of, remove

Item = TypeVar("Item")


def usable(folder: Path | None, executor: Executor, in_files: bool) -> Path | None:
    """The folder for part files, if the workers reach it; else None.

    Raises OutputError when the output needs them, and there are workers that do not reach the folder.
    """
    if folder is None or shares_memory(executor):
        return folder if in_files else None
    mark = folder / secrets.token_hex(8)
    mark.touch(exist_ok=False)
    try:
        if all(on_every_worker(executor, is_there, str(mark))):
            return folder
    finally:
        mark.unlink()
    if in_files:
        raise OutputError(
            f"{folder.parent} is not there for all workers, but they write the files of the table; give a place that "
            "all of them reach"
        )
    return None


class OutputWriter:
    """Appends payloads to their outputs, and deletes part files that are used up."""

    def __init__(self, outputs: Mapping[str, Output], kind: str) -> None:
        self._outputs, self._kind = outputs, kind
        self._at: dict[str, Path] = {}

    def append(self, output: str, payload: Any, rows: int, spans: Spans) -> None:
        """Append the next payload to an output, with the sources of its rows."""
        if isinstance(payload, PartRef) and self._kind != FILES:
            before = self._at.get(output)
            if before is not None and before != payload.place:
                remove(before)
            self._at[output] = payload.place
            payload = payload_of(payload, self._kind)
        self._outputs[output].append(payload, rows, spans)

    def close(self) -> None:
        """Delete the last part files."""
        forget_parts()
        for place in self._at.values():
            remove(place)


@dataclass(frozen=True)
class TableWorker:
    """Makes rows of the table on a worker."""

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
        """Open what consecutive jobs share."""
        if self.folder is None:
            yield self
            return
        with PartFiles(self.folder, self.kind, self.columns) as files:
            yield replace(self, files=files)

    def read(self, job: Job) -> TaskResult:
        """Do a job."""
        made, payload = made_of(job, self.schema, self.as_text, self.pack)
        seen = [measure.look(made) for measure in self.measures]
        return self._done(
            TaskResult(seen, made.first, made.read, job.output, payload, made.table.num_rows, made.spans)
        )

    def recall(self, earlier: Recalled, payload: Any) -> TaskResult:
        """Take over rows that were written before. Without a payload only the figures are wanted."""
        seen = [measure.recall(earlier) for measure in self.measures]
        rows = sum(rows for _, rows, _ in earlier.spans)
        return self._done(TaskResult(seen, earlier.first, rows, earlier.output, payload, rows, earlier.spans))

    def _done(self, done: TaskResult) -> TaskResult:
        if self.files is None or done.payload is None:
            return done
        return replace(done, payload=self.files.add(done.output, done.payload, done.rows))


class RunResult(Result):
    """What a run has established.

    Parameters
    ----------
    tracebacks
        Of sources that failed in a way that was not foreseen, by name.
    left_empty
        Identifiers that were left empty; see `integrum.measures.result.lost_of`.

    Attributes
    ----------
    rows
        Rows by output.
    other_orders
        By source, column and order: dates that could only be read in another order of day and month than the plan's.
    """

    def __init__(
        self,
        schema: TableSchema,
        states: States,
        tables: Mapping[RecordTable[Any], Entries[Any]],
        tracebacks: Mapping[str, str],
        lost: Lost,
        left_empty: Mapping[str, Mapping[str, str]],
    ) -> None:
        super().__init__(schema.names, tables, lost)
        self.schema, self.tracebacks, self._states = schema, tracebacks, states
        self.left_empty = left_empty
        self.rows: Mapping[str, int] = states.of(SPANS).rows
        self.other_orders = states.of(DATE_ORDERS).found

    def all_of(self, table: RecordTable[Item]) -> Entries[Item]:
        """The entries of a file of the record."""
        if table not in self._tables:
            self._tables[table] = Entries(self._states.entries()[table])
        return self._tables[table]

    def shown(self) -> Result:
        """The part that an overview shows."""
        return Result(self.names, {table: self.all_of(table) for table in SHOWN}, self.lost)

    def entries(self) -> Iterator[tuple[RecordTable[Any], Iterable[Any]]]:
        """The files of the record that are not written during the run, with their entries."""
        yield from {**self._states.entries(), **self._tables}.items()

    def values(self) -> Iterator[pa.Table]:
        """The lines of ``values.csv``; see `ValuesBySource.lines`."""
        others = {
            measure.value_column.name: state.of_values
            for measure, state in zip(self._states.measures, self._states, strict=True)
            if measure.value_column
        }
        return self._states.of(SKETCHES).lines(others)


def run(
    intake: Intake,
    outputs: Mapping[str, Output],
    executor: Executor,
    keep: RecordSink = KEEP_NOTHING,
    watch: Watch | None = None,
    in_flight: int = 0,
    parts: Path | None = None,
) -> RunResult:
    """Assemble the sources as the plan says.

    Raises LedgerError when rows in are not rows out.

    Parameters
    ----------
    outputs
        By name; all take text, or all take Arrow types. Each is finished at the end, not closed.
    executor
        Where the work is done; batches leave in order whichever it is.
    watch
        Is called with the name of the source at hand, the bytes done and the bytes in all.
    in_flight
        Bytes of sources that may be under work at one time; 0: one piece for each worker, and one more.
    parts
        A folder for the files that workers write; None: the rows come back with the results.
    """
    plan = intake.plan.for_sheets(any(source.sheet for source in intake.sources))
    first = next(iter(outputs.values()))
    in_files = first.parts == FILES
    parts = usable(parts, executor, in_files)
    matched = match(replace(intake, plan=plan))
    engine = Engine(matched, executor, watch, in_flight, parts, in_files)
    schema = TableSchema(matched.columns, plan.provenance, units_of(matched))
    intake.reuse.check(schema.arrow)
    types = {column.name: column.type for column in schema.columns}
    checks = prepared(plan.checks, {**dict.fromkeys(schema.names, "text"), **types})
    begun = {name: output.begin(schema) for name, output in outputs.items()}
    context = Context(matched, engine.summaries, engine.inspections, schema, keep, begun)
    states = States(measures_of(checks), context)
    columns = {name: without_named(schema.names, Path(name)) for name in outputs} if in_files else {}
    worker = TableWorker(schema, states.measures, first.as_text, first.pack, parts, first.parts, columns)
    joined = OutputWriter(outputs, first.parts)
    for done in engine.results(worker.begin):
        states.take(done)
        if done.payload is not None:  # else only what is known of the rows is wanted
            joined.append(done.output, done.payload, done.rows, done.spans)
    states.finish()
    values = states.of(SKETCHES)
    for column, numbers, some in values.ranges():
        for number, problem in outlying_ranges(column.name, numbers.tolist(), some):
            engine.tell(number, problem)
    states.of(BAD_SHARES).check(states.of(ASIDE), values)
    problems = findings(states.problems(engine.close(sum(states.of(SPANS).rows.values()))))
    joined.close()
    for output in outputs.values():
        output.finish()
    _enter_figures(engine.summaries, states)
    missing = states.of(MISSING_CODES).by_column
    described = codebook(matched, engine.summaries, states.of(FILLED).counts, missing, values.reaches())
    tables: dict[RecordTable[Any], Entries[Any]] = {
        SOURCES: Entries(engine.summaries),
        PROBLEMS: problems,
        COLUMNS: Entries(described),
    }
    tracebacks = {
        intake.sources[number].name: seen.fault.trace
        for number, seen in engine.inspections.items()
        if seen.fault and seen.fault.trace
    }
    left_empty = {
        source.name: one.left_empty
        for source, one in zip(intake.sources, intake.identified, strict=True)
        if one.left_empty
    }
    lost = lost_of(engine.summaries, problems, plan, left_empty)
    return RunResult(schema, states, tables, tracebacks, lost, left_empty)


def _enter_figures(summaries: Iterable[SourceSummary], states: States) -> None:
    """Enter the figures of the measures into the summaries of the sources."""
    told = [
        (measure.source_column.name, state)
        for measure, state in zip(states.measures, states, strict=True)
        if measure.source_column
    ]
    for number, summary in enumerate(summaries):
        for name, state in told:
            summary.figures[name] = state.of_source(number)
