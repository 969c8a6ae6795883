"""Draw which columns are in which sources: columns down, sources across in their order."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import groupby
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from matplotlib.figure import Figure

_WIDTH, _ROW, _MARGIN = 12.8, 0.26, 1.6
# so many sources are named below the grid
_MOST_NAMED = 30


def draw_presence(
    title: str,
    columns: Sequence[str],
    sources: Sequence[str],
    cells: Sequence[Sequence[str]],
    looks: Mapping[str, tuple[str, str, float, str]],
) -> Figure:
    """Draw a grid of columns by sources.

    Of a size that fits the number of columns. Runs of equal cells are one bar, so that thousands of sources
    stay readable.

    `looks`: for each state that is drawn: what it says, its colour, the height of its bar from 0 to 1, and its
    hatching.
    """
    from matplotlib.figure import Figure
    from matplotlib.patches import Patch

    figure = Figure(figsize=(_WIDTH, max(3.0, _ROW * len(columns) + _MARGIN)), dpi=100, layout="constrained")
    axes = figure.add_subplot()
    used = set()
    for number, row in enumerate(cells):
        start = 0
        for state, run in groupby(row):
            count = sum(1 for _ in run)
            if state in looks:
                _, colour, height, hatch = looks[state]
                axes.broken_barh(
                    [(start, count)],
                    (number + 0.5 - height / 2, height),
                    facecolor=colour,
                    hatch=hatch,
                    edgecolor="#ffffff" if height > 0.7 else "#444444",
                    linewidth=0 if height > 0.7 else 0.4,
                )
                used.add(state)
            start += count
    axes.set_xlim(0, len(sources))
    axes.set_ylim(len(columns), 0)
    axes.set_yticks([at + 0.5 for at in range(len(columns))], columns)
    if len(sources) <= _MOST_NAMED:
        axes.set_xticks([at + 0.5 for at in range(len(sources))], sources, rotation=90, fontsize=7)
        for at in range(1, len(sources)):
            axes.axvline(at, color="#ffffff", linewidth=0.8)
    else:
        axes.set_xlabel(f"{len(sources):,} sources in their order, from {sources[0]} to {sources[-1]}")
    for at in range(len(columns) + 1):
        axes.axhline(at, color="#dddddd", linewidth=0.5, zorder=0)
    axes.tick_params(length=0)
    for side in axes.spines.values():
        side.set_visible(False)
    axes.set_title(title, loc="left", fontsize=11)
    handles = [
        Patch(facecolor=colour, hatch=hatch, edgecolor="#444444", linewidth=0.4, label=said)
        for state, (said, colour, _, hatch) in looks.items()
        if state in used
    ]
    if handles:
        figure.legend(
            handles=handles, loc="outside lower left", ncols=len(handles), frameon=False, fontsize=9
        )
    return figure
