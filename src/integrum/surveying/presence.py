"""Which columns are in which header variants, or in which sources: a grid."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from integrum.columns.header import GUESSED, LEFT_OUT, UNLISTED
from integrum.problems.problem import counted, middle

if TYPE_CHECKING:
    from integrum.surveying.findings import SurveyData

# the width of a grid that is not on a terminal, and the least room for the name of a column
_WIDTH, _NAME = 240, 16
FILLED, ABSENT = "filled", "absent"
# a sign for each, so that no colour is needed; and what it says
SIGNS = {FILLED: "■", GUESSED: "?", UNLISTED: "+", LEFT_OUT: "–", ABSENT: "·"}
MEANINGS = {
    FILLED: "has the column",
    GUESSED: "has a header that may be it",
    UNLISTED: "has a header that is not in the plan",
    LEFT_OUT: "left out on purpose",
    ABSENT: "does not have it",
}
# in a figure: what it says, the colour, the height of the bar, the hatching
LOOKS = {
    FILLED: (MEANINGS[FILLED], "#2f6f8f", 0.86, ""),
    GUESSED: (MEANINGS[GUESSED], "#f2b134", 0.5, "////"),
    UNLISTED: (MEANINGS[UNLISTED], "#d9d9d9", 0.5, "...."),
    LEFT_OUT: (MEANINGS[LEFT_OUT], "#ffffff", 0.22, ""),
}


@dataclass(frozen=True)
class Presence:
    """A grid of columns by header variants."""

    columns: tuple[str, ...]  # down: the columns, then header cells that are in no column
    variants: tuple[int, ...]  # across: the numbers of the variants
    sources: tuple[tuple[str, ...], ...]
    # for each column and each variant: ``"filled"``, ``"guessed"``, ``"unlisted"``, ``"left out"`` or
    # ``"absent"``
    cells: tuple[tuple[str, ...], ...]

    def lines(self, width: int = _WIDTH) -> list[str]:
        """The grid as text, with a legend; variants that do not fit a width are only counted."""
        names = [middle(column, max(_NAME, width // 3)) for column in self.columns]
        wide = max(map(len, names), default=0)
        digits = len(str(max(self.variants, default=1)))
        most = max((width - wide - 2) // (digits + 1), 1)
        shown = self.variants[:most]
        head = " ".join(f"{number:>{digits}}" for number in shown)
        lines = [f"{'':<{wide}}  {head}"]
        for name, row in zip(names, self.cells, strict=True):
            signs = " ".join(f"{SIGNS[cell]:>{digits}}" for cell in row[: len(shown)])
            lines.append(f"{name:<{wide}}  {signs}")
        if len(self.variants) > most:
            lines.append(f"and {counted(len(self.variants) - most, 'more variant')}")
        return [*lines, self.legend]

    @property
    def legend(self) -> str:
        """What the signs mean that are there."""
        there = {cell for row in self.cells for cell in row}
        return "; ".join(f"{SIGNS[state]} {MEANINGS[state]}" for state in SIGNS if state in there)


def presence_of(survey: SurveyData) -> Presence:
    """The grid of a survey: of a plan its columns, and else all columns that there are."""
    rows: dict[str, dict[int, str]] = {}
    if survey.mapping:
        for mapping in survey.mapping:
            rows[mapping.column] = {}
            if mapping.identifier:  # filled from outside the rows, in all sources but those that lack it
                lacking = set(mapping.lacking)
                has = [variant.number for variant in survey.variants if set(variant.sources) - lacking]
                rows[mapping.column] = dict.fromkeys(has, FILLED)
        for variant in survey.variants:
            for header in variant.names:
                for state, column in survey.states_of(header, variant.number):
                    _enter(rows, variant.number, header, state, column)
    else:
        column_of = {name: column.name for column in survey.columns for name, _ in column.spellings}
        rows = {column.name: {} for column in survey.columns}
        maybe = _may_be(survey)
        for variant in survey.variants:
            for header in variant.names:
                column = column_of.get(header, header)
                rows.setdefault(column, {})[variant.number] = FILLED
                for other in maybe.get(column, ()):
                    rows[other].setdefault(variant.number, GUESSED)
    numbers = tuple(variant.number for variant in survey.variants)
    return Presence(
        tuple(rows),
        numbers,
        tuple(variant.sources for variant in survey.variants),
        tuple(tuple(row.get(number, ABSENT) for number in numbers) for row in rows.values()),
    )


def _enter(rows: dict[str, dict[int, str]], number: int, header: str, state: str, column: str) -> None:
    if state in (UNLISTED, LEFT_OUT):
        rows.setdefault(header, {})[number] = state
    elif state == GUESSED:
        rows.setdefault(column, {}).setdefault(number, GUESSED)
    else:
        rows.setdefault(column, {})[number] = FILLED


def _may_be(survey: SurveyData) -> Mapping[str, Sequence[str]]:
    """By column, the headers that may be it."""
    names = {name: column.name for column in survey.columns for name, _ in column.spellings}
    found: dict[str, list[str]] = {}
    for guess in survey.guesses:
        found.setdefault(names.get(guess.header, guess.header), []).append(
            names.get(guess.column, guess.column)
        )
    return found
