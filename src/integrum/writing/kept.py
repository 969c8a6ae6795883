"""A table that stays as it is, as nothing in it would be different."""

from __future__ import annotations

from typing import Any

from integrum.columns.table_schema import TableSchema
from integrum.writing.output import About, Pack, Spans


class KeptOutput:
    """Takes no rows; see `integrum.writing.output.FileOutput`.

    Parameters
    ----------
    like
        The format of the table.
    begins_at
        The bytes that stand before its rows.
    content
        Its content hash.
    pack
        Is called where a row comes even so.
    """

    def __init__(self, like: Any, begins_at: int, content: str, pack: Pack) -> None:
        self.as_text, self.parts, self.pack = like.as_text, like.parts, pack
        self._begins_at, self._content = begins_at, content

    def begin(self, schema: TableSchema) -> int:  # noqa: ARG002
        """The bytes before the rows."""
        return self._begins_at

    def append(self, payload: Any, rows: int, spans: Spans = ()) -> None:
        """Never asked for, as nothing is packed."""

    def document(self, about: About) -> None:
        """What there is to say of it is in it."""

    def finish(self) -> None:
        """There is nothing to do."""

    close = discard = finish

    def content(self) -> str:
        """The content hash."""
        return self._content
