"""Sources whose values lie apart from those of all others: another unit, another column, a missing code."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

import numpy as np
import numpy.typing as npt

from integrum.deciding.seen import Range
from integrum.deciding.thresholds import (
    APART_AGREE,
    APART_SOURCES,
    APART_TIMES,
    APART_VALUES,
    APART_WIDTHS,
)

Floats = npt.NDArray[np.float64]


def apart(ranges: Sequence[Range]) -> Iterator[tuple[Range, str]]:
    """Those of a column whose values lie apart, and how.

    Parameters
    ----------
    ranges
        The ranges of a column, one for each source.

    Yields
    ------
    tuple
        A range, and what is to be said of it.

    Examples
    --------
    >>> metres = [Range(at, 0, 30, 0.5, 12.0 + at, 4.0) for at in range(4)]
    >>> [said for _, said in apart([*metres, Range(4, 0, 30, 40.0, 1180.0, 410.0)])]
    ['40 to 1,180, median 410; in the others 0.5 to 15, median 4']
    """
    some = [one for one in ranges if one.count >= APART_VALUES and one.greatest > one.least]
    if len(some) <= APART_SOURCES or len(some) <= len(ranges) / 2:
        return
    least, greatest = np.array([one.least for one in some]), np.array([one.greatest for one in some])
    medians = np.array([one.median for one in some])
    low, high = _without_each(least, np.min), _without_each(greatest, np.max)
    beyond = np.maximum(low - greatest, least - high) > APART_WIDTHS * (high - low)
    for at in np.flatnonzero(beyond | _many_times(medians)).tolist():
        one = some[at]
        middle = float(np.median(np.delete(medians, at)))
        yield (
            one,
            f"{_said(one.least)} to {_said(one.greatest)}, median {_said(one.median)}; "
            f"in the others {_said(low[at])} to {_said(high[at])}, median {_said(middle)}",
        )


def _without_each(values: Floats, extreme: Callable[[Floats], np.float64]) -> Floats:
    """For each value the extreme one of all others."""
    best = extreme(values)
    at = int(np.flatnonzero(values == best)[0])
    others = np.full(len(values), best)
    others[at] = extreme(np.delete(values, at))
    return others


def _many_times(medians: Floats) -> npt.NDArray[np.bool_]:
    """Which medians are many times those of all others, or a small part of them, while those agree among themselves."""
    one_sided = bool((medians > 0).all() or (medians < 0).all())
    if not one_sided:
        return np.zeros(len(medians), bool)
    sizes = np.abs(medians)
    least, most = _without_each(sizes, np.min), _without_each(sizes, np.max)
    agree = most <= APART_AGREE * least
    return agree & ((sizes >= APART_TIMES * most) | (sizes * APART_TIMES <= least))


def _said(value: float) -> str:
    return f"{value:,.6g}" if abs(value) < 1e15 else f"{value:.6g}"
