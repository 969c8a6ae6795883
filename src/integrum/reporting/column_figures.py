"""Small pictures of a column, source by source: from the least to the greatest value, or how many cells are filled."""

from __future__ import annotations

import numpy as np

from integrum.arrow.arrays import Floats, Ints
from integrum.reporting.svg import COLOURS, as_svg, bars, buckets, new_figure

# so many sources are drawn on their own; more are put together
MOST = 150
_WIDTH, _HEIGHT = 4.6, 1.0
_TALLEST = 0.04


def ranges_figure(
    column: str, sources: int, at: Ints, least: Floats, median: Floats, greatest: Floats
) -> str:
    """The ranges of a column of numbers, dates or times.

    Returns an SVG element: a bar from the least to the greatest value of each source, and a mark at the median.
    """
    figure, axes = new_figure(_WIDTH, _HEIGHT)
    starts = buckets(sources, MOST)
    bucket = np.searchsorted(starts, at, side="right") - 1
    order = np.argsort(bucket, kind="stable")
    bucket, least, median, greatest = bucket[order], least[order], median[order], greatest[order]
    first = np.flatnonzero(np.diff(bucket, prepend=-1))
    x = bucket[first].astype(np.float64)
    low, high = np.minimum.reduceat(least, first), np.maximum.reduceat(greatest, first)
    bottom, top = float(low.min()), float(high.max())
    room = max(top - bottom, abs(top) * 1e-9) or 1.0  # a range that numbers can tell from none
    axes.set_xlim(-0.5, max(len(starts), 12) - 0.5)
    axes.set_ylim(bottom - 0.08 * room, top + 0.08 * room)
    thin = room * _TALLEST
    height = np.maximum(high - low, thin)
    bars(axes, x - 0.36, (low + high - height) / 2, 0.72, height, "data")
    middle = np.array([np.median(some) for some in np.split(median, first[1:])])
    bars(axes, x - 0.36, middle - thin / 2, 0.72, thin, "mark")
    axes.axhline(bottom - 0.08 * room, color=COLOURS["line"], linewidth=1)
    return as_svg(figure, f"the values of {column} by source, from the least to the greatest")


def filled_figure(column: str, sources: int, at: Ints, filled: Ints, empty: Ints) -> str:
    """The share of filled cells of a column by source.

    `column`, `sources`, `at`: as for `ranges_figure`.
    """
    figure, axes = new_figure(_WIDTH, _HEIGHT * 0.6)
    starts = buckets(sources, MOST)
    bucket = np.searchsorted(starts, at, side="right") - 1
    has = np.bincount(bucket, weights=filled, minlength=len(starts))
    lacks = np.bincount(bucket, weights=empty, minlength=len(starts))
    total = np.maximum(has + lacks, 1)
    x = np.arange(len(starts), dtype=np.float64)
    axes.set_xlim(-0.5, max(len(starts), 12) - 0.5)
    axes.set_ylim(0, 1.05)
    bars(axes, x - 0.36, np.zeros(len(x)), 0.72, has / total, "data")
    axes.axhline(0, color=COLOURS["line"], linewidth=1)
    return as_svg(figure, f"the share of filled cells of {column} by source")
