"""Whether the numbers of two columns lie in the same range."""

from __future__ import annotations

import numpy as np

from integrum.reconciling.evidence.evidence import Evidence, Finding, Setting
from integrum.reconciling.known import Known

_FEW = 5


def weigh_ranges(one: Known, other: Known, setting: Setting) -> Finding:  # noqa: ARG001
    """Compare the quantiles of two columns, and the largest distance of their distributions (Kolmogorov and Smirnov).

    Examples
    --------
    >>> cold, cool = (Known(("t",), bit, {"number": 3}, sample=sample) for bit, sample in
    ...               ((1, ("4.1", "5.0", "6.2")), (2, ("4.5", "5.5", "6.0"))))
    >>> round(float(weigh_ranges(cold, cool, Setting(2)).figures[0]), 2), weigh_ranges(cold, cool, Setting(2)).said
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


def _distance(one: Known, other: Known) -> float:
    every = np.concatenate([one.numbers, other.numbers])
    below = [np.searchsorted(each, every, side="right") / len(each) for each in (one.numbers, other.numbers)]
    return float(np.abs(below[0] - below[1]).max())


def _short(value: float) -> str:
    return f"{value:.4g}"


RANGES = Evidence(("ranges overlap", "distributions alike", "ranges apart", "digits differ"), weigh_ranges)
