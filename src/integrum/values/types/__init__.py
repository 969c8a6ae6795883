"""The types that a column can have: one file each, and one line each in `TYPES`."""

from __future__ import annotations

from integrum.values.types import boolean, date, datetime, integer, number, text, time
from integrum.values.types.type import Type

# everything that lists types takes them from here: plans, checks, drafts, outputs, messages
TYPES: dict[str, Type] = {
    one.name: one
    for one in (
        text.TEXT,
        integer.INTEGER,
        number.NUMBER,
        boolean.BOOLEAN,
        date.DATE,
        time.TIME,
        datetime.DATETIME,
    )
}

__all__ = ["TYPES", "Type"]
