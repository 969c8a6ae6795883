"""Whether numbers show what the marks in them are: before exactly three digits a mark may be either."""

from __future__ import annotations

import re
from functools import lru_cache
from typing import Literal

Shown = Literal["proved", "open", ""]


def shown_by(value: str, decimal_mark: str, thousands_mark: str = "") -> Shown:
    """What a number says of its marks: that they can only be these, nothing for certain, or nothing at all.

    Examples
    --------
    >>> [shown_by(value, ",") for value in ("12,5", "0,125", "1234,567", "12,345", "12")]
    ['proved', 'proved', 'proved', 'open', '']
    >>> [shown_by(value, ".", ",") for value in ("1,234", "1,234.567", "1,234,567", "1.234")]
    ['open', 'proved', 'proved', 'open']
    """
    if decimal_mark not in value and (not thousands_mark or thousands_mark not in value):
        return ""
    is_open, is_number = _patterns(decimal_mark, thousands_mark)
    return "open" if is_open.search(value) else "proved" if is_number.search(value) else ""


@lru_cache(maxsize=64)
def _patterns(decimal_mark: str, thousands_mark: str) -> tuple[re.Pattern[str], re.Pattern[str]]:
    marks = re.escape(decimal_mark) + (re.escape(thousands_mark) if thousands_mark not in ("", " ") else "")
    is_open = rf"(?<![0-9{marks}])[1-9][0-9]{{0,2}}[{marks}][0-9]{{3}}(?![0-9{marks}])"
    return re.compile(is_open), re.compile(rf"[{marks}][0-9]")
