"""What a single cell looks like; errors of spreadsheets."""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import lru_cache
from itertools import pairwise

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.values.arrays import Mask, truths

# as the binary forms of workbooks have them
CODES = {
    0x00: "#NULL!",
    0x07: "#DIV/0!",
    0x0F: "#VALUE!",
    0x17: "#REF!",
    0x1D: "#NAME?",
    0x24: "#NUM!",
    0x2A: "#N/A",
    0x2B: "#GETTING_DATA",
}
UNKNOWN = "#ERROR!"
# stands before a formula that has no saved value
UNSAVED = "#UNSAVED!"

# RE2 and Python read this alike
PATTERN = (
    r"^\s*(#(N/A|NAME\?|GETTING_DATA|(NULL|DIV/0|VALUE|REF|NUM|SPILL|CALC|BLOCKED|BUSY|FIELD|CONNECT|UNKNOWN|EXTERNAL|"
    r"PYTHON|TIMEOUT|ERROR)!|UNSAVED!.*)|Err:[0-9]{3})\s*$"
)


_ERROR = re.compile(PATTERN)
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
_TIME = re.compile(
    r"\d{1,4}[-/.]\d{1,2}[-/.]\d{1,4}(?:[T ].*)?|\d{1,2}:\d{2}(?::\d{2}(?:[.,]\d+)?)?(?: ?[AaPp]\.?[Mm]\.?)?"
)
_RANGE = re.compile(r"\d+(?:[.,]\d+)?\s?[-–]\s?\d+(?:[.,]\d+)?")
_FIRST = set("0123456789+-.,<>≤≥~tTfFyYnN")
_DIGIT = re.compile(r"\d")
_BOOLEAN = {"true", "false", "yes", "no"}
# short cells are asked about again and again: row by row, and for each way to read a source
_REMEMBERED, _SHORT = 1 << 16, 100


# what a cell can look like, in the order of the codes of `Row`
KINDS = ("", "text", "number", "time", "boolean")


def is_error(text: str) -> bool:
    """Whether a text is an error of a spreadsheet.

    Examples
    --------
    >>> is_error("#DIV/0!"), is_error("#7")
    (True, False)
    """
    return text[:1] in ("#", "E") and _ERROR.match(text) is not None


def errors_in(values: pa.Array) -> Mask:
    """Mask of the texts that are errors of spreadsheets.

    Bool , one per value.

    Examples
    --------
    >>> errors_in(pa.array(["#DIV/0!", "#7", "7.2", None])).tolist()
    [True, False, False, False]
    """
    data = values.buffers()[2]
    whole = b"" if data is None else memoryview(data).tobytes()
    if b"#" not in whole and b"Err:" not in whole:
        return np.zeros(len(values), bool)
    return truths(pc.match_substring_regex(values, PATTERN))


def is_value(cell: str) -> bool:
    """Whether a cell looks like a number, a date, a time or a boolean.

    Examples
    --------
    >>> [is_value(cell) for cell in ("7,20", "2024-05-01 12:00", "1.2.24", "<0.05", "Depth", "true")]
    [True, True, True, True, False, True]
    """
    return _value_known(cell) if len(cell) <= _SHORT else _is_value(cell)


def _is_value(cell: str) -> bool:
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


def kind_of(cell: str) -> str:
    """What a cell looks like: ``"number"``, ``"time"`` (dates too), ``"boolean"``, ``"text"``; empty when it has no value.

    Examples
    --------
    >>> [kind_of(cell) for cell in ("7,20", "2024-05-01 12:00", "yes", "Depth", "n/a", "12:30")]
    ['number', 'time', 'boolean', 'text', '', 'time']
    """
    return _kind_known(cell) if len(cell) <= _SHORT else _kind(cell)


def _kind(cell: str) -> str:
    plain = cell.strip()
    if is_absent(plain):
        return ""
    if not is_value(plain):
        return "text"
    if plain.lower() in _BOOLEAN:
        return "boolean"
    if _RANGE.fullmatch(plain):
        return "text"
    return "time" if _TIME.fullmatch(plain) or DATE.fullmatch(plain) else "number"


_value_known, _kind_known = lru_cache(_REMEMBERED)(_is_value), lru_cache(_REMEMBERED)(_kind)


def is_series(cells: Sequence[str]) -> bool:
    """Whether cells are numbers in equal steps or increasing years; such cells are names of columns, not values.

    Examples
    --------
    >>> is_series(["1960", "1961"]), is_series(["0.5", "1", "1.5"]), is_series(["3.2", "3.1"]), is_series(["7"])
    (True, True, False, False)
    """
    if not is_increasing(cells):
        return False
    numbers = [float(cell) for cell in cells]
    steps = [after - before for before, after in pairwise(numbers)]
    years = all(1500 <= each <= 2200 and each == int(each) for each in numbers)
    return years or (len(numbers) > 2 and max(steps) - min(steps) < 1e-9)


def is_increasing(cells: Sequence[str]) -> bool:
    """Whether cells are two or more increasing numbers."""
    try:
        numbers = [float(cell) for cell in cells]
    except ValueError:
        return False
    return len(numbers) > 1 and all(before < after for before, after in pairwise(numbers))
