"""Workbooks for the tests, made as they are needed: with XlsxWriter, and by hand where no library writes them."""

import datetime as dt
import io
import struct
import zipfile
from collections.abc import Callable, Sequence
from typing import Any

import xlsxwriter
import xlwt

Rows = Sequence[Sequence[Any]]


def xlsx(fill: Callable[[Any], None], **options: object) -> bytes:
    """A workbook that a function fills."""
    file = io.BytesIO()
    with xlsxwriter.Workbook(file, {"default_date_format": "yyyy-mm-dd hh:mm", **options}) as book:
        fill(book)
    return file.getvalue()


def sheets(**rows: Rows) -> bytes:
    """A workbook with these sheets, each from its first cell on."""

    def fill(book: Any) -> None:
        for name, table in rows.items():
            sheet = book.add_worksheet(name)
            for at, row in enumerate(table):
                sheet.write_row(at, 0, row)

    return xlsx(fill)


def with_part(data: bytes, name: str, change: Callable[[bytes], bytes]) -> bytes:
    """The same workbook with one of its parts changed."""
    file = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as new:
        for info in old.infolist():
            part = old.read(info)
            new.writestr(info.filename, change(part) if info.filename == name else part)
    return file.getvalue()


def xls(rows: Rows, name: str = "May") -> bytes:
    book = xlwt.Workbook()
    sheet = book.add_sheet(name)
    day = xlwt.easyxf(num_format_str="yyyy-mm-dd hh:mm")
    for at, row in enumerate(rows):
        for column, value in enumerate(row):
            if value == "#DIV/0!":
                sheet.row(at).set_cell_error(column, value)
            elif isinstance(value, dt.date):
                sheet.write(at, column, value, day)
            else:
                sheet.write(at, column, value)
    hidden = book.add_sheet("hidden")
    hidden.visibility = 1
    hidden.write(0, 0, "secret")
    file = io.BytesIO()
    book.save(file)
    return file.getvalue()


_ERRORS = {"#DIV/0!": 0x07, "#N/A": 0x2A}


def xlsb(rows: Rows, name: str = "May") -> bytes:
    """A workbook in the binary form, which no library writes ([MS-XLSB] 2.1)."""
    body = [_record(129), _record(148, struct.pack("<IIII", 0, len(rows) - 1, 0, 9)), _record(145)]
    for at, row in enumerate(rows):
        body.append(_record(0, struct.pack("<IIHBBBI", at, 0, 300, 0, 0, 0, 0)))
        for column, value in enumerate(row):
            head = struct.pack("<II", column, 0)
            if value in _ERRORS:
                body.append(_record(3, head + bytes([_ERRORS[value]])))
            elif isinstance(value, bool):
                body.append(_record(4, head + bytes([value])))
            elif isinstance(value, str) and value:
                body.append(_record(6, head + _wide(value)))
            elif value != "":
                body.append(_record(5, head + struct.pack("<d", value)))
    body += [_record(146), _record(130)]
    book = [_record(131), _record(143), _record(156, struct.pack("<II", 0, 1) + _wide("rId1") + _wide(name))]
    book += [_record(144), _record(132)]
    relations = (
        '<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
        '<Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" '
        'Target="worksheets/sheet1.bin"/></Relationships>'
    )
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("xl/workbook.bin", b"".join(book))
        archive.writestr("xl/_rels/workbook.bin.rels", relations)
        archive.writestr("xl/worksheets/sheet1.bin", b"".join(body))
    return file.getvalue()


def _record(kind: int, body: bytes = b"") -> bytes:
    said = bytes([kind & 0x7F | 0x80, kind >> 7]) if kind > 0x7F else bytes([kind])
    size, length = len(body), b""
    while True:
        length += bytes([size & 0x7F | (0x80 if size > 0x7F else 0)])
        size >>= 7
        if not size:
            return said + length + body


def _wide(text: str) -> bytes:
    return struct.pack("<I", len(text)) + text.encode("utf-16-le")


_NAMES = " ".join(
    f'xmlns:{short}="urn:oasis:names:tc:opendocument:xmlns:{short}:1.0"'
    for short in ("office", "table", "text", "style")
)


def ods(content: str, encrypted: bool = False) -> bytes:
    """An OpenDocument workbook around the rows of its tables, given as XML."""
    text = (
        f'<?xml version="1.0" encoding="UTF-8"?><office:document-content {_NAMES} '
        'xmlns:calcext="urn:org:documentfoundation:names:experimental:calc:xmlns:calcext:1.0">'
        f"<office:body><office:spreadsheet>{content}</office:spreadsheet></office:body></office:document-content>"
    )
    secret = "<manifest:encryption-data/>" if encrypted else ""
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w") as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr("content.xml", text)
        archive.writestr(
            "META-INF/manifest.xml", f'<manifest:manifest xmlns:manifest="x">{secret}</manifest:manifest>'
        )
    return file.getvalue()
