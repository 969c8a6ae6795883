"""The columns of a table: what Arrow knows of them, and their types."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import pyarrow as pa

from integrum.columns.typed import arrow_of
from integrum.plan.column import Column
from integrum.plan.rules import Provenance
from integrum.values.types import Type


@dataclass(frozen=True)
class TableSchema:
    """The columns of a table.

    Attributes
    ----------
    arrow
        Their names and Arrow types.
    types
        Their types, which know more: how values are written, and read again.
    """

    arrow: pa.Schema
    types: Sequence[Type] = ()

    @property
    def names(self) -> list[str]:
        """The names of the columns."""
        return list(self.arrow.names)

    def type_of(self, name: str) -> Type:
        """The type of a column."""
        return self.types[self.names.index(name)]

    @classmethod
    def of(cls, names: Sequence[str], columns: Iterable[Column], provenance: Provenance) -> TableSchema:
        """That of a table with some columns of a plan; others, which were kept, are text.

        Examples
        --------
        >>> made = TableSchema.of(["source_row", "depth", "remark"], [Column("depth", "number")], Provenance())
        >>> [one.name for one in made.types], str(made.arrow.field("depth").type)
        (['integer', 'number', 'text'], 'double')
        """
        about = {column.name: column for column in columns}
        types = [about[name].kind if name in about else provenance.kind_of(name) for name in names]
        fields = [
            (name, arrow_of(about[name]) if name in about else kind.arrow)
            for name, kind in zip(names, types, strict=True)
        ]
        return cls(pa.schema(fields), tuple(types))
