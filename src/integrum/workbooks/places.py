"""Rows and columns of a sheet as people name them, and the parts of it that are wanted."""

from __future__ import annotations

import re
from dataclasses import dataclass

_PLACE = re.compile(r"([A-Z]+)(\d+)")
LAST_COLUMN = 16_384


def letters(column: int) -> str:
    """The letters of a column, counted from 1.

    Examples
    --------
    >>> letters(1), letters(28), letters(16_384)
    ('A', 'AB', 'XFD')
    """
    said = ""
    while column:
        column, rest = divmod(column - 1, 26)
        said = chr(65 + rest) + said
    return said


def number(column: str) -> int:
    """The number of a column, from 1, by its letters.

    Examples
    --------
    >>> number("A"), number("ab"), number("XFD")
    (1, 28, 16384)
    """
    value = 0
    for letter in column.upper():
        value = 26 * value + ord(letter) - 64
    return value


def place(cell: str) -> tuple[int, int]:
    """Row and column of a cell, from 1.

    Examples
    --------
    >>> place("C12")
    (12, 3)
    """
    found = _PLACE.fullmatch(cell)
    return (int(found[2]), number(found[1])) if found else (0, 0)


@dataclass(frozen=True)
class Sheet:
    """A sheet of a workbook, and what of it is read."""

    name: str
    # columns before and behind these are left out; counted from 1, 0 means the last one that has a cell
    first_column: int = 1
    last_column: int = 0
    decimal_mark: str = "."  # the sign in numbers; that of the texts beside them, so that both read alike
