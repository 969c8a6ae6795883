"""The Python calls: survey, draft, assemble."""

from __future__ import annotations

import os
import sys
from collections.abc import Iterator, Sequence
from concurrent.futures import Executor, ThreadPoolExecutor
from contextlib import ExitStack, contextmanager
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

from integrum.assembling.feed import Watch
from integrum.assembling.job import Aside
from integrum.assembling.outcome import Outcome
from integrum.assembling.output import Output
from integrum.assembling.record import FILES, aside_file, write_record
from integrum.assembling.run import run
from integrum.drafting import Draft, draft_from
from integrum.plan import Plan, Sources
from integrum.planfile import Remarks, read_plan
from integrum.sources.find import find_sources
from integrum.sources.own import OwnWork
from integrum.surveying.survey import Survey, survey_found
from integrum.workers import WORKERS
from integrum.writing.csv import CsvOutput
from integrum.writing.formats import check_suffix, file_output, loader
from integrum.writing.memory import MemoryOutput
from integrum.writing.together import together

Where = str | os.PathLike[str] | Sources
STANDARD_OUTPUT = "-"


def survey(
    where: Where | Sequence[Where], *, executor: Executor | None = None, watch: Watch | None = None
) -> Survey:
    """Look at every source: header variants, types, the odd ones out. Nothing is written.

    Parameters
    ----------
    where
        Folders, patterns, files or `Sources`; one or a list. Relative to the working folder.
    executor
        Where the work is done; threads of this process when left out.
    watch
        Is called with the name of the source at hand, the bytes done and the bytes in all.

    Returns
    -------
    Survey
        Printing it shows it.

    Raises
    ------
    NothingFound
        When there is no source.

    Examples
    --------
    >>> import tempfile, pathlib
    >>> folder = pathlib.Path(tempfile.mkdtemp())
    >>> _ = (folder / "2021.csv").write_text("day,depth\\n2021-05-01,3.2\\n")
    >>> _ = (folder / "2022.csv").write_text("Day,depth,wind\\n2022-05-01,n/a,4\\n")
    >>> seen = survey(folder)
    >>> [(column.name, column.type) for column in seen.columns]
    [('day', 'date'), ('depth', 'text'), ('wind', 'integer')]
    """
    groups = _groups(where)
    found = find_sources(groups, Path.cwd(), OwnWork())
    with _workers(executor) as pool:
        return survey_found(groups, found, pool, watch)


def draft(
    where: Where | Sequence[Where], *, executor: Executor | None = None, watch: Watch | None = None
) -> Draft:
    """Survey the sources and write the plan that they suggest, the evidence as comments.

    Parameters
    ----------
    where, executor, watch
        As for `survey`.

    Returns
    -------
    Draft
        Its ``plan`` can be assembled; ``save`` writes a plan file to read and edit.

    Raises
    ------
    NothingFound
        When there is no source, or none with a readable header.

    Examples
    --------
    >>> import tempfile, pathlib
    >>> folder = pathlib.Path(tempfile.mkdtemp())
    >>> _ = (folder / "2021.csv").write_text("day,depth\\n2021-05-01,3.2\\n")
    >>> draft(folder).plan.columns
    (Column(name='day', type='date', also=(), missing=(), required=False),
     Column(name='depth', type='number', also=(), missing=(), required=False))
    """
    return draft_from(survey(where, executor=executor, watch=watch), Path.cwd())


