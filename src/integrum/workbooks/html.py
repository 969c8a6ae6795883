"""The tables of an HTML page; some web services call such a page a workbook."""

from __future__ import annotations

import re
from html.parser import HTMLParser

_CHARSET = re.compile(rb"charset=[\"']?([\w-]+)", re.I)
_MOST_SPAN = 1_000


def html_tables(data: bytes) -> list[list[list[str]]]:
    """The tables of a page, as rows of cells.

    A cell over several rows stands in each of them, one over several columns in the first, as in a workbook.

    Examples
    --------
    >>> html_tables(b"<table><tr><th>lake<th>depth<tr><td rowspan=2>Ambermere<td>3.1<tr><td>3.2</table>")
    [[['lake', 'depth'], ['Ambermere', '3.1'], ['Ambermere', '3.2']]]
    """
    said = _CHARSET.search(data[:4096])
    parser = _Tables()
    parser.feed(_decoded(data, said[1].decode() if said else "utf-8"))
    parser.close()
    return [rows for rows in parser.tables if rows]


def _decoded(data: bytes, encoding: str) -> str:
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return data.decode("utf-16", "replace")
    for each in (encoding, "utf-8"):
        try:
            return data.decode(each).removeprefix("\ufeff")
        except (UnicodeDecodeError, LookupError):
            continue
    return data.decode("cp1252", "replace")


class _Tables(HTMLParser):
    def __init__(self) -> None:
        super().__init__()
        self.tables: list[list[list[str]]] = []
        self._open: list[list[list[str]]] = []
        self._cell: list[str] | None = None
        self._spans = (1, 1)
        self._down: dict[int, tuple[int, str]] = {}

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        if tag == "table":
            self._end_cell()
            self._open.append([])
            self.tables.append(self._open[-1])
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
            given = dict(attrs)
            self._spans = _span(given.get("rowspan")), _span(given.get("colspan"))
            self._cell = []
        elif tag == "br" and self._cell is not None:
            self._cell.append(" ")

    def handle_endtag(self, tag: str) -> None:
        if tag in ("td", "th", "tr", "table"):
            self._end_cell()
            if tag != "table" and self._open and self._open[-1] and tag == "tr":
                self._from_above(self._open[-1][-1])
        if tag == "table" and self._open:
            self._open.pop()

    def handle_data(self, data: str) -> None:
        if self._cell is not None:
            self._cell.append(data)

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

    def _from_above(self, row: list[str]) -> None:
        """Cells that began in a row above and reach into this one."""
        while len(row) in self._down:
            left, text = self._down.pop(len(row))
            if left > 1:
                self._down[len(row)] = (left - 1, text)
            row.append(text)


def _span(said: str | None) -> int:
    return min(int(said), _MOST_SPAN) if said and said.strip().isdecimal() and int(said) else 1
