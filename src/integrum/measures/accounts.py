"""The rows of each source by what they are, in its ledger; and where they are in the table."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from integrum.dispatch.job import Counts, Looked, State
from integrum.measures.measure import Context, Measure, Recalled, Span, TableBatch


class LedgerCounts(State[Counts]):
    """Enters the counts of rows into the ledgers of the sources."""

    def __init__(self, context: Context) -> None:
        self._summaries = context.summaries

    def add(self, seen: Counts) -> None:
        """Add the counts of one job."""
        for part, counts in seen.parts.items():
            for number, count in counts.items():
                self._summaries[number].ledger.add(part, count)
        for number, count in seen.table.items():
            self._summaries[number].table_rows += count
        for number, count in seen.empty.items():
            self._summaries[number].empty_cells += count


class Accounts(Measure[Looked, Counts, LedgerCounts]):
    """The measure of the ledger: how many rows of each part a source has."""

    begin = LedgerCounts

    def look(self, rows: Looked) -> Counts:
        """Give the counts that the parsing has made."""
        return rows.counts

    def recall(self, earlier: Recalled) -> Counts:
        """Give the rows of data. Other parts come with the head and the inspection."""
        counts = Counts()
        for number, was in earlier.was.items():
            for part, count in was.ledger.counts.items():
                if part.counted == "rows":
                    counts.parts[part][number] = count
            counts.table[number], counts.empty[number] = was.table_rows, was.empty_cells
        return counts


@dataclass
class _Total:
    """The rows and bytes of one output so far, its header included."""

    rows: int
    bytes: int


class TablePlaces(State[tuple[str, Sequence[Span]]]):
    """Enters into the summaries at which rows of the table each source stands.

    Attributes
    ----------
    rows
        Rows of each output.
    """

    def __init__(self, context: Context) -> None:
        self._summaries = context.summaries
        self._totals = {output: _Total(0, head) for output, head in context.begun.items()}

    def add(self, seen: tuple[str, Sequence[Span]]) -> None:
        """Add the rows of one job."""
        output, spans = seen
        total = self._totals[output]
        for number, rows, size in spans:
            summary = self._summaries[number]
            if not summary.last_table_row:
                summary.first_table_row, summary.first_byte = total.rows + 1, total.bytes if size else 0
            total.rows += rows
            total.bytes += size
            summary.last_table_row, summary.end_byte = total.rows, total.bytes if size else 0

    @property
    def rows(self) -> dict[str, int]:
        """Rows by output."""
        return {output: total.rows for output, total in self._totals.items()}


class Spans(Measure[TableBatch, tuple[str, Sequence[Span]], TablePlaces]):
    """The measure of where the rows of each source are in the table."""

    begin = TablePlaces

    def look(self, rows: TableBatch) -> tuple[str, Sequence[Span]]:
        """Give where the rows are in the payload."""
        return rows.job.output, rows.spans

    def recall(self, earlier: Recalled) -> tuple[str, Sequence[Span]]:
        """Give where the rows are in the payload."""
        return earlier.output, earlier.spans


ACCOUNTS, SPANS = Accounts(), Spans()
