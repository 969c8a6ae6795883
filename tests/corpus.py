"""Made-up delimited files composed at random from known truth: dialect, encoding, layout."""

import random
from dataclasses import dataclass
from datetime import datetime, timedelta

from true_statistics import totals

LAKES = [
    "Ambermere",
    "Quillon Tarn",
    "Vessel Lake",
    "Hollow Water",
    "Brindlemere",
    "Øvre Kolk",
    "Lac Éméché",
    "Grüner See",
]
WORDS = [
    "calm",
    "light wind",
    "ice at the shore",
    "fog, thick",
    "rain; gusts",
    "clear",
    'said "deep"',
    "vögel",
    "déjà vu",
]
TITLES = ["Logger export", "Monitoring of lakes", "Data download", "Station report"]
KEYS = ["Serial No", "Site", "Operator", "Firmware", "Start", "Interval", "Position", "Battery"]
CODECS = {
    "utf-8": "utf-8",
    "utf-8-sig": "utf-8",
    "utf-16": "utf-16",
    "cp1252": "cp1252",
    "mac-roman": "mac-roman",
}


@dataclass(frozen=True)
class TableBatch:
    """A file and the truth about it."""

    data: bytes
    encoding: str
    only_ascii: bool
    delimiter: str
    decimal_mark: str
    header_row: int
    header_rows: int
    units_row: bool
    footer_row: int
    names: tuple[str, ...]
    rows: int
    features: tuple[str, ...]


def column(chance: random.Random, kind: str, decimal_mark: str) -> tuple[str, str, list[str]]:
    """A name, a unit and 120 cells."""
    if kind == "time":
        start = datetime(chance.randint(2015, 2026), chance.randint(1, 12), chance.randint(1, 28))
        form = chance.choice(
            ["%Y-%m-%d %H:%M", "%Y-%m-%dT%H:%M:%S", "%d.%m.%Y %H:%M", "%m/%d/%Y %H:%M", "%Y-%m-%d"]
        )
        cells = [(start + timedelta(hours=at)).strftime(form) for at in range(120)]
        return (
            chance.choice(["Date/Time", "time", "Timestamp", "date"]),
            chance.choice(["yyyy-mm-dd hh:mm", "UTC", ""]),
            cells,
        )
    if kind == "number":
        name, unit = chance.choice(
            [
                ("Temp", "°C"),
                ("Depth", "m"),
                ("Oxygen", "mg/L"),
                ("Conductivity", "µS/cm"),
                ("pH", ""),
                ("Turbidity", "NTU"),
                ("Saturation", "%"),
            ]
        )
        digits = chance.randint(1, 3)
        cells = [f"{chance.gauss(12, 4):.{digits}f}".replace(".", decimal_mark) for _ in range(120)]
        return (
            name,
            unit,
            ["" if chance.random() < 0.03 else "n/a" if chance.random() < 0.01 else cell for cell in cells],
        )
    if kind == "integer":
        return (
            chance.choice(["Count", "Serial", "Step"]),
            "",
            [str(chance.randint(0, 5000)) for _ in range(120)],
        )
    words = LAKES if chance.random() < 0.5 else WORDS
    return (
        chance.choice(["Lake", "Remark", "Observer note", "Weather"]),
        "",
        [chance.choice(words) for _ in range(120)],
    )


def quoted(cell: str, delimiter: str, quote: str, always: bool) -> str:
    if always or any(mark in cell for mark in (delimiter, quote, "\n", "\r")):
        return quote + cell.replace(quote, quote * 2) + quote
    return cell


