"""Scan .xlsx and .xlsm (ECMA-376) for what opening does not tell about, and for cells shown as days."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import timedelta
from functools import partial
from html import unescape
from posixpath import join, normpath
from xml.etree import ElementTree
from zipfile import ZipFile

import numpy as np

from integrum.values.arrays import Bytes, Ints
from integrum.workbooks.places import place
from integrum.workbooks.scanned import MOST_LETTERS, Scanned, Scans

_STYLES = "xl/styles.xml"
# number formats that are there without being listed and show days; see 18.8.30
_BUILT_IN = frozenset({14, 15, 16, 17, 22, *range(27, 32), 36, *range(50, 59)})
# what is no letter of a format: texts in quotes or behind a backslash, colours and conditions in brackets
_PLAIN = re.compile(r'"[^"]*"|\\.|_.|\*.|\[(?!h+\]|m+\]|s+\])[^\]]*\]', re.I)
_DAYS = re.compile(r"[yd]", re.I)
_REF = re.compile(rb"""\br=["']([A-Z]+\d+)["']""")
_NO_NUMBER = re.compile(rb"""\bt=["'](?!n["'])""")
_BETWEEN = rb"""[^>]*>(?:\s*<(?:\w+:)?f\b[^>]*?(?:/>|>[^<]*</(?:\w+:)?f>))?\s*<(?:\w+:)?v>\s*"""
_FICTION = "1900-02-29"
_MAIN = "xl/workbook.xml"
_CHUNK, _LONGEST = 16 << 20, 16
_ERROR = re.compile(
    rb"""<(?:\w+:)?c\b([^>]*\bt=["']e["'][^>]*)>(?:\s*<(?:\w+:)?f\b[^>]*?(?:/>|>[^<]*</(?:\w+:)?f>))?"""
    rb"""\s*<(?:\w+:)?v>([^<]*)<"""
)
_UNSAVED = re.compile(
    rb"""<(?:\w+:)?c\b([^>]*)>\s*<(?:\w+:)?f\b[^>]*?(?:/>|>([^<]*)</(?:\w+:)?f>)"""
    rb"""\s*(?:<(?:\w+:)?v\s*/>|<(?:\w+:)?v>\s*</(?:\w+:)?v>)?\s*</(?:\w+:)?c>"""
)
_ITEM = re.compile(rb"<(?:\w+:)?si\b")
_SHARED = re.compile(rb"""<(?:\w+:)?c\b[^>]*\bt=["']s["'][^>]*>\s*<(?:\w+:)?v>\s*(\d+)""")
_SHORTEST_CELL = len('<c t="s"><v>0</v></c>')
_ROW = re.compile(rb"""\sr\s*=\s*["'][A-Z]*(\d+)""")
_FAR_ROW, _LAST_BYTES = 100_000, 4_096
_R, _IS, _QUOTE, _APOSTROPHE, _A, _Z, _ZERO, _NINE = map(np.uint8, b"r=\"'AZ09")
_AS_TEXT = re.compile(rb"""\bt=["'](?:str|inlineStr)["']""")


@dataclass(frozen=True)
class DayStyles:
    """Which styles of cells show days, by their numbers; and whether days are counted from 1904."""

    numbers: frozenset[int]
    from_1904: bool

    def odd_days(self, data: bytes) -> dict[tuple[int, int], str]:
        """Cells of a sheet that show no day of the calendar, or the first one of 1904, with their texts."""
        starts = (b">0<", b">0.", b">-") if self.from_1904 else (b">60<", b">60.", b">-")
        if not self.numbers or not any(start in data for start in starts):
            return {}
        first = rb"0(?:\.\d+)?" if self.from_1904 else rb"60(?:\.\d+)?"
        found = {}
        # a pattern that begins with plain letters is found fast, and this much of a sheet are days
        for style in (
            b"s=%s%d%s" % (quote, number, quote) for number in self.numbers for quote in (b'"', b"'")
        ):
            for cell in re.finditer(style + _BETWEEN + rb"(%s|-[0-9.eE+-]+)\s*</" % first, data):
                start = data.rfind(b"<", 0, cell.start())
                attributes = data[start : data.find(b">", start)]
                ref = _REF.search(attributes)
                if ref and not _NO_NUMBER.search(attributes):
                    found[place(ref[1].decode())] = self._text(cell[1].decode())
        return found

    def _text(self, number: str) -> str:
        if number.startswith("-"):
            return number
        day = "1904-01-01" if self.from_1904 else _FICTION
        rest = float(number) % 1
        clock = timedelta(seconds=round(rest * 86_400))
        return f"{day} {str(clock).zfill(8)}" if rest else day


def day_styles(archive: ZipFile, main: bytes) -> DayStyles:
    """What a workbook says of its styles; `main`: its main part."""
    from_1904 = bool(re.search(rb"""\bdate1904=["'](?:1|true|on)["']""", main))
    if _STYLES not in archive.NameToInfo:
        return DayStyles(frozenset(), from_1904)
    root = ElementTree.fromstring(archive.read(_STYLES))
    formats = {
        int(one.get("numFmtId", "0")): _shows_days(one.get("formatCode", ""))
        for one in root.iter()
        if one.tag.endswith("}numFmt")
    }
    cells = next((one for one in root if one.tag.endswith("}cellXfs")), ())
    numbers = {
        number
        for number, one in enumerate(cells)
        if formats.get(fmt := int(one.get("numFmtId", "0")), fmt in _BUILT_IN)
    }
    return DayStyles(frozenset(numbers), from_1904)


def _shows_days(code: str) -> bool:
    """Whether a number format shows days or years.

    Examples
    --------
    >>> _shows_days("yyyy-mm-dd"), _shows_days("hh:mm"), _shows_days('0.0 "days"'), _shows_days("[Red]0")
    (True, False, False, False)
    """
    return bool(_DAYS.search(_PLAIN.sub("", code)))


def scan_xlsx(archive: ZipFile) -> Scans:
    """What scans the sheets of a workbook."""
    targets = relations(archive, _MAIN)
    shared = next((part for part in targets.values() if part.endswith("sharedStrings.xml")), "")
    sizes = _sizes(archive.read(shared)) if shared in archive.NameToInfo else np.zeros(0, np.int64)
    main = archive.read(_MAIN)
    days = day_styles(archive, main)
    found = {}
    for element in ElementTree.fromstring(main).iter():
        if element.tag.endswith("}sheet") or element.tag == "sheet":
            key = next((value for name, value in element.attrib.items() if name.endswith("}id")), "")
            part = targets.get(key, "")
            if part in archive.NameToInfo:
                found[element.get("name", "")] = partial(_scan_part, archive, part, sizes, days)
    return found


def _sizes(data: bytes) -> Ints:
    """How long the shared texts are, about, in their order."""
    at = np.array([found.start() for found in _ITEM.finditer(data)], np.int64)
    return np.diff(np.append(at, len(data)))


def relations(archive: ZipFile, main: str) -> dict[str, str]:
    """The parts that the main part refers to, by the key it uses."""
    folder, _, file = main.rpartition("/")
    tree = ElementTree.fromstring(archive.read(f"{folder}/_rels/{file}.rels"))
    targets = {}
    for element in tree:
        target = element.get("Target", "")
        targets[element.get("Id", "")] = (
            target.lstrip("/") if target.startswith("/") else normpath(join(folder, target))
        )
    return targets


def _scan_part(archive: ZipFile, part: str, sizes: Ints, days: DayStyles) -> Scanned:
    data = archive.read(part)
    found = _scan(data)
    found.odd_days = days.odd_days(data)
    if len(sizes) and int(sizes.max()) * len(data) // _SHORTEST_CELL > MOST_LETTERS:
        used = np.fromiter((int(said[-9:]) for said in _SHARED.findall(data)), np.int64)
        found.letters = int(sizes[used[used < len(sizes)]].sum())
    return found


def _scan(data: bytes) -> Scanned:
    cells = slice(max(data.find(b"sheetData"), 0), data.rfind(b"sheetData"))
    view = np.frombuffer(data, np.uint8)[cells]
    first, last = _ends(data)
    near = first <= last < _FAR_ROW and not _has_far_column(view)
    found = Scanned(_FAR_ROW, 26) if near else _reach(data)
    if _has(view, b'"e"') or _has(view, b"'e'"):
        for attributes, said in _ERROR.findall(data):
            found.errors[_place(attributes)] = unescape(said.decode("utf-8", "replace"))
    if _has(view, b"<f") or (b"<sheetData" not in data and b":f" in data):
        for attributes, formula in _UNSAVED.findall(data):
            if not _AS_TEXT.search(attributes):
                found.unsaved[_place(attributes)] = unescape(formula.decode("utf-8", "replace"))
    return found


def _has(view: Bytes, pattern: bytes) -> bool:
    """Whether a few bytes occur, faster than by a search for them."""
    end = len(view) - len(pattern) + 1
    found = view[:end] == pattern[0]
    for at, byte in enumerate(pattern[1:], 1):
        found &= view[at : end + at] == byte
    return bool(found.any())


def _has_far_column(view: Bytes) -> bool:
    """Whether something in quotes begins with two capitals, as the places of cells beyond column Z do."""
    capital = (view - _A) <= _Z - _A  # other bytes wrap around to more
    quote = (view[:-2] == _QUOTE) | (view[:-2] == _APOSTROPHE)
    return bool((quote & capital[1:-1] & capital[2:]).any())


def _ends(data: bytes) -> tuple[int, int]:
    """The rows of the first and the last cells; what lies between them does not count when a sheet is opened."""
    end = data.rfind(b"sheetData")
    first = _ROW.search(data)
    last = _ROW.findall(data, max(0, end - _LAST_BYTES), end)
    return (int(first[1]) if first else 0), max(map(int, last), default=0 if end < _LAST_BYTES else _FAR_ROW)


def _place(attributes: bytes) -> tuple[int, int]:
    ref = _REF.search(attributes)
    return place(ref[1].decode()) if ref else (0, 0)


def _reach(data: bytes) -> Scanned:
    """How far the cells reach, and how many there are; by their places, as the declared size may be wrong."""
    data = data.replace(b"'", b'"').translate(None, b" \t\r\n")
    data = data[data.find(b"sheetData") : data.rfind(b"sheetData")]
    found, last = Scanned(), 0
    for start in range(0, len(data), _CHUNK):
        view = np.frombuffer(data[start : start + _CHUNK + _LONGEST] + bytes(_LONGEST), np.uint8)
        at = np.flatnonzero(
            (view[:-_LONGEST] == _R) & (view[1 : 1 - _LONGEST] == _IS) & (view[2 : 2 - _LONGEST] == _QUOTE)
        )
        at = at[at < _CHUNK] + 3  # what begins behind it is found in the next one
        column, row = np.zeros(len(at), np.int64), np.zeros(len(at), np.int64)
        for _ in range(3):
            byte = view[at]
            is_letter = (byte >= _A) & (byte <= _Z)
            column = np.where(is_letter, column * 26 + byte - (_A - 1), column)
            at += is_letter
        for _ in range(7):
            byte = view[at]
            is_digit = (byte >= _ZERO) & (byte <= _NINE)
            row = np.where(is_digit, row * 10 + byte - _ZERO, row)
            at += is_digit
        here = row[(column > 0) & (row > 0)]
        if len(here):
            found.in_order &= last <= here[0] and bool(np.all(np.diff(here) >= 0))
            last = here[-1]
        if len(at):
            found.rows, found.columns = max(found.rows, int(row.max())), max(found.columns, int(column.max()))
            found.cells += int(np.count_nonzero(column))
    return found
