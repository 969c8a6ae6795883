"""The figures of the report, as SVG: where the rows went, and which source has which column."""

from __future__ import annotations

import io
import re
import warnings
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

import matplotlib
import numpy as np
from markupsafe import escape

from integrum.intake.ledger import SourceSummary
from integrum.problems.problem import clipped, visible
from integrum.reading.parts import BLANK, COUNTED, DATA, SET_ASIDE
from integrum.values.arrays import Floats, Ints

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

# colours that stand for those of the page, by the name that they have there
COLOURS = {
    "ink": "#010203",
    "soft": "#010204",
    "line": "#010205",
    "data": "#010206",
    "left": "#010207",
    "blank": "#010208",
    "aside": "#010209",
    "mark": "#01020a",
}
_SETTINGS = {
    "svg.fonttype": "none",  # text stays text
    "svg.hashsalt": "integrum",
    "text.parse_math": False,  # a dollar sign in a name is one
    "font.family": "sans-serif",
    "font.size": 8.0,
}
# this many bars; more sources are put together
MOST = 60
_LEDGER_WIDTH, _BAR, _LEDGER_MARGIN = 12.0, 0.2, 0.1
_LEDGER_NAMES, _NUMBERS = 0.27, 0.24
MOST_SOURCES, MOST_COLUMNS = 240, 60
_GRID_WIDTH, _ROW, _GRID_MARGIN, _GRID_NAMES = 12.0, 0.2, 0.05, 0.22


def new_figure(width: float, height: float) -> tuple[Figure, Axes]:
    """A figure with one pair of axes that fills it.

    `width`, `height`: in inches, of 72 points.
    """
    from matplotlib.figure import Figure

    with matplotlib.rc_context(_SETTINGS):
        figure = Figure(figsize=(width, height))
        axes = figure.add_axes((0, 0, 1, 1))
    axes.set_axis_off()
    return figure, axes


def as_svg(figure: Figure, said: str) -> str:
    """A figure as an SVG element that scales with the page."""
    buffer = io.StringIO()
    with matplotlib.rc_context(_SETTINGS), warnings.catch_warnings():
        warnings.simplefilter("ignore")  # glyphs that a font lacks; the browser has its own
        figure.savefig(buffer, format="svg", transparent=True, metadata={"Date": None, "Creator": None})
    text = buffer.getvalue()
    text = text[text.index("<svg") :]
    text = re.sub(r"<metadata>.*?</metadata>", "", text, flags=re.S)
    text = re.sub(r"<!--.*?-->\s*", "", text, flags=re.S)
    box = re.search(r'viewBox="([^"]*)"', text)
    head = f'<svg viewBox="{box[1] if box else ""}" role="img" aria-label="{escape(visible(said))}">'
    text = head + text[text.index(">") + 1 :]
    for name, colour in COLOURS.items():
        text = text.replace(colour, f"var(--{name})")
    return re.sub(r"\n\s*", "\n", text)


def bars(
    axes: Axes,
    left: Floats,
    bottom: Floats,
    width: Floats | float,
    height: Floats | float,
    colour: str,
    hatch: str = "",
) -> None:
    """Many rectangles as one path, which keeps the page small.

    Parameters
    ----------
    left, bottom, width, height
        Their places and sizes; those without a size are left out.
    colour
        One of `COLOURS`.
    hatch
        A hatching, for those who do not see colours.
    """
    from matplotlib.patches import PathPatch
    from matplotlib.path import Path

    width, height = np.broadcast_to(width, left.shape), np.broadcast_to(height, left.shape)
    there = (width > 0) & (height > 0)
    if not there.any():
        return
    x, y, w, h = left[there], bottom[there], width[there], height[there]
    right, top = x + w, y + h
    points = [np.stack(each, 1) for each in ((x, y), (right, y), (right, top), (x, top), (x, y))]
    corners = np.stack(points, 1).reshape(-1, 2)
    codes = np.tile([Path.MOVETO, Path.LINETO, Path.LINETO, Path.LINETO, Path.CLOSEPOLY], len(x))
    # not as a patch, for which the limits would be reckoned anew, point by point
    axes.add_artist(
        PathPatch(
            Path(corners, codes),
            facecolor=COLOURS[colour],
            edgecolor=COLOURS["ink"] if hatch else "none",
            hatch=hatch or None,
            linewidth=0,
        )
    )


def buckets(count: int, most: int) -> Ints:
    """Where each of some buckets begins when so many things are put into at most so many.

    Examples
    --------
    >>> buckets(5, 10).tolist(), buckets(10, 3).tolist()
    ([0, 1, 2, 3, 4], [0, 4, 7])
    """
    return np.unique(np.ceil(np.arange(min(count, most)) * count / max(min(count, most), 1))).astype(np.int64)


def spans(starts: Ints, count: int) -> list[str]:
    """What buckets of numbered things are called.

    Examples
    --------
    >>> spans(np.array([0, 4, 7]), 8)
    ['1 to 4', '5 to 7', '8']
    """
    ends = [*starts[1:].tolist(), count]
    return [
        f"{end:,}" if end - start == 1 else f"{start + 1:,} to {end:,}"
        for start, end in zip(starts.tolist(), ends, strict=True)
    ]


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
    figure, axes = new_figure(_LEDGER_WIDTH, _BAR * size + _LEDGER_MARGIN)
    most = max(summed.sum(axis=1).max(), 1)
    unit = most / (1 - _LEDGER_NAMES - _NUMBERS)
    axes.set_xlim(-_LEDGER_NAMES * unit, most + _NUMBERS * unit)
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
    figure, axes = new_figure(_GRID_WIDTH, _ROW * len(columns) + _GRID_MARGIN)
    count = len(starts)
    axes.set_xlim(-_GRID_NAMES * count / (1 - _GRID_NAMES), count)
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
        axes.axhline(low, xmin=_GRID_NAMES, color=COLOURS["line"], linewidth=0.5)
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
