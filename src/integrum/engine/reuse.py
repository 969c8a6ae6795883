"""What a run knows of an earlier one whose rows it takes over; the room `earlier` knows the rest."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import Any, NoReturn, Protocol

import pyarrow as pa

from integrum.engine.inspecting import Inspection
from integrum.problems import Problem


class CannotTake(Exception):
    """Ends an attempt: the rows of the earlier output cannot be taken over; its text says why."""


class Reuse(Protocol):
    """Sources whose rows are taken over."""

    @property
    def sources(self) -> Collection[int]:
        """Their numbers."""

    @property
    def whole(self) -> Any:
        """The earlier output, where all of it is taken over as it is; None elsewhere."""

    def check(self, schema: pa.Schema) -> None:
        """Make sure that the table has the columns of the earlier one; raises `CannotTake`."""

    def inspection(self, number: int) -> Inspection:
        """What the inspection of a source found then."""

    def pieces(self, number: int) -> Sequence[Any]:
        """Where its rows lie in an earlier output."""

    def task(self, pieces: Sequence[Any], output: str) -> Any:
        """What takes some pieces over; see `integrum.engine.job.Task`."""

    def said_above(self, number: int) -> Sequence[Problem]:
        """What was said of the lines above its rows."""


class NoReuse:
    """Nothing is taken over."""

    sources: Collection[int] = ()
    whole: Any = None

    def check(self, schema: pa.Schema) -> None:
        """There is nothing to compare with."""

    def inspection(self, number: int) -> NoReturn:
        """Never asked for."""
        raise KeyError(number)

    def task(self, pieces: Sequence[Any], output: str) -> NoReturn:
        """Never asked for."""
        raise KeyError(output, pieces)

    pieces = said_above = inspection
