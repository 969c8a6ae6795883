"""What a file truly is, by its bytes and whatever it is called."""

from __future__ import annotations

import re
import zlib
from io import BytesIO
from zipfile import BadZipFile, ZipFile

import olefile

from integrum.problems.problem import SourceFault
from integrum.workbooks.scanned import damaged, protected
from integrum.workbooks.scanning import STREAMS

TEXT, HTML, XLSX, XLSB, XLS, ODS = "text", "html", "xlsx", "xlsb", "xls", "ods"
_ZIP, _OLE = b"PK\x03\x04", b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"
_HTML = re.compile(
    rb"\s*(?:<\?xml[^>]*\?>\s*)?(?:<!--.*?-->\s*)*<(?:!doctype html|html|head|body|meta|style|table)\b",
    re.I | re.S,
)
_XML_WORKBOOK = b"urn:schemas-microsoft-com:office:spreadsheet"
_NO_LETTERS = bytes(each for each in range(1, 27) if each not in b"\t\n\v\f\r\b")
_OPEN_DOCUMENT = b"application/vnd.oasis.opendocument.spreadsheet"
_OLD = (b"\x09\x00\x04\x00", b"\x09\x02\x06\x00", b"\x09\x04\x06\x00")

# the most that deflate can grow is some 1,032 times
_MOST_GROWTH = 1_032
MOST_RATIO = 200
FREE_BYTES = 256 << 20


def begins_as_text(start: bytes) -> bool:
    """Whether a file begins as a delimited text does: neither as a workbook nor as a page in HTML.

    Examples
    --------
    >>> begins_as_text(b"day,depth\\n"), begins_as_text("day".encode("utf-16-le")), begins_as_text(b"PK\\x03\\x04")
    (True, True, False)
    """
    if not start or start.startswith((b"PK", _OLE, *_OLD)) or _XML_WORKBOOK in start:
        return False
    if _HTML.match(start.removeprefix(b"\xef\xbb\xbf")):
        return False
    even, odd = start[0::2].count(0), start[1::2].count(0)
    # in UTF-16 only every other byte is zero
    return min(even, odd) <= len(start) // 100 and len(start.translate(None, _NO_LETTERS)) > 0.95 * len(start)


def recognise(data: bytes) -> str:
    """What a file is.

    Returns ``"xlsx"`` (with macros or without), ``"xlsb"``, ``"xls"``, ``"ods"``, ``"html"``, or ``"text"``.

    Raises SourceFault when it is something else, protected by a password, or damaged.

    Examples
    --------
    >>> recognise(b"day,depth\\n"), recognise(b"<html><body><table>")
    ('text', 'html')
    """
    if not data.strip(b"\0 \r\n\t"):
        raise SourceFault("empty-source", "the file is empty", "get a complete copy from where it came from")
    if data.startswith(_ZIP):
        return _in_zip(data)
    if data.startswith(_OLE):
        return _in_ole(data)
    if data.startswith(b"PK"):
        raise damaged()
    if data.startswith(_OLD):
        raise SourceFault("kind-not-read", "a kind of workbook older than 1995", "save it as .xlsx")
    start = data[:4096]
    if begins_as_text(start):
        return TEXT
    if _XML_WORKBOOK in start:
        raise SourceFault("kind-not-read", "a workbook written as XML, as in 2003", "save it as .xlsx")
    if _HTML.match(start.removeprefix(b"\xef\xbb\xbf")):
        return HTML
    raise SourceFault(
        "kind-not-read", "it is neither a workbook nor a text", "is it a different kind of file?"
    )


def _in_zip(data: bytes) -> str:
    try:
        with ZipFile(BytesIO(data)) as archive:
            names = set(archive.namelist())
            kind = (
                XLSX
                if "xl/workbook.xml" in names
                else XLSB
                if "xl/workbook.bin" in names
                else ODS
                if "content.xml" in names and archive.read("mimetype")[:60].startswith(_OPEN_DOCUMENT)
                else ""
            )
            if not kind:
                raise SourceFault(
                    "kind-not-read",
                    "a zip archive, but not a workbook",
                    "is it a different kind of document?",
                )
            _check_sizes(archive)
            if kind == ODS and b"manifest:encryption-data" in archive.read("META-INF/manifest.xml"):
                raise protected()
            return kind
    except (
        BadZipFile,
        zlib.error,
        EOFError,
        KeyError,
        NotImplementedError,
        RuntimeError,
        OSError,
        ValueError,
    ) as error:
        if isinstance(error, RuntimeError) and "password" in str(error):
            raise protected() from error
        raise damaged() from error


def _check_sizes(archive: ZipFile) -> None:
    """Refuse what unpacks to far more than it should, also where it lies about its size."""
    for info in archive.infolist():
        if info.file_size > max(FREE_BYTES, MOST_RATIO * info.compress_size):
            raise SourceFault(
                "unpacks-too-large",
                f"{info.filename} in it unpacks to {info.file_size >> 20:,} MB from {info.compress_size:,} "
                "bytes; it may be a decompression bomb",
                "if you trust it, open it in a spreadsheet program and save it again",
            )
        if info.compress_size * _MOST_GROWTH > FREE_BYTES:
            with archive.open(info) as file:  # a wrong size shows at its end
                while file.read(1 << 20):
                    pass


def _in_ole(data: bytes) -> str:
    try:
        with olefile.OleFileIO(BytesIO(data)) as opened:
            if opened.exists("EncryptedPackage"):
                raise protected()
            if any(opened.exists(name) for name in STREAMS):
                return XLS
    except (OSError, ValueError, IndexError, TypeError, AttributeError) as error:
        raise damaged() from error
    raise SourceFault(
        "kind-not-read", "an office document, but not a workbook", "is it a different kind of document?"
    )
