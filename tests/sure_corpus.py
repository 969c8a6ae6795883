"""Made-up folders for each way in which a guess can do harm, and their innocent twins, with known truth."""

from __future__ import annotations

import csv
import io
import random
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path

import integrum as ig

# the first two subjects were used in tuning
SUBJECTS = (
    (
        ["lake", "depth", "ph", "temp"],
        ["Ambermere", "Vessel Lake", "Quillon Tarn", "Hollow Water", "Brindle"],
    ),
    (["station", "wind", "rain", "light"], ["Ridge", "Harbour", "Mill Dam", "Old Pier", "Fen Gate"]),
    (["plot", "height", "cover", "biomass"], ["Heath", "Upper Field", "Dune", "Spinney", "Wet Meadow"]),
    (["nest", "eggs", "mass", "wing"], ["Reedbed", "Tall Oak", "Barn Roof", "Quarry", "Gravel Bar"]),
    (["core", "age", "carbon", "grain"], ["Delta", "Shelf Edge", "Basin", "Slope", "Sill"]),
)


@dataclass(frozen=True)
class Sure:
    """Some files and what is true of their table.

    Attributes
    ----------
    files
        By name.
    rows
        Rows of data, where they are certain; None where either of two tables may be read.
    told
        The codes of which one has to be told; empty where nothing is wrong, so that there may be no warning at all.
    names
        The columns, where they matter.
    cells
        The values of one column, where they matter: its name and its texts, as a CSV has them.
    """

    files: dict[str, bytes]
    rows: int | None
    told: tuple[str, ...] = ()
    names: tuple[str, ...] = ()
    cells: tuple[str, tuple[str, ...]] = ("", ())


@dataclass
class Maker:
    """Makes the files of one seed."""

    seed: int
    chance: random.Random
    names: list[str]
    places: list[str]
    delimiter: str
    mark: str
    files: dict[str, bytes] = field(default_factory=dict)

    @classmethod
    def of(cls, seed: int, name: str) -> Maker:
        chance = random.Random(f"sure {name} {seed}")
        names, places = SUBJECTS[seed % 2 if seed < 100_000 else 2 + seed % 3]
        delimiter = chance.choice([",", ",", ";", "\t"])
        mark = "," if delimiter == ";" else "."
        return cls(seed, chance, list(names), list(places), delimiter, mark)

    def number(self, digits: int = 0, low: float = 2, high: float = 90) -> str:
        digits = digits or self.chance.choice([1, 2])
        return f"{self.chance.uniform(low, high):.{digits}f}".replace(".", self.mark)

    def line(self, cells: Sequence[str]) -> str:
        return self.delimiter.join(cells)

    def day(self, at: int) -> str:
        return f"2024-{4 + at // 28:02}-{1 + at % 28:02}"

    def rows(self, count: int, first: int = 0) -> list[list[str]]:
        """Rows with a day, a place and two numbers, of which the first proves its mark."""
        return [
            [self.day(first + at), self.chance.choice(self.places), self.number(1), self.number(2)]
            for at in range(count)
        ]

    @property
    def header(self) -> list[str]:
        return ["day", self.names[0], *self.names[1:3]]

    def text(self, rows: Sequence[Sequence[str]], header: Sequence[str] | None = None) -> bytes:
        lines = [*([header] if header else []), *rows]
        return ("\n".join(map(self.line, lines)) + "\n").encode()

    def count(self) -> int:
        return self.chance.choice([3, 4, 5, 8, 20, 40])


TableBatch = Callable[[Maker], Sure]
CLASSES: dict[str, TableBatch] = {}


def case(make: TableBatch) -> TableBatch:
    """Note a class by the name of its function."""
    CLASSES[make.__name__.replace("_", " ")] = make
    return make


def make(name: str, seed: int) -> Sure:
    """The folder of a class and a seed."""
    return CLASSES[name](Maker.of(seed, name))


def _value(cell: str, mark: str) -> float:
    return float(cell.replace(mark, "."))


# ---- last rows


@case
def last_row_without_values(m: Maker) -> Sure:
    rows = m.rows(m.count())
    odd = m.chance.choice([["", ""], ["", ""], ["-", "-"]])
    rows[-1][2:] = odd
    return Sure({"a.csv": m.text(rows, m.header)}, len(rows))


