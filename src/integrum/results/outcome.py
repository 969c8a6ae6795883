"""What a run gives back."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from itertools import pairwise
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

import pyarrow as pa

from integrum.assembling.run import RunResult
from integrum.columns.table_schema import TableSchema
from integrum.errors import OutputError
from integrum.intake.ledger import SourceSummary, account_of
from integrum.measures.items import CheckResult, ColumnEntry
from integrum.measures.result import Result, lost_of
from integrum.measures.tables import METHODS
from integrum.plan.plan import Plan
from integrum.problems import notebook
from integrum.problems.codes import SEVERITIES
from integrum.problems.found import Entries
from integrum.problems.grouped import problems_html
from integrum.problems.lost import Lost
from integrum.problems.problem import Problem, counted, first_few, near, number_of, visible
from integrum.publish.destination import Destination
from integrum.reading.parts import COUNTED, LeftOutRow, SetAside
from integrum.record.run_file import NAME
from integrum.results.overview import shape_of
from integrum.results.table_access import TableAccess
from integrum.writing.formats import format_of

if TYPE_CHECKING:
    from integrum.results.changes import Changes
    from integrum.results.overview import Overview

_NAMED = 5


def summary(outcome: Outcome) -> list[str]:
    """The outcome in a few plain lines."""
    assembled = sum(one.is_assembled for one in outcome.sources)
    lines = [shape_of(outcome.rows, len(outcome.schema), assembled, len(outcome.sources))]
    if outcome.is_assembled:
        lines.append(str(outcome.lost))
    else:
        lines.append("nothing was assembled, so nothing was written; existing files were not changed")
    lines.append(f"ledger: {account_of(outcome.sources)}")
    wide = [one for one in outcome.sources if one.rows_each > 1 and one.is_assembled]
    if wide:
        rows, made, empty = (
            sum(each)
            for each in zip(
                *((one.ledger.data, one.table_rows, one.empty_cells) for one in wide), strict=True
            )
        )
        lines.append(
            f"wide: {rows:,} rows of data became {made:,} rows of the table; {empty:,} cells are empty"
        )
    aside = [one for one in outcome.sources if not one.is_assembled]
    if aside:
        lines.append(f"set aside: {counted(len(aside), 'source')}")
        lines += [f"  {one.source} ({one.reason})" for one in aside[:5]]
        lines += [f"  and {len(aside) - 5:,} more"] if len(aside) > 5 else []
    found = [
        counted(count, severity)
        for severity in SEVERITIES
        if (count := number_of(severity, outcome.problems))
    ]
    lines.append(f"problems: {', '.join(found) or 'none'}")
    for part in outcome.parts:
        lines.append(f"output: {part.address or near(part.output)} ({part.rows:,} rows)")
    if outcome.output:
        lines.append(f"output: {outcome.address or near(outcome.output)}")
    if outcome.taken_away:
        names = first_few([near(path) for path in outcome.taken_away], _NAMED)
        lines.append(f"deleted, as this run does not make them any more: {names}")
    if outcome.left:
        names = first_few([near(path) for path in outcome.left], _NAMED)
        lines.append(f"left from an earlier run, and edited since; not part of this table: {names}")
    if outcome.record:
        lines.append(f"record: {outcome.record_address or near(outcome.record)}")
        lines.append(f"seal: {outcome.seal}")
    if outcome.changes is not None:
        lines.append(f"since the last run: {outcome.changes.summary()}")
        if outcome.taken_over:
            read = len(outcome.sources) - outcome.taken_over
            lines.append(
                f"taken over as they were: {outcome.taken_over:,} of {counted(len(outcome.sources), 'source')}; "
                f"read: {read:,}"
            )
        elif outcome.why_all:
            lines.append(f"every source was read again: {outcome.why_all}")
    elif outcome.why_all:
        lines.append(f"every source was read again: {outcome.why_all}")
    return lines


class KeptOut(NamedTuple):
    """The rows, cells and sources that a run kept out of the table."""

    set_aside: Entries[SetAside]
    left_out: Entries[LeftOutRow]


# this many columns of the first and last rows are shown in a notebook
_MOST_COLUMNS = 12


@dataclass(frozen=True)
class Outcome(TableAccess):
    """What a run gives back.

    Attributes
    ----------
    plan
        The plan as used, its paths absolute.
    sources
        The sources, in order, each with its status and its ledger. This and the other lists have ``to_pandas()``.
    problems
        All problems: of the search, then source by source, then of the table.
    schema
        The columns of the table.
    lost
        What is not in the table: sources, rows, cells, columns and identifiers, by cause; see `Lost`.
    rows
        Rows in the table.
    output
        The file that was written, or None.
    record
        The folder that documents the run, or None. Both are None when no source could be assembled; existing files are
        then not changed.
    parts
        If the output is named after identifiers: the outcome of each file; this one is their sum.
    tracebacks
        Tracebacks of sources that failed in an unexpected way, by name; also in ``run.json``.
    changes
        What has changed since the last run to the same place; None when there was none.
    taken_over
        How many sources were not read again, as they and the plan are what they were.
    why_all
        Why every source was read again, where there was an earlier run.
    seal
        A short hash over the table and its record, but for times and versions: who has it can check that a table is the one
        that was meant, with ``verify(..., seal=...)``. Empty when there is no record.
    taken_away, left
        Outputs of earlier runs that this one does not make: those that were deleted, and those that were edited since and
        stay where they are.
    address, record_address
        Where the table and its record are at a remote place; `output` and `record` are then copies on this machine,
        which are there as long as the outcome is.

    Examples
    --------
    >>> import integrum as ig, tempfile, pathlib
    >>> folder = pathlib.Path(tempfile.mkdtemp())
    >>> _ = (folder / "2021.csv").write_text("day,depth\\n2021-05-01,3.20\\n2021-05-02,n/a\\n")
    >>> plan = ig.Plan([ig.Sources(str(folder))], [ig.Column("day", "date"), ig.Column("depth", "number")])
    >>> outcome = ig.assemble(plan)
    >>> outcome.table.column("depth").to_pylist(), outcome.status
    ([3.2, None], 1)
    >>> print(outcome.lost)
    not in the table: 1 cell of 1 column
    >>> print(outcome.problems[0])
    warning: 2021.csv, row 3, column "depth": not a number, left empty: "n/a" [bad-value]
    >>> outcome.problems.to_pandas()[["source", "row", "raw"]].values.tolist()
    [['2021.csv', 3, 'n/a']]
    """

    plan: Plan
    sources: Entries[SourceSummary]
    problems: Entries[Problem]
    schema: pa.Schema
    rows: int
    lost: Lost = field(default_factory=Lost)
    output: Path | None = None
    record: Path | None = None
    parts: tuple[Outcome, ...] = ()
    tracebacks: Mapping[str, str] = field(default_factory=dict, repr=False)
    changes: Changes | None = field(default=None, repr=False)
    taken_over: int = 0
    why_all: str = ""
    seal: str = ""
    taken_away: tuple[Path, ...] = ()
    left: tuple[Path, ...] = ()
    address: str = ""
    record_address: str = ""
    _holds: object = field(default=None, repr=False, compare=False)
    _load: Callable[[], pa.Table] | None = field(default=None, repr=False, compare=False)
    _batches: Callable[[], Iterator[pa.RecordBatch]] | None = field(default=None, repr=False, compare=False)
    _name: str | None = field(default=None, repr=False)
    _result: Result = field(default=Result((), {}), repr=False, compare=False)
    _kept_out: Callable[[], KeptOut] | None = field(default=None, repr=False, compare=False)

    @property
    def table(self) -> pa.Table:
        """The table, read back from the output when one was written.

        Raises
        ------
        OutputError
            When the table went to standard output.
        """
        if self._load is None:
            raise self._no_table()
        return self._load()

    def batches(self) -> Iterator[pa.RecordBatch]:
        """The table in batches of rows, so that no more than some of it is in memory.

        Raises
        ------
        OutputError
            When the table went to standard output.

        Examples
        --------
        >>> import integrum as ig, tempfile, pathlib
        >>> folder = pathlib.Path(tempfile.mkdtemp())
        >>> _ = (folder / "2021.csv").write_text("lake,depth\\nAmbermere,3.20\\n")
        >>> sum(batch.num_rows for batch in ig.assemble(folder).batches())
        1
        """
        if self._batches is None:
            raise self._no_table()
        for batch in self._batches():
            yield pa.RecordBatch.from_arrays(batch.columns, schema=self.schema)

    def _no_table(self) -> OutputError:
        return OutputError(
            "the table was printed to standard output and not kept; give a file as `to`, or leave `to` out"
            if self.is_assembled
            else "no source could be assembled, so nothing was written; see `problems`"
        )

    @property
    def _columns(self) -> pa.Schema:
        return self.schema

    def _orders(self) -> Mapping[str, Sequence[str]]:
        return {one.name: one.allowed for one in self.plan.table_columns if one.allowed}

    @property
    def columns(self) -> Entries[ColumnEntry]:
        """The codebook: type, unit, filled cells, least and greatest value and headers of each column."""
        return Entries(self._result.columns, ColumnEntry)

    @property
    def checks(self) -> Entries[CheckResult]:
        """What each check of the plan has found."""
        return Entries(self._result.checks, CheckResult)

    @property
    def set_aside(self) -> Entries[SetAside]:
        """Cells, rows and sources with a problem, with their raw text; read from the record when there is one.

        Raises
        ------
        OutputError
            When another run has replaced the record since.
        """
        return self._kept.set_aside

    @property
    def left_out(self) -> Entries[LeftOutRow]:
        """Every row that is not in the table, with the part that it is and its raw text; read as `set_aside` is."""
        return self._kept.left_out

    @cached_property
    def _kept(self) -> KeptOut:
        return self._kept_out() if self._kept_out else KeptOut(Entries((), SetAside), Entries((), LeftOutRow))

    @property
    def status(self) -> int:
        """0: assembled, and nothing is lost. 1: assembled, but something is lost or missing. 2: nothing was assembled.

        A check that failed, and any other error, counts as 1, too. See `lost`.

        The same number is the exit status of ``integrum assemble``.
        """
        if not self.is_assembled:
            return 2
        return int(bool(self.lost) or self.lost.missing > 0 or number_of("error", self.problems) > 0)

    @property
    def is_assembled(self) -> bool:
        """Whether any source was assembled."""
        return any(one.is_assembled for one in self.sources)

    @property
    def methods(self) -> str:
        """What was done, in words for the section "Methods" of a paper; empty when there is no record."""
        return (self.record / METHODS).read_text(encoding="utf-8") if self.record else ""

    def overview(self) -> Overview:
        """The look at the result: shape, first and last rows, rows per source, identifiers, columns, checks.

        Raises
        ------
        OutputError
            When nothing was assembled.

        Examples
        --------
        >>> import integrum as ig, tempfile, pathlib
        >>> folder = pathlib.Path(tempfile.mkdtemp())
        >>> _ = (folder / "2021.csv").write_text("lake,depth\\nAmbermere,3.20\\nQuillon Tarn,n/a\\n")
        >>> print(ig.assemble(folder).overview())
        2 rows × 4 columns from 1 of 1 source
        nothing is missing from the table
        <BLANKLINE>
        row  source    source_row  lake          depth
          1  2021.csv  2           Ambermere     3.2
          2  2021.csv  3           Quillon Tarn
        <BLANKLINE>
        column  type    unit  filled  values
        lake    text           100 %  Ambermere 1, Quillon Tarn 1
        depth   number        50.0 %  3.2
        <BLANKLINE>
        rows per source: 2 in each
        """
        if not self.is_assembled:
            raise OutputError("nothing was assembled, so there is nothing to show; see `problems`")
        from integrum.results.overview import Overview

        return Overview(self._result, self.plan, self._name)

    def counts(self) -> dict[str, int]:
        """The ledgers of all sources in one."""
        keys = ("rows", *(part.key for part in COUNTED))
        return {key: sum(getattr(one.ledger, key) for one in self.sources) for key in keys}

    def __repr__(self) -> str:
        return f"<Outcome: {summary(self)[0]}>"

    def _repr_html_(self) -> str:
        first, *lines = [line for line in summary(self) if not line.startswith("problems: ")]
        parts = [notebook.title(first), *(notebook.line(line) for line in lines)]
        if self.is_assembled:
            seen = self.overview()
            names, ends = seen.names[:_MOST_COLUMNS], seen.ends
            rows = [[f"{one.row:,}", *one.cells[: len(names)]] for one in ends]
            gaps = [at for at, (one, two) in enumerate(pairwise(ends), 1) if two.row > one.row + 1]
            for at in reversed(gaps):
                rows.insert(at, ["…", *[""] * len(names)])
            parts.append(notebook.table(["row", *names], rows))
            if more := len(seen.names) - len(names):
                parts.append(notebook.line(f"and {counted(more, 'more column')}", "dim"))
        return notebook.view(*parts, problems_html(self.problems, self.record))

    def __str__(self) -> str:
        return visible("\n".join(summary(self)))


@dataclass(frozen=True)
class SincePreviousRun:
    """What has changed since the previous run, and how much of it was taken over."""

    changes: Changes | None = None
    taken_over: int = 0
    why_all: str = ""


def outcome_of(
    plan: Plan,
    made: RunResult,
    destination: Destination,
    record: Path | None,
    kept: bool,
    many: bool,
    since: SincePreviousRun,
) -> Outcome:
    """Make the outcome of a run."""
    written = destination.written
    recorded = record if any(one.is_assembled for one in made.sources) else None
    whole = Outcome(
        plan,
        Entries(made.sources, SourceSummary),
        made.problems,
        made.schema.arrow,
        sum(made.rows.values()),
        made.lost,
        record=recorded,
        tracebacks=made.tracebacks,
        changes=since.changes,
        taken_over=since.taken_over,
        why_all=since.why_all,
        seal=destination.seal if recorded else "",
        taken_away=tuple(destination.taken_away),
        left=tuple(one.path for one in destination.left),
        _result=made.shown(),
        _kept_out=_from_record(recorded)
        if recorded
        else lambda: KeptOut(destination.set_aside, destination.left_out),
    )
    loads = {name: _Loader(one.path, made.schema, destination.guarded) for name, one in written.items()}
    if many:
        parts = tuple(_part(whole, name, written[name].path, made, load) for name, load in loads.items())
        return replace(
            whole,
            parts=parts,
            _load=lambda: pa.concat_tables(part.table for part in parts) if parts else None,
            _batches=lambda: (batch for load in loads.values() for batch in load.batches()),
        )
    if written:
        name = next(iter(written))
        return replace(
            whole, output=written[name].path, _load=loads[name].table, _batches=loads[name].batches
        )
    if not kept:
        return whole
    memory = destination.memory
    return replace(whole, _load=memory.table, _batches=lambda: iter(memory.table().to_batches()))


class _Loader(NamedTuple):
    """Reads an output back."""

    path: Path
    schema: TableSchema
    guarded: bool

    def table(self) -> pa.Table:
        return format_of(self.path).load(self.path, self.schema, self.guarded)

    def batches(self) -> Iterator[pa.RecordBatch]:
        return format_of(self.path).batches(self.path, self.schema, self.guarded)


def _part(whole: Outcome, name: str, path: Path, made: RunResult, load: _Loader) -> Outcome:
    """The outcome of one of several outputs."""
    sources = Entries((one for one in whole.sources if one.output == name), SourceSummary)
    names = {one.source for one in sources}
    problems = Entries((one for one in whole.problems if not one.source or one.source in names), Problem)

    def kept() -> KeptOut:
        return KeptOut(
            Entries((one for one in whole.set_aside if one.source in names), SetAside),
            Entries((one for one in whole.left_out if one.source in names), LeftOutRow),
        )

    return Outcome(
        whole.plan,
        sources,
        problems,
        whole.schema,
        made.rows[name],
        lost_of(sources, problems, whole.plan, {one: made.left_empty.get(one, {}) for one in names}),
        path,
        whole.record,
        _load=load.table,
        _batches=load.batches,
        _name=name,
        _result=whole._result,
        _kept_out=kept,
    )


def _from_record(folder: Path) -> Callable[[], KeptOut]:
    """Read the record of the run, as long as no other run has replaced it."""
    run = folder / NAME
    written = run.read_bytes() if run.exists() else b""

    def read() -> KeptOut:
        from integrum.results.read import read_record

        record = read_record(folder)
        if run.read_bytes() != written:
            raise OutputError(
                f"{near(folder)} is the record of a later run by now; use read_record to read that one"
            )
        return KeptOut(record.set_aside, record.left_out)

    return read
