"""What a kind of check is."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterator, Sequence
from typing import Any

from integrum.checking.rows import TableRows
from integrum.engine.ledger import SourceSummary
from integrum.problems import Problem


class CheckState(ABC):
    """What a check has seen so far.

    Attributes
    ----------
    found
        How much does not hold, where the counts of the problems do not say it.
    """

    found = 0

    @abstractmethod
    def add(self, seen: Any) -> None:
        """Take what `Kind.look` gave of some rows."""

    @abstractmethod
    def findings(self, sources: Sequence[SourceSummary]) -> Iterator[Problem]:
        """What does not hold, when all rows were seen."""


class Kind(ABC):
    """A check that is being made; it goes to the workers, so it holds nothing that grows.

    Attributes
    ----------
    needs_rows
        Whether it looks at rows; else at what became of the sources alone.
    """

    needs_rows = True

    @abstractmethod
    def look(self, rows: TableRows) -> Any:
        """Look at some rows, on a worker."""

    @abstractmethod
    def begin(self) -> CheckState:
        """A state that has seen nothing."""
