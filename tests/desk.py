"""How a made-up folder is made, with the table that is right for it."""

from __future__ import annotations

import csv
import io
import random
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta

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
