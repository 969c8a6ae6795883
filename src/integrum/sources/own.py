"""What was not made by people: files of Integrum and of other programs, which are never sources."""

from __future__ import annotations

import os
import re
from codecs import BOM_UTF8, BOM_UTF16_BE, BOM_UTF16_LE
from collections.abc import Iterable
from pathlib import Path

from integrum.problems.problem import SourceFault
from integrum.record.run_file import is_record, wrote

UNFINISHED = ".integrum-"
# begins the names of the files in an output that is a folder
PART = "part-"
# the suffix of the journal of a swap
JOURNAL = f"{UNFINISHED}swap.json"
# this many bytes are enough to tell
START = 1024
_KINDS = (
    (b"%PDF-", "a PDF document"),
    (b"\x89PNG\r\n", "a picture"),
    (b"\xff\xd8\xff", "a picture"),
    (b"GIF8", "a picture"),
    (b"II*\0", "a picture"),
    (b"MM\0*", "a picture"),
    (b"PK\x03\x04", "a zip archive or a workbook"),
    (b"PK\x05\x06", "an empty zip archive"),
    (b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1", "an office document or a workbook"),
    (b"\x1f\x8b", "a packed file (gzip)"),
    (b"BZh", "a packed file (bzip2)"),
    (b"\xfd7zXZ\0", "a packed file (xz)"),
    (b"\x28\xb5\x2f\xfd", "a packed file (zstd)"),
    (b"7z\xbc\xaf\x27\x1c", "an archive (7z)"),
    (b"Rar!\x1a\x07", "an archive (rar)"),
    (b"SQLite format 3\0", "a database (SQLite)"),
    (b"PAR1", "a Parquet file"),
    (b"ARROW1\0", "an Arrow file"),
    (b"\x89HDF\r\n", "an HDF5 file"),
    (b"CDF\x01", "a netCDF file"),
    (b"CDF\x02", "a netCDF file"),
    (b"\x7fELF", "a program"),
    (b"MZ\x90\0", "a program"),
    (b"{\\rtf", "a text document (RTF)"),
)
_MARKS = tuple(mark for mark, _ in _KINDS)
_HTML = re.compile(
    rb"\s*(?:<\?xml[^>]*\?>\s*)?(?:<!--.*?-->\s*)*<(?:!doctype\s+html|html|head|body|meta|style|table|div|script)\b",
    re.I | re.S,
)
_XML = re.compile(
    rb"\s*<\?xml\s|\s*<[A-Za-z][\w:.-]*(?:\s+[\w:.-]+\s*=\s*[\"'][^\"']*[\"'])*\s*/?>\s*(?:<|[^,;\t]*\Z)",
    re.S,
)
_JSON = re.compile(
    rb'\s*(?:\{\s*(?:"(?:[^"\\]|\\.)*"\s*:|\})|\[\s*(?:\{|\[|\]|"(?:[^"\\]|\\.)*"\s*[,\]]\s*(?:\Z|["\n\]])))'
)
_CONTROL = bytes(each for each in range(32) if each not in b"\t\n\v\f\r\x1a\x1b\b\0\x1c\x1d\x1e\x1f")
_MOST_CONTROL = 0.02


def metadata_place(output: Path) -> Path:
    """Where the metadata of an output in CSV lies.

    Examples
    --------
    >>> metadata_place(Path("out/lakes.csv")).name
    'lakes.csv-metadata.json'
    """
    return output.with_name(f"{output.name}-metadata.json")


def size_of(place: str | Path) -> int:
    """Bytes of an output: of a file, or of all files of a folder."""
    if not os.path.isdir(place):
        return os.stat(place).st_size
    with os.scandir(place) as entries:
        return sum(entry.stat().st_size for entry in entries if entry.name.startswith(PART))


class OwnWork:
    """Outputs and records of Integrum, which are never sources.

    Parameters
    ----------
    paths
        Files and folders that the run at hand is going to write.
    """

    def __init__(self, paths: Iterable[Path] = ()) -> None:
        self._planned = {key for path in paths if (key := _key(path))}
        self._written: set[tuple[int, int]] = set()
        self._of_this_run = set(self._planned)

    def learn(self, folder: str | Path, of_this_run: bool = False) -> bool:
        """Remember a folder and its outputs, if it is a record."""
        if not is_record(folder):
            return False
        outputs = wrote(folder)
        for path in (folder, *outputs, *(metadata_place(Path(path)) for path in outputs)):
            key = _key(path)
            if key:
                self._written.add(key)
                if of_this_run:
                    self._of_this_run.add(key)
        return True

    def holds(self, state: os.stat_result) -> bool:
        """Whether Integrum wrote the file with this state."""
        return (state.st_dev, state.st_ino) in self._written | self._planned

    def is_of_this_run(self, state: os.stat_result) -> bool:
        """Whether this run, or the previous one to the same place, wrote it."""
        return (state.st_dev, state.st_ino) in self._of_this_run

    def would_lose(self, state: os.stat_result) -> bool:
        """Whether the run would write over this file, though Integrum did not write it."""
        key = (state.st_dev, state.st_ino)
        return key in self._planned and key not in self._written


def _key(path: str | Path) -> tuple[int, int] | None:
    try:
        state = os.stat(path)
    except OSError:
        return None
    return state.st_dev, state.st_ino


def kind_of_file(start: bytes) -> str:
    """What a file is that is not a delimited text; empty when it may be one.

    Examples
    --------
    >>> kind_of_file(b"%PDF-1.7"), kind_of_file(b"day,depth\\n1,2\\n"), kind_of_file(b'{"day": 1}'), kind_of_file(b"<html>")
    ('a PDF document', '', 'JSON', 'a page in HTML')
    """
    if start.startswith(_MARKS):
        return next(kind for mark, kind in _KINDS if start.startswith(mark))
    if start.startswith((BOM_UTF16_LE, BOM_UTF16_BE)):
        name = "utf-16-le" if start.startswith(BOM_UTF16_LE) else "utf-16-be"
        start = start[2 : len(start) // 2 * 2].decode(name, "replace").encode()
    text = start.removeprefix(BOM_UTF8)
    first = text.lstrip()[:1]
    if first == b"<" and _HTML.match(text):
        return "a page in HTML"
    if first == b"<" and _XML.match(text):
        return "XML"
    if first in (b"{", b"[") and _JSON.match(text):
        return "JSON"
    even, odd = (text[at::2].count(0) for at in (0, 1)) if b"\0" in text else (0, 0)
    if min(even, odd) > max(1, len(text) // 50) or len(text) - len(text.translate(None, _CONTROL)) > max(
        1, _MOST_CONTROL * len(text)
    ):
        return "a binary file"
    return ""


def refuse_foreign(start: bytes) -> None:
    """Refuse what is no delimited text.

    Raises SourceFault: saying what it is.
    """
    kind = kind_of_file(start)
    if kind:
        raise SourceFault(
            "not-a-table",
            f"not delimited text: it is {kind}",
            "remove it from the folder, add it to `exclude`, or give it the right suffix",
        )
