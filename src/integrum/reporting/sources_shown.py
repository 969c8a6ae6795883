"""The lines and some values of the sources of a run, where these are still there and as they were."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from functools import partial
from itertools import islice

from integrum.intake.ledger import SourceSummary
from integrum.intake.matched import Family
from integrum.pages.ends import LARGEST, left_out_views, proof_of, shown_line
from integrum.pages.grid import LeftOutView, Line, VariantView
from integrum.pages.samples import Samples
from integrum.pages.sources_shown import Looked, show_sources
from integrum.plan.plan import Plan
from integrum.plan.toml import moved
from integrum.remote.addresses import is_remote, joined
from integrum.results.read import Record
from integrum.results.traced_sources import SourceAgain, sources_again
from integrum.sources.source import Source

# the sources of this many variants are looked at, this many of each, and this many bytes in all
_VARIANTS, _OF_EACH, _BYTES = 24, 4, 200 << 20
# this many left-out rows of the record are looked through, and this many of each part are shown
_LOOKED_THROUGH, _ROWS_OF_A_PART = 20_000, 12


@dataclass(frozen=True)
class SourcesShown:
    """What the page about a run shows of sources."""

    variants: Sequence[VariantView] = ()
    samples: dict[str, Samples] = field(default_factory=dict)
    left_out: Sequence[LeftOutView] = ()
    said: str = ""  # why sources are not shown that could be


def sources_shown(record: Record, find: Callable[[Plan], list[Source]]) -> SourcesShown:
    """Look at some sources of a run again.

    `find`: finds the sources of a plan.
    """
    plan, _ = moved(record.plan, {}, partial(joined, record.folder))
    # functions of the analyst's own are not run for a page
    plan = replace(plan, columns=[replace(one, read=None) for one in plan.columns])
    chosen = _chosen(record.sources)
    again = sources_again(plan, chosen, find)
    left_out = _left_out(record)
    there = [one for one in chosen if not again[one.source].changed and again[one.source].family]
    missing = len(chosen) - len(there)
    said = ""
    if missing:
        some = "They are" if not there else f"{missing:,} of {len(chosen):,} are"
        said = f"{some} not there any more, or not as they were."
    if not there:
        return SourcesShown(left_out=left_out, said=said)
    found = show_sources(_looked(record.sources, there, again), record.plan.table_columns, (), {})
    return SourcesShown(found.variants, found.samples, left_out, said)


def _chosen(sources: Sequence[SourceSummary]) -> list[SourceSummary]:
    """The first sources of each variant, and the last one."""
    members: dict[int, list[SourceSummary]] = {}
    for one in sources:
        if one.is_assembled and one.size <= LARGEST and not is_remote(one.path):
            members.setdefault(one.variant, []).append(one)
    found: list[SourceSummary] = []
    room = _BYTES
    for _, some in sorted(members.items())[:_VARIANTS]:
        for one in dict.fromkeys([0, len(some) - 1, *range(1, _OF_EACH - 1)]):
            if one < len(some) and room >= some[one].size:
                found.append(some[one])
                room -= some[one].size
    return found


def _looked(
    every: Sequence[SourceSummary], there: Sequence[SourceSummary], again: dict[str, SourceAgain]
) -> Looked:
    sources = [again[one.source] for one in there]
    families: dict[int, Family] = {
        at: one.family for at, one in enumerate(sources, 1) if one.family is not None
    }
    counts = dict.fromkeys((one.variant for one in every), 0)
    for one in every:
        counts[one.variant] += 1
    return Looked(
        [one.source for one in sources if one.source],
        [one.layout for one in there],
        [one.head for one in sources if one.head],
        there,
        families,
        list(families),
        [one.variant for one in there],
        counts=counts,
    )


def _left_out(record: Record) -> list[LeftOutView]:
    rows: dict[str, list[tuple[str, Line]]] = {}
    for row in islice(record.left_out, _LOOKED_THROUGH):
        some = rows.setdefault(row.part, [])
        if len(some) < _ROWS_OF_A_PART:
            line = shown_line(row.row or 0, row.part, row.raw, proof_of(row.part))
            some.append((str(row.source), line))
    return left_out_views(record.sources, rows)