def make(seed: int) -> TableBatch:
    """One file."""
    chance = random.Random(seed)
    features: list[str] = []

    def happens(name: str, share: float) -> bool:
        came = chance.random() < share
        features.extend([name] if came else [])
        return came

    delimiter = chance.choices([",", ";", "\t", "|"], [50, 25, 15, 10])[0]
    decimal_mark = "," if delimiter != "," and happens("decimal comma", 0.35) else "."
    quote = "'" if happens("single quotes", 0.06) else '"'
    always = happens("all quoted", 0.12) or quote == "'"
    end = chance.choices(["\n", "\r\n", "\r"], [60, 35, 5])[0]
    kinds = ["time"] * (chance.random() < 0.85) + ["text"] * (chance.random() < 0.5)
    kinds += (
        ["number"] * chance.randint(1, 5)
        + ["integer"] * (chance.random() < 0.4)
        + ["text"] * (chance.random() < 0.3)
    )
    columns = [column(chance, kind, decimal_mark) for kind in kinds]
    width, count = len(columns), chance.choice([3, 5, 8, 20, 60, 119])
    in_names = happens("units in names", 0.25)
    names = []
    for at, (name, unit, _) in enumerate(columns):
        name = f"{name} {at}" if [each[0] for each in columns].count(name) > 1 else name
        names.append(f"{name} ({unit})" if in_names and unit else name)
    units_row = (
        not in_names
        and happens("units row", 0.25)
        and sum(bool(unit) for _, unit, _ in columns) >= 0.4 * width
    )

    def line(cells: list[str]) -> str:
        return delimiter.join(quoted(cell, delimiter, quote, always and cell != "") for cell in cells)

    lines: list[str] = []
    if happens("sep=", 0.03):
        lines.append(f"sep={delimiter}")
    if happens("preamble", 0.5):
        padded = happens("padded preamble", 0.3)
        form = chance.choice([": ", "cell", " = "])
        title = [chance.choice(TITLES)] if chance.random() < 0.5 else []
        for key in [*title, *chance.sample(KEYS, chance.randint(1, 7))]:
            value = chance.choice(
                ["00417", "Ambermere", "3.1.4", "2024-05-01 08:00", "10 min", "47.1 N", "Øvre Kolk"]
            )
            cells = [key] if key in title else [key, value] if form == "cell" else [f"{key}{form}{value}"]
            lines.append(line(cells + [""] * (width - len(cells)) if padded else cells))
        if chance.random() < 0.4:
            lines.append("")
    if happens("comments", 0.1):
        lines = [f"# {each}" for each in lines if each] or ["# made by a logger"]
    header_rows = 1
    if width >= 4 and happens("two header rows", 0.06):
        half = width // 2
        lines.append(line(["Water", *[""] * (half - 1), "Sensor", *[""] * (width - half - 1)]))
        header_rows = 2
    header_row = len(lines) + 2 - header_rows
    lines.append(line(names))
    if units_row:
        lines.append(line([unit for _, unit, _ in columns]))
    rows = [[cells[at] for _, _, cells in columns] for at in range(count)]
    trailing = happens("trailing separator", 0.08)
    blank_every = chance.choice([2, 7, 15]) if happens("blank rows", 0.1) else 0
    glued = chance.randint(1, count - 1) if happens("repeated header", 0.08) else 0
    for at, row in enumerate(rows):
        if glued and at == glued:
            lines.append(line(names))
        if blank_every and at % blank_every == 1:
            lines.append("")
        if happens("line break", 0.002) and kinds[-1] == "text":
            row = [*row[:-1], f"two{end}lines"]
        lines.append(line(row) + (delimiter if trailing else ""))
    footer_row = 0
    if happens("footer", 0.2):
        if chance.random() < 0.5:
            lines.append("")
        footer_row = len(lines) + 1 + sum(each.count(end) for each in lines) * 0
        kind = chance.choice(["total", "note", "end", "signed"])
        total = totals(rows, decimal_mark)
        if kind == "total" and kinds[0] == "time" and any(total[1:]):
            lines.append(line(total))
        elif kind == "note":
            lines += ["Note: checked against the log book", "Values below 0 were removed"]
        elif kind == "signed":
            lines.append("Signed: the keeper of the lake")
        else:
            lines.append("End of file")
    text = end.join(lines) + ("" if happens("no last line end", 0.15) else end)
    encoding = chance.choices(list(CODECS), [55, 12, 8, 20, 5])[0]
    try:
        data = text.encode(encoding)
    except UnicodeEncodeError:
        encoding = "utf-8"
        data = text.encode(encoding)
    return TableBatch(
        data,
        CODECS[encoding],
        text.isascii() and encoding not in ("utf-8-sig", "utf-16"),
        delimiter,
        decimal_mark,
        header_row,
        header_rows,
        units_row,
        footer_row,
        tuple(names),
        count,
        tuple(features),
    )
