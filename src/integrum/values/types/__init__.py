"""The types that a column can have: a file and a line each."""

from __future__ import annotations

from importlib import import_module
from typing import Literal, get_args

from integrum.values.types.type import Type

# everything that lists types takes them from here; the file of each has it under its name in capitals
TypeName = Literal[
    "text",
    "integer",
    "number",
    "boolean",
    "date",
    "time",
    "datetime",
    "month",
]
TYPES: dict[str, Type] = {
    name: getattr(import_module(f"{__name__}.{name}"), name.upper()) for name in get_args(TypeName)
}

__all__ = ["TYPES", "Type", "TypeName"]
