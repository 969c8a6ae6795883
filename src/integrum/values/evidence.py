"""What the values of a text column look like: the evidence from which a type is drafted."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache, partial

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from integrum.values.arrays import Ints, Mask, each_once, flags, ints, padded, text, truths, wholes
from integrum.values.cells import errors_in
from integrum.values.checking import checked_written, in_ascii, not_canonical
from integrum.values.digits import Letters
from integrum.values.notation import Notation
from integrum.values.shapes import by_shape, rewritten
from integrum.values.types import TYPES, Type
from integrum.values.types.boolean import FALSE, TRUE
from integrum.values.units import is_unit
from integrum.values.written.absent import CLEAR, is_flag
from integrum.values.written.numbers import CURRENCIES, number_parts, unit_in
from integrum.values.written.times import date_parts, moment_parts, offset_parts

# tried in this order; the first that fits is what a value looks like
TRIED = sorted((one for one in TYPES.values() if one.tried), key=lambda one: one.tried)
# besides canonical forms: such as people write them, and digits that are no number
KINDS = (
    "empty",
    *(one.name for one in TRIED),
    "text",
    "error",
    *(f"written {one.name}" for one in TRIED if not one.also_canonical),
    "censored",
    "code",
)
_AT = {name: at for at, name in enumerate(KINDS)}
EMPTY, TEXT, ERROR = _AT["empty"], _AT["text"], _AT["error"]
INTEGER, NUMBER, BOOLEAN = _AT["integer"], _AT["number"], _AT["boolean"]
DATE, DATETIME, TIME = _AT["date"], _AT["datetime"], _AT["time"]
WRITTEN_NUMBER, WRITTEN_BOOLEAN = _AT["written number"], _AT["written boolean"]
WRITTEN_DATE, WRITTEN_DATETIME, WRITTEN_TIME = (
    _AT["written date"],
    _AT["written datetime"],
    _AT["written time"],
)
CENSORED, CODE = _AT["censored"], _AT["code"]
# the marks that a written number may have, each as a letter: a point; the same with commas between thousands; a comma; the
# same with points between thousands
MARKS = {"p": (".", ""), "t": (".", ","), "c": (",", ""), "d": (",", ".")}
_SAMPLE = 20
_FIRST_LETTERS = np.frombuffer(bytes(sorted({*b"".join(one.begins for one in TRIED)})), np.uint8)
# values of more shapes than this are texts; and this many different texts of a column are told apart
_MOST_SHAPES, _MOST_TEXTS = 2_000, 64
# longer ones are not
_LONGEST_TOLD = 60
# without a mark, or with this many between thousands that none is a decimal mark
_WHOLE_NUMBER = r"^[^.,]*$|^[^.,]*[0-9]{1,3}(?:(?:,[0-9]{3}){2,}|(?:[.][0-9]{3}){2,})[^.,]*$"
_CODE = r"^\s*(?:0[0-9]+|[0-9]{19,}|\+[0-9 ]{7,}|\(?0[0-9]+\)?[-/ ][0-9][0-9 /-]*|[0-9]{1,2}[+-])\s*$"


def lone_kind(values: pa.Array) -> tuple[int | None, pa.Array | None]:
    """The kind of all values, if one test shows it, with the values cast; else None.

    Examples
    --------
    >>> KINDS[lone_kind(pa.array(["1", None, "3"]))[0]], lone_kind(pa.array(["1", "x"]))
    ('integer', (None, None))
    """
    if values.null_count == len(values):
        return EMPTY, None
    sample = values.slice(0, _SAMPLE)
    if sample.null_count:
        sample = values.drop_null().slice(0, _SAMPLE)
    for kind in TRIED:
        if kind.test(_read_as(sample, kind))[0]:
            passed, whole = kind.test(_read_as(values, kind))
            if not passed or (kind.unlikely and kind.unlikely(values).any()):
                return None, None
            return _AT[kind.name], whole
    return None, None


def kinds_of_group(group: str) -> frozenset[int]:
    """The kinds of all types of a group; their values are decided about together.

    Examples
    --------
    >>> sorted(KINDS[kind] for kind in kinds_of_group("number"))
    ['censored', 'integer', 'number', 'written number']
    """
    names = [one.name for one in TRIED if one.group == group]
    found = {_AT[name] for each in names for name in (each, f"written {each}") if name in _AT}
    return frozenset(found | {CENSORED} if TYPES[group].is_number else found)


def type_of_kind(kind: int) -> Type | None:
    """The type of the values of a kind; None of those that have none.

    Examples
    --------
    >>> type_of_kind(WRITTEN_DATE).name, type_of_kind(CODE).name, type_of_kind(ERROR)
    ('date', 'text', None)
    """
    return _TYPE_OF[kind]


_CALLED = {"censored": "number", "code": "text"}
_TYPE_OF = [TYPES.get(_CALLED.get(name, name)) for name in (kind.removeprefix("written ") for kind in KINDS)]


def kinds(values: pa.Array) -> npt.NDArray[np.int8]:
    """The kind of each value, as an index into `KINDS`; of canonical forms only, all else is text.

    In t8, one per value. Only canonical forms count as typed: ``007`` is text.

    `values`: A string array; null where a cell is empty.

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


