"""The columns of a table and their Arrow types."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import pyarrow as pa
import pyarrow.compute as pc

from integrum.plan.column import Column
from integrum.plan.rules import Provenance
from integrum.values.notation import AS_WRITTEN
from integrum.values.types import Type


def arrow_of(column: Column) -> pa.DataType:
    """The Arrow type of a column; that of times carries their zone."""
    return pa.timestamp("us", zone) if (zone := zone_of(column)) else column.kind.arrow


def zone_of(column: Column) -> str:
    """The zone of the times of a column; empty where they have none."""
    return "" if column.zone == AS_WRITTEN else column.zone


def as_numbers(array: pa.Array, column: Column) -> pa.Array:
    """Canonical texts of ordered values as an array of numbers."""
    if column.kind.is_number:
        return pc.cast(array, pa.float64())
    return pc.cast(array, arrow_of(column)) if column.zone else column.kind.cast(array)


def as_texts(array: pa.Array, column: Column) -> pa.Array:
    """Values as texts that are equal for equal values: 7.2 for 7.20, seconds in every time.

    Examples
    --------
    >>> as_texts(pa.array(["7.20", None]), Column("depth", "number")).to_pylist()
    ['7.2', None]
    >>> as_texts(pa.array(["2024-05-01T10:00"]), Column("time", "datetime")).to_pylist()
    ['2024-05-01 10:00:00']
    """
    if pa.types.is_string(array.type):
        if column.kind.has_one_text:
            return array
        array = as_numbers(array, column)
    return column.kind.to_text(array)


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
        """The schema of a table that was written. Columns that are not in its plan are text."""
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
        """The Arrow schema, with the descriptions of the plan."""
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
