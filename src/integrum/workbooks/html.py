"""The tables of an HTML page; some web services call such a page a workbook."""

from __future__ import annotations

import re
from collections.abc import Mapping

from integrum.problems.problem import SourceFault
from integrum.workbooks.scanned import MOST_CELLS, damaged

_CHARSET = re.compile(rb"charset=[\"']?([\w-]+)", re.I)
_MOST_SPAN, _MOST_DIGITS = 1_000, 5
_MOST_COLUMNS, _DEEPEST = 16_384, 50


def html_tables(data: bytes) -> list[list[list[str]]]:
    """The tables of a page, as rows of cells.

    A cell over several rows stands in each of them, one over several columns in the first, as in a workbook.

    Raises SourceFault when there are more cells than a workbook can have, or tables too deep inside tables.

    Examples
    --------
    >>> html_tables(b"<table><tr><th>lake<th>depth<tr><td rowspan=2>Ambermere<td>3.1<tr><td>3.2</table>")
    [[['lake', 'depth'], ['Ambermere', '3.1'], ['Ambermere', '3.2']]]
    """
    from lxml import etree

    said = _CHARSET.search(data[:4096])
    text = _decoded(data, said[1].decode() if said else "utf-8")
    tables = _Tables()
    parser = etree.HTMLParser(target=tables, encoding="utf-8", huge_tree=True)
    parser.feed(text.encode("utf-8", "replace"))
    parser.close()
    return [rows for rows in tables.found if rows]


def _decoded(data: bytes, encoding: str) -> str:
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return data.decode("utf-16", "replace")
    for each in (encoding, "utf-8"):
        try:
            return data.decode(each).removeprefix("\ufeff")
        except (UnicodeDecodeError, LookupError):
            continue
    return data.decode("cp1252", "replace")


class _Tables:
    """Takes what a parser meets, piece by piece."""

    def __init__(self) -> None:
        self.found: list[list[list[str]]] = []
        self._open: list[list[list[str]]] = []
        self._cell: list[str] | None = None
        self._spans = (1, 1)
        self._down: dict[int, tuple[int, str]] = {}
        self._cells = 0

    def start(self, tag: str, attributes: Mapping[str, str]) -> None:
        """An element begins."""
        if tag == "table":
            self._end_cell()
            self._open.append([])
            if len(self._open) > _DEEPEST:
                raise damaged(f"its tables are nested more than {_DEEPEST} levels deep")
            self.found.append(self._open[-1])
            self._down = {}
        elif not self._open:
            return
        elif tag == "tr":
            self._end_cell()
            self._open[-1].append([])
        elif tag in ("td", "th"):
            self._end_cell()
            if not self._open[-1]:
                self._open[-1].append([])
            self._spans = _span(attributes.get("rowspan")), _span(attributes.get("colspan"))
            self._cell = []
        elif tag == "br" and self._cell is not None:
            self._cell.append(" ")

    def end(self, tag: str) -> None:
        """An element ends."""
        if tag in ("td", "th", "tr", "table"):
            self._end_cell()
            if tag == "tr" and self._open and self._open[-1]:
                self._from_above(self._open[-1][-1])
        if tag == "table" and self._open:
            self._open.pop()

    def data(self, data: str) -> None:
        """Some text."""
        if self._cell is not None:
            self._cell.append(data)

    def close(self) -> None:
        """The page ends."""
        self._end_cell()

    def _end_cell(self) -> None:
        if self._cell is None or not self._open:
            return
        text = " ".join("".join(self._cell).split())
        row = self._open[-1][-1]
        self._from_above(row)
        down, across = self._spans
        if down > 1:
            self._down[len(row)] = (down - 1, text)
        row += [text, *[""] * (across - 1)]
        self._cell = None
        self._cells += across
        if self._cells > MOST_CELLS or len(row) > _MOST_COLUMNS:
            raise SourceFault(
                "unpacks-too-large",
                f"its tables claim more than {_MOST_COLUMNS:,} columns, or {MOST_CELLS:,} cells together",
                "save the table you want as .csv",
            )

    def _from_above(self, row: list[str]) -> None:
        """Cells that began in a row above and reach into this one."""
        while len(row) in self._down:
            left, text = self._down.pop(len(row))
            if left > 1:
                self._down[len(row)] = (left - 1, text)
            row.append(text)


def _span(said: str | None) -> int:
    digits = (said or "").strip().lstrip("0")
    return min(int(digits[:_MOST_DIGITS]), _MOST_SPAN) if digits.isdecimal() else 1
