"""Text: any text but the errors of spreadsheets."""

from __future__ import annotations

import pyarrow as pa

from integrum.values.cells import errors_in, is_error
from integrum.values.types.type import Tested, Type


def _parse(text: str) -> str | None:
    return None if is_error(text) else text


def _test(values: pa.Array) -> Tested:
    return not errors_in(values).any(), values


TEXT = Type(
    "text",
    pa.string(),
    "a text",
    ("007", "Hollow Water", "a, b"),
    _parse,
    _test,
    errors_in,
    wrong="an error value of a spreadsheet",
    tried=0,
    is_counted=True,
    has_order=False,
)
