"""What to do where sources and plan disagree, and the columns that say where a row came from."""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import Literal

from integrum.plan.fields import (
    BAD_VALUES,
    DUPLICATES,
    MISNAMED,
    REPEATED_ROWS,
    SEVERAL_LAYOUTS,
    UNLISTED,
    BadValues,
    Duplicates,
    Misnamed,
    RepeatedRows,
    SeveralLayouts,
    Unlisted,
)
from integrum.plan.validating import one_of, share, text, yes_or_no
from integrum.plan.wrong_words import fields_answer
from integrum.values.types import TYPES, Type


@fields_answer
@dataclass(frozen=True)
class Provenance:
    """The columns that name the source of each row; ``False`` leaves one out.

    Parameters
    ----------
    source
        Name of the column with the path of the source, relative to the common folder.
    source_row
        Name of the column with the row number in the source, counted from the top of the file.
    sheet
        Name of the column with the sheet of a workbook; it comes after `source` when any source is a sheet.

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

    @property
    def columns(self) -> tuple[str | Literal[False], ...]:
        """All of them, in the order of its parameters."""
        return (self.source, self.source_row, self.sheet)

    def kind_of(self, name: str) -> Type:
        """The type of one of them; text for all other names."""
        return TYPES["integer" if name == self.source_row else "text"]


@fields_answer
@dataclass(frozen=True)
class Rules:
    """What to do where sources and plan disagree.

    Parameters
    ----------
    unlisted
        A header that is not in the plan: ``"report"`` (a warning; it is not in the table), ``"leave-out"`` (the table shall
        have the columns of the plan and no others; one note for all headers), ``"keep"`` (a text column at the end of
        the table) or ``"refuse"`` (the source is set aside).
    only_common
        Whether the table has only the columns that every source has. Each column that is not in the table is reported.
    bad_values
        A cell that does not have the type of its column: ``"blank"`` (left empty), ``"set-row-aside"`` or
        ``"set-source-aside"``. The record always keeps the text.
    bad_share
        A source with a larger share of bad values in a column is reported once, as an error, with some of the values.
    duplicates
        A source with the same content as an earlier one: ``"set-aside"`` or ``"keep"``.
    repeated_rows
        Sources that have rows of other sources, such as downloads that overlap: ``"report"`` (a warning), or ``"once"``
        (each row is taken from the first source that has it, and set aside in the others). To take rows once, a run reads
        all sources twice, and takes nothing over from an earlier run.
    misnamed
        A path that does not fit the `ids` of its group: ``"blank"`` (its identifiers are empty) or
        ``"set-source-aside"``.
    several_layouts
        A source that fits several layouts of its group, which read it differently: ``"set-source-aside"``, or
        ``"first"`` (the first of them is used).

    Raises
    ------
    PlanError
        When a value is none of these.

    Examples
    --------
    >>> Rules(bad_values="set-row-aside").unlisted
    'report'
    """

    unlisted: Unlisted = "report"
    bad_values: BadValues = "blank"
    duplicates: Duplicates = "set-aside"
    repeated_rows: RepeatedRows = "report"
    misnamed: Misnamed = "blank"
    several_layouts: SeveralLayouts = "set-source-aside"
    only_common: bool = False
    bad_share: float = 1.0

    def __post_init__(self) -> None:
        one_of(self.unlisted, UNLISTED, "unlisted")
        yes_or_no(self.only_common, "only_common")
        one_of(self.bad_values, BAD_VALUES, "bad_values")
        object.__setattr__(self, "bad_share", share(self.bad_share, "bad_share"))
        one_of(self.duplicates, DUPLICATES, "duplicates")
        one_of(self.repeated_rows, REPEATED_ROWS, "repeated_rows")
        one_of(self.misnamed, MISNAMED, "misnamed")
        one_of(self.several_layouts, SEVERAL_LAYOUTS, "several_layouts")
