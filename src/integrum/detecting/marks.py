"""The marks in the numbers of a source."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

_SPACES = re.compile(r"[\s\u00a0\u2009\u202f'’]")
_NUMBER = re.compile(r"[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?")
_COMMA = re.compile(r"\s*[+-]?\d+,\d+\s*%?")
_COMMA_GROUPED = re.compile(r"\s*\(?[+-]?\d{1,3}(?:[. '’\u00a0\u2009\u202f]\d{3})+,\d+\)?\s*")
_OPEN = re.compile(r"\s*[+-]?[1-9]\d{0,2}[.,]\d{3}\s*%?")
_POINT = re.compile(r"\s*[+-]?\d*\.\d+\s*%?")
_POINT_GROUPED = re.compile(r"\s*[+-]?\d{1,3}(?:,\d{3})+(?:\.\d+)?\s*")
# two groups, or one before a point; and a first group that is shorter than all others, as those of listed codes are not
_SURELY_GROUPED = re.compile(r"\s*[+-]?(?:\d{1,3}(?:,\d{3}){2,}|\d{1,3}(?:,\d{3})+\.\d+)\s*")
_SHORT_GROUP = re.compile(r"\s*[+-]?\d{1,2},")


@dataclass(frozen=True)
class Marks:
    """How the numbers of a source are written."""

    decimal: str = "."
    thousands: str = ""

    def number(self, cell: str) -> str:
        """A cell with a point as its decimal mark; empty when it is no number.

        Examples
        --------
        >>> Marks(",", ".").number("1.234,50"), Marks().number("12 m")
        ('1234.50', '')
        """
        plain = _SPACES.sub("", cell.strip())
        if self.thousands:
            plain = plain.replace(self.thousands, "")
        plain = (
            plain.replace("−", "-").replace(self.decimal, ".")
            if self.decimal != "."
            else plain.replace("−", "-")
        )
        return plain if _NUMBER.fullmatch(plain) else ""


def marks_of(cells: Sequence[str], delimiter: str) -> Marks:
    """The marks in some cells."""
    decimal, thousands = decimal_sign([cell for cell in cells if "," in cell or "." in cell], delimiter)
    return Marks(decimal or ".", thousands)


def decimal_sign(cells: Sequence[str], delimiter: str) -> tuple[str, str]:
    """The decimal sign, empty when no cell shows one, and the sign between thousands."""
    sure = [cell for cell in cells if not _OPEN.fullmatch(cell)]
    grouped = [cell for cell in cells if _POINT_GROUPED.fullmatch(cell)]
    is_shown = any(map(_SURELY_GROUPED.fullmatch, grouped)) and any(map(_SHORT_GROUP.match, grouped))
    if is_shown and not any(map(_COMMA.fullmatch, sure)):
        return ("." if any(map(_POINT.fullmatch, sure)) else ""), ","
    if any(_POINT.fullmatch(cell) or _COMMA.fullmatch(cell) for cell in sure):
        # what could be read in two ways does not count where others can be read in one
        grouped_too = [cell for cell in cells if _POINT_GROUPED.fullmatch(cell)]
        cells = [*sure, *(grouped_too if not any(_COMMA.fullmatch(cell) for cell in sure) else ())]
    point = sum(_POINT.fullmatch(cell) is not None for cell in cells)
    comma = sum(_COMMA.fullmatch(cell) is not None and not _OPEN.fullmatch(cell) for cell in cells) or sum(
        _COMMA.fullmatch(cell) is not None for cell in cells if point == 0
    )
    grouped = [cell for cell in cells if _COMMA_GROUPED.fullmatch(cell)]
    if grouped and point <= comma + len(grouped):
        sign = next(
            (letter for letter in grouped[0] if letter in ". '"), ""
        )  # other signs are read in any case
        return ",", sign
    pointed = [cell for cell in cells if _POINT_GROUPED.fullmatch(cell)]
    if comma and comma >= point and delimiter != ",":
        return ",", ""
    if comma > point and len(pointed) < comma:
        return ",", ""
    if pointed and point:
        return ".", ","
    return ("." if point else ""), ""
