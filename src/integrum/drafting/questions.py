"""What a draft leaves to a person, as short questions with their evidence, the most costly first."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

from integrum.columns.identifiers import fitting, propose
from integrum.drafting.answers import Answer, NamesOfFiles, OrderOf, RightLayout, SameName, SameValue, TypeOf
from integrum.drafting.drafted_plan import DraftedPlan
from integrum.problems.problem import counted, first_few
from integrum.sources.suffixes import unpacked_name
from integrum.surveying.decision import Decision, told
from integrum.surveying.view import Survey
from integrum.values.notation import ORDER_WORDS
from integrum.values.types import TYPES

_MOST_SHOWN, _MOST_OPEN = 5, 4
_MOST_EXAMPLES = 3
# the orders that a date of digits may have, the likelier first
_ORDERS = ("dmy", "mdy", "ymd")


@dataclass(frozen=True)
class Choice:
    """A way to answer a question."""

    said: str
    answers: tuple[Answer, ...]  # what is decided by it

    def __str__(self) -> str:
        return self.said


@dataclass(frozen=True)
class Beside:
    """Two columns side by side: names, numbers of sources, some values."""

    names: tuple[str, str]
    sources: tuple[int, int]
    values: tuple[tuple[str, ...], tuple[str, ...]]


@dataclass(frozen=True)
class Question:
    """One thing that a person has to decide.

    Attributes
    ----------
    kind
        What it is about: as that of its answers.
    said
        The question in words, such as ``Is "TP" the same column as "total_phosphorus"?``.
    because
        The evidence, a line each.
    choices
        The ways to answer it; the likeliest first.
    cost
        How many values or rows would be wrong if it were answered wrongly.
    score
        Of a guess: the share of right ones among those like it; 0 where there is none.
    column, source
        The column and the source that it is about; empty where it is about none.
    beside
        For names: the two columns.
    """

    kind: str
    said: str
    because: tuple[str, ...]
    choices: tuple[Choice, ...]
    cost: int
    score: float = 0.0
    column: str = ""
    source: str = ""
    beside: Beside | None = field(default=None, compare=False, repr=False)


def questions_of(draft: DraftedPlan) -> list[Question]:
    """What nobody has decided yet, the most costly first.

    Examples
    --------
    >>> import integrum as ig, tempfile, pathlib
    >>> folder = pathlib.Path(tempfile.mkdtemp())
    >>> for year, name in ((2021, "water_temp"), (2022, "T_water")):
    ...     _ = (folder / f"{year}.csv").write_text(f"site,{name},ph\\nA,11.2,7.1\\nB,12.9,7.4\\nA,10.1,7.3\\n")
    >>> [question.said for question in questions_of(ig.draft(folder))]
    ['Is "T_water" the same column as "water_temp"?']
    """
    found = [*_names(draft), *_types(draft), *_layouts(draft), *_values(draft), *_files(draft)]
    decided = {one.subject for one in draft.answers}
    left = [
        one
        for one in found
        if not any(answer.subject in decided for choice in one.choices for answer in choice.answers)
        or one.kind in ("name", "value")
    ]
    return sorted(left, key=lambda one: (-one.cost, -one.score))


def _names(draft: DraftedPlan) -> Iterator[Question]:
    for guess in draft.guesses:
        known = draft.known(guess.header)
        cost = sum(known.kinds.values()) if known else 0
        yield Question(
            "name",
            f'Is "{guess.header}" the same column as "{guess.column}"?',
            (
                f"score {guess.score:.2f}: of guesses like this, {round(100 * guess.score)} in 100 are right",
                *(guess.because.split("; ") if guess.because else ()),
            ),
            (
                Choice("the same", (SameName(guess.column, guess.header, True),)),
                Choice("not the same", (SameName(guess.column, guess.header, False),)),
            ),
            cost,
            guess.score,
            guess.column,
            beside=Beside((guess.column, guess.header), guess.sources, guess.examples),
        )


def _values(draft: DraftedPlan) -> Iterator[Question]:
    for guess in draft.value_guesses:
        yield Question(
            "value",
            f'Is "{guess.value}" the same as "{guess.other}" in "{guess.column}"?',
            (guess.because,) if guess.because else (),
            (
                Choice("the same", (SameValue(guess.column, guess.value, guess.other, True),)),
                Choice("two values", (SameValue(guess.column, guess.value, guess.other, False),)),
            ),
            1,
            column=guess.column,
        )


def _types(draft: DraftedPlan) -> Iterator[Question]:
    """Questions about columns that are text though most values are not, and about open orders of dates."""
    survey = draft.survey
    if survey is None or survey.values is None:
        return
    names = [one.source for one in survey.sources]
    for column in draft.plan.columns:
        here = [each for each in column.headers if survey.values.has(each)]
        if not here or column.from_ or column.name in draft.typed:
            continue
        if not column.undecided and not column.kind.has_day:
            continue
        made = survey.values.decide(here, missing=column.missing)
        if column.undecided:
            cost = sum(one.count for one in survey.values.of(here).seen)
            yield _undecided(column.name, column.undecided, made, names, cost)
        elif made.open_orders and column.kind.has_day:
            yield from _open_orders(column.name, made, names)


def _undecided(name: str, why: str, made: Decision, names: Sequence[str], cost: int) -> Question:
    kinds = [TYPES[made.main]] if made.main in TYPES and made.main != "text" else []
    because: tuple[str, ...] = (why,)
    if made.against and kinds:
        count = sum(one.count for one in made.against)
        more = len(made.against) - _MOST_SHOWN
        because = (
            f"it would be {kinds[0].words} but for {count:,} of {counted(made.values, 'value')}",
            *(told(one, names) for one in made.against[:_MOST_SHOWN]),
            *([f"and {more:,} more"] if more > 0 else []),
        )
    choices = []
    if any(one.startswith("date_order") for one in made.advice):
        choices = [
            Choice(f"dates are {ORDER_WORDS[order]}", (OrderOf(name, order),)) for order in _ORDERS[:2]
        ]
    else:
        count = sum(one.count for one in made.against)
        others = (
            "the other value becomes an empty cell"
            if count == 1
            else f"the other {count:,} values become empty cells"
        )
        lost = f"; {others}" if count else ""
        choices = [Choice(f"{kind.words}{lost}", (TypeOf(name, kind.name),)) for kind in kinds]
    choices.append(Choice("text, as it is written", (TypeOf(name, "text"),)))
    said = f'What is "{name}"?' if kinds and not made.reasons else f'How is "{name}" to be read?'
    return Question("type", said, because, tuple(choices), max(cost, 1), column=name)


def _open_orders(name: str, made: Decision, names: Sequence[str]) -> Iterator[Question]:
    """Sources whose dates do not show their order, where others do."""
    for one in made.open_orders[:_MOST_OPEN]:
        source = names[one.source]
        more = len(made.open_orders) - 1
        every = tuple(names[each.source] for each in made.open_orders)
        choices = [
            Choice(f"dates are {ORDER_WORDS[order]}", (OrderOf(name, order, (source,)),))
            for order in _ORDERS[:2]
        ]
        if more:
            choices += [
                Choice(
                    f"{ORDER_WORDS[order]}, in all {more + 1:,} sources that do not show it",
                    (OrderOf(name, order, every),),
                )
                for order in _ORDERS[:2]
            ]
        because = (
            f'no date of the source shows it; the first is "{one.text}" in row {one.row:,}',
            *(
                f"dates are {ORDER_WORDS[order]} in {counted(count, 'other source')}"
                for order, count in Counter(made.orders.values()).most_common()
                if order in ORDER_WORDS
            ),
        )
        yield Question(
            "date-order",
            f'In which order are day and month in "{name}" of {source}?',
            because,
            tuple(choices),
            max(one.count, 1),
            column=name,
            source=source,
        )


def _layouts(draft: DraftedPlan) -> Iterator[Question]:
    """Layouts that a guess is not sure of."""
    rows = {one.source: one.ledger.rows for one in draft.survey.sources} if draft.survey else {}
    for group in draft.plan.sources:
        for line in group.undecided:
            source = next((name for name in rows if line.startswith(f"{name}: ")), "")
            if source:
                yield Question(
                    "layout",
                    f"Is the layout of {source} right?",
                    (line.removeprefix(f"{source}: "),),
                    (Choice("right as it is", (RightLayout(source),)),),
                    max(rows[source], 1),
                    source=source,
                )


def _files(draft: DraftedPlan) -> Iterator[Question]:
    """Questions about the names of files, where the plan does not say it."""
    survey = draft.survey
    if survey is None:
        return
    for number, names in _without_scheme(draft, survey):
        made = propose(names)
        if made is None or len(made.others) > made.fits:
            continue
        fits = made.fits if not made.others else fitting(made.scheme, names).fits
        said = f"all {fits:,} names" if not made.others else f"{fits:,} of {len(names):,} names"
        yield Question(
            "identifiers",
            "Do the names of the files become columns?",
            (
                f"{said} follow the pattern {made.scheme}",
                f"such as {first_few(names, _MOST_EXAMPLES)}",
            ),
            (
                Choice(f"yes: {made.scheme}", (NamesOfFiles(made.scheme, made.scheme),)),
                Choice("no", (NamesOfFiles(made.scheme, ""),)),
            ),
            0,
            source=next(one.source for one in survey.sources if one.group == number),
        )


def _without_scheme(draft: DraftedPlan, survey: Survey) -> Iterator[tuple[int, list[str]]]:
    """Groups of the survey that have no scheme for the names of their files, with these."""
    for number, group in enumerate(survey.groups, 1):
        if not group.schemes and not any(one.schemes for one in draft.plan.sources if one.find == group.find):
            names = dict.fromkeys(unpacked_name(one.file) for one in survey.sources if one.group == number)
            yield number, list(names)
