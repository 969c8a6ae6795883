"""Sources beside the others: which are unlike those of their group, and which columns they lack."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from statistics import median

from integrum.columns.expectation import missing_in
from integrum.columns.header import Header
from integrum.intake.inspecting import Inspection
from integrum.intake.ledger import SourceSummary
from integrum.intake.matched import Matched, columns_in
from integrum.plan.column import Column
from integrum.plan.wrong_words import nearest
from integrum.problems.problem import Problem, counted, quoted
from integrum.sources.patterns import is_in
from integrum.values.units import same_unit

# this many sources of a group can say what is usual, and this share of them has to agree
_ENOUGH, _MOST = 3, 0.75
_ENOUGH_ROWS, _FEW_ROWS, _HARDLY_ANY, _MANY = 5, 0.02, 1.5, 50


def unlike_siblings(
    summaries: Sequence[SourceSummary], inspections: Mapping[int, Inspection]
) -> Iterator[tuple[int, Problem]]:
    """Problems of sources that end otherwise, or have far fewer rows, than others with the same header.

    Yields the number of a source, and what is to be said.
    """
    groups: dict[tuple[int, int], list[int]] = {}
    for number, one in enumerate(summaries):
        if one.is_assembled and number in inspections:
            groups.setdefault((one.group, one.variant), []).append(number)
    for members in groups.values():
        yield from _cut_off(members, summaries, inspections)
        yield from _short(members, summaries)


def _cut_off(
    members: Sequence[int], summaries: Sequence[SourceSummary], inspections: Mapping[int, Inspection]
) -> Iterator[tuple[int, Problem]]:
    files = [number for number in members if not summaries[number].sheet and inspections[number].size]
    open_ended = [number for number in files if not inspections[number].ends_closed]
    whole = len(files) - len(open_ended)
    if whole < max(_ENOUGH, _MOST * len(files)):
        return
    for number in open_ended:
        yield (
            number,
            Problem.of(
                "file-cut-off",
                row=summaries[number].ledger.rows,
                message=f"does not end in a line end, unlike {whole:,} others with its header; its last row may be cut "
                "off",
                hint="compare its size with the original file",
            ),
        )


def _short(members: Sequence[int], summaries: Sequence[SourceSummary]) -> Iterator[tuple[int, Problem]]:
    rows = {number: summaries[number].ledger.data for number in members}
    if len(rows) < _ENOUGH_ROWS:
        return
    usual = median(rows.values())
    for number, count in rows.items():
        if usual >= _MANY and 0 < count < max(_HARDLY_ANY, _FEW_ROWS * usual):
            yield (
                number,
                Problem.of(
                    "few-rows",
                    message=f"{counted(count, 'row')} of data; half of the sources with its header have {usual:,.0f} "
                    "and more",
                    hint="is the file complete?",
                ),
            )


def about_headers(matched: Matched, summaries: Sequence[SourceSummary]) -> Iterator[Problem]:
    """Problems of empty and repeated header cells, one for each header."""
    sources: dict[Header, list[int]] = {}
    for number, summary in enumerate(summaries):
        family = matched.family(number)
        if family and summary.is_assembled:
            sources.setdefault(family.header, []).append(number)
    for header, having in sources.items():
        if not header.rows:
            continue
        first, more = summaries[having[0]], len(having) - 1
        also = f" (and in {counted(more, 'more source')})" if more else ""
        named, empty, again = header.named, header.nameless, header.repeated
        nameless = [name for at, name in named.items() if at in empty]
        if nameless:
            said = f"{counted(len(nameless), 'column')} without a header, named {quoted(nameless)}{also}"
            yield Problem.of("header-cell-empty", first.source, first.header_row or None, message=said)
        twice = [name for at, name in named.items() if at in again]
        if twice:
            said = f"duplicate headers, named {quoted(twice)}{also}"
            yield Problem.of("header-cell-repeated", first.source, first.header_row or None, message=said)


def about_columns(matched: Matched, summaries: Sequence[SourceSummary]) -> Iterator[Problem]:
    """Problems of columns that no source has or not all have, of places without a source, of groups that are not wide."""
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
    """Problems of columns that may be one, where nobody has decided."""
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
    """Problems of columns without a unit in the plan whose sources have different units."""
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
    """Notes about columns whose values were converted to another unit."""
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
