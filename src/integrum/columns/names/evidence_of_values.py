"""Whether the values below two names are alike: ranges, texts, kinds, units."""

from __future__ import annotations

import numpy as np

from integrum.columns.names.known import Evidence, EvidenceContext, Finding, NameProfile
from integrum.values.units import same_unit

_FEW = 5


def weigh_ranges(one: NameProfile, other: NameProfile, setting: EvidenceContext) -> Finding:  # noqa: ARG001
    """Compare the quantiles of two columns, and the largest distance of their distributions (Kolmogorov and Smirnov).

    Examples
    --------
    >>> cold, cool = (NameProfile(("t",), bit, {"number": 3}, sample=sample) for bit, sample in
    ...               ((1, ("4.1", "5.0", "6.2")), (2, ("4.5", "5.5", "6.0"))))
    >>> found = weigh_ranges(cold, cool, EvidenceContext(2))
    >>> round(float(found.figures[0]), 2), found.said
    (0.27, 'same range 4.1 to 6.2')
    """
    a, b = one.quantiles, other.quantiles
    if not len(a) or not len(b):
        return Finding((0.0, 0.0, 0.0, 0.0))
    overlap = max(0.0, min(a[-1], b[-1]) - max(a[0], b[0]))
    whole = max(a[-1], b[-1]) - min(a[0], b[0])
    share = 1.0 if whole == 0 else overlap / whole
    spread = (a[3] - a[1] + b[3] - b[1]) / 2 or (whole or 1.0) / 4
    apart = min(3.0, abs(a[2] - b[2]) / spread) / 3
    alike = 1 - _distance(one, other)
    said = f"same range {_short(min(one.numbers[0], other.numbers[0]))} to {_short(max(one.numbers[-1], other.numbers[-1]))}"
    count = min(len(one.numbers), len(other.numbers))
    sure = count / (count + _FEW)  # a few values say little
    figures = (float(share) * sure, alike * sure, float(apart) * sure, float(one.decimals != other.decimals))
    return Finding(figures, said if share > 0.6 and alike > 0.6 else "")


def _distance(one: NameProfile, other: NameProfile) -> float:
    every = np.concatenate([one.numbers, other.numbers])
    below = [np.searchsorted(each, every, side="right") / len(each) for each in (one.numbers, other.numbers)]
    return float(np.abs(below[0] - below[1]).max())


def _short(value: float) -> str:
    return f"{value:.4g}"


RANGES = Evidence(("ranges overlap", "distributions alike", "ranges apart", "digits differ"), weigh_ranges)


def weigh_distinct(one: NameProfile, other: NameProfile, setting: EvidenceContext) -> Finding:  # noqa: ARG001
    """Compare the distinct values of two columns that are no measurements.

    Examples
    --------
    >>> one = NameProfile(("sex",), 1, {"text": 5}, sample=("m", "f", "f", "m", "f"))
    >>> weigh_distinct(one, NameProfile(("gender",), 2, {"text": 2}, sample=("f", "m")), EvidenceContext(2)).said
    'the same values: f, m'
    """
    a, b = one.distinct, other.distinct
    if not a or not b or one.family != other.family or one.decimals or other.decimals:
        return Finding((0.0, 0.0, 0.0))
    shared = a & b
    share = len(shared) / min(len(a), len(b))
    few = one.family == "text" and (len(a) < 0.5 * len(one.values) or len(b) < 0.5 * len(other.values))
    as_many = min(len(a) / len(one.values), len(b) / len(other.values)) / max(
        len(a) / len(one.values), len(b) / len(other.values)
    )
    said = ""
    if few and share > 0.5:
        some = sorted({value.strip() for value in one.values if value.strip().casefold() in shared})[:3]
        said = f"the same values: {', '.join(some)}" + (", …" if len(shared) > 3 else "")
    return Finding((share if one.family == "text" else 0.3 * share, float(few and not shared), as_many), said)


DISTINCT = Evidence(("values shared", "no text shared", "as many values"), weigh_distinct)


def weigh_kinds(one: NameProfile, other: NameProfile, setting: EvidenceContext) -> Finding:  # noqa: ARG001
    """Compare types, and how values are written: digits as 9, words as a.

    Examples
    --------
    >>> site = NameProfile(("site",), 1, {"text": 2}, sample=("A-12", "B-07"))
    >>> stn = NameProfile(("stn",), 2, {"text": 1}, sample=("C-31",))
    >>> weigh_kinds(site, stn, EvidenceContext(2)).figures
    (1.0, 0.0)
    """
    if not one.may_be_of_kind(other):
        return Finding((0.0, 0.0))
    alike = sum(min(share, other.shapes.get(shape, 0.0)) for shape, share in one.shapes.items())
    said = "written alike" if alike > 0.8 and one.family in ("text", "time") else ""
    return Finding((0.0, alike) if one.family == other.family == "number" else (alike, 0.0), said)


KINDS = Evidence(("written alike", "numbers written alike"), weigh_kinds)


def weigh_unit(one: NameProfile, other: NameProfile, setting: EvidenceContext) -> Finding:  # noqa: ARG001
    """Compare the units that sources and names give.

    Examples
    --------
    >>> weigh_unit(NameProfile(("T (°C)",), 1), NameProfile(("temp",), 2, units=("degC",)), EvidenceContext(2))
    Finding(figures=(1.0, 0.0), said='same unit °C')
    """
    mine, theirs = one.given_units, other.given_units
    if not mine or not theirs:
        return Finding((0.0, 0.0))
    if any(same_unit(a, b) for a in mine for b in theirs):
        return Finding((1.0, 0.0), f"same unit {mine[0]}")
    return Finding((0.0, 1.0), f"units differ: {mine[0]} and {theirs[0]}")


UNIT = Evidence(("same unit", "units differ"), weigh_unit)
