"""The ledger as a figure: the rows of each source by what became of them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from integrum.engine.ledger import SourceSummary
from integrum.problems import clipped, visible
from integrum.reading.parts import BLANK, COUNTED, DATA, SET_ASIDE
from integrum.reporting.svg import COLOURS, as_svg, bars, buckets, new_figure, spans

# so many bars; more sources are put together
MOST = 60
_WIDTH, _BAR, _MARGIN = 12.0, 0.2, 0.1
_NAMES, _NUMBERS = 0.27, 0.24


def ledger_figure(sources: Sequence[SourceSummary]) -> str:
    """A bar for each source, or for some sources together where there are more than sixty."""
    counts = np.array([list(one.ledger.counts.values()) for one in sources], np.float64)
    starts = buckets(len(sources), MOST)
    summed = np.add.reduceat(counts, starts, axis=0)
    by_part = dict(zip(COUNTED, summed.T, strict=True))
    fates = [
        ("data", by_part[DATA], "data", ""),
        ("left out", sum(by_part[part] for part in COUNTED if part.is_left_out), "left", ""),
        ("blank", by_part[BLANK], "blank", ""),
        ("set aside", by_part[SET_ASIDE], "aside", "////"),
    ]
    names = (
        [_short(sources[at].source) for at in starts]
        if len(starts) == len(sources)
        else spans(starts, len(sources))
    )
    size = len(names)
    figure, axes = new_figure(_WIDTH, _BAR * size + _MARGIN)
    most = max(summed.sum(axis=1).max(), 1)
    axes.set_xlim(-_NAMES * most / (1 - _NAMES - _NUMBERS), most + _NUMBERS * most / (1 - _NAMES - _NUMBERS))
    axes.set_ylim(size, 0)
    at = np.arange(size, dtype=np.float64)
    begun = np.zeros(size)
    for _, rows, colour, hatch in fates:
        bars(axes, begun, at + 0.15, rows, 0.7, colour, hatch)
        begun = begun + rows
    for number, name in enumerate(names):
        axes.text(-most * 0.012, number + 0.52, name, ha="right", va="center", color=COLOURS["ink"])
        said = ", ".join(
            f"{int(rows[number]):,} {fate}" for fate, rows, _, _ in fates if rows[number] or fate == "data"
        )
        axes.text(
            begun[number] + most * 0.008,
            number + 0.52,
            said,
            ha="left",
            va="center",
            color=COLOURS["soft"],
            fontsize=8,
        )
    return as_svg(figure, f"rows of {len(sources):,} sources by what became of them")


def _short(name: str) -> str:
    """A name that fits beside its bar: of a long one its end, which tells it from others."""
    name = visible(clipped(name, 200))
    return name if len(name) <= 38 else f"…{name[-37:]}"
