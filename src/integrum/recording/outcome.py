"""What a run gives back."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING, Any

import pyarrow as pa

from integrum.assembling.job import Aside
from integrum.engine.ledger import PARTS, Account
from integrum.errors import OutputError
from integrum.plan.model import Plan
from integrum.problems import SEVERITIES, Problem, near, number_of

if TYPE_CHECKING:
    import pandas


@dataclass(frozen=True)
class Outcome:
    """What a run gives back.

    Attributes
    ----------
    plan
        The plan as used, its paths absolute.
    sources
        What became of each source, in order, with its ledger.
    problems
        All findings.
    schema
        The columns of the table.
    rows
        Rows in the table.
    output
        The file that was written, or None.
    record
        The folder that documents the run, or None.
    set_aside
        Cells and rows kept out of the table with their raw text; in the record's ``set-aside.csv``
        instead, when there is a record.
    parts
        When the output is named after identifiers: the outcome of each; this one is their sum.

    Examples
    --------
    >>> import integrum as ig, tempfile, pathlib
    >>> folder = pathlib.Path(tempfile.mkdtemp())
    >>> _ = (folder / "2021.csv").write_text("day,depth\\n2021-05-01,3.20\\n2021-05-02,n/a\\n")
    >>> plan = ig.Plan([ig.Sources(str(folder))], [ig.Column("day", "date"), ig.Column("depth", "number")])
    >>> outcome = ig.assemble(plan)
    >>> outcome.table.column("depth").to_pylist(), outcome.status
    ([3.2, None], 0)
    >>> print(outcome.problems[0])
    warning: 2021.csv, row 3, column "depth": not of type number; its cell is empty in the table: "n/a" [bad-value]
    """

    plan: Plan
    sources: tuple[Account, ...]
    problems: tuple[Problem, ...]
    schema: pa.Schema
    rows: int
    output: Path | None = None
    record: Path | None = None
    set_aside: tuple[tuple[str, Aside], ...] = ()
    parts: tuple[Outcome, ...] = ()
    _load: Callable[[], pa.Table] | None = field(default=None, repr=False)

    @property
    def table(self) -> pa.Table:
        """The table, read back from the output when one was written.

        Raises
        ------
        OutputError
            When the table went to standard output.
        """
        if self._load is None:
            raise OutputError(
                "the table went to standard output and was not kept; give a file as `to`, or nothing"
            )
        return self._load()

    def to_pandas(self) -> pandas.DataFrame:
        """The table as a pandas data frame; integers and booleans stay such where cells are empty."""
        import pandas

        whole = {pa.int64(): pandas.Int64Dtype(), pa.bool_(): pandas.BooleanDtype()}
        return self.table.to_pandas(types_mapper=whole.get)

    @property
    def status(self) -> int:
        """0: assembled. 1: assembled, but a source was set aside or an error found.

        The same number is the exit status of ``integrum assemble``.
        """
        aside = any(account.status != "assembled" for account in self.sources)
        return int(aside or number_of("error", self.problems) > 0)

    def counts(self) -> dict[str, int]:
        """The ledgers of all sources in one."""
        total = dict.fromkeys(("rows", *PARTS), 0)
        for account in self.sources:
            for part in total:
                total[part] += getattr(account.ledger, part)
        return total

    def __arrow_c_stream__(self, requested_schema: Any = None) -> Any:
        """The table by the Arrow C stream protocol."""
        return self.table.__arrow_c_stream__(requested_schema)

    def __repr__(self) -> str:
        return f"<Outcome: {summary(self)[0]}>"

    def __str__(self) -> str:
        return "\n".join(summary(self))


def together_as_one(parts: Sequence[Outcome]) -> Outcome:
    """One outcome for several outputs of a run."""
    first = parts[0]
    problems = dict.fromkeys(problem for part in parts for problem in part.problems)
    return Outcome(
        first.plan,
        tuple(account for part in parts for account in part.sources),
        tuple(problems),
        first.schema,
        sum(part.rows for part in parts),
        set_aside=tuple(entry for part in parts for entry in part.set_aside),
        parts=tuple(parts),
        _load=lambda: pa.concat_tables(part.table for part in parts),
    )


def summary(outcome: Outcome) -> list[str]:
    """The outcome in a few plain lines."""
    total = outcome.counts()
    assembled = sum(account.status == "assembled" for account in outcome.sources)
    lines = [
        f"{outcome.rows:,} rows × {len(outcome.schema)} columns from {assembled:,} of {len(outcome.sources):,} sources"
    ]
    parts = [f"{total[part]:,} {part.replace('_', ' ')}" for part in PARTS if total[part]]
    lines.append(f"ledger: {total['rows']:,} rows in the files = {' + '.join(parts) or '0'}")
    aside = [account for account in outcome.sources if account.status != "assembled"]
    if aside:
        lines.append(f"set aside: {len(aside):,} of the sources")
        lines += [f"  {account.source} ({account.reason})" for account in aside[:5]]
        lines += [f"  and {len(aside) - 5:,} more"] if len(aside) > 5 else []
    found = [
        f"{count:,} {severity}{'s' if count > 1 else ''}"
        for severity in SEVERITIES
        if (count := number_of(severity, outcome.problems))
    ]
    lines.append(f"problems: {', '.join(found) or 'none'}")
    for part in outcome.parts:
        lines.append(f"output: {near(part.output)} ({part.rows:,} rows)")
    if outcome.output:
        lines.append(f"output: {near(outcome.output)}")
    if outcome.record:
        lines.append(f"record: {near(outcome.record)}")
    return lines
