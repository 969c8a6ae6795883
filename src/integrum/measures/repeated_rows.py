"""Sources that have rows of other sources: downloads that overlap, files put together, older versions, copies."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace

import numpy as np

from integrum.engine.job import FamilyRows, Looked
from integrum.engine.state import State
from integrum.measures.measure import Context, Measure, Recalled
from integrum.measures.overlaps import Overlap, overlaps_of
from integrum.measures.row_marks import Marks, marks_of
from integrum.plan.rules import Provenance
from integrum.problems import Problem, counted
from integrum.record.table import RecordColumn

CODE = "rows-in-two-sources"
_SHOWN = 3
_WHOLE = ("within", "most", "beginning", "together")
_HINT = 'to take each row once, set repeated_rows = "once" in [rules]; or exclude one of the files'


class RowsOfSources(State[Mapping[int, Marks]]):
    """Puts the marks of each source together."""

    def __init__(self, context: Context) -> None:
        self._summaries = context.summaries
        self._marks: dict[int, Marks] = {}
        self._found: dict[int, list[Overlap]] = {}
        # by source the others that it has the rows of, and how
        self._parts: dict[int, dict[int, str]] = {}

    def add(self, seen: Mapping[int, Marks]) -> None:
        """Take those of a task."""
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
    """Rows that are in two sources."""

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
        """Those of the record."""
        return {
            number: Marks.of_text(str(was.figures[self.source_column.name]))
            for number, was in earlier.was.items()
            if was.figures.get(self.source_column.name)
        }


REPEATED_ROWS = RepeatedRows()
