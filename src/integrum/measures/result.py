"""What a run has established: from the run as it ends, or from its record at any time."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import Any, TypeVar

from integrum.engine.ledger import SourceSummary
from integrum.entries import Entries
from integrum.lost import Lost
from integrum.measures.items import (
    CategoryEntry,
    CheckResult,
    ColumnEntry,
    EndRow,
    HeaderEntry,
    VariantEntry,
)
from integrum.measures.measures import SOURCES
from integrum.measures.tables import (
    BLOCKS,
    CATEGORIES,
    CHECKS,
    COLUMNS,
    ENDS,
    HEADERS,
    PREAMBLE,
    PROBLEMS,
    VARIANTS,
)
from integrum.problems import Problem
from integrum.reading.blocks import Blocks
from integrum.reading.preamble import PreambleEntry
from integrum.record.table import RecordTable

Item = TypeVar("Item")
EVERYTHING_THERE = Lost()


class Result:
    """What is known of a run.

    Parameters
    ----------
    tables
        Files of the record with their entries; others seem to be empty.
    lost
        What is not in the table.
    """

    def __init__(
        self,
        names: Sequence[str],
        tables: Mapping[RecordTable[Any], Entries[Any]],
        lost: Lost = EVERYTHING_THERE,
    ) -> None:
        self.names, self._lost = names, lost
        self._tables = dict(tables)

    def all_of(self, table: RecordTable[Item]) -> Entries[Item]:
        """The entries of a file."""
        return self._tables.get(table, Entries())

    @property
    def lost(self) -> Lost:
        """What is not in the table."""
        return self._lost

    @property
    def sources(self) -> Entries[SourceSummary]:
        """What became of each source, in order."""
        return self.all_of(SOURCES)

    @property
    def problems(self) -> Entries[Problem]:
        """All findings."""
        return self.all_of(PROBLEMS)

    @property
    def checks(self) -> Entries[CheckResult]:
        """What each check of the plan has found."""
        return self.all_of(CHECKS)

    @property
    def columns(self) -> Entries[ColumnEntry]:
        """The codebook."""
        return self.all_of(COLUMNS)

    @property
    def categories(self) -> Entries[CategoryEntry]:
        """How often each value of the columns that have a few is in the table."""
        return self.all_of(CATEGORIES)

    @property
    def ends(self) -> Entries[EndRow]:
        """The first and the last rows of each output."""
        return self.all_of(ENDS)

    @property
    def headers(self) -> Entries[HeaderEntry]:
        """What became of each header cell."""
        return self.all_of(HEADERS)

    @property
    def preamble(self) -> Entries[PreambleEntry]:
        """What stood above the headers."""
        return self.all_of(PREAMBLE)

    @property
    def variants(self) -> Entries[VariantEntry]:
        """The headers as they are written; none in a record of schema 6."""
        return self.all_of(VARIANTS)

    @cached_property
    def blocks(self) -> Mapping[str, Blocks]:
        """The hashes of the lines of each source, block by block, by its name; none in a record of schema 6."""
        found: dict[tuple[str, int], list[str]] = {}
        for one in self.all_of(BLOCKS):
            found.setdefault((one.source, one.lines), []).append(one.blake3)
        return {source: Blocks(lines, tuple(some)) for (source, lines), some in found.items()}

    def by_category(self) -> Mapping[str, Mapping[str, int]]:
        """By column, where there are only a few, its values with their counts, the most frequent first."""
        found: dict[str, dict[str, int]] = {}
        for one in self.categories:
            found.setdefault(one.column, {})[one.value] = one.rows
        return found