@case
def three_files_with_an_odd_last_row(m: Maker) -> Sure:
    files, total = {}, 0
    for at in range(3):
        rows = m.rows(m.count(), 30 * at)
        rows[-1] = [m.chance.choice(["unknown", m.day(99)]), rows[-1][1], "", ""]
        total += len(rows)
        files[f"{at}.csv"] = m.text(rows, m.header)
    return Sure(files, total, ("drafted-as-text", "bad-value", "-"))


def _keyed(m: Maker, key: str, word: str, value: Callable[[list[float]], float], keys: list[str]) -> bytes:
    values = [round(m.chance.uniform(20, 60), 1) for _ in keys]
    made = value(values)
    rows = [[each, f"{one:.1f}".replace(".", m.mark)] for each, one in zip(keys, values, strict=True)]
    rows.append([word, f"{made:.1f}".replace(".", m.mark)])
    return m.text(rows, [key, m.names[1]])


PEOPLE = ["Anna", "Bea", "Cy", "Dora", "Edda", "Finn", "Gus", "Hedda"]


@case
def person_called_max(m: Maker) -> Sure:
    keys = PEOPLE[: m.chance.randint(3, 8)]
    return Sure({"a.csv": _keyed(m, "name", "Max", lambda some: max(some) - 3.3, keys)}, len(keys) + 1)


@case
def wind_from_the_north(m: Maker) -> Sure:
    keys = ["E", "S", "W"]
    return Sure({"a.csv": _keyed(m, "direction", "N", lambda _: 71.3, keys)}, 4)


@case
def true_total(m: Maker) -> Sure:
    keys = m.places[: m.chance.randint(3, 5)]
    word = m.chance.choice(["Total", "Sum", "TOTAL", "Summe"])
    return Sure({"a.csv": _keyed(m, m.names[0], word, sum, keys)}, len(keys))


@case
def true_mean_in_one_of_three(m: Maker) -> Sure:
    files = {f"{at}.csv": m.text(m.rows(5, 10 * at), m.header) for at in range(2)}
    rows = m.rows(5, 20)
    means = [sum(_value(row[at], m.mark) for row in rows) / 5 for at in (2, 3)]
    rows.append(["Mean", "", *(f"{one:.2f}".replace(".", m.mark) for one in means)])
    return Sure({**files, "2.csv": m.text(rows, m.header)}, 15)


@case
def false_total(m: Maker) -> Sure:
    keys = m.places[: m.chance.randint(3, 5)]
    file = _keyed(m, m.names[0], "Total", lambda some: sum(some) + 7.7, keys)
    return Sure({"a.csv": file}, len(keys) + 1, ("total-in-table",))


@case
def subtotals(m: Maker) -> Sure:
    rows: list[list[str]] = []
    for part in (m.places[:2], m.places[2:4]):
        values = [round(m.chance.uniform(2, 30), 1) for _ in part]
        rows += [[place, f"{one:.1f}"] for place, one in zip(part, values, strict=True)]
        rows.append(["Subtotal", f"{sum(values):.1f}"])
    return Sure(
        {"a.csv": "\n".join(",".join(row) for row in [[m.names[0], m.names[1]], *rows]).encode()},
        None,
        ("total-in-table",),
    )


@case
def note_below(m: Maker) -> Sure:
    rows, said = m.rows(m.count()), m.chance.choice(["Note: checked against the log", "* estimated by eye"])
    return Sure({"a.csv": m.text(rows, m.header) + said.encode() + b"\n"}, len(rows))


# ---- second tables


@case
def table_above(m: Maker) -> Sure:
    upper = m.text([[m.places[0], m.number(1)], [m.places[1], m.number(1)]], m.names[:2])
    between = m.chance.choice([b"\n", b""])
    lower = m.text(m.rows(m.chance.randint(5, 20)), m.header)
    return Sure({"a.csv": upper + between + lower}, None, ("second-table", "header-in-preamble"))


@case
def table_below(m: Maker) -> Sure:
    upper = m.text(m.rows(m.chance.randint(5, 20)), m.header)
    lower = m.text([[place, m.number(1)] for place in m.places[:3]], m.names[:2])
    return Sure({"a.csv": upper + b"\n" + lower}, None, ("second-table", "row-too-short", "drafted-as-text"))


@case
def tables_side_by_side(m: Maker) -> Sure:
    rows = [[a, m.number(1), "", b, m.number(2)] for a, b in zip(m.places, reversed(m.places), strict=True)]
    header = [m.names[0], m.names[1], "", "site", m.names[2]]
    return Sure({"a.csv": m.text(rows, header)}, 5, ("second-table",))


