"""The Arrow types of the plan's columns."""

from __future__ import annotations

import pyarrow as pa
import pyarrow.compute as pc

from integrum.plan.column import Column
from integrum.values.manner import AS_WRITTEN


def arrow_of(column: Column) -> pa.DataType:
    """The Arrow type of a column; that of times carries their zone."""
    return pa.timestamp("us", zone) if (zone := zone_of(column)) else column.kind.arrow


def zone_of(column: Column) -> str:
    """The zone of the times of a column; empty where they have none."""
    return "" if column.zone == AS_WRITTEN else column.zone


def as_numbers(array: pa.Array, column: Column) -> pa.Array:
    """Canonical texts of values that have an order as an array that can be reckoned with."""
    if column.kind.is_number:
        return pc.cast(array, pa.float64())
    return pc.cast(array, arrow_of(column)) if column.zone else column.kind.cast(array)


def as_texts(array: pa.Array, column: Column) -> pa.Array:
    """Values as texts that are the same for the same value, however it is written: 7.2 for 7.20, seconds for every time.

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
