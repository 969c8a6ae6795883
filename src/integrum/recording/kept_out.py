"""What is not in the table, by the name of its source: rows that were left out, and what was set aside."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from integrum.entries import Entries
from integrum.reading.aside import Aside
from integrum.reading.left_out import LeftOut


class LeftOutRow(NamedTuple):
    """A row that is not in the table because of the part that it is.

    Attributes
    ----------
    source, row
        Its place; without a row: all rows of the source.
    part
        ``"preamble"``, ``"header"``, ``"units"``, ``"repeated-header"``, ``"comment"``, ``"footer"``,
        ``"beside-the-table"`` or ``"set-aside"``.
    raw
        Its text as it stands in the source.
    """

    source: str
    row: int | None
    part: str
    raw: str


class SetAside(NamedTuple):
    """A cell, a row or a source with a problem, with its raw text.

    Attributes
    ----------
    source, row
        Its place; without a row: the whole source.
    column
        Of a cell that was left empty: its column. Of a row: the columns that are the reason.
    code
        The code of the problem that says why.
    raw
        Its text as it stands in the source.
    """

    source: str
    row: int | None
    column: str
    code: str
    raw: str


class KeptOut(NamedTuple):
    """All that a run kept out of the table."""

    set_aside: Entries[SetAside]
    left_out: Entries[LeftOutRow]


def set_aside_of(found: Iterable[tuple[str, Aside]]) -> Entries[SetAside]:
    """What was set aside, by the name of its source."""
    return Entries((SetAside(name, one.row, one.column, one.code, one.raw) for name, one in found), SetAside)


def left_out_of(found: Iterable[tuple[str, LeftOut]]) -> Entries[LeftOutRow]:
    """The rows that were left out, by the name of their source."""
    return Entries((LeftOutRow(name, one.row, one.part, one.raw) for name, one in found), LeftOutRow)
