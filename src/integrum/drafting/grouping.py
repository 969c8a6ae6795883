"""Sources with the same layout, as groups that a plan can name."""

from __future__ import annotations

import os
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from math import inf
from pathlib import Path
from typing import Any

from integrum.drafting.clusters import (
    Cluster,
    broken_in,
    clusters_of,
    common_names,
    files_of,
    literal,
    reads_alike,
    sheets_in,
)
from integrum.plan.layout import Layout
from integrum.plan.sources import Sources
from integrum.problems.problem import counted
from integrum.reading.head import Head
from integrum.remote.addresses import below
from integrum.surveying.view import Survey
from integrum.workbooks.places import letters

# this many sources of which a guess is not certain are named
_DOUBTS = 3


@dataclass(frozen=True)
class LayoutGroup:
    """A group of sources with its layout or layouts."""

    sources: Sources
    evidence: tuple[str, ...]  # what speaks for it, a line each
    names: tuple[str, ...]
    members: frozenset[str] = frozenset()  # the names of its sources
    # by the number of a source in the survey, the layout that it shall be read by; only where there are
    # several
    layout_of: Mapping[int, Layout] = field(default_factory=dict)


def layout_groups(survey: Survey, folder: Path) -> list[LayoutGroup]:
    """Give each group of a survey its layout or layouts.

    Sources that are written in several ways make a group with several layouts. Sheets are divided into groups with one
    layout each, as a plan tells them apart by their names.

    In the order of the groups, the largest part of each first.

    `folder`: what the paths of its groups are relative to.
    """
    made: list[LayoutGroup] = []
    for number, group in enumerate(survey.groups, 1):
        clusters = _proven(survey, clusters_of(survey, number))
        if group.layout != Layout() or group.layouts or not clusters:
            names = tuple(dict.fromkeys(one.file for one in survey.sources if one.group == number))
            every = frozenset(one.source for one in survey.sources if one.group == number)
            made.append(LayoutGroup(group, (), names, every))
        elif len(clusters) > 1 and not any(
            survey.sources[at].sheet for one in clusters for at in one.members
        ):
            made.append(_with_layouts(survey, group, clusters))
        else:
            for order, cluster in enumerate(clusters):
                others = clusters[1:] if order == 0 else []
                made.append(_made(survey, group, cluster, others, folder, whole=len(clusters) == 1))
    return made


def apart(survey: Survey, made: LayoutGroup, odd: Sequence[int], folder: Path) -> list[LayoutGroup]:
    """Move sources that the rule gives no layout into groups of their own."""
    group = made.sources
    left = [at for at in made.layout_of if at not in odd]
    names = {survey.sources[at].file for at in odd}
    layouts = tuple(one for one in group.layouts if any(made.layout_of[at] == one for at in left))
    several = len(layouts) > 1
    excluded = [*group.exclude, *(literal(name) for name in sorted(names))]
    kept = replace(
        group,
        exclude=list(dict.fromkeys(excluded)),
        layouts=layouts if several else (),
        layout=Layout() if several or not layouts else layouts[0],
    )
    said = (
        f"{', '.join(sorted(names)[:3])}{' and more' if len(names) > 3 else ''}: in a group of their own "
        "below"
    )
    result = [
        LayoutGroup(
            kept,
            (*made.evidence, said),
            tuple(name for name in made.names if name not in names),
            frozenset(survey.sources[at].source for at in left),
            {at: made.layout_of[at] for at in left} if several else {},
        )
    ]
    absolute = all(os.path.isabs(place) for place in group.find)
    for at in odd:
        name = survey.sources[at].file
        place = os.path.join(survey.base, name)
        find = [place if absolute else below(folder, place)]
        alone = replace(
            group, find=find, exclude=(), layouts=(), layout=made.layout_of[at], expect=None, group=""
        )
        line = "on its own, as no rule separates its layout from the others in its folder"
        result.append(LayoutGroup(alone, (line,), (name,), frozenset({survey.sources[at].source})))
    return result


