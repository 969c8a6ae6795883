"""Scan .xls ([MS-XLS]), .xlsb ([MS-XLSB]) and .ods (OpenDocument 1.3) for what opening does not tell about."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from io import BytesIO
from struct import unpack_from
from xml.etree import ElementTree
from zipfile import ZipFile

import olefile

from integrum.values.cells import CODES, UNKNOWN
from integrum.workbooks.scanned import Scanned, Scans, damaged, known, protected
from integrum.workbooks.xlsx import relations

STREAMS = ("Workbook", "Book")
_SHEET, _PASSWORD, _END, _XLS_ERROR, _FORMULA = 0x85, 0x2F, 0x0A, 0x205, 0x06
_DIMENSIONS, _MOST_ROWS, _MOST_COLUMNS = 0x200, 65_536, 256
_XLS_CELLS = {0x06, 0x203, 0x204, 0x205, 0x27E, 0xFD, 0xD6, 0xBD}
_MAIN = "xl/workbook.bin"
_ROW, _FIRST_CELL, _LAST_CELL, _XLSB_ERROR, _ERROR_FORMULA, _BUNDLED_SHEET = 0, 1, 11, 3, 11, 156
_SHARED, _SHARED_TEXT = 7, 19
_CONTENT = "content.xml"
_TABLE = "{urn:oasis:names:tc:opendocument:xmlns:table:1.0}"
_OFFICE = "{urn:oasis:names:tc:opendocument:xmlns:office:1.0}"
_TYPES = ("{urn:org:documentfoundation:names:experimental:calc:xmlns:calcext:1.0}value-type",)
_WORDS = "{urn:oasis:names:tc:opendocument:xmlns:text:1.0}"
_TEXT, _BLANKS = f"{_WORDS}p", f"{_WORDS}s"
_DEEPEST = 200
_ODS_CELLS = (f"{_TABLE}table-cell", f"{_TABLE}covered-table-cell")


def scan_xls(data: bytes) -> Scans:
    """Scan the sheets of a workbook; they are all in one stream.

    Raises SourceFault when it is protected by a password.
    """
    with olefile.OleFileIO(BytesIO(data)) as opened:
        name = next(each for each in STREAMS if opened.exists(each))
        stream = opened.openstream(name).read()
    found = {}
    for kind, at, size in _xls_records(stream, 0):
        if kind == _PASSWORD:
            raise protected()
        if kind == _SHEET and size >= 8:
            length, wide = stream[at + 6], stream[at + 7] & 1
            raw = stream[at + 8 : at + 8 + length * (1 + wide)]
            said = raw.decode("utf-16-le" if wide else "latin-1", "replace")
            found[said] = partial(_scan, stream, int(unpack_from("<I", stream, at)[0]))
    return found


def _scan(stream: bytes, start: int) -> Scanned:
    found = Scanned()
    for kind, at, size in _xls_records(stream, start):
        if kind == _DIMENSIONS:
            said = unpack_from("<IIHH", stream, at) if size == 14 else unpack_from("<HHHH", stream, at)
            top, rows, left, columns = said
            if (
                top > rows or left > columns or rows > _MOST_ROWS or columns > _MOST_COLUMNS
            ):  # room for so many would be made
                raise damaged(f"a sheet claims {rows:,} rows and {columns:,} columns")
        if kind not in _XLS_CELLS or size < 6:
            continue
        row, column = unpack_from("<HH", stream, at)
        found.reach(row + 1, column + 1)
        if kind == _XLS_ERROR and stream[at + 7]:
            found.errors[row + 1, column + 1] = CODES.get(stream[at + 6], UNKNOWN)
        elif kind == _FORMULA and stream[at + 12 : at + 14] == b"\xff\xff" and stream[at + 6] == 2:
            found.errors[row + 1, column + 1] = CODES.get(stream[at + 8], UNKNOWN)
    return found


def _xls_records(stream: bytes, at: int) -> Iterator[tuple[int, int, int]]:
    """Kind, start and size of each record up to the end of a part."""
    while at + 4 <= len(stream):
        kind, size = unpack_from("<HH", stream, at)
        if kind == _END or at + 4 + size > len(stream):
            return
        yield kind, at + 4, size
        at += 4 + size


def scan_xlsb(archive: ZipFile) -> Scans:
    """What scans the sheets of a workbook."""
    targets = relations(archive, _MAIN)
    shared = next((part for part in targets.values() if part.endswith("sharedStrings.bin")), "")
    data = archive.read(shared) if shared in archive.NameToInfo else b""
    sizes = [len(body) for kind, body in _xlsb_records(data) if kind == _SHARED_TEXT]
    found = {}
    for kind, body in _xlsb_records(archive.read(_MAIN)):
        if kind == _BUNDLED_SHEET:
            key, at = _text(body, 8)
            name, _ = _text(body, at)
            if targets.get(key) in archive.NameToInfo:
                found[name] = partial(_scan_part, archive, targets[key], sizes)
    return found


def _scan_part(archive: ZipFile, part: str, sizes: list[int]) -> Scanned:
    found, row = Scanned(), 0
    for kind, body in _xlsb_records(archive.read(part)):
        if kind == _ROW:
            row = _whole(body, 0) + 1
        elif _FIRST_CELL <= kind <= _LAST_CELL:
            column = _whole(body, 0) + 1
            found.reach(row, column)
            if kind == _SHARED and _whole(body, 8) < len(sizes):
                found.letters += sizes[_whole(body, 8)]
            if kind in (_XLSB_ERROR, _ERROR_FORMULA):
                found.errors[row, column] = CODES.get(body[8], UNKNOWN)
    return found


def _xlsb_records(data: bytes) -> Iterator[tuple[int, bytes]]:
    at = 0
    while at < len(data):
        kind, at = _varying(data, at, 2)
        size, at = _varying(data, at, 4)
        yield kind, data[at : at + size]
        at += size


def _varying(data: bytes, at: int, most: int) -> tuple[int, int]:
    value = 0
    for place in range(most):
        byte = data[at]
        at += 1
        value |= (byte & 0x7F) << (7 * place)
        if byte < 0x80:
            break
    return value, at


def _whole(data: bytes, at: int) -> int:
    return int.from_bytes(data[at : at + 4], "little")


def _text(data: bytes, at: int) -> tuple[str, int]:
    end = at + 4 + 2 * _whole(data, at)
    return data[at + 4 : end].decode("utf-16-le", "replace"), end


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
            elif tag in _ODS_CELLS:
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
