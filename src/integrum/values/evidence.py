"""What each value of a text column looks like: the evidence from which a type is drafted."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import flags, ints, text, texts, truths
from integrum.values.canonical import PLAIN
from integrum.values.cell_errors import errors_in
from integrum.values.check import is_canonical

KINDS = ("empty", "integer", "number", "boolean", "date", "datetime", "text", "error")
EMPTY, INTEGER, NUMBER, BOOLEAN, DATE, DATETIME, TEXT, ERROR = range(len(KINDS))
_LONG_WHOLE = "^-?[0-9]{19,}$"
_GUESSES = (INTEGER, NUMBER, DATETIME, DATE, BOOLEAN)


def lone_kind(values: pa.Array) -> int | None:
    """The kind that all values with text have, when that can be told at once; else None.

    Examples
    --------
    >>> KINDS[lone_kind(pa.array(["1", None, "3"]))], lone_kind(pa.array(["1", "x"]))
    ('integer', None)
    """
    if values.null_count == len(values):
        return EMPTY
    sample = values.drop_null()[:20]
    for kind in _GUESSES:
        if is_canonical(_read_as(sample, kind), KINDS[kind]):
            whole = is_canonical(_read_as(values, kind), KINDS[kind])
            return kind if whole and not (kind == NUMBER and _has_long_whole(values)) else None
    return None


def kinds(values: pa.Array) -> npt.NDArray[np.int8]:
    """The kind of each value, as an index into `KINDS`.

    Parameters
    ----------
    values
        A string array; null where a cell is empty.

    Returns
    -------
    numpy.ndarray
        int8, one per value. Only canonical forms count as typed: ``007`` is text.

    Examples
    --------
    >>> [KINDS[kind] for kind in kinds(pa.array(["1", "2.5", "007", None, "2024-05-01", "True"]))]
    ['integer', 'number', 'text', 'empty', 'date', 'boolean']
    """
    distinct = values.dictionary_encode()
    if len(distinct.dictionary) < len(values) // 4:
        codes = distinct.indices
        at = np.frombuffer(codes.buffers()[1], np.int32)[codes.offset : codes.offset + len(codes)]
        result: npt.NDArray[np.int8] = (
            _kinds(distinct.dictionary)[at] if len(distinct.dictionary) else np.zeros(len(at), np.int8)
        )
        return np.where(truths(values.is_null()), np.int8(EMPTY), result)
    return _kinds(values)


def _kinds(values: pa.Array) -> npt.NDArray[np.int8]:
    result = np.full(len(values), TEXT, np.int8)
    result[truths(values.is_null())] = EMPTY
    left = np.flatnonzero((result == TEXT) & _may_be_typed(values))
    for kind in _GUESSES:
        if not len(left):
            break
        some = values.take(ints(left))
        lowered = _read_as(some, kind)
        fits = truths(pc.match_substring_regex(lowered, PLAIN[KINDS[kind]]))
        if kind == NUMBER:
            fits &= ~truths(pc.match_substring_regex(some, _LONG_WHOLE))
        if fits.any() and not is_canonical(lowered.filter(flags(fits)), KINDS[kind]):
            fits &= _one_by_one(lowered, fits, KINDS[kind])
        result[left[fits]] = kind
        left = left[~fits]
    rest = np.flatnonzero(result == TEXT)
    if len(rest):
        some = values.take(ints(rest))
        trimmed = pc.utf8_trim_whitespace(some)
        result[rest[truths(pc.equal(trimmed, text("")))]] = EMPTY
        result[rest[errors_in(some)]] = ERROR
        padded = truths(pc.not_equal(trimmed, some)) & (result[rest] == TEXT)
        if padded.any():  # outer spaces do not count
            result[rest[padded]] = _kinds(trimmed.filter(flags(padded)))
    return result


def _may_be_typed(values: pa.Array) -> npt.NDArray[np.bool_]:
    """Whether the first letter of each value can begin anything but a text."""
    data = values.buffers()[2]
    if not len(values) or data is None or not len(data):
        return np.zeros(len(values), bool)
    starts = np.frombuffer(values.buffers()[1], np.int32)[values.offset : values.offset + len(values)]
    first = np.frombuffer(data, np.uint8)[np.minimum(starts, len(data) - 1)]
    return np.isin(first, np.frombuffer(b"0123456789-tTfF", np.uint8))


def _read_as(values: pa.Array, kind: int) -> pa.Array:
    """`True` and `TRUE` are booleans too."""
    return pc.utf8_lower(values) if kind == BOOLEAN else values


def _has_long_whole(values: pa.Array) -> bool:
    """Whether there are whole numbers with more digits than a number can hold exactly."""
    longest = pc.max(pc.binary_length(values)).as_py()
    return longest > 18 and bool(pc.any(pc.match_substring_regex(values, _LONG_WHOLE)).as_py())


def _one_by_one(values: pa.Array, fits: npt.NDArray[np.bool_], type_name: str) -> npt.NDArray[np.bool_]:
    distinct = values.filter(flags(fits)).dictionary_encode()
    good = np.array(
        [is_canonical(texts([value]), type_name) for value in distinct.dictionary.to_pylist()], bool
    )
    result = fits.copy()
    result[fits] = good[distinct.indices.to_numpy()]
    return result


_ALONE = (INTEGER, NUMBER, BOOLEAN, DATE, DATETIME)


def verdict(counts: Mapping[int, int]) -> tuple[str, tuple[int, ...]]:
    """The type that a column is drafted with.

    Parameters
    ----------
    counts
        How many values of each kind, as indexes into `KINDS`; without empty ones.

    Returns
    -------
    tuple
        The type, and the kinds that disagree with the most frequent one, rarest first. Integers among
        numbers and dates among times do not disagree; errors of spreadsheets are named, and do not count.

    Examples
    --------
    >>> verdict({INTEGER: 5, NUMBER: 70}), verdict({NUMBER: 70, TEXT: 2})
    (('number', ()), ('text', (6,)))
    """
    present = {kind: count for kind, count in counts.items() if count}
    errors = (ERROR,) if present.pop(ERROR, 0) else ()
    if set(present) == {INTEGER, NUMBER}:
        return "number", errors
    if set(present) == {DATE, DATETIME}:
        return "datetime", errors
    if len(present) <= 1:
        kind = next(iter(present), TEXT)
        return KINDS[kind] if kind in _ALONE else "text", errors
    main = main_kind(present)
    others = [kind for kind in present if kind != main and not (main == NUMBER and kind == INTEGER)]
    return "text", (*errors, *sorted(others, key=lambda kind: present[kind]))


def main_kind(counts: Mapping[int, int]) -> int:
    """The kind that most values have; integers count as numbers where there are numbers, errors not at all."""
    joined = {kind: count for kind, count in counts.items() if kind != ERROR}
    if not joined:
        return TEXT
    if joined.get(NUMBER):
        joined[NUMBER] += joined.pop(INTEGER, 0)
    return max(joined, key=lambda kind: joined[kind])
