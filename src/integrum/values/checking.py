"""Check texts against a type: what is canonical passes through, what can be read is rewritten, the rest is bad."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.values.arrays import Ints, each_once, emptied, flags, ints, text, texts, truths
from integrum.values.notation import Own
from integrum.values.shapes import Rule, rewritten
from integrum.values.types.type import Type

NO_PLACES: Ints = np.array([], np.int64)
_PARTS, _FEW = 16, 64
_WIDE = {chr(0xFF10 + digit): str(digit) for digit in range(10)} | {"．": ".", "，": ","}


@dataclass(frozen=True)
class Converted:
    """The result of the conversion of a column."""

    text: pa.Array  # the values in canonical form, where they are wanted so; null where empty, missing or bad
    bad: Ints = field(default_factory=lambda: NO_PLACES)  # ints of the values that are not of the type
    # the same as an Arrow array of the type, where the check has made it already
    whole: pa.Array | None = None
    # by position what is to be said of a bad value, where it is more than that it is not of the type
    said: Mapping[int, str] = field(default_factory=dict)
    missing: Mapping[str, Ints] = field(default_factory=dict)  # where each missing code was met
    # by sign: where it stands in a number that is read though no plan says that the sign may be there
    signs: Mapping[str, Ints] = field(default_factory=dict)
    # by order of day and month: dates that are bad, and could be read in that order
    other_orders: Mapping[str, Ints] = field(default_factory=dict)

    def typed(self, kind: Type, zone: str = "") -> pa.Array:
        """The values as an Arrow array of the type."""
        if self.whole is not None:
            return self.whole
        return pc.cast(self.text, pa.timestamp("us", zone)) if zone else kind.cast(self.text)


def checked(values: pa.Array, kind: Type, as_text: bool = True, rule: Rule | None = None) -> Converted:
    """Check texts against a type. Canonical ones pass through, others are rewritten or bad.

    `as_text`: whether the canonical texts are wanted, or only the values.

    Examples
    --------
    >>> from integrum.values.types import TYPES
    >>> done = checked(pa.array(["7.20", "+1", "n/a", None]), TYPES["number"])
    >>> done.text.to_pylist(), done.bad.tolist()
    (['7.20', '1', None, None], [2])
    """
    if not as_text and (read := kind.read(values)) is not None:
        return Converted(values, whole=read)
    passed, whole = kind.test(values)
    if passed:
        return Converted(values, whole=whole)
    doubtful, whole = _told_apart(values, kind)
    some = values.take(ints(doubtful))
    mended = _mended(some, kind, rule)
    blank = truths(pc.equal(pc.utf8_trim_whitespace(some), text("")))
    bad = doubtful[truths(mended.is_null()) & ~blank]
    if len(doubtful) == len(values):
        return Converted(mended, bad)
    mask = np.zeros(len(values), bool)
    mask[doubtful] = True
    if whole is not None and not pa.types.is_string(whole.type):
        at = np.arange(len(values))
        at[doubtful] = len(values) + np.arange(len(doubtful))
        whole = pa.concat_arrays([whole, kind.cast(mended)]).take(ints(at))
    else:
        whole = None
    return Converted(pc.replace_with_mask(values, flags(mask), mended), bad, whole)


def checked_written(values: pa.Array, kind: Type, rule: Rule) -> Converted:
    """Check texts that may be canonical and mean something else here, such as numbers with a decimal comma.

    Examples
    --------
    >>> from integrum.values.types import TYPES
    >>> from integrum.values.notation import Notation
    >>> from integrum.values.written.numbers import number_parts
    >>> comma = Notation(decimal_mark=",")
    >>> done = checked_written(pa.array(["7,20", "1.5", "3"]), TYPES["number"], lambda shape: number_parts(shape, comma))
    >>> done.text.to_pylist(), done.bad.tolist()
    (['7.20', None, '3'], [1])
    """
    plain, fits = rewritten(values, rule)
    done = checked(plain, kind)
    stray = ~fits & truths(values.is_valid())
    if stray.any():
        stray &= truths(pc.not_equal(pc.utf8_trim_whitespace(values), text("")))
    if not stray.any():
        return done
    return Converted(done.text, np.sort(np.concatenate([done.bad, np.flatnonzero(stray)])), done.whole)


def _mended(some: pa.Array, kind: Type, rule: Rule | None) -> pa.Array:
    """Rewrite texts that are not canonical; null for texts that are not of the type."""
    made = None
    if rule is not None:
        plain, fits = rewritten(in_ascii(some), rule)
        if fits.any():
            made = checked(plain, kind).text
            if fits.all():
                return made
            some = pc.if_else(flags(fits), texts([None])[0], some)
    distinct = some.dictionary_encode()
    found = [kind.parse(value.strip()) for value in distinct.dictionary.to_pylist()]
    parsed = texts(found).take(distinct.indices)
    return parsed if made is None else pc.coalesce(made, parsed)


def in_ascii(values: pa.Array) -> pa.Array:
    """Replace full-width digits, which some devices write, by plain ones.

    Examples
    --------
    >>> in_ascii(pa.array(["７．２", "7.2"])).to_pylist()
    ['7.2', '7.2']
    """
    data = values.buffers()[2]
    if data is None or b"\xef\xbc" not in memoryview(data).tobytes():
        return values
    for wide, plain in _WIDE.items():
        values = pc.replace_substring(values, wide, plain)
    return values


def not_canonical(values: pa.Array, kind: Type) -> Ints:
    """The positions of texts that are not canonical.

    Examples
    --------
    >>> from integrum.values.types import TYPES
    >>> not_canonical(pa.array(["2024-05-01", "2024-02-30", None, "x"]), TYPES["date"]).tolist()
    [1, 3]
    """
    return _told_apart(values, kind)[0]


def _told_apart(values: pa.Array, kind: Type) -> tuple[Ints, pa.Array | None]:
    """The positions of texts that are not canonical, and the rest cast to the type, where that was done."""
    odd = kind.odd(values)
    others = emptied(values, odd) if odd.any() else values
    if odd.any():
        passed, whole = kind.test(others)
        if passed:
            return np.flatnonzero(odd), whole
    hidden = _hidden(others, kind)
    return each_once(np.concatenate([np.flatnonzero(odd), hidden])).astype(np.int64), None


def _hidden(values: pa.Array, kind: Type) -> Ints:
    """The positions of the few texts that only look canonical, such as 2024-02-30, found by bisection."""
    if len(values) <= _FEW:
        said = values.to_pylist()
        return np.array(
            [at for at, value in enumerate(said) if value is not None and kind.parse(value) != value],
            np.int64,
        )
    if kind.pattern:
        odd = ~truths(pc.match_substring_regex(values, kind.pattern)) & truths(values.is_valid())
        if odd.any():
            rest = np.flatnonzero(~odd)
            others = values.take(ints(rest))
            hidden = NO_PLACES if kind.test(others)[0] else rest[_halved(others, kind)]
            return np.concatenate([np.flatnonzero(odd), hidden])
    return _halved(values, kind)


def _halved(values: pa.Array, kind: Type) -> Ints:
    size = -(-len(values) // _PARTS)
    found = [NO_PLACES]
    for start in range(0, len(values), size):
        part = values.slice(start, size)
        if not kind.test(part)[0]:
            found.append(_hidden(part, kind) + start)
    return np.concatenate(found)


def read_by(values: pa.Array, own: Own) -> Converted:
    """Read texts by a function of the analyst.

    `own`: the function. None means that there is no value; an exception makes the value a bad one, with its message.

    Examples
    --------
    >>> done = read_by(pa.array(["3 feet", "deep", None]), lambda text: str(int(text.split()[0]) * 12))
    >>> done.text.to_pylist(), done.bad.tolist(), done.said
    (['36', None, None], [1], {1: "ValueError: invalid literal for int() with base 10: 'deep'"})
    """
    distinct = values.dictionary_encode()
    made: list[str | None] = []
    said: dict[int, str] = {}
    for at, value in enumerate(distinct.dictionary.to_pylist()):
        try:
            result = own(value)
            if result is not None and not isinstance(result, str):
                raise TypeError(f"the function returned {result!r}, which is not a text")
        except Exception as error:
            result, said[at] = None, f"{type(error).__name__}: {error}"
        made.append(result)
    done = texts(made).take(distinct.indices)
    if not said:
        return Converted(done)
    places = {place: said[code] for place, code in enumerate(distinct.indices.to_pylist()) if code in said}
    return Converted(done, np.fromiter(places, np.int64, len(places)), None, places)
