"""Make ready for a run: the plan, the sources that are there, their heads and names, and what is taken over."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from concurrent.futures import Executor
from contextlib import contextmanager
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from integrum.calls.common import AllowCode, Choice, Where, found_for, is_plan_file, looked_at, with_code
from integrum.errors import IntegrumError
from integrum.plan.layout import Layout
from integrum.plan.plan import Plan
from integrum.plan.toml import Remarks, moved
from integrum.problems.problem import Problem
from integrum.remote.addresses import joined
from integrum.sources.find import Found
from integrum.sources.own import OwnWork
from integrum.sources.sheets import Scratch
from integrum.sources.source import Source
from integrum.workers.progress import Watch

# a run with a plan needs neither the survey nor the draft; what is only needed sometimes is loaded then
if TYPE_CHECKING:
    from integrum.drafting.draft import Draft
    from integrum.intake.intake import Intake, SurveyCache
    from integrum.intake.layouts import Chosen
    from integrum.reuse.previous_run import PreviousRun


@dataclass(frozen=True)
class Prepared:
    """A plan with its sources, ready for a run."""

    # the plan, its paths absolute and with its functions; and the evidence, when it was drafted for the run
    plan: Plan
    remarks: Remarks
    found: Found
    # the layout of each; and by number what was chosen for those whose group has several
    layouts: Sequence[Layout]
    chosen: Mapping[int, Chosen]
    cached: Mapping[int, SurveyCache]  # by number what a survey has learned of a source
    problems: Sequence[Problem]  # what a survey alone saw
    drafted: bool  # whether the plan was drafted for this run

    def intake(
        self,
        executor: Executor,
        template: str = "",
        target: str = "",
        previous: PreviousRun | None = None,
        copies: bool = True,
        stop_at_first: bool = False,
    ) -> Intake:
        """What goes into the engine.

        Raises CannotTake when what is known of the earlier run cannot be used after all.

        Parameters
        ----------
        template
            The name of outputs with identifiers in it; empty when there are not several.
        copies
            Whether the rows that are taken over are wanted, or only what is known of them.
        stop_at_first
            Whether to stop at the first source that has to be set aside.
        """
        from integrum.columns.identifiers import identify
        from integrum.columns.outputs import output_names
        from integrum.intake.intake import CannotTake, Intake, NoReuse, Reuse
        from integrum.reading.heads import as_marked, read_heads

        plan, sources, layouts = self.plan, self.found.sources, self.layouts
        heads = {number: one.head for number, one in self.chosen.items()}
        heads |= {number: one.head for number, one in self.cached.items()}
        taking = None
        if previous is not None and previous.is_good:
            if plan.rules.repeated_rows == "once":
                raise CannotTake("rows that are in several sources are taken once")
            from integrum.reuse.taking import ReuseSearch

            with _or_cannot_take():
                taking = ReuseSearch(previous, plan, sources, layouts, executor)
                heads |= taking.heads

        def read(numbers: Sequence[int]) -> None:
            found = read_heads([sources[at] for at in numbers], [layouts[at] for at in numbers], executor)
            heads.update(zip(numbers, found, strict=True))

        read([number for number in range(len(sources)) if number not in heads])
        in_order = [heads[number] for number in range(len(sources))]
        identified = identify(plan, sources, in_order, layouts)
        over: Reuse = NoReuse()
        if taking:
            with _or_cannot_take():
                over = taking.over(in_order, identified, copies) or over
            # a head from a record does not say where the rows begin
            read([number for number in taking.heads if number not in over.sources])
        in_order = [heads[number] for number in range(len(sources))]
        said = [*self.found.problems, *undecided(plan, self.problems, self.drafted)]
        said += [each for one in self.chosen.values() for each in one.problems]
        return Intake(
            plan,
            sources,
            as_marked(layouts, in_order),
            in_order,
            identified,
            output_names(template, plan, sources, identified) if template else [target] * len(sources),
            said,
            {number: one for number, one in self.cached.items() if number not in over.sources},
            self.drafted,
            stop_at_first,
            over,
        )


def undecided(plan: Plan, seen: Sequence[Problem], drafted: bool) -> Iterator[Problem]:
    """What a survey saw and a plan has not decided; of a plan that was written down, what it says itself.

    `seen`: the problems of the draft; those that were decided since are left out.
    """
    if drafted:
        open_columns = {column.name for column in plan.columns if column.undecided}
        yield from (
            one
            for one in seen
            if one.code != "drafted-as-text" or not one.column or one.column in open_columns
        )
        return
    for column in plan.columns:
        if column.undecided:
            yield Problem.of(
                "drafted-as-text",
                column=column.name,
                message=f"drafted as {column.undecided}",
                hint="decide its type in the plan, and delete `undecided`",
            )
    for group in plan.sources:
        for one in group.undecided:
            name, found, message = one.partition(": ")
            yield Problem.of(
                "layout-undecided",
                name if found else "",
                message=message if found else one,
                hint="check the layout in the plan, and delete the line in `undecided`",
            )


@contextmanager
def _or_cannot_take() -> Iterator[None]:
    """Turn errors about an earlier run into a run that reads everything."""
    from integrum.intake.intake import CannotTake

    try:
        yield
    except (IntegrumError, OSError, LookupError, ValueError, TypeError) as error:
        raise CannotTake(f"the record of the last run cannot be used: {error}") from error


def prepare(
    what: Plan | Draft | Where | Sequence[Where],
    choice: Choice,
    own: OwnWork,
    pool: Executor,
    scratch: Scratch,
    watch: Watch | None,
    in_flight: int,
    allow_code: AllowCode,
    home: Path | None = None,
) -> Prepared:
    """Find the plan and the sources of a run; a plan is drafted where there is none.

    Parameters
    ----------
    what, choice
        As for `integrum.assemble`.
    own
        What is never a source.
    watch, in_flight, allow_code
        As for `integrum.assemble`.
    home
        The folder beside which functions of one's own may lie, where it is not that of the plan at hand.
    """
    ready = _plan(what, choice, own, pool, scratch, watch, in_flight)
    plan = ready.plan
    headers = [header for column in plan.columns for header in column.headers]
    found = found_for(plan, ready.folder, own, pool, scratch, watch, headers, known=ready.books)
    plan, remarks = moved(plan, ready.remarks, partial(joined, ready.folder))
    plan = with_code(plan, allow_code, home or ready.folder)
    layouts, chosen = _layouts_of(plan, found.sources, pool, ready)
    cached = ready.learned_of(found, layouts)
    return Prepared(plan, remarks, found, layouts, chosen, cached, ready.problems, ready.is_drafted)


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
    from integrum.intake.layouts import choose_layouts

    found = choose_layouts(plan, [sources[number] for number in several], pool)
    chosen = dict(zip(several, found, strict=True))
    for number, one in chosen.items():
        layouts[number] = one.layout
    return layouts, chosen


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
        self.is_drafted = made is not None
        self._learned = dict(zip(map(_place, seen.found), seen.cached, strict=True)) if seen else {}
        self._proven = (
            {_place(seen.found[at]): one for at, one in made.proven.items()} if made and seen else {}
        )

    def proven(self, source: Source) -> Layout | None:
        """The layout that the draft has proven for a source, if it has."""
        return self._proven.get(_place(source))

    def learned_of(self, found: Found, layouts: Sequence[Layout]) -> dict[int, SurveyCache]:
        """What is known of the sources of a run, by their numbers."""
        known = {
            number: self._learned[_place(source)]
            for number, source in enumerate(found.sources)
            if _place(source) in self._learned
        }
        return {number: one for number, one in known.items() if one.layout == layouts[number]}


def _place(source: Source) -> tuple[object, ...]:
    """A key of a source that changes when the file does."""
    return (source.path, source.member, source.sheet, source.state)


def _plan(
    what: Plan | Draft | Where | Sequence[Where],
    choice: Choice,
    own: OwnWork,
    pool: Executor,
    scratch: Scratch,
    watch: Watch | None,
    in_flight: int,
) -> _Ready:
    if isinstance(what, Plan) or is_plan_file(what):
        return _Ready(*looked_at(what, choice))
    from integrum.drafting.draft import Draft
    from integrum.drafting.from_survey import draft_from
    from integrum.surveying.survey import survey_found

    if isinstance(what, Draft):
        choice.refused_with("draft.plan")
        return _Ready(what.plan, what.folder, what)
    sought, folder = looked_at(what, choice)
    found = found_for(sought, folder, own, pool, scratch, watch)
    made = draft_from(survey_found(sought, found, pool, scratch.folder_for(found), watch, in_flight), folder)
    return _Ready(made.plan, made.folder, made)
