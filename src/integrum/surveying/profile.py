"""What kinds of values the columns of sources hold."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import chain
from typing import NoReturn

import pyarrow as pa

from integrum.dispatch.job import Looked, State
from integrum.intake.intake import CannotTake
from integrum.measures.measure import Context, Measure, Recalled
from integrum.reading.head import Format
from integrum.reading.parsing import Rows
from integrum.surveying.column_looks import MOST_ROWS, ColumnLook, look, look_together
from integrum.surveying.rows import SourceRuns
from integrum.surveying.seen import Range, Seen
from integrum.values.digits import shown_by
from integrum.values.evidence import CENSORED, NUMBER, WRITTEN_DATETIME, WRITTEN_NUMBER
from integrum.values.spelling import steady_order

_WITH_MARKS = frozenset({NUMBER, WRITTEN_NUMBER, CENSORED})


@dataclass(frozen=True)
class Sampled:
    """Sample rows of some sources."""

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
    """Collects the profiles of all sources.

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
        self._seen: dict[tuple[int, int], list[Seen]] = {}
        self._ranges: dict[tuple[int, int], Range] = {}
        self.sampled: list[Sampled] = []
        self.canonical: dict[int, dict[int, frozenset[str]]] = {}
        self.marks: dict[tuple[int, int], Open | None] = {}
        self.orders: dict[tuple[int, int], str] = {}

    def add(self, seen: Profile) -> None:
        """Add the counts of one job."""
        here: dict[tuple[int, int], list[Seen]] = {}
        for values in seen.seen:
            here.setdefault((values.source, values.position), []).append(values)
        for place, some in here.items():  # a large source comes in pieces
            self._seen[place] = _together(self._seen[place], some) if place in self._seen else some
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
    def seen(self) -> Iterator[Seen]:
        """The values by source, column and kind."""
        return chain.from_iterable(self._seen.values())

    @property
    def ranges(self) -> Collection[Range]:
        """The ranges of the numbers, by source and column."""
        return self._ranges.values()


def _together(before: Iterable[Seen], more: Iterable[Seen]) -> list[Seen]:
    """What was seen of a column in two pieces of a source."""
    found: dict[tuple[int, str], Seen] = {}
    for one in chain(before, more):
        key = (one.kind, one.detail)
        found[key] = replace(found[key], count=found[key].count + one.count) if key in found else one
    return list(found.values())


class Profiling(Measure[Looked, Profile, Profiles]):
    """The measure of kinds, ranges and samples for a survey."""

    begin = Profiles

    def look(self, rows: Looked) -> Profile:
        """Look at the rows of a job."""
        result = Profile()
        for part in rows.families:
            runs, form = SourceRuns(part.rows), part.family.format
            columns = {at: part.rows.columns[at] for at in part.family.header.named}
            some = pa.RecordBatch.from_arrays(list(columns.values()), list(map(str, columns))).take(runs.some)
            sampled = dict(zip(columns, some.columns, strict=True))
            result.sampled.append(Sampled(runs.sources, runs.some_of, sampled))
            for position, one in _looks_at(columns, part.rows, runs, form):
                column = columns[position]
                result.seen += one.seen
                if any(each.kind in _WITH_MARKS for each in one.seen):
                    values = sampled[position].to_pylist()
                    result.marks |= _marks_shown(column, values, position, part.rows, runs, form)
                result.orders |= _orders_shown(column, one.seen, runs)
                result.ranges += one.ranges
                result.canonical |= {(source, position): one.canonical for source in runs.sources}
        return result

    def recall(self, earlier: Recalled) -> NoReturn:  # noqa: ARG002
        """Never called: a survey takes nothing over."""
        raise CannotTake("a survey looks at all values")


PROFILE = Profiling()


def _looks_at(
    columns: Mapping[int, pa.Array], rows: Rows, runs: SourceRuns, form: Format
) -> Iterator[tuple[int, ColumnLook]]:
    """What is seen in columns, by position: in short ones at once."""
    if not len(rows.row):
        return
    if len(columns) > 1 and len(rows.row) <= MOST_ROWS:
        seen = look_together(columns, runs, (form.decimal_mark, form.thousands_mark))
    else:
        seen = ((position, None) for position in columns)
    for position, one in seen:
        yield position, one or look(columns[position], position, rows, runs, form)


def _orders_shown(column: pa.Array, seen: Sequence[Seen], runs: SourceRuns) -> dict[tuple[int, int], str]:
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
    runs: SourceRuns,
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
