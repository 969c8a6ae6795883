"""Sources with dates that can only be read in another order of day and month than the plan says."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping

from integrum.engine.state import State
from integrum.measures.measure import Context, Made, Measure, Recalled

# by source, column and order
Orders = Mapping[tuple[int, str, str], int]


class OtherOrders(State[Orders]):
    """Adds them up.

    Attributes
    ----------
    found
        By source, column and order how many there are.
    """

    def __init__(self, context: Context) -> None:  # noqa: ARG002
        self.found: Counter[tuple[int, str, str]] = Counter()

    def add(self, seen: Orders) -> None:
        """Take those of a task."""
        self.found.update(seen)


class DateOrders(Measure[Made, Orders, OtherOrders]):
    """Dates in another order. Where all dates of a source are, the run begins again, and none of them is read."""

    begin = OtherOrders
    is_kept = False

    def look(self, rows: Made) -> Orders:
        """They were met when the values were converted."""
        return rows.other_orders

    def recall(self, earlier: Recalled) -> Orders:  # noqa: ARG002
        """The run that read them has seen to it."""
        return {}


DATE_ORDERS = DateOrders()
