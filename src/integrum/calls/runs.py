"""Assemble sources into one table."""

from __future__ import annotations

import logging
import os
from collections.abc import Iterator, Mapping, Sequence
from concurrent.futures import Executor
from contextlib import contextmanager
from dataclasses import dataclass
from dataclasses import replace as changed
from datetime import UTC, datetime
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from integrum.calls.common import AllowCode, Choice, Where, is_plan_file, workers
from integrum.calls.making import about_run, make
from integrum.calls.preparing import prepare
from integrum.calls.targets import STANDARD_OUTPUT, Target, target_of
from integrum.errors import OutputError
from integrum.plan.plan import Plan
from integrum.plan.wrong_words import answers_wrong_words
from integrum.remote.addresses import is_remote
from integrum.sources.sheets import Scratch
from integrum.workers.pool import shares_memory
from integrum.workers.progress import Watch

# a run with a plan needs neither the survey nor the draft; what is only needed sometimes is loaded then
if TYPE_CHECKING:
    from integrum.assembling.run import RunResult
    from integrum.dispatch.failing import SourcesFailed
    from integrum.drafting.draft import Draft
    from integrum.intake.intake import Intake
    from integrum.intake.ledger import SourceSummary
    from integrum.problems.problem import Problem
    from integrum.publish.destination import Destination
    from integrum.results.outcome import Outcome, SincePreviousRun
    from integrum.reuse.previous_run import PreviousRun

_log = logging.getLogger(__name__)


