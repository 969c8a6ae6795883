"""Whether two names stand alike: place in the header, the columns beside them, never together, one after the other."""

from __future__ import annotations

from collections.abc import Mapping
from math import log1p

from integrum.columns.names.known import Evidence, EvidenceContext, Finding, NameProfile

_FEW = 4
_MOST = 3.0


def weigh_place(one: NameProfile, other: NameProfile, setting: EvidenceContext) -> Finding:
    """Compare the columns beside two columns, and where they stand.

    Examples
    --------
    >>> one = NameProfile(("temp",), 1, place=0.5, before={"depth": 3}, after={"wind": 3})
    >>> other = NameProfile(("t",), 2, place=0.4, before={"depth": 1}, after={"rain": 1})
    >>> setting = EvidenceContext(2, columns=16, same={"depth": 1, "wind": 2, "rain": 3})
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


def weigh_company(one: NameProfile, other: NameProfile, setting: EvidenceContext) -> Finding:
    """Compare the columns that stand in the sources of two columns.

    Examples
    --------
    >>> setting = EvidenceContext(4, company={"temp": frozenset({1, 2}), "t": frozenset({1, 3, 4}), "wage": frozenset({5})})
    >>> temp, t, wage = NameProfile(("temp",), 1), NameProfile(("t",), 2), NameProfile(("wage",), 4)
    >>> weigh_company(temp, t, setting).figures, weigh_company(temp, wage, setting).figures
    ((0.5,), (0.0,))
    """
    mine, theirs = (setting.company.get(each.name, frozenset()) for each in (one, other))
    least = min(len(mine), len(theirs))
    return Finding((len(mine & theirs) / least if least else 0.0,))


COMPANY = Evidence(("same company",), weigh_company)


def weigh_together(one: NameProfile, other: NameProfile, setting: EvidenceContext) -> Finding:
    """How many sources would have both by chance.

    Examples
    --------
    >>> round(weigh_together(NameProfile(("a",), 0b0111), NameProfile(("b",), 0b1000), EvidenceContext(4)).figures[0], 2)
    0.19
    """
    if not one.sources or not other.sources:
        return Finding((0.0,))
    expected = one.count * other.count / max(setting.sources, 1)
    return Finding((min(_MOST, log1p(expected)) / _MOST,), "never in the same source")


TOGETHER = Evidence(("expected together",), weigh_together)


def weigh_succession(one: NameProfile, other: NameProfile, setting: EvidenceContext) -> Finding:
    """Look at where two columns begin and end, and at how many sources have one of them.

    Examples
    --------
    >>> years = EvidenceContext(4, labels=("2019", "2020", "2021", "2022"))
    >>> weigh_succession(NameProfile(("T_water",), 0b0011), NameProfile(("water_temp",), 0b1100), years)
    Finding(figures=(1.0, 1.0), said='T_water is there up to 2020, water_temp from 2021 on')
    """
    if not one.sources or not other.sources:
        return Finding((0.0, 0.0))
    first, second = sorted((one, other), key=lambda each: each.sources & -each.sources)
    last = first.sources.bit_length() - 1
    begins = (second.sources & -second.sources).bit_length() - 1
    follows = 0.0
    if last < begins:
        between = ((1 << begins) - 1) >> (last + 1)
        follows = 1.0 if not between else 0.5
    either = (one.sources | other.sources).bit_count() / max(setting.sources, 1)
    said = ""
    if follows == 1.0 and begins < len(setting.labels):
        said = f"{first.name} is there up to {setting.labels[last]}, {second.name} from {setting.labels[begins]} on"
    return Finding((follows, either), said)


SUCCESSION = Evidence(("one follows the other", "together everywhere"), weigh_succession)
