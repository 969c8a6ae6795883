"""Sources without a header beside others of the same width and kinds: their columns have the names of those."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from integrum.drafting.clusters import patterns_for
from integrum.drafting.draft import Draft
from integrum.drafting.drafted_plan import OpenGuess
from integrum.plan.column import Also, Column
from integrum.problems.problem import Problem
from integrum.reading.head import Head
from integrum.surveying.column_values import ColumnValues
from integrum.surveying.view import Survey
from integrum.values.types import TYPES


def named_like_siblings(draft: Draft) -> Draft:
    """Name the columns of sources without a header as their siblings do, and report it.

    The others must have as many columns, in one order, with values of the same kinds and sizes.
    """
    survey = draft.survey
    if survey is None or survey.values is None:
        return draft
    bare = [at for at, head in enumerate(survey.heads) if isinstance(head, Head) and _is_bare(head)]
    widths = {_width(survey, at) for at in bare}
    if len(widths) != 1:
        return draft
    names = _names_of_siblings(survey, bare, widths.pop())
    columns = [_column_with(draft, name) for name in names]
    if not names or None in columns or len({one.name for one in columns if one}) < len(names):
        return draft
    by_place = _places(survey, bare)
    if not all(
        _is_alike(survey.values, column, by_place[at], names[at])
        for at, column in enumerate(columns)
        if column
    ):
        return draft
    labels = [one.source for one in survey.sources]
    mine = [labels[at] for at in bare]
    places = patterns_for(mine, [label for at, label in enumerate(labels) if at not in bare])
    for at, column in enumerate(columns):
        if column is not None:
            OpenGuess(draft, column.name, by_place[at], 0.0, "").accept(
                "the place in sources without a header"
            )
            _only_in(draft, column.name, by_place[at], places)
            key = ("columns", column.name)
            kept = [
                line
                for line in draft.remarks[key]
                if not (line.startswith("missing in") and line.endswith(mine[-1]))
            ]
            draft.remarks = {**draft.remarks, key: kept}
    what = (
        "it has no header: its columns have"
        if len(mine) == 1
        else f"{len(mine):,} sources have no header: their columns have"
    )
    message = f"{what} the names of other sources with as many columns of the same kinds"
    told = [
        Problem.of(
            "names-of-siblings",
            mine[0] if len(mine) == 1 else "",
            message=message,
            hint="if the columns are others, change `also` of the columns in the plan",
        )
    ]
    return replace(draft, problems=(*draft.problems, *told))


def _is_bare(head: Head) -> bool:
    named = head.header.named
    return bool(named) and head.header.nameless >= named.keys()


def _width(survey: Survey, at: int) -> int:
    head = survey.heads[at]
    return len(head.header.named) if isinstance(head, Head) else 0


def _places(survey: Survey, bare: Sequence[int]) -> list[str]:
    head = survey.heads[bare[0]]
    return list(head.header.named.values()) if isinstance(head, Head) else []


def _names_of_siblings(survey: Survey, bare: Sequence[int], width: int) -> list[str]:
    """The names in the most frequent header of that width, in order."""
    some = [
        variant.names
        for variant in survey.variants
        if len(variant.names) == width and not set(variant.names) & set(_places(survey, bare))
    ]
    columns = {header: one.name for one in survey.columns for header, _ in one.spellings}
    orders = {tuple(columns.get(name, name) for name in names) for names in some}
    return list(some[0]) if len(orders) == 1 and width > 1 else []


def _column_with(draft: Draft, name: str) -> Column | None:
    return next((one for one in draft.plan.columns if name in one.headers or one.name == name), None)


def _is_alike(values: ColumnValues, column: Column, place: str, name: str) -> bool:
    """Whether the values of a source without a header are of the kind and size of a column."""
    mine, theirs = (
        values.of([place]),
        values.of([each for each in (name, *column.headers) if values.has(each)]),
    )
    kinds = [TYPES[values.decide(names).type].group for names in ([place], [name])]
    if kinds[0] != kinds[1] and mine.seen:
        return False
    if not mine.ranges or not theirs.ranges:
        return True
    least, greatest = min(one.least for one in theirs.ranges), max(one.greatest for one in theirs.ranges)
    width = greatest - least
    return all(one.least <= greatest + width and one.greatest >= least - width for one in mine.ranges)


def _only_in(draft: Draft, name: str, header: str, places: Sequence[str]) -> None:
    """Restrict a header by position to these sources."""
    column = next(one for one in draft.plan.columns if one.name == name)
    kept = [one for one in column.also if one != header]
    also = [*kept, *(Also(header, in_=place) for place in places)]
    changed = replace(column, also=also)
    draft.plan = replace(
        draft.plan, columns=[changed if one is column else one for one in draft.plan.columns]
    )
