"""Values between a least and a greatest one."""

from __future__ import annotations

from functools import partial

import numpy as np

from integrum.arrow.arrays import Mask, texts
from integrum.checking.per_value import PerValue
from integrum.checking.rows import TableRows
from integrum.columns.typed import as_numbers
from integrum.plan.check import Check
from integrum.plan.column import Column
from integrum.values.sketch import numbers_of


def value_range(check: Check) -> PerValue:
    """The check that a plan describes."""
    low, high = check.range
    if low == "":
        said = f"greater than {high}"
    elif high == "":
        said = f"less than {low}"
    else:
        said = f"outside the range {low} to {high}"
    return PerValue(
        check.column,
        "out-of-range",
        said,
        "fix it in the source, add it to `missing`, or widen the range",
        partial(_outside, column=check.column, low=low, high=high),
    )


def _outside(rows: TableRows, column: str, low: object, high: object) -> Mask:
    values = rows.numbers(column)
    outside = np.zeros(len(values), bool)
    if low != "":
        outside |= values < _as_number(low, rows.about[column])
    if high != "":
        outside |= values > _as_number(high, rows.about[column])
    return outside


def _as_number(bound: object, column: Column) -> float:
    if not isinstance(bound, str):
        return float(bound)  # type: ignore[arg-type]
    numbers = numbers_of(as_numbers(texts([column.kind.parse(bound)]), column))
    assert numbers is not None
    return float(numbers[0])
