"""Where values are, by what they say."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from integrum.deciding.decision import Place
from integrum.deciding.missing import is_code
from integrum.deciding.seen import Seen
from integrum.values.evidence import TEXT


def first_places(seen: Iterable[Seen]) -> tuple[Place, ...]:
    """The texts of some values with their number and their first place, the most frequent first."""
    found: dict[str, Place] = {}
    for one in seen:
        said = said_by(one)
        before = found.get(said)
        place = Place(said, one.count, one.source, one.row)
        found[said] = replace(before, count=before.count + one.count) if before else place
    return tuple(sorted(found.values(), key=lambda one: -one.count))


def said_by(one: Seen) -> str:
    """The text of some values, as a missing code is written."""
    return one.detail if one.detail and (one.kind == TEXT or is_code(one)) else one.raw
