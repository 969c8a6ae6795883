"""What kinds of values the columns of some pieces hold. Runs on any worker."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt
import pyarrow as pa

from integrum.arrow.arrays import ints, truths
from integrum.engine.job import Counts, Job, in_order, parts_of
from integrum.engine.judging import Judged
from integrum.reading.aside import Aside
from integrum.reading.head import Format
from integrum.reading.left_out import LeftOut
from integrum.reading.parsing import Rows
from integrum.values.evidence import EMPTY, ERROR, KINDS, NUMBER, TEXT, kinds, lone_kind
from integrum.values.pipeline import with_point

_ANY = frozenset({"text"})
# so many rows of a source, or of a piece of a large one, show what names alone do not
_SAMPLED = 16
# the types in whose canonical form a value of a kind is; words for booleans may be written with capitals
_CANONICAL = {
    "empty": frozenset(KINDS),
    "integer": frozenset({"integer", "number", "text"}),
    "number": frozenset({"number", "text"}),
    "date": frozenset({"date", "text"}),
    "datetime": frozenset({"datetime", "text"}),
}


@dataclass(frozen=True)
class Seen:
    """Values of one kind in one column of one source.

    Attributes
    ----------
    source, position
        The number of the source, and the position of the column in its header.
    kind
        Index into `KINDS`.
    count
        How many.
    row, raw
        The first of them.
    """

    source: int
    position: int
    kind: int
    count: int
    row: int
    raw: str


@dataclass(frozen=True)
class Sampled:
    """Some rows of some sources.

    Attributes
    ----------
    sources, counts
        The numbers of the sources, and how many rows are of each, in order.
    columns
        By position: their values, one source after the other.
    """

    sources: Sequence[int]
    counts: Sequence[int]
    columns: Mapping[int, pa.Array]


@dataclass
class Profile:
    """What some pieces hold.

    Attributes
    ----------
    output
        Nothing: a survey has no outputs.
    counts
        Rows by what they are.
    aside
        Rows that would be set aside, and cells beside the table.
    judged
        Which of the rows that are left out read like the data, for each family.
    left_out
        Nothing: a survey keeps no rows.
    seen
        The values by source, column and kind; empty cells are not counted.
    canonical
        By source and position: the types in whose canonical form all values are.
    sampled
        Some values of each column, for each family.
    """

    output: str
    counts: Counts
    aside: Sequence[Aside]
    judged: Sequence[Judged] = ()
    left_out: Sequence[LeftOut] = ()
    seen: list[Seen] = field(default_factory=list)
    canonical: dict[tuple[int, int], frozenset[str]] = field(default_factory=dict)
    sampled: list[Sampled] = field(default_factory=list)


def profile(job: Job) -> Profile:
    """Look at the values of some pieces."""
    parts = parts_of(job)
    aside = in_order(one for part in parts for one in part.rows.aside)
    result = Profile("", Counts.of(parts), aside, [part.judged for part in parts])
    for part in parts:
        runs = _Runs(part.rows)
        sampled = {at: part.rows.columns[at].take(runs.some) for at in part.family.header.named}
        result.sampled.append(Sampled(runs.sources, runs.some_of, sampled))
        for position in part.family.header.named:
            seen, canonical = _look(
                part.rows.columns[position], position, part.rows, runs, part.family.format
            )
            result.seen += seen
            result.canonical |= {(source, position): canonical for source in runs.sources}
    return result


class _Runs:
    """The rows of each source, which stand together: the numbers of the sources, their first rows, how many they are."""

    def __init__(self, rows: Rows) -> None:
        self.first = np.flatnonzero(np.diff(rows.source, prepend=-1))
        self.counts = np.diff(self.first, append=len(rows.source)).tolist()
        self.sources = rows.source[self.first].tolist()
        self.rows = rows.row[self.first].tolist()
        self.taking = ints(self.first)
        # some rows from all over each source
        sizes = np.diff(self.first, append=len(rows.source))
        few = np.minimum(sizes, _SAMPLED)
        self.some_of = few.tolist()
        steps = np.arange(few.sum()) - np.repeat(np.cumsum(few) - few, few)
        self.some = ints(
            np.repeat(self.first, few) + (steps * np.repeat(sizes, few)) // np.maximum(np.repeat(few, few), 1)
        )


def _look(
    column: pa.Array, position: int, rows: Rows, runs: _Runs, form: Format
) -> tuple[Sequence[Seen], frozenset[str]]:
    """What is seen in a column, and the types in whose canonical form all of its values are."""
    stray = None
    plain = form.decimal_mark == "." and not form.thousands_mark
    if not plain:
        column, fits = with_point(column, form.decimal_mark, form.thousands_mark)
        stray = ~fits
    lone = lone_kind(column) if stray is None or not stray.any() else None
    if lone is None:
        kind_of = kinds(column)
        if stray is not None:
            kind_of[stray & (kind_of == NUMBER)] = TEXT  # a point where a comma belongs
        canonical = frozenset() if (kind_of == ERROR).any() else _ANY
    else:
        canonical = _CANONICAL.get(KINDS[lone], _ANY) if plain else _ANY
        if lone == EMPTY:
            return (), canonical
        if not column.null_count:
            raw = column.take(runs.taking).to_pylist()
            together = zip(runs.sources, runs.counts, runs.rows, raw, strict=True)
            return [Seen(source, position, lone, *rest) for source, *rest in together], canonical
        kind_of = np.full(len(column), lone, np.int8)
        kind_of[truths(column.is_null())] = EMPTY
    return list(_counted(column, kind_of, position, rows, lone is not None)), canonical


def _counted(
    column: pa.Array, kind_of: npt.NDArray[np.int8], position: int, rows: Rows, alone: bool
) -> Iterator[Seen]:
    with_text = np.flatnonzero(kind_of != EMPTY)
    codes = rows.source[with_text] * len(KINDS) + kind_of[with_text]
    if alone:  # the rows come source by source, so equal codes stand together
        first = np.flatnonzero(np.diff(codes, prepend=-1))
        distinct, counts = codes[first], np.diff(first, append=len(codes))
    else:
        distinct, first, counts = np.unique(codes, return_index=True, return_counts=True)
    places = with_text[first]
    raw = column.take(ints(places)).to_pylist()
    for code, count, at, text in zip(distinct.tolist(), counts.tolist(), places.tolist(), raw, strict=True):
        yield Seen(code // len(KINDS), position, code % len(KINDS), count, int(rows.row[at]), text)
