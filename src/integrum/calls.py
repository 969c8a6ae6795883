"""The Python calls: survey, draft, assemble."""

from __future__ import annotations

import os
from collections.abc import Iterator, Sequence
from concurrent.futures import Executor, ThreadPoolExecutor
from contextlib import ExitStack, contextmanager
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from typing import TypeGuard

from integrum.assembling.run import Sought, run
from integrum.detecting.detect import Detected
from integrum.detecting.many import detect_some
from integrum.drafting.draft import Draft, draft_from
from integrum.errors import NothingFound, OutputError
from integrum.naming.identifiers import identify
from integrum.naming.outputs import has_names, output_names
from integrum.plan.layout import Layout
from integrum.plan.model import Plan, Provenance, Rules, Sources
from integrum.plan.toml import Remarks, read_plan
from integrum.problems import Problem, SourceFault
from integrum.reading.heads import read_heads
from integrum.recording.outcome import Outcome, together_as_one
from integrum.recording.recorded import RecordedOutput, record_of
from integrum.sources.find import find_sources
from integrum.sources.own import OwnWork
from integrum.sources.sheets import unfold
from integrum.surveying.findings import Survey
from integrum.surveying.look import OneSource, look_at
from integrum.surveying.survey import names_found, survey_found
from integrum.workers import WORKERS, Watch
from integrum.writing.formats import check_suffix

Where = str | os.PathLike[str] | Sources
STANDARD_OUTPUT = "-"


def survey(
    where: Plan | Where | Sequence[Where],
    *,
    contents: bool = True,
    executor: Executor | None = None,
    watch: Watch | None = None,
) -> Survey:
    """Look at every source: header variants, types, the odd ones out. Nothing is written.

    Parameters
    ----------
    where
        Folders, patterns, files or `Sources`; one or a list. Relative to the working folder. Or a plan file
        (``.toml``) or a `Plan`: then its groups of sources are looked at.
    contents
        False: look at the names alone, and at what is there twice.
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
    plan, folder = _looked_at(where)
    found = find_sources(plan.sources, folder, OwnWork())
    with _workers(executor) as pool:
        found = unfold(found, plan.sources, pool, contents, watch=watch)
        return survey_found(plan, found, pool, watch) if contents else names_found(plan, found, pool)


def look(where: Where, *, layout: Layout | None = None) -> OneSource:
    """Look at one source: its rows, each with the part that it is taken for.

    Parameters
    ----------
    where
        A file, or anything else that gives one source.
    layout
        Its layout; guessed when left out.

    Returns
    -------
    OneSource
        Printing it shows it, and so does a notebook.

    Raises
    ------
    NothingFound
        When there is no source, more than one, or one that cannot be read.

    Examples
    --------
    >>> import tempfile, pathlib
    >>> file = pathlib.Path(tempfile.mkdtemp()) / "may.csv"
    >>> _ = file.write_text("Site: Ambermere\\nday;depth\\n;m\\n2021-05-01;3,2\\n2021-05-02;3,1\\n")
    >>> [(row.row, row.part) for row in look(file).rows]
    [(1, 'preamble'), (2, 'header'), (3, 'units'), (4, 'data'), (5, 'data')]
    """
    plan, folder = _looked_at(where)
    found = find_sources(plan.sources, folder, OwnWork())
    with _workers(None) as pool:
        found = unfold(found, plan.sources, pool)
    if len(found.sources) != 1:
        names = ", ".join(source.name for source in found.sources[:6])
        hint = (
            ', as in Sources("visits.xlsx", sheets="May")' if any(one.sheet for one in found.sources) else ""
        )
        raise NothingFound(f"that gives {len(found.sources):,} sources; name one of them{hint}: {names}")
    said = layout or plan.sources[0].layout
    source = found.sources[0]
    if said != Layout() or layout:
        detected = Detected(source.written(said), evidence=("as given",))
    else:
        ((source, detected),) = detect_some([source])
    try:
        return look_at(source, replace(detected, layout=source.written(detected.layout)))
    except SourceFault as fault:
        raise NothingFound(str(fault.problem(source.name))) from fault


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
    >>> [(column.name, column.type) for column in draft(folder).plan.columns]
    [('day', 'date'), ('depth', 'number')]
    """
    return draft_from(survey(where, executor=executor, watch=watch), Path.cwd())


