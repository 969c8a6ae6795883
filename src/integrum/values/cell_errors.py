"""Errors of spreadsheets, in cells and as text: they are bad values of any type."""

from __future__ import annotations

import re

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import Mask, truths

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


def is_error(text: str) -> bool:
    """Whether a text is an error of a spreadsheet.

    Examples
    --------
    >>> is_error("#DIV/0!"), is_error("#7")
    (True, False)
    """
    return text[:1] in ("#", "E") and _ERROR.match(text) is not None


def errors_in(values: pa.Array) -> Mask:
    """Which texts are errors.

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
