"""More of them: names, loggers, workbooks, files with lines above and below."""

from __future__ import annotations

from datetime import datetime, timedelta

from desk import Maker, kind


def _money(number: str, sign: str = "$") -> str:
    return f"{sign}{float(number):,.2f}"


def _comma(number: str) -> str:
    return number.replace(".", ",")


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
def first_column_without_a_name(make: Maker) -> None:
    """The first header cell is empty."""
    for at in range(3):
        rows = [(str(n), make.number(), make.number()) for n in range(1, 25)]
        make.write(f"df{at}.csv", ["", make.temp, make.other], rows)
        make.table(
            [("", "integer", ""), (make.temp, "number", make.temp), (make.other, "number", make.other)], rows
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
