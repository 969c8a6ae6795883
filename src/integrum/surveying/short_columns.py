"""What is seen in short columns, many at once: what a call costs is far more than what it does for a few values."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import Floats, Ints, Mask, flags, ints, truths, wholes
from integrum.deciding.seen import Range, Seen
from integrum.deciding.thresholds import CODES
from integrum.surveying.column_looks import (
    MOST_CODES,
    ColumnLook,
    are_plain,
    canonical_of,
    fineness,
    plain_floats,
)
from integrum.surveying.source_runs import SourceRuns
from integrum.values.evidence import (
    DATETIME,
    EMPTY,
    ERROR,
    INTEGER,
    KINDS,
    NUMBER,
    TIME,
    TRIED,
    is_unlikely,
    looks_together,
)
from integrum.values.sketch import sketch

# columns of so few rows are looked at together, up to so many values at once
MOST_ROWS, _TOGETHER = 2_000, 1 << 17
# so many values show what kind all may have
_SAMPLE = 20
_CODES = np.array(sorted(CODES))
_LONE = np.array([KINDS.index(one.name) for one in TRIED])
Kinds = npt.NDArray[np.int8]


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
    """Some columns, one behind the other."""

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
