"""What the values of a text column look like: the evidence from which a type is drafted."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import flags, ints, padded, text, truths
from integrum.values.cell_errors import errors_in
from integrum.values.pipeline import not_canonical
from integrum.values.types import TYPES
from integrum.values.types.letters import Letters

# tried in this order; the first that fits is what a value looks like
_GUESSES = ("integer", "number", "datetime", "date", "boolean")
KINDS = ("empty", *_GUESSES, "text", "error")
EMPTY, TEXT, ERROR = (KINDS.index(kind) for kind in ("empty", "text", "error"))
INTEGER, NUMBER, DATETIME, DATE, BOOLEAN = range(1, 1 + len(_GUESSES))
# more digits than a number can hold exactly
_LONG_WHOLE, _LONG = "^-?[0-9]{19,}$", 18
_SAMPLE = 20
_FIRST_LETTERS = np.frombuffer(b"0123456789-tTfF", np.uint8)


def lone_kind(values: pa.Array) -> int | None:
    """The kind that all values with text have, when that can be told at once; else None.

    Examples
    --------
    >>> KINDS[lone_kind(pa.array(["1", None, "3"]))], lone_kind(pa.array(["1", "x"]))
    ('integer', None)
    """
    if values.null_count == len(values):
        return EMPTY
    sample = values.slice(0, _SAMPLE)
    if sample.null_count:
        sample = values.drop_null().slice(0, _SAMPLE)
    for name in _GUESSES:
        if TYPES[name].test(_read_as(sample, name))[0]:
            if not TYPES[name].test(_read_as(values, name))[0]:
                return None
            return None if name == "number" and _has_long_whole(values) else KINDS.index(name)
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
    for name in _GUESSES:
        if not len(left):
            break
        some = values.take(ints(left))
        fits = np.ones(len(left), bool)
        fits[not_canonical(_read_as(some, name), TYPES[name])] = False
        if name == "number":
            fits &= ~truths(pc.match_substring_regex(some, _LONG_WHOLE))
        result[left[fits]] = KINDS.index(name)
        left = left[~fits]
    rest = np.flatnonzero(result == TEXT)
    if len(rest):
        some = values.take(ints(rest))
        result[rest[errors_in(some)]] = ERROR
        maybe = np.flatnonzero((padded(some) | truths(pc.equal(some, text("")))) & (result[rest] == TEXT))
        trimmed = pc.utf8_trim_whitespace(some.take(ints(maybe)))
        result[rest[maybe[truths(pc.equal(trimmed, text("")))]]] = EMPTY
        changed = truths(pc.not_equal(trimmed, some.take(ints(maybe)))) & (result[rest[maybe]] == TEXT)
        if changed.any():  # outer spaces do not count
            result[rest[maybe[changed]]] = _kinds(trimmed.filter(flags(changed)))
    return result


def _may_be_typed(values: pa.Array) -> npt.NDArray[np.bool_]:
    """Whether the first letter of each value can begin anything but a text."""
    letters = Letters.of(values)
    if not len(letters.data):
        return np.zeros(len(values), bool)
    return np.isin(letters.first(letters.starts), _FIRST_LETTERS)


def _read_as(values: pa.Array, name: str) -> pa.Array:
    """`True` and `TRUE` are booleans too."""
    return pc.utf8_lower(values) if name == "boolean" else values


def _has_long_whole(values: pa.Array) -> bool:
    longest = pc.max(pc.binary_length(values)).as_py()
    return longest > _LONG and bool(pc.any(pc.match_substring_regex(values, _LONG_WHOLE)).as_py())


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
        return KINDS[kind], errors
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
