"""Sources whose values of a column lie outside the range of all others."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from itertools import islice

import numpy as np

from integrum.problems.problem import Problem
from integrum.values.arrays import Floats, Mask
from integrum.values.sketch import Sketch

# a source is compared with at least this many others
_OUTLYING_SOURCES = 3
# it is outlying when it is this many widths of the range of the others away
_OUTLYING_WIDTHS = 1.0
# or its median is this many times theirs, where theirs agree within `_OUTLYING_AGREE`
_OUTLYING_TIMES, _OUTLYING_AGREE = 20.0, 4.0
# and it has this many values at least
_OUTLYING_VALUES = 3
# of more sources than that something else is the matter, and the first are enough
_MOST = 5


def outlying(values: Sketch) -> Iterator[tuple[int, str]]:
    """The sources whose values are outlying, and how.

    Yields the number of an entry, and what is to be said of it.

    `values`: the values of a column, an entry for each source.

    Examples
    --------
    >>> least, median, greatest = [0.5, 0.5, 0.5, 0.5, 40], [4, 4, 4, 4, 410], [12, 13, 14, 15, 1180]
    >>> list(outlying(Sketch(np.array([30] * 5), np.array(least), np.array(median), np.array(greatest))))
    [(4, '40 to 1,180, median 410; in the others 0.5 to 15, median 4')]
    """
    some = np.flatnonzero((values.filled >= _OUTLYING_VALUES) & (values.greatest > values.least))
    if len(some) <= _OUTLYING_SOURCES or len(some) <= np.count_nonzero(values.filled) / 2:
        return
    least, medians, greatest = (each[some] for each in values[1:])
    low, high = _without_each(least, np.min), _without_each(greatest, np.max)
    beyond = np.maximum(low - greatest, least - high) > _OUTLYING_WIDTHS * (high - low)
    for at in np.flatnonzero(beyond | _many_times(medians, least, greatest)).tolist():
        middle = float(np.median(np.delete(medians, at)))
        yield (
            int(some[at]),
            f"{_said(least[at])} to {_said(greatest[at])}, median {_said(medians[at])}; "
            f"in the others {_said(low[at])} to {_said(high[at])}, median {_said(middle)}",
        )


def _without_each(values: Floats, extreme: Callable[[Floats], np.float64]) -> Floats:
    """For each value, the extreme of all others."""
    best = extreme(values)
    at = int(np.flatnonzero(values == best)[0])
    others = np.full(len(values), best)
    others[at] = extreme(np.delete(values, at))
    return others


def _many_times(medians: Floats, least: Floats, greatest: Floats) -> Mask:
    """Which medians are many times those of all others, or a small part of them, while those agree among themselves."""
    one_sided = bool((least >= 0).all() or (greatest <= 0).all())
    if not one_sided or (medians == 0).any():  # around zero a median may be any small number
        return np.zeros(len(medians), bool)
    sizes = np.abs(medians)
    lowest, highest = _without_each(sizes, np.min), _without_each(sizes, np.max)
    agree = highest <= _OUTLYING_AGREE * lowest
    return agree & ((sizes >= _OUTLYING_TIMES * highest) | (sizes * _OUTLYING_TIMES <= lowest))


def _said(value: float) -> str:
    return f"{value:,.6g}" if abs(value) < 1e15 else f"{value:.6g}"


def outlying_ranges(column: str, sources: Sequence[int], values: Sketch) -> Iterator[tuple[int, Problem]]:
    """The numbers of outlying sources, each with its problem.

    `sources`, `values`: the numbers of the sources that have it, and their values.
    """
    for at, said in islice(outlying(values), _MOST):
        yield (
            sources[at],
            Problem.of(
                "range-apart",
                column=column,
                message=f"values far from those of the other sources: {said}",
                hint="is it another unit, a missing code, or another column with the same name? nothing was changed",
            ),
        )
