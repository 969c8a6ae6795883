"""What an overview and a report tell of: from a run as it ends, or from its record at any time."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from integrum.assembling.codebook import ColumnEntry
from integrum.assembling.ends import EndRow
from integrum.assembling.run import Assembled
from integrum.checking.checks import CheckResult
from integrum.engine.ledger import SourceSummary
from integrum.problems import counted

if TYPE_CHECKING:
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
        names = tuple(record.run.column_names)
        categories: dict[str, dict[str, int]] = {}
        for one in record.categories:
            categories.setdefault(one.column, {})[one.value] = one.rows
        return cls(names, record.sources, record.columns, categories, record.checks, record.ends)


def shape_of(rows: int, columns: int, assembled: int, sources: int) -> str:
    """The shape of a table, in a line.

    Examples
    --------
    >>> shape_of(5220, 10, 29, 30), shape_of(1, 1, 1, 1)
    ('5,220 rows × 10 columns from 29 of 30 sources', '1 row × 1 column from 1 of 1 source')
    """
    return (
        f"{counted(rows, 'row')} × {counted(columns, 'column')} "
        f"from {assembled:,} of {counted(sources, 'source')}"
    )
