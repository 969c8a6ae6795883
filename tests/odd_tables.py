"""Made-up tables that are hard to read: few rows, odd first rows, notes, statistics and units, each with known truth."""

import math
import random
import re
import statistics
from dataclasses import dataclass

TITLES = ["Field notes, summer", "Export", "Catch record", "Data of the second visit", "Appendix B"]
PEOPLE = ["A. Brand", "keeper of the lake", "M. Quill", "station team"]
SITES = [
    "Ambermere",
    "Quillon Tarn",
    "Vessel Lake",
    "Hollow Water",
    "Meander",
    "Summer Bay",
    "Minnow Pool",
    "North",
    "Endmere",
    "Totalis",
]
SPECIES = ["pike", "perch", "roach", "stone loach", "Daphnia", "Bosmina", "water flea", "eel"]
WORDS = ["calm", "rain", "ice at the shore", "fog", "clear", "windy", "muddy", "low", "high", "fair"]
UNITS = {
    "mass": ["g", "kg", "mg"],
    "volume": ["L", "litres", "ml"],
    "depth": ["m", "metres", "cm"],
    "temp": ["°C", "deg C", "C"],
    "length": ["mm", "cm"],
    "flow": ["m3/s", "L/s"],
    "oxygen": ["mg/L", "%"],
    "height": ["m", "feet"],
    "count": [""],
    "speed": ["m/s", "km/h"],
    "pressure": ["hPa", "kPa"],
    "light": ["lux", "µmol/m2/s"],
}
ODD_VALUES = ["broken", "inf", "below detection", "n/a", "", "-", "lost", "<0.1", "NaN", "see note"]
COLOURS = ["#a1b2c3", "#00ff00", "#123456", "#fefefe"]
PATHS = ["//store/a.png", "//store/b.png", "//archive/x/y.png"]


@dataclass(frozen=True)
class Odd:
    """A file and the truth about it: the parts by row, from 1."""

    data: bytes
    parts: tuple[str, ...]
    names: tuple[str, ...]
    rows: int
    features: tuple[str, ...]

    def of(self, part: str) -> set[int]:
        return {row for row, each in enumerate(self.parts, 1) if each == part}


def _column(chance: random.Random, at: int, count: int) -> tuple[str, str, list[str]]:
    kind = chance.choices(
        [
            "id",
            "code",
            "site",
            "species",
            "word",
            "number",
            "integer",
            "date",
            "time",
            "year",
            "colour",
            "path",
            "flag",
            "letter",
        ],
        [5, 6, 9, 6, 6, 30, 12, 9, 3, 3, 2, 2, 3, 3],
    )[0]
    first = chance.randint(1, 60)
    if kind == "id":
        return (
            chance.choice(["id", "No", "Nr.", "ID", "obs", "case"]),
            "",
            [str(first + n) for n in range(count)],
        )
    if kind == "code":
        letters = chance.choice(["A", "QC", "LK-", "s", "P0"])
        return (
            chance.choice(["code", "Sample", "specimen", "tag"]),
            "",
            [f"{letters}{first + n}" for n in range(count)],
        )
    if kind == "site":
        return (
            chance.choice(["site", "Lake", "Station name", "where"]),
            "",
            [chance.choice(SITES) for _ in range(count)],
        )
    if kind == "species":
        return chance.choice(["species", "Taxon", "fish"]), "", [chance.choice(SPECIES) for _ in range(count)]
    if kind == "word":
        return (
            chance.choice(["weather", "Remarks", "state", "Note"]),
            "",
            [chance.choice([*WORDS, "", ""]) for _ in range(count)],
        )
    if kind == "number":
        name = chance.choice(list(UNITS))
        digits, middle = chance.randint(1, 3), chance.choice([0.5, 7, 20, 300])
        cells = [f"{abs(chance.gauss(middle, middle / 4)):.{digits}f}" for _ in range(count)]
        return chance.choice([name, name.title(), name.upper()]), chance.choice(UNITS[name]), cells
    if kind == "integer":
        return (
            chance.choice(["count", "n", "Catch", "eggs", "Total"]),
            "",
            [str(chance.randint(0, 900)) for _ in range(count)],
        )
    if kind == "date":
        form = chance.choice(["{y}-{m:02}-{d:02}", "{d:02}.{m:02}.{y}", "{m}/{d}/{y}", "{d}-May-{y}"])
        cells = [
            form.format(y=chance.randint(2001, 2026), m=chance.randint(1, 12), d=chance.randint(1, 28))
            for _ in range(count)
        ]
        return (
            chance.choice(["date", "Date", "sampled", "when"]),
            chance.choice(["", "", "yyyy-mm-dd"]),
            cells,
        )
    if kind == "time":
        return (
            chance.choice(["time", "hour", "at"]),
            chance.choice(["", "hh:mm"]),
            [f"{chance.randint(6, 20)}:{chance.randint(0, 59):02}" for _ in range(count)],
        )
    if kind == "year":
        return (
            chance.choice(["year", "Year", "season"]),
            "",
            [str(chance.randint(1950, 2026)) for _ in range(count)],
        )
    if kind == "colour":
        return chance.choice(["colour", "shade"]), "", [chance.choice(COLOURS) for _ in range(count)]
    if kind == "path":
        return chance.choice(["picture", "file"]), "", [chance.choice(PATHS) for _ in range(count)]
    if kind == "flag":
        return (
            chance.choice(["ok", "True", "checked", "No"]),
            "",
            [chance.choice(["yes", "no"]) for _ in range(count)],
        )
    return (
        chance.choice(["sex", "class", "grade"]),
        "",
        [chance.choice(["m", "f", "s", "a", "b"]) for _ in range(count)],
    )


