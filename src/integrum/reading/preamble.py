"""What the lines above a header say: keys and values."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import NamedTuple

_PAIR = re.compile(r"\s*([^:=]{1,60}?)\s*(?:[:=])\s*(.*)", re.DOTALL)


class PreambleEntry(NamedTuple):
    """One entry of the lines above a header."""

    source: str  # the name of its source; empty where it stands with the head of that source
    row: int
    # what stands there; the key is empty where a line has none
    key: str
    value: str


def entries(row: int, cells: Sequence[str]) -> list[PreambleEntry]:
    """Read the entries of one row: ``key: value``, ``key = value``, or a key with its value in the next cell.

    Examples
    --------
    >>> [tuple(one) for one in entries(3, ["Serial No:", "00417", ""]) + entries(4, ["Site = Ambermere"])]
    [('', 3, 'Serial No', '00417'), ('', 4, 'Site', 'Ambermere')]
    """
    filled = [cell.strip() for cell in cells if cell.strip()]
    if not filled:
        return []
    pair = _PAIR.fullmatch(filled[0])
    if pair and (pair[2] or len(filled) == 1):
        rest = " ".join([pair[2], *filled[1:]]) if pair[2] else ""
        return [PreambleEntry("", row, pair[1], rest)]
    if len(filled) == 1:
        return [PreambleEntry("", row, "", filled[0])]
    return [PreambleEntry("", row, filled[0].rstrip(":= "), " ".join(filled[1:]))]
