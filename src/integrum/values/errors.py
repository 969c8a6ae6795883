"""Errors of spreadsheets, in cells and as text: they are bad values of any type."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrays import truths
from integrum.workbooks.errors import PATTERN


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
