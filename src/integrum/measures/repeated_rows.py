"""Rows that are in the table more than once, and sources that share them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence, Set
from dataclasses import dataclass, replace
from itertools import combinations
from typing import Literal

import numpy as np

from integrum.dispatch.job import FamilyRows, Looked, State
from integrum.measures.items import RowRun
from integrum.measures.measure import Context, Measure, Recalled, TableBatch
from integrum.measures.row_marks import Marks, marks_of
from integrum.measures.tables import ROWS
from integrum.plan.rules import Provenance
from integrum.problems.problem import Problem, counted
from integrum.record.table import RecordColumn
from integrum.values.arrays import Ints

Kind = Literal["copy", "beginning", "within", "overlap", "most", "together"]
# a row that is in more sources than this is nothing special
_MOST_SOURCES = 12
# this many of the rows that should be the same have to be, and this many at least where they stand anywhere
_AGREE, _SHARE, _LEAST, _ALIGNED = 0.8, 0.8, 3, 2
# and this many of a file that was put together of others
_TOGETHER = 6
CODE = "rows-in-two-sources"
_SHOWN = 3
_WHOLE = ("within", "most", "beginning", "together")
_HINT = 'to take each row once, set repeated_rows = "once" in [rules]; or exclude one of the files'


@dataclass(frozen=True)
class Overlap:
    """Rows of one source that are also in another one."""

    kind: Kind
    source: int  # the number of the source that has them, too
    other: int  # that in which they are as well
    rows: int  # how many, as far as can be told from some of them
    row: int  # the first of them in the source


def overlaps_of(marks: Mapping[int, Marks]) -> Iterator[Overlap]:
    """Find the overlaps of some sources."""
    together = [(number, one) for number, one in marks.items() if len(one)]
    if len(together) < 2:
        return
    hashes = np.concatenate([one.hashes for _, one in together])
    owner = np.concatenate([np.full(len(one), number) for number, one in together])
    row = np.concatenate([one.rows for _, one in together])
    order = np.lexsort((owner, hashes))
    hashes, owner, row = hashes[order], owner[order], row[order]
    same = np.flatnonzero((hashes[1:] == hashes[:-1]) & (owner[1:] != owner[:-1]))
    if not len(same):
        return
    common: dict[tuple[int, int], list[tuple[int, int]]] = defaultdict(list)
    for value in np.unique(hashes[same]).tolist():
        start, end = np.searchsorted(hashes, (value, value + 1))
        there = list(zip(owner[start:end].tolist(), row[start:end].tolist(), strict=True))
        sources = [number for number, _ in there]
        if len(set(sources)) > _MOST_SOURCES or len(set(sources)) < len(sources):
            continue  # in one source more than once: it tells no place
        for (one, at), (other, there_at) in combinations(there, 2):
            common[one, other].append((at, there_at))
    told = set()
    for (one, other), places in sorted(common.items()):
        found = _judged(one, other, marks[one], marks[other], sorted(places))
        if found:
            told.add((found.source, found.other))
            yield found
    yield from _put_together(marks, common, told)


def _put_together(
    marks: Mapping[int, Marks],
    common: Mapping[tuple[int, int], Sequence[tuple[int, int]]],
    told: Set[tuple[int, int]],
) -> Iterator[Overlap]:
    """Sources that consist of several smaller ones, each too small to be told alone."""
    parts: dict[int, dict[int, set[int]]] = defaultdict(dict)
    for (one, other), places in common.items():
        larger, smaller = (one, other) if marks[one].count > marks[other].count else (other, one)
        at = 0 if larger == one else 1
        parts[larger][smaller] = {place[at] for place in places}
    for larger, found in parts.items():
        mine = marks[larger]
        kept = set(mine.rows[mine.levels >= mine.full].tolist())
        again = kept & set().union(*found.values())
        if len(found) > 1 and len(kept) >= _TOGETHER and len(again) >= _SHARE * len(kept):
            for smaller, rows in found.items():
                if (smaller, larger) not in told:
                    yield Overlap("together", smaller, larger, len(rows), marks[smaller].first)


def _judged(
    one: int, other: int, mine: Marks, theirs: Marks, places: Sequence[tuple[int, int]]
) -> Overlap | None:
    """Judge the common rows of two sources; `one` comes before `other`."""
    shifts = np.array([there - here for here, there in places])
    shift = int(np.median(shifts))
    aligned = [place for place, each in zip(places, shifts.tolist(), strict=True) if each == shift]
    if len(aligned) >= _AGREE * len(places):
        start, end = max(mine.first, theirs.first - shift), min(mine.last, theirs.last - shift)
        found, lacking = _agreement(mine, theirs, {here for here, _ in aligned}, start, end, shift)
        rows = end - start + 1
        whole_mine = (start, end) == (mine.first, mine.last)
        whole_theirs = (start + shift, end + shift) == (theirs.first, theirs.last)
        if not lacking and found >= min(_ALIGNED, rows):
            if whole_mine and whole_theirs:
                return Overlap("copy", other, one, rows, theirs.first) if mine.count == theirs.count else None
            if whole_mine:
                kind: Kind = "beginning" if start + shift == theirs.first else "within"
                return Overlap(kind, one, other, rows, mine.first)
            if whole_theirs:
                kind = "beginning" if start == mine.first else "within"
                return Overlap(kind, other, one, rows, theirs.first)
        is_chained = not (whole_mine or whole_theirs) and (
            (end == mine.last and start + shift == theirs.first)
            or (start == mine.first and end + shift == theirs.last)
        )
        if is_chained and lacking <= (1 - _AGREE) * found:
            return Overlap("overlap", other, one, rows, start + shift)
        return None
    return _scattered(one, other, mine, theirs, len(places))


def _agreement(
    mine: Marks, theirs: Marks, found: set[int], start: int, end: int, shift: int
) -> tuple[int, int]:
    """How many rows of a range that both would keep are equal, and how many are not."""
    full = max(mine.full, theirs.full)
    inside = (mine.rows >= start) & (mine.rows <= end)
    wanted = mine.rows[inside & (mine.levels >= full)]
    there = (theirs.rows >= start + shift) & (theirs.rows <= end + shift) & (theirs.levels >= full)
    lacking = max(
        sum(row not in found for row in wanted.tolist()),
        sum(row - shift not in found for row in theirs.rows[there].tolist()),
    )
    return len(found), lacking


def _scattered(one: int, other: int, mine: Marks, theirs: Marks, common: int) -> Overlap | None:
    """Whether most rows of the smaller source are in the larger one, in any order."""
    full = max(mine.full, theirs.full)
    smaller, larger = (one, other) if mine.count <= theirs.count else (other, one)
    few, many = (mine, theirs) if smaller == one else (theirs, mine)
    wanted = set(few.hashes[few.levels >= full].tolist())
    have = len(wanted & set(many.hashes[many.levels >= full].tolist()))
    if common < _LEAST or have < _SHARE * len(wanted) or not wanted:
        return None
    return Overlap("most", smaller, larger, round(few.count * have / len(wanted)), few.first)


class RowsOfSources(State[Mapping[int, Marks]]):
    """Collects the marks of each source."""

    def __init__(self, context: Context) -> None:
        self._summaries = context.summaries
        self._marks: dict[int, Marks] = {}
        self._found: dict[int, list[Overlap]] = {}
        # by source the others that it has the rows of, and how
        self._parts: dict[int, dict[int, str]] = {}

    def add(self, seen: Mapping[int, Marks]) -> None:
        """Add the counts of one job."""
        for number, marks in seen.items():
            before = self._marks.get(number)
            self._marks[number] = before.with_more(marks) if before else marks

    def finish(self) -> None:
        """Compare the sources."""
        for one in overlaps_of(self._marks):
            self._found.setdefault(one.source, []).append(one)
            if one.kind in _WHOLE:
                self._parts.setdefault(one.other, {})[one.source] = one.kind

    @property
    def overlaps(self) -> list[Overlap]:
        """All that were found."""
        return [one for some in self._found.values() for one in some]

    def of_source(self, number: int) -> str:
        """The marks of a source as a record has them."""
        return self._marks[number].as_text() if number in self._marks else ""

    def problems(self, number: int) -> Iterator[Problem]:
        """What is to be said of a source."""
        yield from self._own(number)
        parts = self._parts.get(number, {})
        if len(parts) > 1:
            yield self._told(number, 0, f"has the rows of {self._named(parts)}")
        for one in self._found.get(number, ()):
            if one.kind == "together" or (one.kind in _WHOLE and len(self._parts[one.other]) > 1):
                continue  # told of the one that has them all
            name = self._summaries[one.other].source
            if one.kind == "within":
                yield self._told(number, one.row, f"{_all(one.rows)} also in {name}")
            elif one.kind == "most":
                yield self._told(number, one.row, f"about {_are(one.rows)} also in {name}")
            elif one.kind == "copy":
                yield self._told(
                    number,
                    one.row,
                    f"has the same {counted(one.rows, 'row')} as {name}, saved in another way",
                )
            elif one.kind == "beginning":
                said = f"{_all(one.rows)} also at the beginning of {name}: is it an older version?"
                yield self._told(number, one.row, said)
            else:
                yield self._told(number, one.row, f"{_are(one.rows)} also in {name}: the two overlap")

    def _own(self, number: int) -> Iterator[Problem]:
        """A table that names other sources as where its rows are from was made of them."""
        marks = self._marks.get(number)
        if marks is None or not marks.named:
            return
        others = {one.file for at, one in enumerate(self._summaries) if at != number}
        others |= {one.label for at, one in enumerate(self._summaries) if at != number}
        if named := [name for name in marks.named if name in others]:
            yield Problem.of(
                CODE,
                self._summaries[number].source,
                message=f'looks like a table that Integrum made: its column "source" names {named[0]}, which is read, too',
                hint="exclude it, or move it to another folder",
            )

    def _named(self, parts: Mapping[int, str]) -> str:
        names = [self._summaries[number].source for number in sorted(parts)]
        more = f" and {len(names) - _SHOWN:,} more" if len(names) > _SHOWN else ""
        at_least = "at least " if "together" in parts.values() else ""
        return f"{at_least}{counted(len(names), 'other source')}: {', '.join(names[:_SHOWN])}{more}"

    def _told(self, number: int, row: int, said: str) -> Problem:
        return Problem.of(CODE, self._summaries[number].source, row or None, message=said, hint=_HINT)


def _naming(names: Mapping[int, str]) -> tuple[int, int] | None:
    """The columns with the source of each row and, perhaps, its sheet, where a table has those that Integrum writes."""
    places = {name: at for at, name in names.items()}
    if Provenance.source not in places or Provenance.source_row not in places:
        return None
    return places[str(Provenance.source)], places.get(str(Provenance.sheet), -1)


def _named_in(part: FamilyRows, naming: tuple[int, int], number: int) -> tuple[str, ...]:
    """The sources that the first and the last row of a source name."""
    start, end = np.searchsorted(part.rows.source, [number, number + 1])
    column = part.rows.columns[naming[0]]
    names = [column[at].as_py() for at in (int(start), int(end) - 1)] if end > start else []
    return tuple(dict.fromkeys(name for name in names if name))


def _are(rows: int) -> str:
    return f"{counted(rows, 'row')} {'is' if rows == 1 else 'are'}"


def _all(rows: int) -> str:
    return f"all its {counted(rows, 'row')} are" if rows > 1 else "its only row is"


class RepeatedRows(Measure[Looked, Mapping[int, Marks], RowsOfSources]):
    """The measure of rows that are in two sources."""

    begin = RowsOfSources

    source_column = RecordColumn(
        "row_marks", "some of its rows by their hashes, by which the same rows are found in other sources"
    )

    def look(self, rows: Looked) -> Mapping[int, Marks]:
        """The marks of the sources of a job."""
        found: dict[int, Marks] = {}
        sizes = {number: source.size for number, source in rows.job.sources.items()}
        for part in rows.families:
            at = list(part.family.header.named)
            columns = [part.rows.columns[each] for each in at]
            comma = part.family.format.decimal_mark == ","
            for number, marks in marks_of(columns, part.rows.source, part.rows.row, sizes, comma).items():
                if naming := _naming(part.family.header.named):
                    marks = replace(marks, named=_named_in(part, naming, number))
                found[number] = found[number].with_more(marks) if number in found else marks
        return found

    def recall(self, earlier: Recalled) -> Mapping[int, Marks]:
        """Read them from the record."""
        return {
            number: Marks.of_text(str(was.figures[self.source_column.name]))
            for number, was in earlier.was.items()
            if was.figures.get(self.source_column.name)
        }


REPEATED_ROWS = RepeatedRows()


def runs_of(source: Ints, row: Ints) -> list[RowRun]:
    """The runs of some rows of a table, which come source by source.

    Examples
    --------
    >>> [tuple(one) for one in runs_of(np.array([0, 0, 0, 1, 1]), np.array([2, 3, 5, 2, 2]))]
    [(0, 2, 2, 1), (0, 5, 1, 1), (1, 2, 1, 2)]
    """
    if not len(row):
        return []
    at = np.flatnonzero(np.append(True, (np.diff(source) != 0) | (np.diff(row) != 0)))
    each = np.diff(at, append=len(row))
    source, row = source[at], row[at]
    new = np.append(True, (np.diff(source) != 0) | (np.diff(row) != 1) | (np.diff(each) != 0))
    starts = np.flatnonzero(new)
    sizes = np.diff(starts, append=len(row))
    return [
        RowRun(*one)
        for one in zip(
            source[starts].tolist(), row[starts].tolist(), sizes.tolist(), each[starts].tolist(), strict=True
        )
    ]


class OpenRuns(State[Sequence[RowRun]]):
    """Joins runs of rows that continue across jobs, so that the result does not depend on where jobs end."""

    def __init__(self, context: Context) -> None:
        self._keep = context.keep.rows
        self._open: dict[int, RowRun] = {}

    def add(self, seen: Sequence[RowRun]) -> None:
        """Add the counts of one job."""
        for run in seen:
            last = self._open.get(run.source)
            if last and (run.row, run.each) == (last.row + last.rows, last.each):
                run = last._replace(rows=last.rows + run.rows)
            elif last:
                self._keep([last])
            self._open[run.source] = run

    def finish(self) -> None:
        """Write the last runs."""
        self._keep(list(self._open.values()))


class RowRuns(Measure[TableBatch, Sequence[RowRun], OpenRuns]):
    """The measure of which row of its source each row of the table is, where the table does not say it."""

    begin = OpenRuns

    def look(self, rows: TableBatch) -> Sequence[RowRun]:
        """The runs of a job."""
        return runs_of(rows.source, rows.row) if rows.schema.provenance.source_row is False else ()

    def recall(self, earlier: Recalled) -> Sequence[RowRun]:
        """Read them from the record."""
        return list(earlier.entries(ROWS))


ROW_RUNS = RowRuns()
