"""The page of a draft: all that there is to look at and to decide, gathered for the template."""

from __future__ import annotations

import os
import shlex
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from math import isfinite
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from blake3 import blake3

from integrum.drafting.answers import KINDS, SAID_PARTS
from integrum.drafting.decision_file import VERSION, decisions_beside
from integrum.drafting.drafted_plan import DraftedPlan
from integrum.drafting.questions import Question, questions_of
from integrum.intake.matched import families_of, variants_of
from integrum.pages.grid import ColumnView, NameView, PathsView, ShownGroup, Told, by_variant, grid_of
from integrum.pages.page import as_json, drawn, hash_of, part_of_page, ranges_picture
from integrum.pages.samples import Samples, frequent_values
from integrum.pages.sources_shown import Looked, in_words, paths_of, show_sources
from integrum.plan.column import Column
from integrum.problems import notebook
from integrum.problems.grouped import grouped
from integrum.problems.problem import clipped, counted
from integrum.surveying.view import Survey
from integrum.surveying.words import difference, headline
from integrum.values.notation import ORDER_WORDS
from integrum.values.types import TYPES
from integrum.version import __version__

if TYPE_CHECKING:
    from integrum.surveying.decision import Place

# this many letters of columns are on the page; what is beyond is in the plan
_ROOM = 2_200_000
_MOST_QUESTIONS, _MOST_GROUPS, _MOST_NAMES, _MOST_TOLD = 400, 60, 12, 5
_MOST_EVIDENCE = 8
# problems that tell of rows that are there twice
_TWICE = frozenset({"repeated-rows", "rows-in-two-sources", "same-content"})


@dataclass(frozen=True)
class DraftPage:
    """A page that was written; a notebook shows where it is.

    Attributes
    ----------
    path
        The HTML file.
    plan
        The plan file that it is about.
    """

    path: Path
    plan: Path

    def __str__(self) -> str:
        return str(self.path)

    def __fspath__(self) -> str:
        return str(self.path)

    def _repr_html_(self) -> str:
        near = os.path.relpath(self.path)
        save = "" if self.plan.exists() else f"draft.save({str(self.plan)!r}); "
        said = f"Decide on it, download the decisions, then: {save}ig.draft([], onto={str(self.plan)!r}, decisions=FILE)"
        return notebook.view(notebook.link(near, f"open {near}"), notebook.line(said, "dim"))


def page_of(draft: DraftedPlan, survey: Survey, plan_file: Path) -> str:
    """The page as HTML.

    Parameters
    ----------
    survey
        What was found in the sources.
    plan_file
        The plan that the page is about.
    """
    plan, names = draft.plan, [one.source for one in survey.sources]
    families, family_of = families_of(plan, survey.found, survey.heads)
    # the survey numbers variants as they are read, and those of sources that are set aside as well
    variants = variants_of(survey.heads)
    looked = Looked(
        survey.found,
        [one.layout for one in survey.layouts],
        survey.heads,
        survey.sources,
        families,
        family_of,
        variants.of_source,
        lambda number: survey.layouts[number].evidence[:_MOST_EVIDENCE],
    )
    questions = questions_of(draft)
    place = {name: number for number, name in enumerate(names)}
    named = [*(one.source for one in questions), *(one.source for one in survey.problems)]
    wanted = [place[one] for one in named if one in place]
    said = {one.number: difference(one, survey) for one in survey.variants} if survey.columns else {}
    columns = [column for column in plan.columns if column.name not in plan.identifiers]
    shown = show_sources(looked, columns, wanted, said)
    on_page = {view.name for variant in shown.variants for view in variant.sources}
    views = list(_columns(draft, survey, shown.samples, names))
    cut = _fitting(views)
    grid = grid_of(
        columns,
        by_variant(families, family_of, variants.of_source, len(variants.names)),
        variants.of_source,
        names,
        survey.problems,
    )
    twice = [one for one in survey.problems if one.code in _TWICE]
    problems = grouped(one for one in survey.problems if one.code not in _TWICE)
    script = part_of_page("draft.js")
    style = part_of_page("base.css") + part_of_page("draft.css")
    data = {
        "version": VERSION,
        "plan": plan_file.name,
        "file": decisions_beside(plan_file).name,
        "kept": [one.as_data() for one in draft.answers],
        "subjects": {about: [*kind.by] for about, kind in KINDS.items()},
        "types": list(TYPES),
        "parts": [[str(part), said] for part, said in SAID_PARTS.items()],
        "date_orders": ORDER_WORDS,
        "grid": grid,
    }
    # the browser keeps what is decided on this page, and not for one that is made after it was merged
    known = [plan_file.name, names, [column.name for column in plan.columns], data["kept"]]
    data["id"] = blake3(repr(known).encode()).hexdigest()[:16]
    return drawn(
        "draft.html.jinja",
        title=plan_file.name,
        headline=headline(survey),
        style=style,
        script=script,
        policy=f"default-src 'none'; style-src {hash_of(style)}; script-src {hash_of(script)}; base-uri 'none'; "
        "form-action 'none'",
        data=as_json(data),
        questions=[_shown_question(one, on_page) for one in questions[:_MOST_QUESTIONS]],
        more_questions=max(len(questions) - _MOST_QUESTIONS, 0),
        answers=[str(one) for one in draft.answers],
        misfits=[(str(one.answer), one.became) for one in draft.settled if not one.fits],
        on_page=on_page,
        groups=[ShownGroup.of(one) for one in problems[:_MOST_GROUPS]],
        more_groups=max(len(problems) - _MOST_GROUPS, 0),
        twice=[ShownGroup.of(one) for one in grouped(twice)],
        variants=[one for one in shown.variants if one.sources],
        more_variants=sum(not one.sources for one in shown.variants),
        hidden=sum(one.others for one in shown.variants),
        columns=views[:cut],
        more_columns=len(views) - cut,
        left_out=shown.left_out,
        paths=list(_paths(survey)),
        identifiers=[column for column in plan.columns if column.name in plan.identifiers],
        plan_command=shlex.quote(plan_file.name),
        decisions=decisions_beside(plan_file).name,
        made_by=f"Made by Integrum {__version__}.",
    )


