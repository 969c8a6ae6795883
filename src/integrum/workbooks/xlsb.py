"""Scan the parts of an .xlsb workbook ([MS-XLSB]) that opening does not tell about."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from zipfile import ZipFile

from integrum.values.cell_errors import CODES, UNKNOWN
from integrum.workbooks.scanned import Scanned, Scans
from integrum.workbooks.xlsx import relations

_MAIN = "xl/workbook.bin"
_ROW, _FIRST_CELL, _LAST_CELL, _ERROR, _ERROR_FORMULA, _BUNDLED_SHEET = 0, 1, 11, 3, 11, 156
_SHARED, _SHARED_TEXT = 7, 19


def scan_xlsb(archive: ZipFile) -> Scans:
    """What scans the sheets of a workbook."""
    targets = relations(archive, _MAIN)
    shared = next((part for part in targets.values() if part.endswith("sharedStrings.bin")), "")
    data = archive.read(shared) if shared in archive.NameToInfo else b""
    sizes = [len(body) for kind, body in _records(data) if kind == _SHARED_TEXT]
    found = {}
    for kind, body in _records(archive.read(_MAIN)):
        if kind == _BUNDLED_SHEET:
            key, at = _text(body, 8)
            name, _ = _text(body, at)
            if targets.get(key) in archive.NameToInfo:
                found[name] = partial(_scan_part, archive, targets[key], sizes)
    return found


def _scan_part(archive: ZipFile, part: str, sizes: list[int]) -> Scanned:
    found, row = Scanned(), 0
    for kind, body in _records(archive.read(part)):
        if kind == _ROW:
            row = _whole(body, 0) + 1
        elif _FIRST_CELL <= kind <= _LAST_CELL:
            column = _whole(body, 0) + 1
            found.reach(row, column)
            if kind == _SHARED and _whole(body, 8) < len(sizes):
                found.letters += sizes[_whole(body, 8)]
            if kind in (_ERROR, _ERROR_FORMULA):
                found.errors[row, column] = CODES.get(body[8], UNKNOWN)
    return found


def _records(data: bytes) -> Iterator[tuple[int, bytes]]:
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