def looks(
    values: pa.Array, marks: tuple[str, str] = (".", "")
) -> tuple[npt.NDArray[np.int8], npt.NDArray[np.int32], list[str], pa.Array]:
    """The kind of each value in any notation, and a detail of it.

    Returns the kinds; for each value an index into the list that follows; and a list of details: of a text the text
    itself, of dates the orders of day and month that they can have, of numbers the marks, as letters of `MARKS` with
    a ``w`` for whole ones, and their unit. Last the values, numbers with a decimal point.

    Parameters
    ----------
    values
        A string array; null where a cell is empty.
    marks
        The decimal mark and the mark between thousands in their source.

    Examples
    --------
    >>> kinds_of, at, details, _ = looks(pa.array(["7.5", "n/a", "01/05/2024", "13/05/2024", "1,234", "<0.05", "007"]))
    >>> [(KINDS[kind], details[place]) for kind, place in zip(kinds_of, at)]
    [('number', ''), ('text', 'n/a'), ('written date', 'dmy mdy'), ('written date', 'dmy'), ('written number', 'tcd'),
     ('censored', 'pt'), ('code', '007')]
    """
    fits = None
    if marks != (".", ""):
        values, fits = _with_point(values, marks)
    distinct = values.dictionary_encode()
    if fits is not None or len(distinct.dictionary) >= len(values) // 4:
        kind_of, about = _looks(values, fits, np.ones(len(values), np.int64), letter_of(*marks))
        return kind_of, about.codes, about.texts, _with_plain(values, about)
    at = wholes(distinct.indices)
    counts = np.bincount(at[at >= 0], minlength=len(distinct.dictionary))
    kind_of, about = _looks(distinct.dictionary, None, counts, letter_of(*marks))
    values = _with_plain(distinct.dictionary, about).take(distinct.indices)
    if not distinct.null_count:
        return kind_of[at], about.codes[at], about.texts, values
    # an empty cell has the last place
    kind_of, codes = np.append(kind_of, np.int8(EMPTY)), np.append(about.codes, np.int32(0))
    return kind_of[at], codes[at], about.texts, values


@dataclass(frozen=True)
class Looks:
    """What the values of several columns look like, one column after the other."""

    kinds: npt.NDArray[np.int8]  # of each value, an index into `KINDS`
    plain_kinds: npt.NDArray[np.int8]  # the same of canonical forms only
    # for each value an index into the details, and how they are ordered in their column
    details: Ints
    order: Ints
    texts: list[str]  # the details
    values: pa.Array  # numbers with a decimal point
    padded: Mask  # which values have outer spaces


