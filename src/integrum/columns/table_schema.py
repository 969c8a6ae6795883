"""The columns of a table: what the plan says of them, their types, and what Arrow knows of them."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import pyarrow as pa

from integrum.columns.typed import arrow_of
from integrum.plan.column import Column
from integrum.plan.rules import Provenance
from integrum.values.types import Type


@dataclass(frozen=True)
class TableSchema:
    """The columns of a table; the same for all jobs of a run.

    Examples
    --------
    >>> made = TableSchema([Column("depth", "number"), Column("remark")], Provenance(sheet=False))
    >>> made.names, [one.name for one in made.types], str(made.arrow.field("depth").type)
    (['source', 'source_row', 'depth', 'remark'], ['text', 'integer', 'number', 'text'], 'double')
    """

    columns: Sequence[Column]  # all columns but those of provenance, in order
    provenance: Provenance  # the columns that say where a row came from; they come first
    units: Mapping[str, str] = field(default_factory=dict)  # units of columns, where the plan gives none

    @classmethod
    def of(cls, names: Sequence[str], columns: Sequence[Column], provenance: Provenance) -> TableSchema:
        """That of a table that is there; columns that are not in its plan were kept, and are text."""
        about = {column.name: column for column in columns}
        own = [name for name in names if name in provenance.names]
        kept = Provenance(*(one if one in own else False for one in provenance.columns))
        return cls([about.get(name) or Column(name) for name in names if name not in own], kept)

    @property
    def names(self) -> list[str]:
        """The names of all columns."""
        return [*self.provenance.names, *(column.name for column in self.columns)]

    @property
    def types(self) -> list[Type]:
        """The types of all columns."""
        own = [self.provenance.kind_of(name) for name in self.provenance.names]
        return [*own, *(column.kind for column in self.columns)]

    def type_of(self, name: str) -> Type:
        """The type of a column."""
        return self.types[self.names.index(name)]

    @cached_property
    def arrow(self) -> pa.Schema:
        """The same as Arrow has it; the fields say what the plan says of them."""
        own = self.provenance
        said = {
            own.source: "the file that the row is from",
            own.sheet: "the sheet of the workbook that the row is from",
            own.source_row: "the row in the file, the header counted, from 1",
        }
        fields = [
            pa.field(name, own.kind_of(name).arrow, metadata={"description": said[name]})
            for name in own.names
        ]
        fields += [
            pa.field(column.name, arrow_of(column), metadata=self._said_of(column)) for column in self.columns
        ]
        return pa.schema(fields)

    def _said_of(self, column: Column) -> dict[str, str] | None:
        said = {
            "description": column.description,
            "unit": self.units.get(column.name, column.unit),
            "missing": json.dumps(column.missing, ensure_ascii=False) if column.missing else "",
        }
        return {key: value for key, value in said.items() if value} or None
