"""Innocent folders, which look like others in which something is wrong."""

from __future__ import annotations

from desk import Maker, kind


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
def countries(make: Maker) -> None:
    """NA is Namibia among codes of two letters."""
    _innocent(make)
    for at in range(3):
        rows = [(str(n), make.draw.choice(["DE", "NA", "FR", "PL", "IT"])) for n in range(1, 40)]
        make.write(f"w{at}.csv", ["no", "country"], rows)
        make.table([("no", "integer", "no"), ("country", "text", "country")], rows)


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
def same_range_neighbours(make: Maker) -> None:
    """Two numbers of one range side by side in some files, one of them in others."""
    _innocent(make)
    for at in range(4):
        names = ["top temp", "bottom temp"] if at % 2 else ["top temp"]
        rows = [(f"V{n}", *(make.number(4, 20) for _ in names)) for n in range(25)]
        make.write(f"s{at}.csv", ["visit", *names], rows)
        make.table([("visit", "text", "visit"), *((name, "number", name) for name in names)], rows)