def _proven(survey: Survey, clusters: Sequence[Cluster]) -> list[Cluster]:
    """Clusters whose common layout reads every member as its own guess does. Other members are split off."""
    result: list[Cluster] = []
    broken = broken_in(survey)
    for cluster in clusters:
        if broken >= set(cluster.members):
            result.append(cluster)
            continue
        shared = _layout_of(survey, cluster)
        others: dict[str, Cluster] = {}
        for at in list(cluster.members):
            own, head, source = survey.cached[at].layout, survey.heads[at], survey.found[at]
            if (
                at not in broken
                and isinstance(head, Head)
                and not reads_alike(source, head, own, source.written(shared))
            ):
                cluster.members.remove(at)
                other = others.setdefault(
                    repr(own), Cluster(cluster.group, [], cluster.known, cluster.columns)
                )
                other.members.append(at)
        result += [one for one in (cluster, *others.values()) if one.members]
    return sorted(result, key=lambda one: (-len(one.members), min(one.members)))


def _with_layouts(survey: Survey, group: Sources, clusters: Sequence[Cluster]) -> LayoutGroup:
    """A group whose sources are written in several ways."""
    layouts = [_layout_of(survey, cluster) for cluster in clusters]
    layout_of = {
        at: layout for cluster, layout in zip(clusters, layouts, strict=True) for at in cluster.members
    }
    evidence = []
    for number, (cluster, layout) in enumerate(zip(clusters, layouts, strict=True), 1):
        first = survey.sources[min(cluster.members)].source
        count = len(cluster.members)
        said = f"layout {number}: {counted(count, 'source')}, {'such as ' if count > 1 else ''}{first}"
        evidence += [said, *_evidence(survey, sorted(cluster.members), layout)[1:]]
    distinct = list({repr(layout): layout for layout in layouts}.values())
    names = tuple(dict.fromkeys(survey.sources[at].file for at in sorted(layout_of)))
    members = frozenset(survey.sources[at].source for at in layout_of)
    return LayoutGroup(replace(group, layouts=distinct), tuple(evidence), names, members, layout_of)


def _layout_of(survey: Survey, cluster: Cluster) -> Layout:
    """The layout that the members of a cluster share."""
    members = sorted(cluster.members)
    layouts = [survey.layouts[at].layout for at in members]
    known = {key: value for key, value in cluster.known.items() if key != "none"}
    footers = dict.fromkeys(text for layout in layouts for text in layout.footer_from)
    where: dict[str, Any] = {"header_row": layouts[0].header_row, "first_row": layouts[0].first_row}
    if len({layout.header_row for layout in layouts}) > 1:
        where = {"header_has": common_names(survey, members)[:6]}
    if cluster.columns:
        first, end = cluster.columns.first, cluster.columns.end
        where["first_column"] = letters(first) if first > 1 else ""
        where["last_column"] = letters(end) if cluster.columns.behind < inf else ""
    return Layout(**known, **where, footer_from=list(footers))


def _made(
    survey: Survey, group: Sources, cluster: Cluster, others: Sequence[Cluster], folder: Path, whole: bool
) -> LayoutGroup:
    members = sorted(cluster.members)
    layout = _layout_of(survey, cluster)
    group = replace(group, sheets=_sheets(survey, group, cluster, others, whole))
    if whole:
        sources = replace(group, layout=layout)
    elif others:
        own = files_of(survey, cluster)
        exclude = [pattern for other in others for pattern in _patterns(survey, other, own)]
        sources = replace(group, layout=layout, exclude=list(dict.fromkeys([*group.exclude, *exclude])))
    else:
        absolute = all(os.path.isabs(place) for place in group.find)
        places = [os.path.join(survey.base, place) for place in _places(survey, cluster)]
        find = places if absolute else [below(folder, place) for place in places]
        sources = replace(group, layout=layout, find=find)
    said: list[str] = []
    if not whole:
        expect, said = _expected(group, len(members))
        sources = replace(sources, expect=expect)
    names = tuple(dict.fromkeys(survey.sources[at].file for at in members))
    every = frozenset(survey.sources[at].source for at in members)
    return LayoutGroup(sources, (*_evidence(survey, members, layout), *said), names, every)


