"""Sources with the same layout, as groups that a plan can name."""

from __future__ import annotations

import os
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import inf
from pathlib import Path
from typing import Any

from integrum.drafting.clusters import Cluster, clusters_of, common_names, files_of, sheets_in
from integrum.plan.layout import Layout
from integrum.plan.model import Sources
from integrum.reading.head import Head
from integrum.surveying.findings import Survey
from integrum.workbooks.places import letters


@dataclass(frozen=True)
class LayoutGroup:
    """A group of sources with its layout, the evidence for it, the names of its files and those of its sources."""

    sources: Sources
    evidence: tuple[str, ...]
    names: tuple[str, ...]
    members: frozenset[str] = frozenset()


def layout_groups(survey: Survey, folder: Path) -> list[LayoutGroup]:
    """Divide the groups of a survey until each has one layout.

    Parameters
    ----------
    survey
        The survey.
    folder
        What the paths of its groups are relative to.

    Returns
    -------
    list of LayoutGroup
        In the order of the groups, the largest part of each first.
    """
    made: list[LayoutGroup] = []
    for number, group in enumerate(survey.groups, 1):
        clusters = clusters_of(survey, number)
        if group.layout != Layout() or not clusters:
            names = tuple(dict.fromkeys(one.file for one in survey.sources if one.group == number))
            every = frozenset(one.source for one in survey.sources if one.group == number)
            made.append(LayoutGroup(group, (), names, every))
            continue
        for order, cluster in enumerate(clusters):
            others = clusters[1:] if order == 0 else []
            made.append(_made(survey, group, cluster, others, folder, whole=len(clusters) == 1))
    return made


def _made(
    survey: Survey, group: Sources, cluster: Cluster, others: Sequence[Cluster], folder: Path, whole: bool
) -> LayoutGroup:
    members = sorted(cluster.members)
    layouts = [survey.layouts[at].layout for at in members]
    known = {key: value for key, value in cluster.known.items() if key != "none"}
    rows = Counter(layout.header_row for layout in layouts)
    footers = dict.fromkeys(text for layout in layouts for text in layout.footer_from)
    where: dict[str, Any] = {"header_row": layouts[0].header_row, "first_row": layouts[0].first_row}
    if len(rows) > 1:
        where = {"header_has": common_names(survey, members)[:6]}
    if cluster.columns:
        first, end = cluster.columns.first, cluster.columns.end
        where["first_column"] = letters(first) if first > 1 else ""
        where["last_column"] = letters(end) if cluster.columns.behind < inf else ""
    layout = Layout(**known, **where, footer_from=list(footers))
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
        find = places if absolute else [Path(os.path.relpath(place, folder)).as_posix() for place in places]
        sources = replace(group, layout=layout, find=find)
    said: list[str] = []
    if not whole:
        expect, said = _expected(group, len(members))
        sources = replace(sources, expect=expect)
    names = tuple(dict.fromkeys(survey.sources[at].file for at in members))
    every = frozenset(survey.sources[at].source for at in members)
    return LayoutGroup(sources, (*_evidence(survey, members, rows), *said), names, every)


def _evidence(survey: Survey, members: Sequence[int], rows: Counter[Any]) -> list[str]:
    sure = min(survey.layouts[at].confidence for at in members)
    lines = [
        f"layout guessed from {len(members):,} source{'s' if len(members) > 1 else ''}; the least sure is {sure:.0%}"
    ]
    if len(rows) > 1:
        said = ", ".join(
            f"row {row} in {count:,}" for row, count in sorted(rows.items(), key=lambda item: str(item[0]))
        )
        lines.append(f"the header stands in {said}; so it is found by its cells")
    encodings = dict.fromkeys(
        survey.layouts[at].evidence[0]
        for at in members
        if survey.layouts[at].evidence and "encoding" not in survey.layouts[at].free
    )
    lines += [line for line in encodings if "not certain" in line][:2]
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
    """Folders that hold nothing else, and else the files themselves."""
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
    """Patterns that leave these places out, but not the files in `own`."""
    names = {one.file for one in survey.sources}
    return [
        _literal(place) if place in names else f"{_literal(place)}/**"
        for place in _places(survey, cluster)
        if place not in own
    ]


def _sheets(
    survey: Survey, group: Sources, cluster: Cluster, others: Sequence[Cluster], whole: bool
) -> list[str]:
    """Which sheets the plan takes: those of this cluster where others are in the same workbooks, and no covers."""
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
        return count, [f"the group as a whole expected {group.expect:,} sources"]
    return None, ["`expect` was for all parts of this group together, and is left out; say it for each part"]


def _literal(name: str) -> str:
    return "".join(f"[{letter}]" if letter in "*?[" else letter for letter in name)
