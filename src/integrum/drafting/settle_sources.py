"""Do to groups of sources what a person has decided: which are wanted, what their names give, what their lines are."""

from __future__ import annotations

import os
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

from integrum.columns.identifiers import fitting
from integrum.detecting.detect import Detected
from integrum.drafting.answers import MADE, THERE, Answer, KeepSource, LinePart, NamesOfFiles, Settled
from integrum.drafting.clusters import literal, reads_alike
from integrum.drafting.draft import near_place
from integrum.drafting.lines import with_parts
from integrum.errors import PlanError
from integrum.plan.layout import Layout
from integrum.plan.sources import Sources
from integrum.problems.problem import SourceFault, counted
from integrum.reading.head import Head
from integrum.sources.patterns import is_excluded
from integrum.sources.source import Source
from integrum.sources.suffixes import unpacked_name
from integrum.surveying.rows import SeenRow, look_at
from integrum.surveying.view import Survey


@dataclass
class Regrouped:
    """Groups of sources and layouts after decisions."""

    groups: list[Sources]
    layouts: dict[str, Layout] = field(default_factory=dict)  # by the name of a source
    settled: list[Settled] = field(default_factory=list)


def regroup(groups: Sequence[Sources], survey: Survey, answers: Iterable[Answer], folder: Path) -> Regrouped:
    """Carry out the decisions about what is read.

    Parameters
    ----------
    groups
        The groups that were surveyed.
    survey
        What was found in them.
    answers
        The decisions; those about columns are passed over.
    folder
        What the paths of the groups are relative to.
    """
    made = Regrouped(list(groups))
    lines: dict[str, list[LinePart]] = {}
    for one in answers:
        if isinstance(one, LinePart):
            lines.setdefault(one.source, []).append(one)
            continue
        if not isinstance(one, (KeepSource, NamesOfFiles)):
            continue
        before = list(made.groups)
        try:
            if isinstance(one, KeepSource):
                _keep_source(made, survey, one, folder)
            else:
                _names_of_files(made, survey, one)
            became = THERE if made.groups == before else MADE
        except PlanError as error:
            made.groups, became = before, error.message
        made.settled.append(Settled(one, became))
    for name, some in lines.items():
        made.settled += _lines(made, survey, name, some)
    return made


def _keep_source(made: Regrouped, survey: Survey, one: KeepSource, folder: Path) -> None:
    at = next((at for at, each in enumerate(survey.sources) if each.source == one.source), None)
    if one.keep:
        made.groups = [_with_source(group, one.source) for group in made.groups]
        return
    if at is None:
        if not any(_leaves_out(group, one.source) for group in made.groups):
            raise PlanError("there is no such source now")
        return
    summary = survey.sources[at]
    number = summary.group - 1
    group = made.groups[number]
    others = {
        each.file for each in survey.sources if each.group == summary.group and each.file != summary.file
    }
    if summary.sheet:
        place = near_place(os.path.join(survey.base, summary.file), folder)
        sheets = [*group.sheets, f"!{summary.sheet}"]
        if not others:
            made.groups[number] = replace(group, sheets=sheets)
            return
        # a group of its own for the workbook, as `sheets` is for all workbooks of a group
        own = replace(group, find=[place], exclude=(), sheets=sheets, expect=None, group="")
        made.groups[number] = replace(group, exclude=[*group.exclude, literal(summary.file)])
        made.groups.append(own)
        return
    pattern = literal(summary.file)
    if any(is_excluded(name, (pattern,)) for name in others):
        raise PlanError(
            "another file of its group has the same name in a folder; write `exclude` in the plan"
        )
    made.groups[number] = replace(group, exclude=[*group.exclude, pattern])


def _leaves_out(group: Sources, name: str) -> bool:
    """Whether a group skips a source."""
    file, _, sheet = name.rpartition("/")
    is_sheet = f"!{sheet}" in group.sheets and any(
        place.endswith(os.path.basename(file)) for place in group.find
    )
    return is_excluded(name, tuple(group.exclude)) or is_sheet


def _with_source(group: Sources, name: str) -> Sources:
    """A group that does not skip a source any more."""
    pattern = literal(name)
    if pattern in group.exclude:
        return replace(group, exclude=[each for each in group.exclude if each != pattern])
    if "/" in name and _leaves_out(group, name):
        sheet = name.rpartition("/")[2]
        return replace(group, sheets=[each for each in group.sheets if each != f"!{sheet}"])
    return group


def _names_of_files(made: Regrouped, survey: Survey, one: NamesOfFiles) -> None:
    fits = False
    for number, group in enumerate(made.groups, 1):
        own = group.schemes
        if one.scheme in own or (one.use and one.use in own):
            fits = True
            new = [one.use if each == one.scheme else each for each in own]
            made.groups[number - 1] = replace(group, ids=[each for each in new if each])
        elif not own:
            names = {each.file for each in survey.sources if each.group == number}
            if names and fitting(one.scheme, sorted(map(unpacked_name, names))).fits:
                fits = True
                if one.use:
                    made.groups[number - 1] = replace(group, ids=one.use)
    if not fits:
        raise PlanError("no names of files fit it now")


