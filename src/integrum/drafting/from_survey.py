"""From a survey to a plan, with the evidence as comments."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

from integrum.columns.identifiers import fitting, nearer, propose
from integrum.drafting.clusters import reads_alike
from integrum.drafting.columns import complete, decided, free_of, guesses_of, unlisted_line
from integrum.drafting.draft import Draft
from integrum.drafting.grouping import LayoutGroup, apart, layout_groups
from integrum.drafting.headerless import named_like_siblings
from integrum.errors import NothingFound
from integrum.intake.layouts import Chosen, choose_layouts
from integrum.plan.column import Column, Maybe
from integrum.plan.fields import fits, serial_pattern, without_serial
from integrum.plan.layout import Layout
from integrum.plan.plan import Plan
from integrum.plan.rules import Provenance, Rules
from integrum.plan.scheme import Schemes
from integrum.plan.sources import Sources
from integrum.problems.problem import Problem, SourceFault, clipped, counted, first_few
from integrum.sources.suffixes import unpacked_name
from integrum.surveying.decide import decide_texts
from integrum.surveying.decision import why_text
from integrum.surveying.findings import ColumnSurvey
from integrum.surveying.view import Survey
from integrum.surveying.wide import wide_remarks
from integrum.workers.pool import threads

# what a person should look at before a run; and what a survey tells of layouts that it is not sure of
_LOOK_AT = (
    "table-on-its-side",
    "rows-in-two-sources",
    "total-in-table",
    "header-in-preamble",
    "left-out-like-data",
    "text-misread",
)
_SHOWN = 3
_UNDECIDED = frozenset({"layout-undecided", "encoding-unclear"})


def draft_from(survey: Survey, folder: Path, given: Sequence[Column | str] | None = None) -> Draft:
    """Write the plan that a survey suggests.

    Raises NothingFound when no source of the survey has a readable header.

    Parameters
    ----------
    folder
        What its paths are relative to.
    given
        The columns that the table shall have, or their names: what they say stays, and what they leave open is filled from
        the values.
    """
    if not survey.columns:
        faults = "".join(f"\n  {problem}" for problem in survey.problems[:5])
        raise NothingFound(f"no source has a readable header{faults}")
    top = [
        f"Drafted from {counted(len(survey.sources), 'source')} with {counted(survey.rows, 'row')} of data.",
        "Read it, edit it, then run: integrum assemble THIS-FILE --to TABLE.csv",
    ]
    remarks: dict[tuple[str, str], Sequence[str]] = {}
    columns: list[Column] = []
    if given is None:
        guesses = guesses_of(survey.guesses)
        names_taken = {name for found in survey.columns for name, _ in found.spellings}
        for found in survey.columns:
            column, lines = drafted_column(
                survey, found, guesses.get(found.name, ()), lambda name: _taken(name, names_taken)
            )
            columns.append(column)
            if lines:
                remarks["columns", column.name] = lines
    else:
        named = [Column(one) if isinstance(one, str) else one for one in given]
        untyped = {one for one in given if isinstance(one, str)}
        made = complete(survey, Plan(survey.groups, named), untyped, fill=True)
        columns += made.columns
        remarks |= {("columns", name): lines for name, lines in made.lines.items() if lines}
        top += [line] if (line := unlisted_line(made.unlisted)) else []
        survey = replace(survey, guesses=made.own_guesses)
    remarks["plan", ""] = top
    taken = {name for column in columns for name in column.headers} | set(survey.identifiers)
    sheet = free_of("sheet", taken) if any(one.sheet for one in survey.sources) else "sheet"
    provenance = Provenance(free_of("source", taken), free_of("source_row", taken), sheet)
    first = [
        _identifier(name, values, _marks_of(survey, name))
        for name, values in survey.identifiers.items()
        if name not in {column.name for column in columns}
    ]
    groups, proven = _tried(layout_groups(survey, folder), survey, [*first, *columns], provenance, folder)
    proposed = propose(list(dict.fromkeys(one.file for one in survey.sources)))
    scheme = proposed.scheme if proposed else ""
    for group in groups:
        lines = [*group.evidence, *_about_names(group.sources, group.names, scheme)]
        plain = group.sources.layout == Layout() and not group.sources.layouts
        if plain and group.evidence:
            lines = lines[1:]  # nothing was guessed that is not the rule anyway
        if lines:
            remarks["sources", group.sources.key] = lines
    for number, column_name, lines in wide_remarks(survey, columns) if given is None else ():
        first_of = next((group for group in groups if _is_of(survey, group, number)), None)
        if first_of is not None:
            key = ("sources", first_of.sources.key)
            remarks[key] = [*remarks.get(key, ()), *lines]
            key = ("columns", column_name)
            remarks[key] = [
                *remarks.get(key, ()),
                "could become rows with others like it: see `wide` of the sources",
            ]
    groups = [_with_undecided(group, survey) for group in groups]
    # who names the columns wants these, and no others
    rules = Rules() if given is None else Rules(unlisted="leave-out")
    plan = Plan([group.sources for group in groups], [*first, *columns], provenance, rules)
    passed = {f"/{name}" for _, name in survey.passed}
    seen = tuple(
        one
        for one in survey.problems
        if one.kind.scope == "guess"
        or (one.code == "passed-over" and any(one.source.endswith(name) for name in passed))
    )
    _remark_told(remarks, survey.problems, groups)
    _remark_tables(remarks, [one for one in survey.problems if one.code == "second-table"], groups)
    if given is None:
        doubts = _drafted_as_text(survey)
        seen += doubts
        why = {one.column: one.message.removeprefix("drafted as ") for one in doubts}
        open_columns = [
            replace(one, undecided=why[one.name]) if one.name in why else one for one in plan.columns
        ]
        plan = replace(plan, columns=open_columns)
    typed = frozenset(one.name for one in given or () if isinstance(one, Column))
    return named_like_siblings(Draft(plan, remarks, folder, seen, survey, proven, typed=typed))


def drafted_column(
    survey: Survey, found: ColumnSurvey, guesses: Sequence[Maybe], free: Callable[[str], str] = str
) -> tuple[Column, list[str]]:
    """A column as a survey suggests it, and the evidence."""
    also = [name for name, _ in found.spellings[1:]]
    column = Column(found.name, "text", also, guesses)
    if serial_pattern(found.name):
        column = _without_serials(column, {header for one in survey.columns for header, _ in one.spellings})
    column = decided(column, found.decision, survey, dict(found.units), free)
    return column, [clipped(line, 400) for line in found.remarks]


def _without_serials(column: Column, every: set[str]) -> Column:
    """Replace serial numbers of instruments in headers by a pattern, since next month has others."""
    patterns = dict.fromkeys(serial_pattern(header) or header for header in column.headers)
    if any(fits(header, each) for each in patterns for header in every - {*column.headers}):
        return column
    name = without_serial(column.name)
    if name in every - {*column.headers}:
        return column
    return replace(column, name=name, also=[each for each in patterns if each != name])


def _tried(
    groups: Sequence[LayoutGroup],
    survey: Survey,
    columns: Sequence[Column],
    provenance: Provenance,
    folder: Path,
) -> tuple[list[LayoutGroup], dict[int, Layout]]:
    """Test the rule that chooses among several layouts, and split the groups where it chooses wrongly."""
    if not any(group.layout_of for group in groups):
        return list(groups), {}
    plan = Plan([group.sources for group in groups], columns, provenance)
    result: list[LayoutGroup] = []
    proven: dict[int, Layout] = {}
    with threads() as pool:
        for number, group in enumerate(groups, 1):
            numbers = list(group.layout_of)
            sources = [replace(survey.found[at], group=number) for at in numbers]
            chosen = choose_layouts(plan, sources, pool) if numbers else []
            odd = [
                at
                for at, one in zip(numbers, chosen, strict=True)
                if not _is_as_meant(survey, at, one, group.layout_of[at])
            ]
            parts = apart(survey, group, odd, folder) if odd else [group]
            proven |= parts[0].layout_of
            result += parts
    return result, proven


def _is_as_meant(survey: Survey, at: int, chosen: Chosen, meant: Layout) -> bool:
    """Whether the rule has chosen the guessed layout, or one that reads the source in the same way."""
    head, source = survey.heads[at], survey.found[at]
    if isinstance(chosen.head, SourceFault) or isinstance(head, SourceFault):
        return False
    return chosen.layout == meant or (
        replace(chosen.layout, comment_mark="", footer_from=())
        == replace(meant, comment_mark="", footer_from=())
        and reads_alike(source, head, survey.cached[at].layout, chosen.layout)
    )


def _remark_tables(
    remarks: dict[tuple[str, str], Sequence[str]], problems: Sequence[Problem], groups: Sequence[LayoutGroup]
) -> None:
    """Add a comment to each group in which a second table was seen."""
    for group in groups:
        lines = [
            f"there may be another table in {one.source}"
            + (f", row {one.row:,}" if one.row else "")
            + (f", column {one.column}" if one.column else "")
            for one in problems
            if one.code == "second-table" and one.source in group.members
        ]
        if lines:
            shown = lines[:3] + ([f"and in {len(lines) - 3:,} more"] if len(lines) > 3 else [])
            key = ("sources", group.sources.key)
            remarks[key] = [*remarks.get(key, ()), *shown]


def _remark_told(
    remarks: dict[tuple[str, str], Sequence[str]], problems: Sequence[Problem], groups: Sequence[LayoutGroup]
) -> None:
    """Add comments about what a person should look at before a run."""
    for code in _LOOK_AT:
        told = [one for one in problems if one.code == code]
        for group in groups:
            here = [one for one in told if one.source in group.members]
            lines = [
                clipped(f"{one.source}{f', row {one.row:,}' if one.row else ''}: {one.message}", 300)
                for one in here[:_SHOWN]
            ]
            if len(here) > _SHOWN:
                lines.append(f"and {len(here) - _SHOWN:,} more like it")
            if here and here[0].hint:
                lines.append(here[0].hint)
            if lines:
                key = ("sources", group.sources.key)
                remarks[key] = [*remarks.get(key, ()), *lines]
    skipped = [one for one in problems if one.code == "tables-skipped"]
    remarks["plan", ""] = [
        *remarks["plan", ""],
        *(line for one in skipped for line in (one.message, one.hint)),
    ]


def _with_undecided(group: LayoutGroup, survey: Survey) -> LayoutGroup:
    """Set what is doubtful about the layouts of a group."""
    said = [
        f"{one.source}: {one.message}"
        for one in survey.problems
        if one.code in _UNDECIDED and one.source in group.members
    ]
    return replace(group, sources=replace(group.sources, undecided=said)) if said else group


def _drafted_as_text(survey: Survey) -> tuple[Problem, ...]:
    """A line for each column that is text though most values are not."""
    names = [one.source for one in survey.sources]
    return tuple(
        Problem.of(
            "drafted-as-text",
            column=one.name,
            message=f"drafted as {why}",
            hint=", ".join(one.decision.advice),
        )
        for one in survey.columns
        if (why := why_text(one.decision, names))
    )


def _is_of(survey: Survey, group: LayoutGroup, number: int) -> bool:
    """Whether a group of the plan was made from a group of the survey."""
    return any(one.source in group.members for one in survey.sources if one.group == number)


def _marks_of(survey: Survey, name: str) -> tuple[str, str]:
    """The marks in the numbers of an identifier from preambles, if all layouts have the same."""
    marks = {
        (one.layout.decimal_mark, one.layout.thousands_mark)
        for one, source in zip(survey.layouts, survey.found, strict=True)
        if any(name in each.capture for each in survey.groups[source.group - 1].possible_layouts)
    }
    return marks.pop() if len(marks) == 1 else (".", "")


def _identifier(name: str, values: Sequence[str | None], marks: tuple[str, str]) -> Column:
    made = decide_texts(values, marks)
    return Column(name, made.type, date_order=made.date_order, zone=made.zone, spelling=made.spelling)


def _about_names(group: Sources, names: Sequence[str], scheme: str) -> list[str]:
    """Comments about the scheme of a group: a proposal, or the one it has."""
    if group.ids:
        return _about_misfits(group, names)
    made = fitting(scheme, names) if scheme else None
    own = propose(names)
    if made is None or not made.fits or (made.others and own and len(own.others) < len(made.others)):
        made = own
    if made is None or not made.fits or len(made.others) > made.fits:
        return []
    if made.others:
        shown = first_few(made.others, 3)
        lines = [f"{made.fits:,} of {len(names):,} names follow a pattern; not: {shown}"]
    else:
        lines = [f"all {made.fits:,} names follow a pattern"]
    return [*lines, "rename its parts as you like; they become columns:", f'ids = "{made.scheme}"']


def _about_misfits(group: Sources, names: Sequence[str]) -> list[str]:
    """Comments about names that do not fit the schemes, why, and what would fit."""
    schemes = Schemes(group.schemes)
    others = [name for name in names if schemes.fit(unpacked_name(name)).values is None]
    if not others:
        return []
    do = f"name{'' if len(names) == 1 else 's'} do{'es' if len(others) == 1 else ''}"
    lines = [
        f"{len(others):,} of {len(names):,} {do} not fit ids: {schemes.fit(unpacked_name(others[0])).reason}"
    ]
    found = nearer(group.schemes, names)
    if found:
        said = f'"{found[0]}"' if len(found) == 1 else "[" + ", ".join(f'"{one}"' for one in found) + "]"
        left = sum(Schemes(found).fit(unpacked_name(name)).values is None for name in names)
        lines.append(f"ids = {said} fits {'all of them' if not left else f'all but {left:,}'}")
    return lines


def _taken(name: str, taken: set[str]) -> str:
    """Take a name that no other column has."""
    free = free_of(name, taken)
    taken.add(free)
    return free
