"""Which columns are in which sources: columns down, sources across in their order."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from integrum.arrow.arrays import Ints
from integrum.problems import clipped, visible
from integrum.reporting.svg import COLOURS, as_svg, bars, buckets, new_figure

MOST_SOURCES, MOST_COLUMNS = 240, 60
_WIDTH, _ROW, _MARGIN, _NAMES = 12.0, 0.2, 0.05, 0.22


def presence_figure(
    columns: Sequence[str], sources: int, there: Mapping[str, tuple[Ints, Ints]], assembled: Ints
) -> str:
    """A row for each column: the height of a bar is the share of the sources there that have it.

    Parameters
    ----------
    columns
        The columns, in order; the first sixty are drawn.
    there
        By column the numbers of the sources that have it, and how many filled cells it has in each.
    assembled
        The numbers of the sources that are in the table.
    """
    columns = columns[:MOST_COLUMNS]
    starts = buckets(sources, MOST_SOURCES)
    figure, axes = new_figure(_WIDTH, _ROW * len(columns) + _MARGIN)
    count = len(starts)
    axes.set_xlim(-_NAMES * count / (1 - _NAMES), count)
    axes.set_ylim(len(columns), 0)
    x = np.arange(count, dtype=np.float64)
    in_all = np.bincount(_bucket(starts, assembled), minlength=count)
    for number, name in enumerate(columns):
        at, filled = there.get(name, (np.array([], np.int64), np.array([], np.int64)))
        has = np.bincount(_bucket(starts, at), minlength=count) / np.maximum(in_all, 1)
        with_values = np.bincount(_bucket(starts, at[filled > 0]), minlength=count) / np.maximum(in_all, 1)
        low = number + 0.9
        for share, colour in ((has, "blank"), (with_values, "data")):
            height = share * 0.8
            bars(axes, x + 0.06, low - height, 0.88, height, colour)
        axes.axhline(low, xmin=_NAMES, color=COLOURS["line"], linewidth=0.5)
        axes.text(
            -count * 0.012,
            number + 0.55,
            visible(clipped(name, 38)),
            ha="right",
            va="center",
            color=COLOURS["ink"],
        )
    return as_svg(figure, f"which of {len(columns):,} columns are in which of {sources:,} sources")


def _bucket(starts: Ints, at: Ints) -> Ints:
    found: Ints = np.searchsorted(starts, at, side="right") - 1
    return found
