"""Whether a table, or a folder that was handed on, is still what its record says, and what its plan gives."""

from __future__ import annotations

import os
from collections.abc import Iterator, Sequence
from concurrent.futures import Executor
from contextlib import suppress
from functools import partial
from pathlib import Path

from integrum.calls.common import AllowCode, home_of, workers
from integrum.calls.held_against import (
    VerifyContext,
    code_now,
    figures_now,
    made_again,
    plans_now,
    record_files_now,
    remarks_of,
    sources_now,
    state_of,
    tables_now,
    take,
)
from integrum.errors import OutputError
from integrum.plan.dataset import check_place
from integrum.plan.from_toml import read_plan
from integrum.plan.plan import Plan
from integrum.plan.toml import moved
from integrum.plan.wrong_words import answers_wrong_words
from integrum.problems.found import Entries
from integrum.problems.problem import near
from integrum.record.hashing import hash_of
from integrum.record.run_file import same_seal
from integrum.remote.addresses import is_remote, joined
from integrum.reporting.bag import PAYLOAD, TAGS, files_of
from integrum.reporting.deposit import PLAN_FILE, SOURCES, ZIP, is_deposit, record_in, unpacked
from integrum.results.read import Record, looking_at, read_record
from integrum.results.verification import CHANGED, SAME, Verification, Verified
from integrum.sources.find import find_sources
from integrum.sources.own import OwnWork
from integrum.sources.sheets import Scratch
from integrum.workers.progress import Watch


@answers_wrong_words
def verify(
    out: str | os.PathLike[str],
    *,
    again: bool = False,
    seal: str = "",
    allow_code: AllowCode = False,
    executor: Executor | None = None,
    watch: Watch | None = None,
) -> Verification:
    """Compare a table, its sources, its plan and its record with the hashes in the record.

    Parameters
    ----------
    out
        A table that was written, or its record; or what `deposit` has made of them, here or on another machine.
    again
        Whether to make the table once more, in a folder that goes again, and compare all bytes.
    seal
        The seal that the table and its record should have, as the run that made them has said it. Without it, only what
        does not fit together is noticed, and not a record that was made anew for another table.
    allow_code
        Whether functions of your own that the plan names may be run: those in files beside the plan and below it; with a
        folder those in that one, too.
    executor
        Where the work is done; by default threads of this process.
    watch
        Called with the name of the current source, the bytes done and the total bytes.

    Returns
    -------
    Verification
        Printing it shows it; true when all is as recorded.

    Raises
    ------
    OutputError
        When there is no record, or one of an earlier version of Integrum.

    Examples
    --------
    >>> import integrum as ig, tempfile, pathlib
    >>> folder = pathlib.Path(tempfile.mkdtemp())
    >>> _ = (folder / "2021.csv").write_text("day,depth\\n2021-05-01,3.20\\n")
    >>> plan = ig.Plan([ig.Sources(str(folder))], [ig.Column("day", "date"), ig.Column("depth", "number")])
    >>> _ = ig.assemble(plan, to=folder / "out" / "lakes.csv")
    >>> bool(verify(folder / "out" / "lakes.csv", again=True))
    True
    >>> _ = (folder / "2021.csv").write_text("day,depth\\n2021-05-01,3.21\\n")
    >>> [(one.what, one.name, one.state) for one in verify(folder / "out" / "lakes.csv").findings if one.state != "same"]
    [('source', '2021.csv', 'changed')]
    """
    place = Path(os.path.abspath(out))
    if place.name == PAYLOAD and (place.parent / TAGS).is_file():
        place = place.parent
    if place.suffix.lower() == ".zip" or (place / TAGS).is_file():
        return verify_deposit(place, again, seal, allow_code, executor, watch)
    record = read_record(out)
    with looking_at(record):
        return _verified(record, again, seal, allow_code, executor, watch)


def _verified(
    record: Record,
    again: bool,
    seal: str,
    allow_code: AllowCode,
    executor: Executor | None,
    watch: Watch | None,
) -> Verification:
    """Verify a record; as `verify`."""
    from integrum.problems.found import Entries
    from integrum.record.run_file import SCHEMA, same_seal, seal_of
    from integrum.results.verification import CHANGED, SAME, Verification, Verified
    from integrum.reuse.previous_run import plan_of

    if record.run.schema != SCHEMA:
        raise OutputError(
            f"{record.folder} was written by an earlier version of Integrum and has no manifest; "
            "assemble again, and it can be verified from then on"
        )
    findings = [*tables_now(record), *record_files_now(record)]
    for some in (plans_now(record), figures_now(record), code_now(record)):
        take(findings, some)
    is_sealed = seal_of(record.folder)
    if seal:
        findings.append(Verified("seal", seal, SAME if same_seal(seal, is_sealed) else CHANGED))
    with Scratch() as scratch, workers(executor) as pool:
        work = VerifyContext(plan_of(record), record, pool, scratch, watch, home_of(record), allow_code)
        take(findings, sources_now(work))
        if again:
            findings += made_again(work)
    return Verification(
        record.folder, Entries(findings, Verified), again, tuple(remarks_of(record)), is_sealed
    )


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
            found = _verified_deposit(
                folder, record, files, again, seal, allow_code, executor, watch, scratch
            )
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


def _verified_deposit(
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
            work = VerifyContext(plan, record, pool, scratch, watch, payload, allow_code, same_plan=False)
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
    """Set the recorded times on sources, where a column is filled from them. A zip keeps times to two seconds."""
    if not any("modified" in group.facts.values() for group in plan.sources):
        return
    states = record.run.source_files
    for source in find_sources(plan.sources, payload, OwnWork()).sources:
        if source.remote is None and source.file in states:
            modified = states[source.file].modified
            with suppress(OSError):
                os.utime(source.path, ns=(modified, modified))
