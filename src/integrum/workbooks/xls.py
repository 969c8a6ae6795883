"""Scan the parts of an .xls workbook ([MS-XLS]) that opening does not tell about."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from io import BytesIO
from struct import unpack_from

import olefile

from integrum.values.cell_errors import CODES, UNKNOWN
from integrum.workbooks.faults import damaged, protected
from integrum.workbooks.scanned import Scanned, Scans

STREAMS = ("Workbook", "Book")
_SHEET, _PASSWORD, _END, _ERROR, _FORMULA = 0x85, 0x2F, 0x0A, 0x205, 0x06
_DIMENSIONS, _MOST_ROWS, _MOST_COLUMNS = 0x200, 65_536, 256
_CELLS = {0x06, 0x203, 0x204, 0x205, 0x27E, 0xFD, 0xD6, 0xBD}


def scan_xls(data: bytes) -> Scans:
    """Scan the sheets of a workbook; they are all in one stream.

    Raises SourceFault when it is protected by a password.
    """
    with olefile.OleFileIO(BytesIO(data)) as opened:
        name = next(each for each in STREAMS if opened.exists(each))
        stream = opened.openstream(name).read()
    found = {}
    for kind, at, size in _records(stream, 0):
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
    for kind, at, size in _records(stream, start):
        if kind == _DIMENSIONS:
            said = unpack_from("<IIHH", stream, at) if size == 14 else unpack_from("<HHHH", stream, at)
            top, rows, left, columns = said
            if (
                top > rows or left > columns or rows > _MOST_ROWS or columns > _MOST_COLUMNS
            ):  # room for so many would be made
                raise damaged(f"a sheet claims {rows:,} rows and {columns:,} columns")
        if kind not in _CELLS or size < 6:
            continue
        row, column = unpack_from("<HH", stream, at)
        found.reach(row + 1, column + 1)
        if kind == _ERROR and stream[at + 7]:
            found.errors[row + 1, column + 1] = CODES.get(stream[at + 6], UNKNOWN)
        elif kind == _FORMULA and stream[at + 12 : at + 14] == b"\xff\xff" and stream[at + 6] == 2:
            found.errors[row + 1, column + 1] = CODES.get(stream[at + 8], UNKNOWN)
    return found


def _records(stream: bytes, at: int) -> Iterator[tuple[int, int, int]]:
    """Kind, start and size of each record up to the end of a part."""
    while at + 4 <= len(stream):
        kind, size = unpack_from("<HH", stream, at)
        if kind == _END or at + 4 + size > len(stream):
            return
        yield kind, at + 4, size
        at += 4 + size