def assemble(
    what: Plan | Draft | Where | Sequence[Where],
    to: str | os.PathLike[str] | None = None,
    *,
    record: str | os.PathLike[str] | None = None,
    guard_formulas: bool = False,
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
        A file whose suffix is ``.csv``, ``.parquet`` or ``.xlsx``, ``"-"`` for CSV on standard output, or None: the
        table stays in memory. Missing folders are made. A name with identifiers in it, such as
        ``"{lake}_tidy.parquet"``, gives one output for each value; ``{group}`` is the group's name.
    record
        The folder that documents the run; beside the output when left out (``lakes.csv`` gives
        ``lakes-record``). Without a file as output there is none unless it is named.
    guard_formulas
        For CSV: put an apostrophe before cells that a spreadsheet program would take for formulas.
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
    many = to is not None and has_names(to)
    target = Path(os.path.abspath(to)) if to not in (None, STANDARD_OUTPUT) else None
    if target:
        check_suffix(target, guard_formulas)
    elif guard_formulas and to is None:
        raise OutputError("guard_formulas is for CSV; give a .csv file as `to`")
    if many and record is not None:
        raise OutputError(
            "outputs named after identifiers have a record each, beside them; leave `record` out"
        )
    records = Path(os.path.abspath(record)) if record is not None else record_of(target)
    own = OwnWork(path for path in (target, records) if path and not many)
    if records:
        own.learn(records)
    with _workers(executor) as pool:
        plan, remarks, folder, seen = _plan(what, own, pool, watch)
        found = find_sources(plan.sources, folder, own)
        plan = replace(plan, sources=_absolute(plan, folder))
        headers = [header for column in plan.columns for header in column.headers]
        found = unfold(found, plan.sources, pool, headers=headers, watch=watch)
        layouts = [source.written(plan.sources[source.group].layout) for source in found.sources]
        heads = read_heads(found.sources, layouts, pool)
        identified = identify(plan, found.sources, heads)
        names = [str(target)] * len(found.sources)
        if many:
            names = output_names(str(target), plan, found.sources, identified)
        sought = Sought(found.sources, heads, identified, names, (*found.problems, *seen))
        writers = {
            name: RecordedOutput(
                name if target else "", records if not many else record_of(Path(name)), to, guard_formulas
            )
            for name in dict.fromkeys(names)
        }
        with ExitStack() as stack:
            for writer in writers.values():
                writer.open(stack)
            ran = run(plan, sought, {name: writer.target() for name, writer in writers.items()}, pool, watch)
            for name, writer in writers.items():
                writer.write_record(plan, remarks, ran[name], found.base, started)
    outcomes = [writer.outcome(plan, ran[name]) for name, writer in writers.items()]
    return together_as_one(outcomes) if many else outcomes[0]


def _groups(where: Where | Sequence[Where]) -> list[Sources]:
    places = [where] if isinstance(where, (str, os.PathLike, Sources)) else list(where)
    plain = [os.fspath(place) for place in places if not isinstance(place, Sources)]
    groups = [place for place in places if isinstance(place, Sources)]
    return ([Sources(plain)] if plain else []) + groups


def _looked_at(where: Plan | Where | Sequence[Where]) -> tuple[Plan, Path]:
    """The plan to look at, or one that only has sources; and what relative paths are relative to."""
    if isinstance(where, Plan):
        return where, Path.cwd()
    if _is_plan_file(where):
        return read_plan(os.fspath(where)), Path(os.path.abspath(where)).parent
    return Plan(_groups(where), provenance=Provenance(False, False, False), rules=Rules("keep")), Path.cwd()


def _is_plan_file(what: object) -> TypeGuard[str | os.PathLike[str]]:
    return isinstance(what, (str, os.PathLike)) and os.fspath(what).lower().endswith(".toml")


def _plan(
    what: Plan | Draft | Where | Sequence[Where], own: OwnWork, pool: Executor, watch: Watch | None
) -> tuple[Plan, Remarks, Path, tuple[Problem, ...]]:
    """The plan, the evidence for it if it was drafted, the folder of its relative paths, and what only the survey saw."""
    if isinstance(what, Plan):
        return what, {}, Path.cwd(), ()
    if _is_plan_file(what):
        return read_plan(os.fspath(what)), {}, Path(os.path.abspath(what)).parent, ()
    if isinstance(what, Draft):
        made = what
    else:
        sought, folder = _looked_at(what)
        found = unfold(find_sources(sought.sources, folder, own), sought.sources, pool, watch=watch)
        made = draft_from(survey_found(sought, found, pool, watch), folder)
    return made.plan, made.remarks, made.folder, made.problems


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
