"""Numbers as they are written elsewhere: a decimal comma, a sign between thousands."""

from __future__ import annotations

import re

import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrays import flags, truths


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
    >>> from integrum.arrays import texts
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
