"""A cell, a row or a source that is kept out of the table because of a problem."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any


@dataclass(frozen=True, slots=True)
class SetAside:
    """A cell, a row or a source with a problem, with its raw text.

    Attributes
    ----------
    source, row
        Its place; without a row: the whole source. `source` is a name, but a number as long as the run goes on.
    column
        Of a cell that was left empty: its column. Of a row: the columns that are the reason.
    code
        The code of the problem that says why.
    raw
        Its text as it stands in the source.
    """

    source: Any
    row: int | None
    column: str
    code: str
    raw: str
    # whether a whole row is kept out for a cell; and why a value is bad, where it is more than that it is not of its type
    whole: bool = field(default=False, repr=False, compare=False)
    said: str = field(default="", repr=False, compare=False)

    def of(self, source: str | int) -> SetAside:
        """The same of a source by another name, or by its number."""
        return replace(self, source=source)

    @property
    def is_row(self) -> bool:
        """Whether it is a whole row that is not in the table."""
        return self.row is not None and (self.whole or not self.column)
