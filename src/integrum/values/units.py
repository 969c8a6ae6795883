"""Units as headers give them, when two are the same, and how one becomes another."""

from __future__ import annotations

import re
from collections.abc import Mapping
from decimal import Decimal
from functools import cache, lru_cache
from typing import Any, NamedTuple

import numpy as np

from integrum.values.arrays import Floats

_BEHIND_COMMA = re.compile(r"(.*[^\W\d_].*?)\s*,\s*([^\s,\[\]()]{1,12})\s*")
_IN_NAME = re.compile(r"(.*?\S)\s*[\[(]\s*([^\[\]()]{1,24})\s*[\])]\s*", re.DOTALL)
_ATOM = (
    r"(?:[kcmµuμnMGd]?(?:m|g|s|l|L|V|A|W|Pa|S|J|Hz|mol|eq|bar)|°\s?[CF]?|[Dd]eg\s?[CFK]?|[CFK]|%|‰|ppm|ppb|psu|PSU|NTU|FNU|pH|lux|lx|"
    r"min|hr?s?|d|days?|yr|years?|ha|sec|hPa|dbar|count|cells|cfu|CFU|units?|mS|rpm|kn|knots|ft|in|cm|mm|km|mV|dd|yy+|YY+|DD|MM|mm|hh|HH|ss|SS|UTC|local)"
)
_POWER = r"(?:[²³⁻¹]|\^?-?[0-9])*"
# fmt: off
_WORDS = frozenset(
    (
        "MHz", "acre", "acres", "ampere", "amperes", "atm", "cells", "celsius", "centimeter", "centimeters",
        "centimetre", "centimetres", "cfs", "cms", "cumec", "dB", "days", "degree", "degrees",
        "dimensionless", "fahrenheit", "feet", "foot", "gal", "gallons", "gram", "grams", "hectare",
        "hectares", "hour", "hours", "hr.", "hrs", "inch", "inches", "ind", "ind.", "individuals", "kHz",
        "kelvin", "kilogram", "kilograms", "kilometer", "kilometers", "kilometre", "kilometres", "knots",
        "lb", "lbs", "liter", "liters", "litre", "litres", "lux", "mbar", "meter", "meters", "metre",
        "metres", "mile", "miles", "milligram", "milligrams", "milliliter", "milliliters", "millilitre",
        "millilitres", "millimeter", "millimeters", "millimetre", "millimetres", "min.", "minute",
        "minutes", "mmol/L", "mmol/l", "mol/L", "mol/l", "month", "months", "oz", "pascal", "percent",
        "psi", "rad", "ratio", "sec.", "second", "seconds", "specimens", "tonne", "tonnes", "umol/L",
        "unitless", "volt", "volts", "watt", "watts", "week", "weeks", "yard", "yards", "years", "µmol/L",
        "µmol/l", "μmol/L",
    )
)
# fmt: on
_UNIT = re.compile(rf"{_ATOM}{_POWER}(?:\s?[/·*. :-]\s?{_ATOM}{_POWER})*|-|–|n/?a|none")
_PARTS, _RAISED_BY = 2, re.compile(r"\^?[23²³]$")
# how single parts of units are also written; letters outside ASCII and case aside where `_ANY_CASE` has them
_NAMES = {
    "°": "deg", "℃": "degC", "°C": "degC", "C": "degC", "oC": "degC", "ºC": "degC", "celsius": "degC", "degc": "degC",
    "℉": "degF", "°F": "degF", "F": "degF", "oF": "degF", "ºF": "degF", "fahrenheit": "degF", "degf": "degF",
    "°K": "K", "degK": "K", "kelvin": "K", "percent": "%", "pct": "%", "permille": "‰", "psu": "PSU", "ntu": "NTU",
    "ftu": "FTU", "fnu": "FNU", "ph": "pH", "l": "L", "liter": "L", "litre": "L", "liters": "L", "litres": "L",
    "ltr": "L",
    "ml": "mL", "µl": "uL", "ul": "uL", "ugl": "ug/L", "mgl": "mg/L", "milliliter": "mL", "millilitre": "mL",
    "milliliters": "mL",
    "millilitres": "mL", "gram": "g", "grams": "g", "milligram": "mg", "milligrams": "mg", "microgram": "ug",
    "micrograms": "ug", "mcg": "ug", "nanogram": "ng", "nanograms": "ng", "kilogram": "kg", "kilograms": "kg",
    "meter": "m", "metre": "m", "meters": "m", "metres": "m", "mtr": "m", "centimeter": "cm", "centimetre": "cm",
    "centimeters": "cm", "centimetres": "cm", "millimeter": "mm", "millimetre": "mm", "millimeters": "mm",
    "millimetres": "mm", "kilometer": "km", "kilometre": "km", "kilometers": "km", "kilometres": "km",
    "foot": "ft", "feet": "ft", "inch": "in", "inches": "in", "yard": "yd", "yards": "yd", "mile": "mi", "miles": "mi",
    "second": "s", "seconds": "s", "sec": "s", "sec.": "s", "minute": "min", "minutes": "min", "min.": "min",
    "hour": "h", "hours": "h", "hr": "h", "hrs": "h", "hr.": "h", "day": "d", "days": "d", "pascal": "Pa",
    "hpa": "hPa", "kpa": "kPa", "volt": "V", "volts": "V", "watt": "W", "watts": "W", "knots": "kn", "knot": "kn",
    "kt": "kn", "hectare": "ha", "hectares": "ha", "umho": "uS", "umhos": "uS", "mmho": "mS", "mmhos": "mS",
    "cfs": "ft3/s", "cms": "m3/s", "cumec": "m3/s", "cumecs": "m3/s", "gal": "gallon", "gallons": "gallon",
    "lux": "lx", "€": "EUR", "$": "USD", "£": "GBP", "¥": "JPY", "zł": "PLN", "zl": "PLN", "eur": "EUR", "usd": "USD",
    "gbp": "GBP", "chf": "CHF", "pln": "PLN", "mbar": "mbar", "ppt": "ppt", "count": "count", "counts": "count",
}  # fmt: skip
_PER = re.compile(r"\s*/\s*|\s+per\s+")
_TIMES = re.compile(r"\s*[·*.×]\s*|\s+")
_FACTOR = re.compile(r"(.*?[^\d^*+-])(?:\^|\*\*)?([+-]?\d+)?")
_RAISED = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹⁻⁺−", "0123456789-+-")
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


