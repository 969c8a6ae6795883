"""Tidy texts as a column of the plan asks: letters, texts inside, whole values."""

from __future__ import annotations

import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrays import texts
from integrum.plan import Column

_CASES = {"lower": pc.utf8_lower, "upper": pc.utf8_upper, "title": pc.utf8_title}


def tidied(values: pa.Array, column: Column) -> pa.Array:
    """Bring texts to the form that a column asks for, before anything else is done with them.

    Parameters
    ----------
    values
        A string array.
    column
        Its `swap`, `case` and `values` apply, in this order, after outer spaces are gone. Without any of them
        the texts stay as they are.

    Returns
    -------
    pyarrow.Array

    Examples
    --------
    >>> lake = Column("lake", swap={"-": " "}, case="title", values={"Amb": "Ambermere"})
    >>> tidied(texts(["quillon-tarn", " amb"]), lake).to_pylist()
    ['Quillon Tarn', 'Ambermere']
    """
    if not (column.swap or column.case or column.values):
        return values
    values = pc.utf8_trim_whitespace(values)
    for old, new in column.swap.items():
        values = pc.replace_substring(values, old, new)
    if column.case:
        values = _CASES[column.case](values)
    if column.values:
        distinct = values.dictionary_encode()
        named = [column.values.get(value, value) for value in distinct.dictionary.to_pylist()]
        values = texts(named).take(distinct.indices)
    return values
