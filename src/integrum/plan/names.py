"""When two header names differ only in how they are written."""

from __future__ import annotations

import re
import unicodedata
from functools import lru_cache

_DASH = re.compile("[‐-―−]")
# a point or comma before a digit, a plus or minus beside one
_SIGN = re.compile(r"[.,](?=\d)|(?<=\d)[+-]|[+-](?=\d)")
# what stands for them: signs that are never taken out
_KEPT = {".": "⋅", ",": "∙", "-": "¬", "+": "+"}

# the part of a header cell that names an instrument, as in "Temp (S/N: 10482)"
_SERIAL = re.compile(
    r"[ ,;_]*[\[(][^\[\]()]*\b(?:s/n|sn|ser(?:ial)?(?: ?(?:no|number|nr))?\.?|sensor|logger|device|probe|id)\b"
    r"[^\[\]()]*\d{3,}[^\[\]()]*[\])]|[ ,;_]+(?:s/n|sn|serial(?: ?(?:no|number|nr))?)\.?[ :#=_-]*\d{3,}\w*",
    re.IGNORECASE,
)


def without_serial(name: str) -> str:
    """A header cell without the serial number of the instrument.

    Examples
    --------
    >>> without_serial("Temp, °C (S/N: 20481384)"), without_serial("Light [sensor 1042]"), without_serial("Count (2019)")
    ('Temp, °C', 'Light', 'Count (2019)')
    """
    return _SERIAL.sub("", name).strip() or name


def serial_pattern(name: str) -> str:
    """A pattern for a header cell with the serial number of any instrument; empty where it has none.

    Examples
    --------
    >>> serial_pattern("Temp, °C (S/N: 20481384)"), serial_pattern("Temp")
    ('Temp, °C (S/N: *)', '')
    """
    if not _SERIAL.search(name) or any(letter in "*?" for letter in name):
        return ""
    return _SERIAL.sub(lambda found: re.sub(r"\w*\d{3,}\w*", "*", found[0]), name)


@lru_cache(1 << 15)
def loosened(name: str) -> str:
    """A name without regard to case, spaces and punctuation.

    Signs that carry meaning in measurements stay: ``%``, ``#``, ``&``, ``@``, ``°``, ``+``, ``µ`` and the like; and so do a
    point or a comma before a digit, and a plus or a minus beside one.

    Equal for names that differ only in how they are written; empty when nothing is left.

    Examples
    --------
    >>> loosened("Water_Temp (°C)") == loosened("water temp [°c]"), loosened("O2 (%)") == loosened("O2")
    (True, False)
    >>> loosened("temp 1.5 m") == loosened("temp 15 m"), loosened("T-5") == loosened("T5")
    (False, False)
    """
    folded = _DASH.sub("-", unicodedata.normalize("NFKC", name).casefold())
    folded = _SIGN.sub(lambda found: _KEPT[found[0]], folded)
    return "".join(
        letter
        for letter in unicodedata.normalize("NFKC", folded)
        if not letter.isspace() and (letter in "%#&@" or unicodedata.category(letter)[0] not in "PCZ")
    )
