"""The Python calls: survey, draft, assemble."""

from __future__ import annotations

import os
from collections.abc import Collection, Iterator, Mapping, Sequence
from concurrent.futures import Executor
from contextlib import contextmanager
from dataclasses import replace
from datetime import UTC, datetime
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeGuard

from integrum.errors import NothingFound, OutputError
from integrum.plan.column import Column
from integrum.plan.layout import Layout
from integrum.plan.model import Plan
from integrum.plan.rules import Provenance, Rules
from integrum.plan.sources import Sources
from integrum.plan.toml import moved, read_columns, read_plan
from integrum.problems import Problem, SourceFault
from integrum.sources.find import Found, find_sources
from integrum.sources.own import OwnWork
from integrum.sources.scratch import Scratch
from integrum.sources.source import Source
from integrum.sources.suffixes import is_delimited
from integrum.workers import Watch, threads

# a run with a plan needs neither the survey nor the draft; what is only needed sometimes is loaded then
if TYPE_CHECKING:
    from integrum.drafting.draft import Draft
    from integrum.engine.engine import Learned
    from integrum.engine.layouts import Chosen
    from integrum.recording.outcome import Outcome
    from integrum.surveying.findings import Survey
    from integrum.surveying.look import OneSource

Where = str | os.PathLike[str] | Sources
STANDARD_OUTPUT = "-"


def survey(
    where: Plan | Where | Sequence[Where],
    *,
    contents: bool = True,
    executor: Executor | None = None,
    watch: Watch | None = None,
    in_flight: int = 0,
) -> Survey:
    """Look at every source: header variants, types, the odd ones out. Nothing is written.

    Parameters
    ----------
    where
        Folders, patterns, files or `Sources`; one or a list. Relative to the working folder. Or a plan file
        (``.toml``) or a `Plan`: then its groups of sources are looked at.
    contents
        False: look at the names alone, and at what is there twice.
    executor
        Where the work is done; threads of this process when left out.
    watch
        Is called with the name of the source at hand, the bytes done and the bytes in all.
    in_flight
        Bytes of sources that may be under work at one time; 0: 4 MB for each worker, and 4 MB more.

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
    [('day', 'date'), ('depth', 'text'), ('wind', 'integer')]
    """
    from integrum.surveying.survey import names_found, survey_found

    plan, folder = _looked_at(where)
    with Scratch() as scratch, _workers(executor) as pool:
        found = _found(plan, folder, OwnWork(), pool, scratch, watch, contents=contents)
        if not contents:
            return names_found(plan, found, pool)
        return survey_found(plan, found, pool, scratch.folder_for(found), watch, in_flight)


