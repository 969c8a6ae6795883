"""What a single cell of a sample looks like."""

from __future__ import annotations

import re

from integrum.values.cell_errors import PATTERN

VALUE = re.compile(r"[+-]?[\d.,](?:[\d.,:/\-+TZ \u00a0']*)(?:[eE][+-]?\d+)?(?: ?[AaPp]\.?[Mm]\.?)?%?")
DATE = re.compile(r"\d{1,2}[-. ](?:[A-Za-z]{3,9})[-. ]\d{2,4}(?: [\d:.]+)?")
_ABSENT = {
    "",
    "-",
    "--",
    "n/a",
    "na",
    "nan",
    "null",
    "none",
    "n.a.",
    "nd",
    "n.d.",
    "#n/a",
    "missing",
    "?",
    ".",
}
_FIRST = set("0123456789+-.,<>≤≥~tTfFyYnN")
_DIGIT = re.compile(r"\d")
_ERROR = re.compile(PATTERN)
_BOOLEAN = {"true", "false", "yes", "no"}


def is_value(cell: str) -> bool:
    """Whether a cell looks like a number, a date, a time or a boolean.

    Examples
    --------
    >>> [is_value(cell) for cell in ("7,20", "2024-05-01 12:00", "1.2.24", "<0.05", "Depth", "true")]
    [True, True, True, True, False, True]
    """
    plain = cell.strip()
    if not plain or plain[0] not in _FIRST:
        return False
    plain = plain.lstrip("<>≤≥~ ")
    return (
        (VALUE.fullmatch(plain) is not None and _DIGIT.search(plain) is not None)
        or plain.lower() in _BOOLEAN
        or DATE.fullmatch(plain) is not None
    )


def is_absent(cell: str) -> bool:
    """Whether a cell is empty, says that there is no value, or is an error of a spreadsheet.

    Examples
    --------
    >>> is_absent(" n/a"), is_absent("#DIV/0!"), is_absent("0")
    (True, True, False)
    """
    plain = cell.strip()
    return plain.lower() in _ABSENT or (plain[:1] in ("#", "E") and _ERROR.match(plain) is not None)