@lru_cache(1 << 12)
def is_unit(text: str) -> bool:
    """Whether a text reads as a unit, or as the sign that there is none.

    Examples
    --------
    >>> [is_unit(text) for text in ("°C", "[mg/L]", "µS/cm", "yyyy-mm-dd hh:mm", "Ambermere", "12.5")]
    [True, True, True, True, False, False]
    """
    plain = text.strip()
    if plain[:1] + plain[-1:] in ("[]", "()"):
        plain = plain[1:-1].strip()
    if _UNIT.fullmatch(plain) is not None or plain.lower() in _WORDS or plain in _WORDS:
        return True
    parts = plain.split("/")
    return len(parts) == _PARTS and all(_RAISED_BY.sub("", part).lower() in _WORDS for part in parts)


@lru_cache(1 << 12)
def in_name(name: str) -> tuple[str, str]:
    """Split a header cell into a name and a unit in brackets at its end, or behind a comma.

    Examples
    --------
    >>> in_name("Temp (°C)"), in_name("Depth (upper)"), in_name("Temp, °C")
    (('Temp', '°C'), ('Depth (upper)', ''), ('Temp', '°C'))
    """
    found = _IN_NAME.fullmatch(name) or _BEHIND_COMMA.fullmatch(name)
    return (found[1], found[2].strip()) if found and is_unit(found[2]) else (name, "")


def same_unit(one: str, other: str) -> bool:
    """Whether two texts mean the same unit.

    Examples
    --------
    >>> same_unit("°C", "degC"), same_unit("µS/cm", "uS/cm"), same_unit("mg/L", "g/L")
    (True, True, False)
    >>> same_unit("mg.l-1", "mg/L"), same_unit("m³ s⁻¹", "m3/s"), same_unit("deg C", "Celsius"), same_unit("mS", "ms")
    (True, True, True, False)
    """
    return one == other or factors_of(one) == factors_of(other)


@lru_cache(maxsize=1024)
def factors_of(unit: str) -> tuple[tuple[str, int], ...]:
    """A unit as a product: its parts in their common spelling, each with its power.

    Examples
    --------
    >>> factors_of("mg.l-1"), factors_of("degrees Celsius"), factors_of("W m-2")
    ((('L', -1), ('mg', 1)), (('degC', 1),), (('W', 1), ('m', -2)))
    """
    text = unit.translate(_RAISED).replace("μ", "u").replace("µ", "u").strip()
    if text[:1] + text[-1:] in ("[]", "()"):
        text = text[1:-1].strip()
    text = re.sub(
        r"(?i)(?:°|º|\bdeg(?:rees?)?\.?)\s*(c|f|k)(?:elsius|ahrenheit|elvin)?\b",
        lambda found: f"deg{found[1].upper()}",
        text,
    )
    text = re.sub(r"(?<=[A-Za-z])\(|\)", " ", text)
    powers: dict[str, int] = {}
    for place, side in enumerate(_PER.split(text)):
        for factor in filter(None, _TIMES.split(side)):
            _count(factor, -1 if place else 1, powers)
    return tuple(sorted((name, power) for name, power in powers.items() if power))


def _count(factor: str, power: int, powers: dict[str, int]) -> None:
    found = _FACTOR.fullmatch(factor)
    name, raised = (found[1], int(found[2] or 1)) if found else (factor, 1)
    name = _NAMES.get(name) or _NAMES.get(name.lower(), name)
    if "/" in name:  # a short word for a quotient
        for part, (under, said) in enumerate(zip(("", "-"), name.split("/"), strict=True)):
            _count(said, power * raised * (-1 if under or part else 1), powers)
        return
    powers[name] = powers.get(name, 0) + power * raised


class Linear(NamedTuple):
    """A linear conversion of units: values are multiplied by `times`, then `plus` is added."""

    times: float
    plus: float

    def of(self, values: Floats) -> Floats:
        """Convert values, rounded to twelve significant digits.

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
    """The conversion from one unit to another; None where there is none.

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
    """Round away the last digits of floating-point arithmetic."""
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
