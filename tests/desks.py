"""Made-up folders as people have them on their desks, each with the table that is right, and their innocent twins."""

from __future__ import annotations

import csv
import io
import random
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta

import openpyxl

# the first two were used in tuning
SUBJECTS = (
    ("lake", "water temp", "oxygen", "nitrate", ["Ambermere", "Vessel Lake", "Quillon Tarn", "Hollow Water"]),
    ("plot", "soil temp", "moisture", "carbon", ["Heath", "Upper Field", "Dune", "Spinney"]),
    ("station", "air temp", "humidity", "ozone", ["Ridge", "Harbour", "Mill Dam", "Old Pier"]),
    ("nest", "body temp", "wing length", "lead", ["Reedbed", "Tall Oak", "Barn Roof", "Quarry"]),
    ("core", "ground temp", "porosity", "mercury", ["Delta", "Shelf Edge", "Basin", "Slope"]),
)
TUNED, UNTUNED = SUBJECTS[:2], SUBJECTS[2:]


@dataclass
class TrueColumn:
    """A column of the right table: its name, its type, and all header cells that it has in the files."""

    name: str
    type: str
    headers: set[str] = field(default_factory=set)
    values: list[str | None] = field(default_factory=list)


@dataclass
class Desk:
    """A folder with its right table.

    Attributes
    ----------
    files
        By name, in the order of their rows.
    columns
        The right table; a value is a text in its canonical form, or None.
    asked
        Columns about which only a person can know: they may be text, or cells may be empty and told.
    told
        Columns with values that are no values of their type: these are empty, and told.
    innocent
        Whether nothing is wrong, so that there is no warning.
    """

    kind: str
    files: dict[str, bytes] = field(default_factory=dict)
    columns: dict[str, TrueColumn] = field(default_factory=dict)
    asked: set[str] = field(default_factory=set)
    told: set[str] = field(default_factory=set)
    innocent: bool = False
    facts: dict[str, list[str]] = field(default_factory=dict)

    def cell(self, name: str, kind: str, header: str, value: str | None) -> None:
        """Add a value to the right table."""
        column = self.columns.setdefault(name, TrueColumn(name, kind))
        column.headers.add(header)
        column.values.append(value)


class Maker:
    """Makes one folder."""

    def __init__(self, kind: str, seed: int, subject: Sequence[object]) -> None:
        self.draw = random.Random(f"{kind}{seed}")
        self.place, self.temp, self.other, self.metal = (str(each) for each in subject[:4])
        self.places: list[str] = list(subject[4])  # type: ignore[call-overload]
        self.desk = Desk(kind)
        self.seed = seed

    def write(
        self,
        file: str,
        header: Sequence[str],
        rows: Sequence[Sequence[str | None]],
        *,
        between: str = ",",
        above: Sequence[str] = (),
        below: Sequence[str] = (),
        encoding: str = "utf-8",
    ) -> None:
        """Write a delimited file."""
        text = io.StringIO()
        for line in above:
            text.write(line + "\n")
        out = csv.writer(text, delimiter=between, lineterminator="\n")
        if header:
            out.writerow(header)
        out.writerows([["" if cell is None else cell for cell in row] for row in rows])
        for line in below:
            text.write(line + "\n")
        self.desk.files[file] = text.getvalue().encode(encoding)

    def sheets(self, file: str, sheets: dict[str, Sequence[Sequence[object]]]) -> None:
        """Write a workbook."""
        book = openpyxl.Workbook()
        book.remove(book.active)
        for name, rows in sheets.items():
            sheet = book.create_sheet(name)
            for row in rows:
                sheet.append(list(row))
        out = io.BytesIO()
        book.save(out)
        self.desk.files[file] = out.getvalue()

    def table(self, columns: Sequence[tuple[str, str, str]], rows: Sequence[Sequence[str | None]]) -> None:
        """Add rows to the right table: for each column its name, type and header cell here."""
        before = max((len(one.values) for one in self.desk.columns.values()), default=0)
        for at, (name, kind, header) in enumerate(columns):
            column = self.desk.columns.setdefault(name, TrueColumn(name, kind))
            column.values += [None] * (before - len(column.values))
            column.headers.add(header)
            column.values += [row[at] for row in rows]
        for column in self.desk.columns.values():
            column.values += [None] * (before + len(rows) - len(column.values))

    def number(self, low: float = 2, high: float = 30, digits: int = 2) -> str:
        """A number with so many digits behind the point."""
        return f"{self.draw.uniform(low, high):.{digits}f}"

    def days(self, count: int, year: int = 0) -> list[date]:
        """Days of a year, in order, of which some have a number above 12."""
        first = date(year or self.draw.randint(2015, 2024), self.draw.randint(1, 9), self.draw.randint(1, 28))
        step = self.draw.choice([1, 3, 7])
        return [first + timedelta(days=step * at) for at in range(count)]

    def count(self) -> int:
        """How many files."""
        return self.draw.randint(3, 7)


Kind = Callable[[Maker], None]
KINDS: dict[str, Kind] = {}


def kind(made: Kind) -> Kind:
    """Register a kind of folder."""
    KINDS[made.__name__] = made
    return made


def _plain(number: str) -> str:
    return number


def _money(number: str, sign: str = "$") -> str:
    return f"{sign}{float(number):,.2f}"


def _comma(number: str) -> str:
    return number.replace(".", ",")


# ---- with something to reconcile


@kind
def surveys_by_year(make: Maker) -> None:
    """Money and thousands are written as such in most years, plainly in another."""
    sign = make.draw.choice(["$", "€", "£"])
    for at in range(make.count()):
        rows = [(f"H{n:03}", make.number(900, 9000), str(make.draw.randint(1, 9))) for n in range(1, 41)]
        plain = at == 2
        make.write(
            f"{2015 + at}.csv",
            ["household", "income", "members"],
            [(one, two if plain else _money(two, sign), three) for one, two, three in rows],
        )
        make.table(
            [
                ("household", "text", "household"),
                ("income", "number", "income"),
                ("members", "integer", "members"),
            ],
            rows,
        )


@kind
def observers_with_their_own_dates(make: Maker) -> None:
    """Each observer writes dates in an order of their own, and each file shows it."""
    for at in range(make.count()):
        order = "%d/%m/%Y" if (at + make.seed) % 2 else "%m/%d/%Y"
        days = make.days(30)
        rows = [(day, make.draw.choice(make.places), str(make.draw.randint(0, 90))) for day in days]
        make.write(
            f"obs_{'abcdefgh'[at]}.csv",
            ["Date", make.place, "count"],
            [(one.strftime(order), two, three) for one, two, three in rows],
        )
        make.table(
            [("Date", "date", "Date"), (make.place, "text", make.place), ("count", "integer", "count")],
            [(one.isoformat(), two, three) for one, two, three in rows],
        )


