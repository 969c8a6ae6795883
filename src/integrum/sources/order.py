"""The natural order of names: site2 before site10, the same on every system and locale."""

from __future__ import annotations

import re
import unicodedata
from typing import Any

_PARTS = re.compile(r"(\d+)")


def natural_key(name: str) -> tuple[Any, ...]:
    """A sort key for a path with ``/`` between its parts.

    Folder by folder, runs of digits count as numbers, capitals do not count, and a name comes before the
    same name with something added. Equal names are told apart by their exact text.

    Parameters
    ----------
    name
        The path.

    Returns
    -------
    tuple
        The key.

    Examples
    --------
    >>> sorted(["site10.csv", "Site2.csv", "site2_b.csv", "site1/z.csv"], key=natural_key)
    ['site1/z.csv', 'Site2.csv', 'site2_b.csv', 'site10.csv']
    """
    return tuple(_part_key(part) for part in name.split("/")), name


def _part_key(part: str) -> tuple[Any, ...]:
    stem, dot, suffix = part.rpartition(".")
    if not stem:
        stem, suffix = dot + suffix, ""
    return _chunks(stem), _chunks(suffix)


def _chunks(text: str) -> tuple[tuple[int, int, str], ...]:
    folded = unicodedata.normalize("NFC", text).casefold()
    return tuple(
        (0, int(chunk), "") if chunk.isdecimal() else (1, 0, chunk) for chunk in _PARTS.split(folded) if chunk
    )