@case
def preamble_of_keys(m: Maker) -> Sure:
    keys = "".join(f"{key}: {value}\n" for key, value in (("Site", m.places[0]), ("Observer", "A. Reed")))
    rows = m.rows(m.count())
    return Sure({"a.csv": keys.encode() + b"\n" + m.text(rows, m.header)}, len(rows))


# ---- headers


@case
def logger(m: Maker) -> Sure:
    names = ["TIMESTAMP", "RECORD", f"{m.names[1]}_Avg", f"{m.names[2]}_Max"]
    units, kinds = ["TS", "RN", "degC", "m/s"], ["", "", "Avg", "Max"]
    below = m.chance.choice([[units, kinds], [kinds, units], [units, kinds, ["", "", "probe A", "probe B"]]])
    rows = [
        [f"2024-05-01 {at // 6:02}:{at % 6}0:00", str(at), m.number(1), m.number(2)]
        for at in range(m.count())
    ]
    top = [["ENV1", "st1", "4711"]] if m.chance.random() < 0.7 else []
    lines = [*top, names, *below, *rows]
    text = "\n".join(
        ",".join(f'"{cell}"' if at < 5 else cell for cell in line) for at, line in enumerate(lines)
    )
    return Sure(
        {"a.csv": text.replace(m.mark + "", m.mark).encode() + b"\n"} if m.mark == "." else _plain(lines),
        len(rows),
        names=tuple(names),
    )


def _plain(lines: Sequence[Sequence[str]]) -> dict[str, bytes]:
    return {
        "a.csv": (
            "\n".join(",".join(cell.replace(",", ".") for cell in line) for line in lines) + "\n"
        ).encode()
    }


@case
def groups_that_are_years(m: Maker) -> Sure:
    count = m.chance.choice([2, 3])
    years = [str(2019 + at) for at in range(count)]
    top = ["", *(cell for year in years for cell in (year, ""))]
    if m.chance.random() < 0.3:
        top = top[:-1]
    header = [m.names[0], *m.names[1:3] * count]
    rows = [[place, *(m.number(at % 2 + 1) for at in range(2 * count))] for place in m.places]
    names = (m.names[0], *(f"{year} {name}" for year in years for name in m.names[1:3]))
    return Sure({"a.csv": m.text([header, *rows], top)}, 5, names=names)


@case
def empty_header_cell(m: Maker) -> Sure:
    rows, header = m.rows(m.count()), m.header
    at = m.chance.choice([1, 3])
    header[at] = ""
    if at == 3 and m.chance.random() < 0.5:
        for row in rows[1:]:
            row[3] = m.chance.choice(["", "checked"])
        rows[0][3] = "checked"
    return Sure({"a.csv": m.text(rows, header)}, len(rows))


@case
def headers_of_numbers(m: Maker) -> Sure:
    places = m.chance.choice(
        [["0.5", "1", "2", "5"], ["101", "102", "105", "203"], ["400", "412", "430", "455"]]
    )
    low = 300 if places[0] == "0.5" else 1
    rows = [
        [m.day(at), *(m.number(2, low, low + 20) for _ in places)] for at in range(m.chance.randint(2, 20))
    ]
    return Sure({"a.csv": m.text(rows, ["day", *places])}, len(rows), names=("day", *places))


@case
def repeated_header_in_capitals(m: Maker) -> Sure:
    rows = m.rows(6)
    lines = [*rows[:3], [name.upper() for name in m.header], *rows[3:]]
    return Sure({"a.csv": m.text(lines, m.header)}, 6)


@case
def few_rows_below_a_known_header(m: Maker) -> Sure:
    files = {f"{at}.csv": m.text(m.rows(9, 9 * at), m.header) for at in range(3)}
    last = m.text([[m.day(60), "calm", "", ""]], [name.upper() for name in m.header])
    return Sure({**files, "z.csv": last}, 28)


@case
def table_on_its_side(m: Maker) -> Sure:
    count = m.chance.randint(3, 8)
    rows = [
        [m.names[0], *(m.chance.choice(m.places) for _ in range(count))],
        ["ph", *(m.number(1) for _ in range(count))],
        ["date", *(m.day(at) for at in range(count))],
        ["temp", *(m.number(2) for _ in range(count))],
    ]
    return Sure(
        {"a.csv": m.text(rows, ["sample", *(f"S{at + 1}" for at in range(count))])},
        None,
        ("table-on-its-side",),
    )


