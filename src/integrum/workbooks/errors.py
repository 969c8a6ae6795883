"""Errors in the cells of workbooks, as text."""

from __future__ import annotations

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
    r"^(#(N/A|NAME\?|GETTING_DATA|(NULL|DIV/0|VALUE|REF|NUM|SPILL|CALC|BLOCKED|BUSY|FIELD|CONNECT|UNKNOWN|EXTERNAL|"
    r"PYTHON|TIMEOUT|ERROR)!|UNSAVED!.*)|Err:[0-9]{3})$"
)
