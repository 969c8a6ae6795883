"""What a run needs of an output; the formats themselves are in the room `writing`."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, Protocol, runtime_checkable

import pyarrow as pa

from integrum.assembling.job import Pack


class Output(Protocol):
    """Takes the batches of a table, in order."""

    @property
    def as_text(self) -> bool:
        """Whether it takes canonical text instead of Arrow types."""

    @property
    def pack(self) -> Pack:
        """Is called on the workers: turns a batch into a payload."""

    def begin(self, schema: pa.Schema) -> None:
        """Take the schema, before anything else."""

    def append(self, payload: Any, rows: int) -> None:
        """Take the next payload."""

    def finish(self) -> None:
        """No more will come."""


Tables = Mapping[str, tuple[Sequence[str], Sequence[Sequence[object]]]]


@runtime_checkable
class Documented(Protocol):
    """An output that keeps what there is to know about its table."""

    def document(self, tables: Tables) -> None:
        """Take tables by name, the header and the rows of each; after `finish`."""
