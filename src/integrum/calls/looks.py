"""Look at the result of a run, from its record."""

from __future__ import annotations

import os
from pathlib import Path

from integrum.recording.outputs_now import since_changed
from integrum.recording.overview import Overview
from integrum.recording.read import looking_at, read_record


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
