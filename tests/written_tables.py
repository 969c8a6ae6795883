"""Folders of made-up tables whose values are written in many ways, with the truth about each column."""

from __future__ import annotations

import random
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta
from pathlib import Path

MONTHS = {
    language: words.split()
    for language, words in {
        "en": "January February March April May June July August September October November December",
        "de": "Januar Februar März April Mai Juni Juli August September Oktober November Dezember",
        "fr": "janvier février mars avril mai juin juillet août septembre octobre novembre décembre",
        "es": "enero febrero marzo abril mayo junio julio agosto septiembre octubre noviembre diciembre",
        "it": "gennaio febbraio marzo aprile maggio giugno luglio agosto settembre ottobre novembre dicembre",
        "pt": "janeiro fevereiro março abril maio junho julho agosto setembro outubro novembro dezembro",
        "nl": "januari februari maart april mei juni juli augustus september oktober november december",
        "pl": "stycznia lutego marca kwietnia maja czerwca lipca sierpnia września października listopada grudnia",
    }.items()
}


@dataclass(frozen=True)
class Subject:
    """What the tables are about."""

    numbers: dict[str, tuple[float, float, int]]
    categories: tuple[str, ...]
    notes: tuple[str, ...]
    missing: tuple[str, ...]
    codes: tuple[str, ...]
    truths: tuple[tuple[str, str], ...]
    languages: tuple[str, ...]


FIRST = Subject(
    {
        "water_temp": (12, 5, 2),
        "oxygen": (9, 2, 1),
        "depth": (30, 9, 1),
        "level": (250, 40, 0),
        "balance": (0, 6, 2),
    },
    ("reed", "open water", "shore", "inlet"),
    ("broken", "see notes", "ice"),
    ("n/a", "NA", "-", "", "NULL", "missing", "."),
    ("-999", "-9999", "-99", "9999"),
    (("yes", "no"), ("ja", "nein"), ("true", "false")),
    ("en", "de", "fr"),
)
SECOND = Subject(
    {
        "chlorophyll": (6, 1.5, 3),
        "ph": (7.4, 0.3, 2),
        "turbidity": (40, 12, 1),
        "cells": (5200, 900, 0),
        "net_flux": (-3, 9, 1),
    },
    ("Daphnia", "Bosmina", "Cyclops", "Keratella"),
    ("lost", "tube cracked", "?? check"),
    ("#N/A", "nan", "--", "k.A.", "sin dato", "not measured", "N/A"),
    ("-999.0", "-9999.9", "-888", "99999"),
    (("tak", "nie"), ("sim", "não"), ("Y", "N"), ("oui", "non")),
    ("es", "it", "pl"),
)


UNSEEN = Subject(
    {
        "alkalinity": (2.4, 0.4, 2),
        "secchi": (3.2, 0.9, 1),
        "colour": (45, 15, 0),
        "conductivity": (310, 60, 1),
        "anomaly": (0.4, 1.8, 2),
    },
    ("sand", "mud", "rock", "wood debris"),
    ("spilt", "Probe verloren", "~ estimated"),
    ("NaN", "null", "n.a.", "–", "keine Daten", "no data", "?"),
    ("-99.9", "-999.99", "-777", "999999"),
    (("si", "no"), ("wahr", "falsch"), ("T", "F"), ("vrai", "faux")),
    ("pt", "nl", "en"),
)
# what was tuned on, and what nobody looked at before the figures were taken
TUNED = (FIRST, SECOND)


@dataclass
class Truth:
    """What is true of a column: its type, its missing codes, the order of its dates (empty: it cannot be told)."""

    type: str
    missing: frozenset[str] = frozenset()
    order: str = ""
    ambiguous: bool = False
    values: list[str | None] = field(default_factory=list)
    kind: str = ""


Cells = list[list[str]]  # by source


