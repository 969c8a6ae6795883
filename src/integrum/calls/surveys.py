"""Look at sources: all of them, or one row by row."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from concurrent.futures import Executor
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from integrum.calls.common import Choice, Where, found_for, looked_at, workers
from integrum.errors import NothingFound
from integrum.plan.layout import Layout
from integrum.plan.plan import Plan
from integrum.plan.wrong_words import answers_wrong_words
from integrum.problems.problem import SourceFault
from integrum.sources.own import OwnWork
from integrum.sources.sheets import Scratch
from integrum.workers.progress import Watch

if TYPE_CHECKING:
    from integrum.surveying.rows import OneSource
    from integrum.surveying.view import Survey


@answers_wrong_words
def survey(
    where: Plan | Where | Sequence[Where],
    *,
    ids: str | Sequence[str] = "",
    sheets: str | Sequence[str] = (),
    exclude: str | Sequence[str] = (),
    expect: int | Sequence[str] | Mapping[str, Sequence[str]] | None = None,
    access: Mapping[str, str | int | float | bool] | None = None,
    contents: bool = True,
    executor: Executor | None = None,
    watch: Watch | None = None,
    in_flight: int = 0,
) -> Survey:
    """Look at every source: header variants, types, the odd ones out. Nothing is written.

    Parameters
    ----------
    where
        Folders, patterns, files or `Sources`, one or a list, relative to the working folder. Or a plan file
        (``.toml``) or a `Plan`: its sources are looked at.
    ids
        A scheme for the names, such as ``"{lake}_{month}.csv"``: its parts become columns. As in `Sources`.
    sheets
        Sheets of workbooks to read, as names and patterns; with ``!`` in front, sheets to skip.
    exclude
        Patterns of files to skip.
    expect
        Which sources there should be: a number, names, or values of identifiers. These four are for folders and files; a
        plan has its own.
    access
        How remote places are entered; as in `Sources`.
    contents
        False: look only at the names, and for duplicates.
    executor
        Where the work is done; by default threads of this process.
    watch
        Called with the name of the current source, the bytes done and the total bytes.
    in_flight
        Bytes of sources in work at one time; 0: 4 MB for each worker, and 4 MB more.

    Returns
    -------
    Survey
        Printing it shows it.

    Raises
    ------
    NothingFound
        When there is no source.

    Examples
    --------
    >>> import tempfile, pathlib
    >>> folder = pathlib.Path(tempfile.mkdtemp())
    >>> _ = (folder / "2021.csv").write_text("day,depth\\n2021-05-01,3.2\\n")
    >>> _ = (folder / "2022.csv").write_text("Day,depth,wind\\n2022-05-01,n/a,4\\n")
    >>> seen = survey(folder)
    >>> [(column.name, column.type) for column in seen.columns]
    [('day', 'date'), ('depth', 'number'), ('wind', 'integer')]
    """
    plan, folder = looked_at(where, Choice(ids, sheets, exclude, expect, access))
    if contents:
        return survey_in(plan, folder, executor, watch, in_flight)
    from integrum.surveying.survey import names_found

    with Scratch() as scratch, workers(executor, where) as pool:
        return names_found(
            plan, found_for(plan, folder, OwnWork(), pool, scratch, watch, contents=False), pool
        )


def survey_in(
    plan: Plan,
    folder: Path,
    executor: Executor | None = None,
    watch: Watch | None = None,
    in_flight: int = 0,
    decided: Mapping[str, Layout] | None = None,
) -> Survey:
    """Survey the sources of a plan whose paths are relative to a folder.

    `executor`, `watch`, `in_flight`: as for `survey`; `decided`: the layouts of some sources, by their names.
    """
    from integrum.surveying.survey import survey_found

    with Scratch() as scratch, workers(executor, plan) as pool:
        found = found_for(plan, folder, OwnWork(), pool, scratch, watch)
        return survey_found(plan, found, pool, scratch.folder_for(found), watch, in_flight, decided)


@answers_wrong_words
def look(where: Where, *, layout: Layout | None = None) -> OneSource:
    """Look at one source: its rows, each with its part.

    Parameters
    ----------
    where
        A file, or anything else that gives one source.
    layout
        Its layout; guessed by default.

    Returns
    -------
    OneSource
        Printing it shows it, and so does a notebook.

    Raises
    ------
    NothingFound
        When there is no source, more than one, or one that cannot be read.

    Examples
    --------
    >>> import tempfile, pathlib
    >>> file = pathlib.Path(tempfile.mkdtemp()) / "may.csv"
    >>> _ = file.write_text("Site: Ambermere\\nday;depth\\n;m\\n2021-05-01;3,2\\n2021-05-02;3,1\\n")
    >>> [(row.row, row.part) for row in look(file).rows]
    [(1, 'preamble'), (2, 'header'), (3, 'units'), (4, 'data'), (5, 'data')]
    """
    with Scratch() as scratch:
        return _look(where, layout, scratch)


def _look(where: Where, layout: Layout | None, scratch: Scratch) -> OneSource:
    from integrum.detecting.detect import Detected
    from integrum.detecting.many import detect_some
    from integrum.surveying.rows import look_at

    plan, folder = looked_at(where)
    with workers(None) as pool:
        found = found_for(plan, folder, OwnWork(), pool, scratch)
    if len(found.sources) != 1:
        names = ", ".join(source.name for source in found.sources[:6])
        hint = (
            ', as in Sources("visits.xlsx", sheets="May")' if any(one.sheet for one in found.sources) else ""
        )
        raise NothingFound(
            f"expected one source, found {len(found.sources):,}; name one of them{hint}: {names}"
        )
    said = layout or plan.sources[0].possible_layouts[0]
    source = found.sources[0]
    if said != Layout() or layout:
        detected = Detected(source.written(said), evidence=("as given",))
    else:
        ((source, detected),) = detect_some([source], scratch.folder_for(found))
    try:
        return look_at(source, replace(detected, layout=source.written(detected.layout)))
    except SourceFault as fault:
        raise NothingFound(str(fault.problem(source.name))) from fault
