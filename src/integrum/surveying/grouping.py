"""Sources with the same layout, as groups that a plan can name."""

from __future__ import annotations

import os
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from math import inf
from pathlib import Path
from typing import Any

from integrum.detecting.detect import Detected
from integrum.detecting.sheet import SheetDetected
from integrum.layout import Layout
from integrum.names import loosened
from integrum.plan import Sources
from integrum.reading.head import Head
from integrum.surveying.findings import Survey
from integrum.workbooks.places import letters

_KEYS = (
    "encoding",
    "delimiter",
    "quote",
    "escape",
    "decimal",
    "thousands",
    "header_rows",
    "units_row",
    "comment",
)


@dataclass
class Cluster:
    """Sources of one group whose layouts agree.

    Attributes
    ----------
    group
        The number of the group in the survey, from 0.
    members
        The numbers of the sources.
    known
        What is decided.
    columns
        Where the tables of sheets may begin and end.
    """

    group: int
    members: list[int] = field(default_factory=list)
    known: dict[str, Any] = field(default_factory=dict)
    columns: Columns | None = None


@dataclass(frozen=True)
class Columns:
    """Where the table of a sheet stands, and from where to where it may be said to stand without any harm.

    Attributes
    ----------
    first, end
        The first and the last column of the table, from 1.
    before, behind
        The nearest columns with other cells.
    """

    first: int
    end: int
    before: int
    behind: float

    @classmethod
    def of(cls, found: Detected) -> Columns | None:
        """Those of a guess; None when it is none for a sheet."""
        if not isinstance(found, SheetDetected):
            return None
        return cls(found.first, found.end, found.before, found.behind or inf)

    def joined(self, other: Columns | None) -> Columns | None:
        """Those of both; None when there are none."""
        if other is None:
            return self
        both = Columns(
            min(self.first, other.first),
            max(self.end, other.end),
            max(self.before, other.before),
            min(self.behind, other.behind),
        )
        return both if both.before < both.first and both.end < both.behind else None


@dataclass(frozen=True)
class LayoutGroup:
    """A group of sources with its layout, and the evidence for it."""

    sources: Sources
    evidence: tuple[str, ...]
    names: tuple[str, ...]


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
    for number, group in enumerate(survey.groups):
        clusters = _apart(survey, _clusters(survey, number))
        if group.layout != Layout() or not clusters:
            names = tuple(dict.fromkeys(one.file for one in survey.sources if one.group == number + 1))
            made.append(LayoutGroup(group, (), names))
            continue
        for order, cluster in enumerate(clusters):
            others = clusters[1:] if order == 0 else []
            made.append(_made(survey, group, cluster, others, folder, whole=len(clusters) == 1))
    return made


def _clusters(survey: Survey, group: int) -> list[Cluster]:
    clusters: list[Cluster] = []
    at_hand = [
        at
        for at, one in enumerate(survey.sources)
        if one.group == group + 1 and isinstance(survey.heads[at], Head)
    ]
    for at in sorted(at_hand, key=lambda at: len(survey.layouts[at].free)):
        found = survey.layouts[at]
        says = {key: getattr(found.layout, key) for key in _KEYS if key not in found.free}
        says["none"] = found.layout.first_row or 0 if found.layout.header_row == "none" else None
        columns = Columns.of(found)
        fits = [
            one
            for one in clusters
            if all(one.known.get(key, value) == value for key, value in says.items())
            and (columns is None or columns.joined(one.columns))
        ]
        cluster = max(fits, key=lambda one: len(one.members)) if fits else Cluster(group)
        if not fits:
            clusters.append(cluster)
        cluster.members.append(at)
        cluster.known |= says
        cluster.columns = columns.joined(cluster.columns) if columns else cluster.columns
    split = [part for cluster in clusters for part in _by_header(survey, cluster)]
    return sorted(split, key=lambda one: (-len(one.members), min(one.members)))


def _by_header(survey: Survey, cluster: Cluster) -> list[Cluster]:
    """A cluster whose header stands in several rows must have header cells in common to be found by."""
    rows = {survey.layouts[at].layout.header_row for at in cluster.members}
    if len(rows) == 1 or _common_names(survey, cluster.members):
        return [cluster]
    return [
        Cluster(
            cluster.group,
            [at for at in cluster.members if survey.layouts[at].layout.header_row == row],
            cluster.known,
            cluster.columns,
        )
        for row in sorted(rows, key=str)
    ]