def write_case(folder: Path, seed: int, subject: Subject) -> dict[str, Truth]:
    """Write a folder of CSV files, and say what is true of their columns."""
    draw = random.Random(seed)
    sizes = [draw.choice([1, 3, 8, 30, 60, 120]) for _ in range(draw.randint(1, 6))]
    if max(sizes) < 30:
        sizes[0] = 60
    comma = [draw.random() < 0.25 for _ in sizes]
    makers: list[Callable[[], tuple[str, Truth, Cells]]] = []
    names = draw.sample(sorted(subject.numbers), 3)
    makers += [lambda name=name: _number(draw, subject, name, sizes, comma) for name in names]
    makers += [lambda: _date(draw, subject, sizes), lambda: _moment(draw, sizes)]
    makers += draw.sample(
        [
            lambda: _clock(draw, sizes),
            lambda: _truth(draw, subject, sizes),
            lambda: _category(draw, subject, sizes),
            lambda: _code(draw, sizes),
            lambda: _censored(draw, subject, sizes, comma),
            lambda: _integer(draw, subject, sizes),
        ],
        4,
    )
    columns = [maker() for maker in makers]
    # a missing code that is an empty cell is none
    folder.mkdir(parents=True, exist_ok=True)
    for at, size in enumerate(sizes):
        mark = ";" if comma[at] else ","
        lines = [mark.join(name for name, _, _ in columns)]
        for row in range(size):
            lines.append(mark.join(_quoted(cells[at][row], mark) for _, _, cells in columns))
        (folder / f"part{at + 1}.csv").write_text("\n".join(lines) + "\n", encoding="utf-8")
    return {name: truth for name, truth, _ in columns}


def _quoted(cell: str, mark: str) -> str:
    return f'"{cell}"' if mark in cell else cell


def _number(
    draw: random.Random, subject: Subject, name: str, sizes: Sequence[int], comma: Sequence[bool]
) -> tuple[str, Truth, Cells]:
    mean, spread, digits = subject.numbers[name]
    style = draw.choice(["plain", "plain", "plain", "plus", "minus", "padded", "thousands", "unit", "note"])
    missing = draw.choice([None, None, *([draw.choice(subject.missing)] * 3), draw.choice(subject.codes)])
    if missing and missing.lstrip("-").replace(".", "").isdigit() and mean < 2 * spread:
        missing = None
    unit = draw.choice([" mg/L", " m", "%"]) if style == "unit" else ""
    cells: Cells = []
    used: set[str] = set()
    noted = 0
    values: list[str | None] = []
    for at, size in enumerate(sizes):
        column = []
        for _ in range(size):
            value = draw.gauss(mean, spread) * (1000 if style == "thousands" else 1)
            text = f"{value:.{digits}f}"
            said = text.replace("-", "−") if style == "minus" else text
            if style == "plus" and value > 0:
                said = "+" + text
            if style == "padded":
                said = f" {text} "
            if style == "thousands":
                said = f"{value:,.{digits}f}".replace(",", draw.choice(["\u00a0", " "]) if at % 2 else " ")
            if comma[at]:
                said = said.replace(".", ",")
            said += unit
            values.append(text)
            if missing is not None and draw.random() < 0.08:
                said = missing.replace(".", ",") if comma[at] and missing[1:2].isdigit() else missing
                used.add(said)
                values[-1] = None
            elif style == "note" and draw.random() < 0.04:
                said = draw.choice(subject.notes)
                noted += 1
            column.append(said)
        cells.append(column)
    whole = digits == 0
    rare = missing is not None and missing[:1].isdigit() and sum(map(len, cells)) * 0.08 < 8
    filled = sum(value is not None for value in values)
    # a few words in many numbers are bad values
    is_text = noted > 0 and filled - noted < max(20, 0.95 * filled)
    truth = Truth(
        "text" if is_text else "integer" if whole else "number",
        frozenset(used - {""}),
        values=values,
        kind=style,
    )
    if rare:  # a positive number that is there once or twice may be a value
        truth.kind = "rare code"
    if is_text:
        truth.missing = frozenset()
    return name, truth, cells


