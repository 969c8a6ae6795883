"""When two header names differ only in how they are written."""

from __future__ import annotations

import re
import unicodedata

_DASH = re.compile("[‐-―−]")
# a point or comma before a digit, a plus or minus beside one
_SIGN = re.compile(r"[.,](?=\d)|(?<=\d)[+-]|[+-](?=\d)")
# what stands for them: signs that are never taken out
_KEPT = {".": "⋅", ",": "∙", "-": "¬", "+": "+"}


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
