"""Trace rows of an output to the lines of their sources."""

from __future__ import annotations

import os
from collections.abc import Callable, Collection, Sequence
from dataclasses import replace
from datetime import date, time
from typing import Any

from integrum.columns.binding import Binding, conversion, explain
from integrum.errors import OutputError
from integrum.intake.ledger import SourceSummary
from integrum.plan.column import Column
from integrum.plan.plan import Plan
from integrum.problems.problem import near
from integrum.publish.write import WrittenOutput
from integrum.reading.records import Dialect
from integrum.results.read import Record
from integrum.results.rows_found import TableRow
from integrum.results.traced import Traced, TracedValue
from integrum.results.traced_sources import SourceAgain, SourceRow, sources_again
from integrum.sources.source import Source
from integrum.workbooks.places import letters


class Tracer:
    """Traces rows of one output.

    Parameters
    ----------
    plan
        The plan of the run, with absolute paths.
    unread
        By column the functions of the analyst's own that may not be run.
    """

    def __init__(
        self,
        record: Record,
        output: WrittenOutput,
        plan: Plan,
        unread: dict[str, str],
        asked: Collection[str],
    ) -> None:
        self._record, self._output, self._plan, self._unread = record, output, plan, unread
        self._asked = asked
        where = os.path.relpath(output.path, record.folder).replace(os.sep, "/")
        one = len(record.outputs) == 1
        self._sources = [
            each for each in record.sources if each.is_assembled and (one or each.output == where)
        ]
        self._columns = {column.name: column for column in plan.table_columns}

    def trace(self, rows: Sequence[TableRow], find: Callable[[Plan], list[Source]]) -> list[Traced]:
        """Trace rows.

        Parameters
        ----------
        rows
            Rows of the table.
        find
            Finds the sources of a plan.
        """
        of = [self._source_of(row) for row in rows]
        again = sources_again(self._plan, list({one.source: one for one in of}.values()), find)
        return [self._traced(row, again[one.source]) for row, one in zip(rows, of, strict=True)]

    def _source_of(self, row: TableRow) -> SourceSummary:
        """The source of a row: as the row says itself, or by its place in the table."""
        says = self._plan.provenance
        label, sheet = row.values.get(str(says.source)), row.values.get(str(says.sheet)) or ""
        if says.source is not False:
            named = [
                one
                for one in self._sources
                if one.label == label and (says.sheet is False or one.sheet == sheet)
            ]
            if len(named) == 1:
                return named[0]
        found = [one for one in self._sources if one.first_table_row <= row.number <= one.last_table_row]
        if not found:
            raise OutputError(
                f"row {row.number:,} has a source that is not in the record; was it added since?"
            )
        return found[0]

    def _source_row(self, row: TableRow, summary: SourceSummary) -> int | None:
        says = self._plan.provenance.source_row
        if says is not False:
            value = row.values.get(says)
            return value if isinstance(value, int) else None
        left = row.number - summary.first_table_row
        for run in self._record.rows:
            if run.source == summary.source:
                if left < run.rows * run.each:
                    return run.row + left // run.each
                left -= run.rows * run.each
        return None

    def _traced(self, row: TableRow, again: SourceAgain) -> Traced:
        summary = again.summary
        number = self._source_row(row, summary)
        there = again.row(number) if number else None
        remarks = [f"{near(summary.path)} {again.changed}"] if again.changed else []
        if there is None and again.source:
            lost = f"it does not have row {number:,} of data any more"
            remarks.append(lost if number else "it is not clear which of its rows this is")
        values = self._values(row, again, there)
        differ = [one.column for one in values if one.said and not self._is_same(row, one)]
        if there and differ:
            remarks.append(f"read again, it gives other values in {', '.join(differ)} than the table has")
        return Traced(
            near(self._output.path),
            row.number,
            summary.file,
            summary.sheet,
            summary.path,
            number,
            again.above,
            there.raw if there else None,
            tuple(values),
            tuple(remarks),
            again.family.format.dialect if again.family else Dialect(),
            there.line if there else 0,
        )

    def _values(self, row: TableRow, again: SourceAgain, there: SourceRow | None) -> list[TracedValue]:
        names = [name for name in self._record.schema.names if name not in self._plan.provenance.names]
        return [self._value(name, row, again, there) for name in names]

    def _value(self, name: str, row: TableRow, again: SourceAgain, there: SourceRow | None) -> TracedValue:
        asked = name in self._asked
        given = row.values.get(name)
        shown = None if given is None else _shown(given)
        if name in again.summary.identifiers:
            return TracedValue(name, shown, said=self._identifier(name, again.summary), asked=asked)
        if there is None or again.family is None:
            return TracedValue(name, shown, asked=asked)
        at = self._which(row, again, there)
        read = self._read(name, again, there, at)
        positions = tuple(
            place for position in read.positions for place in self._wide_places(position, at, again, there)
        )
        sheet = again.source.sheet if again.source else None
        number = there.rows.row[at]
        places = [f"{letters(sheet.first_column + each)}{number}" for each in positions] if sheet else []
        return replace(
            read,
            value=shown if name in self._unread else read.value,
            positions=positions,
            places=tuple(places) if len(places) == len(read.cells) else (),
            asked=asked,
        )

    def _binding(self, name: str, column: Column, again: SourceAgain) -> Binding:
        assert again.family is not None
        bound = again.family.bound
        known = next((one for one in bound.bindings if one.column == name), None)
        if known:
            return known
        kept = dict(bound.unlisted)
        return Binding(name, (kept[name],) if name in kept else (), conversion(column), headers=(name,))

    def _which(self, row: TableRow, again: SourceAgain, there: SourceRow) -> int:
        """Of the rows that a row of a wide source gives, the one with the values of the row of the table."""
        wide = again.family.bound.wide if again.family else None
        if wide is None:
            return 0
        for at in range(len(there.rows.row)):
            values = [self._read(name, again, there, at) for name in wide.columns if name in self._columns]
            if all(self._is_same(row, one) for one in values):
                return at
        return 0

    def _read(self, name: str, again: SourceAgain, there: SourceRow, at: int) -> TracedValue:
        """A column of one of the rows that a row of a source gives."""
        column = self._columns.get(name, Column(name))
        binding = self._binding(name, column, again)
        cells = tuple(there.rows.columns[position][at].as_py() for position in binding.positions)
        if not cells:
            return TracedValue(name, None, said="no such column in the source")
        own = self._unread.get(name, "")
        value, said = explain(column, binding, cells, own)
        return TracedValue(name, value, binding.headers, cells, binding.positions, (), said)

    def _wide_places(self, position: int, at: int, again: SourceAgain, there: SourceRow) -> tuple[int, ...]:
        """Where the cell behind a column of a wide source stands in its row."""
        assert again.family is not None
        wide = again.family.bound.wide
        if wide is None or position < wide.width:
            return (position,)
        names = [there.rows.columns[wide.width + number][at].as_py() for number in range(len(wide.names))]
        key = next((number for number, one in enumerate(wide.keys) if list(one) == names), None)
        if key is None:
            return ()
        column = position - wide.width - len(wide.names)
        if column < 0:
            return ()
        place = wide.cells[key][column]
        return (place,) if place >= 0 else ()

    def _identifier(self, name: str, summary: SourceSummary) -> str:
        group = self._plan.group(summary.group)
        if name in group.constants:
            return "a constant of the group in the plan"
        if name in group.facts:
            return "a fact about the file"
        if name in summary.layout.capture:
            return f'from the preamble: "{summary.layout.capture[name]}"'
        return f"from the path, by {' or '.join(group.schemes)}" if group.ids else "an identifier"

    def _is_same(self, row: TableRow, value: TracedValue) -> bool:
        """Whether a value that was read again is the one in the table."""
        given = row.values.get(value.column)
        if not value.positions or value.column in self._unread:
            return True
        if given is None or value.value is None:
            return given is None and value.value is None
        return _shown(given) == value.value or _alike(given, value.value)


def _shown(value: Any) -> str:
    """A value of the table as a text."""
    if isinstance(value, bool):
        return str(value).lower()
    if isinstance(value, float):
        return f"{value:.15g}"
    text = str(value)
    return text.removesuffix("+00:00") if hasattr(value, "isoformat") else text


def _alike(given: Any, text: str) -> bool:
    """Whether a text says a value of the table, in whatever form."""
    try:
        if isinstance(given, (int, float)) and not isinstance(given, bool):
            return float(text) == float(given)
        if isinstance(given, (date, time)):  # a datetime is a date, too
            return type(given).fromisoformat(text) == given
    except (ValueError, TypeError):
        return False
    return str(given) == text
