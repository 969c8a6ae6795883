"""The words of a column's name: split, without case, accents, punctuation and the unit."""

from __future__ import annotations

import re
import unicodedata
from functools import lru_cache

from integrum.columns.names.glossary import formulas
from integrum.values.units import in_name, is_unit

_CAMEL = re.compile(r"(?<=[a-z0-9])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])")
_WORD = re.compile(r"[^\W\d_]+|\d+(?:[.,]\d+)*|[%#‰]")
_LATIN = re.compile(r"([a-zA-Z])[\u0300-\u036f]+")
# units behind an underscore or a space, written without signs
_SUFFIXES = {
    "mgl": "mg/L",
    "ugl": "µg/L",
    "ngl": "ng/L",
    "gl": "g/L",
    "mgkg": "mg/kg",
    "ugm": "µg/m3",
    "mgm": "mg/m3",
    "uscm": "µS/cm",
    "mscm": "mS/cm",
    "degc": "°C",
    "degf": "°F",
    "celsius": "°C",
    "fahrenheit": "°F",
    "deg": "°",
    "degrees": "°",
    "pct": "%",
    "percent": "%",
    "cm": "cm",
    "mm": "mm",
    "km": "km",
    "um": "µm",
    "mg": "mg",
    "kg": "kg",
    "ml": "mL",
    "mv": "mV",
    "kpa": "kPa",
    "hpa": "hPa",
    "mbar": "mbar",
    "ppm": "ppm",
    "ppb": "ppb",
    "psu": "psu",
    "ntu": "NTU",
    "ha": "ha",
    "ft": "ft",
    "ms": "m/s",
    "kmh": "km/h",
    "ls": "L/s",
    "gcm": "g/cm3",
    "gm": "g/m2",
    "kgm": "kg/m3",
    "wm": "W/m2",
    "bqkg": "Bq/kg",
    "molm": "mol/m3",
    "usd": "USD",
    "eur": "EUR",
    "gbp": "GBP",
    "chf": "CHF",
    "umoll": "µmol/L",
    "mmoll": "mmol/L",
}
# a lone letter, or a word with another meaning, is a unit only behind a word for what it measures
_MEASURED = {
    "m": (
        "m",
        "depth height length level width distance dist altitude elevation elev secchi stage diameter thickness radius alt "
        "perimeter range visibility transparency clarity tiefe hoehe laenge breite profondeur hauteur distancia",
    ),
    "c": (
        "°C",
        "temperature temp t wtemp atemp watertemp airtemp temperatur temperatura dewpoint td tmin tmax tmean",
    ),
    "f": ("°F", "temperature temp t wtemp atemp watertemp airtemp dewpoint"),
    "k": ("K", "temperature temp"),
    "g": ("g", "weight mass wt biomass"),
    "l": ("L", "volume vol"),
    "s": ("s", "duration time elapsed"),
    "h": ("h", "duration effort elapsed time"),
    "hr": ("h", "duration effort elapsed time"),
    "hrs": ("h", "duration effort elapsed time"),
    "min": ("min", "duration effort elapsed"),
    "d": ("d", "duration age"),
    "days": ("d", "duration age"),
    "years": ("yr", "duration age"),
    "yr": ("yr", "duration age"),
    "v": ("V", "voltage battery batt vbat"),
    "a": ("A", "current"),
    "w": ("W", "power"),
    "in": ("in", "rain rainfall precip precipitation height width length"),
    "count": ("count", ""),
}


# capitals in brackets are degrees, but behind words for what goes by letters
_DEGREES = frozenset("CFK")
_NAMED_BY_LETTERS = frozenset(
    [
        "vitamin",
        "class",
        "group",
        "type",
        "grade",
        "category",
        "block",
        "plot",
        "site",
        "station",
        "sex",
        "gender",
        "form",
    ]
)


@lru_cache(maxsize=65536)
def words_of(name: str) -> tuple[str, ...]:
    """The words of a name and its numbers, in order; without a unit in brackets.

    Examples
    --------
    >>> words_of("WaterTemp (°C)"), words_of("Température_eau 1,5"), words_of("NO3_1")
    (('water', 'temp'), ('temperature', 'eau', '1.5'), ('no3', '1'))
    """
    plain = unicodedata.normalize("NFKC", in_name(name)[0])
    plain = without_accents(_CAMEL.sub(" ", plain)).casefold()
    found: list[str] = []
    for each in _WORD.finditer(plain):
        word = each[0].replace(",", ".")
        joined = found and each.start() and plain[each.start() - 1].isalnum() and word[0].isdigit()
        if joined and found[-1] + word in formulas():
            found[-1] += word
        else:
            found.append(word)
    return tuple(found)


def without_accents(text: str) -> str:
    """A text without the accents of Latin letters; other alphabets need theirs.

    Examples
    --------
    >>> without_accents("Température à 5 µm, й")
    'Temperature a 5 µm, й'
    """
    apart = _LATIN.sub(r"\1", unicodedata.normalize("NFD", text))
    return unicodedata.normalize("NFC", apart)


@lru_cache(maxsize=65536)
def split_unit(name: str) -> tuple[tuple[str, ...], str]:
    """The words of a name and the unit that it gives, in brackets or as its last words.

    Examples
    --------
    >>> split_unit("depth_m"), split_unit("Depth (m)"), split_unit("total phosphorus ug_l"), split_unit("class_a")
    ((('depth',), 'm'), (('depth',), 'm'), (('total', 'phosphorus'), 'µg/L'), (('class', 'a'), ''))
    """
    bracket = in_name(name)[1]
    words = words_of(name)
    if bracket:
        letter = bracket.lower()
        if bracket in _DEGREES and not _NAMED_BY_LETTERS & {*words}:
            return words, bracket
        if letter in _MEASURED and not _measures(letter, words):
            return (*words, letter), ""
        return words, bracket
    if len(words) < 2:
        return words, ""
    for size in (3, 2):
        if len(words) > size and (unit := _unit_of(words[-size:])):
            return words[:-size], unit
    last = words[-1]
    if last in _MEASURED:
        return (words[:-1], _MEASURED[last][0]) if _measures(last, words[:-1]) else (words, "")
    unit = _unit_of(words[-1:])
    return (words[:-1], unit) if unit else (words, "")


def _unit_of(words: tuple[str, ...]) -> str:
    joined = "".join(each for each in words if not each.isdigit())
    if joined in _SUFFIXES and (len(words) > 1 or words[0] == joined):
        digits = [each for each in words if each.isdigit()]
        exponent = _SUFFIXES[joined][-1] if _SUFFIXES[joined][-1].isdigit() else ""
        return _SUFFIXES[joined] if not digits or digits == [exponent] else ""
    return words[0] if len(words) == 1 and words[0] == "%" and is_unit("%") else ""


def _measures(unit: str, words: tuple[str, ...]) -> bool:
    return bool(set(_MEASURED[unit][1].split()) & set(words))
