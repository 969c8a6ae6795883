"""What has changed since the last run, without a new one."""

from __future__ import annotations

import os
from collections.abc import Sequence
from concurrent.futures import Executor
from contextlib import suppress
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Self

from integrum.calls.common import NO_CHOICE, AllowCode, home_of, is_plan_file, workers
from integrum.calls.making import make
from integrum.calls.preparing import Prepared, prepare
from integrum.errors import OutputError
from integrum.plan.from_toml import read_plan
from integrum.plan.plan import Plan
from integrum.plan.toml import moved
from integrum.plan.wrong_words import answers_wrong_words
from integrum.problems.found import Entries
from integrum.record.run_file import read_run
from integrum.remote.addresses import joined
from integrum.sources.own import OwnWork
from integrum.sources.sheets import Scratch
from integrum.workers.progress import Watch

if TYPE_CHECKING:
    from integrum.assembling.run import RunResult
    from integrum.intake.intake import Intake
    from integrum.intake.ledger import SourceSummary
    from integrum.results.changes import Changes, NewHeader
    from integrum.results.read import Record
    from integrum.reuse.previous_run import PreviousRun

# this many folders below that of a plan are searched for its records
_LEVELS = 3
# this many sources without a new header cell stand for all when guesses are made
_KNOWN = 8


@answers_wrong_words
def changes(
    of: str | os.PathLike[str] | Plan,
    *,
    record: str | os.PathLike[str] | None = None,
    trust_times: bool = False,
    allow_code: AllowCode = False,
    executor: Executor | None = None,
    watch: Watch | None = None,
) -> Changes:
    """Compare the sources with the last run. Nothing is written.

    Parameters
    ----------
    of
        A plan file (``.toml``), a table that was written, or a record. With a plan file its last record is looked for in its
        folder and three levels below. A `Plan` needs `record`.
    record
        The record to compare with, or the table that it belongs to.
    trust_times
        Whether a source of the same size and time of change as in the last run counts as unchanged; otherwise its content
        is compared.
    allow_code
        Whether functions of your own that the plan names may be run: those in files beside the plan and below it; with a
        folder those in that one, too.
    executor
        Where the work is done; by default threads of this process.
    watch
        Called with the name of the current source, the bytes done and the total bytes.

    Returns
    -------
    Changes
        Printing it shows it; true when anything has changed.

    Raises
    ------
    OutputError
        When there is no record.
    NothingFound
        When there is no source any more.
    PlanError
        When the plan is wrong.

    Examples
    --------
    >>> import integrum as ig, tempfile, pathlib
    >>> folder = pathlib.Path(tempfile.mkdtemp())
    >>> _ = (folder / "2021.csv").write_text("day,depth\\n2021-05-01,3.20\\n2021-05-02,3.25\\n")
    >>> plan = ig.Plan([ig.Sources(str(folder))], [ig.Column("day", "date"), ig.Column("depth", "number")])
    >>> _ = ig.assemble(plan, to=folder / "out" / "lakes.csv")
    >>> bool(changes(folder / "out" / "lakes.csv"))
    False
    >>> _ = (folder / "2021.csv").write_text("day,depth\\n2021-05-01,3.20\\n2021-05-02,3.52\\n")
    >>> _ = (folder / "2022.csv").write_text("day,depth\\n2022-05-01,4.10\\n")
    >>> found = changes(folder / "out" / "lakes.csv")
    >>> found.summary()
    '1 source new (+1 row), 1 changed (1 row changed), all other rows unchanged'
    >>> print(found.of("changed")[0].cells[0])
    row 3, column "depth": "3.25" → "3.52"
    """
    from integrum.results.read import looking_at, read_record
    from integrum.reuse.previous_run import plan_of, previous_run_of

    remarks: list[str] = []
    if is_plan_file(of):
        plan = absolute(read_plan(os.fspath(of)), Path(os.path.abspath(of)).parent)
        last = read_record(record) if record is not None else _last_record(Path(os.path.abspath(of)))
        home = Path(os.path.abspath(of)).parent
    elif isinstance(of, Plan):
        if record is None:
            raise OutputError("with a Plan, name the table or its record: record=...")
        plan, last, home = absolute(of, Path.cwd()), read_record(record), Path.cwd()
    else:
        last = read_record(of if record is None else record)
        plan, home = plan_of(last), home_of(last)
        remarks += _about_plan_file(last)
    own = OwnWork()
    own.learn(last.folder, of_this_run=True)
    with looking_at(last), Scratch() as scratch, workers(executor) as pool:
        prepared = prepare(plan, NO_CHOICE, own, pool, scratch, watch, 0, allow_code, home)
        previous = previous_run_of(last.folder, prepared.plan, None, last.is_guarded, trust_times)
        found = _compared(prepared, previous, pool, scratch, watch)
        guesses = _guessed(prepared, found.headers, pool, scratch)
    return replace(found, headers=guesses, remarks=(*remarks, *previous.remarks))


def absolute(plan: Plan, folder: Path) -> Plan:
    """The same plan with absolute paths."""
    return moved(plan, {}, partial(joined, folder))[0]


