"""What is seen in a column: the kinds of its values by source, and the ranges of its numbers."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from integrum.reading.head import Format
from integrum.reading.parsing import Rows
from integrum.surveying.rows import SourceRuns
from integrum.surveying.seen import Range, Seen
from integrum.surveying.thresholds import CODES
from integrum.values.arrays import Floats, Ints, Mask, each_once, flags, floats, ints, padded, truths, wholes
from integrum.values.digits import Letters
from integrum.values.evidence import (
    DATETIME,
    EMPTY,
    ERROR,
    INTEGER,
    KINDS,
    NUMBER,
    TIME,
    TRIED,
    WRITTEN_NUMBER,
    is_unlikely,
    lone_kind,
    looks,
    looks_together,
)
from integrum.values.sketch import numbers_of, sketch
from integrum.values.types import TYPES

# the types in whose canonical form any text is, and those of columns without a value
_ANY, EVERY = frozenset({"text"}), frozenset(TYPES)
# this many codes are looked for at both ends of a range
MOST_CODES = 4
_PLAIN_NUMBER = r"^-?[0-9]+(\.[0-9]*)?([eE][+-]?[0-9]+)?$"
_MINUTE, _DAY_AND_MINUTE = len("12:30"), len("2024-05-01 12:30")
# columns of this few rows are looked at together, up to this many values at once
MOST_ROWS, _TOGETHER = 2_000, 1 << 17
# this many values show what kind all may have
_SAMPLE = 20
_CODES = np.array(sorted(CODES))
_LONE = np.array([KINDS.index(one.name) for one in TRIED])
Kinds = npt.NDArray[np.int8]


@dataclass(frozen=True)
class ColumnLook:
    """What was seen in a column of some sources: kinds and ranges."""

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
    """The range of the numbers of each source, and the outermost values that may be missing codes."""
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
    """Mask of the numbers that were rewritten to plain ones."""
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
    """Keep numbers that may be missing codes as they are written."""
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


def look_together(
    columns: Mapping[int, pa.Array], runs: SourceRuns, marks: tuple[str, str]
) -> Iterator[tuple[int, ColumnLook | None]]:
    """Look at columns of the same rows.

    Yields the position of each column, and what is seen in it; None where it has to be looked at alone.

    Parameters
    ----------
    columns
        By position.
    marks
        The decimal mark and the mark between thousands in their sources.
    """
    most = max(1, _TOGETHER // len(runs.row))
    positions = list(columns)
    for start in range(0, len(positions), most):
        some = positions[start : start + most]
        made = _Together([columns[at] for at in some], some, runs, marks)
        yield from zip(some, made.looked(), strict=True)


class _Together:
    """Several short columns that are looked at together."""

    def __init__(
        self, columns: Sequence[pa.Array], positions: Sequence[int], runs: SourceRuns, marks: tuple[str, str]
    ) -> None:
        self._columns, self._positions, self._runs = columns, positions, runs
        self._plain, self._rows = marks == (".", ""), len(runs.row)
        self._raw = pa.concat_arrays(columns)
        self._column = np.repeat(np.arange(len(columns)), self._rows)
        self._starts = np.arange(len(columns)) * self._rows
        self._seen = looks_together(self._raw, self._column, marks)

    def looked(self) -> Iterator[ColumnLook | None]:
        """What is seen in each."""
        seen, texts = self._seen, list(self._seen.texts)
        details, order = seen.details.copy(), seen.order.copy()
        lone = self._lone() if self._plain else np.full(len(self._columns), -1)
        of_lone = lone[self._column]
        kinds = np.where((of_lone >= 0) & (seen.kinds != EMPTY), of_lone, seen.kinds).astype(np.int8)
        timed = np.flatnonzero((of_lone == DATETIME) | (of_lone == TIME))
        if len(timed):
            fine, said = fineness(self._raw.take(ints(timed)))
            details[timed], order[timed] = fine + len(texts), fine
            texts += said
        values = self._numbers(kinds)
        maybe = self._codes(values, kinds)
        at = np.flatnonzero(maybe)
        if len(at):
            self._tell_whole(kinds, lone, maybe)
            coded = pc.utf8_trim_whitespace(self._raw.take(ints(at))).dictionary_encode()
            codes = wholes(coded.indices)
            _, first, which = np.unique(
                self._column[at] * len(coded.dictionary) + codes, return_index=True, return_inverse=True
            )
            details[at], order[at] = len(texts) + codes, len(texts) + len(order) + first[which]
            texts += coded.dictionary.to_pylist()
        ranges, every = self._ranges(values), self._counted(kinds, details, order, texts)
        has_errors = np.logical_or.reduceat(seen.kinds == ERROR, self._starts).tolist()
        for at_column, (kind, errors) in enumerate(zip(lone.tolist(), has_errors, strict=True)):
            if self._is_unlikely(at_column):
                yield None
            else:
                canonical = canonical_of(None if kind < 0 else kind, errors, self._plain)
                yield ColumnLook(every[at_column], canonical, ranges[at_column])

    def _is_unlikely(self, at: int) -> bool:
        start = at * self._rows
        return is_unlikely(self._columns[at], self._seen.plain_kinds[start : start + self._rows])

    def _lone(self) -> Ints:
        """By column the kind that all its values with text have; -1 where there is none."""
        kinds = self._seen.plain_kinds.astype(np.int64)
        filled = kinds != EMPTY
        odd = np.logical_or.reduceat(
            self._seen.padded | (~filled & truths(self._raw.is_valid())), self._starts
        )
        count = np.add.reduceat(filled.astype(np.int64), self._starts)
        # the first values of a column show what kind all may have
        rank = np.cumsum(filled) - np.repeat(np.cumsum(count) - count, self._rows)
        common, every = self._common(kinds, filled & (rank <= _SAMPLE)), self._common(kinds, filled)
        lone = np.where(odd | (common != every), -1, common)
        return np.where((count == 0) & ~odd, EMPTY, lone)

    def _common(self, kinds: Ints, some: Mask) -> Ints:
        """By column the one kind that some of its values have; whole numbers are numbers."""
        least = np.minimum.reduceat(np.where(some, kinds, len(KINDS)), self._starts)
        greatest = np.maximum.reduceat(np.where(some, kinds, -1), self._starts)
        found = np.where((least == greatest) & np.isin(greatest, _LONE), greatest, -1)
        return np.where((least == INTEGER) & (greatest == NUMBER), NUMBER, found)

    def _numbers(self, kinds: Kinds) -> Floats:
        """The numbers; NaN for all else."""
        numeric = (kinds == INTEGER) | (kinds == NUMBER) | are_plain(self._seen.values, kinds)
        values: Floats = np.full(len(kinds), np.nan)
        if numeric.any():
            values[numeric] = plain_floats(self._seen.values.filter(flags(numeric)))
        return values

    def _codes(self, values: Floats, kinds: Kinds) -> Mask:
        """Which of the outermost numbers of a column may be missing codes; they are none of its numbers any more."""
        maybe = np.zeros(len(values), bool)
        plainly = (kinds == INTEGER) | (kinds == NUMBER)
        for _ in range(MOST_CODES):
            those = np.zeros(len(values), bool)
            for outer in (np.fmin.reduceat(values, self._starts), np.fmax.reduceat(values, self._starts)):
                is_code = np.isin(outer, _CODES)
                if is_code.any():
                    those |= values == np.where(is_code, outer, np.nan)[self._column]
            those &= plainly
            if not those.any():
                break
            maybe |= those
            values[those] = np.nan
        return maybe

    def _tell_whole(self, kinds: Kinds, lone: Ints, maybe: Mask) -> None:
        """Among whole numbers a code such as -999.0 makes no others of them."""
        has = np.logical_or.reduceat(maybe, self._starts) & (lone == NUMBER)
        others = ~maybe & (kinds != EMPTY)
        is_whole = np.logical_and.reduceat(~others | (self._seen.plain_kinds == INTEGER), self._starts)
        kinds[others & (has & is_whole)[self._column]] = INTEGER

    def _ranges(self, values: Floats) -> list[list[Range]]:
        """Those of the numbers, by column."""
        first = (self._starts[:, None] + self._runs.first).reshape(-1)
        drawn = sketch(values, first)
        found: list[list[Range]] = [[] for _ in self._columns]
        which = np.flatnonzero(drawn.filled)
        column, run = np.divmod(which, len(self._runs.sources))
        together = zip(
            column.tolist(), run.tolist(), *(each.tolist() for each in drawn.at(which)), strict=True
        )
        for at, place, count, least, median, greatest in together:
            source = self._runs.sources[place]
            found[at].append(Range(source, self._positions[at], count, least, greatest, median))
        return found

    def _counted(self, kinds: Kinds, details: Ints, order: Ints, texts: Sequence[str]) -> list[list[Seen]]:
        """What is seen, by column."""
        sources = len(self._runs.sources)
        run = np.tile(np.repeat(np.arange(sources), self._runs.counts), len(self._columns))
        at = np.flatnonzero(kinds != EMPTY)
        of_source = (self._column * sources + run)[at] * len(KINDS) + kinds[at]
        codes, first, counts = np.unique(
            of_source * len(texts) + details[at], return_index=True, return_counts=True
        )
        ordered = np.lexsort((order[at[first]], codes // len(texts)))
        codes, places, counts = codes[ordered], at[first[ordered]], counts[ordered]
        groups, detail = np.divmod(codes, len(texts))
        groups, kind = np.divmod(groups, len(KINDS))
        column, where = np.divmod(groups, sources)
        found: list[list[Seen]] = [[] for _ in self._columns]
        rows = self._runs.row[places % self._rows].tolist()
        raw = self._raw.take(ints(places)).to_pylist()
        numbers = (each.tolist() for each in (column, where, kind, counts, detail))
        for in_column, place, one, count, said, row, text in zip(*numbers, rows, raw, strict=True):
            found[in_column].append(
                Seen(
                    self._runs.sources[place], self._positions[in_column], one, count, row, text, texts[said]
                )
            )
        return found
