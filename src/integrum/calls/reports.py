"""Make the page about a run."""

from __future__ import annotations

import os
from pathlib import Path

from integrum.calls.common import found_for, workers
from integrum.errors import IntegrumError
from integrum.plan.plan import Plan
from integrum.recording.read import looking_at, read_record
from integrum.sources.own import OwnWork
from integrum.sources.scratch import Scratch
from integrum.sources.source import Source


def report(out: str | os.PathLike[str], *, replace: bool = False) -> Path:
    """Make one page about a run, from its record, at any time.

    Parameters
    ----------
    out
        The table that the run wrote, or its record.
    replace
        Whether to write over a page that is there and is not as Integrum made it.

    Returns
    -------
    Path
        Of the page: ``report.html`` in the record. It holds all that it needs, and loads nothing from elsewhere. The lines
        of sources are on it where these are still there, and as they were. Beside it are ``codebook.html`` and
        ``codebook.md``, which describe each column.

    Raises
    ------
    OutputError
        When there is no record, the page cannot be written, or another page is in its place.

    Examples
    --------
    >>> import integrum as ig, tempfile, pathlib
    >>> folder = pathlib.Path(tempfile.mkdtemp())
    >>> _ = (folder / "2021.csv").write_text("lake,depth\\nAmbermere,3.20\\n")
    >>> _ = ig.assemble(folder, to=folder / "out" / "lakes.csv")
    >>> page = report(folder / "out" / "lakes.csv")
    >>> page.relative_to(folder).as_posix()
    'out/lakes-record/report.html'
    """
    from integrum.reporting.codebook_page import make_codebook
    from integrum.reporting.page import make_report

    record = read_record(out)
    with looking_at(record):
        make_codebook(record, replace)
    with looking_at(record), Scratch() as scratch, workers(None) as pool:

        def find(plan: Plan) -> list[Source]:
            try:
                return list(found_for(plan, record.folder, OwnWork(), pool, scratch).sources)
            except (IntegrumError, OSError):
                return []

        return make_report(record, find, replace)