def _last_record(plan: Path) -> Record:
    """The last record of a plan file, among those near it.

    Raises OutputError when there is none.
    """
    from integrum.publish.swap import settle_in
    from integrum.results.read import read_record

    found: list[tuple[str, Path]] = []
    for top, folders, _ in os.walk(plan.parent):
        depth = len(Path(top).relative_to(plan.parent).parts)
        with suppress(OSError):
            settle_in(Path(top))
        for name in folders:
            with suppress(OutputError):
                run = read_run(Path(top, name))
                if run.plan_file and os.path.normpath(os.path.join(top, name, run.plan_file)) == str(plan):
                    found.append((run.started, Path(top, name)))
        folders[:] = [] if depth >= _LEVELS else [name for name in folders if not name.startswith(".")]
    if not found:
        raise OutputError(
            f"there is no record of {plan.name} in its folder or {_LEVELS} levels below; assemble it first, or give the "
            "table: integrum changes TABLE"
        )
    return read_record(max(found)[1])


def _about_plan_file(record: Record) -> list[str]:
    """Say whether the plan file has changed since the run."""
    from integrum.reuse.previous_run import plan_of

    said = record.run.plan_file
    if not said:
        return []
    path = Path(os.path.normpath(record.folder / said))
    if not path.exists():
        return [f"the plan file {path.name} is not there any more"]
    if absolute(read_plan(path), path.parent) != plan_of(record):
        return [f"{path.name} has changed; compared with the plan of the last run"]
    return []


def _compared(
    prepared: Prepared, previous: PreviousRun, pool: Executor, scratch: Scratch, watch: Watch | None
) -> Changes:
    """Assemble the sources that have changed in a temporary folder, and compare their rows."""
    from integrum.reuse.comparing import COMPARED, CurrentRun, compare
    from integrum.writing.output import CSV, suffix_of

    if previous.record is None:
        raise OutputError(previous.why_not)
    suffixes = {suffix_of(one.path) for one in previous.record.outputs} & set(COMPARED)
    place = scratch.folder / f"now{next(iter(suffixes), CSV)}"
    # what the checks find is of no interest here, and the rows of the table need not be there
    prepared = replace(prepared, plan=replace(prepared.plan, checks=()))
    known = replace(previous, why_not="" if previous.same_plan and previous.has_record else previous.why_not)

    def ready(previous: PreviousRun | None) -> Intake:
        return prepared.intake(pool, previous=previous, copies=False)

    def opened(intake: Intake) -> _Now:  # noqa: ARG001
        return _Now(place, previous.record is not None and previous.record.is_guarded)

    def end(made: RunResult, now: _Now, intake: Intake) -> tuple[RunResult, Intake]:  # noqa: ARG001
        return made, intake

    (made, intake), _ = make(ready, known, opened, end, pool, watch)
    taken = frozenset(intake.reuse.sources)
    before: dict[str, int] = {}
    rows = 0
    for number, one in enumerate(made.sources):
        before[one.source] = rows
        rows += 0 if number in taken else one.table_rows

    def where(one: SourceSummary) -> tuple[Path, int]:
        return place, before[one.source]

    return compare(previous, CurrentRun(made, where, suffix_of(place), taken))


class _Now:
    """Makes the table as it would be now, in a temporary folder."""

    parts = None

    def __init__(self, place: Path, guarded: bool) -> None:
        from integrum.measures.measure import KEEP_NOTHING
        from integrum.writing.formats import format_of

        self._output, self.keep = format_of(place).at(place, guarded), KEEP_NOTHING
        self.outputs = {"": self._output}

    def __enter__(self) -> Self:
        return self

    def __exit__(self, kind: type[BaseException] | None, *rest: object) -> None:
        (self._output.discard if kind else self._output.close)()


def _guessed(
    prepared: Prepared, headers: Sequence[NewHeader], pool: Executor, scratch: Scratch
) -> Entries[NewHeader]:
    """New header cells that no column claims, with guesses from a survey of the sources that have them and a few others."""
    from integrum.results.changes import NewHeader

    free = {one.header for one in headers if one.state == "unlisted"}
    if not free:
        return Entries(headers, NewHeader)
    from integrum.drafting.kept import draft_onto
    from integrum.surveying.survey import survey_found

    plan = replace(
        prepared.plan,
        columns=[replace(column, required=False) for column in prepared.plan.columns],
        rules=replace(prepared.plan.rules, only_common=False, unlisted="report", bad_values="blank"),
    )
    first = {one.first for one in headers if one.header in free}
    others = [one for one in prepared.found.sources if one.name not in first]
    step = max(1, len(others) // _KNOWN)
    wanted = first | {one.name for one in others[::step]}
    some = [one for one in prepared.found.sources if one.name in wanted]  # in their order, which is evidence
    found = replace(prepared.found, sources=tuple(some), problems=())
    seen = survey_found(plan, found, pool, scratch.folder_for(found), None, 0)
    guesses = {one.header: one for one in draft_onto(seen, plan, "", Path.cwd()).guesses}
    return Entries(
        (
            replace(
                one,
                guess=guesses[one.header].column,
                score=guesses[one.header].score,
                because=guesses[one.header].because,
            )
            if one.header in guesses and one.header in free
            else one
            for one in headers
        ),
        NewHeader,
    )
