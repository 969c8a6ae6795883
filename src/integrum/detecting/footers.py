"""Which rows at the end of a table are no data; each has to show it by evidence of its own."""

from __future__ import annotations

from collections.abc import Sequence

from integrum.detecting.body import Body
from integrum.detecting.endings import is_note, is_summary, leading
from integrum.detecting.rows import Row

_FEW = 0.4
_MANY_TYPED, _WIDE = 2, 3


def footer_of(rows: Sequence[Row], body: Body) -> Row | None:
    """The first of the rows at the end that are not data; None when there is none.

    Parameters
    ----------
    rows
        The last rows, blank ones too; the first of them is data.
    body
        What the data is like; it may contain these rows.
    """
    found: Row | None = None
    waiting: list[Row] = []
    for at in range(len(rows) - 1, 0, -1):
        row = rows[at]
        if not row.filled:
            continue
        apart = not rows[at - 1].filled
        if _ends(row, body, apart):
            found, waiting = row, []
        elif waiting or not _may_stand_in_a_footer(row, body):
            break
        else:
            waiting.append(row)
    return found if found and any(map(body.reads_like_data, rows)) else None


def footer_text(footer: Row, data: Sequence[Row]) -> str:
    """The words by which a plan finds a footer; empty when a row of data begins with them, too.

    Examples
    --------
    >>> footer_text(Row(9, ["Total:", "3"]), [Row(8, ["Meander", "3"])])
    'Total'
    >>> footer_text(Row(9, ["A", ""]), [Row(8, ["A", "3"])])
    ''
    """
    until = [row for row in data if not footer.number or row.number < footer.number]
    begin = {text for row in until for text in (row.first, leading(row.first))}
    return next((text for text in (leading(footer.first), footer.first) if text and text not in begin), "")


def _ends(row: Row, body: Body, apart: bool) -> bool:
    """Whether a row shows by itself that it does not belong to the data."""
    said = [at for at in body.typed if at < len(row.cells) and row.kinds[at]]
    good = sum(row.kinds[at] == body.kinds[at] for at in said)
    fits = row.fits(body.width)
    if is_summary(row.first):
        return (
            row.cells[0].strip() == ""
            or body.kinds[0] != "text"
            or leading(row.first) not in body_firsts(body, row)
        )
    if body.width == 1:
        return is_note(row.first) and (apart or bool(body.typed)) and not good
    if fits and good and body.reads_like_data(row):
        return False
    if not fits:
        return not (
            said and good == len(said) and len(row.cells) > 1
        )  # a row that was cut off, or has a cell too many
    few = body.typical >= _WIDE and row.filled <= max(1, _FEW * body.typical) and not good
    few = few and (apart or not _has_its_like(row, body))
    if is_note(row.first):
        return few or apart or (bool(said) and not good)
    if few and (apart or (row.filled == 1 and bool(body.typed))):
        return True
    return len(body.typed) >= _MANY_TYPED and len(said) >= _MANY_TYPED and not good


def _has_its_like(row: Row, body: Body) -> bool:
    """Whether another row is filled in the same places."""
    own = [bool(cell.strip()) for cell in row.cells]
    return any(
        each is not row and [bool(cell.strip()) for cell in each.cells] == own for each in body.fitting
    )


def _may_stand_in_a_footer(row: Row, body: Body) -> bool:
    """Whether a row says so little that what stands above it decides."""
    return not body.reads_like_data(row)


def body_firsts(body: Body, but: Row) -> set[str]:
    """The first texts of the rows of data but one."""
    return {row.first for row in body.fitting if row is not but and row.cells != but.cells}
