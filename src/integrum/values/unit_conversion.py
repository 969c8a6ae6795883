"""From one unit of a quantity to another: by how much values are multiplied, and what is added.

The units themselves are those of pint. Results are rounded to twelve significant digits, so that 68 °F is 20 °C and not
20.000000000000057.
"""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from functools import cache, lru_cache
from typing import Any, NamedTuple

import numpy as np

from integrum.arrow.arrays import Floats
from integrum.values.units import factors_of, same_unit

DIGITS = 12
# parts of units that are called otherwise by pint
_CALLED: Mapping[str, str] = {
    "L": "liter", "mL": "milliliter", "uL": "microliter", "degC": "degC", "degF": "degF", "deg": "degree",
    "in": "inch", "ft": "foot", "h": "hour", "d": "day", "kn": "knot", "lx": "lux", "yd": "yard", "mi": "mile",
    "ha": "hectare",
    "%": "percent", "mbar": "millibar", "bar": "bar", "dbar": "decibar", "gallon": "gallon", "mol": "mole",
    "mmol": "millimole",
    "umol": "micromole", "nmol": "nanomole", "min": "minute", "acre": "acre", "acres": "acre", "lb": "pound",
    "lbs": "pound", "oz": "ounce", "tonne": "tonne", "psi": "psi", "atm": "atm", "mmHg": "mmHg", "inHg": "inHg",
    "ppm": "ppm", "ppb": "ppb", "mph": "mph", "week": "week", "weeks": "week", "year": "year", "years": "year",
    "yr": "year",
    "a": "year", "month": "month", "rad": "radian",
}  # fmt: skip
_PREFIXES = {
    "": "", "k": "kilo", "h": "hecto", "d": "deci", "c": "centi", "m": "milli", "u": "micro", "n": "nano", "M": "mega",
    "G": "giga",
}  # fmt: skip
_BASES = {
    "m": "meter", "g": "gram", "s": "second", "Pa": "pascal", "S": "siemens", "V": "volt", "A": "ampere", "W": "watt",
    "J": "joule", "Hz": "hertz", "L": "liter", "K": "kelvin", "N": "newton",
}  # fmt: skip
_PREFIXED = {
    f"{prefix}{unit}": f"{long}{name}" for prefix, long in _PREFIXES.items() for unit, name in _BASES.items()
}


class Linear(NamedTuple):
    """What is done to values of a unit: they are multiplied by `times`, and `plus` is added."""

    times: float
    plus: float

    def of(self, values: Floats) -> Floats:
        """The values in the other unit, rounded to twelve significant digits.

        Examples
        --------
        >>> conversion_to("degC", "°F").of(np.array([68.0, 32.0])).tolist()
        [20.0, 0.0]
        """
        raised = values * self.times
        made = raised + self.plus
        # as exact as the larger of the two terms: 32 °F is 0 °C, and not 6e-15
        size = np.maximum(np.maximum(np.abs(raised), abs(self.plus)), np.abs(made))
        with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
            places = DIGITS - 1 - np.floor(np.log10(size))
            places = np.clip(np.where(np.isfinite(places), places, 0), -300, 300)
            scale = 10.0 ** np.abs(places)
            rounded = np.where(places >= 0, np.rint(made * scale) / scale, np.rint(made / scale) * scale)
        return np.where(np.isfinite(rounded), rounded, made) + 0.0


@lru_cache(maxsize=512)
def conversion_to(wanted: str, given: str) -> Linear | None:
    """How values of one unit become values of another.

    None when one of them is not known, or they are not of one quantity.

    `wanted`, `given`: the unit that is wanted, and that of the values.

    Examples
    --------
    >>> conversion_to("m", "cm").times, conversion_to("mg/L", "µg/L").times, conversion_to("m", "mg/L")
    (0.01, 0.001, None)
    """
    if same_unit(wanted, given):
        return Linear(1.0, 0.0)
    names = [_pint_name(unit) for unit in (given, wanted)]
    if None in names:
        return None
    import pint

    quantity = _registry().Quantity
    try:
        zero, one, two = (quantity(Decimal(at), names[0]).to(names[1]).magnitude for at in (0, 1, 2))
    except (pint.PintError, ArithmeticError, AttributeError, TypeError, ValueError):
        return None
    if abs((two - one) - (one - zero)) > abs(one - zero) * Decimal("1e-12"):
        return None
    return Linear(_plain(one - zero), _plain(zero))


def _plain(value: Decimal) -> float:
    """Without the last of the digits of the arithmetic."""
    return float(f"{value:.18e}")


def _pint_name(unit: str) -> str | None:
    factors = factors_of(unit)
    called = []
    for name, power in factors:
        known = _CALLED.get(name) or _PREFIXED.get(name)
        if known is None:
            return None
        called.append(known if power == 1 else f"{known}**{power}")
    return " * ".join(called) if called else None


@cache
def _registry() -> Any:
    import pint

    return pint.UnitRegistry(non_int_type=Decimal)
