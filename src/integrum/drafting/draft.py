"""A drafted plan: its evidence, its open guesses, and how it is written."""

from __future__ import annotations

import os
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import partial, reduce
from pathlib import Path
from typing import TYPE_CHECKING

from integrum.deciding.words import decision_lines, why_text
from integrum.drafting.answers import Answer, MissingCode
from integrum.drafting.deciding import decided, filled, free_of
from integrum.drafting.decision_file import decisions_beside, decisions_text, joined, read_decisions
from integrum.drafting.open_guesses import OpenGuess, OpenValue
from integrum.entries import Entries
from integrum.errors import PlanError
from integrum.plan.decisions import accept_guess, refuse_guess
from integrum.plan.layout import Layout
from integrum.plan.merge import merge_plan
from integrum.plan.model import Plan
from integrum.plan.toml import TO_FILL, Remarks, moved, write_plan
from integrum.problems import Problem, clipped, counted
from integrum.reconciling.known import Known
from integrum.remote.addresses import below, is_remote
from integrum.surveying.findings import Survey

if TYPE_CHECKING:
    from integrum.drafting.page import DraftPage
    from integrum.drafting.questions import Question
    from integrum.drafting.settle import Settled


@dataclass
class Draft:
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

    plan: Plan
    remarks: Remarks
    folder: Path
    problems: tuple[Problem, ...] = ()
    survey: Survey | None = field(default=None, repr=False, compare=False)
    proven: Mapping[int, Layout] = field(default_factory=dict, repr=False, compare=False)
    new: tuple[str, ...] = ()
    before: str = field(default="", repr=False, compare=False)
    typed: frozenset[str] = field(default=frozenset(), repr=False, compare=False)
    answers: tuple[Answer, ...] = field(default=(), repr=False, compare=False)
    settled: tuple[Settled, ...] = field(default=(), repr=False, compare=False)

    @property
    def guesses(self) -> Entries[OpenGuess]:
        """The guesses that are not decided, the surest first.

        Examples
        --------
        >>> import integrum as ig, tempfile, pathlib
        >>> folder = pathlib.Path(tempfile.mkdtemp())
        >>> for year, name in ((2021, "water_temp"), (2022, "T_water")):
        ...     _ = (folder / f"{year}.csv").write_text(f"site,{name},ph\\nA,11.2,7.1\\nB,12.9,7.4\\nA,10.1,7.3\\n")
        >>> draft = ig.draft(folder)
        >>> [(guess.column, guess.header) for guess in draft.guesses]
        [('water_temp', 'T_water')]
        >>> draft.guesses[0].accept()
        >>> draft.guesses, [column.headers for column in draft.plan.columns][1]
        ((), ('water_temp', 'T_water'))
        """
        found = [
            OpenGuess(self, column.name, one.header, one.score, one.because)
            for column in self.plan.columns
            for one in column.guesses
        ]
        return Entries(sorted(found, key=lambda one: -one.score), OpenGuess)

    @property
    def value_guesses(self) -> Entries[OpenValue]:
        """The values that may be others in another spelling, which nobody has decided.

        Examples
        --------
        >>> import integrum as ig, tempfile, pathlib
        >>> folder = pathlib.Path(tempfile.mkdtemp())
        >>> rows = "Reed,7.1\\nReed,7.2\\nreed,7.0\\nOpen,7.3\\nOpen,7.4\\nOpen,7.2\\n"
        >>> _ = (folder / "a.csv").write_text(f"habitat,ph\\n{rows}")
        >>> draft = ig.draft(folder)
        >>> [(guess.value, guess.other) for guess in draft.value_guesses]
        [('reed', 'Reed')]
        >>> draft.value_guesses[0].accept()
        >>> draft.plan.columns[0].values
        {'reed': 'Reed'}
        """
        found = (
            OpenValue(self, column.name, one.value, one.as_, one.because)
            for column in self.plan.columns
            for one in column.alike
        )
        return Entries(found, OpenValue)

    @property
    def questions(self) -> Entries[Question]:
        """What nobody has decided, the most costly first: names, values, types, orders of dates, layouts, names of files."""
        from integrum.drafting.questions import Question, questions_of

        return Entries(questions_of(self), Question)

    def known(self, header: str) -> Known | None:
        """What the survey knows of a header, or of the column of that name with all its headers."""
        column = next((one for one in self.plan.columns if one.name == header), None)
        names = set(column.headers) if column else {header}
        some = [one for one in self.survey.known if one.name in names] if self.survey else []
        return reduce(Known.with_other, some) if some else None

    def accept(self, least: float) -> list[OpenGuess]:
        """Accept all guesses from a score on, but for those whose units differ; each is marked in a comment.

        Parameters
        ----------
        least
            The least score.

        Returns
        -------
        list of OpenGuess
            Those that were accepted.
        """
        done = []
        while left := [one for one in self.guesses if one.score >= least and not one.units_differ]:
            one = left[0]
            one.accept(f"accepted, as its score is at least {least:g}")
            done.append(one)
        return done

    def decide_again(self, name: str) -> None:
        """Decide about a column that has got more headers, by the values below all of them."""
        survey = self.survey
        column = next(one for one in self.plan.columns if one.name == name)
        here = [header for header in column.headers if survey and survey.values and survey.values.has(header)]
        if survey is None or survey.values is None or not here or column.from_:
            return
        taken = {each for one in self.plan.columns for each in (*one.headers, one.censored)} | {
            *self.plan.identifiers
        }
        free = partial(free_of, taken=taken)
        is_typed = name in self.typed
        units = dict(sorted(survey.values.of(here).units.items(), key=lambda one: -one[1]))
        void = {one.answer for one in self.settled if not one.fits}
        codes = {
            one.code: one.missing
            for one in self.answers
            if isinstance(one, MissingCode) and one.column in column.headers and one not in void
        }
        made = survey.values.decide(
            here,
            column.unit if is_typed else "",
            column.type if is_typed else "",
            [code for code, missing in codes.items() if missing],
        )
        again = (filled if is_typed else decided)(column, made, survey, units, free)
        if again.type == "text":
            again = replace(again, missing=tuple(dict.fromkeys((*again.missing, *column.missing))))
        if codes:
            missing = dict.fromkeys((*again.missing, *codes))
            again = replace(again, missing=[one for one in missing if codes.get(one, True)])
        labels = [one.source for one in survey.sources]
        again = replace(again, undecided=why_text(made, labels) if not is_typed else column.undecided)
        self.plan = replace(self.plan, columns=[again if one is column else one for one in self.plan.columns])
        before = {line for one in survey.columns if one.name in here for line in one.said}
        key = ("columns", name)
        kept = [line for line in self.remarks.get(key, ()) if line not in before]
        lines = [clipped(line, 400) for line in decision_lines(made, labels)]
        self.remarks = {**self.remarks, key: [*lines, *(line for line in kept if line not in lines)]}

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

    def join(self, column: str, header: str, why: str) -> None:
        """Make a header one of a column; a column of its own that it had becomes part of that one."""
        guess = next((one for one in self.guesses if (one.column, one.header) == (column, header)), None)
        twin = next((one for one in self.plan.columns if one.name == header), None)
        self.plan = accept_guess(self.plan, column, header)
        if twin is not None:
            self.remarks = {
                key: lines for key, lines in self.remarks.items() if key != ("columns", twin.name)
            }
        said = f" ({guess.score:.2f}: {guess.because})" if guess and guess.score and guess.because else ""
        self.decide_again(column)
        self.remark(column, f'"{header}": {why}{said}')

    def keep_apart(self, column: str, header: str) -> None:
        """Say that a header is not one of a column; it is not offered again."""
        self.plan = refuse_guess(self.plan, column, header)

    def answered(self, answer: Answer) -> None:
        """Keep a decision with the plan."""
        self.answers = tuple(joined([*self.answers, answer]))

    def remark(self, column: str, line: str) -> None:
        """Add a line to the comments on a column."""
        key = ("columns", column)
        self.remarks = {**self.remarks, key: [*self.remarks.get(key, ()), clipped(line, 400)]}

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
        from integrum.drafting.page import DraftPage, page_of
        from integrum.pages.page import write_page

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
        from integrum import notebook

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
    """A place as seen from a folder; an absolute path where it lies on another drive."""
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
