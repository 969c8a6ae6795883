"""The one way in which each type is written, and single values brought to it."""

from __future__ import annotations

import re
from collections.abc import Callable
from datetime import date, datetime

# RE2 and Python read these alike
PLAIN = {
    "integer": r"^-?(0|[1-9][0-9]*)$",
    "number": r"^-?(0|[1-9][0-9]*)(\.[0-9]+)?([eE][+-]?[0-9]+)?$",
    "boolean": r"^(true|false)$",
    "date": r"^[0-9]{4}-[0-9]{2}-[0-9]{2}$",
    "datetime": r"^[0-9]{4}-[0-9]{2}-[0-9]{2}[ T][0-9]{2}:[0-9]{2}(:[0-9]{2}(\.[0-9]{1,6})?)?$",
}
_NUMBER = re.compile(r"([+-]?)(?=[0-9.])([0-9]*)(?:\.([0-9]*))?([eE][+-]?[0-9]+)?")
_MIDNIGHT = re.compile(r"([0-9-]{10})[ T]00:00(?::00(?:\.0+)?)?")
_FINE = re.compile(r"(.*\.[0-9]{6})[0-9]+")
_DATE_LETTERS = len("2024-05-01")
_WORDS = {"true": "true", "yes": "true", "1": "true", "false": "false", "no": "false", "0": "false"}


def _number(text: str) -> str | None:
    found = _NUMBER.fullmatch(text)
    if not found or not (found[2] or found[3]):
        return None
    whole = found[2].lstrip("0") or "0"
    value = ("-" if found[1] == "-" else "") + whole + (f".{found[3]}" if found[3] else "") + (found[4] or "")
    return value if abs(float(value)) != float("inf") else None


def _integer(text: str) -> str | None:
    value = _number(text)
    if value is None or "e" in value.lower():
        return None
    whole, _, rest = value.partition(".")
    if rest.strip("0") or not -(2**63) <= int(whole) < 2**63:
        return None
    return "0" if whole == "-0" else whole


def _boolean(text: str) -> str | None:
    return _WORDS.get(text.casefold())


def _date(text: str) -> str | None:
    midnight = _MIDNIGHT.fullmatch(text)
    text = midnight[1] if midnight else text
    if not re.fullmatch(PLAIN["date"], text):
        return None
    try:
        date.fromisoformat(text)
    except ValueError:
        return None
    return text


def _datetime(text: str) -> str | None:
    if len(text) == _DATE_LETTERS:
        day = _date(text)
        return f"{day} 00:00" if day else None
    fine = _FINE.fullmatch(text)
    if not re.fullmatch(PLAIN["datetime"], fine[1] if fine else text):
        return None
    try:
        datetime.fromisoformat((fine[1] if fine else text)[:26])
    except ValueError:
        return None
    return fine[1] if fine else text


_FORMS: dict[str, Callable[[str], str | None]] = {
    "integer": _integer,
    "number": _number,
    "boolean": _boolean,
    "date": _date,
    "datetime": _datetime,
}


def canonical(text: str, type_name: str) -> str | None:
    """Bring one value to the form in which its type is written.

    Parameters
    ----------
    text
        The cell.
    type_name
        A type of the plan other than ``"text"``.

    Returns
    -------
    str or None
        None when the text is no value of the type. Fractions of a second finer than a microsecond are
        cut off there.

    Examples
    --------
    >>> canonical(" +07.20", "number"), canonical("3.0", "integer"), canonical("YES", "boolean")
    ('7.20', '3', 'true')
    >>> canonical("2024-02-30", "date"), canonical("1,5", "number")
    (None, None)
    """
    return _FORMS[type_name](text.strip())
