"""Cells of a workbook that are shown as days, and whose numbers are none in the calendar.

A workbook counts days from 1900, with a 29th of February that there was not, or from 1904 (ECMA-376, part 1, 18.17.4).
The library that opens workbooks gives 60 as the day before, a negative number as midnight, and the first day of 1904 as
a time of the day.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import timedelta
from xml.etree import ElementTree
from zipfile import ZipFile

from integrum.workbooks.places import place

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
        # a pattern that begins with plain letters is found fast, and so much of a sheet are days
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
