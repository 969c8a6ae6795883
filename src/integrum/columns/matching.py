"""Which cell of a header belongs to which column of the plan."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from integrum.columns.header import CLAIMED, GUESSED, LEFT_OUT, UNLISTED, Cell
from integrum.columns.union import WideCells, wide_cells
from integrum.plan.column import Beside, Column
from integrum.plan.fields import fits, is_pattern, loosened
from integrum.plan.plan import Plan
from integrum.plan.sources import Sources
from integrum.plan.wrong_words import nearest
from integrum.problems.problem import Problem, quoted
from integrum.values.notation import Conversion

# of more headers that nobody claims the nearest one is not sought, as that takes long
_MOST_NEAREST = 20


# columns by the headers that they want, as they are compared
Wanted = dict[str, list[Column]]


@dataclass(frozen=True)
class MatchContext:
    """From where a header is looked at: what of the plan holds for the sources that have it, found out once for all."""

    plan: Plan
    group: Sources
    places: Collection[str] = frozenset()  # those of the plan's `in` that hold for them
    literal: Collection[str] = frozenset()  # the header cells of all sources; what stands there is no pattern

    @cached_property
    def columns(self) -> list[Column]:
        """The columns that are filled from header cells here."""
        filled = set(self.group.identifiers)
        return [
            column
            for column in self.plan.table_columns
            if column.name not in filled and not isinstance(column, Beside)
        ]

    @cached_property
    def main_columns(self) -> dict[str, Column]:
        """The columns of the table by name, those beside others as well."""
        return {column.name: column for column in self.plan.table_columns}

    @cached_property
    def special(self) -> Wanted:
        """The headers that hold for these sources alone, with their columns."""
        return self._both[1]

    @cached_property
    def wanted(self) -> Wanted:
        """All headers that hold here, with their columns; what is said of these sources goes before what is said of all."""
        return self._both[0] | self._both[1]

    @cached_property
    def _both(self) -> tuple[Wanted, Wanted]:
        return _wanted(self.columns, self.places)

    @cached_property
    def joined(self) -> list[Column]:
        """The columns that are made of several cells."""
        return [column for column in self.columns if column.from_]

    @cached_property
    def alone(self) -> set[str]:
        """The headers of the columns that are not."""
        return {header for column in self.columns if not column.from_ for header in column.headers}

    @cached_property
    def not_here(self) -> frozenset[str]:
        """The headers that the group does not want."""
        return frozenset(" ".join(each.split()) for each in self.group.leave_out)

    @cached_property
    def leave_out(self) -> frozenset[str]:
        """The headers that the plan or the group does not want."""
        return self.not_here.union(" ".join(each.split()) for each in self.plan.leave_out)

    @cached_property
    def patterns(self) -> Wanted:
        """Those of the wanted headers that are patterns."""
        return {each: columns for each, columns in self.wanted.items() if self.is_pattern(each)}

    @cached_property
    def unwanted_patterns(self) -> list[str]:
        """Those of the headers to be left out that are patterns."""
        return [each for each in self.leave_out if self.is_pattern(each)]

    @cached_property
    def loosely(self) -> dict[str, dict[str, tuple[Column, str]]]:
        """Index of the columns by loosened header, with the header as the plan writes it."""
        found: dict[str, dict[str, tuple[Column, str]]] = {}
        for header, wanting in self.wanted.items():
            for column in wanting:
                found.setdefault(loosened(header), {}).setdefault(column.name, (column, header))
        return found

    @cached_property
    def unwanted_loosely(self) -> set[str]:
        """The headers to be left out, loosened."""
        return {loosened(each) for each in self.leave_out if not self.is_pattern(each)} - {""}

    @cached_property
    def guesses(self) -> dict[str, tuple[Column, float]]:
        """The headers that may belong to a column, each with the likeliest one, and its score."""
        found: dict[str, tuple[Column, float]] = {}
        for column in self.columns:
            for one in column.guesses:
                if not one.in_ or one.in_ in self.places:
                    best = found.get(one.header)
                    if best is None or best[1] < one.score:
                        found[one.header] = (column, one.score)
        return found

    @cached_property
    def known(self) -> list[str]:
        """The headers of all columns of the plan."""
        return [header for column in self.plan.columns for header in column.headers]

    @cached_property
    def required(self) -> list[str]:
        """The columns that each source has to have."""
        return [column.name for column in self.columns if column.required]

    @cached_property
    def conversions(self) -> dict[tuple[str, tuple[str, str], str], Conversion]:
        """What is done to the texts of a column, by its name, the marks of numbers and the unit; it fills up."""
        return {}

    @cached_property
    def bindings(self) -> dict[tuple[str, str], dict[str, Any]]:
        """By the marks of numbers, and by name: the bindings of columns that a header lacks; it fills up."""
        return {}

    def is_pattern(self, header: str) -> bool:
        """Whether a header of the plan is a pattern here."""
        return is_pattern(header) and header not in self.literal


@dataclass(frozen=True)
class Match:
    """A header compared with the plan."""

    # for each column of the table that has some: the positions of its cells in the header, from 0, each
    # with the header in the plan that it fits. Several only where a column takes the first that is filled,
    # or is made of several.
    claims: dict[str, tuple[tuple[int, str], ...]]
    cells: tuple[Cell, ...]  # what becomes of each cell, in order
    wide: WideCells | None  # how cells of a wide source become rows; None where there are none
    problems: tuple[Problem, ...]  # what is to be said about this header; the source is left open
    refused: bool  # whether a source with this header is set aside
    joined: frozenset[str] = frozenset()  # the columns that are made of several cells here


def match(names: Sequence[str], match_context: MatchContext) -> Match:
    """Hold a header against the plan: by name, by pattern, and then without regard to case, spaces and punctuation.

    `names`: the tidied names of the header cells, no two the same.
    """
    matching = _Matching(names, match_context)
    matching.joined()
    matching.by_name()
    matching.by_pattern()
    matching.loosely()
    matching.wide()
    matching.guessed()
    return matching.made()


class _Matching:
    """Goes through the free cells of a header, the surest ways first."""

    def __init__(self, names: Sequence[str], match_context: MatchContext) -> None:
        self._names, self._sight = names, match_context
        self._joined: set[str] = set()
        self._free = dict.fromkeys(range(len(names)))
        self._claims: dict[str, list[tuple[int, str]]] = {}
        self._states: dict[int, Cell] = {}
        self._wide: WideCells | None = None
        self._problems: list[Problem] = []
        self._refused = False

    def joined(self) -> None:
        """Columns that are made of several cells, where a header has all of them."""
        for column in self._sight.joined:
            found = [self._part(each) for each in column.from_]
            if None in found:
                continue
            self._joined.add(column.name)
            self._claims[column.name] = [(at, self._names[at]) for at in found if at is not None]
            for at in found:
                # a cell may be a column of its own, too
                if at in self._free and self._names[at] not in self._sight.alone:
                    self._state(at, CLAIMED, column.name)

    def _part(self, header: str) -> int | None:
        """Where a header cell stands that makes up a column with others."""
        plain, loose = " ".join(header.split()), loosened(header)
        exact = [at for at, name in enumerate(self._names) if name == plain]
        like = exact or [at for at, name in enumerate(self._names) if loose and loosened(name) == loose]
        return like[0] if len(like) == 1 else None

    def by_name(self) -> None:
        for position in list(self._free):
            name = self._names[position]
            # what is said of these sources goes before what is said of all
            unwanted = name in self._sight.not_here and name not in self._sight.special
            for column in () if unwanted else self._sight.wanted.get(name, ()):
                self._claim(column, position, name)
            if position in self._free and name in self._sight.leave_out:
                self._state(position, LEFT_OUT)

    def by_pattern(self) -> None:
        patterns, unwanted = self._sight.patterns, self._sight.unwanted_patterns
        if not patterns and not unwanted:
            return
        for position in list(self._free):
            name = self._names[position]
            found = {
                column.name: (column, each)
                for each, columns in patterns.items()
                if fits(name, each)
                for column in columns
            }
            if len(found) > 1:
                self._problems.append(_fits_several(name, list(found)))
            elif found:
                column, each = next(iter(found.values()))
                self._claim(column, position, each)
            elif any(fits(name, each) for each in unwanted):
                self._state(position, LEFT_OUT)

    def loosely(self) -> None:
        if not self._free:
            return
        for column, position, header in self._pairs(self._sight.loosely):
            self._claim(column, position, header)
            self._problems.append(_spelling(column, self._names[position]))
        unwanted = self._sight.unwanted_loosely
        for position in list(self._free):
            if unwanted and loosened(self._names[position]) in unwanted:
                self._state(position, LEFT_OUT)

    def _pairs(
        self, columns: Mapping[str, Mapping[str, tuple[Column, str]]]
    ) -> list[tuple[Column, int, str]]:
        """Columns and positions that agree loosely and that nothing else could be meant by."""
        cells: dict[str, list[tuple[Column, int, str]]] = {}
        wanted: Counter[int] = Counter()
        for position in self._free:
            for name, (column, header) in columns.get(loosened(self._names[position]) or "\0", {}).items():
                cells.setdefault(name, []).append((column, position, header))
                wanted[position] += 1
        return [
            pair
            for name, pairs in cells.items()
            for pair in pairs
            if wanted[pair[1]] == 1
            and (pair[0].first_filled or (name not in self._claims and len(pairs) == 1))
        ]

    def wide(self) -> None:
        wide = self._sight.group.wide
        if wide is None:
            return
        free = {position: self._names[position] for position in self._free}
        self._wide, cells, problems = wide_cells(free, wide, self._column_of, len(self._names))
        for cell in cells:
            self._states[cell.position] = cell
            del self._free[cell.position]
        self._problems += problems
        self._refused |= bool(problems)
        for name in self._wide.columns if self._wide else ():
            if name in self._claims:
                first = self._names[self._claims[name][0][0]]
                self._problems.append(_claimed_and_wide(name, first))
                self._refused = True

    def _column_of(self, header: str) -> str:
        """The column that a header, or a part of one, is the name of; empty when there is none."""
        loose = loosened(header)
        exact, like = self._sight.wanted.get(header), set(self._sight.loosely.get(loose, ()))
        return exact[0].name if exact else like.pop() if len(like) == 1 and loose else ""

    def guessed(self) -> None:
        guesses, rule = self._sight.guesses, self._sight.plan.rules.unlisted
        for position in list(self._free):
            name = self._names[position]
            if name in guesses:
                column, score = guesses[name]
                self._state(position, GUESSED, column.name)
                if rule != "keep":
                    self._problems.append(_guessed(name, column, score, rule == "refuse"))

    def made(self) -> Match:
        names, plan, match_context = self._names, self._sight.plan, self._sight
        unlisted = list(self._free)
        for position in unlisted:
            self._state(position, UNLISTED)
        filled = match_context.group.identifiers
        if plan.rules.unlisted != "keep":
            self._problems += [
                _unlisted(names[at], plan, filled, match_context.known if number < _MOST_NEAREST else ())
                for number, at in enumerate(unlisted)
                if plan.rules.unlisted != "leave-out" or names[at] in filled
            ]
        there = {*self._claims, *(self._wide.columns if self._wide else ())}
        absent = [name for name in match_context.required if name not in there]
        self._problems += [_absent(name, names) for name in absent]
        cells = tuple(self._states[at] for at in sorted(self._states))
        open_ones = any(cell.state in (UNLISTED, GUESSED) for cell in cells)
        refused = self._refused or bool(absent) or (open_ones and plan.rules.unlisted == "refuse")
        claims = {name: self._in_order(match_context.main_columns[name]) for name in self._claims}
        return Match(claims, cells, self._wide, tuple(self._problems), refused, frozenset(self._joined))

    def _in_order(self, column: Column) -> tuple[tuple[int, str], ...]:
        """The cells of a column in the order in which the plan lists their headers."""
        found = self._claims[column.name]
        if len(found) < 2 or column.name in self._joined:
            return tuple(found)
        order = {" ".join(header.split()): number for number, header in enumerate(column.headers)}
        return tuple(sorted(found, key=lambda one: order.get(one[1], 0)))

    def _claim(self, column: Column, position: int, header: str) -> None:
        if position not in self._free:  # another column has claimed it by a name that holds here as well
            self._problems.append(
                _two_columns(self._names[position], self._states[position].column, column.name)
            )
            self._refused = True
            return
        found = self._claims.setdefault(column.name, [])
        if column.name in self._joined:
            return  # its parts go before a cell of its own name
        if found and not column.first_filled:
            self._problems.append(_claimed_twice(column, self._names[found[0][0]], self._names[position]))
            self._refused = True
        else:
            found.append((position, header))
        self._state(position, CLAIMED, column.name)

    def _state(self, position: int, state: str, column: str = "") -> None:
        self._states[position] = Cell(position, self._names[position], state, column)
        del self._free[position]


def _wanted(
    columns: Sequence[Column], places: Collection[str]
) -> tuple[dict[str, list[Column]], dict[str, list[Column]]]:
    """The headers that hold here, each with its column: those of all sources, and those of these alone."""
    general: dict[str, list[Column]] = {}
    special: dict[str, list[Column]] = {}
    for column in columns:
        for header, place in ((column.name, ""), *((one.header, one.in_) for one in column.others)):
            if not place or place in places:
                wanting = (special if place else general).setdefault(" ".join(header.split()), [])
                if column not in wanting:
                    wanting.append(column)
    return general, special


def _claimed_twice(column: Column, first: str, second: str) -> Problem:
    return Problem.of(
        "header-claimed-twice",
        column=column.name,
        raw=second,
        message=f'two headers of this source, "{first}" and "{second}", belong to this column',
        hint="remove one of them from `also`, give it a column of its own, or set first_filled = true",
    )


def _two_columns(header: str, first: str, second: str) -> Problem:
    return Problem.of(
        "header-claimed-twice",
        column=second,
        raw=header,
        message=f'the header "{header}" belongs to two columns here: "{first}" and "{second}"',
        hint="change `in` of one of them, so that it leaves out this source",
    )


def _claimed_and_wide(column: str, header: str) -> Problem:
    return Problem.of(
        "header-claimed-twice",
        column=column,
        raw=header,
        message=f'two things fill this column: the header "{header}" and the wide columns of this source',
        hint="rename one of them in the plan",
    )


def _fits_several(header: str, columns: Sequence[str]) -> Problem:
    return Problem.of(
        "header-fits-several",
        column=header,
        message=f"this header fits the patterns of several columns: {quoted(columns, len(columns))}; it is in none of them",
        hint="add it by name to `also` of the right column",
    )


def _spelling(column: Column, name: str) -> Problem:
    return Problem.of(
        "header-spelling",
        column=column.name,
        raw=name,
        message="its header differs only in case, spaces or punctuation",
        hint=f'add "{name}" to `also` of this column to confirm it',
    )


def _guessed(name: str, column: Column, score: float, refuse: bool) -> Problem:
    sure = f" (score {score:.2f})" if score else ""
    until = "" if refuse else "; until you decide, it is not in the table"
    return Problem(
        "error" if refuse else "warning",
        "header-guessed",
        column=name,
        message=f'it may belong to the column "{column.name}"{sure}{until}',
        hint="move it from `maybe` to `also` of that column, or to `never` if it is not the same",
    )


def _unlisted(name: str, plan: Plan, filled: Sequence[str], known: Sequence[str]) -> Problem:
    if name in filled:
        return Problem.of(
            "unlisted-header",
            column=name,
            message="an identifier has the same name, so this column is not in the table",
            hint="rename the identifier or the column",
        )
    refuse = plan.rules.unlisted == "refuse"
    near = nearest(name, known)
    return Problem(
        "error" if refuse else "warning",
        "unlisted-header",
        column=name,
        message="this header is not in the plan" + ("" if refuse else ", so it is not in the table"),
        hint=f"add it to `also` of a column, to leave_out, or as a column of its own{near}",
    )


def _absent(name: str, names: Sequence[str]) -> Problem:
    return Problem.of(
        "required-missing",
        column=name,
        message="required column not found",
        hint=f"the headers of the source are: {', '.join(names[:12])}{nearest(name, names)}",
    )
