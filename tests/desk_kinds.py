"""Folders in which something has to be reconciled: marks, dates, units, codes."""

from __future__ import annotations

from datetime import date, datetime, timedelta

from desk import Maker, kind


def _money(number: str, sign: str = "$") -> str:
    return f"{sign}{float(number):,.2f}"


def _comma(number: str) -> str:
    return number.replace(".", ",")


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
def false_friends(make: Maker) -> None:
    """Columns that are never in the same source, of the same range, and are not the same."""
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
