"""Errors of spreadsheets, in cells and as text: they are bad values of any type."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrays import truths

# a formula without a saved value comes as the last of those that end with a bang
PATTERN = (
    r"^(#(N/A|NAME\?|GETTING_DATA|(NULL|DIV/0|VALUE|REF|NUM|SPILL|CALC|BLOCKED|BUSY|FIELD|CONNECT|UNKNOWN|EXTERNAL|"
    r"PYTHON|TIMEOUT|ERROR)!|UNSAVED!.*)|Err:[0-9]{3})$"
)


def errors_in(values: pa.Array) -> npt.NDArray[np.bool_]:
    """Which texts are errors.

    Parameters
    ----------
    values
        A string array.

    Returns
    -------
    numpy.ndarray
        bool, one per value.

    Examples
    --------
    >>> errors_in(pa.array(["#DIV/0!", "#7", "7.2", None])).tolist()
    [True, False, False, False]
    """
    data = values.buffers()[2]
    if data is None or not _may_have(memoryview(data)):
        return np.zeros(len(values), bool)
    return truths(pc.match_substring_regex(values, PATTERN))


def _may_have(data: memoryview) -> bool:
    whole = bytes(data)
    return b"#" in whole or b"Err:" in whole
