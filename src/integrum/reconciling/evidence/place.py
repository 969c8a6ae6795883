"""Whether two columns stand in the same place: between the same columns, as far from the left."""

from __future__ import annotations

from collections.abc import Mapping

from integrum.reconciling.evidence.evidence import Evidence, Finding, Setting
from integrum.reconciling.known import Known

_FEW = 4


def weigh_place(one: Known, other: Known, setting: Setting) -> Finding:
    """Compare the columns beside two columns, and where they stand.

    Examples
    --------
    >>> one = Known(("temp",), 1, place=0.5, before={"depth": 3}, after={"wind": 3})
    >>> other = Known(("t",), 2, place=0.4, before={"depth": 1}, after={"rain": 1})
    >>> setting = Setting(2, columns=16, same={"depth": 1, "wind": 2, "rain": 3})
    >>> [round(figure, 2) for figure in weigh_place(one, other, setting).figures]
    [0.4, 0.1]
    """
    before = _agreement(one.before, other.before, setting.same)
    after = _agreement(one.after, other.after, setting.same)
    same = (before + after) / 2
    said = "between the same columns" if same > 0.8 and setting.columns > _FEW else ""
    # among a few columns it is hardly a coincidence
    return Finding((same * setting.columns / (setting.columns + _FEW), abs(one.place - other.place)), said)


def _agreement(one: Mapping[str, int], other: Mapping[str, int], same: Mapping[str, int]) -> float:
    """The share of sources of both in which the same column stands there."""
    mine, theirs = _shares(one, same), _shares(other, same)
    return sum(min(share, theirs.get(column, 0.0)) for column, share in mine.items())


def _shares(beside: Mapping[str, int], same: Mapping[str, int]) -> dict[int, float]:
    total = sum(beside.values()) or 1
    found: dict[int, float] = {}
    for name, count in beside.items():
        column = same.get(name, -1)
        found[column] = found.get(column, 0.0) + count / total
    return found


PLACE = Evidence(("same neighbours", "places apart"), weigh_place)