@kind
def observers_and_a_short_one(make: Maker) -> None:
    """One file shows no order; the others are written like it, and agree."""
    order = make.draw.choice(["%d/%m/%Y", "%m/%d/%Y", "%d.%m.%Y"])
    for at in range(make.count()):
        days = make.days(30) if at else [date(2024, 3, n) for n in (4, 5, 7)]
        rows = [(day, make.number()) for day in days]
        make.write(
            f"visit_{at + 1}.csv", ["sampled", make.temp], [(one.strftime(order), two) for one, two in rows]
        )
        make.table(
            [("sampled", "date", "sampled"), (make.temp, "number", make.temp)],
            [(one.isoformat(), two) for one, two in rows],
        )


@kind
def nobody_knows_the_order(make: Maker) -> None:
    """Every date can be read in two ways."""
    for at in range(make.count()):
        rows = [
            (date(2020 + at, make.draw.randint(1, 12), make.draw.randint(1, 12)), make.number())
            for _ in range(20)
        ]
        make.write(
            f"part_{at}.csv", ["day", make.temp], [(one.strftime("%d/%m/%Y"), two) for one, two in rows]
        )
        make.table(
            [("day", "date", "day"), (make.temp, "number", make.temp)],
            [(one.isoformat(), two) for one, two in rows],
        )
    make.desk.asked = {"day"}


@kind
def field_loggers(make: Maker) -> None:
    """A preamble, a header with units and the serial number, times of their own, a footer of notes."""
    order = make.draw.choice(
        ["%d.%m.%Y %H:%M", "%m/%d/%Y %H:%M:%S", "%Y-%m-%d %H:%M:%S", "%m/%d/%y %I:%M:%S %p"]
    )
    shape = "%Y-%m-%d %H:%M:%S" if "%S" in order else "%Y-%m-%d %H:%M"
    above = make.draw.randint(2, 6)
    for at, place in enumerate(make.places):
        serial = make.draw.randint(10_000, 99_999)
        first = datetime(2023, 2 + at, make.draw.randint(14, 20), 6, 0)
        times = [first + timedelta(minutes=30 * n) for n in range(60)]
        rows = [(time, make.number(3, 20), make.number(2.9, 3.6)) for time in times]
        header = ["Time", f"{make.temp.title()} (°C)", "Battery (V)"]
        preamble = [
            f"Logger export {make.draw.randint(1, 9)}.{make.draw.randint(0, 9)}",
            f"Serial number: {serial}",
            f"{make.place.title()}: {place}",
            "Interval: 30 min",
            f"Started: {first:%Y-%m-%d}",
            "Owner: field team",
        ][:above]
        make.write(
            f"{place.replace(' ', '-').lower()}_{serial}.csv",
            header,
            [(one.strftime(order), two, three) for one, two, three in rows],
            above=preamble,
        )
        make.table(
            [("Time", "datetime", "Time"), ("temp", "number", header[1]), ("battery", "number", header[2])],
            [(one.strftime(shape), two, three) for one, two, three in rows],
        )


@kind
def loggers_with_serials_in_the_header(make: Maker) -> None:
    """The header of each file names the instrument."""
    for at, place in enumerate(make.places):
        serial = 20_480_000 + make.draw.randint(1, 9_999)
        first = datetime(2023, 2 + at, 15, 6, 0)
        rows = [(first + timedelta(hours=n), make.number(3, 20), make.number(50, 900, 1)) for n in range(48)]
        header = ["#", "Date Time, GMT+00:00", f"Temp, °C (S/N: {serial})", f"Light, lux (S/N: {serial})"]
        make.write(
            f"{place.replace(' ', '')}.csv",
            header,
            [
                (str(n), one.strftime("%m/%d/%y %H:%M:%S"), two, three)
                for n, (one, two, three) in enumerate(rows, 1)
            ],
            above=[f"Title: {place}"],
        )
        make.table(
            [
                ("number", "integer", "#"),
                ("time", "datetime", header[1]),
                ("temp", "number", header[2]),
                ("light", "number", header[3]),
            ],
            [
                (str(n), one.strftime("%Y-%m-%d %H:%M:%S"), two, three)
                for n, (one, two, three) in enumerate(rows, 1)
            ],
        )


@kind
def loggers_with_a_units_row(make: Maker) -> None:
    """Units stand in a row below the header."""
    for at in range(make.count()):
        first = datetime(2022, 1 + at, 3, 0, 0)
        rows = [
            (
                (first + timedelta(minutes=10 * n)).strftime("%Y-%m-%d %H:%M"),
                make.number(3, 20),
                make.number(20, 100, 1),
            )
            for n in range(72)
        ]
        make.write(f"log{at:02}.csv", ["time", make.temp, make.other], [("", "°C", "%"), *rows])
        make.table(
            [
                ("time", "datetime", "time"),
                (make.temp, "number", make.temp),
                (make.other, "number", make.other),
            ],
            rows,
        )


@kind
def laboratory_batches(make: Maker) -> None:
    """Below the limit, missing codes, and a unit that changes."""
    for at in range(make.count()):
        micro = at % 2 == 1
        header = ["Sample", f"{make.metal.title()} ({'µg/L' if micro else 'mg/L'})", "pH"]
        rows, true = [], []
        for n in range(30):
            value = make.draw.uniform(0.1, 4)
            said = f"{value * 1000:.0f}" if micro else f"{value:.3f}"
            ph = "-999" if n in (7, 19) else make.number(6, 9, 1)
            rows.append((f"B{at}-{n:03}", said, ph))
            true.append(
                (
                    f"B{at}-{n:03}",
                    str(float(said) / 1000 if micro else float(said)),
                    None if ph == "-999" else ph,
                )
            )
        make.write(f"batch{at + 1}.csv", header, rows)
        make.table(
            [("Sample", "text", "Sample"), ("metal", "number", header[1]), ("pH", "number", "pH")], true
        )


@kind
def censored_values(make: Maker) -> None:
    """Some values lie below what can be measured."""
    for at in range(make.count()):
        rows, true = [], []
        for n in range(25):
            value = make.number(0.06, 2, 3)
            low = make.draw.random() < 0.15 or n == 3
            rows.append((str(n + 1), "<0.05" if low else value))
            true.append((str(n + 1), "0.05" if low else value, "<" if low else None))
        make.write(f"lab_{2019 + at}.csv", ["bottle", make.metal], rows)
        make.table(
            [
                ("bottle", "integer", "bottle"),
                (make.metal, "number", make.metal),
                (f"{make.metal}_flag", "text", f"{make.metal}_flag"),
            ],
            true,
        )


@kind
def monthly_workbooks(make: Maker) -> None:
    """A title above, real dates, a total below that is the sum."""
    for at in range(3):
        rows = [
            (date(2024, at + 1, n), make.draw.choice(make.places), make.draw.randint(1, 60))
            for n in range(1, 25)
        ]
        total = sum(three for _, _, three in rows)
        make.sheets(
            f"2024-{at + 1:02}.xlsx",
            {
                "Data": [
                    [f"Counts {at + 1}/2024"],
                    [],
                    ["day", make.place, "count"],
                    *rows,
                    ["Total", None, total],
                ]
            },
        )
        make.table(
            [("day", "date", "day"), (make.place, "text", make.place), ("count", "integer", "count")],
            [(one.isoformat(), two, str(three)) for one, two, three in rows],
        )


