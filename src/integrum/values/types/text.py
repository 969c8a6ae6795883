"""Text: any text but the errors of spreadsheets."""

from __future__ import annotations

import pyarrow as pa

from integrum.values.cell_errors import errors_in, is_error
from integrum.values.types.type import Type


def _parse(text: str) -> str | None:
    return None if is_error(text) else text


def _whole(values: pa.Array) -> pa.Array | None:
    return None if errors_in(values).any() else values


TEXT = Type("text", pa.string(), "a text", _parse, _whole, errors_in)
