"""Sources whose layouts agree, and in which places they lie."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from math import inf
from typing import Any

from integrum.detecting.detect import Detected
from integrum.detecting.sheet import SheetDetected
from integrum.plan.fields import loosened
from integrum.plan.layout import Layout, is_ascii_like
from integrum.problems.problem import SourceFault
from integrum.reading.cutting import cut
from integrum.reading.head import Head, read_head
from integrum.sources.source import Source
from integrum.surveying.view import Survey

_KEYS = (
    "encoding",
    "delimiter",
    "quote",
    "escape",
    "decimal_mark",
    "thousands_mark",
    "header_rows",
    "header_from_column",
    "units_row",
    "describing_rows",
    "comment_mark",
)
# a source that shows none of these may have any
_SILENT = frozenset({"comment_mark", "thousands_mark", "escape"})
_WORD = re.compile(r"[^\W\d_]+")


@dataclass
class Cluster:
    """Sources of one group whose layouts agree."""

    group: int  # the number of the group in the survey, from 1
    members: list[int] = field(default_factory=list)  # the numbers of the sources
    known: dict[str, Any] = field(default_factory=dict)
    columns: Columns | None = None  # where the tables of sheets may begin and end


@dataclass(frozen=True)
class Columns:
    """Where the table of a sheet stands, and from where to where it may be said to stand without any harm."""

    # the first and the last column of the table, from 1
    first: int
    end: int
    # the nearest columns with other cells
    before: int
    behind: float

    @classmethod
    def of(cls, found: Detected) -> Columns | None:
        """Those of a guess; None when it is none for a sheet."""
        if not isinstance(found, SheetDetected):
            return None
        return cls(found.first, found.end, found.before, found.behind or inf)

    def joined(self, other: Columns | None) -> Columns | None:
        """The columns that both have; None where there are none."""
        if other is None:
            return self
        both = Columns(
            min(self.first, other.first),
            max(self.end, other.end),
            max(self.before, other.before),
            min(self.behind, other.behind),
        )
        return both if both.before < both.first and both.end < both.behind else None


def clusters_of(survey: Survey, group: int) -> list[Cluster]:
    """Divide the sources of a group into clusters whose layouts agree."""
    return _apart(survey, _clusters(survey, group))


def broken_in(survey: Survey) -> frozenset[int]:
    """Damaged sources; they say nothing about how their siblings are written."""
    nul = {one.source for one in survey.problems if one.code == "nul-bytes"}
    return frozenset(
        at
        for at, one in enumerate(survey.sources)
        if one.source in nul or not (one.is_assembled or one.reason == "same-content")
    )


def _clusters(survey: Survey, group: int) -> list[Cluster]:
    clusters: list[Cluster] = []
    at_hand = [
        at
        for at, one in enumerate(survey.sources)
        if one.group == group and isinstance(survey.heads[at], Head)
    ]
    broken = broken_in(survey)
    for at in sorted(at_hand, key=lambda at: (at in broken, len(survey.layouts[at].free))):
        found = survey.layouts[at]
        if at in broken and clusters:
            max(clusters, key=lambda one: len(one.members)).members.append(at)
            continue
        free = found.free | {key for key in _SILENT if not getattr(found.layout, key)}
        says = {key: getattr(found.layout, key) for key in _KEYS if key not in free}
        ascii_like = is_ascii_like(found.layout.encoding)
        says["none"] = found.layout.first_row or 0 if found.layout.header_row == "none" else None
        columns = Columns.of(found)
        fits = [
            one
            for one in clusters
            if all(one.known.get(key, value) == value for key, value in says.items())
            and is_ascii_like(one.known.get("encoding", "utf-8")) == ascii_like
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
    """Find the header of a cluster by its cells, where it is in different rows."""
    rows = {survey.layouts[at].layout.header_row for at in cluster.members}
    if len(rows) == 1 or common_names(survey, cluster.members):
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


def common_names(survey: Survey, members: Sequence[int]) -> list[str]:
    """Names that all headers have, as the first header writes them."""
    heads = [head for at in members if isinstance(head := survey.heads[at], Head)]
    common = set.intersection(*({loosened(name) for name in head.header.written} for head in heads)) - {""}
    return [name for name in heads[0].header.written if loosened(name) in common]


def files_of(survey: Survey, cluster: Cluster) -> set[str]:
    """The names of the files that a cluster has, or has sheets of."""
    return {survey.sources[at].file for at in cluster.members}


def sheets_in(survey: Survey, cluster: Cluster, files: set[str]) -> list[str]:
    """The names of the sheets that a cluster has in some files."""
    return list(
        dict.fromkeys(
            survey.sources[at].sheet for at in sorted(cluster.members) if survey.sources[at].file in files
        )
    )


def _apart(survey: Survey, clusters: list[Cluster]) -> list[Cluster]:
    """Separate clusters by the names of their sheets, where they share workbooks; else file by file."""
    result = list(clusters)
    for file in dict.fromkeys(one.file for one in survey.sources if one.sheet):
        sharing = [cluster for cluster in result if file in files_of(survey, cluster)]
        shared = {each for cluster in sharing for each in files_of(survey, cluster)}
        names = [name for cluster in sharing for name in sheets_in(survey, cluster, shared)]
        if len(sharing) < 2 or len(set(names)) == len(names):
            continue
        for cluster in sharing:
            here = [at for at in cluster.members if survey.sources[at].file == file]
            if len(here) == len(cluster.members):
                continue
            cluster.members = [at for at in cluster.members if at not in here]
            result.append(Cluster(cluster.group, here, cluster.known, cluster.columns))
    return result


def patterns_for(some: Sequence[str], others: Iterable[str]) -> tuple[str, ...]:
    """Patterns that fit some names and none of the others.

    Parameters
    ----------
    some, others
        Names of sources with their folders.

    Examples
    --------
    >>> patterns_for(["north/a.csv", "north/b.csv", "c.csv"], ["south/a.csv"])
    ('north/**', 'c.csv')
    >>> patterns_for(["us_1.csv", "us_2.csv"], ["uk_1.csv"]), patterns_for(["1_us.csv", "2_us.csv"], ["1_uk.csv"])
    (('us_*',), ('*_us.csv',))
    """
    rest = [name for name in others if name not in set(some)]
    found: dict[str, None] = {}
    for name in some:
        folder = name.rpartition("/")[0]
        alone = folder and not any(other.startswith(f"{folder}/") for other in rest)
        several = sum(each.startswith(f"{folder}/") for each in some) > 1
        found[f"{literal(folder)}/**" if alone and several else name] = None
    left = [place for place in found if place in some]
    folders = [place for place in found if place not in some]
    common = _common_part(left, rest) if len(left) > 1 else ""
    return (*folders, *([common] if common else [literal(name) for name in left]))


def literal(name: str) -> str:
    """A pattern that matches only this name."""
    return "".join(f"[{letter}]" if letter in "*?[" else letter for letter in name)


def _common_part(some: Sequence[str], others: Sequence[str]) -> str:
    """A pattern from a word at the start or the end of all names that no other name has."""
    if any("/" in name for name in some):
        return ""
    first = some[0]
    suffix = first[first.rfind(".") :] if "." in first else ""
    for word in _WORD.finditer(first):
        start = first[: word.end() + (first[word.end() : word.end() + 1] in ("_", "-", " "))]
        behind = first[max(word.start() - 1, 0) :]
        if word.start() == 0 and _has(some, start, str.startswith, others):
            return f"{literal(start)}*"
        is_last = bool(suffix) and first[word.end() :] == suffix and not behind[:1].isalpha()
        if is_last and _has(some, behind, str.endswith, others):
            return f"*{literal(behind)}"
    return ""


def _has(some: Sequence[str], part: str, test: Callable[[str, str], bool], others: Sequence[str]) -> bool:
    return all(test(name, part) for name in some) and not any(test(name, part) for name in others)


def reads_alike(source: Source, head: Head, own: Layout, shared: Layout) -> bool:
    """Whether two layouts give a source the same header and the same rows.

    `own`, `shared`: its own layout, and the one that it shall share.
    """
    if own == shared:
        return True
    try:
        other = read_head(source, shared)
        same = (other.header.names, other.first_row, other.data_at) == (
            head.header.names,
            head.first_row,
            head.data_at,
        )
        if not same or (own.footer_from, own.comment_mark) == (shared.footer_from, shared.comment_mark):
            return same
        return _counts(source, other, shared) == _counts(source, head, own)
    except SourceFault:
        return False


def _counts(source: Source, head: Head, layout: Layout) -> tuple[int, int, int]:
    """Rows below the header, and those of them that are comments or belong to the footer."""
    rows, comments, footer = 0, 0, 0
    for piece in cut(source, 0, 1, head, layout):
        rows, comments, footer = rows + piece.rows, comments + len(piece.comments), footer + piece.footer
    return rows, comments, footer