def _evidence(survey: Survey, members: Sequence[int], layout: Layout) -> list[str]:
    lines = [f"layout guessed from {counted(len(members), 'source')}"]
    doubtful = sorted(
        (at for at in members if survey.layouts[at].confidence < 1),
        key=lambda at: survey.layouts[at].confidence,
    )
    for at in doubtful[:_DOUBTS]:
        one = survey.layouts[at]
        lines.append(
            f"{survey.sources[at].source}: {one.confidence:.0%} sure"
            + (f"; {one.doubt}" if one.doubt else "")
        )
    if len(doubtful) > _DOUBTS:
        lines.append(f"and {len(doubtful) - _DOUBTS:,} more whose layout is uncertain")
    rows = Counter(survey.layouts[at].layout.header_row for at in members)
    if layout.header_has:
        said = ", ".join(
            f"row {row} in {count:,}" for row, count in sorted(rows.items(), key=lambda item: str(item[0]))
        )
        lines.append(f"the header is in {said}, so it is found by its cells")
    encodings = dict.fromkeys(
        survey.layouts[at].evidence[0]
        for at in members
        if survey.layouts[at].evidence and "encoding" not in survey.layouts[at].free
    )
    lines += [line for line in encodings if "uncertain" in line][:2]
    keys = Counter(
        key
        for at in members
        if isinstance(head := survey.heads[at], Head)
        for key in dict.fromkeys(entry.key for entry in head.preamble if entry.key)
    )
    keys = Counter({key: count for key, count in keys.items() if count > 0.5 * len(members)})
    if keys:
        shown = ", ".join(f'{_as_name(key)} = "{key}"' for key in list(keys)[:8])
        lines.append(f"the preamble has entries that can become columns: capture = {{ {shown} }}")
    return lines


def _as_name(key: str) -> str:
    plain = "".join(letter if letter.isalnum() and letter.isascii() else "_" for letter in key.lower()).strip(
        "_"
    )
    return "_".join(part for part in plain.split("_") if part) or "entry"


def _places(survey: Survey, cluster: Cluster) -> list[str]:
    """Folders of only these files, or else the files themselves."""
    own = files_of(survey, cluster)
    every = [one.file for one in survey.sources if one.group == cluster.group]
    places: dict[str, None] = {}
    for name in sorted(own):
        file = name.partition(".zip/")[0] + ".zip" if ".zip/" in name else name
        folder = file.rpartition("/")[0]
        alone = folder and all(other in own for other in every if other.startswith(f"{folder}/"))
        places[folder if alone else file] = None
    return list(places)


def _patterns(survey: Survey, cluster: Cluster, own: set[str]) -> list[str]:
    """Patterns that exclude these places, but none of the files in `own`."""
    names = {one.file for one in survey.sources}
    return [
        literal(place) if place in names else f"{literal(place)}/**"
        for place in _places(survey, cluster)
        if place not in own
    ]


def _sheets(
    survey: Survey, group: Sources, cluster: Cluster, others: Sequence[Cluster], whole: bool
) -> list[str]:
    """The sheets of a cluster, where others are in the same workbooks."""
    files = files_of(survey, cluster)
    passed = [f"!{name}" for number, name in survey.passed if number == cluster.group]
    if whole or others:
        foreign = [
            f"!{name}"
            for other in others
            if files & files_of(survey, other)
            for name in sheets_in(survey, other, files & files_of(survey, other))
        ]
        return list(dict.fromkeys([*group.sheets, *passed, *foreign]))
    elsewhere = {
        one.file
        for at, one in enumerate(survey.sources)
        if one.group == cluster.group and at not in cluster.members
    }
    if not files & elsewhere:
        return list(dict.fromkeys([*group.sheets, *passed]))
    return sheets_in(survey, cluster, files)


def _expected(group: Sources, count: int) -> tuple[int | None, list[str]]:
    """What a part of a group expects, and what to say about it."""
    if group.expect is None:
        return None, []
    if isinstance(group.expect, int):
        return count, [f"the whole group expected {group.expect:,} sources"]
    return None, ["`expect` was for all parts of this group together and was removed; set it for each part"]
