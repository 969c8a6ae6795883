"""A run: the rows of all sources that come in, through the workers to the outputs, in order, with bounded memory."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from concurrent.futures import Executor
from dataclasses import dataclass, field, replace
from functools import partial
from itertools import chain, groupby
from pathlib import Path

import pyarrow as pa

from integrum.assembling.categories import Categories, MissingCodes
from integrum.assembling.codebook import ColumnEntry, codebook, converted_units, units_of
from integrum.assembling.ends import EndRow, Ends
from integrum.assembling.job import Batch
from integrum.assembling.joined import Joined, usable
from integrum.assembling.means import Means
from integrum.assembling.row_runs import RowRun, RowRuns
from integrum.assembling.schema import Schema
from integrum.assembling.sketches import Sketches
from integrum.assembling.taking import folded
from integrum.checking.checks import CheckResult, Checks, prepared
from integrum.columns.header import Header
from integrum.columns.table_schema import TableSchema
from integrum.engine.apart import tell_apart
from integrum.engine.engine import Engine
from integrum.engine.failing import of_source
from integrum.engine.headers import HeaderEntry, header_entries
from integrum.engine.intake import Intake
from integrum.engine.ledger import SourceSummary
from integrum.engine.taken import CannotTake, TakenOver
from integrum.entries import Entries
from integrum.findings import findings
from integrum.problems import Problem
from integrum.reading.aside import SetAside
from integrum.reading.blocks import Blocks
from integrum.reading.head import Head, read_above
from integrum.reading.left_out import LeftOutRow
from integrum.reading.parts import BESIDE, SET_ASIDE, Part
from integrum.reading.preamble import PreambleEntry
from integrum.workers.progress import Watch
from integrum.writing.output import FILES, Output
from integrum.writing.parquet_folder import without_named

# so many rows above the data of one source are handed on at once
_TOGETHER = 5_000


@dataclass(frozen=True)
class Kept:
    """What takes what is kept apart from a table, source by source for each output.

    Attributes
    ----------
    aside
        Takes cells, rows and sources that are kept out of the table.
    left_out
        Takes the rows that are not in the table; blank ones are only counted.
    rows
        Takes which rows of their sources the rows of the table are, where these do not say it.
    """

    aside: Callable[[Sequence[SetAside]], None]
    left_out: Callable[[Sequence[LeftOutRow]], None]
    rows: Callable[[Sequence[RowRun]], None]


@dataclass(frozen=True)
class Assembled:
    """What a run established.

    Attributes
    ----------
    schema
        The columns of the table.
    sources
        What became of each source, in order.
    problems
        The findings: of the search first, then source by source, then those of the checks.
    rows
        Rows by output.
    columns
        The codebook.
    sketches
        The values of each column by source; see `Sketches.tables`.
    headers
        What became of each header cell.
    preambles
        What stood above the header of each source.
    tracebacks
        Of sources that failed in a way that was not foreseen, by name.
    checks
        What each check of the plan has found.
    categories
        By column, where there are only a few, its values with their counts.
    ends
        The first and the last rows of each output.
    variants
        The distinct headers, with the number of the variant of each.
    blocks
        The hashes of the lines of each source, block by block.
    """

    schema: TableSchema
    sources: tuple[SourceSummary, ...]
    problems: Entries[Problem]
    rows: Mapping[str, int]
    columns: tuple[ColumnEntry, ...]
    sketches: Callable[[], Iterator[pa.Table]]
    headers: tuple[HeaderEntry, ...]
    preambles: tuple[tuple[PreambleEntry, ...], ...]
    tracebacks: Mapping[str, str] = field(default_factory=dict)
    checks: tuple[CheckResult, ...] = ()
    categories: Mapping[str, Mapping[str, int]] = field(default_factory=dict)
    ends: tuple[EndRow, ...] = ()
    variants: tuple[tuple[int, Header], ...] = ()
    blocks: tuple[Blocks, ...] = ()


def run(
    intake: Intake,
    outputs: Mapping[str, Output],
    keep: Kept,
    executor: Executor,
    watch: Watch | None = None,
    in_flight: int = 0,
    parts: Path | None = None,
) -> Assembled:
    """Assemble the sources as the plan says.

    Parameters
    ----------
    intake
        The sources and their plan.
    outputs
        By name; all take text, or all take Arrow types. Each is finished at the end, not closed.
    keep
        Takes what is kept apart from the table.
    executor
        Where the work is done; batches leave in order whichever it is.
    watch
        Is called with the name of the source at hand, the bytes done and the bytes in all.
    in_flight
        Bytes of sources that may be under work at one time; 0: one piece for each worker, and one more.
    parts
        A folder for the files that workers write; None: the rows come back with the results.

    Returns
    -------
    Assembled

    Raises
    ------
    LedgerError
        When rows in are not rows out.
    """
    plan = intake.plan.for_sheets(any(source.sheet for source in intake.sources))
    first = next(iter(outputs.values()))
    parts = usable(parts, executor, first.parts == FILES)
    engine = Engine(
        replace(intake, plan=plan), executor, watch, in_flight, folder=parts, in_files=first.parts == FILES
    )
    schema = Schema(engine.columns, plan.provenance, first.as_text, first.pack, units_of(engine))
    types = {column.name: column.type for column in schema.columns}
    wanted = prepared(plan.checks, {**dict.fromkeys(schema.arrow.names, "text"), **types})
    checks = Checks(wanted)
    totals = {name: _Total(output.begin(schema.table)) for name, output in outputs.items()}
    ends = {name: Ends(name) for name in outputs}
    filled = [0] * len(schema.columns)
    sketches, missing = Sketches(schema.columns), MissingCodes([column.name for column in schema.columns])
    categories, runs = Categories(schema.columns), RowRuns(keep.rows)
    above = _Above(intake, engine.summaries, keep.left_out)
    if intake.taken.sources:
        _check_columns(intake.taken, schema.arrow)
        try:
            known = folded(intake.taken, schema.columns, intake.identified)
        except (pa.ArrowException, KeyError, ValueError) as error:
            raise CannotTake(f"values.csv in the record cannot be read: {error}") from error
        sketches.add(known.sketches)
        missing.add(known.missing)
        categories.add(known.categories)
        filled = known.filled
    columns = {name: without_named(schema.arrow.names, Path(name)) for name in outputs}
    means = Means(schema, wanted, parts, first.parts, columns if first.parts == FILES else {})
    joined = Joined(outputs, first.parts)
    for batch in engine.results(means.begin):
        above.up_to(batch.first)
        for number, some in groupby(batch.left_out, key=lambda one: one.source):
            above.up_to(number + 1)
            keep.left_out(list(some))
        if batch.aside:
            keep.aside(batch.aside)
        sketches.add(batch.sketches)
        missing.add(batch.missing)
        for seen in batch.looks:
            checks.add(seen)
        categories.add(batch.categories)
        runs.add(batch.runs)
        if batch.payload is not None:  # else only what is known of them is wanted
            joined.append(batch.output, batch.payload, batch.rows)
        ends[batch.output].add(batch.ends, totals[batch.output].rows, batch.rows)
        totals[batch.output].enter(batch, engine.summaries)
        if batch.filled:
            filled = [before + count for before, count in zip(filled, batch.filled, strict=True)]
    above.up_to(len(engine.summaries))
    keep.aside(
        [
            SetAside(number, None, "", summary.reason, "")
            for number, summary in enumerate(engine.summaries)
            if not summary.is_assembled
        ]
    )
    runs.finish()
    for column, numbers, values in sketches.ranges():
        tell_apart(engine, column.name, numbers.tolist(), values)
    engine.check_shares(sketches.filled)
    problems = engine.close(sum(total.rows for total in totals.values()))
    results, failed = checks.results(engine.summaries)
    joined.close()
    for output in outputs.values():
        output.finish()
    variant_of = {
        head.header: engine.variants.of_source[number]
        for number, head in enumerate(intake.heads)
        if isinstance(head, Head)
    }
    return Assembled(
        schema.table,
        tuple(engine.summaries),
        findings(chain(problems, failed)),
        {name: total.rows for name, total in totals.items()},
        tuple(codebook(engine, schema.columns, filled, missing.by_column, sketches.reaches())),
        partial(sketches.tables, converted_units(engine), missing.of_column, categories.of_column),
        tuple(header_entries(engine)),
        tuple(head.preamble if isinstance(head, Head) else () for head in intake.heads),
        {
            intake.sources[number].name: seen.fault.trace
            for number, seen in engine.inspections.items()
            if seen.fault and seen.fault.trace
        },
        tuple(results),
        categories.by_column(),
        tuple(row for each in ends.values() for row in each.rows()),
        tuple((variant_of[header], header) for header in engine.headers),
        tuple(
            engine.inspections[number].blocks if number in engine.inspections else Blocks()
            for number in range(len(intake.sources))
        ),
    )


def _check_columns(taken: TakenOver, schema: pa.Schema) -> None:
    """Make sure that the table has the columns of the earlier one, whose rows are taken over.

    Raises
    ------
    CannotTake
    """
    if list(taken.columns) != [(each.name, str(each.type)) for each in schema]:
        raise CannotTake("the table has other columns now")


class _Above:
    """Hands on the rows above the data of each source, once, before what stands among and below its data."""

    def __init__(
        self,
        intake: Intake,
        summaries: Sequence[SourceSummary],
        keep: Callable[[Sequence[LeftOutRow]], None],
    ) -> None:
        self._intake, self._summaries, self._keep = intake, summaries, keep
        # what is taken over has them already
        self._taken = set(intake.taken.sources)
        self._next = 0

    def up_to(self, number: int) -> None:
        """Hand on those of all sources before this one."""
        for each in range(self._next, number):
            head = self._intake.heads[each]
            if not self._summaries[each].is_assembled:
                self._keep([LeftOutRow(each, None, SET_ASIDE, "")])
            elif each not in self._taken and isinstance(head, Head):
                of_source(each, partial(self._hand_on, each, head))
        self._next = max(self._next, number)

    def _hand_on(self, number: int, head: Head) -> None:
        source = self._intake.sources[number]
        beside = [LeftOutRow(number, row, BESIDE, raw) for row, raw in source.cells_beside()]
        if beside:
            self._keep(beside)
        if head.above is not None:
            self._keep([LeftOutRow(number, *row) for row in head.above if row[1].is_kept])
            return
        waiting: list[LeftOutRow] = []

        def take(row: int, part: Part, text: str) -> None:
            if part.is_kept:
                waiting.append(LeftOutRow(number, row, part, text))
            if len(waiting) >= _TOGETHER:
                self._keep(list(waiting))
                waiting.clear()

        read_above(source, self._intake.layouts[number], take)
        self._keep(waiting)


class _Total:
    """Rows and bytes of one output so far; it begins with the bytes of its header."""

    def __init__(self, head: int) -> None:
        self.rows, self.bytes = 0, head

    def enter(self, batch: Batch, summaries: Sequence[SourceSummary]) -> None:
        for number, rows, size in batch.spans:
            summary = summaries[number]
            if not summary.last_table_row:
                summary.first_table_row, summary.first_byte = self.rows + 1, self.bytes if size else 0
            self.rows += rows
            self.bytes += size
            summary.last_table_row, summary.end_byte = self.rows, self.bytes if size else 0
