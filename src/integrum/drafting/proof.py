"""Whether a layout that several sources share reads each of them as its own does."""

from __future__ import annotations

from integrum.plan.layout import Layout
from integrum.problems import SourceFault
from integrum.reading.cutting import cut
from integrum.reading.head import Head, read_head
from integrum.sources.source import Source


def reads_alike(source: Source, head: Head, own: Layout, shared: Layout) -> bool:
    """Whether a source has the same header, and the same rows below it, in two layouts.

    `own`, `shared`: its own layout, and the one that it shall share.
    """
    if own == shared:
        return True
    try:
        other = read_head(source, shared)
        same = (other.header.names, other.first_row, other.data_at) == (
            head.header.names,
            head.first_row,
            head.data_at,
        )
        if not same or (own.footer_from, own.comment_mark) == (shared.footer_from, shared.comment_mark):
            return same
        return _counts(source, other, shared) == _counts(source, head, own)
    except SourceFault:
        return False


def _counts(source: Source, head: Head, layout: Layout) -> tuple[int, int, int]:
    """Rows below the header, and those of them that are comments or belong to the footer."""
    rows, comments, footer = 0, 0, 0
    for piece in cut(source, 0, 1, head, layout):
        rows, comments, footer = rows + piece.rows, comments + len(piece.comments), footer + piece.footer
    return rows, comments, footer
