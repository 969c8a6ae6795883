"""What kinds of values the columns of sources hold."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import NoReturn

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import Floats, Mask, flags, floats, ints, padded, truths, wholes
from integrum.deciding.seen import Range, Seen
from integrum.deciding.thresholds import CODES
from integrum.engine.job import Looked
from integrum.engine.reuse import CannotTake
from integrum.engine.state import State
from integrum.measures.measure import Context, Measure, Recalled
from integrum.reading.head import Format
from integrum.reading.parsing import Rows
from integrum.values.evidence import (
    CENSORED,
    DATETIME,
    EMPTY,
    ERROR,
    INTEGER,
    KINDS,
    NUMBER,
    TIME,
    WRITTEN_DATETIME,
    WRITTEN_NUMBER,
    lone_kind,
    looks,
)
from integrum.values.letters import Letters
from integrum.values.mark_proof import shown_by
from integrum.values.sketch import numbers_of, sketch
from integrum.values.steady_order import steady_order
from integrum.values.types import TYPES

# the types in whose canonical form any text is, and those of columns without a value
_ANY, EVERY = frozenset({"text"}), frozenset(TYPES)
# so many rows of a source, or of a piece of a large one, show what names alone do not
_SAMPLED = 16
# so many codes are looked for at both ends of a range
_MOST_CODES = 4
_PLAIN_NUMBER = r"^-?[0-9]+(\.[0-9]*)?([eE][+-]?[0-9]+)?$"
_WITH_MARKS = frozenset({NUMBER, WRITTEN_NUMBER, CENSORED})
_MINUTE, _DAY_AND_MINUTE = len("12:30"), len("2024-05-01 12:30")


@dataclass(frozen=True)
class Sampled:
    """Some rows of some sources."""

    # the numbers of the sources, and how many rows are of each, in order
    sources: Sequence[int]
    counts: Sequence[int]
    columns: Mapping[int, pa.Array]  # by position: their values, one source after the other


@dataclass(frozen=True)
class Open:
    """A number that can be read in two ways: how it is written, and its row."""

    raw: str
    row: int


@dataclass
class Profile:
    """What some pieces hold."""

    # the values by source, column and kind; empty cells are not counted
    seen: list[Seen] = field(default_factory=list)
    ranges: list[Range] = field(default_factory=list)  # the ranges of the numbers, by source and column
    # by source and position: the types in whose canonical form all values are
    canonical: dict[tuple[int, int], frozenset[str]] = field(default_factory=dict)
    sampled: list[Sampled] = field(default_factory=list)  # some values of each column, for each family
    # by source and position: whether some number shows what its marks are; or the first that does not, where none does
    marks: dict[tuple[int, int], Open | None] = field(default_factory=dict)
    # by source and position: the order of day and month that the steps between times show; empty where they show none
    orders: dict[tuple[int, int], str] = field(default_factory=dict)


class Profiles(State[Profile]):
    """The same of all sources.

    Attributes
    ----------
    seen, ranges
        As those of a profile, those of a source together.
    canonical
        By source, and there by position.
    sampled
        As that of a profile.
    marks
        By source and position: a number that can be read in two ways, where none shows which; None where some number does.
    orders
        By source and position: the order of day and month that the steps between times show.
    """

    def __init__(self, context: Context) -> None:  # noqa: ARG002
        self._seen: dict[tuple[int, int, int, str], Seen] = {}
        self._ranges: dict[tuple[int, int], Range] = {}
        self.sampled: list[Sampled] = []
        self.canonical: dict[int, dict[int, frozenset[str]]] = {}
        self.marks: dict[tuple[int, int], Open | None] = {}
        self.orders: dict[tuple[int, int], str] = {}

    def add(self, seen: Profile) -> None:
        """Take those of a task."""
        for values in seen.seen:
            key = (values.source, values.position, values.kind, values.detail)
            before = self._seen.get(key)
            self._seen[key] = replace(before, count=before.count + values.count) if before else values
        for reach in seen.ranges:
            place = (reach.source, reach.position)
            self._ranges[place] = reach.with_more(self._ranges[place]) if place in self._ranges else reach
        self.sampled += seen.sampled
        for place, order in seen.orders.items():  # large sources come in pieces, which have to agree
            self.orders[place] = order if self.orders.get(place, order) == order else ""
        for place, first in seen.marks.items():
            self.marks[place] = first and self.marks.get(place, first)
        for (number, position), types in seen.canonical.items():
            columns = self.canonical.setdefault(number, {})
            columns[position] = columns.get(position, types) & types

    @property
    def seen(self) -> Collection[Seen]:
        """The values by source, column and kind."""
        return self._seen.values()

    @property
    def ranges(self) -> Collection[Range]:
        """The ranges of the numbers, by source and column."""
        return self._ranges.values()


class Profiling(Measure[Looked, Profile, Profiles]):
    """What a survey wants to know of the values."""

    begin = Profiles

    def look(self, rows: Looked) -> Profile:
        """Look at those of a job."""
        result = Profile()
        for part in rows.families:
            runs = _Runs(part.rows)
            sampled = {at: part.rows.columns[at].take(runs.some) for at in part.family.header.named}
            result.sampled.append(Sampled(runs.sources, runs.some_of, sampled))
            for position in part.family.header.named:
                column = part.rows.columns[position]
                seen, canonical, ranges = _look(column, position, part.rows, runs, part.family.format)
                result.seen += seen
                if any(one.kind in _WITH_MARKS for one in seen):
                    values = sampled[position].to_pylist()
                    result.marks |= _marks_shown(
                        column, values, position, part.rows, runs, part.family.format
                    )
                result.orders |= _orders_shown(column, seen, runs)
                result.ranges += ranges
                result.canonical |= {(source, position): canonical for source in runs.sources}
        return result

    def recall(self, earlier: Recalled) -> NoReturn:  # noqa: ARG002
        """A survey takes nothing over."""
        raise CannotTake("a survey looks at all values")


PROFILE = Profiling()


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
) -> tuple[Sequence[Seen], frozenset[str], Sequence[Range]]:
    """What is seen in a column, the types in whose canonical form all of its values are, and the ranges of its numbers."""
    marks = (form.decimal_mark, form.thousands_mark)
    plain = marks == (".", "")
    lone, whole = lone_kind(column) if plain else (None, None)
    if lone == EMPTY:
        return (), EVERY, ()
    if lone is None:
        kind_of, details, said, column = looks(column, marks)
        typed = frozenset() if (kind_of == ERROR).any() else _ANY
        canonical = typed if plain else frozenset()
    else:
        canonical = _canonical(lone)
        kind_of, details, said = np.full(len(column), lone, np.int8), None, [""]
        if column.null_count:
            kind_of[truths(column.is_null())] = EMPTY
    if details is None and lone in (DATETIME, TIME):
        details, said = _fineness(column)
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
        return [Seen(source, position, lone or 0, *rest) for source, *rest in together], canonical, ranges
    if details is None:
        details = np.zeros(len(column), np.int32)
    return list(_counted(rows, position, kind_of, details, said)), canonical, ranges


def _orders_shown(column: pa.Array, seen: Sequence[Seen], runs: _Runs) -> dict[tuple[int, int], str]:
    """By source the order of day and month that the steps between its times show, where no time shows it."""
    orders: dict[tuple[int, int], set[str]] = {}
    for one in seen:
        if one.kind == WRITTEN_DATETIME:
            orders.setdefault((one.source, one.position), set()).add(one.detail.removeprefix("zoned "))
    found = {}
    starts = dict(zip(runs.sources, zip(runs.first.tolist(), runs.counts, strict=True), strict=True))
    for (source, position), said in orders.items():
        if said == {"dmy mdy"}:
            first, size = starts[source]
            found[source, position] = steady_order(column.slice(first, size))
    return found


def _marks_shown(
    column: pa.Array,
    some: Sequence[str | None],
    position: int,
    rows: Rows,
    runs: _Runs,
    form: Format,
) -> dict[tuple[int, int], Open | None]:
    """By source whether a number of a column shows what its marks are, or the first that does not.

    Mostly a look at few is enough.
    """
    marks = (form.decimal_mark, form.thousands_mark)
    found: dict[tuple[int, int], Open | None] = {}
    start = 0
    for source, count, first, size in zip(
        runs.sources, runs.some_of, runs.first.tolist(), runs.counts, strict=True
    ):
        said: set[str] = set()
        for value in some[start : start + count]:
            said.add(shown_by(value, *marks) if value else "")
            if "proved" in said:
                break
        start += count
        if "proved" in said:
            found[source, position] = None
        elif said - {""} or count < size:
            first_open = ""
            for at, value in enumerate(column.slice(first, size).to_pylist(), first):
                shown = shown_by(value, *marks) if value else ""
                if shown == "proved":
                    found[source, position] = None
                    break
                if shown and not first_open:
                    first_open = value
                    found[source, position] = Open(value.strip(), int(rows.row[at]))
    return found


def _canonical(lone: int) -> frozenset[str]:
    """The types in whose canonical form all values of a kind are; words for booleans may be written with capitals."""
    kind = TYPES.get(KINDS[lone])
    return _ANY if kind is None or kind.any_case else _ANY | kind.also_canonical | {kind.name}


def _ranges(
    column: pa.Array, whole: pa.Array | None, position: int, kind_of: npt.NDArray[np.int8], runs: _Runs
) -> tuple[list[Range], Mask | None]:
    """The ranges of the numbers of each source, and which of the outermost may be missing codes, if any."""
    numeric = (kind_of == INTEGER) | (kind_of == NUMBER) | _are_plain(column, kind_of)
    made = numbers_of(whole) if whole is not None else None
    if made is not None:
        values = made.copy()
    elif numeric.all():
        values = _floats(column).copy()
    else:
        values = np.full(len(column), np.nan)
        values[numeric] = _floats(column.filter(flags(numeric)))
    maybe: Mask | None = None
    plainly = (kind_of == INTEGER) | (kind_of == NUMBER)
    for _ in range(_MOST_CODES):
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


def _are_plain(column: pa.Array, kind_of: npt.NDArray[np.int8]) -> Mask:
    """Which numbers, as people write them, were brought to plain ones."""
    result: Mask = kind_of == WRITTEN_NUMBER
    if result.any():
        at = np.flatnonzero(result)
        result[at] = truths(pc.match_substring_regex(column.take(ints(at)), _PLAIN_NUMBER))
    return result


def _floats(values: pa.Array) -> Floats:
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


def _fineness(column: pa.Array) -> tuple[npt.NDArray[np.int32], list[str]]:
    """How many digits the seconds of canonical times have."""
    lengths = Letters.of(column).lengths
    distinct = np.unique(lengths[lengths > 0]).tolist()
    said = [""]
    details = np.zeros(len(column), np.int32)
    for length in distinct:
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
