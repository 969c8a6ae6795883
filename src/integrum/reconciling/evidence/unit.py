"""Whether two columns are given in the same unit."""

from __future__ import annotations

from integrum.reconciling.evidence.evidence import Evidence, Finding, Setting
from integrum.reconciling.known import Known
from integrum.values.units import same_unit


def weigh_unit(one: Known, other: Known, setting: Setting) -> Finding:  # noqa: ARG001
    """Compare the units that sources and names give.

    Examples
    --------
    >>> weigh_unit(Known(("T (°C)",), 1), Known(("temp",), 2, units=("degC",)), Setting(2))
    Finding(figures=(1.0, 0.0), said='same unit °C')
    """
    mine, theirs = one.given_units, other.given_units
    if not mine or not theirs:
        return Finding((0.0, 0.0))
    if any(same_unit(a, b) for a in mine for b in theirs):
        return Finding((1.0, 0.0), f"same unit {mine[0]}")
    return Finding((0.0, 1.0), f"units differ: {mine[0]} and {theirs[0]}")


UNIT = Evidence(("same unit", "units differ"), weigh_unit)
