"""A row that is not in the table because of the part that it is, with its raw text."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any, NamedTuple

from integrum.reading.parts import Part
from integrum.reading.records import Dialect, spans


class LeftOutRow(NamedTuple):
    """A row that is not in the table because of the part that it is.

    Attributes
    ----------
    source, row
        Its place; without a row: all rows of the source. `source` is a name, but a number as long as the run goes on.
    part
        ``"preamble"``, ``"header"``, ``"units"``, ``"repeated-header"``, ``"comment"``, ``"footer"``,
        ``"beside-the-table"`` (cells of a sheet) or ``"set-aside"``.
    raw
        Its text as it stands in the source.
    """

    source: Any
    row: int | None
    part: Part
    raw: str

    def of(self, source: str | int) -> LeftOutRow:
        """The same of a source by another name, or by its number."""
        return self._replace(source=source)


def rows_in(data: bytes, dialect: Dialect, source: int, first_row: int, part: Part) -> Iterator[LeftOutRow]:
    r"""Every record of some bytes as a row that is left out.

    Examples
    --------
    >>> from integrum.reading.parts import FOOTER
    >>> [tuple(one) for one in rows_in(b"Total,3\nsigned\n", Dialect(), 0, 9, FOOTER)]
    [(0, 9, 'footer', 'Total,3'), (0, 10, 'footer', 'signed')]
    """
    for row, (start, end) in enumerate(spans(data, dialect, last=True), first_row):
        yield LeftOutRow(source, row, part, raw_text(data[start:end]))


def raw_text(record: bytes) -> str:
    """The text of a record without its line end."""
    return record.rstrip(b"\r\n").decode("utf-8", "replace")


def in_place(entries: Sequence[LeftOutRow]) -> list[LeftOutRow]:
    """Rows in the order of their places."""
    return sorted(entries, key=lambda one: (one.source, one.row or 0))
