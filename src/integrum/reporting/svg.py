"""Figures by matplotlib as SVG inside a page: its colours are those of the page, in light and in dark."""

from __future__ import annotations

import io
import re
import warnings
from typing import TYPE_CHECKING

import matplotlib
import numpy as np

from integrum.arrow.arrays import Floats, Ints

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
    from markupsafe import escape

    from integrum.problems import visible

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
