"""Small pictures of a column, source by source: from the least to the greatest value, or how many cells are filled."""

from __future__ import annotations

import numpy as np
from markupsafe import Markup

from integrum.arrow.arrays import Floats, Ints
from integrum.pages.pictures import MOST, filled_picture, ranges_picture
from integrum.reporting.svg import buckets


def ranges_figure(
    column: str, sources: int, at: Ints, least: Floats, median: Floats, greatest: Floats
) -> Markup:
    """The ranges of a column of numbers, dates or times.

    Returns an SVG element: a bar from the least to the greatest value of each source, and a mark at the median.
    """
    starts = buckets(sources, MOST)
    bucket = np.searchsorted(starts, at, side="right") - 1
    order = np.argsort(bucket, kind="stable")
    bucket, least, median, greatest = bucket[order], least[order], median[order], greatest[order]
    first = np.flatnonzero(np.diff(bucket, prepend=-1))
    low, high = np.minimum.reduceat(least, first), np.maximum.reduceat(greatest, first)
    middle = [float(np.median(some)) for some in np.split(median, first[1:])]
    ranges = zip(bucket[first].tolist(), low.tolist(), middle, high.tolist(), strict=True)
    said = f"the values of {column} by source, from the least to the greatest"
    return ranges_picture(said, len(starts), list(ranges))


def filled_figure(column: str, sources: int, at: Ints, filled: Ints, empty: Ints) -> Markup:
    """The share of filled cells of a column by source.

    `column`, `sources`, `at`: as for `ranges_figure`.
    """
    starts = buckets(sources, MOST)
    bucket = np.searchsorted(starts, at, side="right") - 1
    has = np.bincount(bucket, weights=filled, minlength=len(starts))
    lacks = np.bincount(bucket, weights=empty, minlength=len(starts))
    shares = has / np.maximum(has + lacks, 1)
    return filled_picture(f"the share of filled cells of {column} by source", shares.tolist())
