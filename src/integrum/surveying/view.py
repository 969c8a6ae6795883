"""A survey as people get it: printed, in a notebook, drawn."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import groupby
from typing import TYPE_CHECKING

from integrum.errors import NothingFound, check_extra
from integrum.problems import notebook
from integrum.problems.grouped import problems_html
from integrum.problems.problem import visible
from integrum.surveying.findings import SurveyData
from integrum.surveying.presence import LOOKS, Presence, presence_of
from integrum.surveying.words import (
    HOW_TO_DECIDE,
    beyond_mapping,
    difference,
    filled_from,
    headline,
    lacking_in,
    layout_words,
    shown_sources,
    survey_lines,
)

if TYPE_CHECKING:
    from matplotlib.figure import Figure

_WIDTH, _ROW, _MARGIN = 12.8, 0.26, 1.6
# this many sources are named below the grid
_MOST_NAMED = 30


class Survey(SurveyData):
    """What `integrum.survey` gives back; printing it shows it.

    Attributes
    ----------
    groups
        The groups of sources that were looked at.
    base
        The folder that all sources are in; their names are relative to it.
    sources
        The sources, in order.
    variants
        The header variants, the most frequent first.
    columns
        The columns of all sources together, in a stable order.
    problems
        The problems of all sources, in their order.
    coverage
        Which combinations of identifiers have a source; None without identifiers.
    identifiers
        By name, the values of all sources, in their order.
    layouts, heads
        The layout of each source, and its header as it is read with it.
    passed
        Sheets without a table: the number of their group, and their names.
    mapping
        In a survey of a plan: what fills each of its columns.
    unlisted
        Headers that are not in the plan, with the number of sources that have each.
    guesses
        Columns that may be the same under other names, the surest first.
    headers
        In a survey of a plan: the state of each header.
    states
        In a survey of a plan: by variant and header its states, each with its column.
    known
        What is known of each name; guesses are made from it.
    found, learned, books
        The sources themselves, and what a run that follows at once does not have to find out again.
    values
        The values below each header, by which a draft decides about columns.
    """

    @property
    def presence(self) -> Presence:
        """Which columns are in which header variants."""
        return presence_of(self)

    def figure(self) -> Figure:
        """Draw which columns are in which sources; needs matplotlib.

        Returns
        -------
        matplotlib.figure.Figure
            Columns down, sources across in their order. ``figure().savefig("presence.png")`` writes it.

        Raises
        ------
        IntegrumError
            When matplotlib is not installed, or there is nothing to draw.

        Examples
        --------
        >>> import integrum as ig, tempfile, pathlib
        >>> folder = pathlib.Path(tempfile.mkdtemp())
        >>> _ = (folder / "2021.csv").write_text("day,depth\\n2021-05-01,3.2\\n")
        >>> ig.survey(folder).figure().get_size_inches().round(1).tolist()
        [12.8, 3.0]
        """
        check_extra("a figure", "pages", "matplotlib")
        grid = self.presence
        if not grid.columns or not self.sources:
            raise NothingFound("there is nothing to draw: no source has a readable header")
        at = {number: place for place, number in enumerate(grid.variants)}
        of = [at.get(one.variant) for one in self.sources]
        cells = [["absent" if place is None else row[place] for place in of] for row in grid.cells]
        names = [one.source for one in self.sources]
        return draw_presence(headline(self), grid.columns, names, cells, LOOKS)

    def _repr_html_(self) -> str:
        return survey_html(self)

    def __str__(self) -> str:
        return visible("\n".join(survey_lines(self)))


def survey_html(seen: SurveyData) -> str:
    """The variants, layouts, columns, guesses and problems of a survey as HTML."""
    parts = [notebook.title(headline(seen))]
    if len(seen.variants) > 1:
        rows = [
            (one.number, len(one.sources), shown_sources(one), difference(one, seen)) for one in seen.variants
        ]
        parts += [
            notebook.title("Header variants"),
            notebook.table(["variant", "sources", "which", "columns"], rows),
        ]
    if words := layout_words(seen):
        parts += [notebook.title("Layouts"), *(notebook.line(line) for line in words)]
    parts += _columns(seen)
    if seen.guesses:
        guesses = [
            (f"{one.score:.2f}", ", ".join(one.headers), one.column, one.because) for one in seen.guesses
        ]
        parts += [
            notebook.title("Columns that may be the same under other names"),
            notebook.table(["score", "header", "may be", "because"], guesses),
            notebook.line(HOW_TO_DECIDE, "dim"),
        ]
    return notebook.view(*parts, problems_html(seen.problems))


def _columns(seen: SurveyData) -> list[str]:
    if seen.mapping:
        rows = [(one.column, one.type, filled_from(one), lacking_in(one)) for one in seen.mapping]
        table = notebook.table(["column", "type", "filled from", "missing in"], rows, most=200)
        return [notebook.title("Columns of the plan"), table, *map(notebook.line, beyond_mapping(seen))]
    names = ["column", "type", "values", "sources", "from least to greatest", "evidence"]
    columns = [
        (one.name, one.type, one.filled, one.sources, one.reach, "\n".join(one.remarks))
        for one in seen.columns
    ]
    return [notebook.title("Columns"), notebook.table(names, columns, most=200)] if columns else []


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
