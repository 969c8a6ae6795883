"""Which places of a plan hold for a source: what `in` and `date_order_in` of its columns say."""

from __future__ import annotations

from integrum.plan.plan import Plan
from integrum.plan.sources import Sources
from integrum.sources.patterns import is_excluded
from integrum.sources.source import Source


def places_of(plan: Plan, source: Source) -> frozenset[str]:
    """Those of the plan's places that hold for a source."""
    group = plan.group(source.group)
    return frozenset(place for place in plan.places if is_in(source, group, place))


def is_in(source: Source, group: Sources, place: str) -> bool:
    """Whether a source is where the plan says: in a group of this name, or at a path that fits this pattern."""
    return group.group == place or any(is_excluded(path, (place,)) for path in (source.file, source.name))
