"""Values that are made of several cells, such as a date and a time."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.values.arrays import NOTHING, Mask, each_once, flags, text, truths
from integrum.values.checking import Converted
from integrum.values.notation import Conversion
from integrum.values.pipeline import convert
from integrum.values.types import TYPES

# a date in a workbook may be the beginning of its day, and a time may lie on the first day that there is
_MIDNIGHT, _FIRST_DAY = (
    r"^([0-9]{4}-[0-9]{2}-[0-9]{2})[ T]00:00(:00(\.0+)?)?$",
    r"^(1899-12-3[01]|1900-01-0[01])[ T]",
)


def joined_cells(cells: Sequence[pa.Array], how: Conversion) -> tuple[pa.Array, Mask]:
    """Join cells with a space between them.

    Returns the texts, null where all cells are empty; and which of them have all parts, or none.

    Parameters
    ----------
    cells
        String arrays of one length, in the order in which they make up a value.
    how
        The conversion of the column; a cell that is one of its missing codes is empty.

    Examples
    --------
    >>> day, clock = pa.array(["2024-05-01", "2024-05-02", None]), pa.array(["12:30", "-", None])
    >>> texts, whole = joined_cells([day, clock], Conversion("datetime", ("-",)))
    >>> texts.to_pylist(), whole.tolist()
    (['2024-05-01 12:30', '2024-05-02', None], [True, False, True])
    """
    bare, kind = Conversion(missing=how.missing), TYPES[how.type]
    filled = []
    for each in cells:
        plain = convert(each, replace(bare, type="text")).text if how.missing else each
        plain = pc.utf8_trim_whitespace(plain)
        filled.append(pc.if_else(pc.equal(plain, text("")), NOTHING, plain))
    if kind.has_day and kind.has_clock and len(filled) > 1:
        filled[0] = pc.replace_substring_regex(filled[0], _MIDNIGHT, r"\1")
        filled[1:] = [pc.replace_substring_regex(each, _FIRST_DAY, "") for each in filled[1:]]
    there = np.sum([truths(each.is_valid()) for each in filled], axis=0)
    joined = pc.binary_join_element_wise(*filled, text(" "), null_handling="replace", null_replacement="")
    joined = pc.replace_substring_regex(pc.utf8_trim_whitespace(joined), " {2,}", " ")
    return pc.if_else(flags(there > 0), joined, NOTHING), (there == len(filled)) | (there == 0)


def convert_joined(
    cells: Sequence[pa.Array], how: Conversion, as_text: bool = True
) -> tuple[Converted, pa.Array]:
    """Join cells and convert them. A value without one of its parts is bad.

    Returns what was converted, and the joined texts.

    Parameters
    ----------
    cells, how
        As for `joined_cells`.
    as_text
        As for `convert`.

    Examples
    --------
    >>> done, _ = convert_joined([pa.array(["2024-05-01", "2024-05-02"]), pa.array(["12:30", None])], Conversion("datetime"))
    >>> done.text.to_pylist(), done.bad.tolist()
    (['2024-05-01 12:30', None], [1])
    """
    raw, whole = joined_cells(cells, how)
    done = convert(raw, how, as_text)
    if whole.all():
        return done, raw
    made = pc.if_else(flags(whole), done.text, NOTHING)
    if how.take:
        return Converted(made), raw
    torn = np.flatnonzero(~whole & truths(raw.is_valid()))
    said = {**done.said, **dict.fromkeys(torn.tolist(), "a part of it is missing")}
    return Converted(made, each_once(np.concatenate([done.bad, torn])).astype(np.int64), None, said), raw
