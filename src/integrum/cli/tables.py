"""Surveys as tables on a terminal."""

from __future__ import annotations

from rich import box
from rich.markup import escape
from rich.padding import Padding
from rich.table import Table
from rich.text import Text

from integrum.cli.screen import STYLES, out
from integrum.columns.expectation import MISSING, MOST_ACROSS, MOST_DOWN, Coverage
from integrum.problems.problem import clipped, visible
from integrum.reading.parts import DATA
from integrum.surveying.rows import OneSource
from integrum.surveying.view import Survey
from integrum.surveying.words import (
    HOW_TO_DECIDE,
    beyond_mapping,
    difference,
    filled_from,
    headline,
    lacking_in,
    layout_words,
    listed_sources,
    shown_sources,
)

# this many names of sources are listed
_MOST_NAMES = 200
_MOST_GUESSES = 20


def _shown(text: str) -> str:
    """A text as it stands in a cell: neither marks of style in it nor commands to the terminal."""
    return escape(visible(text))


def one_source(seen: OneSource) -> None:
    """The rows of one source with the part that each was taken for."""
    table = Table(box=box.SIMPLE_HEAD)
    table.add_column("row", justify="right")
    table.add_column("part")
    table.add_column("text", no_wrap=True)
    for row in seen.shown():
        if isinstance(row, int):
            table.add_row("", "", Text(f"… {row:,} more rows of data", style="dim"))
        else:
            look = "" if row.part == DATA else "warning" if row.part.is_data else "note"
            style = STYLES[look] if look else ""
            table.add_row(f"{row.row:,}", Text(row.part, style=style), Text(clipped(row.text, 110)))
    counts = ", ".join(f"{count:,} {part}" for part, count in seen.counts().items())
    out.console.print(f"\n{_shown(seen.source)}: {counts}", style="bold")
    out.console.print(table, soft_wrap=False)


def survey(seen: Survey) -> None:
    """The variants, layouts, coverage and columns of a survey."""
    out.console.print(Text(visible(f"{headline(seen)}\n"), style="bold"))
    if seen.variants:
        variants = _table("Header variants")
        variants.add_column("variant", justify="right")
        variants.add_column("sources", justify="right")
        variants.add_column("which", overflow="fold")
        variants.add_column("columns", overflow="fold")
        for variant in seen.variants:
            which, columns = _shown(shown_sources(variant)), _shown(difference(variant, seen))
            variants.add_row(str(variant.number), f"{len(variant.sources):,}", which, columns)
        out.console.print(variants, soft_wrap=False)
    words = layout_words(seen)
    if words:
        out.console.print("Layouts\n", style="bold")
        for line in words:
            out.console.print(Padding(Text(visible(line)), (0, 0, 0, 2)), soft_wrap=False)
        out.console.print()
    if seen.coverage:
        _coverage(seen.coverage)
    elif not seen.variants:
        for line in listed_sources(seen, _MOST_NAMES):
            out.console.print(Text(visible(line)))
        out.console.print()
    if seen.mapping:
        _mapping(seen)
    elif seen.columns:
        _columns(seen)
    if seen.guesses:
        _guesses(seen)
    if len(seen.variants) > 1 and seen.columns:
        _presence(seen)


def _columns(seen: Survey) -> None:
    table = _table("Columns")
    table.add_column("column", style="bold", overflow="fold")
    table.add_column("type")
    table.add_column("values", justify="right")
    table.add_column("sources", justify="right")
    table.add_column("from least to greatest", justify="right")
    table.add_column("evidence", overflow="fold")
    for column in seen.columns:
        table.add_row(
            _shown(column.name),
            Text(column.type, style=STYLES["warning"] if column.decision.is_doubtful else ""),
            f"{column.filled:,}",
            f"{column.sources:,}",
            column.reach,
            _shown("\n".join(column.remarks)),
        )
    out.console.print(table, soft_wrap=False)


def _guesses(seen: Survey) -> None:
    table = _table("Columns that may be the same under other names")
    for name in ("score", "header", "may be", "because"):
        table.add_column(name, style="bold" if name == "score" else "", overflow="fold")
    for guess in seen.guesses[:_MOST_GUESSES]:
        others = ", ".join(guess.headers)
        table.add_row(f"{guess.score:.2f}", _shown(others), _shown(guess.column), _shown(guess.because))
    out.console.print(table, soft_wrap=False)
    if len(seen.guesses) > _MOST_GUESSES:
        out.console.print(f"  and {len(seen.guesses) - _MOST_GUESSES:,} more")
    out.console.print(Padding(Text(HOW_TO_DECIDE), (0, 0, 1, 2)), soft_wrap=False)


def _presence(seen: Survey) -> None:
    """The grid of columns by header variants: a sign for each state, the colour only underlines it."""
    out.console.print("Columns by header variants\n", style="bold")
    for line in seen.presence.lines(out.console.width - 2):
        text = Text(visible(line))
        text.highlight_regex(r" \?(?= |$)", STYLES["warning"])
        text.highlight_regex(r" [+](?= |$)", STYLES["warning"])
        text.highlight_regex("·", "dim")
        out.console.print(Padding(text, (0, 0, 0, 2)), soft_wrap=False, no_wrap=True)
    out.console.print()


def _mapping(seen: Survey) -> None:
    """What the columns of a plan are filled from, then what no column claims and what would be set aside."""
    table = _table("Columns of the plan")
    for name in ("column", "type", "filled from", "missing in"):
        table.add_column(name, style="bold" if name == "column" else "", overflow="fold")
    for one in seen.mapping:
        told, lacking = filled_from(one), lacking_in(one)
        table.add_row(_shown(one.column), one.type, _shown(told), _shown(lacking))
    out.console.print(table, soft_wrap=False)
    for line in beyond_mapping(seen):
        style = "" if line.startswith(" ") else "bold"
        line = line if line.startswith(" ") else line[:1].upper() + line[1:]
        out.console.print(Padding(Text(visible(line.strip()), style=style), (0, 0, 0, 2 if not style else 0)))
    out.console.print()


def _table(title: str) -> Table:
    """A table whose cells are wrapped, never cut."""
    return Table(box=box.SIMPLE_HEAD, title=_shown(title), title_justify="left", title_style="bold")


def _coverage(grid: Coverage) -> None:
    table = _table(f"Sources by {grid.down} (down) and {grid.across} (across)")
    table.add_column(_shown(grid.down), style="bold")
    for column in grid.columns[:MOST_ACROSS]:
        table.add_column(_shown(column) or "(none)", justify="right")
    for row in grid.rows[:MOST_DOWN]:
        shown = [grid.cell(row, column) for column in grid.columns[:MOST_ACROSS]]
        styled = [Text(cell, style=STYLES["error"] if cell == MISSING else "") for cell in shown]
        table.add_row(_shown(row) or "(none)", *styled)
    out.console.print(table, soft_wrap=False)
    for line in (*([f"  {grid.cut}"] if grid.cut else []), *grid.missing_lines()):
        out.console.print(Text(visible(line)))
    out.console.print()
