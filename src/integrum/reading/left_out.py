"""A row that is not in the table because of the part that it is, with its raw text."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

from integrum.reading.parts import Part
from integrum.reading.records import Dialect, spans


class LeftOut(NamedTuple):
    """A row of a source that is not in the table, or cells that stand beside the table.

    Attributes
    ----------
    source, row
        Its place; `source` is the number of the source in the run. No row: all rows of the source.
    part
        What it was taken for; one of `integrum.reading.parts.PARTS`.
    raw
        Its text as it stands in the source.
    """

    source: int
    row: int | None
    part: Part
    raw: str


def rows_in(data: bytes, dialect: Dialect, source: int, first_row: int, part: Part) -> Iterator[LeftOut]:
    r"""Every record of some bytes as a row that is left out.

    Examples
    --------
    >>> from integrum.reading.parts import FOOTER
    >>> [tuple(one) for one in rows_in(b"Total,3\nsigned\n", Dialect(), 0, 9, FOOTER)]
    [(0, 9, 'footer', 'Total,3'), (0, 10, 'footer', 'signed')]
    """
    for row, (start, end) in enumerate(spans(data, dialect, last=True), first_row):
        yield LeftOut(source, row, part, raw_text(data[start:end]))


def raw_text(record: bytes) -> str:
    """The text of a record without its line end."""
    return record.rstrip(b"\r\n").decode("utf-8", "replace")


def in_place(entries: Sequence[LeftOut]) -> list[LeftOut]:
    """Rows in the order of their places."""
    return sorted(entries, key=lambda one: (one.source, one.row or 0))
