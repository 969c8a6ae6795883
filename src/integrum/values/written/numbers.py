r"""Numbers as people write them: groups of thousands, a decimal comma, units, currencies, signs of many kinds.

A rule looks at the shape of a number alone: its digits stand as nines. Groups of thousands have three digits.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import lru_cache

from integrum.values.notation import Notation
from integrum.values.shapes import Expect, Part, ShapeMatch, Slice
from integrum.values.units import same_unit

_DIGITS = re.compile(rb"9+")
_MINUS = "(?:-|−|–|﹣|－)"
_SPACE = "(?: |\u00a0|\u2009|\u202f|\u2007)"
_GROUPING = (" ", "\u00a0", "\u2009", "\u202f", "\u2007", "'", "’")
_PAD = "(?: |\t|\u00a0)*"
_SUPERSCRIPT = dict(zip("⁰¹²³⁴⁵⁶⁷⁸⁹⁻⁺", "0123456789-+", strict=True))
_SIGNS = {
    "<": "<",
    ">": ">",
    "≤": "<=",
    "≥": ">=",
    "<=": "<=",
    ">=": ">=",
    "=<": "<=",
    "=>": ">=",
    "⩽": "<=",
    "⩾": ">=",
}
_SIGN = "(?:<=|>=|=<|=>|<|>|≤|≥|⩽|⩾)"
# fmt: off
CURRENCIES = (
    "€", "US$", "A$", "C$", "R$", "$", "£", "¥", "₹", "₩", "₽", "₺", "EUR", "USD", "GBP", "JPY", "CHF", "PLN", "SEK", "NOK",
    "DKK", "CZK", "HUF", "RON", "TRY", "AUD", "CAD", "NZD", "INR", "CNY", "BRL", "ZAR", "zł", "kr", "Kč", "Ft",
)
# fmt: on
_CURRENCY = "|".join(map(re.escape, CURRENCIES))
_UNIT = r"[^\s'’0-9.,+()<>=−–\-][^()<>=]{0,23}"


@lru_cache(maxsize=4096)
def number_parts(shape: bytes, notation: Notation) -> Sequence[Part] | None:
    """The parts of the canonical number for a shape.

    Examples
    --------
    >>> from integrum.values.shapes import rewritten
    >>> import pyarrow as pa
    >>> def read(*texts, **notation):
    ...     rule = lambda shape: number_parts(shape, Notation(**notation))
    ...     return rewritten(pa.array(texts), rule)[0].to_pylist()
    >>> read("+5", ".5", "−1 234.5", "(7.2)", "3-", "1,23", "3.1x10^-4")
    ['5', '0.5', '-1234.5', '-7.2', '-3', None, '3.1e-4']
    >>> read("+-1", "(+5)", "+5-")
    [None, None, None]
    >>> read("1.234,50", "0,5", "1.5", decimal_mark=",", thousands_mark=".")
    ['1234.50', '0.5', None]
    >>> read("1,000,000", "1,234.50", "$1,234.50", "1,234", "1,23")  # what can be read in one way only
    ['1000000', '1234.50', '1234.50', None, None]
    >>> read("12.3 mg/L", "12.3 g/L", unit="mg/L"), read("€ 5", "5 EUR", unit="EUR"), read("45 %", percent="share")
    (['12.3', None], ['5', '5'], ['45e-2'])
    """
    found = ShapeMatch.of(_pattern(notation.decimal_mark, notation.thousands_mark, notation.censored), shape)
    if found is None:
        return None
    parts: list[Part] = []
    if not _unit_fits(found, notation, parts):
        return None
    minus = sum(bool(found[name]) for name in ("minus", "minus_after", "trailing", "open"))
    if minus > 1 or bool(found["open"]) != bool(found["close"]):
        return None
    if found["plus"] and (minus or found["open"]):
        return None
    if found["sign"] and (minus or found["plus"]):
        return None
    parts += [b"-"] if minus else []
    parts += _body(found)
    if notation.percent == "share" and found["percent"]:
        if found["exponent"] or found["power"]:
            return None
        parts.append(b"e-2")
    return parts


@lru_cache(maxsize=4096)
def sign_parts(shape: bytes, notation: Notation) -> Sequence[Part] | None:
    """The sign before a censored number.

    Examples
    --------
    >>> sign_parts(b"< 9.99", Notation(censored=True)), sign_parts(b"9.9", Notation(censored=True))
    ([b'<'], None)
    """
    found = ShapeMatch.of(_pattern(notation.decimal_mark, notation.thousands_mark, True), shape)
    if found is None or not found["sign"] or number_parts(shape, notation) is None:
        return None
    return [_SIGNS[found["sign"]].encode()]


@lru_cache(maxsize=4096)
def unit_in(shape: bytes) -> str:
    """The text before or behind a number that may be a unit; empty where there is none.

    Examples
    --------
    >>> unit_in(b"99.9 mg/L"), unit_in(b"EUR 9"), unit_in(b"99.9"), unit_in(b"abc")
    ('mg/L', 'EUR', '', '')
    """
    for marks in ((".", ""), (",", "")):
        found = ShapeMatch.of(_pattern(*marks, True), shape)
        if found is not None:
            return (found["before"] or found["behind"]).strip()
    return ""


@lru_cache(maxsize=64)
def _pattern(decimal_mark: str, thousands_mark: str, censored: bool) -> re.Pattern[str]:
    point = re.escape(decimal_mark)
    groups = [*_GROUPING, *([thousands_mark] if thousands_mark else [])]
    ways = [f"9{{1,3}}(?:{re.escape(each)}999)+" for each in dict.fromkeys(groups) if each != decimal_mark]
    if not thousands_mark:  # two groups, or one before the decimal mark, can be nothing else
        other = re.escape("," if decimal_mark == "." else ".")
        ways.append(rf"9{{1,3}}(?:(?:{other}999){{2,}}|{other}999(?={point}9))")
    grouped = "|".join(ways)
    sign = f"(?P<sign>{_SIGN})?{_SPACE}*" if censored else "(?P<sign>\0)?"
    text = (
        rf"{_PAD}{sign}"
        rf"(?P<open>\()?(?:(?P<minus>{_MINUS})|(?P<plus>\+))?{_SPACE}?"
        rf"(?:(?P<before>{_CURRENCY})?{_SPACE}?(?P<minus_after>{_MINUS})?)?"
        rf"(?=(?:{point})?9)(?:(?P<grouped>{grouped})|(?P<whole>9+))?(?:(?P<point>{point})(?P<rest>9*))?"
        rf"(?P<exponent>[eE][+-]?9+)?(?P<power>{_SPACE}?(?P<times>[x×·*]){_SPACE}?(?P<ten>99)(?:\^|\*\*)?"
        rf"(?P<raised>[+-]?9+|−9+|[⁺⁻]?[⁰¹²³⁴⁵⁶⁷⁸⁹]+))?"
        rf"(?:{_SPACE}*(?P<percent>%)|{_SPACE}*(?P<behind>{_UNIT}))?"
        rf"(?P<trailing>{_MINUS})?(?P<close>\))?{_PAD}"
    )
    return re.compile(text)


def _unit_fits(found: ShapeMatch, notation: Notation, parts: list[Part]) -> bool:
    """Whether the text around a number is the unit of its column."""
    if found["percent"]:
        return bool(notation.percent) or notation.unit in ("%", "percent")
    if found["before"] and found["behind"]:
        return False
    for name in ("before", "behind"):
        if found[name]:
            said, wanted = found[name].strip(), notation.unit
            if not wanted and said in CURRENCIES:
                continue
            if "9" in said:
                if not wanted or len(wanted.encode()) != len(found[name].encode()):
                    return False
                parts.append(Expect(*found.span(name), wanted.encode()))
            elif not wanted or not same_unit(said, wanted):
                return False
    return True


@lru_cache(maxsize=4096)
def signs_in(shape: bytes, notation: Notation) -> tuple[str, ...]:
    """What of a number of a shape is read though no plan says that it may be there: its thousands mark, its currency,
    brackets or a minus behind it for a number below zero.

    Examples
    --------
    >>> commas = Notation(thousands_mark=",")
    >>> signs_in(b"$9,999.99", Notation()), signs_in(b"9,999.99", commas), signs_in(b"(9.9)", Notation())
    ((',', '$'), (), ('()',))
    """
    found = ShapeMatch.of(_pattern(notation.decimal_mark, notation.thousands_mark, notation.censored), shape)
    if found is None:
        return ()
    other = "," if notation.decimal_mark == "." else "."
    marks: tuple[str, ...] = (other,) if not notation.thousands_mark and other in found["grouped"] else ()
    marks += ("()",) if found["open"] else ("-",) if found["trailing"] else ()
    said = (found["before"] or found["behind"]).strip()
    return (*marks, said) if said in CURRENCIES and not notation.unit else marks


def _body(found: ShapeMatch) -> list[Part]:
    parts: list[Part] = []
    if found["grouped"]:
        start, _ = found.span("grouped")
        parts.append(Expect(start, start + 1, b"0", False))
        parts += [
            Slice(start + run.start(), start + run.end())
            for run in _DIGITS.finditer(found["grouped"].encode())
        ]
    elif found["whole"]:
        parts.append(Slice(*found.span("whole")))
    else:
        parts.append(b"0")
    if found["rest"]:
        parts += [b".", Slice(*found.span("rest"))]
    if found["exponent"]:
        parts.append(Slice(*found.span("exponent")))
    if found["power"]:
        parts += [Expect(*found.span("ten"), b"10"), b"e", *_raised(found)]
    return parts


def _raised(found: ShapeMatch) -> list[Part]:
    text, (start, stop) = found["raised"], found.span("raised")
    if text[:1] in "+-9":
        return [Slice(start, stop)]
    if text[:1] == "−":
        return [b"-", Slice(start + len("−".encode()), stop)]
    return ["".join(_SUPERSCRIPT[letter] for letter in text).encode()]
