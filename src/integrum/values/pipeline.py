"""The one path of a value: from the cell as it is written to the table, the same for rows, identifiers and surveys."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import partial

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.values.arrays import (
    NOTHING,
    Ints,
    Mask,
    each_once,
    emptied,
    flags,
    floats,
    ints,
    padded,
    texts,
    truths,
    wholes,
)
from integrum.values.checking import NO_PLACES, Converted, checked, checked_written, read_by
from integrum.values.digits import Letters
from integrum.values.notation import AS_WRITTEN, ORDER_WORDS, ORDERS, Conversion, Notation
from integrum.values.shapes import by_shape, rewritten
from integrum.values.spelling import spelled
from integrum.values.types import TYPES, Type
from integrum.values.types.text import TEXT
from integrum.values.units import Linear
from integrum.values.written.absent import flag_words
from integrum.values.written.formats import NUMBERED
from integrum.values.written.numbers import sign_parts, signs_in
from integrum.values.zones import in_zone, numbered, offsets_of

# no number and no date has more letters; and this many letters are usual
_LONGEST, _USUAL = 10_000, 100
# letters of numbers without any sign
_PLAIN = b"0123456789+-eE "
_CASES = {"lower": pc.utf8_lower, "upper": pc.utf8_upper, "title": pc.utf8_title}
CASES = ("", *_CASES)
# what of a cell goes to a column: its value, or what stands beside the value
SIGN, OFFSET = "sign", "offset"


def convert(values: pa.Array, how: Conversion, as_text: bool = True) -> Converted:
    """Convert the texts of a column for the table.

    Parameters
    ----------
    values
        A string array as it stands in the source; null where a cell is empty.
    as_text
        Whether the canonical texts are wanted, or only the values.

    Examples
    --------
    >>> done = convert(pa.array(["7,20", " -999,0", "+1", "1.5", "n/a", None]),
    ...                Conversion("number", ("-999,0",), notation=Notation(decimal_mark=",")))
    >>> done.text.to_pylist(), done.bad.tolist()
    (['7.20', None, '1', None, None, None], [3, 4])
    """
    if how.seen:
        return Converted(values)
    met: dict[str, list[Ints]] = {}
    if how.missing:
        values = _without(values, how.missing, met)
    own = read_by(values, how.own) if how.own else None
    values = values if own is None else own.text
    if how.swap or how.case or how.values:
        values = tidied(values, how)
        if how.missing:
            values = _without(values, how.missing, met)
    long = _overlong(values) if TYPES[how.type] is not TEXT else None
    if long is not None:
        values = emptied(values, long)
    if how.take:
        return Converted(_beside(values, how))
    changed = how.linear is not None or bool(how.spelling or how.allowed)
    done = _read(values, how, as_text and not how.linear)
    signs = done.signs
    others = _other_orders(values, how, done.bad) if len(done.bad) and how.notation.date_order else {}
    if how.linear is not None:
        done = _rescaled(done, how.linear, TYPES[how.type])
    if how.spelling:
        done = spelled(done, how.spelling)
    if how.allowed:
        done = _only(done, how.allowed)
    if changed and not as_text:
        done = replace(done, whole=None)
    if long is not None:
        done = replace(done, bad=each_once(np.concatenate([done.bad, np.flatnonzero(long)])).astype(np.int64))
    if own is not None and len(own.bad):
        done = replace(
            done, bad=each_once(np.concatenate([done.bad, own.bad])), said={**done.said, **own.said}
        )
    if how.contrary and len(done.bad):
        done = replace(done, said={**dict.fromkeys(done.bad.tolist(), _contrary(how.contrary)), **done.said})
    if not (met or signs or others):
        return done
    codes = {code: np.concatenate(at) for code, at in met.items()}
    return replace(done, missing=codes, signs=signs, other_orders=others)


# columns of this few rows are converted together, up to this many values at once
_FEW_ROWS, _TOGETHER = 4_000, 1 << 18


def convert_together(columns: Sequence[pa.Array], how: Conversion, as_text: bool = True) -> list[Converted]:
    """Convert several columns in the same way; short ones at once.

    Examples
    --------
    >>> [one.text.to_pylist() for one in convert_together([texts(["+1", "2"]), texts(["x"])], Conversion("number"))]
    [['1', '2'], [None]]
    """
    done: list[Converted | None] = [None] * len(columns)
    some: list[int] = []
    held = 0
    for at, column in enumerate(columns):
        if len(column) > _FEW_ROWS or how.own is not None:
            done[at] = convert(column, how, as_text)
            continue
        if held + len(column) > _TOGETHER:
            _convert_as_one(columns, some, how, as_text, done)
            some, held = [], 0
        some.append(at)
        held += len(column)
    _convert_as_one(columns, some, how, as_text, done)
    return [one for one in done if one is not None]


def _convert_as_one(
    columns: Sequence[pa.Array],
    some: Sequence[int],
    how: Conversion,
    as_text: bool,
    done: list[Converted | None],
) -> None:
    if len(some) < 2:
        for at in some:
            done[at] = convert(columns[at], how, as_text)
        return
    made = convert(pa.concat_arrays([columns[at] for at in some]), how, as_text)
    ends = np.cumsum([len(columns[at]) for at in some])
    cut = _Cut(ends)
    bad, missing, signs, orders = (
        cut.places(made.bad),
        cut.of_texts(made.missing),
        cut.of_texts(made.signs),
        cut.of_texts(made.other_orders),
    )
    said = cut.said(made.said)
    start = 0
    for number, (at, end) in enumerate(zip(some, ends.tolist(), strict=True)):
        whole = None if made.whole is None else made.whole.slice(start, end - start)
        done[at] = Converted(
            made.text.slice(start, end - start),
            bad.get(number, NO_PLACES),
            whole,
            said.get(number, {}),
            missing.get(number, {}),
            signs.get(number, {}),
            orders.get(number, {}),
        )
        start = end


class _Cut:
    """Splits what was found in several columns at once, by column."""

    def __init__(self, ends: Ints) -> None:
        self._ends, self._starts = ends, np.concatenate([[0], ends[:-1]])

    def places(self, at: Ints) -> dict[int, Ints]:
        if not len(at):
            return {}
        which = np.searchsorted(self._ends, at, side="right")
        firsts = np.flatnonzero(np.diff(which, prepend=-1))
        parts = np.split(at - self._starts[which], firsts[1:])
        return dict(zip(which[firsts].tolist(), parts, strict=True))

    def of_texts(self, found: Mapping[str, Ints]) -> dict[int, dict[str, Ints]]:
        made: dict[int, dict[str, Ints]] = {}
        for text_, at in found.items():
            for number, places in self.places(np.sort(at)).items():
                made.setdefault(number, {})[text_] = places
        return made

    def said(self, found: Mapping[int, str]) -> dict[int, dict[int, str]]:
        made: dict[int, dict[int, str]] = {}
        for place, what in found.items():
            number = int(np.searchsorted(self._ends, place, side="right"))
            made.setdefault(number, {})[place - int(self._starts[number])] = what
        return made


def _other_orders(values: pa.Array, how: Conversion, bad: Ints) -> dict[str, Ints]:
    """Dates that cannot be read in the order of the plan, by the order in which they can be read."""
    kind, found = TYPES[how.type], {}
    some = values.take(ints(bad))
    for order in ORDERS if kind.rule and kind.has_day and not how.notation.format else ():
        notation = replace(how.notation, date_order=order)
        if order != how.notation.date_order and kind.rule:
            fits = truths(checked_written(some, kind, partial(kind.rule, notation=notation)).text.is_valid())
            if fits.any():
                found[order] = bad[fits]
    return found


def _contrary(order: str) -> str:
    return (
        f"the dates of this source can only be {ORDER_WORDS[order]}, and the plan says another order; none of them is read"
        f'\nset date_order_in = {{ {order} = ["{{source}}"] }} for the column'
    )


def _overlong(values: pa.Array) -> Mask | None:
    """Mask of texts that are too long for any type but text; None where there are none."""
    if values.nbytes < _LONGEST + _USUAL * len(values):
        return None
    long: Mask = wholes(pc.binary_length(values).fill_null(0)) > _LONGEST
    return long if long.any() else None


def _read(values: pa.Array, how: Conversion, as_text: bool) -> Converted:
    """Read texts by their type, in any notation."""
    kind, notation = TYPES[how.type], how.notation
    if kind.has_day:
        form = next((each for each in notation.format if each in NUMBERED), "")
        if form:
            return _with_dates(values, how, numbered(values, form, kind.has_clock))
        if how.zone and how.zone != AS_WRITTEN:
            return in_zone(values, how.zone, notation)
    if kind.rule is None:
        return checked(values, kind, as_text)
    rule = partial(kind.rule, notation=notation)
    if kind.is_number:
        return _with_signs(values, notation, _read_numbers(values, kind, notation, as_text))
    if notation.format or (notation.date_order and not kind.test(values)[0]):
        return checked_written(values, kind, rule)
    return checked(values, kind, as_text, rule)


def _with_dates(values: pa.Array, how: Conversion, done: Converted) -> Converted:
    """Read numbers as dates; dates that are written as such stay."""
    if not len(done.bad):
        return done
    at = ints(done.bad)
    forms = tuple(each for each in how.notation.format if each not in NUMBERED)
    plain = replace(how, notation=replace(how.notation, format=forms))
    rest = _read(values.take(at), plain, True)
    if len(rest.bad) == len(done.bad):
        return done
    mask = np.zeros(len(values), bool)
    mask[done.bad] = True
    return Converted(pc.replace_with_mask(done.text, flags(mask), rest.text), done.bad[rest.bad], None)


def _read_numbers(values: pa.Array, kind: Type, notation: Notation, as_text: bool) -> Converted:
    assert kind.rule
    rule = partial(kind.rule, notation=notation)
    if notation.censored:
        values = _without_words(values)
    if notation.percent == "share":
        return _shares(
            checked(values, kind, rule=rule)
            if notation.decimal_mark == "."
            else checked_written(values, kind, rule)
        )
    if notation.decimal_mark != ".":
        return checked_written(values, kind, rule)
    return checked(values, kind, as_text, rule)


def _with_signs(values: pa.Array, notation: Notation, done: Converted) -> Converted:
    """Note where signs were read that no plan names, such as currencies and commas between thousands."""
    if done.text is values or not Letters.of(values).others(_PLAIN + notation.decimal_mark.encode()):
        return done
    found: dict[str, list[Ints]] = {}
    there = truths(done.text.is_valid())
    for shape, at in by_shape(values):
        if signs := signs_in(shape, notation):
            for sign in signs if there[at].any() else ():
                found.setdefault(sign, []).append(at[there[at]])
    return replace(done, signs={sign: np.concatenate(at) for sign, at in found.items()}) if found else done


def _beside(values: pa.Array, how: Conversion) -> pa.Array:
    """What stands beside the values: signs of censored numbers, or offsets of times."""
    if how.take == OFFSET:
        return offsets_of(values, how.notation)
    at = _not_begun_by_digits(values)
    some = values.take(ints(at))
    signs, _ = rewritten(some, partial(sign_parts, notation=how.notation))
    trimmed = pc.utf8_trim_whitespace(some)
    found = pc.coalesce(signs, pc.if_else(flags(flag_words(trimmed)), trimmed, NOTHING))
    return _scattered(len(values), at, found)


def _not_begun_by_digits(values: pa.Array) -> Ints:
    """The positions of texts that do not begin with a digit."""
    plain = Letters.of(values).begun_by(b"0123456789")
    return np.flatnonzero(~plain & truths(values.is_valid()))


def _scattered(count: int, at: Ints, found: pa.Array) -> pa.Array:
    """A column with these texts at these positions, and null elsewhere."""
    places = np.full(count, len(found))
    places[at] = np.arange(len(found))
    return pa.concat_arrays([found, texts([None])]).take(ints(places))


def _without_words(values: pa.Array) -> pa.Array:
    """Empty words that stand for a number below the limit of measurement; they go to the column of signs."""
    at = _not_begun_by_digits(values)
    words = np.zeros(len(values), bool)
    words[at] = flag_words(pc.utf8_trim_whitespace(values.take(ints(at))))
    return emptied(values, words) if words.any() else values


def _shares(done: Converted) -> Converted:
    """Convert percents to shares."""
    raised = truths(pc.match_substring(done.text, "e-2"))
    if not raised.any():
        return done
    written = pc.cast(pc.cast(done.text.filter(flags(raised)), pa.float64()), pa.string())
    return Converted(pc.replace_with_mask(done.text, flags(raised), written), done.bad)


def _rescaled(done: Converted, linear: Linear, kind: Type) -> Converted:
    """Convert numbers to the unit of their column."""
    numbers = done.whole if done.whole is not None else done.text
    if not pa.types.is_floating(numbers.type):
        numbers = pc.cast(done.text, pa.float64())
    values = linear.of(floats(numbers.fill_null(0.0)))
    array = pa.Array.from_buffers(pa.float64(), len(values), [None, pa.py_buffer(values)])
    made = pc.if_else(numbers.is_valid(), pc.cast(array, pa.string()), NOTHING)
    again = checked(made, kind)  # a whole number may have become a part of one
    return Converted(again.text, each_once(np.concatenate([done.bad, again.bad])).astype(np.int64))


def _only(done: Converted, allowed: tuple[str, ...]) -> Converted:
    stray = truths(done.text.is_valid()) & ~truths(pc.is_in(done.text, texts(allowed)))
    if not stray.any():
        return done
    said = {**done.said, **dict.fromkeys(np.flatnonzero(stray).tolist(), NOT_ALLOWED)}
    bad = each_once(np.concatenate([done.bad, np.flatnonzero(stray)])).astype(np.int64)
    return Converted(emptied(done.text, stray), bad, None, said)


NOT_ALLOWED = "not one of the allowed values"


def tidied(values: pa.Array, how: Conversion) -> pa.Array:
    """Trim spaces, replace parts, set letters, replace whole values.

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


def _without(values: pa.Array, missing: tuple[str, ...], met: dict[str, list[Ints]]) -> pa.Array:
    """Empty the cells that say "no value", outer spaces aside, and note where each code was."""
    wanted = texts(missing)
    gone = truths(pc.is_in(values, wanted))
    spaced = padded(values)
    if spaced.any():
        trimmed = pc.utf8_trim_whitespace(values.filter(flags(spaced)))
        gone[spaced] |= truths(pc.is_in(trimmed, wanted))
    if not gone.any():
        return values
    at = np.flatnonzero(gone)
    codes = pc.utf8_trim_whitespace(values.filter(flags(gone))).dictionary_encode()
    which = wholes(codes.indices)
    for number, code in enumerate(codes.dictionary.to_pylist()):
        met.setdefault(code, []).append(at[which == number])
    return emptied(values, gone)
