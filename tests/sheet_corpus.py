"""Made-up sheets composed at random from known truth: where the table stands, and what stands around it."""

import datetime as dt
import random
from dataclasses import dataclass
from typing import Any

import books
from corpus import KEYS, LAKES, TITLES, WORDS


@dataclass(frozen=True)
class MadeSheet:
    """A workbook with one sheet, and the truth about it."""

    data: bytes
    header_row: int
    header_rows: int
    units_row: bool
    first_column: int
    names: tuple[str, ...]
    rows: int
    features: tuple[str, ...]


def _column(chance: random.Random, kind: str) -> tuple[str, str, list[Any]]:
    if kind == "day":
        start = dt.datetime(chance.randint(2015, 2026), chance.randint(1, 12), chance.randint(1, 28))
        hours = chance.choice([1, 24])
        if chance.random() < 0.15:
            return "Date", "", [f"{start + dt.timedelta(hours=24 * at):%d.%m.%Y}" for at in range(90)]
        return (
            chance.choice(["Date", "Sampled", "time"]),
            "",
            [start + dt.timedelta(hours=hours * at) for at in range(90)],
        )
    if kind == "number":
        name, unit = chance.choice(
            [
                ("Temp", "°C"),
                ("Depth", "m"),
                ("Oxygen", "mg/L"),
                ("Conductivity", "µS/cm"),
                ("pH", ""),
                ("Secchi", "m"),
            ]
        )
        cells: list[Any] = [round(chance.gauss(12, 4), chance.randint(1, 3)) for _ in range(90)]
        return (
            name,
            unit,
            ["" if chance.random() < 0.04 else "n/a" if chance.random() < 0.01 else each for each in cells],
        )
    if kind == "count":
        return chance.choice(["Count", "Visit", "Bottle"]), "", [chance.randint(0, 900) for _ in range(90)]
    words = LAKES if chance.random() < 0.5 else WORDS
    empty = chance.choice([0, 0, 0.6])
    return (
        chance.choice(["Lake", "Remark", "Observer note", "Weather"]),
        "",
        ["" if chance.random() < empty else chance.choice(words) for _ in range(90)],
    )


def make_sheet(seed: int) -> MadeSheet:
    """One workbook."""
    chance = random.Random(seed)
    features: list[str] = []

    def happens(name: str, share: float) -> bool:
        came = chance.random() < share
        features.extend([name] if came else [])
        return came

    kinds = ["day"] * (chance.random() < 0.85) + ["text"] * (chance.random() < 0.6)
    kinds += ["number"] * chance.randint(1, 5) + ["count"] * (chance.random() < 0.4)
    kinds += ["text"] * (chance.random() < 0.4)
    columns = [_column(chance, kind) for kind in kinds]
    in_names = happens("units in names", 0.25)
    names: list[str] = []
    for name, unit, _ in columns:
        said = f"{name} ({unit})" if in_names and unit else name
        names.append(said if said not in names else f"{said} {len(names)}")
    units = sum(bool(unit) for _, unit, _ in columns)
    units_row = not in_names and units >= 0.4 * len(names) and happens("units row", 0.4)
    count = chance.choice([2, 4, 8, 20, 60, 90])
    left = chance.choice([1, 1, 2, 4]) if happens("not in the first column", 0.35) else 0
    gap = chance.randrange(1, len(names)) if len(names) > 2 and happens("blank column inside", 0.12) else 0
    places = [left + at + (gap > 0 and at >= gap) for at in range(len(names))]
    groups = len(names) >= 5 and not gap and happens("two header rows", 0.2)
    truth: dict[str, Any] = {}

    def fill(book: Any) -> None:
        sheet = book.add_worksheet("May")
        day = book.add_format({"num_format": "yyyy-mm-dd hh:mm"})
        row = 0
        if happens("title", 0.5):
            if happens("merged title", 0.5) and places[-1] > left:
                sheet.merge_range(row, left, row, places[-1], chance.choice(TITLES), None)
            else:
                sheet.write(row, left, chance.choice(TITLES))
            row += 1 + chance.randrange(2)
        if happens("entries above", 0.25):
            for key in chance.sample(KEYS, chance.randint(1, 4)):
                if chance.random() < 0.5:
                    sheet.write_row(row, left, [f"{key}:", chance.choice(["00417", "Ambermere", 3.1])])
                else:
                    sheet.write(row, left, f"{key}: Ambermere")
                row += 1
            row += 1
        if not row and happens("blank rows above", 0.2):
            row = chance.randint(1, 4)
        full = list(names)
        if groups:
            half = 2 + (len(names) - 2) // 2
            for first, last, group in ((2, half, "Surface"), (half + 1, len(names) - 1, "Bottom")):
                if last > first:
                    sheet.merge_range(row, places[first], row, places[last], group, None)
                elif last == first:
                    sheet.write(row, places[first], group)
                for at in range(first, last + 1):
                    full[at] = f"{group} {names[at]}"
            row += 1
        truth["names"], truth["header"] = full, row + 1 - groups
        for at, name in enumerate(names):
            sheet.write(row, places[at], name)
        row += 1
        if units_row:
            for at, (_, unit, _) in enumerate(columns):
                sheet.write(row, places[at], unit)
            row += 1
        start = row
        blank = chance.choice([3, 7]) if happens("blank rows inside", 0.12) else 0
        for number in range(count):
            if blank and number % blank == 1:
                row += 1
            for at, (_, _, cells) in enumerate(columns):
                value = cells[number]
                if isinstance(value, dt.datetime):
                    sheet.write_datetime(row, places[at], value, day)
                elif isinstance(value, float) and happens("number as text", 0.002):
                    sheet.write_string(row, places[at], f" {value}")
                elif value != "":
                    sheet.write(row, places[at], value)
            row += 1
        if happens("footer", 0.3):
            row += chance.randrange(2)
            last = chance.choice(["Total", "Mean", "Note: checked", "Signed"])
            at = kinds.index("number")
            known = [value for value in columns[at][2][:count] if isinstance(value, float)]
            if last in ("Total", "Mean") and (kinds[0] == "number" or not known):
                last = "Signed"
            sheet.write(row, left, last)
            if last in ("Total", "Mean"):
                sheet.write(row, places[at], sum(known) / (len(known) if last == "Mean" else 1))
        if happens("note beside", 0.2):
            sheet.write(
                start + chance.randrange(count), places[-1] + chance.choice([2, 3]), "see the log book"
            )
        if happens("key beside", 0.08):
            for at, pair in enumerate((("n/a", "not measured"), ("ice", "under ice"))):
                sheet.write_row(start + at, places[-1] + 2, pair)

    data = books.xlsx(fill)
    return MadeSheet(
        data, truth["header"], 1 + groups, units_row, left + 1, tuple(truth["names"]), count, tuple(features)
    )
