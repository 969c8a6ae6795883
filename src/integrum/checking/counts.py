"""How many rows each source gives, and how many sources there are."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from integrum.checking.kind import CheckState, Kind
from integrum.checking.rows import TableRows
from integrum.engine.ledger import SourceSummary
from integrum.plan.check import Check
from integrum.problems import Problem


@dataclass(frozen=True)
class _Counting(Kind, CheckState):
    """What is known without a look at the rows."""

    least: int
    most: int
    needs_rows = False

    def look(self, rows: TableRows) -> None:
        """Nothing."""

    def add(self, seen: None) -> None:
        """Nothing."""

    @property
    def _wanted(self) -> str:
        return f"{self.least:,}" if self.least == self.most else f"{self.least:,} to {self.most:,}"


class RowCount(_Counting):
    """How many rows each source gives."""

    def begin(self) -> RowCount:
        """The state is the check itself."""
        return self

    def findings(self, sources: Sequence[SourceSummary]) -> Iterator[Problem]:
        """Sources that give too few or too many rows."""
        for one in sources:
            if one.is_assembled and not self.least <= one.table_rows <= self.most:
                yield Problem.of(
                    "rows-per-source",
                    one.source,
                    message=f"gives {one.table_rows:,} rows of the table, expected {self._wanted}",
                    hint="is it cut off, a duplicate, or a different kind of file?",
                )


class SourceCount(_Counting):
    """How many sources are in the table."""

    def begin(self) -> SourceCount:
        """The state is the check itself."""
        return self

    def findings(self, sources: Sequence[SourceSummary]) -> Iterator[Problem]:
        """Whether there are too few or too many."""
        count = sum(one.is_assembled for one in sources)
        if not self.least <= count <= self.most:
            yield Problem.of(
                "number-of-sources",
                message=f"{count:,} sources are in the table, expected {self._wanted}",
                hint="sources.csv in the record lists all sources and shows which were set aside",
            )


def row_count(check: Check) -> RowCount:
    """The check that a plan describes."""
    return RowCount(*check.rows)


def source_count(check: Check) -> SourceCount:
    """The check that a plan describes."""
    return SourceCount(*check.sources)
