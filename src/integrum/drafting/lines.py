"""The layout in which some rows are the parts that a person says they are."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from integrum.errors import PlanError
from integrum.pages.ends import cells_of
from integrum.plan.layout import MOST_DESCRIBING_ROWS, Layout
from integrum.reading.head import Head
from integrum.reading.parts import COMMENT, DATA, DESCRIPTION, FOOTER, HEADER, PREAMBLE, UNITS
from integrum.surveying.rows import SeenRow

_SAID_BY_PLAN = "the rows above the header are found from the header: say which row is the header"


def with_parts(
    layout: Layout, parts: Mapping[int, str], rows: Sequence[SeenRow], head: Head | None
) -> tuple[Layout, dict[int, str]]:
    """Change a layout so that some rows become other parts.

    Returns the layout, and by row why what is said of it cannot be done.

    Parameters
    ----------
    parts
        What the rows are said to be, by their numbers.
    rows
        The rows of the source, each with the part that it has with the layout; none where it cannot be read with it.
    head
        Its head with the layout; None where it cannot be read with it.
    """
    why: dict[int, str] = {}
    headers = sorted(row for row, part in parts.items() if part == HEADER)
    if headers:
        if headers != list(range(headers[0], headers[0] + len(headers))):
            why |= dict.fromkeys(headers, "the rows of a header stand one below the other")
        else:
            layout = _with_header(layout, headers, rows, parts)
    for row, part in sorted(parts.items()):
        if part == HEADER:
            continue
        seen = rows[row - 1] if 0 < row <= len(rows) else None
        if seen is None and rows:
            why[row] = f"the source has only {len(rows):,} rows now"
            continue
        if seen is not None and seen.part == part and not headers:
            continue
        first = headers[-1] + 1 if headers else (head.header_row + layout.header_rows if head else 0)
        try:
            layout = _with_part(layout, row, part, seen, first, rows, parts)
        except PlanError as error:
            why[row] = error.message
    return layout, why


def _with_header(
    layout: Layout, headers: Sequence[int], rows: Sequence[SeenRow], parts: Mapping[int, str]
) -> Layout:
    """A layout with its header in these rows."""
    there = {seen.row for seen in rows if seen.part == HEADER}
    if there == set(headers):
        return layout
    below = {row for row, part in parts.items() if part in (UNITS, DESCRIPTION)}
    row_below = rows[headers[-1]] if headers[-1] < len(rows) else None
    keeps = layout.units_row and (
        headers[-1] + 1 in below or (row_below is not None and row_below.part == UNITS)
    )
    return replace(
        layout,
        header_row=headers[0],
        header_has=(),
        header=(),
        header_rows=len(headers),
        units_row=keeps,
        describing_rows=0,
        first_row=None,
    )


def _with_part(
    layout: Layout,
    row: int,
    part: str,
    seen: SeenRow | None,
    first: int,
    rows: Sequence[SeenRow],
    said: Mapping[int, str],
) -> Layout:
    """A layout in which a row is a part other than the header.

    `first`: the first row below the header; 0 where that is not known. `said`: what else is said of rows.
    """
    was = seen.part if seen else None
    cells = cells_of(seen.text, layout) if seen else []
    if part == DATA:
        return _as_data(layout, row, was)
    if part in (UNITS, DESCRIPTION):
        if not first or not first <= row < first + MOST_DESCRIBING_ROWS:
            raise PlanError("rows of units and descriptions stand right below the header")
        between = rows[first - 1 : row - 1]
        if any(one.part == DATA and one.row not in said for one in between):
            raise PlanError("there is data between the header and this row")
        units = layout.units_row or part == UNITS
        if part == DESCRIPTION and was == UNITS:
            units = False
        depth = max(row - first + 1, layout.rows_below)
        return replace(layout, units_row=units, describing_rows=depth - int(units))
    if part == FOOTER:
        key = next((cell.strip() for cell in cells if cell.strip()), "")
        if not key:
            raise PlanError("the row is empty, so a plan cannot say by what the footer is known")
        above = [one for one in rows if one.row < row and one.part == DATA]
        if any(
            next((cell.strip() for cell in cells_of(one.text, layout) if cell.strip()), "") == key
            for one in above
        ):
            raise PlanError(
                f'rows of data above it begin with "{key}", too, so the footer cannot be known by it'
            )
        return replace(layout, footer_from=[*layout.footer_from, key])
    if part == COMMENT:
        text = seen.text.strip() if seen else ""
        mark = text[: next((at for at, letter in enumerate(text) if letter.isalnum() or letter.isspace()), 0)]
        if not mark or mark.startswith((layout.quote or "\0", layout.delimiter)):
            raise PlanError("it does not begin with a mark, such as #, by which comments could be known")
        return replace(layout, comment_mark=mark)
    if (
        part == PREAMBLE
        and was == DATA
        and first
        and all(one.part != DATA for one in rows[first - 1 : row - 1])
    ):
        return replace(layout, first_row=row + 1)
    raise PlanError(_SAID_BY_PLAN)


def _as_data(layout: Layout, row: int, was: str | None) -> Layout:
    if was == HEADER:
        if layout.header_rows > 1:
            return replace(layout, header_rows=layout.header_rows - 1)
        return replace(layout, header_row="none", header_has=(), units_row=False, describing_rows=0)
    if was == UNITS:
        return replace(layout, units_row=False)
    if was == DESCRIPTION:
        return replace(layout, describing_rows=max(layout.describing_rows - 1, 0))
    if was == FOOTER:
        return replace(layout, footer_from=(), last_row=None)
    if was == COMMENT:
        return replace(layout, comment_mark="")
    if was == PREAMBLE:
        if layout.first_row is not None and layout.first_row > row:
            return replace(layout, first_row=None)
        raise PlanError(_SAID_BY_PLAN)
    raise PlanError(f"a row that is {was or 'not there'} cannot be made data by a layout")
