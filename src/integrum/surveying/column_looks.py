"""What is seen in a column: the kinds of its values by source, and the ranges of its numbers."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import Floats, Mask, each_once, flags, floats, ints, padded, truths, wholes
from integrum.deciding.seen import Range, Seen
from integrum.deciding.thresholds import CODES
from integrum.reading.head import Format
from integrum.reading.parsing import Rows
from integrum.surveying.source_runs import SourceRuns
from integrum.values.evidence import (
    DATETIME,
    EMPTY,
    ERROR,
    INTEGER,
    KINDS,
    NUMBER,
    TIME,
    WRITTEN_NUMBER,
    lone_kind,
    looks,
)
from integrum.values.letters import Letters
from integrum.values.sketch import numbers_of, sketch
from integrum.values.types import TYPES

# the types in whose canonical form any text is, and those of columns without a value
_ANY, EVERY = frozenset({"text"}), frozenset(TYPES)
# so many codes are looked for at both ends of a range
MOST_CODES = 4
_PLAIN_NUMBER = r"^-?[0-9]+(\.[0-9]*)?([eE][+-]?[0-9]+)?$"
_MINUTE, _DAY_AND_MINUTE = len("12:30"), len("2024-05-01 12:30")


@dataclass(frozen=True)
class ColumnLook:
    """What is seen in a column of some sources."""

    seen: Sequence[Seen]
    canonical: frozenset[str]  # the types in whose canonical form all of its values are
    ranges: Sequence[Range]  # of its numbers


def look(column: pa.Array, position: int, rows: Rows, runs: SourceRuns, form: Format) -> ColumnLook:
    """Look at a column.

    `position`: that of its cells in the header.
    """
    marks = (form.decimal_mark, form.thousands_mark)
    plain = marks == (".", "")
    lone, whole = lone_kind(column) if plain else (None, None)
    if lone == EMPTY:
        return ColumnLook((), EVERY, ())
    if lone is None:
        kind_of, details, said, column = looks(column, marks)
    else:
        kind_of, details, said = np.full(len(column), lone, np.int8), None, [""]
        if column.null_count:
            kind_of[truths(column.is_null())] = EMPTY
    canonical = canonical_of(lone, lone is None and bool((kind_of == ERROR).any()), plain)
    if details is None and lone in (DATETIME, TIME):
        details, said = fineness(column)
    ranges: list[Range] = []
    if lone in (INTEGER, NUMBER) or (
        lone is None and np.isin(kind_of, (INTEGER, NUMBER, WRITTEN_NUMBER)).any()
    ):
        ranges, maybe = _ranges(column, whole, position, kind_of, runs)
        if maybe is not None:
            if lone == NUMBER:
                _tell_whole(column, kind_of, ~maybe)
            details, said = _with_codes(rows.columns[position], maybe, details, said)
    if details is None and not column.null_count:
        raw = column.take(runs.taking).to_pylist()
        together = zip(runs.sources, runs.counts, runs.rows, raw, strict=True)
        every = [Seen(source, position, lone or 0, *rest) for source, *rest in together]
        return ColumnLook(every, canonical, ranges)
    if details is None:
        details = np.zeros(len(column), np.int32)
    return ColumnLook(list(_counted(rows, position, kind_of, details, said)), canonical, ranges)


def canonical_of(lone: int | None, has_errors: bool, plain: bool) -> frozenset[str]:
    """The types in whose canonical form all values of a column are; words for booleans may be written with capitals.

    `lone`: the kind that all of them have, where they have one; `plain`: whether numbers have the marks of canonical forms.
    """
    if lone is None:
        return _ANY if plain and not has_errors else frozenset()
    if lone == EMPTY:
        return EVERY
    kind = TYPES.get(KINDS[lone])
    return _ANY if kind is None or kind.any_case else _ANY | kind.also_canonical | {kind.name}


def _ranges(
    column: pa.Array, whole: pa.Array | None, position: int, kind_of: npt.NDArray[np.int8], runs: SourceRuns
) -> tuple[list[Range], Mask | None]:
    """The ranges of the numbers of each source, and which of the outermost may be missing codes, if any."""
    numeric = (kind_of == INTEGER) | (kind_of == NUMBER) | are_plain(column, kind_of)
    made = numbers_of(whole) if whole is not None else None
    if made is not None:
        values = made.copy()
    elif numeric.all():
        values = plain_floats(column).copy()
    else:
        values = np.full(len(column), np.nan)
        values[numeric] = plain_floats(column.filter(flags(numeric)))
    maybe: Mask | None = None
    plainly = (kind_of == INTEGER) | (kind_of == NUMBER)
    for _ in range(MOST_CODES):
        outer = [each for each in (np.fmin.reduce(values), np.fmax.reduce(values)) if float(each) in CODES]
        if not outer:
            break
        those = np.isin(values, outer) & plainly
        if not those.any():
            break
        maybe = those if maybe is None else maybe | those
        values[those] = np.nan
    drawn = sketch(values, runs.first)
    together = zip(runs.sources, *(each.tolist() for each in drawn), strict=True)
    return [
        Range(source, position, count, least, greatest, median)
        for source, count, least, median, greatest in together
        if count
    ], maybe


def are_plain(column: pa.Array, kind_of: npt.NDArray[np.int8]) -> Mask:
    """Which numbers, as people write them, were brought to plain ones."""
    result: Mask = kind_of == WRITTEN_NUMBER
    if result.any():
        at = np.flatnonzero(result)
        result[at] = truths(pc.match_substring_regex(column.take(ints(at)), _PLAIN_NUMBER))
    return result


def plain_floats(values: pa.Array) -> Floats:
    """Texts of plain numbers as numbers."""
    return floats(pc.cast(pc.utf8_trim_whitespace(values) if padded(values).any() else values, pa.float64()))


def _tell_whole(column: pa.Array, kind_of: npt.NDArray[np.int8], rest: Mask) -> None:
    """Among whole numbers a code such as -999.0 makes no others of them."""
    others = rest & (kind_of != EMPTY)
    if TYPES["integer"].test(column.filter(flags(others)))[0]:
        kind_of[others] = INTEGER


def _with_codes(
    raw: pa.Array, maybe: Mask, details: npt.NDArray[np.int32] | None, said: list[str]
) -> tuple[npt.NDArray[np.int32], list[str]]:
    """Details in which numbers that may be missing codes stand as they are written."""
    made = np.zeros(len(raw), np.int32) if details is None else details.copy()
    at = np.flatnonzero(maybe)
    distinct = pc.utf8_trim_whitespace(raw.take(ints(at))).dictionary_encode()
    made[at] = wholes(distinct.indices) + len(said)
    return made, [*said, *distinct.dictionary.to_pylist()]


def fineness(column: pa.Array) -> tuple[npt.NDArray[np.int32], list[str]]:
    """How many digits the seconds of canonical times have."""
    lengths = Letters.of(column).lengths
    several = each_once(lengths[lengths > 0]).tolist()
    said = [""]
    details = np.zeros(len(column), np.int32)
    for length in several:
        beyond = length - (_DAY_AND_MINUTE if length >= _DAY_AND_MINUTE else _MINUTE)
        # the mark before the seconds, and that before their parts, are not digits
        said.append(str(max(beyond - (1 if beyond < 4 else 2), 0)))
        details[lengths == length] = len(said) - 1
    return details, said


def _counted(
    rows: Rows,
    position: int,
    kind_of: npt.NDArray[np.int8],
    details: npt.NDArray[np.int32],
    said: Sequence[str],
) -> Iterator[Seen]:
    with_text = np.flatnonzero(kind_of != EMPTY)
    codes = (rows.source[with_text] * len(KINDS) + kind_of[with_text]) * len(said) + details[with_text]
    if (
        len(said) == 1 and (np.diff(codes) >= 0).all()
    ):  # the rows come source by source, so equal codes stand together
        first = np.flatnonzero(np.diff(codes, prepend=-1))
        distinct, counts = codes[first], np.diff(first, append=len(codes))
    else:
        distinct, first, counts = np.unique(codes, return_index=True, return_counts=True)
    places = with_text[first]
    raw = rows.columns[position].take(ints(places)).to_pylist()
    for code, count, at, text in zip(distinct.tolist(), counts.tolist(), places.tolist(), raw, strict=True):
        whole, detail = divmod(code, len(said))
        yield Seen(
            whole // len(KINDS), position, whole % len(KINDS), count, int(rows.row[at]), text, said[detail]
        )
