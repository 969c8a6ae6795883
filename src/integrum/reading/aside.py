"""A cell, a row or a source that is kept out of the table."""

from __future__ import annotations

from typing import NamedTuple


class Aside(NamedTuple):
    """A cell, a row or a source kept out of the table, with its raw text.

    Attributes
    ----------
    source, row
        Its place; `source` is the number of the source in the run. No row: the whole source.
    column
        For a cell: its column. For a row: the columns for whose sake it is kept out.
    code
        Why; the code of the problem that says so.
    raw
        Its text as it stands in the source.
    whole
        Whether a whole row is kept out for the sake of a cell.
    said
        Why a value is bad, where it is more than that it is not of the type of its column.
    """

    source: int
    row: int | None
    column: str
    code: str
    raw: str
    whole: bool = False
    said: str = ""

    @property
    def is_row(self) -> bool:
        """Whether it is a whole row that is not in the table."""
        return self.row is not None and (self.whole or not self.column)
