"""To which table of a plan file a key belongs, for somebody who wrote it into another one."""

from __future__ import annotations

from dataclasses import fields

from integrum.plan.check import Check
from integrum.plan.column import Column
from integrum.plan.dataset import Dataset
from integrum.plan.fields import key_of_field
from integrum.plan.layout import Layout
from integrum.plan.rules import Provenance, Rules
from integrum.plan.sources import Sources
from integrum.plan.wide import Wide

# in this order: a key that two tables have is more likely meant for the first
_TABLES: tuple[tuple[str, type], ...] = (
    ("[[columns]]", Column),
    ("[sources.layout], below its [[sources]]", Layout),
    ("[[sources]]", Sources),
    ("[rules]", Rules),
    ("[dataset]", Dataset),
    ("[provenance]", Provenance),
    ("[[checks]]", Check),
    ("wide = { ... } of [[sources]]", Wide),
)
_SUBTABLES = {"layout": "write [sources.layout], below its [[sources]]", "wide": "write it in [[sources]]"}


def home_of(key: str, place: str) -> str:
    """Say where a key belongs, as the end of a message.

    Returns an empty text where no table has such a key.

    Parameters
    ----------
    key
        A key that is not known in the place where it stands.
    place
        That place, such as ``sources[1]``; an empty text for the top of the file.

    Examples
    --------
    >>> home_of("header_row", "sources[1]")
    '; it belongs in [sources.layout], below its [[sources]]'
    >>> home_of("layout", ""), home_of("colour", "")
    ('; write [sources.layout], below its [[sources]]', '')
    """
    if not place and key in _SUBTABLES:
        return f"; {_SUBTABLES[key]}"
    homes = [home for home, kind in _TABLES if key in {key_of_field(each.name) for each in fields(kind)}]
    if place.startswith("sources") and "layout" not in place:
        homes.sort(key=lambda home: not home.startswith("[sources.layout]"))
    return f"; it belongs in {homes[0]}" if homes else ""
