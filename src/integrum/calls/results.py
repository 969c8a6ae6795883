"""Look at the result of a run, from its record: on a screen, and as a page."""

from __future__ import annotations

import os
from pathlib import Path

from integrum.calls.common import found_for, workers
from integrum.errors import PAGES_NEED, IntegrumError, check_extra
from integrum.plan.plan import Plan
from integrum.plan.wrong_words import answers_wrong_words
from integrum.results.overview import Overview
from integrum.results.read import looking_at, read_record, since_changed
from integrum.sources.own import OwnWork
from integrum.sources.sheets import Scratch
from integrum.sources.source import Source


@answers_wrong_words
def overview(out: str | os.PathLike[str]) -> Overview:
    """A screen about the result of a run: shape, first and last rows, columns, rows per source, identifiers, checks.

    Parameters
    ----------
    out
        The table, or its record.

    Returns
    -------
    Overview
        Printing it shows it. Of outputs that are named after identifiers it is about the one that is named, or about all.

    Raises
    ------
    OutputError
        When there is no record.

    Examples
    --------
    >>> import integrum as ig, tempfile, pathlib
    >>> folder = pathlib.Path(tempfile.mkdtemp())
    >>> _ = (folder / "2021.csv").write_text("lake,depth\\nAmbermere,3.20\\n")
    >>> _ = ig.assemble(folder, to=folder / "out" / "lakes.csv")
    >>> print(str(overview(folder / "out" / "lakes.csv")).splitlines()[0])
    1 row × 4 columns from 1 of 1 source
    """
    record = read_record(out)
    place = Path(os.path.abspath(out))
    named = next((one.path for one in record.outputs if one.path == place), None)
    output = None
    if named and len(record.outputs) > 1:
        output = os.path.relpath(named, record.folder).replace(os.sep, "/")
    with looking_at(record):
        return Overview(record, record.plan, output, since_changed(record))


@answers_wrong_words
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
    check_extra("a report", "pages", *PAGES_NEED)
    from integrum.reporting.columns_shown import make_codebook
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
