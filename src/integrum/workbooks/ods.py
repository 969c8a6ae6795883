"""Scan the parts of an .ods workbook (OpenDocument 1.3) that opening does not tell about."""

from __future__ import annotations

from xml.etree import ElementTree
from zipfile import ZipFile

from integrum.values.cell_errors import UNKNOWN
from integrum.workbooks.faults import damaged
from integrum.workbooks.scanned import Scanned, Scans, known

_CONTENT = "content.xml"
_TABLE = "{urn:oasis:names:tc:opendocument:xmlns:table:1.0}"
_OFFICE = "{urn:oasis:names:tc:opendocument:xmlns:office:1.0}"
_TYPES = ("{urn:org:documentfoundation:names:experimental:calc:xmlns:calcext:1.0}value-type",)
_WORDS = "{urn:oasis:names:tc:opendocument:xmlns:text:1.0}"
_TEXT, _BLANKS = f"{_WORDS}p", f"{_WORDS}s"
_DEEPEST = 200
_CELLS = (f"{_TABLE}table-cell", f"{_TABLE}covered-table-cell")


def scan_ods(archive: ZipFile) -> Scans:
    """Scan the sheets of a workbook; they are all in one part."""
    found: dict[str, Scanned] = {}
    at, row, column, repeats = Scanned(), 1, 1, 1
    depth = blanks = 0
    with archive.open(_CONTENT) as file:
        for event, element in ElementTree.iterparse(file, ("start", "end")):
            tag = element.tag
            depth += 1 if event == "start" else -1
            if depth > _DEEPEST:
                raise damaged(f"its elements are nested more than {_DEEPEST} levels deep")
            if event == "start":
                if tag == f"{_TABLE}table":
                    at, row = found.setdefault(element.get(f"{_TABLE}name", ""), Scanned()), 1
                elif tag == f"{_TABLE}table-row":
                    column, repeats = 1, _count(element, "rows")
            elif tag == _BLANKS:
                blanks += int(element.get(f"{_WORDS}c", "1"))
            elif tag in _CELLS:
                wide = _count(element, "columns")
                if len(element) or element.get(f"{_OFFICE}value-type"):
                    _take(at, element, row, repeats, column, wide)
                if blanks or wide * repeats > 1:
                    at.letters += wide * repeats * (blanks + sum(map(len, element.itertext())))
                column, blanks = column + wide, 0
                element.clear()
            elif tag == f"{_TABLE}table-row":
                row += repeats
                element.clear()
    return known(found)


def _take(
    sheet: Scanned, element: ElementTree.Element, row: int, down: int, column: int, across: int
) -> None:
    sheet.reach(row + down - 1, column + across - 1)
    text = "".join(element.find(_TEXT).itertext()) if element.find(_TEXT) is not None else ""  # type: ignore[union-attr]
    formula, kind = element.get(f"{_TABLE}formula"), element.get(f"{_OFFICE}value-type")
    if any(element.get(each) == "error" for each in _TYPES) or (
        formula and text.startswith(("#", "Err:")) and kind in (None, "string")
    ):
        sheet.errors[row, column] = text or UNKNOWN
    elif formula and kind is None:
        sheet.unsaved[row, column] = formula.partition(":=")[2] or formula


def _count(element: ElementTree.Element, what: str) -> int:
    said = element.get(f"{_TABLE}number-{what}-repeated", "1")
    return max(1, int(said)) if said.isdecimal() else 1
