"""Check a text column against its type; only what must change is rewritten."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import flags, ints, text, texts, truths
from integrum.values.canonical import PLAIN, canonical
from integrum.values.cell_errors import errors_in

ARROW = {
    "text": pa.string(),
    "integer": pa.int64(),
    "number": pa.float64(),
    "boolean": pa.bool_(),
    "date": pa.date32(),
    "datetime": pa.timestamp("us"),
}


@dataclass(frozen=True)
class Checked:
    """A column after the check.

    Attributes
    ----------
    text
        The values in canonical form; null where empty, missing or bad.
    bad
        Positions of the values that are not of the type.
    """

    text: pa.Array
    bad: npt.NDArray[np.int64]


_NONE_BAD = np.array([], np.int64)
_BOOLEANS = texts(["true", "false", None])


def check(values: pa.Array, type_name: str, missing: tuple[str, ...] = ()) -> Checked:
    """Check text values against a type.

    Parameters
    ----------
    values
        A string array; null where a cell is empty.
    type_name
        A type of the plan.
    missing
        Texts that stand for "no value".

    Returns
    -------
    Checked

    Examples
    --------
    >>> checked = check(pa.array(["7.20", "+1", "n/a", "-999", None]), "number", ("-999",))
    >>> checked.text.to_pylist(), checked.bad.tolist()
    (['7.20', '1', None, None, None], [2])
    """
    if missing:
        gone = pc.is_in(values, texts(missing))
        if pc.any(gone).as_py():
            values = pc.if_else(gone, texts([None])[0], values)
    if type_name == "text":
        return _without_errors(values)
    if is_canonical(values, type_name):
        return Checked(values, _NONE_BAD)
    filled = truths(values.is_valid())
    plain = truths(pc.match_substring_regex(values, PLAIN[type_name]))
    if not is_canonical(values.filter(flags(plain)), type_name):
        plain[:] = False  # some only look right, such as 2024-02-30
    doubtful = np.flatnonzero(filled & ~plain)
    some = values.take(ints(doubtful))
    distinct = some.dictionary_encode()
    mended = texts([canonical(value, type_name) for value in distinct.dictionary.to_pylist()])
    mended = mended.take(distinct.indices)
    blank = truths(pc.equal(pc.utf8_trim_whitespace(some), text("")))
    mask = np.zeros(len(values), bool)
    mask[doubtful] = True
    bad = doubtful[truths(mended.is_null()) & ~blank]
    return Checked(pc.replace_with_mask(values, flags(mask), mended), bad)


def _without_errors(values: pa.Array) -> Checked:
    wrong = errors_in(values)
    if not wrong.any():
        return Checked(values, _NONE_BAD)
    return Checked(pc.if_else(flags(wrong), texts([None])[0], values), np.flatnonzero(wrong))


def typed(values: pa.Array, type_name: str) -> pa.Array:
    """Values in canonical form as an Arrow array of the type.

    Examples
    --------
    >>> typed(pa.array(["7.20", None]), "number").to_pylist()
    [7.2, None]
    """
    return pc.cast(values, ARROW[type_name])


def is_canonical(values: pa.Array, type_name: str) -> bool:
    """Whether all values are of the type and written in its canonical form, found without a loop.

    Examples
    --------
    >>> is_canonical(pa.array(["1", "20"]), "integer"), is_canonical(pa.array(["1", "020"]), "integer")
    (True, False)
    """
    if values.null_count == len(values):
        return True
    if type_name == "boolean":
        return bool(pc.all(pc.is_in(values, _BOOLEANS)).as_py())
    try:
        cast = pc.cast(values, ARROW[type_name])
    except pa.ArrowInvalid:
        return False
    if type_name == "number":
        if not pc.all(pc.is_finite(cast)).as_py():
            return False
        data = _data(values)
        if b"+" in data and b"+" in data.replace(b"e+", b"").replace(b"E+", b""):
            return False
        return _plain_digits(values, whole=False)
    if type_name == "integer":
        return _plain_digits(values, whole=True)
    if type_name == "datetime":
        lengths = pc.min_max(pc.binary_length(values))
        return bool(lengths["min"].as_py() >= 16)
    return True


def _data(values: pa.Array) -> bytes:
    starts = np.frombuffer(values.buffers()[1], np.int32)
    first, last = starts[values.offset], starts[values.offset + len(values)]
    return bytes(memoryview(values.buffers()[2])[first:last])


def _plain_digits(values: pa.Array, whole: bool) -> bool:
    """No leading zeros, no hexadecimal, no bare point at either end."""
    offsets = np.frombuffer(values.buffers()[1], np.int32)[values.offset : values.offset + len(values) + 1]
    data = np.frombuffer(values.buffers()[2], np.uint8)
    starts, ends = offsets[:-1], offsets[1:]
    if values.null_count:
        filled = ends > starts
        starts, ends = starts[filled], ends[filled]
    minus = data[starts] == ord("-")
    if minus.any():
        starts = starts + minus
    first = data[starts]
    second = data[np.minimum(starts + 1, len(data) - 1)]
    zero = (first == ord("0")) & (ends - starts > 1)
    if whole:
        negative_zero = minus & (first == ord("0"))
        return not bool(np.any(zero | negative_zero))
    zero &= (second != ord(".")) & (second != ord("e")) & (second != ord("E"))
    return not bool(np.any(zero | (first == ord(".")) | (data[ends - 1] == ord("."))))
