"""Which sources have which columns of the plan, and what is to be said about columns that some or all lack."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence

from integrum.engine.ledger import SourceSummary
from integrum.engine.matched import Matched, columns_in
from integrum.naming.some_of import missing_in
from integrum.plan.column import Column
from integrum.plan.validating import nearest
from integrum.problems import Problem, counted, quoted
from integrum.sources.places import is_in
from integrum.values.units import same_unit


def about_columns(matched: Matched, summaries: Sequence[SourceSummary]) -> Iterator[Problem]:
    """Columns of the plan that no source has, or not all; places without a source; groups that are not wide."""
    intake, plan = matched.intake, matched.intake.plan
    names = [source.name for source in intake.sources]
    bounds = [family.bound for family in matched.families.values()]
    there = set().union(*(columns_in(bound) for bound in bounds if not bound.refused))
    there |= {name for one in intake.identified for name in one.values}
    free = dict.fromkeys(name for bound in bounds for name, _ in bound.unlisted)
    any_bound = any(not bound.refused for bound in bounds)
    for column in plan.own_columns:
        known = column.name in there or column.name in matched.not_common
        if any_bound and not known and not column.optional:
            yield Problem.of(
                "column-nowhere",
                column=column.name,
                message="not in any source; the column is empty in the table",
                hint=f"check its name and `also`, or set optional = true{nearest(column.name, free)}",
            )
    free = {name: None for name in free if name not in plan.identifiers}
    if free and plan.rules.unlisted == "leave-out":
        one = len(free) == 1
        yield Problem.of(
            "not-asked-for",
            count=len(free),
            message=f"{counted(len(free), 'header')} of the sources {'is' if one else 'are'} in no column of the plan, so "
            f"{'it is' if one else 'they are'} not in the table: {quoted(free)}",
            hint='to be told of each, set unlisted = "report" in [rules]',
        )
    yield from _open_guesses(plan.own_columns, there)
    for name, lacking in matched.not_common.items():
        yield Problem.of(
            "column-not-common",
            column=name,
            message=f"not in the table, as it is missing in {missing_in([names[at] for at in lacking], names)}",
            hint="set only_common = false in [rules] to keep it",
        )
    for place in plan.places:
        if not any(is_in(source, plan.group(source.group), place) for source in intake.sources):
            yield Problem.of(
                "place-unmatched",
                raw=place,
                message="no source is in the place that `in` of a column names",
                hint="use a pattern of paths below the common folder, or the name of a group",
            )
    yield from _about_wide(matched)
    counts = {family: len(numbers) for family, numbers in matched.by_family(summaries).items()}
    yield from _about_units(matched, counts)
    yield from _about_converted(matched, counts)


def _open_guesses(columns: Sequence[Column], there: Collection[str]) -> Iterator[Problem]:
    """Columns that may be one under several names: each has its values, but nobody has decided."""
    owner = {header: column.name for column in columns for header in column.headers}
    for column in columns:
        named = [
            f'"{one.header}" ({one.score:.2f})' for one in column.guesses if owner.get(one.header) in there
        ]
        if named and column.name in there:
            yield Problem.of(
                "columns-alike",
                column=column.name,
                count=len(named),
                message=f"may also be these columns, which have other names: {', '.join(named[:6])}",
                hint="to decide, run: integrum draft --plan PLAN.toml --update --ask",
            )


def _about_units(matched: Matched, counts: Mapping[int, int]) -> Iterator[Problem]:
    """Columns without a unit in the plan whose sources give different ones; with one, such sources are set aside."""
    for at, column in enumerate(matched.columns):
        found: dict[str, int] = {}
        for family, count in counts.items() if not column.unit else ():
            for unit in matched.families[family].bound.bindings[at].units:
                if unit.strip(" -–"):
                    same = next((each for each in found if same_unit(each, unit)), unit)
                    found[same] = found.get(same, 0) + count
        if len(found) > 1:
            said = ", ".join(f"{unit} in {count:,}" for unit, count in found.items())
            yield Problem.of(
                "units-mixed",
                column=column.name,
                message=f"sources give different units ({said}) and the plan gives none, so the values are mixed",
                hint="give the column a unit, or make a column for each of these headers",
            )


def _about_converted(matched: Matched, counts: Mapping[int, int]) -> Iterator[Problem]:
    """Columns of which some sources give another unit of the same quantity."""
    for at, column in enumerate(matched.columns):
        found: dict[str, int] = {}
        for family, count in counts.items() if column.unit else ():
            binding = matched.families[family].bound.bindings[at]
            for unit, linear in zip(binding.units, binding.linears, strict=False):
                if linear and (linear.times, linear.plus) != (1.0, 0.0):
                    found[unit] = found.get(unit, 0) + count
        if found:
            said = ", ".join(
                f"from {unit} in {count:,} source{'' if count == 1 else 's'}" for unit, count in found.items()
            )
            yield Problem.of(
                "unit-converted",
                column=column.name,
                count=sum(found.values()),
                message=f"values were converted to {column.unit}: {said}",
            )


def _about_wide(matched: Matched) -> Iterator[Problem]:
    for number, group in enumerate(matched.intake.plan.sources, 1):
        if group.wide is None:
            continue
        families = {
            matched.family_of[at]
            for at, source in enumerate(matched.intake.sources)
            if source.group == number and matched.family_of[at]
        }
        bounds = [matched.families[family].bound for family in families]
        if not bounds or any(bound.wide for bound in bounds):
            continue
        claimed = dict.fromkeys(
            cell.column
            for bound in bounds
            for cell in bound.cells
            if cell.column and group.wide.read(cell.name)
        )
        said = ", ".join(f'"{name}"' for name in list(claimed)[:3]) + (", …" if len(claimed) > 3 else "")
        yield Problem.of(
            "wide-unmatched",
            raw=", ".join(group.wide.headers),
            message="no header fits `wide` of this group"
            + (f", as columns of the plan use them: {said}" if claimed else ""),
            hint="remove these columns from the plan"
            if claimed
            else "check headers in `wide`, and the value column",
        )
