"""Values out of a list in the plan."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

import pyarrow.compute as pc

from integrum.arrow.arrays import Mask, truths
from integrum.checking.per_value import PerValue
from integrum.checking.rows import TableRows
from integrum.plan.check import Check


def allowed(check: Check) -> PerValue:
    """The check that a plan describes."""
    count = len(check.allowed)
    return PerValue(
        check.column,
        "not-allowed",
        f"not one of the {count:,} allowed values" if count > 1 else f'not "{check.allowed[0]}"',
        "if it is another spelling, add it to `values` of the column; if it is right, add it to the list",
        partial(not_among, column=check.column, values=check.allowed),
    )


def not_among(rows: TableRows, column: str, values: Sequence[str]) -> Mask:
    """Which filled cells of a column are none of these values."""
    array = rows.texts(column)
    return truths(array.is_valid()) & ~truths(pc.is_in(array, rows.wanted(column, values)))
