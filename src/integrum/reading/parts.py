"""The parts of a source, and the rows that are left out or set aside."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, NamedTuple

from integrum.reading.records import Dialect, spans


class Part(str):
    """A part of a source: its name as files have it, such as ``"repeated-header"``, with all that is known of it.

    Every row is in exactly one part; cells beside the table share their row with data.

    Attributes
    ----------
    key, words
        Its name as an attribute of a ledger, and in a sentence.
    counted
        When its rows are counted: of those above the data with the head of a source; of others with the ``"inspection"`` of
        its bytes, or with its ``"rows"`` when these are parsed. Empty where they are not counted.
    is_kept
        Whether its rows stand in ``left-out.csv``, with their texts.
    is_data
        Whether its rows are data: in the table, or set aside.
    says_columns
        Whether its rows say what the columns are.
    cut_off
        Where a guess may take rows below the header for it: what it cuts off then, in words.
    like_data, hint
        Where a layout may take data for it: what is said then, and what to do about it.

    Examples
    --------
    >>> REPEATED == "repeated-header", REPEATED.key, REPEATED.words
    (True, 'repeated_header', 'repeated header')
    """

    key: str
    words: str
    counted: str
    is_kept: bool
    is_data: bool
    says_columns: bool
    cut_off: str
    like_data: str
    hint: str

    def __new__(
        cls,
        name: str,
        counted: str,
        *,
        is_kept: bool = True,
        is_data: bool = False,
        says_columns: bool = False,
        cut_off: str = "",
        like_data: str = "",
        hint: str = "",
    ) -> Part:
        """Make one; see the attributes."""
        made = super().__new__(cls, name)
        made.key, made.words, made.counted = name.replace("-", "_"), name.replace("-", " "), counted
        made.is_kept, made.is_data, made.says_columns = is_kept, is_data, says_columns
        made.cut_off, made.like_data, made.hint = cut_off, like_data, hint
        return made

    @property
    def is_left_out(self) -> bool:
        """Whether its rows are not in the table for what they are, and not for a problem."""
        return self.is_kept and not self.is_data

    def __reduce__(self) -> tuple[Callable[[str], Part], tuple[str]]:
        return part_named, (str(self),)


PREAMBLE = Part(
    "preamble",
    "head",
    like_data="left out as part of the preamble, but it looks like data",
    hint="check header_row in the layout",
)
HEADER = Part(
    "header",
    "head",
    says_columns=True,
    like_data="used as the header, but it looks like data",
    hint='set header_row = "none" if the source does not have a header',
)
UNITS = Part(
    "units",
    "head",
    says_columns=True,
    like_data="left out as a row of units, but it looks like data",
    hint="remove units_row from the layout if it is data",
)
DESCRIPTION = Part(
    "description",
    "head",
    says_columns=True,
    like_data="left out as a row that describes the columns, but it looks like data",
    hint="lower describing_rows in the layout if it is data",
)
REPEATED = Part(
    "repeated-header",
    "rows",
    like_data="left out as a repeated header, but it looks like data",
    hint="check header_row in the layout",
)
BLANK = Part("blank", "rows", is_kept=False)
COMMENT = Part(
    "comment",
    "inspection",
    cut_off="comments",
    like_data="left out as a comment, but it looks like data",
    hint="remove comment_mark from the layout if it is data",
)
FOOTER = Part(
    "footer",
    "inspection",
    like_data="left out as part of the footer, but it looks like data",
    hint="check footer_from and last_row in the layout",
)
SET_ASIDE = Part("set-aside", "rows", is_data=True)
DATA = Part("data", "rows", is_kept=False, is_data=True)
# cells of a sheet
BESIDE = Part("beside-the-table", "")

# in the order in which ledgers have them
PARTS = (PREAMBLE, HEADER, UNITS, DESCRIPTION, REPEATED, BLANK, COMMENT, FOOTER, SET_ASIDE, DATA, BESIDE)
COUNTED = tuple(part for part in PARTS if part.counted)
_BY_NAME = {str(part): part for part in PARTS}


def part_named(name: str) -> Part:
    """The part with a name.

    Raises KeyError when there is none.
    """
    return _BY_NAME[name]


class LeftOutRow(NamedTuple):
    """A row that is not in the table because of its part.

    Attributes
    ----------
    source, row
        Its place; without a row: all rows of the source. `source` is a name, but a number as long as the run goes on.
    part
        ``"preamble"``, ``"header"``, ``"units"``, ``"repeated-header"``, ``"comment"``, ``"footer"``,
        ``"beside-the-table"`` (cells of a sheet) or ``"set-aside"``.
    raw
        Its text as it stands in the source.
    """

    source: Any
    row: int | None
    part: Part
    raw: str

    def of(self, source: str | int) -> LeftOutRow:
        """The same with another source."""
        return self._replace(source=source)


def rows_in(data: bytes, dialect: Dialect, source: int, first_row: int, part: Part) -> Iterator[LeftOutRow]:
    r"""Each record in some bytes as a left-out row.

    Examples
    --------
    >>> from integrum.reading.parts import FOOTER
    >>> [tuple(one) for one in rows_in(b"Total,3\nsigned\n", Dialect(), 0, 9, FOOTER)]
    [(0, 9, 'footer', 'Total,3'), (0, 10, 'footer', 'signed')]
    """
    for row, (start, end) in enumerate(spans(data, dialect, last=True), first_row):
        yield LeftOutRow(source, row, part, raw_text(data[start:end]))


def raw_text(record: bytes) -> str:
    """The text of a record without its line end."""
    return record.rstrip(b"\r\n").decode("utf-8", "replace")


def in_place(entries: Sequence[LeftOutRow]) -> list[LeftOutRow]:
    """Sort rows by their places."""
    return sorted(entries, key=lambda one: (one.source, one.row or 0))


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
        """The same with another source."""
        return replace(self, source=source)

    @property
    def is_row(self) -> bool:
        """Whether it is a whole row that is not in the table."""
        return self.row is not None and (self.whole or not self.column)