def _date(draw: random.Random, subject: Subject, sizes: Sequence[int]) -> tuple[str, Truth, Cells]:
    language = draw.choice(subject.languages)
    style = draw.choice(["iso", "dmy", "dmy", "mdy", "mdy", "dmy2", "mdy2", "name", "short", "slashed iso"])
    mark = draw.choice(["/", "-", "."]) if style.startswith("d") else "/"
    padded = draw.random() < 0.6
    cells: Cells = []
    ambiguous = True
    values: list[str | None] = []
    step = draw.choice([1, 1, 7, 30])
    for size in sizes:
        first = date(draw.randint(2001, 2024), draw.randint(1, 12), draw.randint(1, 28))
        days = [first + timedelta(days=step * at) for at in range(size)]
        if draw.random() < 0.1:  # all of them can be both
            days = [date(first.year, draw.randint(1, 12), draw.randint(1, 12)) for _ in days]
        cells.append([_day(each, style, mark, padded, language) for each in days])
        ambiguous &= _orders(cells[-1], mark) > 1
        values += [each.isoformat() for each in days]
    order = style[:3] if style[:3] in ("dmy", "mdy") else ""
    open_order = ambiguous and bool(order)
    truth = Truth(
        "text" if open_order else "date",
        order="" if open_order else order,
        ambiguous=open_order,
        values=values,
        kind=style,
    )
    return "sampled", truth, cells


def _orders(texts: Sequence[str], mark: str) -> int:
    """In how many orders all of some dates in digits can be read."""
    forms = [f"%d{mark}%m{mark}%Y", f"%m{mark}%d{mark}%Y"]
    if len(texts[0].split(mark)[-1]) == 2:
        forms = [form.replace("%Y", "%y") for form in forms]
        if mark == "-" and all(len(text.split(mark)[0]) == 2 for text in texts):
            forms.append("%y-%m-%d")

    def fits(form: str) -> bool:
        try:
            return all(datetime.strptime(text, form) for text in texts)
        except ValueError:
            return False

    return sum(map(fits, forms))


def _day(each: date, style: str, mark: str, padded: bool, language: str) -> str:
    day, month = (f"{each.day:02}", f"{each.month:02}") if padded else (str(each.day), str(each.month))
    year = f"{each.year % 100:02}" if style.endswith("2") else str(each.year)
    if style.startswith("dmy"):
        return mark.join([day, month, year])
    if style.startswith("mdy"):
        return mark.join([month, day, year])
    if style == "name":
        return f"{each.day} {MONTHS[language][each.month - 1]} {each.year}"
    if style == "short":
        return f"{each.day:02}-{MONTHS['en'][each.month - 1][:3]}-{each.year}"
    return f"{each:%Y/%m/%d}" if style == "slashed iso" else each.isoformat()


def _moment(draw: random.Random, sizes: Sequence[int]) -> tuple[str, Truth, Cells]:
    style = draw.choice(["iso", "T", "seconds", "dmy", "mdy12", "zoned"])
    cells: Cells = []
    values: list[str | None] = []
    ambiguous = True
    for size in sizes:
        first = datetime(
            draw.randint(2001, 2024), draw.randint(1, 12), draw.randint(1, 28), draw.randint(0, 23)
        )
        times = [first + timedelta(hours=draw.choice([1, 5, 11]) * at) for at in range(size)]
        ambiguous &= all(each.day <= 12 for each in times)
        values += [each.isoformat(" ", "minutes") for each in times]
        cells.append([_time(each, style) for each in times])
    order = style[:3] if style[:3] in ("dmy", "mdy") else ""
    open_order = ambiguous and bool(order)
    return (
        "time",
        Truth(
            "text" if open_order else "datetime",
            order="" if open_order else order,
            ambiguous=open_order,
            values=values,
            kind=style,
        ),
        cells,
    )


