"""The parts that the rows of a source are: what is known of each, in one value."""

from __future__ import annotations

from collections.abc import Callable


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
    """The part of a name.

    Raises KeyError when there is none.
    """
    return _BY_NAME[name]
