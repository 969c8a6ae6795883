"""A source of a record as it lies there today: found again, its header, and one of its rows as it is written."""

from __future__ import annotations

import os
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from integrum.intake.ledger import SourceSummary
from integrum.intake.matched import Family, families_of
from integrum.plan.plan import Plan
from integrum.problems.problem import SourceFault
from integrum.reading.cutting import cut
from integrum.reading.head import Head, read_above, read_head
from integrum.reading.parsing import Rows, parse, rows_of_cells
from integrum.reading.parts import Part, raw_text
from integrum.reading.pieces import Loaded
from integrum.reading.records import spans
from integrum.reading.stream import TextStream, reads_ranges
from integrum.remote.addresses import is_remote
from integrum.sources.source import Source
from integrum.sources.suffixes import ARCHIVE

_CHUNK = 8 << 20


@dataclass(frozen=True)
class SourceRow:
    """A row of a source."""

    raw: str  # its text as it is written
    rows: Rows  # the same, parsed: the rows of the table that it gives
    # the line of the file that it begins in, from 1; it is more than the row where cells above have line
    # breaks. 0 in a sheet.
    line: int = 0


class SourceAgain:
    """A source of a run, found again.

    Parameters
    ----------
    source
        The source as it is found today; None when it is gone.

    Attributes
    ----------
    changed
        What is not as it was: empty when all is.
    head
        Its head; None where it cannot be read.
    """

    def __init__(self, plan: Plan, summary: SourceSummary, source: Source | None) -> None:
        self._plan, self.summary = plan, summary
        self.source = source and replace(source, name=summary.source, group=summary.group)
        self.changed = self._change()
        self.family: Family | None = None
        self.above: tuple[str, ...] = ()
        self.head: Head | None = None
        if self.source:
            self._open(self.source)

    def _change(self) -> str:
        if self.source is None:
            return "does not exist any more"
        if self.summary.sheet:
            same = self.source.workbook == self.summary.workbook
        else:
            try:
                same = not self.summary.content or self.source.content() == self.summary.content
            except (OSError, SourceFault):
                return "cannot be read any more"
        return "" if same else "has changed since the run"

    def _open(self, source: Source) -> None:
        try:
            head = read_head(source, self.summary.layout)
            named: list[str] = []

            def take(_: int, part: Part, text: str) -> None:
                if part.says_columns:
                    named.append(text)

            read_above(source, self.summary.layout, take)
        except (SourceFault, OSError):
            self.changed = self.changed or "cannot be read any more"
            return
        families, (number,) = families_of(self._plan, [source], [head])
        self.head, self.family, self.above = head, families[number], tuple(named)

    def row(self, number: int) -> SourceRow | None:
        """One of its rows; None when it has none of that number, or it is not a row of data any more."""
        source, head, layout = self.source, self.head, self.summary.layout
        if source is None or head is None or self.family is None:
            return None
        try:
            for piece in cut(source, 0, 1, head, layout, keep=True):
                if piece.first_row <= number < piece.first_row + piece.rows:
                    data = piece.text or b""
                    start, end = spans(data, head.format.dialect, last=True)[number - piece.first_row]
                    line = 0 if source.sheet else self._line(source, piece.start + start)
                    return self._parsed(number, data[start:end], head, line)
        except (SourceFault, OSError, IndexError):
            return None
        return None

    def _line(self, source: Source, at: int) -> int:
        """The line that an offset lies in; of the file, or of its text where its ranges cannot be read."""
        layout, feeds, returns = self.summary.layout, 0, 0
        with source.open() if reads_ranges(source, layout) else TextStream(source, layout) as text:
            while at > 0 and (data := text.read(min(at, _CHUNK))[:at]):
                at -= len(data)
                feeds, returns = feeds + data.count(b"\n"), returns + data.count(b"\r")
        return (feeds or returns) + 1

    def _parsed(self, number: int, record: bytes, head: Head, at_line: int) -> SourceRow | None:
        line = record if record.endswith((b"\n", b"\r")) else record + b"\n"
        loaded = Loaded(0, number, 1, line, np.array([], np.int64))
        rows = parse([loaded], head.header, head.format)
        if not len(rows.row):
            return None
        wide = self.family.bound.wide if self.family else None
        return SourceRow(raw_text(record), rows_of_cells(rows, wide)[0] if wide else rows, at_line)


def sources_again(
    plan: Plan, summaries: list[SourceSummary], find: Callable[[Plan], list[Source]]
) -> dict[str, SourceAgain]:
    """Find sources of a record again, by name."""
    made = {}
    for summary in summaries:
        source = None
        place = _place_of(summary.path)
        if place:
            group = replace(
                plan.group(summary.group),
                find=[place],
                exclude=(),
                expect=None,
                labels={},
                ids="",
                sheets=(summary.sheet,) if summary.sheet else ("*",),
            )
            there = find(replace(plan, sources=[group]))
            source = next((one for one in there if _is_it(one, summary)), None)
        made[summary.source] = SourceAgain(plan, summary, source)
    return made


def _place_of(path: str) -> str:
    """Where a source can be found again: its file, or the archive that it is in; empty when neither is there."""
    if is_remote(path):
        inside = path.lower().find(f"{ARCHIVE}/")
        return path if inside < 0 else path[: inside + len(ARCHIVE)]
    return path if os.path.exists(path) else _in_archive(path)


def _in_archive(path: str) -> str:
    """The archive that a path goes through, if it does."""
    outer = os.path.dirname(path)
    while len(outer) > 1 and not os.path.exists(outer):
        outer, before = os.path.dirname(outer), outer
        if outer == before:
            return ""
    return outer if os.path.isfile(outer) else ""


def _is_it(source: Source, summary: SourceSummary) -> bool:
    return source.sheet_name == summary.sheet and (f"/{summary.file}").endswith(f"/{source.file}")