def _lines(made: Regrouped, survey: Survey, name: str, some: Sequence[LinePart]) -> Iterator[Settled]:
    """Carry out decisions about the rows of a source, and of all with its layout."""
    at = next((at for at, each in enumerate(survey.sources) if each.source == name), None)
    if at is None:
        yield from (Settled(one, "there is no such source now") for one in some)
        return
    old = survey.layouts[at].layout
    head, source = survey.heads[at], survey.found[at]
    try:
        rows: Sequence[SeenRow] = look_at(source, Detected(old)).rows
    except SourceFault:
        rows = ()
    parts = {one.row: one.part for one in some}
    known = head if isinstance(head, Head) else None
    layout, why = with_parts(old, parts, rows, known)
    if layout != old and (not_so := _not_so(source, layout, parts, why)):
        # a layout says it otherwise than was meant: only what it says rightly is done
        right = {row: part for row, part in parts.items() if row not in not_so}
        layout, more = with_parts(old, right, rows, known)
        why |= not_so | more
        if layout != old and (still := _not_so(source, layout, right, why)):
            layout, why = old, why | still
    already = {seen.row for seen in rows if parts.get(seen.row) == seen.part}
    for one in some:
        there = not why.get(one.row) and layout == old
        yield Settled(one, why.get(one.row) or (THERE if there or one.row in already else MADE))
    if layout == old:
        return
    for number in _laid_out_like(survey, at):
        made.layouts[survey.sources[number].source] = layout


def _not_so(
    source: Source, layout: Layout, parts: Mapping[int, str], why: Mapping[int, str]
) -> dict[int, str]:
    """Rows that a changed layout does not read as decided, and what they are."""
    try:
        rows = look_at(source, Detected(layout)).rows
    except SourceFault as fault:
        return dict.fromkeys(
            (row for row in parts if row not in why), f"it cannot be read then: {fault.message}"
        )
    found = {row: rows[row - 1].part for row in parts if row <= len(rows) and row not in why}
    return {
        row: f"no key of a layout can say that; the row would be {part.words}"
        for row, part in found.items()
        if part != parts[row]
    }


def _laid_out_like(survey: Survey, at: int) -> list[int]:
    """The sources of the group with the same layout and header."""
    head, group = survey.heads[at], survey.sources[at].group
    if not isinstance(head, Head):
        return [at]
    return [
        number
        for number, other in enumerate(survey.heads)
        if isinstance(other, Head)
        and survey.sources[number].group == group
        and survey.layouts[number].layout == survey.layouts[at].layout
        and other.header.names == head.header.names
    ]


def in_groups(
    groups: Sequence[Sources], survey: Survey, layouts: Mapping[str, Layout], folder: Path
) -> list[Sources]:
    """Set decided layouts: in place for a whole group, else in new groups.

    Parameters
    ----------
    groups
        The groups; those of the survey are the first ones, perhaps with other keys.
    layouts
        The layout of each source that has another one now, by its name.
    folder
        What the paths of the groups are relative to.
    """
    result = list(groups)
    added: list[Sources] = []
    for number, group in enumerate(groups, 1):
        here = [at for at, one in enumerate(survey.sources) if one.group == number]
        for old in dict.fromkeys(repr(survey.layouts[at].layout) for at in here):
            same = [at for at in here if repr(survey.layouts[at].layout) == old]
            changed = [at for at in same if survey.sources[at].source in layouts]
            if not changed:
                continue
            new = layouts[survey.sources[changed[0]].source]
            before = survey.layouts[changed[0]].layout
            if all(at in changed or _reads_alike(survey, at, new) for at in same):
                changed = same  # the others are read as before
            if len(changed) == len(same) and not group.layouts:
                result[number - 1] = replace(result[number - 1], layout=new)
            elif len(changed) == len(same) and before in group.layouts:
                every = [new if each == before else each for each in result[number - 1].layouts]
                result[number - 1] = replace(result[number - 1], layouts=every)
            else:
                out = tuple(result[number - 1].exclude)
                every_file = dict.fromkeys(survey.sources[at].file for at in changed)
                files = [file for file in every_file if not is_excluded(file, out)]
                places = [near_place(os.path.join(survey.base, file), folder) for file in files]
                own = replace(group, find=places, exclude=(), layouts=(), layout=new, expect=None, group="")
                added.append(own)
                kept = result[number - 1]
                exclude = dict.fromkeys((*kept.exclude, *map(literal, files)))
                result[number - 1] = replace(kept, exclude=list(exclude))
    return [*result, *added]


def _reads_alike(survey: Survey, at: int, layout: Layout) -> bool:
    """Whether a source is read as before with another layout."""
    head, source = survey.heads[at], survey.found[at]
    return isinstance(head, Head) and reads_alike(source, head, survey.layouts[at].layout, layout)


def with_effects(settled: Sequence[Settled], before: Survey, after: Survey) -> list[Settled]:
    """Count how many rows of data the decisions about lines have changed."""
    was = {one.source: one.ledger.data for one in before.sources if one.is_assembled}
    now = {one.source: one.ledger.data for one in after.sources if one.is_assembled}
    other = [name for name in now if name in was and was[name] != now[name]]
    if not other:
        return list(settled)
    old, new = (sum(rows[name] for name in other) for rows in (was, now))
    said = f"rows of data in {counted(len(other), 'source')}: {old:,}, now {new:,}"
    return [
        replace(one, effect=said) if isinstance(one.answer, LinePart) and one.became == MADE else one
        for one in settled
    ]
