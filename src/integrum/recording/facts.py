"""What an overview and a report tell of: from a run as it ends, or from its record at any time."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from integrum.assembling.codebook import ColumnEntry
from integrum.assembling.ends import EndRow
from integrum.assembling.run import Assembled
from integrum.checking.checks import CheckResult
from integrum.engine.ledger import SourceSummary
from integrum.recording.read import Record


@dataclass(frozen=True)
class Facts:
    """What a run has established.

    Attributes
    ----------
    names
        The columns of the table.
    sources, columns, categories, checks, ends
        As those of `Assembled`.
    """

    names: tuple[str, ...]
    sources: Sequence[SourceSummary]
    columns: Sequence[ColumnEntry]
    categories: Mapping[str, Mapping[str, int]]
    checks: Sequence[CheckResult]
    ends: Sequence[EndRow]

    @classmethod
    def of_run(cls, made: Assembled) -> Facts:
        """Those of a run that has ended."""
        names = tuple(made.schema.names)
        return cls(names, made.sources, made.columns, made.categories, made.checks, made.ends)

    @classmethod
    def of_record(cls, record: Record) -> Facts:
        """Those that a record tells."""
        names = tuple(one["name"] for one in record.run["columns"])
        categories: dict[str, dict[str, int]] = {}
        for one in record.categories:
            categories.setdefault(one.column, {})[one.value] = one.rows
        return cls(names, record.sources, record.columns, categories, record.checks, record.ends)
