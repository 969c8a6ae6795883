"""Do to a draft what a person has decided, and say of each decision what became of it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING, Any, cast

from integrum.drafting.answers import (
    MADE,
    THERE,
    Answer,
    KeepColumn,
    MissingCode,
    OrderOf,
    RightLayout,
    SameName,
    SameValue,
    Settled,
    TypeOf,
    UnitOf,
)
from integrum.drafting.clusters import patterns_for
from integrum.drafting.drafted_plan import DraftedPlan
from integrum.errors import PlanError
from integrum.plan.column import Also, Column
from integrum.plan.decisions import accept_value_as, header_apart, with_type
from integrum.plan.plan import Plan
from integrum.plan.sources import Sources
from integrum.problems.problem import counted
from integrum.values.evidence import DATETIME, WRITTEN_DATETIME

if TYPE_CHECKING:
    from integrum.plan.fields import DateOrder
    from integrum.values.types import TypeName

# what was decided before, and is not what the plan says now
OTHERWISE = "the plan says otherwise now, and it goes first"


def settled_lines(settled: Sequence[Settled], where: str = "") -> Iterator[str]:
    """What became of decisions, in lines of text.

    `where`: the file that they are kept in.
    """
    made = [one for one in settled if one.became == MADE]
    there = sum(one.became == THERE for one in settled)
    left = [one for one in settled if not one.fits]
    if made:
        yield f"{counted(len(made), 'decision')} made:"
        yield from (f"  {one.answer}{f' ({one.effect})' if one.effect else ''}" for one in made)
    if there:
        yield f"{counted(there, 'decision')} already in the plan"
    if left:
        kept = f" (kept in {where})" if where else ""
        yield f"{counted(len(left), 'decision')} {'does' if len(left) == 1 else 'do'} not fit{kept}:"
        yield from (f"  {one.answer}: {one.became}" for one in left)


def as_the_plan_says(one: Settled) -> Settled:
    """Mark a decision as not done, since the plan says otherwise."""
    return replace(one, became=OTHERWISE) if one.became == MADE else one


def settle_what_is_new(draft: DraftedPlan, answers: Sequence[Answer], plan: Plan) -> list[Settled]:
    """Do what was decided before about headers that a plan does not have; and say what the plan says otherwise.

    `plan`: the plan as it was, before anything was drafted onto it.
    """
    claimed = {name for column in plan.columns for name in (*column.headers, *column.never)}
    found = []
    # names last: a column that gets a header is decided about again, by the codes that still hold
    for one in sorted(answers, key=lambda one: isinstance(one, SameName)):
        if one.looks:
            continue
        before, remarks, typed = draft.plan, draft.remarks, draft.typed
        became = _done(draft, one)
        if became == MADE and not (isinstance(one, SameName) and one.header not in claimed):
            draft.plan, draft.remarks, draft.typed = before, remarks, typed
            became = OTHERWISE
        found.append(Settled(one, became))
        draft.settled = (*draft.settled, found[-1])
    return found


def settle(draft: DraftedPlan, answers: Sequence[Answer]) -> list[Settled]:
    """Carry out the decisions about columns and layouts."""
    found = [Settled(one, _done(draft, one)) for one in answers if not one.looks]
    draft.settled = (*draft.settled, *found)
    return found


def _done(draft: DraftedPlan, answer: Answer) -> str:
    before, remarks, typed = draft.plan, draft.remarks, draft.typed
    try:
        _DO[type(answer)](draft, answer)
    except PlanError as error:
        draft.plan, draft.remarks, draft.typed = before, remarks, typed
        return error.message
    return THERE if draft.plan == before else MADE


def _same_name(draft: DraftedPlan, one: SameName) -> None:
    column = column_of(draft.plan, one.column)
    if one.same:
        if one.header in column.headers:
            return
        if draft.known(one.header) is None and one.header not in {each.header for each in column.guesses}:
            raise PlanError(f'no source has the header "{one.header}" now')
        draft.join(column.name, one.header, "decided")
    elif one.header == column.name:
        raise PlanError("the column has this name itself")
    elif one.header not in column.never:
        if one.header in column.headers:
            draft.plan = header_apart(draft.plan, column.name, one.header)
            draft.decide_again(column.name)
            draft.decide_again(one.header)
        else:
            draft.keep_apart(column.name, one.header)


def _same_value(draft: DraftedPlan, one: SameValue) -> None:
    column = column_of(draft.plan, one.column)
    draft.plan = accept_value_as(draft.plan, column.name, one.value, one.other if one.same else one.value)


def _type_of(draft: DraftedPlan, one: TypeOf) -> None:
    column = column_of(draft.plan, one.column)
    if column.type != one.type:
        _change(draft, column, replace(with_type(column, cast("TypeName", one.type)), undecided=""))
        draft.typed |= {column.name}
        draft.decide_again(column.name)
    elif column.undecided:
        _change(draft, column, replace(column, undecided=""))
    draft.typed |= {column.name}


def _order_of(draft: DraftedPlan, one: OrderOf) -> None:
    column = column_of(draft.plan, one.column)
    if column.format or column.from_:
        raise PlanError("the plan says how its values are written: see `format` and `from`")
    if not column.kind.has_day:
        column = with_type(column, _with_day(draft, column))
    names = [each.source for each in draft.survey.sources] if draft.survey else []
    if one.sources:
        here = [name for name in one.sources if name in names]
        if not here:
            raise PlanError(f"there is no source {one.sources[0]} now")
        every = {order: list(some) for order, some in column.date_order_in.items()}
        new = [each for each in patterns_for(here, names) if each not in every.get(one.order, ())]
        if new:
            every[one.order] = [*every.get(one.order, ()), *new]
            column = replace(column, date_order_in=every)
    else:
        column = replace(column, date_order=cast("DateOrder", one.order))
    before = column_of(draft.plan, one.column)
    draft.typed |= {column.name}
    if column != before:
        _change(draft, before, replace(column, undecided=""))


def _with_day(draft: DraftedPlan, column: Column) -> TypeName:
    """The type of a column that is said to have dates."""
    values = draft.survey.values if draft.survey else None
    if values is None:
        return "date"
    seen = values.of([each for each in column.headers if values.has(each)]).seen
    return "datetime" if any(one.kind in (DATETIME, WRITTEN_DATETIME) for one in seen) else "date"


def _missing_code(draft: DraftedPlan, one: MissingCode) -> None:
    column = column_of(draft.plan, one.column)
    if (one.code in column.missing) == one.missing:
        return
    codes = [each for each in column.missing if each != one.code]
    changed = replace(column, missing=[*codes, one.code] if one.missing else codes)
    _change(draft, column, changed)
    draft.decide_again(column.name)


def _unit_of(draft: DraftedPlan, one: UnitOf) -> None:
    column = column_of(draft.plan, one.column)
    if not one.header or one.header == column.name:
        _change(draft, column, replace(column, unit=one.unit))
        return
    if one.header not in column.headers:
        raise PlanError(f'the header "{one.header}" does not belong to it')
    also = [replace(each, unit=one.unit) if each.header == one.header else each for each in column.others]
    plain: list[str | Also] = [each.header if each == Also(each.header) else each for each in also]
    _change(draft, column, replace(column, also=plain))


def _keep_column(draft: DraftedPlan, one: KeepColumn) -> None:
    plan = draft.plan
    column = next((each for each in plan.columns if one.column in each.headers), None)
    known = {each.name for each in draft.survey.known} if draft.survey else set()
    if one.keep:
        if column is not None:
            return
        if one.column not in known:
            raise PlanError("no source has a column of this name now")
        groups = [
            replace(group, leave_out=[each for each in group.leave_out if each != one.column])
            for group in plan.sources
        ]
        draft.plan = replace(plan, sources=groups, columns=[*plan.columns, Column(one.column)])
        draft.decide_again(one.column)
        return
    if column is None:
        if any(one.column in group.leave_out for group in plan.sources):
            return
        if one.column not in known:
            raise PlanError("no source has a column of this name now")
    if column is not None and column.name in plan.identifiers:
        raise PlanError("it is an identifier, not a column of the sources")
    if column is None or column.name == one.column:
        names = column.headers if column else (one.column,)
    else:  # one of the headers of a column, which has others
        names = (one.column,)
    headers = [each for each in names if each in known]
    left = [each for each in (column.headers if column else ()) if each in known and each not in headers]
    columns = [each for each in plan.columns if each is not column]
    if column is not None and left:
        also = [
            each for each in column.also if (each if isinstance(each, str) else each.header) not in headers
        ]
        columns = [replace(each, also=also) if each is column else each for each in plan.columns]
    groups = [
        replace(group, leave_out=list(dict.fromkeys([*group.leave_out, *headers]))) for group in plan.sources
    ]
    draft.plan = replace(plan, sources=groups, columns=columns)


def _right_layout(draft: DraftedPlan, one: RightLayout) -> None:
    names = {each.source for each in draft.survey.sources} if draft.survey else set()
    if one.source not in names:
        raise PlanError("there is no such source now")

    def without(group: Sources) -> Sources:
        left = [line for line in group.undecided if not line.startswith(f"{one.source}: ")]
        return replace(group, undecided=left) if len(left) < len(group.undecided) else group

    draft.plan = replace(draft.plan, sources=[without(group) for group in draft.plan.sources])


def column_of(plan: Plan, name: str) -> Column:
    """The column with a name, or with this header.

    Raises PlanError when there is none.
    """
    named = next((one for one in plan.columns if one.name == name), None)
    found = named or next((one for one in plan.columns if name in one.headers), None)
    if found is None:
        raise PlanError(f'there is no column "{name}" now')
    return found


def _change(draft: DraftedPlan, old: Column, new: Column) -> None:
    draft.plan = replace(draft.plan, columns=[new if one is old else one for one in draft.plan.columns])


_DO: Mapping[type[Answer], Callable[[DraftedPlan, Any], None]] = {
    SameName: _same_name,
    SameValue: _same_value,
    TypeOf: _type_of,
    OrderOf: _order_of,
    MissingCode: _missing_code,
    UnitOf: _unit_of,
    KeepColumn: _keep_column,
    RightLayout: _right_layout,
}
