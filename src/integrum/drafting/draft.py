"""A drafted plan: its evidence, its open guesses, and how it is written."""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from integrum.drafting.answers import Answer, Settled
from integrum.drafting.decision_file import decisions_beside, decisions_text, joined, read_decisions
from integrum.drafting.drafted_plan import DraftedPlan
from integrum.errors import PAGES_NEED, PlanError, check_extra
from integrum.pages.signed_page import write_page
from integrum.plan.merge import merge_plan
from integrum.plan.plan import Plan
from integrum.plan.toml import TO_FILL, moved, write_plan
from integrum.problems import notebook
from integrum.problems.found import Entries
from integrum.problems.problem import counted
from integrum.remote.addresses import below, is_remote

if TYPE_CHECKING:
    from integrum.drafting.page import DraftPage
    from integrum.drafting.questions import Question


class Draft(DraftedPlan):
    """A drafted plan with its evidence; `str` gives the plan file.

    Attributes
    ----------
    plan
        The plan, with what was decided since.
    remarks
        The evidence: comment lines by part of the plan.
    folder
        What the plan's relative paths are relative to.
    problems
        Problems that only the survey can find: second tables, sheets without a table.
    survey
        The survey that it was drafted from.
    proven
        By the number of a source: which of the layouts of its group fits it.
    new
        For an existing plan: what is new since, a line each.
    before
        The text of the existing plan file; empty without one.
    typed
        The columns whose types somebody has given.
    answers
        What a person has decided, the latest last; it is kept beside the plan.
    settled
        What became of the decisions that it was drafted with.
    """

    @property
    def questions(self) -> Entries[Question]:
        """What nobody has decided, the most costly first: names, values, types, orders of dates, layouts, names of files."""
        from integrum.drafting.questions import Question, questions_of

        return Entries(questions_of(self), Question)

    def settle(self, answers: Sequence[Answer]) -> tuple[Settled, ...]:
        """Do what a person has decided about columns and layouts.

        Decisions about lines, sources and the names of files change what is read; they are for `integrum.draft`.

        Parameters
        ----------
        answers
            The decisions; `integrum.drafting.decision_file.read_decisions` reads them.

        Returns
        -------
        tuple of Settled
            What became of each of them.
        """
        from integrum.drafting.settle import settle

        self.answers = tuple(joined([*self.answers, *answers]))
        return tuple(settle(self, answers))

    def settle_what_is_new(self, answers: Sequence[Answer], plan: Plan) -> tuple[Settled, ...]:
        """Do what was decided before about headers that a plan does not have; of all else the plan goes first."""
        from integrum.drafting.settle import settle_what_is_new

        self.answers = tuple(joined([*answers, *self.answers]))
        return tuple(settle_what_is_new(self, answers, plan))

    def save(self, path: str | Path) -> Path:
        """Write the plan file; its paths become relative to the folder of `path`. What was decided is kept beside it.

        Parameters
        ----------
        path
            Where to write. An existing file is replaced; what was drafted onto it keeps its comments and order.

        Returns
        -------
        Path
            The same path.
        """
        path = Path(path)
        path.parent.mkdir(parents=True, exist_ok=True)
        beside = decisions_beside(path)
        # what was decided about this plan before stays
        before = read_decisions(beside) if self.answers and os.path.exists(beside) else []
        path.write_text(self.text(path.parent), encoding="utf-8")
        if self.answers:
            text = decisions_text(joined([*before, *self.answers]), path.name)
            beside.write_text(text, encoding="utf-8")
        return path

    def page(self, plan: str | Path, *, replace: bool = False) -> DraftPage:
        """Write a page to look at and decide on, beside a plan file.

        Parameters
        ----------
        plan
            The plan file that the draft is saved to. The page of ``lakes.toml`` is ``lakes-draft.html``.
        replace
            Whether a page that is not as Integrum made it may be written over.

        Returns
        -------
        DraftPage
            Where it is. It holds all that it needs, loads nothing from elsewhere and sends nothing.

        Raises
        ------
        OutputError
            When the page cannot be written, or another one is in its place.
        PlanError
            When the draft was not made from a survey.

        Examples
        --------
        >>> import integrum as ig, tempfile, pathlib
        >>> folder = pathlib.Path(tempfile.mkdtemp())
        >>> _ = (folder / "2021.csv").write_text("day,depth\\n2021-05-01,3.2\\n")
        >>> ig.draft(folder).page(folder / "lakes.toml").path.name
        'lakes-draft.html'
        """
        check_extra("a page", "pages", *PAGES_NEED)
        from integrum.drafting.page import DraftPage, page_of

        plan = Path(plan)
        if self.survey is None:
            raise PlanError("a page needs a draft that was made from sources")
        place = plan.with_name(f"{plan.stem}-draft.html")
        return DraftPage(write_page(place, page_of(self, self.survey, plan), replace), plan)

    def text(self, folder: str | Path) -> str:
        """The plan file as text, with paths relative to a folder."""
        plan, remarks = moved(
            self.plan, self.remarks, lambda place: _relative(self.folder, place, Path(folder))
        )
        if self.before:
            return merge_plan(self.before, plan, remarks, TO_FILL)
        return write_plan(plan, remarks, TO_FILL)

    def _repr_html_(self) -> str:
        plan = self.plan
        head = (
            f"Draft: {counted(len(plan.sources), 'group')} of sources, {counted(len(plan.columns), 'column')}"
        )
        columns = [
            (
                each.name,
                each.type,
                ", ".join(each.headers[1:]),
                "\n".join(self.remarks.get(("columns", each.name), ())),
            )
            for each in plan.columns
        ]
        parts = [
            notebook.title(head),
            notebook.table(["column", "type", "also", "evidence"], columns, most=200),
        ]
        if self.guesses:
            rows = [(f"{one.score:.2f}", one.header, one.column, one.because) for one in self.guesses]
            parts += [
                notebook.title("To decide: draft.guesses[0].accept() or .refuse()"),
                notebook.table(["score", "header", "may be", "because"], rows),
            ]
        return notebook.view(*parts, notebook.folded("the plan file", str(self)))

    def __str__(self) -> str:
        return (
            merge_plan(self.before, self.plan, self.remarks, TO_FILL)
            if self.before
            else write_plan(self.plan, self.remarks, TO_FILL)
        )


def near_place(place: str, folder: Path) -> str:
    """A path relative to a folder; absolute where it is on another drive."""
    try:
        return below(os.path.abspath(folder), place)
    except ValueError:
        return Path(place).as_posix()


def _relative(start: Path, place: str, folder: Path) -> str:
    return (
        place
        if os.path.isabs(place) or is_remote(place)
        else near_place(os.path.abspath(start / place), folder)
    )
