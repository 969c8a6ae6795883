"""Values that a survey has seen need not be checked again in the run that follows it at once."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from integrum.columns.binding import Binding
from integrum.engine.variants import Family
from integrum.values.manner import PLAIN, Conversion


def with_seen(
    families: Mapping[int, Family],
    family_of: Sequence[int],
    canonical: Mapping[int, Mapping[int, frozenset[str]]],
) -> dict[int, Family]:
    """Mark what was seen in all sources of a family.

    Returns the families; those with a source that was not looked at as they were.

    Parameters
    ----------
    families, family_of
        The families by number, and the number of each source's.
    canonical
        By source and position: the types in whose canonical form all values were seen to be.
    """
    seen: dict[int, dict[int, frozenset[str]]] = {}
    for number, family in enumerate(family_of):
        here = canonical.get(number, {})
        before = seen.get(family)
        seen[family] = (
            dict(here)
            if before is None
            else {at: types & here[at] for at, types in before.items() if at in here}
        )
    return {number: _marked(family, seen.get(number, {})) for number, family in families.items()}


def _marked(family: Family, seen: Mapping[int, frozenset[str]]) -> Family:
    bindings = tuple(
        replace(one, conversion=replace(one.conversion, seen=True)) if _is_seen(one, seen) else one
        for one in family.bound.bindings
    )
    return replace(family, bound=replace(family.bound, bindings=bindings))


def _is_seen(one: Binding, seen: Mapping[int, frozenset[str]]) -> bool:
    kind = one.conversion.type
    manner = one.conversion.manner
    # a canonical value means the same however else values are written, but for these
    plain = replace(one.conversion, manner=PLAIN) == Conversion(kind) and not (
        manner.format or manner.decimal_mark != "." or one.linears or one.joined
    )
    return plain and bool(one.positions) and all(kind in seen.get(at, ()) for at in one.positions)