def _common_names(survey: Survey, members: Sequence[int]) -> list[str]:
    """Names that all headers have, as the first of them writes them."""
    heads = [head for at in members if isinstance(head := survey.heads[at], Head)]
    common = set.intersection(*({loosened(name) for name in head.form.names} for head in heads)) - {""}
    return [name for name in heads[0].form.names if loosened(name) in common]


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
        where = {"header_has": _common_names(survey, members)[:6]}
    if cluster.columns:
        first, end = cluster.columns.first, cluster.columns.end
        where["first_column"] = letters(first) if first > 1 else ""
        where["last_column"] = letters(end) if cluster.columns.behind < inf else ""
    layout = Layout(**known, **where, footer_from=list(footers))
    group = replace(group, sheets=_sheets(survey, group, cluster, others, whole))
    if whole:
        sources = replace(group, layout=layout)
    elif others:
        own = _files(survey, cluster)
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
    return LayoutGroup(sources, (*_evidence(survey, members, rows), *said), names)


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
    keys = Counter({key: count for key, count in keys.items() if count >= 0.5 * len(members)})
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
    own = _files(survey, cluster)
    every = [one.file for one in survey.sources if one.group == cluster.group + 1]
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


def _files(survey: Survey, cluster: Cluster) -> set[str]:
    return {survey.sources[at].file for at in cluster.members}


def _names_in(survey: Survey, cluster: Cluster, files: set[str]) -> list[str]:
    """The names of the sheets that a cluster has in some files."""
    return list(
        dict.fromkeys(
            survey.sources[at].sheet for at in sorted(cluster.members) if survey.sources[at].file in files
        )
    )


def _apart(survey: Survey, clusters: list[Cluster]) -> list[Cluster]:
    """Clusters that can be told apart by the names of sheets where they share a workbook; else file by file."""
    result = list(clusters)
    for file in dict.fromkeys(one.file for one in survey.sources if one.sheet):
        sharing = [cluster for cluster in result if file in _files(survey, cluster)]
        shared = {each for cluster in sharing for each in _files(survey, cluster)}
        names = [name for cluster in sharing for name in _names_in(survey, cluster, shared)]
        if len(sharing) < 2 or len(set(names)) == len(names):
            continue
        for cluster in sharing:
            here = [at for at in cluster.members if survey.sources[at].file == file]
            if len(here) == len(cluster.members):
                continue
            cluster.members = [at for at in cluster.members if at not in here]
            result.append(Cluster(cluster.group, here, cluster.known, cluster.columns))
    return result


def _sheets(
    survey: Survey, group: Sources, cluster: Cluster, others: Sequence[Cluster], whole: bool
) -> list[str]:
    """Which sheets the plan takes: those of this cluster where others are in the same workbooks, and no covers."""
    files = _files(survey, cluster)
    passed = [f"!{name}" for number, name in survey.passed if number == cluster.group + 1]
    if whole or others:
        foreign = [
            f"!{name}"
            for other in others
            if files & _files(survey, other)
            for name in _names_in(survey, other, files & _files(survey, other))
        ]
        return list(dict.fromkeys([*group.sheets, *passed, *foreign]))
    elsewhere = {
        one.file
        for at, one in enumerate(survey.sources)
        if one.group == cluster.group + 1 and at not in cluster.members
    }
    if not files & elsewhere:
        return list(dict.fromkeys([*group.sheets, *passed]))
    return _names_in(survey, cluster, files)


def _expected(group: Sources, count: int) -> tuple[int | None, list[str]]:
    """What a part of a group expects, and what to say about it."""
    if group.expect is None:
        return None, []
    if isinstance(group.expect, int):
        return count, [f"the group as a whole expected {group.expect:,} sources"]
    return None, ["`expect` was for all parts of this group together, and is left out; say it for each part"]


def _literal(name: str) -> str:
    return "".join(f"[{letter}]" if letter in "*?[" else letter for letter in name)
