"""Whether a table is still what its record says, and what its plan gives."""

from __future__ import annotations

import os
from concurrent.futures import Executor
from pathlib import Path
from typing import TYPE_CHECKING

from integrum.calls.code import AllowCode, home_of
from integrum.calls.common import workers
from integrum.calls.held_against import (
    Work,
    code_now,
    figures_now,
    made_again,
    plans_now,
    record_files_now,
    remarks_of,
    sources_now,
    tables_now,
    take,
)
from integrum.errors import OutputError
from integrum.sources.scratch import Scratch
from integrum.workers.progress import Watch

# what a deposit is known by; see `integrum.depositing.bag`
TAGS, PAYLOAD = "bagit.txt", "data"

if TYPE_CHECKING:
    from integrum.recording.read import Record
    from integrum.recording.verification import Verification


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
    from integrum.recording.read import looking_at, read_record

    place = Path(os.path.abspath(out))
    if place.name == PAYLOAD and (place.parent / TAGS).is_file():
        place = place.parent
    if place.suffix.lower() == ".zip" or (place / TAGS).is_file():
        from integrum.calls.verifying_deposits import verify_deposit

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
    from integrum.earlier.basis import plan_of
    from integrum.entries import Entries
    from integrum.recording.verification import CHANGED, SAME, Verification, Verified
    from integrum.run_file import SCHEMA, same_seal, seal_of

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
        work = Work(plan_of(record), record, pool, scratch, watch, home_of(record), allow_code)
        take(findings, sources_now(work))
        if again:
            findings += made_again(work)
    return Verification(
        record.folder, Entries(findings, Verified), again, tuple(remarks_of(record)), is_sealed
    )
