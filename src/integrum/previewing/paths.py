"""The names of the files of a group, with the parts that become columns."""

from __future__ import annotations

from collections.abc import Sequence

from integrum.naming.proposal import propose
from integrum.plan.scheme import Schemes
from integrum.plan.sources import Sources
from integrum.previewing.views import PathPart, PathsView
from integrum.sources.suffixes import unpacked_name

_SHOWN = 6


def paths_of(group: Sources, names: Sequence[str]) -> PathsView | None:
    """The names of a group as its scheme reads them, or the one that they suggest; None where they suggest none.

    Examples
    --------
    >>> seen = paths_of(Sources("loggers", ids="{lake}_{year}.csv"), ["amb/amb_2021.csv", "odd.csv"])
    >>> [(one.text, one.name) for one in seen.paths[0]], seen.others
    ([('amb/', ''), ('amb', 'lake'), ('_', ''), ('2021', 'year'), ('.csv', '')], ('odd.csv',))
    """
    names = list(dict.fromkeys(map(unpacked_name, names)))
    used = group.schemes
    proposal = None if used else propose(names)
    if not used and (proposal is None or len(proposal.others) > proposal.fits):
        return None
    texts = used or ((proposal.scheme,) if proposal else ())
    schemes = Schemes(texts)
    fitting, others, found = [], [], {}
    for name in names:
        values = schemes.fit(name).values
        if values is None:
            others.append(name)
            continue
        fitting.append(name)
        found[name] = values
    # the first, the last, and those between
    step = max(len(fitting) // _SHOWN, 1)
    shown = list(dict.fromkeys([*fitting[::step][: _SHOWN - 1], *fitting[-1:]]))
    return PathsView(
        texts[0] if len(texts) == 1 else " or ".join(texts),
        bool(used),
        tuple(dict.fromkeys(name for one in found.values() for name in one)),
        tuple(_marked(name, {key: text or "" for key, text in found[name].items()}) for name in shown),
        tuple(others[:_SHOWN]),
        len(fitting),
    )


def _marked(path: str, values: dict[str, str]) -> tuple[PathPart, ...]:
    """A path in stretches; the values of identifiers stand in it in their order."""
    parts: list[PathPart] = []
    last = path.rfind("/") + 1
    start = last if all(text in path[last:] for text in values.values()) else 0
    at, before = start, 0
    for name, text in values.items():
        place = path.find(text, at) if text else -1
        if place < 0:
            continue
        if place > before:
            parts.append(PathPart(path[before:place]))
        parts.append(PathPart(text, name))
        at = before = place + len(text)
    if before < len(path):
        parts.append(PathPart(path[before:]))
    return tuple(parts)
