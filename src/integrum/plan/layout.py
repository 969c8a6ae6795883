"""Where in a source its parts lie, and how it is written: what a plan says, and what a survey finds."""

from __future__ import annotations

import codecs
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from integrum.errors import PlanError
from integrum.plan.checks import expected, one_of, pairs, set_on, text, texts, yes_or_no

SPACES = " "
SHORT_ROWS = ("set-aside", "pad")


@dataclass(frozen=True)
class Layout:
    """The layout of the sources of a group.

    Parameters
    ----------
    header_row
        The row of the header, or of the first of its rows, counted from 1; ``"none"`` when there is none.
    header_has
        Names of which the header has all, however they are written; the header is the first row that has
        them. Goes before `header_row`.
    header_rows
        How many rows the header has; their cells are joined with a space.
    header
        The names of the columns by position, for sources without a header.
    units_row
        Whether the row below the header gives the units.
    first_row, last_row
        The first and the last row of data, where the plan has to say so.
    first_column, last_column
        Of a sheet: the letters of the first and the last column of the table; cells beside these are left out.
    footer_from
        Texts; the first row whose first cell begins with one of them ends the data.
    comment_mark
        Rows that begin with this text are comments.
    short_rows
        What becomes of a row with too few cells: ``"set-aside"``, or ``"pad"`` with empty cells.
    capture
        Identifiers and the keys of the preamble that they take their values from.
    encoding
        Of a delimited file, as all down to `escape`: ``"utf-8"`` (a byte order mark is left out),
        ``"utf-16"``, ``"cp1252"`` and so on.
    delimiter
        The character between cells; a space stands for runs of spaces.
    quote, escape
        The character around cells that need it, and the one before a quote inside; an inner quote is
        doubled when `escape` is empty.
    decimal_mark, thousands_mark
        How numbers are written.

    Raises
    ------
    PlanError
        When a value is not of the kind described here.

    Examples
    --------
    >>> Layout(header_row=9, units_row=True, footer_from="Total", delimiter=";", decimal_mark=",").footer_from
    ('Total',)
    """

    header_row: int | str = 1
    header_has: Sequence[str] = ()
    header_rows: int = 1
    header: Sequence[str] = ()
    units_row: bool = False
    first_row: int | None = None
    last_row: int | None = None
    first_column: str = ""
    last_column: str = ""
    footer_from: Sequence[str] = ()
    comment_mark: str = ""
    short_rows: str = "set-aside"
    capture: Mapping[str, str] = field(default_factory=dict)
    encoding: str = "utf-8"
    delimiter: str = ","
    quote: str = '"'
    escape: str = ""
    decimal_mark: str = "."
    thousands_mark: str = ""

    def __post_init__(self) -> None:
        if self.header_row != "none":
            _count(self.header_row, "header_row", 'the number of a row, or "none"')
        for name in ("header_has", "header", "footer_from"):
            set_on(self, name, texts(getattr(self, name), name, lone=True))
        _count(self.header_rows, "header_rows", "a number of rows")
        yes_or_no(self.units_row, "units_row")
        for name in ("first_row", "last_row"):
            if getattr(self, name) is not None:
                _count(getattr(self, name), name, "the number of a row")
        for name in ("first_column", "last_column"):
            set_on(self, name, _letters(getattr(self, name), name))
        if self.last_column and _length_first(self.last_column) < _length_first(self.first_column):
            raise PlanError(
                f"the last column stands before the first one, {self.first_column}", "last_column"
            )
        text(self.comment_mark, "comment_mark", empty=True)
        one_of(self.short_rows, SHORT_ROWS, "short_rows")
        set_on(self, "capture", pairs(self.capture, "capture"))
        try:
            codecs.lookup(text(self.encoding, "encoding"))
        except LookupError:
            raise PlanError(
                expected("the name of an encoding, such as utf-8 or cp1252", self.encoding), "encoding"
            ) from None
        for name, empty in (
            ("delimiter", False),
            ("quote", True),
            ("escape", True),
            ("decimal_mark", False),
            ("thousands_mark", True),
        ):
            value = getattr(self, name)
            if (
                not isinstance(value, str)
                or len(value) > 1
                or value in ("\r", "\n")
                or (not value and not empty)
            ):
                raise PlanError(expected("one character", value), name)
        if self.header and self.header_row != "none":
            raise PlanError(
                'names by position are for sources without a header; say header_row = "none"', "header"
            )

    @property
    def has_header(self) -> bool:
        """Whether the sources have a header."""
        return self.header_row != "none" or bool(self.header_has)


def _letters(value: Any, place: str) -> str:
    if isinstance(value, str) and re.fullmatch("[A-Za-z]{0,3}", value) and _length_first(value) <= (3, "XFD"):
        return value.upper()
    raise PlanError(expected("the letters of a column, from A to XFD", value), place)


def _length_first(letters: str) -> tuple[int, str]:
    return len(letters), letters.upper()


def _count(value: Any, place: str, what: str) -> None:
    if not isinstance(value, int) or isinstance(value, bool) or value < 1:
        raise PlanError(expected(f"{what}, from 1", value), place)