def looks_together(values: pa.Array, column: Ints, marks: tuple[str, str] = (".", "")) -> Looks:
    """The same as `looks` for several short columns at once. Not for columns where `is_unlikely` is true.

    `column`: the number of the column of each value, from 0, in order.

    Examples
    --------
    >>> seen = looks_together(pa.array(["7", "n/a", None, "01/05/2024"]), np.array([0, 0, 1, 1]))
    >>> [(KINDS[kind], seen.texts[at]) for kind, at in zip(seen.kinds, seen.details)]
    [('integer', ''), ('text', 'n/a'), ('empty', ''), ('written date', 'dmy mdy')]
    """
    fits = None
    if marks != (".", ""):
        values, fits = _with_point(values, marks)
    distinct = values.dictionary_encode()
    at = wholes(distinct.indices)
    different = distinct.dictionary
    if fits is not None and not fits.all():  # the same text may fit in one place, and not in another
        at, different = np.arange(len(values)), values
    kind_of = _kinds(different, of_one_column=False)
    about = _Details(np.ones(len(different), np.int64), letter_of(*marks))
    if fits is not None and len(different) == len(values):
        kind_of[~fits & (kind_of == NUMBER)] = TEXT
    plain, rest = kind_of.copy(), np.flatnonzero(kind_of == TEXT)
    if len(rest):
        _look_closely(different, rest, kind_of, about, len(rest))
    trimmed = pc.utf8_trim_whitespace(different)
    spaced = truths(pc.not_equal(different, trimmed))
    # an empty cell has the last place
    kind_of, plain = np.append(kind_of, np.int8(EMPTY))[at], np.append(plain, np.int8(EMPTY))[at]
    spaced = np.append(spaced, False)[at]
    about.codes = np.append(about.codes, np.int32(0))[at]
    about.counts, order = np.ones(len(values), np.int64), about.codes.astype(np.int64)
    left = np.flatnonzero((kind_of == TEXT) | (kind_of == ERROR) | (kind_of == CODE))
    if len(left):
        some = trimmed.take(ints(at[left]))
        order[left] = len(about.texts) + _say_texts(some, left, kind_of, about, column[left])
    made = _with_plain(different, about).take(distinct.indices if different is not values else ints(at))
    return Looks(kind_of, plain, about.codes.astype(np.int64), order, about.texts, made, spaced)


def is_unlikely(values: pa.Array, plain_kinds: npt.NDArray[np.int8]) -> bool:
    """Whether some values of a column are codes only beside the others, so that `looks` has to see the column alone.

    `plain_kinds`: those that `looks_together` has found.

    Examples
    --------
    >>> versions = pa.array(["1.8", "1.9", "1.10"])
    >>> is_unlikely(versions, kinds(pa.array(["1.8", "1.9", "1.7"])))
    True
    """
    there = set(each_once(plain_kinds).tolist())
    for kind in TRIED:
        if kind.unlikely and _AT[kind.name] in there:
            if kind.unlikely(values).any():
                return True
            left = (plain_kinds >= _AT[kind.name]) | (plain_kinds == TEXT)
            if not left.all() and kind.unlikely(values.filter(flags(left))).any():
                return True
    return False


def _looks(
    values: pa.Array, fits: Mask | None, counts: Ints, letter: str
) -> tuple[npt.NDArray[np.int8], _Details]:
    kind_of = _kinds(values)
    about = _Details(counts, letter)
    if fits is not None:
        kind_of[~fits & (kind_of == NUMBER)] = TEXT  # a point where a comma belongs
    rest = np.flatnonzero(kind_of == TEXT)
    if len(rest):
        _look_closely(values, rest, kind_of, about)
    texts_left = np.flatnonzero((kind_of == TEXT) | (kind_of == ERROR) | (kind_of == CODE))
    if len(texts_left) and not about.too_many:
        some = pc.utf8_trim_whitespace(values.take(ints(texts_left)))
        _say_texts(some, texts_left, kind_of, about, np.zeros(len(texts_left), np.int64))
    return kind_of, about


def _with_plain(values: pa.Array, about: _Details) -> pa.Array:
    """Replace values that were read as numbers by plain numbers."""
    for at, plain in about.plain:
        mask = np.zeros(len(values), bool)
        mask[at] = True
        values = pc.replace_with_mask(values, flags(mask), plain)
    return values


