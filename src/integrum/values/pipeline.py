"""Tidy texts as a column of the plan asks: letters, texts inside, whole values."""

from __future__ import annotations

import re

import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import flags, texts, truths
from integrum.plan.model import Column

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


def with_point(values: pa.Array, decimal: str, thousands: str) -> pa.Array:
    """Write numbers with a decimal point and without signs between thousands; all else stays as it is.

    Parameters
    ----------
    values
        A string array.
    decimal, thousands
        How its numbers are written; `thousands` may be empty.

    Returns
    -------
    pyarrow.Array

    Examples
    --------
    >>> from integrum.arrow.arrays import flags, texts, truths
    >>> with_point(texts(["1.234,50", "7,2", "12", "n/a"]), ",", ".").to_pylist()
    ['1234.50', '7.2', '12', 'n/a']
    """
    if decimal == "." and not thousands:
        return values
    point, group = re.escape(decimal), re.escape(thousands)
    whole = f"(?:[0-9]+|[0-9]{{1,3}}(?:{group}[0-9]{{3}})+)" if thousands else "[0-9]+"
    pattern = rf"^\s*[+-]?{whole}(?:{point}[0-9]*)?(?:[eE][+-]?[0-9]+)?\s*$"
    fits = pc.match_substring_regex(values, pattern)
    plain = pc.replace_substring(values, thousands, "") if thousands else values
    plain = pc.replace_substring(plain, decimal, ".") if decimal != "." else plain
    return pc.replace_with_mask(values, flags(truths(fits)), plain.filter(fits))
