"""Sources whose dates are all in another order of day and month than the plan says: none of them is read by it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from integrum.assembling.once import read_sources
from integrum.columns.binding import Binding
from integrum.engine.intake import Intake
from integrum.engine.matched import match
from integrum.problems import SourceFault
from integrum.reading.parsing import Rows
from integrum.values.joining import convert_joined
from integrum.values.manner import Conversion
from integrum.values.pipeline import convert


class OrdersContrary(Exception):
    """By the number of a source and a column: the order that all of its dates have."""

    def __init__(self, found: Mapping[int, Mapping[str, str]]) -> None:
        super().__init__(found)
        self.found = found


def check_orders(intake: Intake, found: Mapping[tuple[int, str, str], int]) -> None:
    """Make sure that the order of the plan is not held against all dates of a source, so that some of them are swapped.

    Raises OrdersContrary for sources of which every date can be read in another order, and not every one in the plan's.

    `found`: by source, column and order how many dates can only be read in that order.
    """
    if not found:
        return
    matched, plan_of = match(intake), read_sources(intake, {number for number, _, _ in found})
    contrary: dict[int, dict[str, str]] = {}
    for number, column, order in found:
        family = matched.family(number)
        binding = (
            next((one for one in family.bound.bindings if one.column == column), None) if family else None
        )
        if binding is None or number not in plan_of or column in contrary.get(number, {}):
            continue
        manner = replace(binding.conversion.manner, date_order=order)
        how = replace(binding.conversion, manner=manner, spelling="", allowed=(), contrary="")
        try:
            fits = all(_fits(binding, rows, how) for rows in plan_of[number].rows())
        except SourceFault:  # it is told where it is read for the table
            fits = False
        if fits:
            contrary.setdefault(number, {})[column] = order
    if contrary:
        raise OrdersContrary(contrary)


def _fits(binding: Binding, rows: Rows, how: Conversion) -> bool:
    """Whether all dates in some rows can be read so."""
    if any(at >= len(rows.columns) for at in binding.positions):
        return False
    cells = [rows.columns[at] for at in binding.positions]
    some = [convert_joined(cells, how)[0]] if binding.joined else [convert(each, how) for each in cells]
    return not any(len(one.bad) for one in some)
