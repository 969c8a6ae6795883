"""Write the plan that a survey suggests; a plan as a Python script."""

from __future__ import annotations

import os
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import Executor
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from integrum.calls.common import Choice, Where, groups_of, is_plan_file, looked_at
from integrum.calls.surveys import survey_in
from integrum.errors import OutputError
from integrum.measures.tables import PLAN
from integrum.plan.column import Column
from integrum.plan.from_toml import read_columns, read_plan
from integrum.plan.plan import Plan
from integrum.plan.python import plan_as_python, script_name
from integrum.plan.sources import Sources
from integrum.plan.toml import moved
from integrum.plan.wrong_words import answers_wrong_words
from integrum.problems.problem import near
from integrum.remote.addresses import is_remote, joined
from integrum.sources.find import find_sources
from integrum.sources.own import OwnWork
from integrum.workers.progress import Watch

if TYPE_CHECKING:
    from integrum.drafting.answers import Answer, Settled
    from integrum.drafting.draft import Draft
    from integrum.surveying.view import Survey


@answers_wrong_words
def draft(
    where: Plan | Where | Sequence[Where],
    *,
    columns: Sequence[Column | str] | str | os.PathLike[str] | None = None,
    ids: str | Sequence[str] = "",
    sheets: str | Sequence[str] = (),
    exclude: str | Sequence[str] = (),
    expect: int | Sequence[str] | Mapping[str, Sequence[str]] | None = None,
    access: Mapping[str, str | int | float | bool] | None = None,
    accept: float | None = None,
    onto: str | os.PathLike[str] | None = None,
    keep: str | os.PathLike[str] | None = None,
    decisions: str | os.PathLike[str] | Sequence[str | os.PathLike[str]] = (),
    executor: Executor | None = None,
    watch: Watch | None = None,
) -> Draft:
    """Survey the sources and write the plan that they suggest, the evidence as comments.

    Parameters
    ----------
    where
        As for `survey`; or the table of an earlier run, whose plan is taken over with its comments.
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
    columns
        The columns that the table should have, if you know them: `Column`, or their names, also as one text with commas; or
        a plan file that has them. What they say stays, in this order. What they leave open is filled from the values: other
        spellings, missing codes, units, the order of day and month, and of names alone the types.
    accept
        Accept all guesses with at least this score; each is marked in a comment of the plan.
    onto
        An existing plan file: its decisions, order and comments stay, and only what is new is added. Its own sources are
        looked at, and those in `where` that it does not have yet.
    keep
        A plan file: written the first time, then used without guessing. What the code says goes before it: other columns, or
        other keys of a column; `Draft.new` says each, and what has changed in the sources since. Where the two cannot be
        brought together, as with other folders, that is an error that shows both.
    decisions
        A document of decisions, as the page of a draft gives it, or several; of two about the same the later one holds.
        Those that are kept beside the plan of `keep` hold when that is written. A plan that is there may have been edited
        since: it goes before the kept ones. `Draft.settled` says what became of each.
    executor, watch
        As for `survey`.

    Returns
    -------
    Draft
        Its ``plan`` can be assembled; ``save`` writes a plan file to read and edit; ``guesses`` can be decided.

    Raises
    ------
    NothingFound
        When there is no source, or none with a readable header.
    PlanError
        When a plan file or a document of decisions is wrong.

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
    from integrum.drafting.from_survey import draft_from
    from integrum.drafting.kept import draft_onto, kept_draft, with_columns, with_groups
    from integrum.publish.places import record_with

    look_at = partial(survey_in, executor=executor, watch=watch)
    choice = Choice(ids, sheets, exclude, expect, access)
    kept, said_now = _decided(decisions, keep if onto is None else onto)
    answers = [*kept, *said_now]
    given = _given(columns)
    if keep is not None and os.path.exists(keep):
        plan, text, folder = _plan_file(keep)
        name = os.path.basename(keep)
        said: list[str] = []
        if not isinstance(where, Plan) and not is_plan_file(where):
            plan, said = with_groups(plan, groups_of(where, choice), folder, name)
        seen = look_at(_lenient(plan, folder), folder)
        if given is not None:
            plan, more = with_columns(plan, given, seen, name)
            said += more
        plan, seen, settled = _regrouped(plan, seen, folder, kept, said_now, look_at)
        made = kept_draft(seen, plan, text, folder, said)
        return _with_decisions(made, plan, settled, kept, said_now)
    if lone := _table_of_a_run(where):
        plan, text, folder = _plan_file(record_with(lone) / PLAN)
        choice.refused_with(os.path.basename(lone))
        seen = look_at(_lenient(plan, folder), folder)
        plan, seen, settled = _regrouped(plan, seen, folder, (), said_now, look_at)
        return _with_decisions(kept_draft(seen, plan, text, folder), plan, settled, (), said_now)
    if onto is not None:
        plan, text, folder = _plan_file(onto)
        if not where:
            choice.refused_with(os.path.basename(onto))
        new = _beyond(plan, folder, where, choice)
        drafted = draft_from(look_at(Plan(new), Path.cwd()), folder) if new else None
        seen = look_at(_lenient(plan, folder), folder)
        plan, seen, settled = _regrouped(plan, seen, folder, kept, said_now, look_at)
        made = draft_onto(seen, plan, text, folder, drafted)
        made = _with_decisions(made, plan, settled, kept, said_now)
    else:
        wanted, folder = looked_at(where, choice)
        seen = look_at(wanted, folder)
        made = draft_from(seen, folder, given)
        settled = []
        if any(one.looks for one in answers):
            from integrum.drafting.settle_sources import regroup, with_effects

            changed = regroup(seen.groups, seen, answers, folder)
            settled = changed.settled
            if changed.layouts or changed.groups != list(seen.groups):
                groups_now = replace(wanted, sources=changed.groups)
                again = look_at(groups_now, folder, decided=changed.layouts)
                settled = with_effects(settled, seen, again)
                made = draft_from(again, folder, given)
        made.settled = tuple(settled)
        made.settle(answers)
    if accept is not None:
        made.accept(accept)
    if keep is not None:
        made.save(Path(keep))
    return made


def _regrouped(
    plan: Plan,
    seen: Survey,
    folder: Path,
    kept: Sequence[Answer],
    said: Sequence[Answer],
    look_at: Callable[[Plan, Path], Survey],
) -> tuple[Plan, Survey, list[Settled]]:
    """A plan after decisions about its sources, which are surveyed again.

    `kept`: what was decided before; the plan goes before it. `said`: what is decided now.
    """
    if not any(one.looks for one in (*kept, *said)):
        return plan, seen, []
    from integrum.drafting.settle import as_the_plan_says
    from integrum.drafting.settle_sources import in_groups, regroup, with_effects

    before = regroup(plan.sources, seen, kept, folder).settled
    changed = regroup(plan.sources, seen, said, folder)
    groups = in_groups(changed.groups, seen, changed.layouts, folder)
    settled = [*map(as_the_plan_says, before), *changed.settled]
    if groups == list(plan.sources):
        return plan, seen, settled
    plan = replace(plan, sources=groups)
    again = look_at(_lenient(plan, folder), folder)
    return plan, again, with_effects(settled, seen, again)


def _with_decisions(
    made: Draft, plan: Plan, settled: Sequence[Settled], kept: Sequence[Answer], said: Sequence[Answer]
) -> Draft:
    """A draft onto a plan after decisions about its columns. The plan wins over earlier decisions."""
    made.settled = tuple(settled)
    made.settle_what_is_new(kept, plan)
    made.settle(said)
    return made


def _decided(
    decisions: str | os.PathLike[str] | Sequence[str | os.PathLike[str]],
    plan: str | os.PathLike[str] | None,
) -> tuple[list[Answer], list[Answer]]:
    """Earlier decisions beside the plan, and those of a document, which win."""
    from integrum.drafting.decision_file import decisions_beside, read_decisions
    from integrum.drafting.decision_file import joined as latest

    documents = [decisions] if isinstance(decisions, (str, os.PathLike)) else decisions
    said = latest(one for each in documents for one in read_decisions(each))
    beside = decisions_beside(plan) if plan is not None else None
    kept = read_decisions(beside) if beside is not None and os.path.exists(beside) else []
    subjects = {one.subject for one in said}
    return [one for one in kept if one.subject not in subjects], said


def _table_of_a_run(where: Plan | Where | Sequence[Where]) -> Path | None:
    """The table of an earlier run, if nothing else is given; its plan is taken over."""
    from integrum.publish.places import record_with
    from integrum.record.run_file import is_record

    places = [where] if isinstance(where, (str, os.PathLike)) else where
    if not isinstance(places, list) or len(places) != 1 or not isinstance(places[0], (str, os.PathLike)):
        return None
    path = Path(places[0])
    has_record = (
        os.path.exists(path)
        and not is_plan_file(path)
        and is_record(record_with(Path(os.path.abspath(path))))
    )
    return Path(os.path.abspath(path)) if has_record and path.is_file() else None


def _given(columns: Sequence[Column | str] | str | os.PathLike[str] | None) -> list[Column | str] | None:
    if columns is None:
        return None
    if isinstance(columns, (str, os.PathLike)):
        named = os.fspath(columns)
        if isinstance(columns, str) and not named.endswith(".toml") and not os.path.exists(named):
            return [name for each in named.split(",") if (name := " ".join(each.split()))]
        return [*read_columns(named)]
    return list(columns)


def _plan_file(path: str | os.PathLike[str]) -> tuple[Plan, str, Path]:
    """A plan that is there, the text of its file, and its folder."""
    plan = read_plan(os.fspath(path))
    return plan, Path(path).read_bytes().decode("utf-8-sig"), Path(os.path.abspath(path)).parent


def _lenient(plan: Plan, folder: Path) -> Plan:
    """The plan without rules that set whole sources aside for their headers."""
    columns = [replace(column, required=False) for column in plan.columns]
    rules = replace(plan.rules, only_common=False, unlisted="report", bad_values="blank")
    return moved(replace(plan, columns=columns, rules=rules), {}, partial(joined, folder))[0]


def _beyond(plan: Plan, folder: Path, where: Plan | Where | Sequence[Where], choice: Choice) -> list[Sources]:
    """Groups of the sources in some places that a plan does not have."""
    if isinstance(where, Plan) or is_plan_file(where):
        return []
    there = {source.path for source in find_sources(plan.sources, folder, OwnWork()).sources}
    groups: list[Sources] = []
    for group in (replace(each, find=[one]) for each in groups_of(where, choice) for one in each.find):
        found = {source.path for source in find_sources([group], Path.cwd(), OwnWork()).sources}
        if found and not found & there:
            groups.append(replace(group, find=[joined(Path.cwd(), each) for each in group.find]))
        elif found - there:
            groups.append(replace(group, find=sorted(found - there)))
    return groups


@answers_wrong_words
def script(
    plan: str | os.PathLike[str], to: str | os.PathLike[str] | None = None, *, replace: bool = False
) -> str:
    """Write a plan file as a short Python script that assembles the same table, its comments kept.

    Parameters
    ----------
    plan
        A plan file (``.toml``).
    to
        The script to write; None: only give its text. The paths in it are relative to its folder.
    replace
        Whether to write over a file that is there.

    Returns
    -------
    str
        The text of the script. It is run as ``python make_table.py [TABLE]``, and gives the same bytes as the plan.

    Raises
    ------
    PlanError
        When the plan is wrong.
    OutputError
        When the script cannot be written, or is there already.

    Examples
    --------
    >>> import tempfile, pathlib
    >>> folder = pathlib.Path(tempfile.mkdtemp())
    >>> text = 'integrum = 1\\n[[sources]]\\nfind = "loggers"\\n# in metres\\n[[columns]]\\nname = "depth"\\n'
    >>> _ = (folder / "lakes.toml").write_text(text)
    >>> script(folder / "lakes.toml", folder / "make_table.py").splitlines()[0].strip('"')
    'Assemble one table from many files: the plan lakes.toml as a script.'
    >>> (folder / "make_table.py").read_text().count("# in metres")
    1
    """
    found = read_plan(os.fspath(plan))
    text = Path(plan).read_bytes().decode("utf-8-sig")
    folder = Path(os.path.abspath(plan)).parent
    if to is not None:
        place = Path(os.path.abspath(to))
        if place.exists() and not replace:
            raise OutputError(f"{near(place)} already exists; give another name, or replace=True (--replace)")
        if place.parent != folder:
            found, _ = moved(found, {}, lambda each: _from(place.parent, folder, each))
    said = plan_as_python(found, text, script_name(os.fspath(plan)), os.path.basename(plan))
    if to is not None:
        try:
            place.parent.mkdir(parents=True, exist_ok=True)
            place.write_text(said, encoding="utf-8")
        except OSError as error:
            raise OutputError(f"cannot write {near(place)}: {error.strerror}") from error
    return said


def _from(here: Path, folder: Path, place: str) -> str:
    """A place of a plan relative to another folder."""
    if os.path.isabs(place) or is_remote(place):
        return place
    try:
        return Path(os.path.relpath(os.path.join(folder, place), here)).as_posix()
    except ValueError:  # another drive
        return Path(os.path.abspath(os.path.join(folder, place))).as_posix()
