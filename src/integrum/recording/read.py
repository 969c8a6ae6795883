"""Read a record back as objects."""

from __future__ import annotations

import os
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from integrum.assembling.codebook import ColumnEntry
from integrum.engine.headers import HeaderEntry
from integrum.engine.ledger import SourceSummary
from integrum.errors import OutputError
from integrum.plan.model import Plan
from integrum.plan.toml import read_plan
from integrum.problems import Problem
from integrum.reading.aside import Aside
from integrum.reading.left_out import LeftOut
from integrum.recording.destination import record_of
from integrum.recording.swap import settle
from integrum.recording.tables import (
    COLUMNS,
    HEADERS,
    LEFT_OUT,
    PLAN,
    PREAMBLE,
    PROBLEMS,
    SET_ASIDE,
    SOURCES,
    PreambleEntry,
)
from integrum.recording.values import ValuesEntry, read_values
from integrum.recording.write import SCHEMA, Written
from integrum.sources.own import record_run


@dataclass(frozen=True)
class Record:
    """What a record says.

    Attributes
    ----------
    folder
        Where it lies.
    plan
        The plan as used; its relative paths mean: relative to `folder`.
    sources
        What became of each source, in order.
    problems
        All findings.
    set_aside
        Cells, rows and sources kept out of the table, each with the name of its source. The numbers of sources are
        not kept in a record; they are -1.
    left_out
        Every row that is not in the table, in the same way.
    columns
        The codebook.
    headers
        What became of each header cell.
    values
        The values of each column in each source.
    preamble
        What stood above the headers.
    outputs
        The outputs, with absolute paths.
    run
        What ``run.json`` says: versions, times, counts.
    """

    folder: Path
    plan: Plan
    sources: tuple[SourceSummary, ...]
    problems: tuple[Problem, ...]
    set_aside: tuple[tuple[str, Aside], ...]
    left_out: tuple[tuple[str, LeftOut], ...]
    columns: tuple[ColumnEntry, ...]
    headers: tuple[HeaderEntry, ...]
    values: tuple[ValuesEntry, ...]
    preamble: tuple[PreambleEntry, ...]
    outputs: tuple[Written, ...]
    run: dict[str, Any] = field(repr=False)


def read_record(place: str | os.PathLike[str]) -> Record:
    """Read a record.

    Parameters
    ----------
    place
        The folder of a record, or an output: then the record that belongs to it.

    Returns
    -------
    Record

    Raises
    ------
    OutputError
        When there is no record, or one that this version cannot read.

    Examples
    --------
    >>> import integrum as ig, tempfile, pathlib
    >>> folder = pathlib.Path(tempfile.mkdtemp())
    >>> _ = (folder / "2021.csv").write_text("day,depth\\n2021-05-01,3.20\\n2021-05-02,deep\\n")
    >>> plan = ig.Plan([ig.Sources(str(folder))], [ig.Column("day", "date"), ig.Column("depth", "number")])
    >>> _ = ig.assemble(plan, to=folder / "out" / "lakes.csv")
    >>> record = read_record(folder / "out" / "lakes.csv")
    >>> [(one.source, one.first_table_row, one.last_table_row) for one in record.sources]
    [('2021.csv', 1, 2)]
    >>> [(name, one.row, one.raw) for name, one in record.set_aside]
    [('2021.csv', 3, 'deep')]
    """
    path = Path(os.path.abspath(place))
    folder = path if os.path.isdir(path) else record_of(path)
    settle(folder)
    run = record_run(folder)
    if run is None:
        raise OutputError(f"{place}: there is no record of Integrum here; its folder would be {folder}")
    if run.get("schema") != SCHEMA:
        raise OutputError(
            f"{folder} is a record of schema {run.get('schema', 1)}; this version of Integrum reads {SCHEMA}"
        )
    try:
        base, guarded = folder / str(run["common_folder"]), bool(run["guard_formulas"])
        return Record(
            folder,
            read_plan(folder / PLAN),
            tuple(
                replace(one, path=os.path.normpath(base / one.file)) for one in SOURCES.read(folder, guarded)
            ),
            tuple(PROBLEMS.read(folder, guarded)),
            tuple(SET_ASIDE.read(folder, guarded)),
            tuple(LEFT_OUT.read(folder, guarded)),
            tuple(COLUMNS.read(folder, guarded)),
            tuple(HEADERS.read(folder, guarded)),
            tuple(read_values(folder, guarded)),
            tuple(PREAMBLE.read(folder, guarded)),
            tuple(
                Written(
                    Path(os.path.normpath(folder / one["path"])), one["rows"], one["bytes"], one["blake3"]
                )
                for one in run["outputs"]
            ),
            run,
        )
    except (OSError, KeyError, ValueError, TypeError) as error:
        raise OutputError(f"{folder} is not a whole record: {error}") from error
