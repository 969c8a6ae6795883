"""What the table is like: its columns, those that say where a row came from, and how the output takes them."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass, field

import pyarrow as pa

from integrum.columns.typed import arrow_of
from integrum.plan.column import Column
from integrum.plan.rules import Provenance
from integrum.writing.csv import pack_guarded
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
    units
        The units of its columns.
    """

    columns: tuple[Column, ...]
    provenance: Provenance
    as_text: bool
    pack: Pack
    units: Mapping[str, str] = field(default_factory=dict)

    @property
    def is_guarded(self) -> bool:
        """Whether its texts are guarded against formulas."""
        return self.pack is pack_guarded

    @property
    def arrow(self) -> pa.Schema:
        """The schema of the table that comes out, with its Arrow types; the fields say what the plan says of them."""
        fields = [
            pa.field(name, kind, metadata={"description": said})
            for name, kind, said in (
                (self.provenance.source, pa.string(), "the file that the row is from"),
                (self.provenance.sheet, pa.string(), "the sheet of the workbook that the row is from"),
                (self.provenance.source_row, pa.int64(), "the row in the file, the header counted, from 1"),
            )
            if name is not False
        ]
        return pa.schema(
            fields
            + [
                pa.field(column.name, arrow_of(column), metadata=self._said_of(column))
                for column in self.columns
            ]
        )

    def _said_of(self, column: Column) -> dict[str, str] | None:
        said = {
            "description": column.description,
            "unit": self.units.get(column.name, column.unit),
            "missing": json.dumps(column.missing, ensure_ascii=False) if column.missing else "",
        }
        return {key: value for key, value in said.items() if value} or None