def look(where: Where, *, layout: Layout | None = None) -> OneSource:
    """Look at one source: its rows, each with the part that it is taken for.

    Parameters
    ----------
    where
        A file, or anything else that gives one source.
    layout
        Its layout; guessed when left out.

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
    from integrum.surveying.look import look_at

    plan, folder = _looked_at(where)
    with _workers(None) as pool:
        found = _found(plan, folder, OwnWork(), pool, scratch)
    if len(found.sources) != 1:
        names = ", ".join(source.name for source in found.sources[:6])
        hint = (
            ', as in Sources("visits.xlsx", sheets="May")' if any(one.sheet for one in found.sources) else ""
        )
        raise NothingFound(f"that gives {len(found.sources):,} sources; name one of them{hint}: {names}")
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


def draft(
    where: Plan | Where | Sequence[Where],
    *,
    columns: Sequence[Column | str] | str | os.PathLike[str] | None = None,
    ids: str = "",
    onto: str | os.PathLike[str] | None = None,
    keep: str | os.PathLike[str] | None = None,
    executor: Executor | None = None,
    watch: Watch | None = None,
) -> Draft:
    """Survey the sources and write the plan that they suggest, the evidence as comments.

    Parameters
    ----------
    where, executor, watch
        As for `survey`.
    columns
        The columns that the table shall have, when that is known: `Column`, or names of text columns; or a plan file that
        has them. Their names, types and order stay; only spellings and guesses are added, and all else is unlisted.
    ids
        A scheme for the names of the sources, as in `Sources`.
    onto
        A plan file that is there: its decisions, order and comments stay, and only what is new is added. Its own sources
        are looked at, and those in `where` that it does not have yet.
    keep
        A plan file: written the first time, and from then on used as it is, without any guess; `Draft.new` then says what
        has come since.

    Returns
    -------
    Draft
        Its ``plan`` can be assembled; ``save`` writes a plan file to read and edit; ``guesses`` can be decided.

    Raises
    ------
    NothingFound
        When there is no source, or none with a readable header.
    PlanError
        When a plan file is wrong.

    Examples
    --------
    >>> import tempfile, pathlib
    >>> folder = pathlib.Path(tempfile.mkdtemp())
    >>> _ = (folder / "2021.csv").write_text("day,depth\\n2021-05-01,3.2\\n")
    >>> [(column.name, column.type) for column in draft(folder).plan.columns]
    [('day', 'date'), ('depth', 'number')]
    >>> from integrum.plan.column import Column
    >>> draft(folder, columns=[Column("Depth", "number"), Column("wind", "number")]).plan.columns[0].headers
    ('Depth', 'depth')
    """
    from integrum.drafting.draft import draft_from
    from integrum.drafting.onto import draft_onto, kept_draft

    look_at = partial(survey, executor=executor, watch=watch)
    if keep is not None and os.path.exists(keep):
        plan, text, folder = _plan_file(keep)
        return kept_draft(look_at(keep), plan, text, folder)
    if onto is not None:
        plan, text, folder = _plan_file(onto)
        new = _beyond(plan, folder, where)
        drafted = draft_from(look_at(new), folder) if new else None
        return draft_onto(look_at(onto), plan, text, folder, drafted)
    if ids:
        where = [replace(group, ids=group.ids or ids) for group in _looked_at(where)[0].sources]
    made = draft_from(look_at(where), _looked_at(where)[1], _given(columns))
    if keep is not None:
        made.save(Path(keep))
    return made


def _given(columns: Sequence[Column | str] | str | os.PathLike[str] | None) -> list[Column] | None:
    if columns is None:
        return None
    if isinstance(columns, (str, os.PathLike)):
        return read_columns(os.fspath(columns))
    return [Column(one) if isinstance(one, str) else one for one in columns]


def _plan_file(path: str | os.PathLike[str]) -> tuple[Plan, str, Path]:
    """A plan that is there, the text of its file, and its folder."""
    plan = read_plan(os.fspath(path))
    return plan, Path(path).read_bytes().decode("utf-8-sig"), Path(os.path.abspath(path)).parent


def _beyond(plan: Plan, folder: Path, where: Plan | Where | Sequence[Where]) -> list[Sources]:
    """Groups of the sources in some places that a plan does not have."""
    if isinstance(where, Plan) or _is_plan_file(where):
        return []
    there = {source.path for source in find_sources(plan.sources, folder, OwnWork()).sources}
    groups: list[Sources] = []
    for group in _groups(where):
        found = {source.path for source in find_sources([group], Path.cwd(), OwnWork()).sources}
        if found and not found & there:
            groups.append(replace(group, find=[_near(folder, os.path.abspath(each)) for each in group.find]))
        elif found - there:
            groups.append(replace(group, find=[_near(folder, each) for each in sorted(found - there)]))
    return groups


def _near(folder: Path, place: str) -> str:
    return os.path.relpath(place, folder) if folder == Path.cwd() else place


def assemble(
    what: Plan | Draft | Where | Sequence[Where],
    to: str | os.PathLike[str] | None = None,
    *,
    record: str | os.PathLike[str] | None = None,
    guard_formulas: bool = False,
    executor: Executor | None = None,
    watch: Watch | None = None,
    in_flight: int = 0,
) -> Outcome:
    """Assemble sources into one table, as the plan says and nothing else.

    Parameters
    ----------
    what
        A `Plan`, a `Draft`, the path of a plan file (``.toml``), or where the sources are; then a plan is
        drafted on the fly, and kept in the record. A `Plan`'s relative paths mean the working folder's.
    to
        A file whose suffix is ``.csv``, ``.parquet`` or ``.xlsx``, ``"-"`` for CSV on standard output, or None: the
        table stays in memory. Missing folders are made. A name with identifiers in it, such as
        ``"{lake}_tidy.parquet"``, gives one output for each value; ``{group}`` is the group's name.
    record
        The folder that documents the run; beside the output when left out: ``lakes.csv`` gives ``lakes-record``,
        or ``lakes.csv-record`` where that is the record of another output. Outputs named after identifiers have one
        for all of them. Without a file as output there is none unless it is named.
    guard_formulas
        For CSV: put an apostrophe before cells that a spreadsheet program would take for formulas.
    executor
        Where the work is done; threads of this process when left out. Any executor of
        `concurrent.futures` will do, and gives the same bytes.
    watch
        Is called with the name of the source at hand, the bytes done and the bytes in all.
    in_flight
        Bytes of sources that may be under work at one time; 0: 4 MB for each worker, and 4 MB more.

    Returns
    -------
    Outcome
        The table, what became of each source, and the problems. When no source could be assembled its status is 2,
        nothing is written, and what was there before is as it was.

    Raises
    ------
    PlanError
        When the plan is wrong.
    NothingFound
        When there is no source.
    OutputError
        When the output or the record cannot be written.
    LedgerError
        When rows in are not rows out; nothing was written.

    Examples
    --------
    >>> import tempfile, pathlib
    >>> folder = pathlib.Path(tempfile.mkdtemp())
    >>> _ = (folder / "2021.csv").write_text("day,depth\\n2021-05-01,3.20\\n")
    >>> _ = (folder / "2022.csv").write_text("day,depth\\n2022-05-01,4.10\\n")
    >>> outcome = assemble(folder, to=folder / "out" / "lakes.csv")
    >>> print(outcome.output.read_text(), end="")
    source,source_row,day,depth
    2021.csv,2,2021-05-01,3.20
    2022.csv,2,2022-05-01,4.10
    """
    from integrum.assembling.run import run
    from integrum.engine.engine import Intake
    from integrum.naming.identifiers import identify
    from integrum.naming.outputs import has_names, output_names
    from integrum.reading.heads import read_heads
    from integrum.recording.destination import Destination, about_name, check_owner, record_of, record_of_many
    from integrum.recording.outcome import outcome_of
    from integrum.recording.tables import Named
    from integrum.recording.write import About
    from integrum.writing.formats import check_suffix

    started = datetime.now(UTC)
    to = None if to is None else os.fspath(to)
    for place in (to, record):
        if place is not None and "\0" in os.fspath(place):
            raise OutputError(f"{os.fspath(place)!r}: a path cannot have the character NUL in it")
    many = to is not None and has_names(to)
    target = Path(os.path.abspath(to)) if to not in (None, STANDARD_OUTPUT) else None
    if target:
        check_suffix(target, guard_formulas)
    elif guard_formulas and to is None:
        raise OutputError("guard_formulas is for CSV; give a .csv file as `to`")
    records = Path(os.path.abspath(record)) if record is not None else None
    if target and records is None:
        records = record_of_many(str(target)) if many else record_of(target)
    own = OwnWork(path for path in (target, records) if path and not many)
    if records:
        own.learn(records)
    with Scratch() as scratch, _workers(executor) as pool:
        ready = _plan(what, own, pool, scratch, watch, in_flight)
        plan = ready.plan
        headers = [header for column in plan.columns for header in column.headers]
        found = _found(plan, ready.folder, own, pool, scratch, watch, headers, known=ready.books)
        plan, remarks = moved(plan, ready.remarks, lambda place: os.path.abspath(ready.folder / place))
        layouts, chosen = _layouts_of(plan, found.sources, pool, ready)
        learned = ready.learned_of(found, layouts)
        unread = [number for number in range(len(layouts)) if number not in learned and number not in chosen]
        read = read_heads([found.sources[at] for at in unread], [layouts[at] for at in unread], pool)
        by_number = {number: one.head for number, one in chosen.items()} | dict(
            zip(unread, read, strict=True)
        )
        heads = [by_number[at] if at in by_number else learned[at].head for at in range(len(found.sources))]
        identified = identify(plan, found.sources, heads, layouts)
        names = [str(target) if target else ""] * len(found.sources)
        if many:
            names = output_names(str(target), plan, found.sources, identified)
        places = {name: Path(name) for name in dict.fromkeys(names)} if target else {}
        said = [*found.problems, *ready.problems, *(each for one in chosen.values() for each in one.problems)]
        if target and records and not many:
            said += about_name(target, records)
        if records and record is not None:
            check_owner(records, list(places.values()))
        intake = Intake(plan, found.sources, layouts, heads, identified, names, said, learned)
        sources = [Named(one.file, one.sheet.name if one.sheet else "") for one in found.sources]
        destination = Destination(places, records, sources, guard_formulas, to == STANDARD_OUTPUT)
        with destination:
            made = run(
                intake,
                destination.outputs,
                destination.keep_aside,
                destination.keep_left_out,
                pool,
                watch,
                in_flight,
            )
            destination.publish(made, About(plan, remarks, found.base, started, guard_formulas))
    return outcome_of(plan, made, destination, records, to is None, many)


def _layouts_of(
    plan: Plan, sources: Sequence[Source], pool: Executor, ready: _Ready
) -> tuple[list[Layout], dict[int, Chosen]]:
    """The layout of each source; and by number what was chosen for those whose group has several."""
    layouts = [source.written(plan.group(source.group).possible_layouts[0]) for source in sources]
    several = []
    for number, source in enumerate(sources):
        if plan.group(source.group).layouts:
            proven = ready.proven(source)
            if proven is None:
                several.append(number)
            else:
                layouts[number] = proven
    if not several:
        return layouts, {}
    from integrum.engine.layouts import choose_layouts

    found = choose_layouts(plan, [sources[number] for number in several], pool)
    chosen = dict(zip(several, found, strict=True))
    for number, one in chosen.items():
        layouts[number] = one.layout
    return layouts, chosen


def _groups(where: Where | Sequence[Where]) -> list[Sources]:
    places = [where] if isinstance(where, (str, os.PathLike, Sources)) else list(where)
    plain = [os.fspath(place) for place in places if not isinstance(place, Sources)]
    groups = [place for place in places if isinstance(place, Sources)]
    return ([Sources(plain)] if plain else []) + groups


def _looked_at(where: Plan | Where | Sequence[Where]) -> tuple[Plan, Path]:
    """The plan to look at, or one that only has sources; and what relative paths are relative to."""
    if isinstance(where, Plan):
        return where, Path.cwd()
    if _is_plan_file(where):
        return read_plan(os.fspath(where)), Path(os.path.abspath(where)).parent
    return Plan(_groups(where), provenance=Provenance(False, False, False), rules=Rules("keep")), Path.cwd()


def _is_plan_file(what: object) -> TypeGuard[str | os.PathLike[str]]:
    return isinstance(what, (str, os.PathLike)) and os.fspath(what).lower().endswith(".toml")


class _Ready:
    """A plan that can be run, and what is known from the survey that it was drafted from.

    Attributes
    ----------
    plan, folder
        The plan, and what its relative paths are relative to.
    remarks, problems
        If it was drafted: the evidence for it, and what only the survey saw.
    books
        The workbooks that the survey looked into.
    """

    def __init__(self, plan: Plan, folder: Path, made: Draft | None = None) -> None:
        self.plan, self.folder = plan, folder
        self.remarks = made.remarks if made else {}
        self.problems: tuple[Problem, ...] = made.problems if made else ()
        seen = made.survey if made else None
        self.books = seen.books if seen else None
        self._learned = dict(zip(map(_place, seen.found), seen.learned, strict=True)) if seen else {}
        self._proven = (
            {_place(seen.found[at]): one for at, one in made.proven.items()} if made and seen else {}
        )

    def proven(self, source: Source) -> Layout | None:
        """The layout that the draft has proven for a source, if it has."""
        return self._proven.get(_place(source))

    def learned_of(self, found: Found, layouts: Sequence[Layout]) -> dict[int, Learned]:
        """What is known of the sources of a run, by their numbers."""
        known = {
            number: self._learned[_place(source)]
            for number, source in enumerate(found.sources)
            if _place(source) in self._learned
        }
        return {number: one for number, one in known.items() if one.layout == layouts[number]}


def _place(source: Source) -> tuple[object, ...]:
    """What two searches find at the same place in the same state."""
    return (source.path, source.member, source.sheet, source.state)


def _plan(
    what: Plan | Draft | Where | Sequence[Where],
    own: OwnWork,
    pool: Executor,
    scratch: Scratch,
    watch: Watch | None,
    in_flight: int,
) -> _Ready:
    if isinstance(what, Plan):
        return _Ready(what, Path.cwd())
    if _is_plan_file(what):
        return _Ready(read_plan(os.fspath(what)), Path(os.path.abspath(what)).parent)
    from integrum.drafting.draft import Draft, draft_from
    from integrum.surveying.survey import survey_found

    if isinstance(what, Draft):
        return _Ready(what.plan, what.folder, what)
    sought, folder = _looked_at(what)
    found = _found(sought, folder, own, pool, scratch, watch)
    made = draft_from(survey_found(sought, found, pool, scratch.folder_for(found), watch, in_flight), folder)
    return _Ready(made.plan, made.folder, made)


def _found(
    plan: Plan,
    folder: Path,
    own: OwnWork,
    pool: Executor,
    scratch: Scratch,
    watch: Watch | None = None,
    headers: Collection[str] = (),
    contents: bool = True,
    known: Mapping[tuple[object, ...], Any] | None = None,
) -> Found:
    """The sources of a plan, the sheets of workbooks in their place; what a run left half done is settled first."""
    found = find_sources(plan.sources, folder, own)
    if found.unfinished:
        from integrum.recording.swap import settle_in

        for each in found.unfinished:
            settle_in(each)
        found = find_sources(plan.sources, folder, own)
    if all(is_delimited(source.name) for source in found.sources):
        return found
    from integrum.sources.sheets import unfold

    return unfold(found, plan.sources, pool, contents, headers, scratch.folder, watch, known)


@contextmanager
def _workers(executor: Executor | None) -> Iterator[Executor]:
    """The executor that was given, or threads for this call alone."""
    if executor is not None:
        yield executor
        return
    with threads() as pool:
        yield pool
