"""What is compared when a table is verified: tables, record, figures, sources, and the table made again."""

from __future__ import annotations

import os
from collections.abc import Iterable, Iterator
from concurrent.futures import Executor
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import cached_property
from itertools import zip_longest
from pathlib import Path
from typing import TYPE_CHECKING

from integrum.calls.common import NO_CHOICE, AllowCode, found_for
from integrum.calls.making import about_run, make
from integrum.calls.preparing import prepare
from integrum.calls.targets import target_of
from integrum.errors import IntegrumError, NothingFound, OutputError
from integrum.plan.from_toml import read_plan
from integrum.plan.plan import Plan
from integrum.problems.codes import SEVERITIES
from integrum.problems.problem import Problem, number_of
from integrum.record.hashing import hash_of
from integrum.sources.own import OwnWork
from integrum.sources.sheets import Scratch
from integrum.version import __version__
from integrum.workers.progress import Watch

if TYPE_CHECKING:
    from integrum.assembling.run import RunResult
    from integrum.intake.intake import Intake
    from integrum.results.read import Record
    from integrum.results.verification import Verified
    from integrum.reuse.previous_run import PreviousRun


@dataclass(frozen=True)
class VerifyContext:
    """What is needed to look at the sources of a record, and to make its table again."""

    plan: Plan  # the plan that finds them, its paths absolute
    record: Record
    pool: Executor
    scratch: Scratch
    watch: Watch | None
    home: Path  # the folder of the plan
    allow_code: AllowCode = False
    same_plan: bool = True  # whether the record has the same plan, with the same places

    @cached_property
    def own(self) -> OwnWork:
        """The files that the run has written, which are never sources."""
        own = OwnWork()
        own.learn(self.record.folder, of_this_run=True)
        return own


def take(findings: list[Verified], some: Iterable[Verified]) -> None:
    """Add findings. A file that cannot be read is skipped where a change of it is found already."""
    from integrum.results.verification import SAME

    try:
        for one in some:
            findings.append(one)
    except (IntegrumError, OSError, ValueError, KeyError, TypeError):
        if all(one.state == SAME for one in findings):
            raise


def state_of(is_there: bool, is_same: bool) -> str:
    """The state of a thing in findings."""
    from integrum.results.verification import CHANGED, MISSING, SAME

    return SAME if is_same else CHANGED if is_there else MISSING


def tables_now(record: Record) -> Iterator[Verified]:
    """The tables, compared with what the run wrote."""
    from integrum.columns.outputs import has_names
    from integrum.publish.write import read_manifest
    from integrum.results.read import is_as_written
    from integrum.results.verification import Verified

    to = record.run.to  # empty where the table was in memory, or went to standard output
    if to and not record.outputs and (record.run.rows or not has_names(to)):
        yield Verified("table", "any table", state_of(False, False))
    listed = read_manifest(record.folder)
    for one, said in zip(record.outputs, record.run.outputs, strict=True):
        same = is_as_written(one) and listed.get(said.path) == one.content
        yield Verified("table", one.path.name, state_of(one.path.exists(), same))


def plans_now(record: Record) -> Iterator[Verified]:
    """The plan as used, and the file that it was read from."""
    from integrum.calls.changing import absolute
    from integrum.measures.tables import PLAN
    from integrum.results.verification import Verified
    from integrum.reuse.previous_run import plan_of

    used = record.folder / PLAN
    yield Verified("plan", PLAN, state_of(True, hash_of(used) == record.run.plan_blake3))
    said = record.run.plan_file
    if said:
        path = Path(os.path.normpath(record.folder / said))
        there = path.exists()
        same = there and absolute(read_plan(path), path.parent) == plan_of(record)
        yield Verified("plan", path.name, state_of(there, same))


