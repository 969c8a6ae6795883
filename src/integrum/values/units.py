"""Units as headers give them, and when two are the same."""

from __future__ import annotations

import re
import unicodedata

_IN_NAME = re.compile(r"(.*?\S)\s*[\[(]\s*([^\[\]()]{1,24})\s*[\])]\s*", re.DOTALL)
_ATOM = (
    r"(?:[kcmµuμnMGd]?(?:m|g|s|l|L|V|A|W|Pa|S|J|Hz|mol|eq|bar)|°\s?[CF]?|deg\s?[CFK]?|[CFK]|%|‰|ppm|ppb|psu|PSU|NTU|FNU|pH|lux|lx|"
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
_SAME = {
    "c": "degc",
    "°c": "degc",
    "celsius": "degc",
    "f": "degf",
    "°f": "degf",
    "k": "kelvin",
    "degk": "kelvin",
    "percent": "%",
    "pct": "%",
}


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
    return _UNIT.fullmatch(plain) is not None or plain.lower() in _WORDS or plain in _WORDS


def in_name(name: str) -> tuple[str, str]:
    """Split a header cell into a name and a unit in brackets at its end.

    Examples
    --------
    >>> in_name("Temp (°C)"), in_name("Depth (upper)")
    (('Temp', '°C'), ('Depth (upper)', ''))
    """
    found = _IN_NAME.fullmatch(name)
    return (found[1], found[2].strip()) if found and is_unit(found[2]) else (name, "")


def same_unit(one: str, other: str) -> bool:
    """Whether two texts mean the same unit.

    Examples
    --------
    >>> same_unit("°C", "degC"), same_unit("µS/cm", "uS/cm"), same_unit("mg/L", "g/L")
    (True, True, False)
    """
    return _plain(one) == _plain(other)


def _plain(unit: str) -> str:
    text = (
        unicodedata.normalize("NFKC", unit).replace(" ", "").strip("[]()").replace("μ", "u").replace("µ", "u")
    )
    return _SAME.get(text.lower(), _SAME.get(text.lower().replace("deg", "°"), text).replace("L", "l"))