def letter_of(decimal_mark: str, thousands_mark: str) -> str:
    """The letter of `MARKS` that stands for the marks of a source."""
    if decimal_mark == ",":
        return "d" if thousands_mark == "." else "c"
    return "t" if thousands_mark == "," else "p"


def _with_point(values: pa.Array, marks: tuple[str, str]) -> tuple[pa.Array, Mask]:
    """Rewrite numbers in these marks with a decimal point; other texts stay."""
    notation = Notation(*marks)
    plain, fits = rewritten(values, partial(number_parts, notation=notation))
    return (plain, fits) if fits.all() else (pc.coalesce(plain, values), fits)


class _Details:
    """Collects a short text for each value, from a list of the distinct ones."""

    def __init__(self, counts: Ints, letter: str) -> None:
        self.counts, self.letter = counts, letter
        self.plain: list[tuple[Ints, pa.Array]] = []
        self.too_many = False
        self.codes = np.zeros(len(counts), np.int32)
        self.texts: list[str] = [""]
        self._numbers: dict[str, int] = {"": 0}

    def say(self, at: Ints, what: str) -> None:
        self.codes[at] = self.number(what)

    def number(self, what: str) -> int:
        if what not in self._numbers:
            self._numbers[what] = len(self.texts)
            self.texts.append(what)
        return self._numbers[what]


def _look_closely(
    values: pa.Array, rest: Ints, kind_of: npt.NDArray[np.int8], about: _Details, most: int = _MOST_SHAPES
) -> None:
    """Find the kinds of texts that are not canonical."""
    some = in_ascii(values.take(ints(rest)))
    groups: dict[str, list[Ints]] = {}
    for number, (shape, at) in enumerate(by_shape(some)):
        if number >= most:
            about.too_many = True
            return
        groups.setdefault(form_of(shape), []).append(at)
    for form, members in groups.items():
        at = np.sort(np.concatenate(members))
        inner = some.take(ints(at))
        name, _, unit = form.partition(" ")
        found = _CLOSER[name](inner, unit)
        if name == "number":
            _keep_plain(inner, unit, rest[at], about)
        for kind, detail, those in found:
            kind_of[rest[at[those]]] = kind
            about.say(rest[at[those]], detail)


def _keep_plain(values: pa.Array, unit: str, at: Ints, about: _Details) -> None:
    """Keep numbers as plain numbers, without the unit."""
    point, group = MARKS[about.letter]
    notation = Notation(point, group, unit=unit, percent="as-written" if unit == "%" else "")
    plain, fits = rewritten(values, partial(number_parts, notation=notation))
    if fits.any():
        about.plain.append((at[fits], plain.filter(flags(fits))))


Closer = list[tuple[int, str, Mask]]


def _closer_number(values: pa.Array, unit: str) -> Closer:
    codes = truths(pc.match_substring_regex(values, _CODE))
    notation = Notation(unit=unit, percent="as-written" if unit == "%" else "")
    fits = {
        letter: rewritten(
            values,
            partial(number_parts, notation=replace(notation, decimal_mark=point, thousands_mark=group)),
        )[1]
        for letter, (point, group) in MARKS.items()
    }
    whole = truths(pc.match_substring_regex(values, _WHOLE_NUMBER))
    made = [(CODE, "", codes)] if codes.any() else []
    for letters, those in _combined(fits) if not codes.all() else ():
        for ending, share in (("w", whole), ("", ~whole)):
            if letters and (those & share).any():
                made.append((WRITTEN_NUMBER, f"{letters}{ending} {unit}".strip(), those & share & ~codes))
    return made


def _closer_censored(values: pa.Array, unit: str) -> Closer:
    fits = {
        letter: rewritten(
            values, partial(number_parts, notation=Notation(point, group, unit=unit, censored=True))
        )[1]
        for letter, (point, group) in MARKS.items()
    }
    return [(CENSORED, f"{letters} {unit}".strip(), those) for letters, those in _combined(fits) if letters]


