"""A plan that is being drafted: its evidence, its open guesses, and how a decision changes it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import partial, reduce
from pathlib import Path

from integrum.columns.names.known import NameProfile
from integrum.drafting.answers import Answer, MissingCode, SameName, SameValue, Settled
from integrum.drafting.columns import decided, filled, free_of
from integrum.drafting.decision_file import joined
from integrum.plan.decisions import accept_guess, accept_value, refuse_guess, refuse_value
from integrum.plan.layout import Layout
from integrum.plan.plan import Plan
from integrum.plan.toml import Remarks
from integrum.problems.found import Entries
from integrum.problems.problem import Problem, clipped
from integrum.surveying.decision import decision_lines, why_text
from integrum.surveying.view import Survey
from integrum.values.units import conversion_to


@dataclass(frozen=True)
class OpenGuess:
    """A guess that a header belongs to a column, which nobody has decided.

    Attributes
    ----------
    draft
        The draft that it is a guess of; `accept` and `refuse` change its plan.
    column, header
        The column, and the header cell that may belong to it.
    score, because
        The share of right guesses among those like it, and what speaks for it.
    """

    draft: DraftedPlan = field(repr=False)
    column: str
    header: str
    score: float
    because: str

    @property
    def sources(self) -> tuple[int, int]:
        """How many sources have the column, and how many the header."""
        both = (self.draft.known(self.column), self.draft.known(self.header))
        return both[0].count if both[0] else 0, both[1].count if both[1] else 0

    @property
    def examples(self) -> tuple[tuple[str, ...], tuple[str, ...]]:
        """Some values of the column, and some below the header."""
        both = (self.draft.known(self.column), self.draft.known(self.header))
        return both[0].examples if both[0] else (), both[1].examples if both[1] else ()

    @property
    def units_differ(self) -> bool:
        """Whether the two are given in different units, of which one cannot be converted to the other."""
        both = (self.draft.known(self.column), self.draft.known(self.header))
        mine, theirs = (one.given_units if one else () for one in both)
        return bool(mine and theirs) and not any(
            conversion_to(one, other) is not None for one in mine for other in theirs
        )

    def accept(self, why: str = "accepted") -> None:
        """Decide that the header belongs to the column; a column of its own that it had becomes part of that one."""
        self.draft.join(self.column, self.header, why)
        if why in ("accepted", "decided"):  # by a person, and not for its score
            self.draft.answered(SameName(self.column, self.header, True))

    def refuse(self) -> None:
        """Decide that the header never belongs to the column; it is not offered again."""
        self.draft.keep_apart(self.column, self.header)
        self.draft.answered(SameName(self.column, self.header, False))


@dataclass(frozen=True)
class OpenValue:
    """A guess that a value is another spelling of a more frequent one, which nobody has decided.

    Attributes
    ----------
    draft
        The draft that it is a guess of; `accept` and `refuse` change its plan.
    column
        The name of the column in the plan.
    value, other
        The value, and the one that it may be.
    because
        What speaks for it.
    """

    draft: DraftedPlan = field(repr=False)
    column: str
    value: str
    other: str
    because: str

    def accept(self) -> None:
        """Decide that it is the other value; `values` of the column says so."""
        self.draft.plan = accept_value(self.draft.plan, self.column, self.value)
        self.draft.answered(SameValue(self.column, self.value, self.other, True))

    def refuse(self) -> None:
        """Decide that it is a value of its own. It is not offered again."""
        self.draft.plan = refuse_value(self.draft.plan, self.column, self.value)
        self.draft.answered(SameValue(self.column, self.value, self.other, False))


@dataclass
class DraftedPlan:
    """A plan with the evidence for it, and what changes it; `integrum.drafting.draft.Draft` is what people get."""

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

    def known(self, header: str) -> NameProfile | None:
        """The profile of a header, or of a column with all of its headers."""
        column = next((one for one in self.plan.columns if one.name == header), None)
        names = set(column.headers) if column else {header}
        some = [one for one in self.survey.known if one.name in names] if self.survey else []
        return reduce(NameProfile.with_other, some) if some else None

    def accept(self, least: float) -> list[OpenGuess]:
        """Accept all guesses from a score on, but for those whose units differ; each is marked in a comment.

        Parameters
        ----------
        least
            From 0 to 1, such as 0.9: of guesses with this score, 9 in 10 are right.

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
        """Decide about a column again, after it got more headers."""
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

    def join(self, column: str, header: str, why: str) -> None:
        """Make a header one of a column. If it has a column of its own, that one is removed."""
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
        """Refuse that a header belongs to a column. It is not offered again."""
        self.plan = refuse_guess(self.plan, column, header)

    def answered(self, answer: Answer) -> None:
        """Keep a decision with the plan."""
        self.answers = tuple(joined([*self.answers, answer]))

    def remark(self, column: str, line: str) -> None:
        """Add a line to the comments on a column."""
        key = ("columns", column)
        self.remarks = {**self.remarks, key: [*self.remarks.get(key, ()), clipped(line, 400)]}
