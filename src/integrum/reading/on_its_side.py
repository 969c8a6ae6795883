"""Tables on their side: variables in rows, one column for each sample, turned so that they can be read as others."""

from __future__ import annotations

from itertools import zip_longest

from integrum.plan.layout import Layout
from integrum.problems import SourceFault
from integrum.reading.records import Dialect, spans
from integrum.reading.splitting import split_cells

# a larger text is not turned, as all of it is in memory
MOST_TURNED, _SAID = 64 << 20, "64 MB"


def turned_over(text: bytes, layout: Layout) -> bytes:
    r"""A text with its columns as rows.

    Raises SourceFault when it is too large.

    Examples
    --------
    >>> turned_over(b"lake,Amber,Vessel\nph,7.1,\n", Layout(on_its_side=True))
    b'lake,ph\nAmber,7.1\nVessel,\n'
    """
    if len(text) > MOST_TURNED:
        raise SourceFault(
            "on-its-side",
            f"it has more than {_SAID}, too much for a table that is turned",
            "turn it with another program, or divide it",
        )
    dialect = Dialect(layout.delimiter, layout.quote, layout.escape, layout.comment_mark)
    rows = [
        split_cells(text[start:end].decode("utf-8"), dialect)
        for start, end in spans(text, dialect, last=True)
    ]
    rows = [cells for cells in rows if any(cell.strip() for cell in cells)]
    if layout.comment_mark:
        rows = [cells for cells in rows if not cells[0].startswith(layout.comment_mark)]
    columns = zip_longest(*rows, fillvalue="")
    lines = (layout.delimiter.join(_quoted(cell, layout) for cell in column) for column in columns)
    return "".join(f"{line}\n" for line in lines).encode()


def _quoted(cell: str, layout: Layout) -> str:
    quote = layout.quote
    if not quote or not any(mark in cell for mark in (layout.delimiter, quote, "\n", "\r")):
        return cell
    return quote + cell.replace(quote, (layout.escape or quote) + quote) + quote