def _closer_day(values: pa.Array, name: str, zoned: bool) -> Closer:
    kind = _AT[f"written {name}"]

    def fitting(order: str) -> Mask:
        return _fitting(values, TYPES[name], Notation(date_order=order, zoned=zoned))

    free = fitting("")
    fits = {order: fitting(order) & ~free for order in ("dmy", "mdy", "ymd")} if not free.all() else {}
    before = "zoned " if zoned else ""
    made: Closer = [(kind, f"{before}any", free)] if free.any() else []
    return made + [(kind, before + orders, those) for orders, those in _combined(fits, " ") if orders]


def _closer_written(values: pa.Array, name: str) -> Closer:
    return [(_AT[f"written {name}"], "", _fitting(values, TYPES[name], Notation()))]


def _fitting(values: pa.Array, kind: Type, notation: Notation) -> Mask:
    """Mask of the values that are of a type in some notation."""
    assert kind.rule
    done = checked_written(values, kind, partial(kind.rule, notation=notation))
    return truths(done.text.is_valid())


def _closer_text(values: pa.Array, _: str) -> Closer:
    return [(CODE, "", truths(pc.match_substring_regex(values, _CODE)))]


_CLOSER: dict[str, Callable[[pa.Array, str], Closer]] = {
    "number": _closer_number,
    "censored": _closer_censored,
    "date": lambda values, _: _closer_day(values, "date", False),
    "moment": lambda values, _: _closer_day(values, "datetime", False),
    "zoned": lambda values, _: _closer_day(values, "datetime", True),
    "written": _closer_written,
    "text": _closer_text,
    "words": lambda *_: [],
}


def _combined(fits: dict[str, Mask], between: str = "") -> list[tuple[str, Mask]]:
    """The names of what each value fits, put together, with the values that fit just these."""
    if not fits:
        return []
    bits = np.sum([those.astype(np.int64) << place for place, those in enumerate(fits.values())], axis=0)
    return [
        (between.join(name for place, name in enumerate(fits) if each >> place & 1), bits == each)
        for each in each_once(bits).tolist()
    ]


# what is looked at by its rule alone: neither numbers nor days, which have marks and orders
_OTHERS = [one for one in TRIED if one.rule and not (one.is_number or one.has_day)]
_ORDERED = [Notation(date_order=order, zoned=True) for order in ("", "dmy", "mdy", "ymd")]


@lru_cache(maxsize=16384)
def form_of(shape: bytes) -> str:
    """What a shape may be: ``"number"`` (perhaps with a unit), ``"date"``, ``"moment"`` and so on.

    Examples
    --------
    >>> [form_of(shape) for shape in (b"9,999.9", b"99.9 mg/L", b"99/99/9999", b"9:99 pm", b"< 9.9", b"lake")]
    ['number', 'number mg/L', 'date', 'written time', 'censored', 'words']
    """
    if len(shape) > 60:
        return "text"
    if b"9" not in shape:
        return "words"
    if any(date_parts(shape, notation) for notation in _ORDERED):
        return "date"
    for kind in _OTHERS:
        if kind.rule and kind.rule(shape, Notation()):
            return f"written {kind.name}"
    if any(moment_parts(shape, notation) for notation in _ORDERED):
        return "zoned" if offset_parts(shape, Notation(zoned=True)) else "moment"
    unit = unit_in(shape)
    if unit and ("9" in unit or not (is_unit(unit) or unit in CURRENCIES)):
        return "text"
    manners = [Notation(*marks, unit=unit, percent="as-written") for marks in MARKS.values()]
    if any(number_parts(shape, notation) for notation in manners):
        unit = "%" if shape.rstrip().endswith(b"%") else unit
        return f"number {unit}".strip()
    if any(number_parts(shape, replace(notation, censored=True)) for notation in manners):
        return f"censored {unit}".strip()
    return "text"


