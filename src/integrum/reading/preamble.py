"""What the lines above a header say: keys and values."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

_PAIR = re.compile(r"\s*([^:=]{1,60}?)\s*(?:[:=])\s*(.*)", re.DOTALL)


@dataclass(frozen=True)
class Entry:
    """One entry of a preamble; the key is empty where a line has none."""

    row: int
    key: str
    value: str


def entries(row: int, cells: Sequence[str]) -> list[Entry]:
    """Read the entries of one row: ``key: value``, ``key = value``, or a key with its value in the next cell.

    Examples
    --------
    >>> entries(3, ["Serial No:", "00417", ""]), entries(4, ["Site = Ambermere"])
    ([Entry(row=3, key='Serial No', value='00417')], [Entry(row=4, key='Site', value='Ambermere')])
    """
    filled = [cell.strip() for cell in cells if cell.strip()]
    if not filled:
        return []
    pair = _PAIR.fullmatch(filled[0])
    if pair and (pair[2] or len(filled) == 1):
        rest = " ".join([pair[2], *filled[1:]]) if pair[2] else ""
        return [Entry(row, pair[1], rest)]
    if len(filled) == 1:
        return [Entry(row, "", filled[0])]
    return [Entry(row, filled[0].rstrip(":= "), " ".join(filled[1:]))]