def record_files_now(record: Record) -> Iterator[Verified]:
    """The files of the record, and those beside the tables, compared with its manifest."""
    from integrum.measures.measures import files_since
    from integrum.measures.tables import METHODS
    from integrum.publish.write import is_listed, listed_in, read_manifest
    from integrum.record.run_file import MANIFEST, NAME, is_whole
    from integrum.results.verification import UNKNOWN, Verified

    listed = read_manifest(record.folder)
    due = {*files_since(record.run.schema), *record.run.files} - {MANIFEST, NAME}
    for name in sorted(due | set(listed_in(record.folder))):
        path = record.folder / name
        is_good = name in record.run.files and is_listed(record.folder, name, listed)
        yield Verified("record", name, state_of(path.exists(), is_good))
    outputs = {one.path for one in record.run.outputs}
    metadata = {path for path in listed if path.removesuffix("-metadata.json") in outputs} - outputs
    for beside in sorted(metadata | {f"{one}-metadata.json" for one in outputs if one.endswith(".csv")}):
        place = record.folder / beside
        yield Verified(
            "record", place.name, state_of(place.exists(), is_listed(record.folder, beside, listed))
        )
    for other in sorted(set(listed) - due - outputs - metadata):
        yield Verified("record", f"{other} in {MANIFEST}", UNKNOWN)
    is_good = is_listed(record.folder, MANIFEST, {MANIFEST: record.run.manifest_blake3})
    yield Verified("record", MANIFEST, state_of((record.folder / MANIFEST).exists(), is_good))
    yield Verified("record", NAME, state_of(True, is_whole(record.folder)))
    if record.run.methods_blake3:
        path = record.folder / METHODS
        there = path.exists()
        yield Verified(
            "record", METHODS, state_of(there, there and hash_of(path) == record.run.methods_blake3)
        )


def figures_now(record: Record) -> Iterator[Verified]:
    """What ``run.json`` says, counted again from the other files; only what differs is told."""
    from integrum.measures.tables import PLAN
    from integrum.record.run_file import NAME
    from integrum.results.verification import CHANGED, Verified

    run, sources = record.run, record.sources
    assembled = sum(one.is_assembled for one in sources)
    counted: dict[str, tuple[object, object]] = {
        "rows": (run.rows, sum(one.table_rows for one in sources if one.is_assembled)),
        "rows of the outputs": (run.rows if run.to else 0, sum(one.rows for one in run.outputs)),
        "sources": (
            dict(run.sources),
            {"found": len(sources), "assembled": assembled, "set-aside": len(sources) - assembled},
        ),
        "problems": (
            dict(run.problems),
            {severity: number_of(severity, record.problems) for severity in SEVERITIES},
        ),
        "columns": (run.column_names, record.table_schema.names),
        "plan_blake3": (run.plan_blake3, hash_of(record.folder / PLAN)),
    }
    filled = {one.output for one in sources if one.is_assembled and one.table_rows}
    counted["outputs"] = ({one.path for one in run.outputs if one.rows}, filled if run.to else set())
    for name, (said, found) in counted.items():
        if said != found:
            yield Verified("record", f"{name} in {NAME}", CHANGED)


def code_now(record: Record) -> Iterator[Verified]:
    """Compare the functions of the analyst's own."""
    from integrum.results.verification import Verified

    for one in record.run.code:
        path = Path(os.path.normpath(record.folder / one.function.rpartition(":")[0]))
        yield Verified(
            "code", path.name, state_of(path.exists(), path.exists() and hash_of(path) == one.blake3)
        )


def sources_now(work: VerifyContext) -> Iterator[Verified]:
    """The sources of the record, and others that the plan finds now."""
    from integrum.results.verification import NEW, Verified
    from integrum.reuse.previous_run import contents

    record, plan = work.record, work.plan
    headers = [header for column in plan.columns for header in column.headers]
    try:
        found = found_for(plan, record.folder, work.own, work.pool, work.scratch, work.watch, headers).sources
    except NothingFound:
        found = ()
    there = {one.name: one for one in found}
    known = [one for one in record.sources if one.source in there]
    now = dict(
        zip(
            (one.source for one in known),
            contents([there[one.source] for one in known], work.pool),
            strict=True,
        )
    )
    for one in record.sources:
        # what could not be read then has no hash
        same = one.source in now and now[one.source] == one.content
        yield Verified(
            "source",
            one.source,
            state_of(one.source in there, same or (one.source in now and not one.content)),
        )
    was = {one.source for one in record.sources}
    for name in there:
        if name not in was:
            yield Verified("source", name, NEW)


