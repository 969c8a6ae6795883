"""What collects one thing that a run or a survey finds out about its rows or sources."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any, Generic, TypeVar

from integrum.problems import Problem
from integrum.record.table import RecordTable

Seen = TypeVar("Seen")


class State(Generic[Seen]):
    """Takes what was seen of each task, in order; it has those of these methods that there is something to say in."""

    def add(self, seen: Seen) -> None:
        """Take what was seen of a task."""

    def finish(self) -> None:
        """All tasks have come."""

    def problems(self, number: int) -> Iterable[Problem]:  # noqa: ARG002
        """What is to be said of the rows of a source."""
        return ()

    def findings(self) -> Iterable[Problem]:
        """What is to be said of the table as a whole."""
        return ()

    def entries(self) -> Iterable[tuple[RecordTable[Any], Iterable[Any]]]:
        """Files of the record that it fills, with their entries."""
        return ()

    def of_source(self, number: int) -> object:  # noqa: ARG002
        """Its cell of a source in ``sources.csv``, where its measure has a column there."""
        return ""

    def of_values(self, at: int) -> Mapping[int, str]:  # noqa: ARG002
        """By source its cells of a column in ``values.csv``, where its measure has a column there."""
        return {}
