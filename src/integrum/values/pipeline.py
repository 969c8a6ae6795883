"""The one path of a value: from the cell as it is written to the table, the same for rows, identifiers and surveys."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import NOTHING, flags, ints, padded, text, texts, truths
from integrum.values.types import TYPES, Type

_CASES = {"lower": pc.utf8_lower, "upper": pc.utf8_upper, "title": pc.utf8_title}
CASES = ("", *_CASES)
_MARKED = ("number", "integer")
_PARTS, _FEW = 16, 64

Positions = npt.NDArray[np.int64]
_NONE: Positions = np.array([], np.int64)


@dataclass(frozen=True)
class Conversion:
    """What is done to the texts of a column on their way into the table, in this order.

    Attributes
    ----------
    missing
        Texts that stand for "no value": as written, outer spaces aside, or as tidied.
    swap, case, values
        How texts are tidied: parts replaced, letters, whole values replaced.
    decimal_mark, thousands_mark
        How numbers are written.
    type
        What they are read as.
    seen
        Whether a survey has already seen that all of them are canonical.
    """

    type: str = "text"
    missing: tuple[str, ...] = ()
    swap: Mapping[str, str] = field(default_factory=dict)
    case: str = ""
    values: Mapping[str, str] = field(default_factory=dict)
    decimal_mark: str = "."
    thousands_mark: str = ""
    seen: bool = False


@dataclass(frozen=True)
class Converted:
    """A column after its conversion.

    Attributes
    ----------
    text
        The values in canonical form, where they are wanted so; null where empty, missing or bad.
    bad
        Positions of the values that are not of the type.
    whole
        The same as an Arrow array of the type, where the check has made it already.
    """

    text: pa.Array
    bad: Positions = field(default_factory=lambda: _NONE)
    whole: pa.Array | None = None

    def typed(self, type_name: str) -> pa.Array:
        """The values as an Arrow array of the type."""
        return pc.cast(self.text, TYPES[type_name].arrow) if self.whole is None else self.whole


def convert(values: pa.Array, how: Conversion, as_text: bool = True) -> Converted:
    """Bring the texts of a column into the table.

    Parameters
    ----------
    values
        A string array as it stands in the source; null where a cell is empty.
    how
        What is done to them.
    as_text
        Whether the canonical texts are wanted, or only the values.

    Returns
    -------
    Converted

    Examples
    --------
    >>> done = convert(pa.array(["7,20", " -999,0", "+1", "1.5", "n/a", None]),
    ...                Conversion("number", ("-999,0",), decimal_mark=","))
    >>> done.text.to_pylist(), done.bad.tolist()
    (['7.20', None, '1', None, None, None], [3, 4])
    """
    kind = TYPES[how.type]
    if how.seen:
        return Converted(values)
    if how.missing:
        values = _without(values, how.missing)
    if how.swap or how.case or how.values:
        values = tidied(values, how)
        if how.missing:
            values = _without(values, how.missing)
    if how.type in _MARKED and (how.decimal_mark != "." or how.thousands_mark):
        return _checked_marked(values, kind, how)
    return checked(values, kind, as_text)


def tidied(values: pa.Array, how: Conversion) -> pa.Array:
    """Replace parts, set letters, replace whole values; outer spaces go.

    Examples
    --------
    >>> lake = Conversion(swap={"-": " "}, case="title", values={"Amb": "Ambermere"})
    >>> tidied(texts(["quillon-tarn", " amb"]), lake).to_pylist()
    ['Quillon Tarn', 'Ambermere']
    """
    values = pc.utf8_trim_whitespace(values)
    for old, new in how.swap.items():
        values = pc.replace_substring(values, old, new)
    if how.case:
        values = _CASES[how.case](values)
    if how.values:
        distinct = values.dictionary_encode()
        named = [how.values.get(value, value) for value in distinct.dictionary.to_pylist()]
        values = texts(named).take(distinct.indices)
    return values


def _without(values: pa.Array, missing: tuple[str, ...]) -> pa.Array:
    """Empty the cells that say "no value", outer spaces aside."""
    wanted = texts(missing)
    gone = truths(pc.is_in(values, wanted))
    spaced = padded(values)
    if spaced.any():
        trimmed = pc.utf8_trim_whitespace(values.filter(flags(spaced)))
        gone[spaced] |= truths(pc.is_in(trimmed, wanted))
    return pc.if_else(flags(gone), NOTHING, values) if gone.any() else values


def checked(values: pa.Array, kind: Type, as_text: bool = True) -> Converted:
    """Check texts against a type; only what must change is rewritten.

    Examples
    --------
    >>> done = checked(pa.array(["7.20", "+1", "n/a", None]), TYPES["number"])
    >>> done.text.to_pylist(), done.bad.tolist()
    (['7.20', '1', None, None], [2])
    """
    if not as_text and (read := kind.read(values)) is not None:
        return Converted(values, whole=read)
    passed, whole = kind.test(values)
    if passed:
        return Converted(values, whole=whole)
    doubtful = not_canonical(values, kind)
    some = values.take(ints(doubtful))
    distinct = some.dictionary_encode()
    found = [kind.parse(value.strip()) for value in distinct.dictionary.to_pylist()]
    mended = texts(found).take(distinct.indices)
    blank = truths(pc.equal(pc.utf8_trim_whitespace(some), text("")))
    mask = np.zeros(len(values), bool)
    mask[doubtful] = True
    bad = doubtful[truths(mended.is_null()) & ~blank]
    return Converted(pc.replace_with_mask(values, flags(mask), mended), bad)


def not_canonical(values: pa.Array, kind: Type) -> Positions:
    """The positions of the texts that are not in canonical form; most are told apart without a look at each.

    Examples
    --------
    >>> not_canonical(pa.array(["2024-05-01", "2024-02-30", None, "x"]), TYPES["date"]).tolist()
    [1, 3]
    """
    odd = kind.odd(values)
    found = [np.flatnonzero(odd)]
    rest = np.flatnonzero(~odd) if odd.any() else None
    others = values if rest is None else values.take(ints(rest))
    if rest is None or not kind.test(others)[0]:
        hidden = _hidden(others, kind)
        found.append(hidden if rest is None else rest[hidden])
    return np.sort(np.concatenate(found))


def _hidden(values: pa.Array, kind: Type) -> Positions:
    """Positions of the few that only look right, such as 2024-02-30: halved again and again until they are alone."""
    if len(values) <= _FEW:
        said = values.to_pylist()
        return np.array(
            [at for at, value in enumerate(said) if value is not None and kind.parse(value) != value],
            np.int64,
        )
    size = -(-len(values) // _PARTS)
    found = [_NONE]
    for start in range(0, len(values), size):
        part = values.slice(start, size)
        if not kind.test(part)[0]:
            found.append(_hidden(part, kind) + start)
    return np.concatenate(found)


def _checked_marked(values: pa.Array, kind: Type, how: Conversion) -> Converted:
    """Check numbers that are written with other marks; a number with a point where a comma belongs is bad."""
    plain, fits = with_point(values, how.decimal_mark, how.thousands_mark)
    done = checked(pc.if_else(flags(fits), plain, NOTHING), kind)
    stray = ~fits & truths(values.is_valid())
    if stray.any():
        stray &= truths(pc.not_equal(pc.utf8_trim_whitespace(values), text("")))
    return Converted(done.text, np.sort(np.concatenate([done.bad, np.flatnonzero(stray)])), done.whole)


def with_point(
    values: pa.Array, decimal_mark: str, thousands_mark: str
) -> tuple[pa.Array, npt.NDArray[np.bool_]]:
    """Write numbers with a decimal point and without marks between thousands; all else stays as it is.

    Parameters
    ----------
    values
        A string array.
    decimal_mark, thousands_mark
        How its numbers are written; the mark between thousands may be empty, and has groups of three digits.

    Returns
    -------
    tuple
        The texts, and which of them are numbers written so.

    Examples
    --------
    >>> plain, fits = with_point(texts(["1.234,50", "7,2", "12", "1.5", "n/a"]), ",", ".")
    >>> plain.to_pylist(), fits.tolist()
    (['1234.50', '7.2', '12', '1.5', 'n/a'], [True, True, True, False, False])
    """
    point, group = re.escape(decimal_mark), re.escape(thousands_mark)
    whole = f"(?:[0-9]+|[0-9]{{1,3}}(?:{group}[0-9]{{3}})+)" if thousands_mark else "[0-9]+"
    number = rf"(?:{whole}(?:{point}[0-9]*)?|{point}[0-9]+)"
    if padded(values).any():
        values = pc.utf8_trim_whitespace(values)
    fits = truths(pc.match_substring_regex(values, rf"^[+-]?{number}(?:[eE][+-]?[0-9]+)?$"))
    plain = pc.replace_substring(values, thousands_mark, "") if thousands_mark else values
    plain = pc.replace_substring(plain, decimal_mark, ".") if decimal_mark != "." else plain
    return (plain, fits) if fits.all() else (pc.if_else(flags(fits), plain, values), fits)
