"""The columns of a draft: given ones, new ones, and what is decided about their values."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import cast

from integrum.columns.header import CLAIMED, IN_PART, LEFT_OUT
from integrum.drafting.clusters import patterns_for
from integrum.intake.matched import families_of
from integrum.plan.column import Alike, Column, Maybe
from integrum.plan.fields import fits, is_pattern
from integrum.plan.plan import Plan
from integrum.problems.problem import clipped, counted, first_few, quoted
from integrum.surveying.decision import Decision, decision_lines
from integrum.surveying.findings import ColumnSurvey
from integrum.surveying.reconciled import ColumnGuess, reconcile
from integrum.surveying.view import Survey
from integrum.values.types import TYPES, TypeName
from integrum.values.units import in_name

_MOST_UNLISTED = 12


def decided(
    column: Column,
    made: Decision,
    survey: Survey,
    units: Mapping[str, int],
    free: Callable[[str], str] = str,
) -> Column:
    """Set in a column what was decided about its values.

    Parameters
    ----------
    units
        The units that its headers give, the most frequent first.
    free
        Gives the nearest name that is free.
    """
    # whole numbers in several units are converted to one, and hardly whole any more
    kind = cast(TypeName, TYPES[made.type].converted) if len(units) > 1 else made.type
    return replace(
        column,
        type=kind,
        missing=[one.text for one in made.missing],
        unit=next(iter(units), "") or made.unit,
        date_order=made.date_order,
        date_order_in=order_places(made, survey),
        format=made.format,
        zone=made.zone,
        spelling=made.spelling,
        censored=(column.censored or free(f"{in_name(column.name)[0]}_flag")) if made.censored else "",
        alike=[Alike(one.value, one.other, one.because) for one in made.alike],
    )


def order_places(made: Decision, survey: Survey) -> dict[str, tuple[str, ...]]:
    """The places of sources with another order of dates than most, by order."""
    names = [one.source for one in survey.sources]
    found = {}
    for order in sorted({*made.orders.values()} - {made.date_order}):
        mine = [names[number] for number in sorted(made.orders) if made.orders[number] == order]
        found[order] = patterns_for(mine, names)
    return found


def filled(
    given: Column, made: Decision, survey: Survey, units: Mapping[str, int], free: Callable[[str], str] = str
) -> Column:
    """Fill in what a given column leaves open. What it says stays.

    `made`, `units`, `free`: as for `decided`; the decision is about values of the column's type.
    """
    whole = decided(given, made, survey, units, free)
    keys = given.kind.keys
    changes: dict[str, object] = {}
    if not given.missing:
        changes["missing"] = whole.missing
    if not given.unit and given.kind.is_number:
        changes["unit"] = whole.unit
    if "date_order" in keys and not (given.date_order or given.date_order_in or given.format):
        changes |= {name: getattr(whole, name) for name in ("date_order", "date_order_in", "format")}
    if "zone" in keys and not given.zone:
        changes["zone"] = whole.zone
    if not given.spelling and whole.spelling in given.kind.spellings:
        changes["spelling"] = whole.spelling
    if "censored" in keys and not given.censored and not given.first_filled:
        changes["censored"] = whole.censored
    return replace(given, **changes)  # type: ignore[arg-type]


def free_of(name: str, taken: Collection[str]) -> str:
    """A name that no other column has, made from this one.

    Examples
    --------
    >>> free_of("sheet", {"day"}), free_of("sheet", {"sheet"})
    ('sheet', 'file_sheet')
    """
    names = (name, f"file_{name}", *(f"file_{name}_{number}" for number in range(2, 1000)))
    return next(free for free in names if free not in taken)


@dataclass(frozen=True)
class Completed:
    """Columns that are given, completed."""

    columns: tuple[Column, ...]  # the same columns in the same order; only `also` and `maybe` have grown
    guesses: tuple[ColumnGuess, ...]  # all that may belong together, also among the free ones
    # the names that are in no column and that are not left out, with the number of sources that have each
    free: dict[str, int]
    lines: dict[str, list[str]]  # what was found for each column, by its name

    @property
    def unlisted(self) -> dict[str, int]:
        """Names that belong to no column and for which there is no guess."""
        guessed = {one.header for column in self.columns for one in column.guesses}
        return {name: count for name, count in self.free.items() if name not in guessed}

    @property
    def own_guesses(self) -> tuple[ColumnGuess, ...]:
        """The guesses about the columns that are given."""
        own = {column.name for column in self.columns}
        return tuple(guess for guess in self.guesses if guess.column in own)


def complete(survey: Survey, plan: Plan, untyped: Collection[str] = (), fill: bool = False) -> Completed:
    """Find other spellings of the columns of a plan, and guesses for them.

    Parameters
    ----------
    survey
        A survey of the sources of the plan's groups.
    plan
        The plan; only its groups, columns and words are looked at.
    untyped
        The columns of which only the name is given: their types are decided, too.
    fill
        Whether what the columns leave open is filled from their values.
    """
    families, family_of = families_of(plan, survey.found, survey.heads)
    present = [at for at, one in enumerate(survey.sources) if one.variant]
    cells = [cell for at in present for cell in families[family_of[at]].bound.cells]
    claimed = {cell.name: cell.column for cell in cells if cell.state == CLAIMED}
    done = {cell.name for cell in cells if cell.state in (LEFT_OUT, IN_PART)}
    identifiers = {*plan.identifiers} - {column.name for column in plan.columns}
    known = [one for one in survey.known if one.name not in done | identifiers]
    made = reconcile(known, [one.source for one in survey.sources], plan, claimed)
    guesses = guesses_of(made.guesses, each_name=True)
    every = {one.name for one in survey.known} | {name for column in plan.columns for name in column.headers}

    def free_name(name: str) -> str:
        found = free_of(name, every)
        every.add(found)
        return found

    columns: list[Column] = []
    lines: dict[str, list[str]] = {}
    taken: set[str] = set()
    for column in plan.columns:
        names = [name for name in made.columns[column.name] if not _is_listed(name, column)]
        taken.update(made.columns[column.name])
        listed = {*column.never, *(one.header for one in column.guesses), *column.headers}
        maybe = [one for one in guesses.get(column.name, ()) if one.header not in listed]
        done_column = replace(column, also=(*column.also, *names), maybe=(*column.maybe, *maybe))
        lines[column.name] = [f"also written {quoted(names, len(names))}"] if names else []
        if fill and survey.values and made.columns[column.name]:
            done_column, said = _filled(
                survey, done_column, made.columns[column.name], column.name in untyped, free_name
            )
            lines[column.name] += said
        columns.append(done_column)
        if not made.columns[column.name] and column.name not in plan.identifiers:
            lines[column.name] = ["no source has this column"]
    free = {one.name: one.count for one in known if one.name not in taken}
    return Completed(tuple(columns), made.guesses, free, lines)


def _filled(
    survey: Survey, column: Column, names: Sequence[str], untyped: bool, free: Callable[[str], str]
) -> tuple[Column, list[str]]:
    """Fill in what the values of a column decide. Returns it with the evidence, in words."""
    assert survey.values
    if column.from_ or column.read or column.swap or column.values or column.case:
        return column, []  # its values are not those of the cells
    units = dict(sorted(survey.values.of(names).units.items(), key=lambda one: -one[1]))
    made = survey.values.decide(names, column.unit, "" if untyped else column.type)
    labels = [one.source for one in survey.sources]
    said = [clipped(line, 400) for line in decision_lines(made, labels)]
    if untyped:
        return decided(column, made, survey, units, free), said
    return filled(column, made, survey, units, free), said


def beside(survey: Survey, free: Iterable[str]) -> list[ColumnSurvey]:
    """The columns of a survey that the plan does not have."""
    names = set(free)
    return [column for column in survey.columns if names.issuperset(name for name, _ in column.spellings)]


def unlisted_line(free: dict[str, int]) -> str:
    """The names that are in no column, in one line; empty when there are none."""
    told = [f'"{name}" in {counted(count, "source")}' for name, count in free.items()]
    return f"not a column of the plan: {first_few(told, _MOST_UNLISTED)}" if told else ""


def guesses_of(found: Iterable[ColumnGuess], each_name: bool = False) -> dict[str, list[Maybe]]:
    """The guesses of a survey as a plan writes them, by column; one for all names of the other column, or for each."""
    made: dict[str, list[Maybe]] = {}
    for one in found:
        for name in one.headers if each_name else (one.header,):
            made.setdefault(one.column, []).append(Maybe(name, one.score, clipped(one.because, 300)))
    return made


def _is_listed(name: str, column: Column) -> bool:
    return name in column.headers or any(is_pattern(each) and fits(name, each) for each in column.headers)