@kind
def serial_days_in_one_workbook(make: Maker) -> None:
    """One workbook has real dates, another the count of days."""
    for at in range(3):
        days = make.days(25, 2021 + at)
        rows = [(day, make.draw.randint(1, 60)) for day in days]
        counts = at == 1
        make.sheets(
            f"year_{2021 + at}.xlsx",
            {
                "Data": [
                    ["visited", "count"],
                    *(((day - date(1899, 12, 30)).days if counts else day, n) for day, n in rows),
                ]
            },
        )
        make.table(
            [("visited", "date", "visited"), ("count", "integer", "count")],
            [(one.isoformat(), str(two)) for one, two in rows],
        )


@kind
def registers_by_district(make: Maker) -> None:
    """Semicolons, decimal commas, an old encoding, codes with leading zeros."""
    for at in range(make.count()):
        rows = [
            (
                f"0{make.draw.randint(100, 999)}",
                make.draw.choice(["Größe", "Höhe", "Äcker"]),
                make.number(1, 99, 1),
            )
            for _ in range(30)
        ]
        make.write(
            f"district_{at + 1}.csv",
            ["code", "art", "area (ha)"],
            [(a, b, _comma(c)) for a, b, c in rows],
            between=";",
            encoding="cp1252" if at % 2 else "utf-8",
        )
        make.table([("code", "text", "code"), ("art", "text", "art"), ("area", "number", "area (ha)")], rows)


@kind
def glued_files(make: Maker) -> None:
    """Files that were put together before, with the header once more in the middle."""
    for at in range(3):
        header = [make.place, make.temp, "n"]
        rows = [
            (make.draw.choice(make.places), make.number(), str(make.draw.randint(0, 50))) for _ in range(40)
        ]
        make.write(f"glued{at}.csv", header, [*rows[:20], header, *rows[20:]])
        make.table(
            [(make.place, "text", make.place), (make.temp, "number", make.temp), ("n", "integer", "n")], rows
        )


@kind
def months_in_two_forms(make: Maker) -> None:
    """A month is 2024-05 here and 05/2024 or May 2024 there."""
    forms = ["%Y-%m", make.draw.choice(["%m/%Y", "%B %Y"])]
    for at in range(make.count()):
        rows = [(date(2019 + at, n, 1), make.number()) for n in range(1, 13)]
        make.write(
            f"series_{at}.csv",
            ["month", make.temp],
            [(one.strftime(forms[at % 2]), two) for one, two in rows],
        )
        make.table(
            [("month", "month", "month"), (make.temp, "number", make.temp)],
            [(one.strftime("%Y-%m"), two) for one, two in rows],
        )


@kind
def a_few_refused(make: Maker) -> None:
    """A number with a word in a few of many cells."""
    word = make.draw.choice(["refused", "lost", "see note", "broken bottle"])
    for at in range(4):
        rows = [
            (f"P{n:03}", word if at == 1 and n in (5, 40, 71) else make.number(10, 90, 1)) for n in range(80)
        ]
        make.write(f"wave{at + 1}.csv", ["person", "weight"], rows)
        make.table(
            [("person", "text", "person"), ("weight", "number", "weight")],
            [(one, None if two == word else two) for one, two in rows],
        )
    make.desk.told = {"weight"}


@kind
def units_on_some_values(make: Maker) -> None:
    """The unit stands behind the numbers of one file."""
    unit = make.draw.choice(["mg/L", "cm", "kg"])
    for at in range(3):
        rows = [(str(n), make.number()) for n in range(1, 25)]
        make.write(
            f"set{at}.csv",
            ["no", make.metal],
            [(one, f"{two} {unit}" if at == 1 else two) for one, two in rows],
        )
        make.table([("no", "integer", "no"), (make.metal, "number", make.metal)], rows)


@kind
def times_with_and_without_seconds(make: Maker) -> None:
    """One source has seconds."""
    for at in range(3):
        first = datetime(2024, 1 + at, 5, 8, 0, 17)
        times = [first + timedelta(minutes=7 * n) for n in range(30)]
        rows = [(one, make.number()) for one in times]
        fine = at == 2
        make.write(
            f"run{at}.csv",
            ["time", make.temp],
            [(one.strftime("%Y-%m-%d %H:%M:%S" if fine else "%Y-%m-%d %H:%M"), two) for one, two in rows],
        )
        make.table(
            [("time", "datetime", "time"), (make.temp, "number", make.temp)],
            [(one.strftime("%Y-%m-%d %H:%M:%S" if fine else "%Y-%m-%d %H:%M:00"), two) for one, two in rows],
        )


@kind
def names_that_change(make: Maker) -> None:
    """The same columns by other spellings."""
    temp = make.temp
    ways = [
        (temp.replace(" ", "_"), "Depth_m"),
        (f"{temp.title()} (°C)", "depth (m)"),
        (temp.upper(), "Depth [m]"),
        (f"{temp} (degC)", "DEPTH (m)"),
    ]
    for at, (one, two) in enumerate(ways):
        rows = [(str(n), make.number(3, 20), make.number(0, 9, 1)) for n in range(1, 20)]
        make.write(f"y{2018 + at}.csv", ["id", one, two], rows)
        make.table([("id", "integer", "id"), ("temp", "number", one), ("depth", "number", two)], rows)


