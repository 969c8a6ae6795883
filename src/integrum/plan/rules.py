"""What to do where sources and plan disagree, and the columns that say where a row came from."""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import Literal

from integrum.plan.validating import one_of, share, text, yes_or_no
from integrum.plan.words import BAD_VALUES

UNLISTED = ("report", "keep", "refuse")
DUPLICATES = ("set-aside", "keep")
MISNAMED = ("blank", "set-source-aside")
SEVERAL_LAYOUTS = ("set-source-aside", "first")


@dataclass(frozen=True)
class Provenance:
    """The columns that say where a row came from; ``False`` leaves one out.

    Parameters
    ----------
    source
        Name of the column with the path of the source, relative to the common folder.
    source_row
        Name of the column with the number of the row in the source, the header counted.
    sheet
        Name of the column with the sheet of a workbook; it stands after `source` when any source is a sheet.

    Raises
    ------
    PlanError
        When a value is neither a name nor False.

    Examples
    --------
    >>> Provenance(source="file", source_row=False).names
    ('file', 'sheet')
    """

    source: str | Literal[False] = "source"
    source_row: str | Literal[False] = "source_row"
    sheet: str | Literal[False] = "sheet"

    def __post_init__(self) -> None:
        for each in fields(self):
            value = getattr(self, each.name)
            if value is not False:
                text(value, each.name, "a column name, or false to leave it out")

    @property
    def names(self) -> tuple[str, ...]:
        """The names of those that are kept, in their order in the table."""
        return tuple(name for name in (self.source, self.sheet, self.source_row) if name is not False)


@dataclass(frozen=True)
class Rules:
    """What to do where sources and plan disagree.

    Parameters
    ----------
    unlisted
        A header that no column claims: ``"report"`` (a warning; it is not in the table), ``"keep"`` (a text
        column at the end of the table) or ``"refuse"`` (the source is set aside).
    only_common
        Whether the table only has columns that every source has; what is left out is said.
    bad_values
        A cell that is not of its column's type: ``"blank"`` (the cell is empty in the table),
        ``"set-row-aside"`` or ``"set-source-aside"``. The raw text is kept in the record each time.
    bad_share
        Beyond that share of bad values in a column a source is reported as a whole, once, with some of them; 1 when it
        never is.
    duplicates
        A source with the same content as an earlier one: ``"set-aside"`` or ``"keep"``.
    misnamed
        A path that does not fit its group's `ids`: ``"blank"`` (its identifiers are empty) or
        ``"set-source-aside"``.
    several_layouts
        A source that fits several layouts of its group, which read it differently: ``"set-source-aside"``, or
        ``"first"`` (the first of them is taken).

    Raises
    ------
    PlanError
        When a value is none of these.

    Examples
    --------
    >>> Rules(bad_values="set-row-aside").unlisted
    'report'
    """

    unlisted: str = "report"
    bad_values: str = "blank"
    duplicates: str = "set-aside"
    misnamed: str = "blank"
    several_layouts: str = "set-source-aside"
    only_common: bool = False
    bad_share: float = 1.0

    def __post_init__(self) -> None:
        one_of(self.unlisted, UNLISTED, "unlisted")
        yes_or_no(self.only_common, "only_common")
        one_of(self.bad_values, BAD_VALUES, "bad_values")
        object.__setattr__(self, "bad_share", share(self.bad_share, "bad_share"))
        one_of(self.duplicates, DUPLICATES, "duplicates")
        one_of(self.misnamed, MISNAMED, "misnamed")
        one_of(self.several_layouts, SEVERAL_LAYOUTS, "several_layouts")