def made_again(work: VerifyContext) -> list[Verified]:
    """The table and the record of a full run, compared with those that are there.

    Raises OutputError when it cannot be made again.
    """
    try:
        return _again(work)
    except NothingFound as error:
        raise OutputError(f"the table cannot be made again: {error}") from error


def _same_rows(one: Path, other: Path, record: Record) -> bool:
    """Whether two tables of one format have the same rows."""
    from integrum.writing.formats import format_of

    form, schema = format_of(one), record.table_schema
    pairs = zip_longest(form.batches(one, schema), form.batches(other, schema))
    return all(first is not None and second is not None and first.equals(second) for first, second in pairs)


def _of_rows(problems: Iterable[Problem]) -> list[Problem]:
    """Problems but for those that are of the first run only: what lay beside the sources, and what a draft has guessed."""
    others = ("search", "guess", "draft")
    return [one for one in problems if one.kind.scope not in others and one.code != "missing-codes"]


def _again(work: VerifyContext) -> list[Verified]:
    from integrum.columns.outputs import has_names
    from integrum.measures.tables import PLAN, PROBLEMS
    from integrum.publish.destination import Destination
    from integrum.publish.write import read_manifest
    from integrum.results.verification import Verified
    from integrum.writing.formats import format_of

    record = work.record
    prepared = prepare(
        work.plan, NO_CHOICE, work.own, work.pool, work.scratch, work.watch, 0, work.allow_code, work.home
    )
    if not record.run.to:
        raise OutputError(
            "the table of this record went to no file, so there is nothing to compare a full run with"
        )
    in_files, many = record.run.to.endswith("/"), has_names(record.run.to)
    to = os.path.normpath(record.folder / record.run.to) + "/" * in_files
    about = about_run(prepared, datetime.now(UTC), record.is_guarded)

    target_of(to, record.folder, record.is_guarded)

    def opened(intake: Intake) -> Destination:
        places = {name: Path(name) for name in dict.fromkeys(intake.outputs)}
        return Destination(
            places,
            record.folder,
            intake.sources,
            record.is_guarded,
            scratch=work.scratch.folder,
            in_files=in_files,
        )

    def end(made: RunResult, destination: Destination, intake: Intake) -> list[Verified]:  # noqa: ARG001
        destination.finish(made, about)
        was = {one.path: one.content for one in record.outputs}
        now = {one.path: one.content for one in destination.written.values()}
        found = []
        differs = record.run.drafted or not work.same_plan
        for path, content in was.items():
            same = now.get(path) == content
            if path in now and not same and differs and format_of(path).has_tables:
                # in it is also what only the first run could say
                same = _same_rows(path, destination.place_now(str(path)), record)
            found.append(Verified("table again", path.name, state_of(path in now, same)))
        listed = read_manifest(record.folder)
        for name in record.run.files:
            if name == PLAN and not work.same_plan:
                continue
            path = destination.record_now / name
            same = path.exists() and hash_of(path) == listed.get(name)
            if name == PLAN and record.run.drafted and not same:
                same = read_plan(path) == record.plan  # the evidence stands in it as comments
            if name == PROBLEMS.file and not same and differs:
                same = _of_rows(PROBLEMS.read(destination.record_now)) == _of_rows(record.problems)
            found.append(Verified("record again", name, state_of(path.exists(), same)))
        return found

    def ready(previous: PreviousRun | None) -> Intake:  # noqa: ARG001
        return prepared.intake(work.pool, to if many else "", "" if many else to)

    return make(ready, None, opened, end, work.pool, work.watch)[0]


def remarks_of(record: Record) -> Iterator[str]:
    """Remarks about versions that differ from those of the run."""
    import numpy as np
    import pyarrow as pa

    here = {"version": __version__, "pyarrow": pa.__version__, "numpy": np.__version__}
    names = {"version": "Integrum"}
    for key, version in here.items():
        was = getattr(record.run, key)
        if was != version:
            yield f"written with {names.get(key, key)} {was}; this is {version}"