def _say_texts(
    some: pa.Array, at: Ints, kind_of: npt.NDArray[np.int8], about: _Details, column: Ints
) -> Ints:
    """Tell the most frequent texts of each column apart; words of truth, and for what could not be measured, are kinds of
    their own.

    Returns for each text how many of its column are more frequent; -1 for those that are not told.

    `some`: the texts without outer spaces; `at`, `column`: their places, and the numbers of their columns.
    """
    distinct = some.dictionary_encode()
    said, codes = distinct.dictionary.to_pylist(), wholes(distinct.indices)
    pairs, first, which = np.unique(column * len(said) + codes, return_index=True, return_inverse=True)
    counts = np.bincount(which, about.counts[at], minlength=len(pairs))
    in_column = pairs // len(said)
    order = np.lexsort((first, -counts, in_column))
    starts = np.flatnonzero(np.diff(in_column[order], prepend=-1))
    rank = np.arange(len(order)) - np.repeat(starts, np.diff(starts, append=len(order)))
    kept = order[rank < _MOST_TEXTS]
    kinds_of = kind_of[at[first]]
    detail, ranks = np.full(len(pairs), -1, np.int32), np.full(len(pairs), -1, np.int64)
    ranks[order] = rank
    for pair, code, kind in zip(
        kept.tolist(), (pairs[kept] % len(said)).tolist(), kinds_of[kept].tolist(), strict=True
    ):
        text_ = said[code]
        if len(text_) > _LONGEST_TOLD:
            continue
        word = text_.casefold()
        if kind == ERROR:
            if word not in CLEAR:
                continue
            kinds_of[pair] = TEXT  # it says that there is no value, and is not an error
        elif kind == CODE:
            pass
        elif word in TRUE or word in FALSE:
            kinds_of[pair] = WRITTEN_BOOLEAN
        elif is_flag(text_):
            kinds_of[pair] = CENSORED
        detail[pair] = about.number(text_)
    told = detail[which] >= 0
    kind_of[at[told]] = kinds_of[which[told]]
    about.codes[at[told]] = detail[which[told]]
    result: Ints = np.where(told, ranks[which], -1)
    return result


def _kinds(values: pa.Array, of_one_column: bool = True) -> npt.NDArray[np.int8]:
    """The kinds of canonical forms. What is unlikely shows only beside the other values of a column."""
    result = np.full(len(values), TEXT, np.int8)
    result[truths(values.is_null())] = EMPTY
    left = np.flatnonzero((result == TEXT) & _may_be_typed(values))
    for kind in TRIED:
        if not len(left):
            break
        some = values.take(ints(left))
        fits = np.ones(len(left), bool)
        fits[not_canonical(_read_as(some, kind), kind)] = False
        codes = np.zeros(len(left), bool)
        if kind.unlikely and of_one_column:
            codes = kind.unlikely(some) & fits
        result[left[codes]] = CODE
        fits &= ~codes
        result[left[fits]] = _AT[kind.name]
        left = left[~(fits | codes)]
    rest = np.flatnonzero(result == TEXT)
    if len(rest):
        some = values.take(ints(rest))
        result[rest[errors_in(some)]] = ERROR
        maybe = np.flatnonzero((padded(some) | truths(pc.equal(some, text("")))) & (result[rest] == TEXT))
        trimmed = pc.utf8_trim_whitespace(some.take(ints(maybe)))
        result[rest[maybe[truths(pc.equal(trimmed, text("")))]]] = EMPTY
        changed = truths(pc.not_equal(trimmed, some.take(ints(maybe)))) & (result[rest[maybe]] == TEXT)
        if changed.any():  # outer spaces do not count
            result[rest[maybe[changed]]] = _kinds(trimmed.filter(flags(changed)), of_one_column)
    return result


def _may_be_typed(values: pa.Array) -> Mask:
    """Which values may have another type than text, by their first letter."""
    letters = Letters.of(values)
    if not len(letters.data):
        return np.zeros(len(values), bool)
    return np.isin(letters.first(letters.starts), _FIRST_LETTERS)


def _read_as(values: pa.Array, kind: Type) -> pa.Array:
    return pc.utf8_lower(values) if kind.any_case else values
