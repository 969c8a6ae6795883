"""Cells that a spreadsheet program would take for formulas get an apostrophe before them, and lose it again."""

from __future__ import annotations

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import flags, text
from integrum.values.checking import not_canonical
from integrum.values.types import TYPES

_MARK = "'"
_RISKY = r"^[=+@\t\r'-]"


def guard(column: pa.Array) -> pa.Array:
    r"""Guard the texts of a column.

    One that begins with ``=``, ``+``, ``-``, ``@``, a tab or a carriage return gets an apostrophe before it, unless it
    is a plain number; so does one that begins with an apostrophe, so that all can be taken back.

    Examples
    --------
    >>> guard(pa.array(["=1+1", "-7.2", "-x", "'x", None])).to_pylist()
    ["'=1+1", '-7.2', "'-x", "''x", None]
    """
    risky = pc.match_substring_regex(column, _RISKY)
    if not pc.any(risky).as_py():
        return column
    number = np.ones(len(column), bool)
    number[not_canonical(column, TYPES["number"])] = False
    marked = pc.binary_join_element_wise(text(_MARK), column, text(""))
    return pc.if_else(pc.and_not(risky, flags(number)), marked, column)


def unguard(column: pa.ChunkedArray) -> pa.ChunkedArray:
    """Take the apostrophes back.

    Examples
    --------
    >>> unguard(pa.chunked_array([["'=1+1", "-7.2", "''x"]])).to_pylist()
    ['=1+1', '-7.2', "'x"]
    """
    if not pa.types.is_string(column.type):
        return column
    return pc.if_else(pc.starts_with(column, _MARK), pc.utf8_slice_codeunits(column, 1), column)