def _time(each: datetime, style: str) -> str:
    if style == "dmy":
        return f"{each:%d.%m.%Y %H:%M}"
    if style == "mdy12":
        return f"{each.month}/{each.day}/{each.year} {each:%I:%M %p}"
    if style == "zoned":
        return f"{each:%Y-%m-%dT%H:%M:%S}Z"
    return each.isoformat("T" if style == "T" else " ", "seconds" if style == "seconds" else "minutes")


def _clock(draw: random.Random, sizes: Sequence[int]) -> tuple[str, Truth, Cells]:
    seconds = draw.random() < 0.5
    cells = [
        [f"{draw.randint(0, 23):02}:{draw.randint(0, 59):02}{':30' if seconds else ''}" for _ in range(size)]
        for size in sizes
    ]
    return "clock", Truth("time", kind="clock"), cells


def _truth(draw: random.Random, subject: Subject, sizes: Sequence[int]) -> tuple[str, Truth, Cells]:
    pair = draw.choice(subject.truths)
    cells = [[draw.choice(pair) for _ in range(size)] for size in sizes]
    there = {each for column in cells for each in column}
    return "valid", Truth("boolean" if len(there) == 2 else "text", kind="truth"), cells


def _category(draw: random.Random, subject: Subject, sizes: Sequence[int]) -> tuple[str, Truth, Cells]:
    cells = [[draw.choice(subject.categories) for _ in range(size)] for size in sizes]
    return "habitat", Truth("text", kind="category"), cells


def _code(draw: random.Random, sizes: Sequence[int]) -> tuple[str, Truth, Cells]:
    makers: list[Callable[[], str]] = [
        lambda: f"{draw.randint(1, 99999):05}",
        lambda: f"{draw.randint(10**19, 10**20)}",
        lambda: f"1.{draw.randint(0, 9)}.{draw.randint(0, 20)}",
        lambda: f"+49 30 {draw.randint(1000, 9999)}",
        lambda: f"{draw.choice('ABC')}{draw.randint(1, 99)}",
        lambda: f"{draw.randint(1, 9)}-{draw.randint(1, 9)}",
        lambda: f"{draw.randint(1, 9)}/{draw.randint(10, 16)}",
    ]
    maker = draw.choice(makers)
    cells = [[maker() for _ in range(size)] for size in sizes]
    flat = [each for column in cells for each in column]
    # a few codes without a zero in front are numbers like others
    tellable = any(each.startswith("0") or not each.isdigit() or len(each) > 18 for each in flat)
    return "code", Truth("text" if tellable else "integer", kind="code"), cells


def _censored(
    draw: random.Random, subject: Subject, sizes: Sequence[int], comma: Sequence[bool]
) -> tuple[str, Truth, Cells]:
    word = draw.choice(["<", "< ", ">", "<LOD"])
    cells: Cells = []
    signs = 0
    for at, size in enumerate(sizes):
        column = []
        for _ in range(size):
            said = f"{abs(draw.gauss(0.4, 0.2)):.2f}"
            if draw.random() < 0.12:
                said = word if word == "<LOD" else f"{word}{said}"
                signs += 1
            column.append(said.replace(".", ",") if comma[at] else said)
        cells.append(column)
    return "nitrate", Truth("number", kind="censored" if signs else "plain"), cells


def _integer(draw: random.Random, subject: Subject, sizes: Sequence[int]) -> tuple[str, Truth, Cells]:
    missing = draw.choice([None, draw.choice(subject.missing)])
    used: set[str] = set()
    cells: Cells = []
    for size in sizes:
        column = []
        for _ in range(size):
            said = str(draw.randint(0, 60))
            if missing and draw.random() < 0.1:
                said = missing
                used.add(missing)
            column.append(said)
        cells.append(column)
    return "count", Truth("integer", frozenset(used - {""}), kind="integer"), cells
