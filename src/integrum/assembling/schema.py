"""What the table is like: its columns, those that say where a row came from, and how the output takes them."""

from __future__ import annotations

from dataclasses import dataclass

import pyarrow as pa

from integrum.columns.typed import arrow_of
from integrum.plan.column import Column
from integrum.plan.rules import Provenance
from integrum.writing.output import Pack


@dataclass(frozen=True)
class Schema:
    """The schema of a run's table; the same for all of its jobs.

    Attributes
    ----------
    columns
        All columns but those of provenance, in order.
    provenance
        The columns that say where a row came from.
    as_text
        Whether the output takes canonical text, or Arrow types.
    pack
        Turns a batch into what the output appends; importable, for workers elsewhere.
    """

    columns: tuple[Column, ...]
    provenance: Provenance
    as_text: bool
    pack: Pack

    @property
    def arrow(self) -> pa.Schema:
        """The schema of the table that comes out, with its Arrow types."""
        fields = [
            pa.field(name, kind)
            for name, kind in (
                (self.provenance.source, pa.string()),
                (self.provenance.sheet, pa.string()),
                (self.provenance.source_row, pa.int64()),
            )
            if name is not False
        ]
        return pa.schema(fields + [pa.field(column.name, arrow_of(column)) for column in self.columns])