def _shown_question(one: Question, on_page: set[str]) -> dict[str, Any]:
    beside = None
    if one.beside:
        values = one.beside.values
        count = max(map(len, values), default=0)
        beside = {
            "names": one.beside.names,
            "sources": one.beside.sources,
            "rows": [tuple(each[at] if at < len(each) else "" for each in values) for at in range(count)],
        }
    return {
        "said": one.said,
        "kind": one.kind,
        "because": one.because,
        "choices": [(choice.said, [answer.as_data() for answer in choice.answers]) for choice in one.choices],
        "cost": one.cost,
        "column": one.column,
        "source": one.source if one.source in on_page else "",
        "beside": beside,
    }


def _columns(
    draft: DraftedPlan, survey: Survey, samples: Mapping[str, Samples], names: Sequence[str]
) -> Iterator[ColumnView]:
    having: dict[str, list[int]] = {}
    for one in survey.known:
        bits = np.frombuffer(one.sources.to_bytes(len(names) // 8 + 1, "little"), np.uint8)
        having[one.name] = np.flatnonzero(np.unpackbits(bits, bitorder="little")).tolist()
    identifiers = draft.plan.identifiers
    present = sum(one.is_assembled for one in survey.sources)
    for column in draft.plan.columns:
        if column.name in identifiers:
            continue
        yield _column(draft, survey, column, samples.get(column.name, Samples()), names, having, present)


def _column(
    draft: DraftedPlan,
    survey: Survey,
    column: Column,
    samples: Samples,
    names: Sequence[str],
    having: Mapping[str, Sequence[int]],
    present: int,
) -> ColumnView:
    values = survey.values
    headers = [each for each in (*column.headers, *column.from_) if values and values.has(each)]
    some = values.of(headers) if values else None
    there = {at for header in headers for at in having.get(header, ())}
    made = values.decide(headers, column.unit, column.type, column.missing) if values and headers else None
    picture, frequent = frequent_values(column.name, samples)
    reach = ""
    ranges = [
        (one.source, one.least, one.median, one.greatest)
        for one in (some.ranges if some and column.kind.is_number else ())
        if isfinite(one.least) and isfinite(one.median) and isfinite(one.greatest)
    ]
    if ranges:
        said = f"{column.name} by source, from the least to the greatest value"
        picture, frequent = ranges_picture(said, len(names), ranges), ()
        least, greatest = min(one[1] for one in ranges), max(one[3] for one in ranges)
        reach = f"{least:,.6g} to {greatest:,.6g}"
    missing = {one.text: _told(one, names) for one in (made.missing if made else ())}
    bad = made.bad if made and column.type != "text" else made.against if made else ()
    filled = sum(one.count for one in some.seen) if some else 0
    return ColumnView(
        column.name,
        column.type,
        column.unit,
        column.description,
        f"{counted(filled, 'value')} {in_words(len(there), present)}"
        if there
        else "no source has this column",
        tuple(_names(column, headers, having, names)[:_MOST_NAMES]),
        tuple(samples.shown),
        tuple(missing.get(code, Told(code, 0, "")) for code in column.missing),
        tuple(_told(one, names) for one in bad[:_MOST_TOLD]),
        max(len(bad) - _MOST_TOLD, 0),
        picture,
        reach,
        frequent,
        tuple(draft.remarks.get(("columns", column.name), ()))[:_MOST_EVIDENCE],
        max(len(headers) - _MOST_NAMES, 0),
        undecided=column.undecided,
    )


def _names(
    column: Column, headers: Sequence[str], having: Mapping[str, Sequence[int]], names: Sequence[str]
) -> list[NameView]:
    found = []
    for header in headers:
        some = having.get(header, ())
        found.append(NameView(header, column.unit_of(header), len(some), names[some[0]] if some else ""))
    return sorted(found, key=lambda one: (one.header != column.name, -one.sources))


def _told(place: Place, names: Sequence[str]) -> Told:
    return Told(clipped(place.text, 60), place.count, f"{names[place.source]}, row {place.row:,}")


def _fitting(views: Sequence[ColumnView]) -> int:
    """The number of columns that fit on the page."""
    room = _ROOM
    for at, view in enumerate(views):
        room -= 1_500 + len(view.picture) + sum(250 + len(one.raw) + len(one.source) for one in view.samples)
        if room < 0:
            return at
    return len(views)


def _paths(survey: Survey) -> Iterator[PathsView]:
    for number, group in enumerate(survey.groups, 1):
        names = [one.file for one in survey.sources if one.group == number]
        if (found := paths_of(group, names)) is not None:
            yield found