@case
def species_by_place(m: Maker) -> Sure:
    rows = [
        [name, *(str(m.chance.randint(0, 60)) for _ in m.places)]
        for name in ("perch", "pike", "roach", "eel")
    ]
    return Sure({"a.csv": m.text(rows, ["species", *m.places])}, 4)


# ---- numbers and texts


@case
def mark_before_three_digits(m: Maker) -> Sure:
    cells = [m.number(3, 11, 99) for _ in range(m.chance.randint(2, 12))]
    rows = [[m.chance.choice(m.places), cell] for cell in cells]
    m.delimiter = m.chance.choice([";", "\t"])
    return Sure(
        {"a.csv": m.text(rows, m.names[:2])},
        len(rows),
        ("drafted-as-text",),
        cells=(m.names[1], tuple(cells)),
    )


@case
def mark_that_another_column_proves(m: Maker) -> Sure:
    m.delimiter, m.mark = ";", ","
    rows = [
        [m.chance.choice(m.places), m.number(3, 11, 99), m.number(1)] for _ in range(m.chance.randint(2, 12))
    ]
    return Sure(
        {"a.csv": m.text(rows, m.names[:3])},
        len(rows),
        cells=(m.names[1], tuple(row[1].replace(",", ".") for row in rows)),
    )


@case
def versions(m: Maker) -> Sure:
    first = m.chance.randint(6, 9)
    cells = [f"{m.seed % 3 + 1}.{at}" for at in range(first, 12)]
    rows = [[m.chance.choice(m.places), cell] for cell in cells]
    return Sure(
        {"a.csv": ("name,version\n" + "".join(f"{a},{b}\n" for a, b in rows)).encode()},
        len(rows),
        cells=("version", tuple(cells)),
    )


@case
def plots_with_an_e(m: Maker) -> Sure:
    cells = [f"{m.chance.randint(1, 9)}E{m.chance.randint(1, 9)}" for _ in range(m.count())]
    rows = [[cell, m.number(1)] for cell in cells]
    return Sure({"a.csv": m.text(rows, ["plot", m.names[1]])}, len(rows), cells=("plot", tuple(cells)))


@case
def grades(m: Maker) -> Sure:
    cells = [m.chance.choice(["1", "2-", "2", "2+", "3", "3-"]) for _ in range(8)]
    rows = [[m.chance.choice(PEOPLE), cell] for cell in cells]
    return Sure({"a.csv": m.text(rows, ["name", "grade"])}, 8, cells=("grade", tuple(cells)))


@case
def surname_null(m: Maker) -> Sure:
    cells = [*m.chance.sample(["Reed", "Pike", "Ford", "Marsh", "Brook"], 4), "Null"]
    rows = [[cell, m.number(1)] for cell in cells]
    return Sure({"a.csv": m.text(rows, ["surname", m.names[1]])}, 5, cells=("surname", tuple(cells)))


@case
def country_na(m: Maker) -> Sure:
    cells = [*m.chance.sample(["DE", "FR", "PL", "IT", "ES", "SE"], 5), "NA"]
    rows = [[cell, m.number(1)] for cell in cells]
    return Sure({"a.csv": m.text(rows, ["country", m.names[1]])}, 6, cells=("country", tuple(cells)))


@case
def one_column_of_texts(m: Maker) -> Sure:
    words = ["clear", "water", "wind", "north", "waves", "mist", "rain", "calm", "low", "high"]
    cells = [" ".join(m.chance.sample(words, 3)) for _ in range(m.count())]
    return Sure({"a.csv": ("note\n" + "\n".join(cells) + "\n").encode()}, len(cells), names=("note",))


@case
def one_column_of_times(m: Maker) -> Sure:
    cells = [f"{m.day(at)} {m.chance.randint(6, 20):02}:30" for at in range(m.count())]
    return Sure({"a.csv": ("when\n" + "\n".join(cells) + "\n").encode()}, len(cells), names=("when",))


@case
def lengths_with_decimal_commas(m: Maker) -> Sure:
    cells = [f"{m.chance.randint(10, 99)},{m.chance.randint(0, 99)}" for _ in range(max(4, m.count()))]
    return Sure({"a.csv": ("length\n" + "\n".join(cells) + "\n").encode()}, len(cells), names=("length",))


# ---- folders


@case
def two_encodings(m: Maker) -> Sure:
    text = f"{m.names[0]},remark\nGrüner See,schön\nØvre Kolk,grün {{}}\n"
    files = {
        f"{at}.csv": text.format(at).encode(code) for at, code in enumerate(("utf-8", "cp1252", "utf-8-sig"))
    }
    return Sure(files, 6, cells=("remark", ("schön", "grün 0", "schön", "grün 1", "schön", "grün 2")))


