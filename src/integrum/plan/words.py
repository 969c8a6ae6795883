"""The words that keys of a plan can have, as types: completion and type checkers know them."""

from __future__ import annotations

from typing import Literal, get_args

DateOrder = Literal["", "dmy", "mdy", "ymd"]
Case = Literal["", "lower", "upper", "title"]
Percent = Literal["", "as-written", "share"]
BadValues = Literal["blank", "set-row-aside", "set-source-aside"]
# of a column or a group: an empty text leaves it to the rules
BadValuesHere = Literal["", "blank", "set-row-aside", "set-source-aside"]
Unlisted = Literal["report", "leave-out", "keep", "refuse"]
Duplicates = Literal["set-aside", "keep"]
RepeatedRows = Literal["report", "once"]
Misnamed = Literal["blank", "set-source-aside"]
SeveralLayouts = Literal["set-source-aside", "first"]
ShortRows = Literal["set-aside", "pad"]
EmptyCells = Literal["drop", "keep"]
Fact = Literal["folder", "name", "sheet", "modified"]

BAD_VALUES: tuple[str, ...] = get_args(BadValues)
UNLISTED: tuple[str, ...] = get_args(Unlisted)
REPEATED_ROWS: tuple[str, ...] = get_args(RepeatedRows)
DUPLICATES: tuple[str, ...] = get_args(Duplicates)
MISNAMED: tuple[str, ...] = get_args(Misnamed)
SEVERAL_LAYOUTS: tuple[str, ...] = get_args(SeveralLayouts)
SHORT_ROWS: tuple[str, ...] = get_args(ShortRows)
EMPTY: tuple[str, ...] = get_args(EmptyCells)
FACTS: tuple[str, ...] = get_args(Fact)
