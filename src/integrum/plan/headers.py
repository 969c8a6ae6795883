"""Patterns of header cells: `*` for any text, `?` for one letter."""

from __future__ import annotations

import re
from functools import lru_cache


def is_pattern(text: str) -> bool:
    """Whether a text can be a pattern.

    Examples
    --------
    >>> is_pattern("Temp ? (°C)"), is_pattern("Temp [°C]")
    (True, False)
    """
    return "*" in text or "?" in text


def fits(header: str, pattern: str) -> bool:
    """Whether a header cell fits a pattern; capitals count, as they do for names.

    Examples
    --------
    >>> fits("Temp 2 (°C)", "Temp ? (°C)"), fits("Odd one", "Odd*"), fits("odd", "Odd*")
    (True, True, False)
    """
    return _compiled(pattern).fullmatch(header) is not None


@lru_cache(maxsize=1024)
def _compiled(pattern: str) -> re.Pattern[str]:
    wild = {"*": ".*?", "?": "."}
    return re.compile("".join(wild.get(letter) or re.escape(letter) for letter in pattern), re.DOTALL)
