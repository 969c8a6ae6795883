"""Where in a source its parts lie, and how it is written: what a plan says, and what a survey finds."""

from __future__ import annotations

import codecs
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

from integrum.errors import PlanError
from integrum.plan.fields import SHORT_ROWS, ShortRows
from integrum.plan.validating import expected, one_of, pairs, set_on, text, texts, yes_or_no
from integrum.plan.wrong_words import fields_answer

SPACES = " "
MOST_HEADER_ROWS, MOST_COLUMNS = 100, 16_384
MOST_DESCRIBING_ROWS = 20
# what Python calls encodings and no text file is written in
_NO_ENCODINGS = ("idna", "punycode", "unicode-escape", "raw-unicode-escape")
_SOME_TEXT = "lake,1\r\n"
_NO_MARKS = ("\r", "\n", "\0")
_SIGNS = ("+", "-", "\t")
_DIFFER = (
    ("quote", "delimiter"),
    ("escape", "delimiter"),
    ("escape", "quote"),
    ("decimal_mark", "thousands_mark"),
)


@fields_answer
@dataclass(frozen=True)
class Layout:
    """The layout of the sources of a group.

    Parameters
    ----------
    on_its_side
        Whether the variables stand in rows, with a column for each sample. The table is turned before it is read: rows are
        columns then, in all keys and in `source_row`.
    header_row
        Row of the header (of its first row), counted from 1; ``"none"`` when there is no header.
    header_has
        Names of columns. The header is the first row that has all of them; case, spaces, punctuation and units in brackets
        are ignored. Takes precedence over `header_row`.
    header_rows
        Number of rows of the header, at most 100; their cells are joined with a space.
    header
        The names of the columns by position, for sources without a header.
    header_from_column
        Number of the column that the first cell of the header belongs to: 2 where the first column, such as row names
        written by a statistics program, does not have a header cell.
    units_row
        Whether a row below the header gives the units.
    describing_rows
        Number of other rows below the header that describe the columns, such as the kinds of processing of a logger
        (``Avg``, ``Max``) or instruments; at most 20. They are no data. The row of units may be any of them.
    first_row, last_row
        The first and the last row of data, where they have to be set.
    first_column, last_column
        For sheets: letters of the first and the last column of the table; cells beside them are left out.
    footer_from
        Texts. The first row whose first filled cell is one of them ends the data; the cell may go on after a colon or an
        equals sign.
    comment_mark
        Rows that begin with this text are comments.
    short_rows
        A row with too few cells is set aside (``"set-aside"``) or filled up with empty cells (``"pad"``).
    capture
        Identifiers, each with the key of the preamble that has its value.
    encoding
        Encoding of the text: ``"utf-8"`` (with or without a byte order mark), ``"utf-16"``, ``"cp1252"`` and so on. This
        and the keys down to `escape` are for delimited files.
    delimiter
        The character between cells; a space means runs of spaces and tabs.
    quote, escape
        The character around cells, and a character before quotes inside a cell, where they are not doubled.
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

    on_its_side: bool = False
    header_row: int | Literal["none"] = 1
    header_has: Sequence[str] = ()
    header_rows: int = 1
    header: Sequence[str] = ()
    header_from_column: int = 1
    units_row: bool = False
    describing_rows: int = 0
    first_row: int | None = None
    last_row: int | None = None
    first_column: str = ""
    last_column: str = ""
    footer_from: Sequence[str] = ()
    comment_mark: str = ""
    short_rows: ShortRows = "set-aside"
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
        if isinstance(self.header, int):
            raise PlanError(
                expected("the names of the columns", self.header)
                + f"; for the row that the header is in, set header_row = {self.header}",
                "header",
            )
        for name in ("header_has", "header", "footer_from"):
            set_on(self, name, texts(getattr(self, name), name, lone=True))
        _count(self.header_rows, "header_rows", "a number of rows", MOST_HEADER_ROWS)
        _count(self.header_from_column, "header_from_column", "the number of a column", MOST_COLUMNS)
        yes_or_no(self.on_its_side, "on_its_side")
        if self.on_its_side and self.delimiter == SPACES:
            raise PlanError("a table between whose cells there are blanks cannot be turned", "on_its_side")
        yes_or_no(self.units_row, "units_row")
        _up_to(self.describing_rows, "describing_rows", MOST_DESCRIBING_ROWS)
        for name in ("first_row", "last_row"):
            if getattr(self, name) is not None:
                _count(getattr(self, name), name, "the number of a row")
        for name in ("first_column", "last_column"):
            set_on(self, name, _letters(getattr(self, name), name))
        if self.last_column and _length_first(self.last_column) < _length_first(self.first_column):
            raise PlanError(f"the last column is before the first one, {self.first_column}", "last_column")
        if any(letter in text(self.comment_mark, "comment_mark", empty=True) for letter in _NO_MARKS):
            raise PlanError(expected("a text on one line", self.comment_mark), "comment_mark")
        one_of(self.short_rows, SHORT_ROWS, "short_rows")
        set_on(self, "capture", pairs(self.capture, "capture"))
        _encoding(self.encoding)
        self._check_marks()
        if self.header and self.header_row != "none":
            raise PlanError(
                'names by position are for sources without a header; set header_row = "none"', "header"
            )

    def _check_marks(self) -> None:
        """Each mark is one character that can be what it is said to be, and no two are the same."""
        for name, empty in (("delimiter", False), ("quote", True), ("escape", True)):
            value = getattr(self, name)
            if not _is_letter(value, empty) or not value.isascii():
                raise PlanError(expected("one character of ASCII", value), name)
        for name, empty in (("decimal_mark", False), ("thousands_mark", True)):
            value = getattr(self, name)
            if not _is_letter(value, empty) or value.isalnum() or value in _SIGNS:
                raise PlanError(
                    expected("one character that is not a digit, a letter or a sign", value), name
                )
        for name, other in _DIFFER:
            if getattr(self, name) and getattr(self, name) == getattr(self, other):
                raise PlanError(f"the same as {other}; the two have to differ", name)
        if self.escape and not self.quote:
            raise PlanError("it comes before a quote inside a quoted cell, but there is no quote", "escape")

    @property
    def rows_below(self) -> int:
        """The rows between the header and the data that describe the columns: units, and others."""
        return self.describing_rows + int(self.units_row)

    @property
    def has_header(self) -> bool:
        """Whether the sources have a header."""
        return self.header_row != "none" or bool(self.header_has)


def _is_letter(value: Any, empty: bool) -> bool:
    return isinstance(value, str) and (len(value) == 1 or (empty and not value)) and value not in _NO_MARKS


def _letters(value: Any, place: str) -> str:
    if isinstance(value, str) and re.fullmatch("[A-Za-z]{0,3}", value) and _length_first(value) <= (3, "XFD"):
        return value.upper()
    raise PlanError(expected("the letters of a column, from A to XFD", value), place)


def _length_first(letters: str) -> tuple[int, str]:
    return len(letters), letters.upper()


def _count(value: Any, place: str, what: str, most: int | None = None) -> None:
    good = isinstance(value, int) and not isinstance(value, bool) and value >= 1
    if not good or (most is not None and value > most):
        raise PlanError(expected(f"{what}, from 1{f' to {most}' if most else ''}", value), place)


def _up_to(value: Any, place: str, most: int) -> None:
    if not isinstance(value, int) or isinstance(value, bool) or not 0 <= value <= most:
        raise PlanError(expected(f"a number of rows, from 0 to {most}", value), place)


def _encoding(value: Any) -> None:
    """Refuse what is no encoding of text files."""
    try:
        name = codecs.lookup(text(value, "encoding")).name
        fits = name not in _NO_ENCODINGS and _SOME_TEXT.encode(name).decode(name) == _SOME_TEXT
    except (LookupError, ValueError):
        fits = False
    if not fits:
        raise PlanError(expected("the name of an encoding, such as utf-8 or cp1252", value), "encoding")


def is_ascii_like(encoding: str) -> bool:
    """Whether a text of ASCII reads the same in an encoding.

    Examples
    --------
    >>> is_ascii_like("cp1252"), is_ascii_like("utf-16")
    (True, False)
    """
    return "ascii".encode(encoding) == b"ascii"