@case
def mojibake(m: Maker) -> Sure:
    text = f"{m.names[0]},remark\nGrüner See,{m.seed}\n".encode().decode("cp1252").encode()
    return Sure({"a.csv": text}, 1, ("text-misread",))


@case
def downloads_that_overlap(m: Maker) -> Sure:
    rows, count = m.rows(60), m.chance.randint(2, 20)
    parts = rows[: 30 + count], rows[30:]
    return Sure(
        {f"{at}.csv": m.text(part, m.header) for at, part in enumerate(parts)},
        60 + count,
        ("rows-in-two-sources",),
    )


@case
def downloads_that_follow(m: Maker) -> Sure:
    rows = m.rows(60)
    return Sure({f"{at}.csv": m.text(rows[20 * at : 20 * at + 20], m.header) for at in range(3)}, 60)


@case
def file_put_together(m: Maker) -> Sure:
    parts = [m.rows(m.chance.randint(5, 40), 40 * at % 60) for at in range(3)]
    files = {f"{at}.csv": m.text(part, m.header) for at, part in enumerate(parts)}
    return Sure(
        {**files, "all.csv": m.text([row for part in parts for row in part], m.header)},
        None,
        ("rows-in-two-sources",),
    )


@case
def older_version(m: Maker) -> Sure:
    rows = m.rows(m.chance.randint(20, 60))
    return Sure(
        {"a.csv": m.text(rows[:15], m.header), "b.csv": m.text(rows, m.header)},
        len(rows) + 15,
        ("rows-in-two-sources",),
    )


@case
def copy_saved_again(m: Maker) -> Sure:
    rows = m.rows(m.count())
    first = m.text(rows, m.header)
    other = (
        b"\xef\xbb\xbf" + first.replace(b"\n", b"\r\n")
        if m.seed % 2
        else first.replace(m.delimiter.encode(), b"|")
    )
    return Sure({"a.csv": first, "b.csv": other}, 2 * len(rows), ("rows-in-two-sources",))


@case
def counts_that_are_equal(m: Maker) -> Sure:
    species = ["perch", "pike", "roach", "bream", "eel", "ruffe"]
    files = {
        f"{at}.csv": m.text(
            [[one, str(m.chance.randint(0, 2))] for one in species] + [[f"fish {at}", "9"]], ["species", "n"]
        )
        for at in range(3)
    }
    return Sure(files, 21)


@case
def tables_with_another_suffix(m: Maker) -> Sure:
    files = {f"{at}.csv": m.text(m.rows(5, 9 * at), m.header) for at in range(3)}
    suffix = m.chance.choice(["txt", "dat", "asc"])
    return Sure({**files, f"x.{suffix}": m.text(m.rows(5, 40), m.header)}, 15, ("tables-skipped",))


@case
def clean_folder(m: Maker) -> Sure:
    files = {f"{at}.csv": m.text(m.rows(m.chance.randint(3, 40), 9 * at), m.header) for at in range(4)}
    total = sum(content.count(b"\n") - 1 for content in files.values())
    return Sure({**files, "README.txt": b"Measured by hand, with care.\n"}, total)


# ---- the proof


def written(made: Sure, folder: Path) -> Path:
    folder.mkdir()
    for name, content in made.files.items():
        (folder / name).write_bytes(content)
    return folder


def warnings(problems) -> set[str]:
    return {one.code for one in problems if one.severity != "note"}


def violations(made: Sure, folder: Path, to: Path) -> list[str]:
    """What is lost or changed without a word, and what is told though nothing is wrong."""
    outcome = ig.assemble(written(made, folder), to=to)
    header, *rows = csv.reader(io.StringIO(to.read_text(encoding="utf-8")))
    found, codes = [], warnings(outcome.problems)
    if made.rows is not None and len(rows) != made.rows:
        found.append(f"rows: {len(rows)}, not {made.rows}")
    if made.names and tuple(header[2:]) != made.names:
        found.append(f"the columns are {header[2:]}")
    if made.cells[0] and tuple(row[header.index(made.cells[0])] for row in rows) != made.cells[1]:
        found.append(f"other values in {made.cells[0]}")
    if made.told and "-" not in made.told and not codes & set(made.told):
        found.append(f"not told, but {codes}")
    if not made.told and codes:
        found.append(f"a false alarm: {codes}")
    return found