def assemble(
    what: Plan | Draft | Where | Sequence[Where],
    to: str | os.PathLike[str] | None = None,
    *,
    record: str | os.PathLike[str] | None = None,
    executor: Executor | None = None,
    watch: Watch | None = None,
) -> Outcome:
    """Assemble sources into one table, as the plan says and nothing else.

    Parameters
    ----------
    what
        A `Plan`, a `Draft`, the path of a plan file (``.toml``), or where the sources are; then a plan is
        drafted on the fly, and kept in the record. A `Plan`'s relative paths mean the working folder's.
    to
        A file whose suffix is ``.csv`` or ``.parquet``, ``"-"`` for CSV on standard output, or None: the
        table stays in memory. Missing folders are made.
    record
        The folder that documents the run; beside the output when left out (``lakes.csv`` gives
        ``lakes-record``). Without a file as output there is none unless it is named.
    executor
        Where the work is done; threads of this process when left out. Any executor of
        `concurrent.futures` will do, and gives the same bytes.
    watch
        Is called with the name of the source at hand, the bytes done and the bytes in all.

    Returns
    -------
    Outcome
        The table, what became of each source, and the problems.

    Raises
    ------
    PlanError
        When the plan is wrong.
    NothingFound
        When there is no source.
    OutputError
        When the output or the record cannot be written.
    LedgerError
        When rows in are not rows out; nothing was written.

    Examples
    --------
    >>> import tempfile, pathlib
    >>> folder = pathlib.Path(tempfile.mkdtemp())
    >>> _ = (folder / "2021.csv").write_text("day,depth\\n2021-05-01,3.20\\n")
    >>> _ = (folder / "2022.csv").write_text("day,depth\\n2022-05-01,4.10\\n")
    >>> outcome = assemble(folder, to=folder / "out" / "lakes.csv")
    >>> print(outcome.output.read_text(), end="")
    source,source_row,day,depth
    2021.csv,2,2021-05-01,3.20
    2022.csv,2,2022-05-01,4.10
    """
    started = datetime.now(UTC)
    to = None if to is None else os.fspath(to)
    target = Path(os.path.abspath(to)) if to not in (None, STANDARD_OUTPUT) else None
    if target:
        check_suffix(target)
    records = Path(os.path.abspath(record)) if record is not None else _record_of(target)
    own = OwnWork(path for path in (target, records) if path)
    if records:
        own.learn(records)
    with _workers(executor) as pool:
        plan, remarks, folder = _plan(what, own, pool, watch)
        found = find_sources(plan.sources, folder, own)
        plan = replace(plan, sources=_absolute(plan, folder))
        memory, kept = MemoryOutput(), _Kept()
        with together(target, records, FILES) as beside:
            with ExitStack() as stack:
                output: Output = memory
                if target and beside.output:
                    output = stack.enter_context(file_output(target, beside.output))
                elif to is not None:
                    output = CsvOutput(sys.stdout.buffer)
                aside = stack.enter_context(aside_file(beside.record)) if beside.record else kept
                ran = run(plan, found, output, pool, aside, watch)
            if beside.record and records:
                size = beside.output.stat().st_size if beside.output else 0
                write_record(beside.record, records, plan, remarks, ran, target, size, found.base, started)
    schema = ran.shape.schema
    load = memory.table if to is None else loader(target, schema) if target else None
    return Outcome(
        plan, ran.accounts, ran.problems, schema, ran.rows, target, records, tuple(kept.entries), load
    )


class _Kept:
    """Keeps what was set aside in memory, for runs without a record."""

    def __init__(self) -> None:
        self.entries: list[tuple[str, Aside]] = []

    def __call__(self, source: str, entries: Sequence[Aside]) -> None:
        self.entries += [(source, one) for one in entries]


def _record_of(target: Path | None) -> Path | None:
    return target.with_name(f"{target.stem}-record") if target else None


def _groups(where: Where | Sequence[Where]) -> list[Sources]:
    places = [where] if isinstance(where, (str, os.PathLike, Sources)) else list(where)
    plain = [os.fspath(place) for place in places if not isinstance(place, Sources)]
    groups = [place for place in places if isinstance(place, Sources)]
    return ([Sources(plain)] if plain else []) + groups


def _plan(
    what: Plan | Draft | Where | Sequence[Where], own: OwnWork, pool: Executor, watch: Watch | None
) -> tuple[Plan, Remarks, Path]:
    """The plan, the evidence for it if it was drafted, and the folder that its relative paths mean."""
    if isinstance(what, Plan):
        return what, {}, Path.cwd()
    if isinstance(what, (str, os.PathLike)) and Path(what).suffix.lower() == ".toml":
        path = Path(what)
        return read_plan(path), {}, Path(os.path.abspath(path)).parent
    if isinstance(what, Draft):
        made = what
    else:
        groups = _groups(what)
        found = find_sources(groups, Path.cwd(), own)
        made = draft_from(survey_found(groups, found, pool, watch), Path.cwd())
    return made.plan, made.remarks, made.folder


def _absolute(plan: Plan, folder: Path) -> list[Sources]:
    return [
        replace(group, find=[os.path.abspath(folder / place) for place in group.find])
        for group in plan.sources
    ]


@contextmanager
def _workers(executor: Executor | None) -> Iterator[Executor]:
    """The executor that was given, or threads for this call alone."""
    if executor is not None:
        yield executor
        return
    with ThreadPoolExecutor(WORKERS) as pool:
        yield pool
