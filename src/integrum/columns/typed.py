"""The Arrow types of the plan's columns."""

from __future__ import annotations

import pyarrow as pa
import pyarrow.compute as pc

from integrum.plan.column import Column
from integrum.values.types import TYPES
from integrum.values.zones import AS_WRITTEN


def arrow_of(column: Column) -> pa.DataType:
    """The Arrow type of a column; that of times carries their zone."""
    return pa.timestamp("us", zone) if (zone := zone_of(column)) else TYPES[column.type].arrow


def zone_of(column: Column) -> str:
    """The zone of the times of a column; empty where they have none."""
    return "" if column.zone == AS_WRITTEN else column.zone


def as_numbers(array: pa.Array, column: Column) -> pa.Array:
    """Canonical texts of numbers, dates or times as an array that can be reckoned with."""
    if column.type in ("integer", "number"):
        return pc.cast(array, pa.float64())
    return pc.cast(array, arrow_of(column)) if column.zone else TYPES[column.type].cast(array)