@kind
def short_and_long_names(make: Maker) -> None:
    """Short forms of the same names."""
    ways = [("household_size", "years of record", "observer"), ("HH size", "Yrs of record", "Obs")]
    for at in range(4):
        one, two, three = ways[at // 2]
        rows = [
            (
                f"K{n}",
                str(make.draw.randint(1, 9)),
                str(make.draw.randint(1, 40)),
                make.draw.choice(["team a", "team b", "team c"]),
            )
            for n in range(1, 31)
        ]
        make.write(f"y{2018 + at}.csv", ["key", one, two, three], rows)
        make.table(
            [
                ("key", "text", "key"),
                ("size", "integer", one),
                ("years", "integer", two),
                ("observer", "text", three),
            ],
            rows,
        )


@kind
def columns_come_and_go(make: Maker) -> None:
    """A column is new, another is gone, the order changes."""
    for at in range(4):
        names = [make.place, make.temp] + ([make.other] if at != 1 else []) + (["notes"] if at > 1 else [])
        order = names if at % 2 else names[::-1]
        rows = []
        for _ in range(20):
            said = {
                make.place: make.draw.choice(make.places),
                make.temp: make.number(),
                make.other: make.number(10, 99, 1),
                "notes": make.draw.choice(["calm", None, "wind", "rain in the night"]),
            }
            rows.append([said[name] for name in order])
        make.write(f"y{2018 + at}.csv", order, rows)
        make.table(
            [(name, "text" if name in (make.place, "notes") else "number", name) for name in order], rows
        )


@kind
def decimal_commas_in_some(make: Maker) -> None:
    """One office writes decimal commas and semicolons."""
    for at in range(4):
        rows = [
            (make.draw.choice(make.places), make.number(2, 30, 1), make.number(900, 4000, 1))
            for _ in range(30)
        ]
        comma = at % 2 == 1
        make.write(
            f"office{at}.csv",
            [make.place, make.temp, "area"],
            [(a, _comma(b) if comma else b, _comma(c) if comma else c) for a, b, c in rows],
            between=";" if comma else ",",
        )
        make.table(
            [(make.place, "text", make.place), (make.temp, "number", make.temp), ("area", "number", "area")],
            rows,
        )


@kind
def missing_in_many_ways(make: Maker) -> None:
    """n/a, -, NA, -9999 among numbers."""
    for at in range(make.count()):
        rows, true = [], []
        for n in range(30):
            code = make.draw.choice(["n/a", "-", "NA", "-9999"]) if n % 9 == 4 else None
            value = make.number(2, 30)
            rows.append((str(n + 1), code or value))
            true.append((str(n + 1), None if code else value))
        make.write(f"{make.places[at % 4].split()[0].lower()}{at}.csv", ["no", make.temp], rows)
        make.table([("no", "integer", "no"), (make.temp, "number", make.temp)], true)


@kind
def two_digit_years(make: Maker) -> None:
    """Years of two digits, in one order throughout."""
    order = make.draw.choice(["%d/%m/%y", "%m/%d/%y", "%d.%m.%y"])
    for at in range(3):
        rows = [(one, make.number()) for one in make.days(40)]
        make.write(f"r{at}.csv", ["day", make.temp], [(one.strftime(order), two) for one, two in rows])
        make.table(
            [("day", "date", "day"), (make.temp, "number", make.temp)],
            [(one.isoformat(), two) for one, two in rows],
        )


@kind
def one_without_a_header(make: Maker) -> None:
    """One file has lost its header."""
    for at in range(4):
        rows = [
            (day.isoformat(), make.draw.choice(make.places), make.number(), str(make.draw.randint(0, 40)))
            for day in make.days(30, 2019 + at)
        ]
        header = ["day", make.place, make.temp, "count"]
        make.write(f"y{2019 + at}.csv", [] if at == 2 else header, rows)
        make.table(
            [
                ("day", "date", "day"),
                (make.place, "text", make.place),
                (make.temp, "number", make.temp),
                ("count", "integer", "count"),
            ],
            rows,
        )


@kind
def yes_and_no(make: Maker) -> None:
    """Truths are yes and no here, Y and N there, true and false elsewhere."""
    words = [("yes", "no"), ("Y", "N"), ("TRUE", "FALSE")]
    for at in range(3):
        rows = [(str(n), make.draw.random() < 0.5) for n in range(1, 30)]
        make.write(f"w{at}.csv", ["no", "frozen"], [(one, words[at][0 if two else 1]) for one, two in rows])
        make.table(
            [("no", "integer", "no"), ("frozen", "boolean", "frozen")],
            [(one, "true" if two else "false") for one, two in rows],
        )


# ---- innocent twins


def _innocent(make: Maker) -> None:
    make.desk.innocent = True


@kind
def plain_files(make: Maker) -> None:
    """Nothing is wrong."""
    _innocent(make)
    for at in range(make.count()):
        rows = [
            (day.isoformat(), make.draw.choice(make.places), make.number(), str(make.draw.randint(0, 40)))
            for day in make.days(25, 2015 + at)
        ]
        make.write(f"{2015 + at}.csv", ["day", make.place, make.temp, "count"], rows)
        make.table(
            [
                ("day", "date", "day"),
                (make.place, "text", make.place),
                (make.temp, "number", make.temp),
                ("count", "integer", "count"),
            ],
            rows,
        )


@kind
def seasons(make: Maker) -> None:
    """2009-10 is a winter and no month."""
    _innocent(make)
    for at in range(3):
        rows = [(f"{2004 + n}-{5 + n:02}", make.number()) for n in range(7)]
        make.write(f"{make.places[at]}.csv", ["season", make.temp], rows)
        make.table([("season", "text", "season"), (make.temp, "number", make.temp)], rows)


@kind
def several_answers_in_a_cell(make: Maker) -> None:
    """1,2 is two answers and no number."""
    _innocent(make)
    for at in range(3):
        rows = [(str(n), make.draw.choice(["1", "2", "3", "1,2", "2,3", "1,2,3"])) for n in range(1, 40)]
        make.write(f"wave{at}.csv", ["no", "uses"], rows)
        make.table([("no", "integer", "no"), ("uses", "text", "uses")], rows)


@kind
def long_codes_in_a_cell(make: Maker) -> None:
    """101,102 is two codes of three digits."""
    for at in range(3):
        some = ["101", "102", "205", "101,102", "102,205"]
        rows = [(str(n), some[n] if n < 5 else make.draw.choice(some)) for n in range(40)]
        make.write(f"wave{at}.csv", ["no", "codes"], rows)
        make.table([("no", "integer", "no"), ("codes", "text", "codes")], rows)
    make.desk.asked = {"codes"}


@kind
def shelf_marks(make: Maker) -> None:
    """12a is a mark."""
    _innocent(make)
    for at in range(3):
        rows = [
            (
                make.draw.choice(
                    [str(make.draw.randint(1, 40)), f"{make.draw.randint(1, 40)}{make.draw.choice('abc')}"]
                )
                if n > 1
                else f"{n + 3}a",
                make.number(),
            )
            for n in range(40)
        ]
        make.write(f"shelf{at}.csv", ["mark", make.temp], rows)
        make.table([("mark", "text", "mark"), (make.temp, "number", make.temp)], rows)


@kind
def codes_with_zeros(make: Maker) -> None:
    """007 is a code."""
    _innocent(make)
    for at in range(3):
        rows = [(f"{make.draw.randint(1, 400):03}" if n else "007", make.number()) for n in range(40)]
        make.write(f"k{at}.csv", ["code", make.temp], rows)
        make.table([("code", "text", "code"), (make.temp, "number", make.temp)], rows)


@kind
def last_row_with_nothing(make: Maker) -> None:
    """At the last place nothing could be measured."""
    _innocent(make)
    for at in range(3):
        rows: list[tuple[str, str | None, str | None]] = [
            (f"{place} {n}", make.number(), str(make.draw.randint(1, 9)))
            for n in range(1, 6)
            for place in make.places
        ]
        rows.append((f"{make.draw.choice(make.places)} 9", None, None))
        make.write(f"round{at}.csv", [make.place, make.temp, "n"], rows)
        make.table(
            [(make.place, "text", make.place), (make.temp, "number", make.temp), ("n", "integer", "n")], rows
        )


@kind
def somebody_called_max(make: Maker) -> None:
    """Max counts birds; a wind comes from N."""
    _innocent(make)
    for at in range(3):
        rows = [
            (
                make.draw.choice(["Ada", "Max", "Min", "Toto"]),
                make.draw.choice(["N", "E", "S", "W"]),
                str(make.draw.randint(0, 50)),
            )
            for _ in range(30)
        ]
        rows[-1] = ("Max", "N", "7")
        make.write(f"week{at}.csv", ["observer", "wind", "count"], rows)
        make.table(
            [("observer", "text", "observer"), ("wind", "text", "wind"), ("count", "integer", "count")], rows
        )


@kind
def false_friends(make: Maker) -> None:
    """Columns that are never together, of the same range, and are not the same."""
    pairs = [
        ("wind_east", "wind_west"),
        ("count before", "count after"),
        ("depth from", "depth to"),
        ("n_goats", "n_sheep"),
        ("temp min", "temp max"),
        ("upstream level", "downstream level"),
        ("left bank", "right bank"),
        ("morning count", "evening count"),
    ]
    one, two = make.draw.choice(pairs)
    for at in range(4):
        rows = [(f"K{n}", make.number(1, 9, 1)) for n in range(1, 30)]
        name = one if at < 2 else two
        make.write(f"y{2018 + at}.csv", ["key", name], rows)
        make.table([("key", "text", "key"), (name, "number", name)], rows)


@kind
def percent_beside_shares(make: Maker) -> None:
    """12% beside 0.5 can be read in two ways."""
    for at in range(3):
        rows = [
            (str(n), f"{make.draw.randint(5, 90)}%" if at == 1 else make.number(0.05, 0.9))
            for n in range(1, 25)
        ]
        make.write(f"p{at}.csv", ["no", "cover"], rows)
        make.table([("no", "integer", "no"), ("cover", "text", "cover")], rows)
    make.desk.asked = {"cover"}


@kind
def two_currencies(make: Maker) -> None:
    """Amounts in two currencies are no one number."""
    for at in range(3):
        rows = [(str(n), _money(make.number(5, 900), "$" if at else "€")) for n in range(1, 25)]
        make.write(f"c{at}.csv", ["no", "cost"], rows)
        make.table([("no", "integer", "no"), ("cost", "text", "cost")], rows)
    make.desk.told = {"cost"}


@kind
def countries(make: Maker) -> None:
    """NA is Namibia among codes of two letters."""
    _innocent(make)
    for at in range(3):
        rows = [(str(n), make.draw.choice(["DE", "NA", "FR", "PL", "IT"])) for n in range(1, 40)]
        make.write(f"w{at}.csv", ["no", "country"], rows)
        make.table([("no", "integer", "no"), ("country", "text", "country")], rows)


@kind
def first_column_without_a_name(make: Maker) -> None:
    """The first header cell is empty."""
    for at in range(3):
        rows = [(str(n), make.number(), make.number()) for n in range(1, 25)]
        make.write(f"df{at}.csv", ["", make.temp, make.other], rows)
        make.table(
            [("", "integer", ""), (make.temp, "number", make.temp), (make.other, "number", make.other)], rows
        )


@kind
def years_and_counts(make: Maker) -> None:
    """Whole numbers that look like years, and zeros."""
    _innocent(make)
    for at in range(make.count()):
        rows = [(str(1990 + n), str(make.draw.randint(0, 3)), make.number(0, 1, 3)) for n in range(25)]
        make.write(f"series{at}.csv", ["year", "events", "share"], rows)
        make.table(
            [("year", "integer", "year"), ("events", "integer", "events"), ("share", "number", "share")], rows
        )


@kind
def thousands_with_commas(make: Maker) -> None:
    """1,000,000 and 12,345 in one column."""
    for at in range(3):
        rows = [
            (
                str(n),
                str(
                    make.draw.randint(1_000_000, 9_000_000)
                    if n % 3 == 0
                    else make.draw.randint(12_000, 99_000)
                ),
            )
            for n in range(1, 25)
        ]
        make.write(f"pop{at}.csv", ["no", "population"], [(one, f"{int(two):,}") for one, two in rows])
        make.table([("no", "integer", "no"), ("population", "integer", "population")], rows)


@kind
def different_delimiters(make: Maker) -> None:
    """Tabs, pipes, semicolons."""
    _innocent(make)
    for at, between in enumerate("\t|;,"):
        rows = [
            (make.draw.choice(make.places), make.number(), str(make.draw.randint(0, 40))) for _ in range(25)
        ]
        make.write(
            f"f{at}.{'tsv' if between == chr(9) else 'csv'}",
            [make.place, make.temp, "n"],
            rows,
            between=between,
        )
        make.table(
            [(make.place, "text", make.place), (make.temp, "number", make.temp), ("n", "integer", "n")], rows
        )


# ---- more of what people have


@kind
def loggers_with_four_lines_above(make: Maker) -> None:
    """The environment, the names, the units, the kind of processing; NAN for nothing."""
    for at in range(3):
        first = datetime(2023, 3 + at, 20, 0, 0)
        rows, true = [], []
        for n in range(50):
            temp = "NAN" if n in (7, 8) else make.number(3, 20)
            time = (first + timedelta(minutes=15 * n)).strftime("%Y-%m-%d %H:%M:%S")
            rows.append((time, str(n), temp, make.number(12, 13.5)))
            true.append((time, str(n), None if temp == "NAN" else temp, rows[-1][3]))
        made_by = (
            f'"M{100 + at}","{make.draw.randint(1000, 9999)}","prog.src","{make.draw.randint(100, 999)}"'
        )
        make.write(
            f"station{at}_table.dat",
            [],
            rows,
            above=[
                f'"ENV","{make.places[at]}",{made_by},"Table1"',
                '"TIMESTAMP","RECORD","Temp_Avg","Batt_Min"',
                '"TS","RN","Deg C","Volts"',
                '"","","Avg","Min"',
            ],
        )
        make.table(
            [
                ("time", "datetime", "TIMESTAMP"),
                ("record", "integer", "RECORD"),
                ("temp", "number", "Temp_Avg"),
                ("batt", "number", "Batt_Min"),
            ],
            true,
        )


@kind
def loggers_with_date_and_time_apart(make: Maker) -> None:
    """Semicolons, decimal commas, a date and a time, an old encoding."""
    for at in range(3):
        first = datetime(2023, 3 + at, 20, 0, 0)
        rows, true = [], []
        for n in range(40):
            time = first + timedelta(minutes=30 * n)
            temp = make.number(3, 20, 1)
            rows.append((time.strftime("%d.%m.%Y"), time.strftime("%H:%M"), _comma(temp)))
            true.append((time.strftime("%Y-%m-%d"), time.strftime("%H:%M"), temp))
        make.write(
            f"{make.places[at].lower()}.csv",
            ["Datum", "Uhrzeit", "Temperatur [°C]"],
            rows,
            between=";",
            encoding="cp1252",
            above=["Gerät: Logger 7", f"Ort: {make.places[at]}", ""],
        )
        make.table(
            [
                ("Datum", "date", "Datum"),
                ("Uhrzeit", "time", "Uhrzeit"),
                ("temp", "number", "Temperatur [°C]"),
            ],
            true,
        )


@kind
def loggers_that_end_with_notes(make: Maker) -> None:
    """Below the data stand notes of the instrument."""
    for at in range(3):
        first = datetime(2023, 3 + at, 20, 0, 0)
        rows = [
            ((first + timedelta(hours=n)).strftime("%Y-%m-%d %H:%M"), make.number(3, 20, 1))
            for n in range(40)
        ]
        make.write(f"r{at}.csv", ["time", make.temp], rows, below=["", "End of data", f"Rows: {len(rows)}"])
        make.table([("time", "datetime", "time"), (make.temp, "number", make.temp)], rows)


@kind
def wide_letters_with_tabs(make: Maker) -> None:
    """UTF-16 with tabs, as spreadsheets save text."""
    for at in range(3):
        rows = [
            (make.draw.choice(["Größe", "Müll", "Öl"]), make.number(), str(make.draw.randint(1, 50)))
            for _ in range(30)
        ]
        make.write(f"t{at}.txt", ["art", make.temp, "n"], rows, between="\t", encoding="utf-16")
        make.table([("art", "text", "art"), (make.temp, "number", make.temp), ("n", "integer", "n")], rows)


@kind
def sheets_by_month(make: Maker) -> None:
    """One workbook with a sheet for each month, and a cover."""
    sheets: dict[str, list[list[object]]] = {
        "Notes": [["Counts of the reserve"], ["Contact: the office"], []]
    }
    for at, month in enumerate(["Jan", "Feb", "Mar"]):
        rows = [
            [
                datetime(2024, at + 1, n),
                make.draw.choice(make.places),
                make.draw.randint(0, 40),
                make.draw.uniform(1, 9),
            ]
            for n in range(2, 26)
        ]
        sheets[month] = [[f"{month} 2024"], ["Date", make.place, "count", make.temp], *rows]
        make.table(
            [
                ("Date", "date", "Date"),
                (make.place, "text", make.place),
                ("count", "integer", "count"),
                (make.temp, "number", make.temp),
            ],
            [(one.strftime("%Y-%m-%d"), two, str(three), repr(four)) for one, two, three, four in rows],
        )  # type: ignore[attr-defined]
    make.sheets("counts_2024.xlsx", sheets)


@kind
def registers_with_a_sum_and_footnotes(make: Maker) -> None:
    """The last row is the sum, and notes follow."""
    for at in range(3):
        rows = [
            (f"{place} {n}", str(make.draw.randint(100, 900)), str(make.draw.randint(10, 90)))
            for n in range(1, 6)
            for place in make.places
        ]
        total = (
            "Total",
            str(sum(int(two) for _, two, _ in rows)),
            str(sum(int(three) for _, _, three in rows)),
        )
        make.write(
            f"{2019 + at}.csv",
            ["district", "houses", "farms"],
            [*rows, total],
            below=["* preliminary figures", "Source: the office"],
        )
        make.table(
            [
                ("district", "text", "district"),
                ("houses", "integer", "houses"),
                ("farms", "integer", "farms"),
            ],
            rows,
        )


@kind
def not_detected(make: Maker) -> None:
    """ND and n.d. among numbers."""
    word = make.draw.choice(["ND", "n.d.", "nd"])
    for at in range(3):
        rows, true = [], []
        for n in range(30):
            value = word if n % 7 == 3 else make.number(0.1, 3, 3)
            rows.append((f"S{at}{n:02}", value))
            true.append((f"S{at}{n:02}", None if value == word else value))
        make.write(f"b{at}.csv", ["sample", make.metal], rows)
        make.table([("sample", "text", "sample"), (make.metal, "number", make.metal)], true)
    make.desk.asked = {make.metal}


@kind
def spaces_between_thousands(make: Maker) -> None:
    """1 234,5 with semicolons; negative amounts in brackets."""
    for at in range(3):
        rows, true = [], []
        for n in range(30):
            value = make.draw.uniform(900, 90000)
            minus = n % 8 == 2
            said = f"{value:,.1f}".replace(",", "\u00a0").replace(".", ",")
            rows.append((str(n), f"({said})" if minus else said))
            true.append((str(n), f"{'-' if minus else ''}{value:.1f}"))
        make.write(f"k{at}.csv", ["no", "balance"], rows, between=";")
        make.table([("no", "integer", "no"), ("balance", "number", "balance")], true)


@kind
def all_in_percent(make: Maker) -> None:
    """Every value has a percent sign."""
    for at in range(3):
        rows = [(str(n), make.number(1, 99, 1)) for n in range(30)]
        make.write(f"c{at}.csv", ["no", "cover"], [(one, f"{two}%") for one, two in rows])
        make.table([("no", "integer", "no"), ("cover", "number", "cover")], rows)


@kind
def ampm_times(make: Maker) -> None:
    """1/5/2024 9:05 PM."""
    for at in range(3):
        first = datetime(2024, 1 + at, 20, 6, 5)
        times = [first + timedelta(minutes=97 * n) for n in range(40)]
        rows = [(one, make.number()) for one in times]
        make.write(
            f"u{at}.csv",
            ["when", make.temp],
            [
                (f"{one.month}/{one.day}/{one.year} {one.hour % 12 or 12}:{one:%M %p}", two)
                for one, two in rows
            ],
        )
        make.table(
            [("when", "datetime", "when"), (make.temp, "number", make.temp)],
            [(one.strftime("%Y-%m-%d %H:%M"), two) for one, two in rows],
        )


@kind
def header_with_breaks(make: Maker) -> None:
    """Header cells with line breaks and spaces."""
    _innocent(make)
    for at in range(3):
        rows = [(make.draw.choice(make.places), make.number(), make.number()) for _ in range(30)]
        header = [f" {make.place} ", f"{make.temp}\n(°C)", make.other]
        make.write(f"h{at}.csv", header, rows)
        make.table(
            [
                (make.place, "text", make.place),
                (make.temp, "number", f"{make.temp} (°C)"),
                (make.other, "number", make.other),
            ],
            rows,
        )


@kind
def a_comma_too_many(make: Maker) -> None:
    """Every line ends in a comma."""
    for at in range(3):
        rows = [(make.draw.choice(make.places), make.number(), "") for _ in range(30)]
        make.write(f"e{at}.csv", [make.place, make.temp, ""], rows)
        make.table(
            [(make.place, "text", make.place), (make.temp, "number", make.temp)],
            [(one, two) for one, two, _ in rows],
        )


@kind
def hash_comments(make: Maker) -> None:
    """Comment lines above, and between."""
    for at in range(3):
        rows = [(day.isoformat(), make.number()) for day in make.days(30)]
        make.write(
            f"q{at}.csv",
            ["day", make.temp],
            rows,
            above=["# made by hand", f"# {make.place}: {make.places[at]}"],
        )
        make.table([("day", "date", "day"), (make.temp, "number", make.temp)], rows)


@kind
def counts_by_observer(make: Maker) -> None:
    """A column for each species, most cells empty."""
    species = ["heron", "coot", "grebe", "tern", "swan"]
    for at in range(4):
        names = species[: 3 + at % 3]
        rows = [
            [
                day.isoformat(),
                *(str(make.draw.randint(1, 60)) if make.draw.random() < 0.4 else None for _ in names),
            ]
            for day in make.days(25, 2020 + at)
        ]
        make.write(f"observer_{at}.csv", ["day", *names], rows)
        make.table([("day", "date", "day"), *((name, "integer", name) for name in names)], rows)


@kind
def answers_to_a_survey(make: Maker) -> None:
    """Ages with 999 for no answer, yes and no, free text."""
    for at in range(3):
        rows, true = [], []
        for n in range(60):
            age = "999" if n in (5, 17, 44) else str(make.draw.randint(18, 90))
            answer = make.draw.choice(["Yes", "No"])
            text = make.draw.choice(["", "more, please", 'the "old" mill', "12 is enough"])
            rows.append((f"R{n:03}", age, answer, text))
            true.append(
                (
                    f"R{n:03}",
                    None if age == "999" else age,
                    "true" if answer == "Yes" else "false",
                    text or None,
                )
            )
        make.write(f"survey {2020 + at}.csv", ["Respondent", "Age", "Owner", "Remarks"], rows)
        make.table(
            [
                ("r", "text", "Respondent"),
                ("age", "integer", "Age"),
                ("owner", "boolean", "Owner"),
                ("remarks", "text", "Remarks"),
            ],
            true,
        )


@kind
def glued_with_another_order(make: Maker) -> None:
    """Files with the same columns in another order, one with capitals."""
    for at in range(4):
        names = [make.place, make.temp, "ph"]
        order = [names, names[::-1], [each.upper() for each in names], [names[1], names[0], names[2]]][at]
        rows = [
            {make.place: make.draw.choice(make.places), make.temp: make.number(), "ph": make.number(5, 9, 1)}
            for _ in range(20)
        ]
        make.write(f"g{at}.csv", order, [[row[each.lower()] for each in order] for row in rows])
        make.table(
            [(each.lower(), "text" if each.lower() == make.place else "number", each) for each in order],
            [[row[each.lower()] for each in order] for row in rows],
        )


# ---- more innocent twins


@kind
def rows_that_begin_like_notes(make: Maker) -> None:
    """Names that begin like the words of footers and totals."""
    _innocent(make)
    some = [
        "Total Creek",
        "Notes Bay",
        "Mean Water",
        "Sumter",
        "Maxfield",
        "Average Rock",
        "End Point",
        "Source Spring",
    ]
    for at in range(3):
        rows = [(name, make.number(), str(make.draw.randint(1, 40))) for name in make.draw.sample(some, 8)]
        make.write(f"n{at}.csv", ["name", make.temp, "n"], rows)
        make.table([("name", "text", "name"), (make.temp, "number", make.temp), ("n", "integer", "n")], rows)


@kind
def tables_of_few_rows(make: Maker) -> None:
    """One or two rows each."""
    _innocent(make)
    for at in range(5):
        rows = [
            (f"2024-0{at + 1}-{n + 14}", make.draw.choice(make.places), make.number())
            for n in range(1 + at % 2)
        ]
        make.write(f"visit{at}.csv", ["day", make.place, make.temp], rows)
        make.table(
            [("day", "date", "day"), (make.place, "text", make.place), (make.temp, "number", make.temp)], rows
        )


@kind
def tables_of_texts(make: Maker) -> None:
    """Texts only."""
    _innocent(make)
    words = ["calm", "windy", "rain", "sun", "fog", "ice"]
    for at in range(3):
        rows = [
            (make.draw.choice(make.places), make.draw.choice(words), make.draw.choice(["team a", "team b"]))
            for _ in range(25)
        ]
        make.write(f"w{at}.csv", [make.place, "weather", "who"], rows)
        make.table(
            [(make.place, "text", make.place), ("weather", "text", "weather"), ("who", "text", "who")], rows
        )


@kind
def codes_like_numbers(make: Maker) -> None:
    """Plots such as 1E2, postal codes, phone numbers, versions."""
    _innocent(make)
    for at in range(3):
        rows = [
            (
                f"{make.draw.randint(1, 9)}E{make.draw.randint(1, 9)}",
                f"0{make.draw.randint(1000, 9999)}",
                f"+49 30 {make.draw.randint(10000, 99999)}",
            )
            for _ in range(30)
        ]
        make.write(f"a{at}.csv", ["plot", "postal code", "phone"], rows)
        make.table(
            [("plot", "text", "plot"), ("postal code", "text", "postal code"), ("phone", "text", "phone")],
            rows,
        )


@kind
def stations_that_are_dry(make: Maker) -> None:
    """The last place is dry: a word, and nothing else."""
    for at in range(3):
        rows = [(place, make.number(), make.number(5, 9, 1)) for place in make.places * 3]
        rows.append((f"{make.places[0]} upper", "dry", ""))
        make.write(f"d{at}.csv", [make.place, make.temp, "ph"], rows)
        make.table(
            [(make.place, "text", make.place), (make.temp, "number", make.temp), ("ph", "number", "ph")],
            [(one, None if two == "dry" else two, three or None) for one, two, three in rows],
        )
    make.desk.asked = {make.temp}


@kind
def years_as_columns_kept(make: Maker) -> None:
    """A column per year: as it is, or as rows when the plan says so."""
    for at in range(3):
        rows = [(f"{place} {at}", *(make.number() for _ in range(4))) for place in make.places]
        names = ["2019", "2020", "2021", "2022"]
        make.write(f"y{at}.csv", [make.place, *names], rows)
        make.table([(make.place, "text", make.place), *((name, "number", name) for name in names)], rows)


@kind
def same_range_neighbours(make: Maker) -> None:
    """Two numbers of one range side by side in some files, one of them in others."""
    _innocent(make)
    for at in range(4):
        names = ["top temp", "bottom temp"] if at % 2 else ["top temp"]
        rows = [(f"V{n}", *(make.number(4, 20) for _ in names)) for n in range(25)]
        make.write(f"s{at}.csv", ["visit", *names], rows)
        make.table([("visit", "text", "visit"), *((name, "number", name) for name in names)], rows)


@kind
def dates_iso_in_some(make: Maker) -> None:
    """ISO dates here, 5 May 2024 there."""
    for at in range(3):
        days = make.days(25)
        rows = [(day, make.number()) for day in days]
        form = "%d %b %Y" if at == 1 else "%Y-%m-%d"
        make.write(f"i{at}.csv", ["day", make.temp], [(one.strftime(form), two) for one, two in rows])
        make.table(
            [("day", "date", "day"), (make.temp, "number", make.temp)],
            [(one.isoformat(), two) for one, two in rows],
        )


@kind
def offsets_from_utc(make: Maker) -> None:
    """All times have an offset."""
    for at in range(3):
        first = datetime(2024, 1 + at, 5, 8, 0)
        times = [first + timedelta(minutes=30 * n) for n in range(30)]
        rows = [(one, make.number()) for one in times]
        make.write(
            f"z{at}.csv",
            ["time", make.temp],
            [(one.strftime("%Y-%m-%dT%H:%M:%S+00:00"), two) for one, two in rows],
        )
        make.table(
            [("time", "datetime", "time"), (make.temp, "number", make.temp)],
            [(one.strftime("%Y-%m-%d %H:%M:%S"), two) for one, two in rows],
        )


@kind
def offices_with_their_own_ways(make: Maker) -> None:
    """Every office has its own marks, dates, letters, lines above, names and codes for nothing."""
    draw = make.draw
    temp = make.temp
    names = {
        "day": ["date", "Date", "DATE"],
        "place": [make.place, make.place.title(), make.place.upper()],
        "temp": [temp, f"{temp.title()} (°C)", temp.replace(" ", "_"), f"{temp} [°C]"],
        "amount": ["amount", "Amount", "amount (kg)"],
        "count": ["count", "Count", "COUNT"],
        "note": ["remarks", "Remarks"],
    }
    kinds = {
        "day": "date",
        "place": "text",
        "temp": "number",
        "amount": "number",
        "count": "integer",
        "note": "text",
    }
    for at in range(draw.randint(3, 6)):
        comma = draw.random() < 0.35
        between = ";" if comma else draw.choice([",", ",", ";", "\t"])
        form = draw.choice(["%Y-%m-%d", "%d.%m.%Y", "%d/%m/%Y", "%m/%d/%Y", "%d %b %Y"])
        code = draw.choice(["", "", "n/a", "-999", "NA", "."])
        grouped = draw.random() < 0.3
        encoding = draw.choice(["utf-8", "utf-8", "utf-8-sig", "cp1252"])
        order = list(names)
        if draw.random() < 0.4:
            draw.shuffle(order)
        if draw.random() < 0.3:
            order.remove("note")
        header = {key: draw.choice(names[key]) for key in order}
        units = draw.random() < 0.2
        if units:
            header = {key: names[key][0] for key in order}
        above = []
        if draw.random() < 0.3:
            above = [f"Office {at + 1}", f"Exported: 2024-0{at + 1}-03", ""][: draw.randint(1, 3)]
        rows: list[list[str]] = []
        true: list[list[str | None]] = []
        for n, day in enumerate(make.days(draw.randint(28, 60), 2018 + at)):
            value, big = draw.uniform(2, 30), draw.uniform(20, 9000)
            gone = n % 11 == 5
            said = {
                "day": day.strftime(form),
                "place": draw.choice(make.places),
                "temp": code if gone else f"{value:.2f}",
                "amount": f"{big:,.1f}" if grouped else f"{big:.1f}",
                "count": str(draw.randint(0, 80)),
                "note": draw.choice(["", "calm", "Größe nicht gemessen", "rain, wind"]),
            }
            right: dict[str, str | None] = {
                **said,
                "day": day.isoformat(),
                "temp": None if gone else f"{value:.2f}",
                "amount": f"{big:.1f}",
                "note": said["note"] or None,
            }
            if comma:
                for key in ("temp", "amount"):
                    if key != "temp" or not gone:
                        said[key] = said[key].translate(str.maketrans(",.", ".,"))
            rows.append([said[key] for key in order])
            true.append([right[key] for key in order])
        if units:
            rows.insert(0, [{"temp": "°C", "amount": "kg"}.get(key, "") for key in order])
        make.write(
            f"office_{chr(97 + at)}.{'tsv' if between == chr(9) else 'csv'}",
            [header[key] for key in order],
            rows,
            between=between,
            above=above,
            encoding=encoding,
        )
        make.table([(key, kinds[key], header[key]) for key in order], true)


@kind
def loggers_of_a_few_days(make: Maker) -> None:
    """Every date could be read in two ways; the steps over midnight can not."""
    order = make.draw.choice(["%d/%m/%Y %H:%M", "%m/%d/%Y %H:%M", "%m/%d/%y %I:%M %p"])
    for at, place in enumerate(make.places):
        first = datetime(2023, 4 + at, make.draw.randint(2, 6), 9, 0)
        rows = [
            (first + timedelta(minutes=30 * n), make.number(3, 20), make.number(50, 900, 1))
            for n in range(150)
        ]
        make.write(
            f"{place.lower()}.csv",
            ["time", make.temp, "light"],
            [(one.strftime(order), two, three) for one, two, three in rows],
            above=[f"Logger {make.draw.randint(100, 999)}", ""],
        )
        make.table(
            [("time", "datetime", "time"), (make.temp, "number", make.temp), ("light", "number", "light")],
            [(one.strftime("%Y-%m-%d %H:%M"), two, three) for one, two, three in rows],
        )


@kind
def loggers_with_events(make: Maker) -> None:
    """The last rows tell of what the instrument did, and measure nothing."""
    for at, place in enumerate(make.places):
        first = datetime(2023, 4 + at, 15, 9, 0)
        rows: list[list[str | None]] = [
            [
                str(n),
                (first + timedelta(minutes=30 * n)).strftime("%m/%d/%Y %H:%M:%S"),
                make.number(3, 20),
                None,
                None,
            ]
            for n in range(1, 90)
        ]
        rows[0][3] = "Logged"
        for n, word in ((90, 3), (91, 4)):
            rows.append(
                [
                    str(n),
                    (first + timedelta(minutes=30 * 90, seconds=n)).strftime("%m/%d/%Y %H:%M:%S"),
                    None,
                    None,
                    None,
                ]
            )
            rows[-1][word] = "Logged"
        make.write(
            f"{place.lower()}.csv", ["#", "Date Time", "Temp (°C)", "Host Connected", "End Of File"], rows
        )
        make.table(
            [
                ("n", "integer", "#"),
                ("time", "datetime", "Date Time"),
                ("temp", "number", "Temp (°C)"),
                ("host", "text", "Host Connected"),
                ("end", "text", "End Of File"),
            ],
            [
                [n, datetime.strptime(str(time), "%m/%d/%Y %H:%M:%S").strftime("%Y-%m-%d %H:%M:%S"), *rest]
                for n, time, *rest in rows
            ],
        )


@kind
def downloads_that_overlap(make: Maker) -> None:
    """The instrument gives the last rows again: the table has them twice, and says so."""
    first = datetime(2023, 4, 15, 9, 0)
    every = [
        (
            (first + timedelta(hours=n)).strftime("%Y-%m-%d %H:%M"),
            make.number(3, 20),
            make.number(900, 1100, 1),
        )
        for n in range(160)
    ]
    for at in range(3):
        rows = every[at * 45 : at * 45 + 70]
        make.write(f"download{at}.csv", ["time", make.temp, "pressure"], rows)
        make.table(
            [
                ("time", "datetime", "time"),
                (make.temp, "number", make.temp),
                ("pressure", "number", "pressure"),
            ],
            rows,
        )
    make.desk.told = {"time", make.temp, "pressure"}


@kind
def depths_in_headers(make: Maker) -> None:
    """A column for each depth."""
    for at in range(3):
        header = ["day", *(f"{make.temp} {depth} m" for depth in (1, 5, 10))]
        rows = [
            [day.isoformat(), *(make.number(4, 20) for _ in range(3))] for day in make.days(20, 2020 + at)
        ]
        make.write(f"p{at}.csv", header, rows)
        make.table([("day", "date", "day"), *((name, "number", name) for name in header[1:])], rows)


def make_desk(name: str, seed: int, subject: Sequence[object]) -> Desk:
    """Make the folder of a kind and a seed."""
    maker = Maker(name, seed, subject)
    KINDS[name](maker)
    return maker.desk
