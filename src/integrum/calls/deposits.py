"""Make a folder for an archive of a table."""

from __future__ import annotations

import os
from collections.abc import Sequence
from concurrent.futures import Executor
from pathlib import Path

from integrum.calls.common import found_for, workers
from integrum.calls.results import report
from integrum.errors import PAGES_NEED, OutputError, check_extra
from integrum.measures.tables import PAGES
from integrum.plan.plan import Plan
from integrum.plan.wrong_words import answers_wrong_words
from integrum.problems.problem import first_few, near
from integrum.record.run_file import SCHEMA
from integrum.results.read import Record, looking_at, read_record
from integrum.sources.own import OwnWork
from integrum.sources.sheets import Scratch
from integrum.sources.source import Source

_NAMED = 3


@answers_wrong_words
def deposit(
    out: str | os.PathLike[str],
    to: str | os.PathLike[str],
    *,
    with_sources: bool = False,
    replace: bool = False,
) -> Path:
    """Put a table and all that documents it into a folder that can be handed on, or into a zip.

    The folder has the form of BagIt (RFC 8493), and in it is a research object (RO-Crate): the table with its metadata, its
    record with the codebook and the report, the plan and the same as a script, a readme, and the sources if wished. `verify`
    checks it anywhere, and with its sources makes the table again.

    Parameters
    ----------
    out
        A table that was written, or its record.
    to
        The folder to write; with the suffix ``.zip`` a packed one.
    with_sources
        Whether the sources go with it. They have to be what they were in the run.
    replace
        Whether to write over a deposit that is there.

    Returns
    -------
    Path
        Of the folder or the zip.

    Raises
    ------
    OutputError
        When there is no record; when the table, the record or a source was changed since the run; or when something is in
        the place.

    Examples
    --------
    >>> import integrum as ig, tempfile, pathlib
    >>> folder = pathlib.Path(tempfile.mkdtemp())
    >>> _ = (folder / "2021.csv").write_text("lake,depth\\nAmbermere,3.20\\n")
    >>> _ = ig.assemble(folder / "*.csv", to=folder / "out" / "lakes.csv")
    >>> made = deposit(folder / "out" / "lakes.csv", folder / "lakes-deposit", with_sources=True)
    >>> bool(ig.verify(made, again=True))
    True
    """
    check_extra("a deposit", "pages", *PAGES_NEED)
    from integrum.reporting.deposit import Deposit, relocated, searched_above
    from integrum.reuse.previous_run import plan_of

    record = read_record(out)
    place = Path(os.path.abspath(to))
    with looking_at(record):
        _check(record)
        plan = plan_of(record)
        if above := searched_above(plan, place):
            raise OutputError(
                f"{near(place)} lies in {near(Path(above))}, where the plan looks for sources, so the next run would take "
                "what is in it; name a place elsewhere"
            )
        if not all((record.folder / name).exists() for name in PAGES):
            report(record.folder)
        if not with_sources:
            return Deposit(record, relocated(plan), None).write(place, replace)
        with Scratch() as scratch, workers(None) as pool:
            sources = _as_they_were(record, plan, pool, scratch)
            return Deposit(record, relocated(plan), sources).write(place, replace)


def _check(record: Record) -> None:
    """Refuse a table or a record that is not as the run left it: it could not be verified."""
    from integrum.publish.write import changed_in
    from integrum.results.read import is_as_written

    if record.run.schema != SCHEMA:
        raise OutputError(
            f"{near(record.folder)} was written by an earlier version of Integrum and cannot be verified; assemble again, "
            "and then deposit"
        )
    if not record.outputs:
        raise OutputError("the table of this record is in no file, so there is nothing to hand on")
    changed = [near(one.path) for one in record.outputs if not is_as_written(one)]
    changed += [near(record.folder / name) for name in changed_in(record.folder, record.run.manifest_blake3)]
    if changed:
        are = "is" if len(changed) == 1 else "are"
        raise OutputError(
            f"{first_few(changed, _NAMED)} {are} not as the run wrote it; assemble again, and then deposit"
        )


def _as_they_were(record: Record, plan: Plan, pool: Executor, scratch: Scratch) -> Sequence[Source]:
    """The sources of the plan, if they have not changed since the run."""
    from integrum.reuse.previous_run import contents

    own = OwnWork()
    own.learn(record.folder, of_this_run=True)
    headers = [header for column in plan.columns for header in column.headers]
    found = {
        one.name: one for one in found_for(plan, record.folder, own, pool, scratch, None, headers).sources
    }
    known = [one for one in record.sources if one.source in found]
    now = contents([found[one.source] for one in known], pool)
    changed = [one.source for one in record.sources if one.source not in found]
    changed += [
        one.source for one, content in zip(known, now, strict=True) if one.content and one.content != content
    ]
    changed += sorted(set(found) - {one.source for one in record.sources})
    if changed:
        raise OutputError(
            f"the sources are not what they were in the run: {first_few(changed, _NAMED)}; assemble again, or leave the "
            "sources out"
        )
    return list(found.values())