@answers_wrong_words
def assemble(
    what: Plan | Draft | Where | Sequence[Where],
    to: str | os.PathLike[str] | None = None,
    *,
    ids: str | Sequence[str] = "",
    sheets: str | Sequence[str] = (),
    exclude: str | Sequence[str] = (),
    expect: int | Sequence[str] | Mapping[str, Sequence[str]] | None = None,
    access: Mapping[str, str | int | float | bool] | None = None,
    record: str | os.PathLike[str] | None = None,
    guard_formulas: bool = False,
    executor: Executor | None = None,
    watch: Watch | None = None,
    in_flight: int = 0,
    allow_code: AllowCode = False,
    stop_at_first: bool = False,
    only_add: bool = False,
    trust_times: bool = False,
    afresh: bool = False,
    replace: bool = False,
    depends: str | os.PathLike[str] | None = None,
) -> Outcome:
    """Assemble sources into one table, as the plan says and nothing else.

    Parameters
    ----------
    what
        A `Plan`, a `Draft`, the path of a plan file (``.toml``), or where the sources are; a plan is then drafted for
        them and kept in the record. Relative paths in a `Plan` are relative to the working folder.
    to
        A file whose suffix is ``.csv``, ``.csv.gz``, ``.parquet``, ``.arrow`` or ``.xlsx``, ``"-"`` for CSV on
        standard output, or None: the table stays in memory. Missing folders are made. A name with identifiers in it, such as
        ``"{lake}_tidy.parquet"``, gives one output for each value; ``{group}`` is the group's name. With ``/`` at its end,
        ``"lakes.parquet/"`` is a folder of Parquet files, and ``"lakes.parquet/lake={lake}/"`` one with a folder for each
        lake, as readers of Arrow datasets know it. An address, such as ``"s3://bucket/lakes.csv"``, is a remote place.
    ids
        A scheme for the names, such as ``"{lake}_{month}.csv"``: its parts become columns. As in `Sources`.
    sheets
        Sheets of workbooks to read, as names and patterns; with ``!`` in front, sheets to skip.
    exclude
        Patterns of files to skip.
    expect
        Which sources there should be: a number, names, or values of identifiers. These four are for folders and files; a
        plan has its own.
    access
        How remote places are entered, for places in `what` and for `to`; as in `Sources`, secrets are only named:
        ``{"secret": "$LAKES_SECRET"}``.
    record
        The folder that documents the run. By default it is beside the output: ``lakes-record`` for ``lakes.csv``, or
        ``lakes.csv-record`` where that is the record of another output. Outputs named after identifiers share one
        record. Without a file as output there is a record only if you name it.
    guard_formulas
        For CSV: put an apostrophe before cells that a spreadsheet program would read as formulas.
    executor
        Where the work is done; by default threads of this process. Any executor of `concurrent.futures` works, also that
        of a Dask cluster (``Client.get_executor()``), and gives the same bytes.
    watch
        Called with a `Progress` now and then; `Meter()` shows it as a bar.
    in_flight
        Bytes of sources in work at one time; 0: 4 MB for each worker, and 4 MB more.
    allow_code
        Whether a plan may run functions from Python files beside it and below, such as ``read = "steps.py:depth"``; with a
        folder also from files in that one. Functions in a `Plan` made in Python are always run.
    stop_at_first
        Whether to stop at the first source that would be set aside, instead of going on without it.
    only_add
        Whether to refuse when any row of the table that is there would change or go.
    trust_times
        Whether a source of the same size and time of change as in the last run counts as unchanged, so that it is not
        opened; otherwise its content is compared. A table that was written by the same plan is used again: only new and
        changed sources are read, and the bytes are the same as if all were.
    afresh
        Whether to read every source again even so.
    replace
        Whether to write over a file that is in the place of the output and is not as a run wrote it: one of your own, or a
        table that was edited since. Otherwise the run refuses.
    depends
        A file for a rule that make and other programs read: on which files and folders the table depends, with paths as
        seen from the working folder. A table that stays as it is gets the time of the run, so that it is newer than they.

    Returns
    -------
    Outcome
        The table, what became of each source, and the problems. When no source could be assembled its status is 2,
        nothing is written, and existing files are not changed.

    Raises
    ------
    PlanError
        When the plan is wrong.
    NothingFound
        When there is no source.
    OutputError
        When the output or the record cannot be written.
    StoppedAtFirst
        With `stop_at_first`, when a source has to be set aside; nothing was written.
    LedgerError
        When the rows of the sources and of the table do not add up; nothing was written.

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
    choice = Choice(ids, sheets, exclude, expect)
    how = _RunOptions(
        guard_formulas,
        executor,
        watch,
        in_flight,
        allow_code,
        stop_at_first,
        only_add,
        trust_times,
        afresh,
        replace,
        None if depends is None else Path(os.path.abspath(depends)),
    )
    if depends is not None:
        from integrum.results.dependencies import check_place_of

        if to in (None, STANDARD_OUTPUT) or is_remote(str(to)):
            raise OutputError("depends is for a table in a file on this machine; give its name as `to`")
        check_place_of(Path(depends))
    if only_add and replace:
        raise OutputError(
            "only_add keeps all rows of the table that is there, and replace writes over it; choose one"
        )
    if to is None or not is_remote(to):
        return _assembled(what, to, record, changed(choice, access=access), how)
    if only_add:
        raise OutputError("only_add is for a table on this machine, which has a record")
    from integrum.calls.targets import far_output
    from integrum.drafting.draft import Draft

    if not (isinstance(what, (Plan, Draft)) or is_plan_file(what)):
        choice = changed(choice, access=access)
    how = changed(how, is_far=True)
    return far_output(
        lambda place, records: _assembled(what, place, records, choice, how),
        str(to),
        record,
        access or {},
        replace,
    )


@dataclass(frozen=True)
class _RunOptions:
    """The options of a run, as in `assemble`."""

    guard_formulas: bool
    executor: Executor | None
    watch: Watch | None
    in_flight: int
    allow_code: AllowCode
    stop_at_first: bool
    only_add: bool
    trust_times: bool
    afresh: bool
    replace: bool
    depends: Path | None = None
    is_far: bool = False


def _assembled(
    what: Plan | Draft | Where | Sequence[Where],
    to: str | os.PathLike[str] | None,
    record: str | os.PathLike[str] | None,
    choice: Choice,
    how: _RunOptions,
) -> Outcome:
    """Make a run whose table stays on this machine."""
    from integrum.dispatch.failing import SourcesFailed
    from integrum.publish.destination import Destination
    from integrum.publish.own_files import OwnFiles
    from integrum.publish.places import check_owner
    from integrum.record.run_file import is_record
    from integrum.results.outcome import SincePreviousRun, outcome_of
    from integrum.writing.output import suffix_of

    started = datetime.now(UTC)
    target = target_of(to, record, how.guard_formulas)
    if how.only_add and not (target.path and target.record):
        raise OutputError("only_add is for a table in a file, which has a record")
    target.settle()
    with Scratch() as scratch, workers(how.executor, what) as pool:
        prepared = prepare(
            what, choice, target.own_work(), pool, scratch, how.watch, how.in_flight, how.allow_code
        )
        plan = prepared.plan
        previous: PreviousRun | None = None
        if target.path and target.record and is_record(target.record):
            from integrum.reuse.previous_run import previous_run_of

            outputs = None if target.many else [target.path]
            previous = previous_run_of(target.record, plan, outputs, how.guard_formulas, how.trust_times)
        before = previous.record if previous else None
        proven = [one.path for one in before.outputs] if previous and before and previous.has_table else []
        own = OwnFiles(target.record, frozenset(proven), how.replace, bool(previous and previous.has_record))
        about = about_run(
            prepared,
            started,
            how.guard_formulas,
            plan_file=Path(os.path.abspath(what)) if is_plan_file(what) else None,
            to=target.path,
            in_files=target.in_files,
            is_far=how.is_far,
        )

        def ready(previous: PreviousRun | None) -> Intake:
            intake = prepared.intake(
                pool, target.template, target.table, previous, stop_at_first=how.stop_at_first
            )
            places = target.places(intake.outputs)
            if target.record and record is not None:
                check_owner(target.record, list(places.values()), target.path)
            return changed(intake, problems=[*intake.problems, *_about_record(target, places)])

        @contextmanager
        def opened(intake: Intake) -> Iterator[Destination]:
            try:
                with Destination(
                    target.places(intake.outputs),
                    target.record,
                    intake.sources,
                    how.guard_formulas,
                    target.to_standard_output,
                    in_files=target.in_files,
                    elsewhere=not shares_memory(pool),
                    own=own,
                    whole=intake.reuse.whole,
                    touched=how.depends is not None,
                ) as destination:
                    yield destination
            except SourcesFailed as failed:
                if target.to_standard_output:
                    raise _printed_already(intake, failed) from failed
                raise

        def end(
            made: RunResult, destination: Destination, intake: Intake
        ) -> tuple[RunResult, Destination, SincePreviousRun]:
            taken = frozenset(intake.reuse.sources)
            if taken and previous:
                previous.check_tables()
            changes, unclear = None, ""
            if previous and previous.record and target.path:
                from integrum.reuse.comparing import CurrentRun, compared

                now = CurrentRun(made, partial(_place, destination), suffix_of(target.path), taken, True)
                changes, unclear = compared(previous, now)
            if how.only_add:
                from integrum.reuse.previous_run import PreviousRun, refuse_loss

                there = [place for place in target.places(intake.outputs).values() if os.path.lexists(place)]
                refuse_loss(previous or PreviousRun(), changes, unclear, there)
            destination.publish(made, about)
            return made, destination, SincePreviousRun(changes, len(taken))

        takes = None if how.afresh or prepared.drafted else previous
        (made, destination, since), why_all = make(ready, takes, opened, end, pool, how.watch, how.in_flight)
    for name, trace in made.tracebacks.items():
        _log.debug("%s failed:\n%s", name, trace)
    for written in destination.written.values():
        _log.info("written: %s, %s rows, %s bytes", written.path, f"{written.rows:,}", f"{written.bytes:,}")
    since = changed(since, why_all=why_all or (previous.why_not if previous else ""))
    outcome = outcome_of(plan, made, destination, target.record, target.in_memory, target.many, since)
    if how.depends and outcome.is_assembled:
        from integrum.results.dependencies import write_dependencies

        write_dependencies(how.depends, outcome, about.plan_file)
    return outcome


def _about_record(target: Target, places: Mapping[str, Path]) -> list[Problem]:
    """Notes about where the record and the table are."""
    from integrum.publish.places import about_folders, about_name

    if target.in_files:
        return about_folders(list(places.values()))
    if target.path and target.record and not target.many:
        return about_name(target.path, target.record)
    return []


def _place(destination: Destination, one: SourceSummary) -> tuple[Path, int]:
    """The table of a source while it is not in its place, and the rows before the source."""
    return destination.place_now(one.output), one.first_table_row - 1


def _printed_already(intake: Intake, failed: SourcesFailed) -> OutputError:
    """The error for a run on standard output that would have to begin again."""
    number, fault = next(iter(failed.faults.items()))
    return OutputError(
        f"{intake.sources[number].name}: {fault.message}; part of the table is already printed; give a file as "
        "the output, and the run goes on without this source"
    )
