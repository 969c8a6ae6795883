"""Write the workbooks of the demo: field visits, a workbook per lake and a sheet per month."""

from __future__ import annotations

import random
from collections.abc import Sequence
from datetime import date, datetime, time, timedelta
from pathlib import Path
from statistics import fmean

import xlsxwriter
from xlsxwriter.format import Format
from xlsxwriter.workbook import Workbook
from xlsxwriter.worksheet import Worksheet

MONTHS = ("April", "May", "June", "July", "August", "September")
_HEADER = (
    "Date",
    "Time",
    "Team",
    "Secchi (m)",
    "Temp (°C)",
    "Oxygen (mg/L)",
    "Temp (°C)",
    "Oxygen (mg/L)",
    "Remarks",
)
_FIRST_COLUMN, _HEADER_ROW = 1, 3


def write_field_visits(folder: Path, lakes: Sequence[str], chance: random.Random) -> None:
    """Write a workbook per lake.

    Each has a cover, a sheet per month with a merged title, a header of two rows that begins in column B and a
    row of means below, and a hidden sheet with lists. As it goes, one number is stored as text, one cell is
    an error, and somebody wrote a note beside a table.
    """
    folder.mkdir(parents=True, exist_ok=True)
    for lake in lakes:
        path = folder / f"field-visits_{lake.lower().replace(' ', '-')}_2024.xlsx"
        with xlsxwriter.Workbook(str(path)) as book:
            book.set_properties({"title": f"Field visits {lake}", "created": datetime(2024, 10, 1)})
            _cover(book.add_worksheet("Cover"), lake)
            for number, month in enumerate(MONTHS, 4):
                sheet = book.add_worksheet(month)
                visits = _table(book, sheet, f"{lake}: field visits, {month} 2024", number, chance)
                _as_it_goes(book, sheet, lake, month, visits)
            lists = book.add_worksheet("lists")
            lists.write_column(0, 0, ["Team", "A", "B", "C"])
            lists.hide()


def _cover(sheet: Worksheet, lake: str) -> None:
    sheet.write(0, 0, f"Field visits {lake} 2024")
    for row, pair in enumerate((("Lake:", lake), ("Year:", 2024), ("Forms checked:", "yes")), 2):
        sheet.write_row(row, 0, pair)


def _table(book: Workbook, sheet: Worksheet, title: str, month: int, chance: random.Random) -> int:
    """Write a month; gives the number of its visits."""
    formats = {name: book.add_format(said) for name, said in _FORMATS.items()}
    left, right = _FIRST_COLUMN, _FIRST_COLUMN + len(_HEADER) - 1
    sheet.merge_range(0, left, 0, right, title, formats["title"])
    sheet.merge_range(_HEADER_ROW - 1, left + 4, _HEADER_ROW - 1, left + 5, "Surface", formats["group"])
    sheet.merge_range(_HEADER_ROW - 1, left + 6, _HEADER_ROW - 1, left + 7, "Bottom", formats["group"])
    sheet.write_row(_HEADER_ROW, left, _HEADER, formats["header"])
    sheet.set_column(left, right, 13)
    day, row = date(2024, month, chance.randint(1, 4)), _HEADER_ROW
    visits = []
    while day.month == month:
        row += 1
        visits.append(_visit(sheet, row, day, formats, chance))
        day += timedelta(days=chance.randint(3, 6))
    for _ in range(5):  # the files stay what they were before their means were true
        chance.random()
    means = row + 1
    sheet.write(means, left, "Mean", formats["header"])
    for column, values in enumerate(zip(*visits, strict=True), left + 3):
        first, last = (xlsxwriter.utility.xl_rowcol_to_cell(each, column) for each in (_HEADER_ROW + 1, row))
        sheet.write_formula(means, column, f"=AVERAGE({first}:{last})", formats["one"], fmean(values))
    return row - _HEADER_ROW


def _visit(
    sheet: Worksheet, row: int, day: date, formats: dict[str, Format], chance: random.Random
) -> list[float]:
    """Write a visit; gives its values."""
    season = max(0.0, 1 - abs(day.month - 7.5) / 5)
    surface = 6 + 15 * season + chance.gauss(0, 0.8)
    bottom = min(surface, 6 + 3 * season + chance.gauss(0, 0.3))
    left = _FIRST_COLUMN
    sheet.write_datetime(row, left, datetime(day.year, day.month, day.day), formats["date"])
    sheet.write_datetime(
        row, left + 1, time(chance.randint(8, 16), chance.choice((0, 15, 30, 45))), formats["time"]
    )
    sheet.write(row, left + 2, chance.choice("ABC"))
    exact = (chance.uniform(1.2, 6.8), surface, 14.2 - 0.28 * surface, bottom, 12 - 5 * season)
    values = [round(value, 1) for value in exact]
    for column, value in enumerate(values, left + 3):
        sheet.write_number(row, column, value, formats["one"])
    sheet.write(
        row, left + 8, chance.choice(("", "", "", "windy", "ice at the edge" if day.month == 4 else "bloom"))
    )
    return values


def _as_it_goes(book: Workbook, sheet: Worksheet, lake: str, month: str, visits: int) -> None:
    """What happens to sheets over time."""
    if (lake, month) == ("Vessel Lake", "June"):
        sheet.write_string(_HEADER_ROW + 2, _FIRST_COLUMN + 3, " 4.1", book.add_format(_FORMATS["text"]))
    if (lake, month) == ("Hollow Water", "July"):
        sheet.write_formula(_HEADER_ROW + visits, _FIRST_COLUMN + 5, "=0/0", None, "#DIV/0!")
    if (lake, month) == ("Ambermere", "August"):
        sheet.write(_HEADER_ROW + 1, _FIRST_COLUMN + 11, "oxygen probe was changed")


_FORMATS: dict[str, dict[str, object]] = {
    "title": {"bold": True, "font_size": 14, "align": "center"},
    "group": {"bold": True, "align": "center", "bottom": 1},
    "header": {"bold": True, "bottom": 1},
    "date": {"num_format": "yyyy-mm-dd"},
    "time": {"num_format": "hh:mm"},
    "one": {"num_format": "0.0"},
    "text": {"num_format": "@"},
}
