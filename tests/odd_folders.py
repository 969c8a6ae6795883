"""Made-up folders: one kind of thing, written by several instruments, with odd ones out; each with known truth."""

import random
from dataclasses import dataclass, field

from corpus import LAKES
from true_statistics import totals

SUBJECTS = {
    "loggers": [("time", "stamp"), ("Temp", "number"), ("Depth", "number"), ("Oxygen", "number")],
    "visits": [
        ("date", "day"),
        ("Lake", "lake"),
        ("Secchi", "number"),
        ("weather", "word"),
        ("n", "integer"),
    ],
    "catch": [("fish", "species"), ("length", "number"), ("mass", "number"), ("sex", "letter")],
    "samples": [
        ("sample", "code"),
        ("Lake", "lake"),
        ("nitrate", "number"),
        ("pH", "number"),
        ("remark", "word"),
    ],
    "plots": [("plot", "code"), ("species", "species"), ("cover", "integer")],
    "levels": [("day", "day"), ("level", "number")],
    "counts": [("taxon", "species"), ("1 m", "integer"), ("5 m", "integer"), ("10 m", "integer")],
}
SPECIES = ["pike", "perch", "Daphnia", "eel", "roach", "Bosmina", "stone loach"]
WORDS = ["calm", "rain", "windy", "clear", "fog"]


@dataclass
class Folder:
    """Files by name, and how many rows of data each has."""

    files: dict[str, bytes] = field(default_factory=dict)
    rows: dict[str, int] = field(default_factory=dict)
    header: tuple[str, ...] = ()
    ways: list[str] = field(default_factory=list)


def _cell(chance: random.Random, kind: str, at: int, mark: str) -> str:
    if kind == "stamp":
        return f"2024-{1 + at // 600 % 12:02}-{1 + at // 24 % 28:02} {at % 24:02}:00"
    if kind == "day":
        return f"2024-{chance.randint(1, 12):02}-{chance.randint(1, 28):02}"
    if kind == "number":
        return f"{abs(chance.gauss(9, 3)):.{chance.choice([1, 2])}f}".replace(".", mark)
    if kind == "integer":
        return str(chance.randint(0, 300))
    if kind == "code":
        return f"S{chance.randint(1, 400)}"
    return chance.choice(
        {"lake": LAKES[:5], "word": WORDS, "species": SPECIES, "letter": ["m", "f", ""]}[kind]
    )


def make_folder(seed: int) -> Folder:
    """One folder."""
    chance = random.Random(f"folder {seed}")
    subject = chance.choice(list(SUBJECTS))
    columns = SUBJECTS[subject]
    made = Folder(header=tuple(name for name, _ in columns))
    ways = [_way(chance, columns) for _ in range(chance.choice([1, 1, 1, 2, 3]))]
    counts = chance.choice([[1, 2, 3], [5, 8, 12], [20, 40], [2, 30]])
    for number in range(chance.randint(3, 14)):
        way = chance.choice(ways) if number >= len(ways) else ways[number]
        count = chance.choice(counts)
        name = f"{subject}_{number + 1:02}.csv"
        if chance.random() < 0.04:
            count = 0
            made.ways.append("a header alone")
        lines = _lines(chance, way, columns, count, made)
        made.files[name] = (way["end"].join(lines) + way["end"]).encode(way["encoding"])
        made.rows[name] = count
    if chance.random() < 0.15:
        made.files["zz_empty.csv"], made.rows["zz_empty.csv"] = b"", -1
        made.ways.append("an empty file")
    if chance.random() < 0.15:
        made.files["zz_page.csv"], made.rows["zz_page.csv"] = b"<html><body>not found</body></html>\n", -1
        made.ways.append("a web page")
    return made


def _way(chance: random.Random, columns: list[tuple[str, str]]) -> dict[str, object]:
    """How one instrument writes."""
    delimiter = chance.choice([",", ",", ";", "\t"])
    units = {"number": "m", "stamp": "yyyy-mm-dd hh:mm"}
    has_units = chance.random() < 0.25 and sum(kind in units for _, kind in columns) >= 2
    return {
        "delimiter": delimiter,
        "mark": "," if delimiter != "," and chance.random() < 0.4 else ".",
        "encoding": chance.choice(["utf-8"] * 4 + ["utf-16", "cp1252", "utf-8-sig"]),
        "end": chance.choice(["\n", "\r\n"]),
        "top": chance.choice([0, 0, 0, 1, 4]),
        "varies": chance.random() < 0.4,
        "units": [units.get(kind, "") for _, kind in columns] if has_units else [],
        "names": [name.upper() if chance.random() < 0.2 else name for name, _ in columns],
        "footer": chance.choice(["", "", "", "Total", "note"]),
        "comment": chance.random() < 0.1,
        "sites": chance.random() < 0.3,
    }


def _lines(
    chance: random.Random, way: dict, columns: list[tuple[str, str]], count: int, made: Folder
) -> list[str]:
    delimiter = way["delimiter"]
    top = way["top"] + (chance.randint(0, 2) if way["varies"] and way["top"] else 0)
    lines = [
        f"Site: {chance.choice(LAKES[:4])}",
        "Serial: 0417",
        "Firmware: 3.1.4",
        "Operator: keeper",
        "Interval: 10 min",
        "Export",
        "x",
    ][:top]
    lines.append(delimiter.join(way["names"]))
    if way["units"]:
        lines.append(delimiter.join(way["units"]))
    rows = []
    for at in range(count):
        cells = [_cell(chance, kind, at, way["mark"]) for _, kind in columns]
        if at and chance.random() < 0.01 and columns[-1][1] == "number":
            cells[-1] = "n/a"
        lines.append(delimiter.join(cells))
        rows.append(cells)
        if way["comment"] and at == 2:
            lines.append("# sensor cleaned")
    if way["footer"] == "Total" and columns[-1][1] == "number" and count > 2 and columns[0][1] != "number":
        total = totals(rows, way["mark"])
        if any(total[1:]):
            lines.append(delimiter.join(total))
    elif way["footer"] == "note" and count > 2:
        lines += ["", "Note: checked"]
    return lines
