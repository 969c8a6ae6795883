"""Whether a folder that was handed on is still what was put into it, and gives the same table again."""

from __future__ import annotations

import os
from collections.abc import Iterator, Sequence
from concurrent.futures import Executor
from contextlib import suppress
from functools import partial
from pathlib import Path

from integrum.calls.code import AllowCode
from integrum.calls.common import workers
from integrum.calls.held_against import (
    Work,
    figures_now,
    made_again,
    record_files_now,
    remarks_of,
    sources_now,
    state_of,
    tables_now,
    take,
)
from integrum.depositing.bag import PAYLOAD, files_of
from integrum.depositing.deposit import PLAN_FILE, ZIP, is_deposit, record_in, unpacked
from integrum.depositing.relocating import SOURCES
from integrum.entries import Entries
from integrum.errors import OutputError
from integrum.hashing import hash_of
from integrum.plan.code import check_place
from integrum.plan.from_toml import read_plan
from integrum.plan.plan import Plan
from integrum.plan.toml import moved
from integrum.problems import near
from integrum.recording.read import Record, looking_at, read_record
from integrum.recording.verification import CHANGED, SAME, Verification, Verified
from integrum.remote.addresses import is_remote, joined
from integrum.run_file import same_seal
from integrum.sources.find import find_sources
from integrum.sources.own import OwnWork
from integrum.sources.scratch import Scratch
from integrum.workers.progress import Watch


def verify_deposit(
    place: Path,
    again: bool,
    seal: str,
    allow_code: AllowCode,
    executor: Executor | None,
    watch: Watch | None,
) -> Verification:
    """Verify a deposit, packed or not; as `integrum.verify`."""
    if not os.path.lexists(place):
        raise OutputError(f"{near(place)}: there is nothing here")
    if not is_deposit(place):
        raise OutputError(f"{near(place)} was not made by integrum report --deposit, or {_BROKEN}")
    with Scratch() as scratch:
        folder = unpacked(place, scratch.folder / "deposit") if place.suffix.lower() == ZIP else place
        files = _files(folder)
        try:
            record = read_record(record_in(folder))
        except OutputError:
            if all(one.state == SAME for one in files):
                raise
            return Verification(place, Entries(files, Verified), again, ("its record cannot be read",))
        with looking_at(record):
            found = _verified(folder, record, files, again, seal, allow_code, executor, watch, scratch)
    return Verification(place, found.findings, again, found.remarks, found.seal)


def _files(folder: Path) -> list[Verified]:
    """The files of the folder, compared with its checksums."""
    files = list(files_of(folder))
    put_in = f"{PAYLOAD}/{SOURCES}/"
    if not any(path.startswith(put_in) and there and same for path, there, same in files):
        # it was made without them, and somebody has put them in: the record says whether they are the right ones
        files = [one for one in files if not one[0].startswith(put_in)]
    return [Verified("deposit", path, state_of(there, same)) for path, there, same in files]


_BROKEN = "what it is known by is damaged"


def _verified(
    folder: Path,
    record: Record,
    files: Sequence[Verified],
    again: bool,
    seal: str,
    allow_code: AllowCode,
    executor: Executor | None,
    watch: Watch | None,
    scratch: Scratch,
) -> Verification:
    payload = folder / PAYLOAD
    findings = list(files)
    findings += [*tables_now(record), *record_files_now(record)]
    take(findings, figures_now(record))
    if seal:
        findings.append(Verified("seal", seal, SAME if same_seal(seal, record.seal) else CHANGED))
    remarks = list(remarks_of(record))
    plan = moved(read_plan(payload / PLAN_FILE), {}, partial(joined, payload))[0]
    take(findings, _code(record, plan))
    far = all(is_remote(place) for group in plan.sources for place in group.find)
    has_sources = (payload / SOURCES).is_dir() or far
    if not has_sources:
        remarks.append("the sources are not in it")
        if again:
            raise OutputError(
                f"{near(folder)}: the sources are not in it, so the table cannot be made again; put them into "
                f"{PAYLOAD}/{SOURCES}, as sources.csv of the record names them"
            )
    with workers(executor) as pool:
        if has_sources:
            _with_their_times(record, plan, payload)
            work = Work(plan, record, pool, scratch, watch, payload, allow_code, same_plan=False)
            take(findings, sources_now(work))
            if again:
                findings += made_again(work)
    return Verification(folder, Entries(findings, Verified), again, tuple(remarks), record.seal)


def _code(record: Record, plan: Plan) -> Iterator[Verified]:
    """The files of functions; the plan of the deposit names them in the order in which the record does."""
    places = [column.read for column in plan.columns if isinstance(column.read, str)]
    for place, one in zip(places, record.run.code, strict=True):
        path = Path(check_place(place)[0])
        yield Verified(
            "code", path.name, state_of(path.exists(), path.exists() and hash_of(path) == one.blake3)
        )


def _with_their_times(record: Record, plan: Plan, payload: Path) -> None:
    """Give the sources the times that they had, where a column is filled from these: a zip keeps them to two seconds."""
    if not any("modified" in group.facts.values() for group in plan.sources):
        return
    states = record.run.source_files
    for source in find_sources(plan.sources, payload, OwnWork()).sources:
        if source.remote is None and source.file in states:
            modified = states[source.file].modified
            with suppress(OSError):
                os.utime(source.path, ns=(modified, modified))