class _Words:
    """Invented words in the place of known ones, the same for the same; signs and digits stay."""

    def __init__(self, chance: random.Random) -> None:
        self._chance, self._known = chance, {}

    def of(self, text: str) -> str:
        return re.sub("[A-Za-z]{2,}", lambda found: self._word(found[0]), text)

    def _word(self, word: str) -> str:
        if word not in self._known:
            parts = (
                self._chance.choice("bdfgklmnprstvz") + self._chance.choice("aeiou")
                for _ in range(self._chance.randint(1, 4))
            )
            made = "".join(parts) + self._chance.choice(["", "n", "s"])
            self._known[word] = made.title() if word[0].isupper() else made
        return self._known[word]


def make(seed: int, strange: bool = False) -> Odd:
    """One table; a strange one has invented words for the names of its columns and for its texts."""
    chance = random.Random(f"odd {seed}")
    features: list[str] = []

    def happens(name: str, share: float) -> bool:
        came = chance.random() < share
        features.extend([name] if came else [])
        return came

    count = chance.choice([1, 1, 2, 2, 3, 3, 4, 5, 6, 8, 12, 20, 25, 40, 60])
    width = chance.choice([1, 2, 2, 3, 3, 4, 5, 6, 8, 12])
    delimiter = chance.choice([",", ",", ",", ";", "\t"])
    columns = [_column(chance, at, count) for at in range(width)]
    if not any(_is_number(cell) for _, _, cells in columns for cell in cells) and not happens(
        "texts alone", 0.35
    ):
        columns[-1] = ("value", "", [f"{chance.gauss(9, 2):.1f}" for _ in range(count)])
    if strange:
        words = _Words(random.Random(f"words {seed}"))
        columns = [(words.of(name), unit, _strange(cells, words)) for name, unit, cells in columns]
    names = [name for name, _, _ in columns]
    names = [name if names.count(name) == 1 else f"{name} {at}" for at, name in enumerate(names)]
    if width == 1:
        columns = [(name, unit, [cell or "calm" for cell in cells]) for name, unit, cells in columns]
    if width > 3 and happens("names that are numbers", 0.08):
        start = chance.choice([1960, 2001, 2015])
        names[-3:] = [str(start + n) for n in range(3)]
        columns[-3:] = [
            (name, "", [f"{chance.gauss(30, 9):.1f}" for _ in range(count)]) for name in names[-3:]
        ]
    elif width > 2 and happens("names that are ranges", 0.05):
        names[-2:] = ["0-5 cm", "5-10 cm"]
        columns[-2:] = [
            (name, "", [f"{chance.gauss(3, 1):.2f}" for _ in range(count)]) for name in names[-2:]
        ]
    rows = [[cells[at] for _, _, cells in columns] for at in range(count)]
    numbers = [
        at for at, (_, _, cells) in enumerate(columns) if cells and sum(map(_is_number, cells)) == len(cells)
    ]
    if numbers and count > 2 and happens("an odd value early", 0.15):
        rows[chance.choice([0, 0, 1])][chance.choice(numbers)] = chance.choice(
            ODD_VALUES if width > 1 else ODD_VALUES[:3]
        )
    if len(numbers) > 1 and width > 2 and count > 4 and happens("sparse first rows", 0.06):
        for row in rows[: chance.randint(1, 2)]:
            row[:] = [cell if at == numbers[0] else "" for at, cell in enumerate(row)]
    if numbers and count > 2 and happens("an odd last row", 0.06):
        rows[-1][chance.choice(numbers)] = chance.choice(["A4", "lost", "n.k.", "3,6 ?"])
    if width > 1 and happens("an index without a name", 0.08):
        names = ["", *names]
        start = chance.randint(0, 1)
        rows = [[str(start + at), *row] for at, row in enumerate(rows)]
        shorter = happens("a header one cell shorter", 0.5) and count > 1
    else:
        shorter = False
    width = len(names)

    def line(cells: list[str]) -> str:
        return delimiter.join(f'"{cell}"' if delimiter in cell or '"' in cell else cell for cell in cells)

    lines: list[tuple[str, str]] = []
    if (width > 1 or numbers) and happens("preamble", 0.3):
        for _ in range(chance.choice([1, 1, 2, 4, 9])):
            kind = chance.random()
            if kind < 0.4:
                lines.append(("preamble", chance.choice(TITLES)))
            elif kind < 0.7:
                lines.append(("preamble", f"Observer: {chance.choice(PEOPLE)}"))
            else:
                cells = (
                    ["Serial", f"0{chance.randint(100, 999)}"]
                    if width != 2
                    else [f"Serial: 0{chance.randint(100, 999)}"]
                )
                lines.append(("preamble", line(cells)))
        if chance.random() < 0.5:
            lines.append(("blank", ""))
    elif happens("comments above", 0.08):
        lines = [("comment", f"# {chance.choice(TITLES)}") for _ in range(chance.randint(1, 3))]
    header = names[1:] if shorter else names
    no_header = (
        not shorter and "" not in names and count > 3 and len(numbers) >= 2 and happens("no header", 0.05)
    )
    if no_header:
        names = []
    else:
        tail = (
            delimiter if width > 1 and not shorter and happens("a delimiter behind the header", 0.04) else ""
        )
        lines.append(("header", line(header) + tail))
    given = [unit for _, unit, _ in columns]
    if (
        not no_header
        and not shorter
        and len(given) == width
        and sum(map(bool, given)) >= max(1, 0.4 * width)
        and count > 1
        and happens("units", 0.4)
    ):
        form = chance.choice(["{}", "{}", "[{}]", "({})"])
        lines.append(("units", line([form.format(unit) if unit else "" for unit in given])))
    behind = delimiter if width > 1 and happens("a delimiter behind the rows", 0.05) else ""
    again = (
        chance.randint(1, count - 1)
        if count > 3 and not no_header and happens("the header again", 0.05)
        else 0
    )
    noted = (
        chance.randint(0, count - 1) if count > 3 and width > 1 and happens("comments inside", 0.05) else -1
    )
    for at, row in enumerate(rows):
        if again and at == again:
            lines.append(("repeated-header", line(header)))
        if at == noted:
            lines.append(("comment", "# sensor cleaned"))
        lines.append(("data", line(row) + behind))
    typed = [at for at in range(width) if all(_is_number(row[at]) for row in rows)]
    if count > 2 and happens("statistics below", 0.1) and typed and typed != [0] and width > 1:
        for word in chance.choice(
            [["Total"], ["Mean"], ["Mean", "SD"], ["Min", "Max"], ["Mean", "Max", "SD"], ["Sum:"], ["n = 3"]]
        ):
            if word.startswith("n"):
                lines.append(("footer", line([f"n = {count}", *[""] * (width - 1)])))
                continue
            true = [
                _statistic(word, [float(row[at]) for row in rows]) if at in typed else ""
                for at in range(width)
            ]
            lines.append(("footer", line([word, *true[1:]])))
    elif (
        count > 2
        and typed
        and typed != [0]
        and width > 1
        and numbers[:1] != [0]
        and happens("a row that begins like a statistic", 0.05)
    ):
        row = [
            f"{float(cell) + 1000:.1f}" if at in typed and at else cell for at, cell in enumerate(rows[-1])
        ]
        lines.append(("data", line([chance.choice(["Max", "N", "SE", "Min", "Total"]), *row[1:]])))
        count += 1
    elif happens("notes below", 0.12):
        if width > 1 and chance.random() < 0.7:
            lines.append(("blank", ""))
        kind = chance.random()
        if kind < 0.4:
            lines.append(("footer", "Note: checked against the log book"))
        elif kind < 0.7:
            lines += [
                ("footer", "* estimated"),
                ("footer", "** not measured, see above" if delimiter != "," else "** not measured"),
            ]
        else:
            lines.append(("footer", "Source: field book 7"))
        if width == 1 and not typed:  # there is no telling
            lines.pop()
            lines = [each for each in lines if each[0] != "footer"]
    end = chance.choice(["\n", "\n", "\r\n"])
    text = end.join(text for _, text in lines) + ("" if happens("no last line end", 0.1) else end)
    parts = [
        "footer" if part == "blank" and any(each == "footer" for each, _ in lines[:at]) else part
        for at, (part, _) in enumerate(lines)
    ]
    return Odd(text.encode(), tuple(parts), tuple(names), count, tuple(features))


def _statistic(word: str, values: list[float]) -> str:
    """A statistic of some values, as a careful person writes it below them."""
    if not all(map(math.isfinite, values)):
        return ""
    made = {
        "Total": sum,
        "Sum:": sum,
        "Mean": statistics.fmean,
        "SD": statistics.stdev,
        "Min": min,
        "Max": max,
    }[word](values)
    return f"{made:.3f}"


def _strange(cells: list[str], words: _Words) -> list[str]:
    kept = {"yes", "no"}
    plain = [cell for cell in cells if cell.replace(" ", "").isalpha() and cell not in kept]
    return [words.of(cell) if cell in plain else cell for cell in cells]


def _is_number(cell: str) -> bool:
    try:
        float(cell)
    except ValueError:
        return False
    return True
