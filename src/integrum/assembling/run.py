"""A run: the rows of all sources that come in, through the workers to the outputs, in order, with bounded memory."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from concurrent.futures import Executor
from dataclasses import replace
from pathlib import Path
from typing import Any, TypeVar

import pyarrow as pa

from integrum.assembling.joined import Joined, usable
from integrum.assembling.worker import TableWorker
from integrum.checking.checks import prepared
from integrum.columns.table_schema import TableSchema
from integrum.engine.engine import Engine
from integrum.engine.intake import Intake
from integrum.engine.ledger import SourceSummary
from integrum.engine.matched import match
from integrum.entries import Entries
from integrum.findings import findings
from integrum.lost import Lost
from integrum.measures.accounts import SPANS
from integrum.measures.apart import ranges_apart
from integrum.measures.bad_shares import BAD_SHARES
from integrum.measures.codebook import codebook, units_of
from integrum.measures.date_orders import DATE_ORDERS
from integrum.measures.filled import FILLED
from integrum.measures.losses import lost_of
from integrum.measures.measure import KEEP_NOTHING, Context, Kept
from integrum.measures.measures import SHOWN, SOURCES, States, measures_of
from integrum.measures.missing_codes import MISSING_CODES
from integrum.measures.result import Result
from integrum.measures.set_aside import ASIDE
from integrum.measures.tables import COLUMNS, PROBLEMS
from integrum.measures.values import VALUES as SKETCHES
from integrum.record.table import RecordTable
from integrum.workers.progress import Watch
from integrum.writing.output import FILES, Output
from integrum.writing.parquet_folder import without_named

Item = TypeVar("Item")


class RunResult(Result):
    """What a run established.

    Parameters
    ----------
    tracebacks
        Of sources that failed in a way that was not foreseen, by name.
    left_empty
        Identifiers that were left empty; see `integrum.measures.losses.lost_of`.

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
        """The entries of a file."""
        if table not in self._tables:
            self._tables[table] = Entries(self._states.entries()[table])
        return self._tables[table]

    def shown(self) -> Result:
        """That part of it which an overview shows; the rest is large, and in the record."""
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
    keep: Kept = KEEP_NOTHING,
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
    joined = Joined(outputs, first.parts)
    for done in engine.results(worker.begin, states):
        if done.payload is not None:  # else only what is known of the rows is wanted
            joined.append(done.output, done.payload, done.rows, done.spans)
    values = states.of(SKETCHES)
    for column, numbers, some in values.ranges():
        for number, problem in ranges_apart(column.name, numbers.tolist(), some):
            engine.tell(number, problem)
    states.of(BAD_SHARES).check(states.of(ASIDE), values)
    problems = findings(engine.close(states, sum(states.of(SPANS).rows.values())))
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
    """Enter what measures say of each source in a column of their own."""
    told = [
        (measure.source_column.name, state)
        for measure, state in zip(states.measures, states, strict=True)
        if measure.source_column
    ]
    for number, summary in enumerate(summaries):
        for name, state in told:
            summary.figures[name] = state.of_source(number)
