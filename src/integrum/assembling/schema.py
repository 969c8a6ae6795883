"""What the table is like: its columns, those that say where a row came from, and how the output takes them."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

import pyarrow as pa

from integrum.columns.table_schema import TableSchema
from integrum.plan.column import Column
from integrum.plan.rules import Provenance
from integrum.values.types import Type
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
    def table(self) -> TableSchema:
        """The columns of the table that comes out; the fields of Arrow say what the plan says of them."""
        names = [*self.provenance.names, *(column.name for column in self.columns)]
        made = TableSchema.of(names, self.columns, self.provenance)
        said = {
            self.provenance.source: "the file that the row is from",
            self.provenance.sheet: "the sheet of the workbook that the row is from",
            self.provenance.source_row: "the row in the file, the header counted, from 1",
        }
        about = [{"description": said[name]} for name in self.provenance.names]
        about += [self._said_of(column) for column in self.columns]
        fields = [field.with_metadata(each or None) for field, each in zip(made.arrow, about, strict=True)]
        return TableSchema(pa.schema(fields), made.types)

    @property
    def types(self) -> list[Type]:
        """The types of all columns of the table, in order."""
        own = [self.provenance.kind_of(name) for name in self.provenance.names]
        return [*own, *(column.kind for column in self.columns)]

    @cached_property
    def arrow(self) -> pa.Schema:
        """The same as Arrow has it."""
        return self.table.arrow

    def _said_of(self, column: Column) -> dict[str, str]:
        said = {
            "description": column.description,
            "unit": self.units.get(column.name, column.unit),
            "missing": json.dumps(column.missing, ensure_ascii=False) if column.missing else "",
        }
        return {key: value for key, value in said.items() if value}
