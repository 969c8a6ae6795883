"""Assemble sources into one table."""

from __future__ import annotations

import logging
import os
from collections.abc import Mapping, Sequence
from concurrent.futures import Executor
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING

from integrum.calls.code import code_of, with_code
from integrum.calls.common import Choice, Where, found_for, is_plan_file, looked_at, workers
from integrum.errors import OutputError
from integrum.plan.layout import Layout
from integrum.plan.model import Plan
from integrum.plan.toml import moved
from integrum.plan.validating import expected
from integrum.problems import Problem
from integrum.sources.find import Found
from integrum.sources.own import OwnWork
from integrum.sources.scratch import Scratch
from integrum.sources.source import Source
from integrum.workers import Watch

# a run with a plan needs neither the survey nor the draft; what is only needed sometimes is loaded then
if TYPE_CHECKING:
    from integrum.assembling.run import Assembled
    from integrum.drafting.draft import Draft
    from integrum.engine.failing import SourcesFailed
    from integrum.engine.intake import Intake, Learned
    from integrum.engine.layouts import Chosen
    from integrum.recording.destination import Destination
    from integrum.recording.outcome import Outcome

STANDARD_OUTPUT = "-"
_log = logging.getLogger(__name__)


def assemble(
    what: Plan | Draft | Where | Sequence[Where],
    to: str | os.PathLike[str] | None = None,
    *,
    ids: str = "",
    sheets: str | Sequence[str] = (),
    exclude: str | Sequence[str] = (),
    expect: int | Sequence[str] | Mapping[str, Sequence[str]] | None = None,
    record: str | os.PathLike[str] | None = None,
    guard_formulas: bool = False,
    executor: Executor | None = None,
    watch: Watch | None = None,
    in_flight: int = 0,
    allow_code: bool = False,
    stop_at_first: bool = False,
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
        ``"{lake}_tidy.parquet"``, gives one output for each value; ``{group}`` is the group's name.
    ids
        A scheme for the names, such as ``"{lake}_{month}.csv"``: its parts become columns. As in `Sources`.
    sheets
        Sheets of workbooks to read, as names and patterns; with ``!`` in front, sheets to skip.
    exclude
        Patterns of files to skip.
    expect
        Which sources there should be: a number, names, or values of identifiers. These four are for folders and files; a
        plan has its own.
    record
        The folder that documents the run. By default it is beside the output: ``lakes-record`` for ``lakes.csv``, or
        ``lakes.csv-record`` where that is the record of another output. Outputs named after identifiers share one
        record. Without a file as output there is a record only if you name it.
    guard_formulas
        For CSV: put an apostrophe before cells that a spreadsheet program would read as formulas.
    executor
        Where the work is done; by default threads of this process. Any executor of `concurrent.futures` works, and
        gives the same bytes.
    watch
        Called with the name of the current source, the bytes done and the total bytes.
    in_flight
        Bytes of sources in work at one time; 0: 4 MB for each worker, and 4 MB more.
    allow_code
        Whether a plan may run functions from Python files, such as ``read = "steps.py:depth"``. Functions in a `Plan` made
        in Python are always run.
    stop_at_first
        Whether to stop at the first source that would be set aside, instead of going on without it.

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
    from integrum.assembling.run import run
    from integrum.engine.failing import SourcesFailed, carry_on
    from integrum.engine.intake import Intake
    from integrum.naming.identifiers import identify
    from integrum.naming.outputs import has_names, output_names
    from integrum.reading.heads import read_heads
    from integrum.recording.destination import Destination, about_name, check_owner, record_of, record_of_many
    from integrum.recording.outcome import outcome_of
    from integrum.recording.tables import Named
    from integrum.recording.write import About
    from integrum.writing.formats import check_suffix

    started = datetime.now(UTC)
    for name, place in (("to", to), ("record", record)):
        if place is not None and not isinstance(place, (str, os.PathLike)):
            raise OutputError(f"{name}: {expected('the name of a file or folder', place)}")
    to = None if to is None else os.fspath(to)
    for place in (to, record):
        if place is not None and "\0" in os.fspath(place):
            raise OutputError(f"{os.fspath(place)!r}: a path cannot have the character NUL in it")
    many = to is not None and has_names(to)
    target = Path(os.path.abspath(to)) if to not in (None, STANDARD_OUTPUT) else None
    if target:
        check_suffix(target, guard_formulas)
    elif guard_formulas and to is None:
        raise OutputError("guard_formulas is for CSV; give a .csv file as `to`")
    records = Path(os.path.abspath(record)) if record is not None else None
    if target and records is None:
        records = record_of_many(str(target)) if many else record_of(target)
    own = OwnWork(path for path in (target, records) if path and not many)
    if records:
        own.learn(records)
    with Scratch() as scratch, workers(executor) as pool:
        choice = Choice(ids, sheets, exclude, expect)
        ready = _plan(what, choice, own, pool, scratch, watch, in_flight)
        plan = ready.plan
        headers = [header for column in plan.columns for header in column.headers]
        found = found_for(plan, ready.folder, own, pool, scratch, watch, headers, known=ready.books)
        plan, remarks = moved(plan, ready.remarks, lambda place: os.path.abspath(ready.folder / place))
        plan = with_code(plan, allow_code)
        layouts, chosen = _layouts_of(plan, found.sources, pool, ready)
        learned = ready.learned_of(found, layouts)
        unread = [number for number in range(len(layouts)) if number not in learned and number not in chosen]
        read = read_heads([found.sources[at] for at in unread], [layouts[at] for at in unread], pool)
        by_number = {number: one.head for number, one in chosen.items()} | dict(
            zip(unread, read, strict=True)
        )
        heads = [by_number[at] if at in by_number else learned[at].head for at in range(len(found.sources))]
        identified = identify(plan, found.sources, heads, layouts)
        names = [str(target) if target else ""] * len(found.sources)
        if many:
            names = output_names(str(target), plan, found.sources, identified)
        places = {name: Path(name) for name in dict.fromkeys(names)} if target else {}
        said = [*found.problems, *ready.problems, *(each for one in chosen.values() for each in one.problems)]
        if target and records and not many:
            said += about_name(target, records)
        if records and record is not None:
            check_owner(records, list(places.values()))
        intake = Intake(plan, found.sources, layouts, heads, identified, names, said, learned, stop_at_first)
        sources = [Named(one.file, one.sheet.name if one.sheet else "") for one in found.sources]
        about = About(plan, remarks, found.base, started, guard_formulas, code_of(plan))
        streams = to == STANDARD_OUTPUT

        def attempt(intake: Intake) -> tuple[Assembled, Destination]:
            with Destination(places, records, sources, guard_formulas, streams) as destination:
                try:
                    made = run(
                        intake,
                        destination.outputs,
                        destination.keep,
                        pool,
                        watch,
                        in_flight,
                    )
                except SourcesFailed as failed:
                    if streams:
                        raise _printed_already(intake, failed) from failed
                    raise
                destination.publish(made, about)
            return made, destination

        made, destination = carry_on(intake, attempt)
    for name, trace in made.tracebacks.items():
        _log.debug("%s failed:\n%s", name, trace)
    for written in destination.written.values():
        _log.info("written: %s, %s rows, %s bytes", written.path, f"{written.rows:,}", f"{written.bytes:,}")
    return outcome_of(plan, made, destination, records, to is None, many)


def _printed_already(intake: Intake, failed: SourcesFailed) -> OutputError:
    """Say why a run whose table goes to standard output cannot begin again."""
    number, fault = next(iter(failed.faults.items()))
    return OutputError(
        f"{intake.sources[number].name}: {fault.message}; part of the table is already printed; give a file as "
        "the output, and the run goes on without this source"
    )


def _layouts_of(
    plan: Plan, sources: Sequence[Source], pool: Executor, ready: _Ready
) -> tuple[list[Layout], dict[int, Chosen]]:
    """The layout of each source; and by number what was chosen for those whose group has several."""
    layouts = [source.written(plan.group(source.group).possible_layouts[0]) for source in sources]
    several = []
    for number, source in enumerate(sources):
        if plan.group(source.group).layouts:
            proven = ready.proven(source)
            if proven is None:
                several.append(number)
            else:
                layouts[number] = proven
    if not several:
        return layouts, {}
    from integrum.engine.layouts import choose_layouts

    found = choose_layouts(plan, [sources[number] for number in several], pool)
    chosen = dict(zip(several, found, strict=True))
    for number, one in chosen.items():
        layouts[number] = one.layout
    return layouts, chosen


class _Ready:
    """A plan that can be run, and what is known from the survey that it was drafted from.

    Attributes
    ----------
    plan, folder
        The plan, and what its relative paths are relative to.
    remarks, problems
        If it was drafted: the evidence for it, and what only the survey saw.
    books
        The workbooks that the survey looked into.
    """

    def __init__(self, plan: Plan, folder: Path, made: Draft | None = None) -> None:
        self.plan, self.folder = plan, folder
        self.remarks = made.remarks if made else {}
        self.problems: tuple[Problem, ...] = made.problems if made else ()
        seen = made.survey if made else None
        self.books = seen.books if seen else None
        self._learned = dict(zip(map(_place, seen.found), seen.learned, strict=True)) if seen else {}
        self._proven = (
            {_place(seen.found[at]): one for at, one in made.proven.items()} if made and seen else {}
        )

    def proven(self, source: Source) -> Layout | None:
        """The layout that the draft has proven for a source, if it has."""
        return self._proven.get(_place(source))

    def learned_of(self, found: Found, layouts: Sequence[Layout]) -> dict[int, Learned]:
        """What is known of the sources of a run, by their numbers."""
        known = {
            number: self._learned[_place(source)]
            for number, source in enumerate(found.sources)
            if _place(source) in self._learned
        }
        return {number: one for number, one in known.items() if one.layout == layouts[number]}


def _place(source: Source) -> tuple[object, ...]:
    """What two searches find at the same place in the same state."""
    return (source.path, source.member, source.sheet, source.state)


def _plan(
    what: Plan | Draft | Where | Sequence[Where],
    choice: Choice,
    own: OwnWork,
    pool: Executor,
    scratch: Scratch,
    watch: Watch | None,
    in_flight: int,
) -> _Ready:
    if isinstance(what, Plan) or is_plan_file(what):
        return _Ready(*looked_at(what, choice))
    from integrum.drafting.draft import Draft
    from integrum.drafting.from_survey import draft_from
    from integrum.surveying.survey import survey_found

    if isinstance(what, Draft):
        choice.refused_with("draft.plan")
        return _Ready(what.plan, what.folder, what)
    sought, folder = looked_at(what, choice)
    found = found_for(sought, folder, own, pool, scratch, watch)
    made = draft_from(survey_found(sought, found, pool, scratch.folder_for(found), watch, in_flight), folder)
    return _Ready(made.plan, made.folder, made)
