"""What a kind of check is."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any, Protocol

from integrum.checking.rows import TableRows
from integrum.engine.ledger import SourceSummary


@dataclass(frozen=True)
class Finding:
    """Something that does not hold.

    Attributes
    ----------
    code, message, hint, column, raw, count
        As those of a `Problem`.
    source
        The number of the source; -1 when it is of the table as a whole.
    row
        The row in the source, or None.
    found
        How much does not hold, where the count of the problem does not say it.
    """

    code: str
    message: str
    hint: str
    source: int = -1
    row: int | None = None
    column: str = ""
    raw: str = ""
    count: int = 1
    found: int = 0


class State(Protocol):
    """What a check has seen so far."""

    def add(self, seen: Any) -> None:
        """Take what `look` gave of a batch."""

    def findings(self, sources: Sequence[SourceSummary]) -> Iterator[Finding]:
        """What does not hold, when all rows were seen."""


class Kind(Protocol):
    """A check that is being made; it goes to the workers, so it holds nothing that grows."""

    def look(self, rows: TableRows) -> Any:
        """Look at some rows, on a worker."""

    def begin(self) -> State:
        """A state that has seen nothing."""
