"""What goes into a workbook and comes out of it again, for any content."""

import csv
import datetime as dt
import io
import shutil
import tempfile
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

import books
import integrum as ig
from integrum.workbooks.places import Sheet
from integrum.workbooks.workbook import Workbook

# the first three are ends of lines to XML, and the last letters are none in it
LETTERS = st.characters(blacklist_categories=("Cs", "Cc"), blacklist_characters="\ufffe\uffff")
TEXTS = st.text(LETTERS, min_size=1, max_size=12).map(lambda text: f"t{text}t")
NUMBERS = st.floats(allow_nan=False, allow_infinity=False, width=64).filter(
    lambda number: number == 0 or 1e-290 < abs(number) < 1e290
)
WHOLE = st.integers(-(10**17), 10**17)
DAYS = st.dates(dt.date(1850, 1, 1), dt.date(2200, 1, 1))
MOMENTS = st.datetimes(dt.datetime(1900, 3, 1), dt.datetime(2200, 1, 1)).map(
    lambda each: each.replace(microsecond=0)
)
ROWS = st.lists(
    st.tuples(
        st.none() | TEXTS,
        st.none() | WHOLE,
        st.none() | NUMBERS,
        st.none() | DAYS,
        st.none() | MOMENTS,
        st.booleans(),
    ),
    min_size=1,
    max_size=20,
)
COLUMNS = [
    ig.Column("text"),
    ig.Column("whole", "integer"),
    ig.Column("number", "number"),
    ig.Column("day", "date"),
    ig.Column("moment", "datetime"),
    ig.Column("flag", "boolean"),
]
NAMES = [column.name for column in COLUMNS]
RELAXED = settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.too_slow])


def as_csv(rows: list[tuple[Any, ...]]) -> str:
    file = io.StringIO()
    writer = csv.writer(file, lineterminator="\n")
    writer.writerow(NAMES)
    for row in rows:
        *others, flag = ("" if cell is None else cell for cell in row)
        writer.writerow([*others, str(flag).lower()])
    return file.getvalue()


def values(outcome: ig.Outcome) -> list[tuple[Any, ...]]:
    return [tuple(row[name] for name in NAMES) for row in outcome.table.to_pylist()]


@given(ROWS)
@RELAXED
def test_a_table_survives_a_workbook(rows: list[tuple[Any, ...]]) -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "a.csv").write_text(as_csv(rows), encoding="utf-8", newline="")
        plan = ig.Plan([ig.Sources(str(folder / "a.csv"))], COLUMNS)
        first = ig.assemble(plan, to=folder / "out" / "book.xlsx")
        # texts made at random may have letters that look like misread ones
        assert {one.code for one in first.problems} <= {"text-misread"} and values(first) == rows
        # as a source of its own, away from the record that would give it away
        (folder / "again").mkdir()
        shutil.copy(folder / "out" / "book.xlsx", folder / "again" / "book.xlsx")
        plan = ig.Plan(
            [ig.Sources(str(folder / "again"), sheets="table")], COLUMNS, ig.Provenance("file", "line")
        )
        again = ig.assemble(plan)
        assert values(again) == rows
        assert {one.code for one in again.problems} - {"text-misread"} == {"unlisted-header"}


CELLS = st.one_of(
    st.just(""),
    TEXTS,
    st.booleans(),
    st.integers(-(10**15) + 1, 10**15 - 1),
    NUMBERS,
    st.just("a,b"),
    st.just('say "x"'),
)


@given(
    st.lists(st.lists(CELLS, min_size=3, max_size=3), min_size=1, max_size=12),
    st.integers(0, 3),
    st.integers(0, 2),
)
@RELAXED
def test_a_sheet_reads_like_the_same_cells_in_csv(rows: list[list[Any]], top: int, left: int) -> None:
    def fill(book: Any) -> None:
        sheet = book.add_worksheet("May")
        for at, row in enumerate(rows, top):
            for column, cell in enumerate(row, left):
                if isinstance(cell, str) and cell:
                    sheet.write_string(at, column, cell)
                elif cell != "":
                    sheet.write(at, column, cell)

    data = books.xlsx(fill, strings_to_numbers=False)
    found = list(csv.reader(io.StringIO(Workbook(data).read(Sheet("May")).text.decode())))
    wanted = [[""] * left + row for row in [[]] * top + rows]
    while wanted and not any(cell != "" for cell in wanted[-1]):
        wanted.pop()
    assert len(found) == len(wanted)
    for got, row in zip(found, wanted, strict=True):
        got += [""] * (len(row) - len(got))
        for text, cell in zip(got, row, strict=False):
            if isinstance(cell, bool):
                assert text == str(cell).lower()
            elif isinstance(cell, str):
                assert text == cell
            else:
                # the library that writes it keeps 16 digits
                assert float(text) == pytest.approx(float(cell), rel=1e-15)


@given(st.lists(st.tuples(st.integers(1, 30), st.integers(1, 40)), min_size=1, max_size=12, unique=True))
@RELAXED
def test_errors_are_found_wherever_they_stand(places: list[tuple[int, int]]) -> None:
    rows: list[list[Any]] = [[""] * 40 for _ in range(30)]
    for row, column in places:
        rows[row - 1][column - 1] = "#DIV/0!"

    def fill(book: Any) -> None:
        sheet = book.add_worksheet("May")
        for row, column in places:
            sheet.write_formula(row - 1, column - 1, "=1/0", None, "#DIV/0!")

    old = books.xls([[cell or None for cell in row] for row in rows])
    for data in (books.xlsx(fill), books.xlsb(rows), old):
        text = Workbook(data).read(Sheet("May")).text.decode()
        found = {
            (row, column)
            for row, cells in enumerate(csv.reader(io.StringIO(text)), 1)
            for column, cell in enumerate(cells, 1)
            if cell
        }
        assert found == set(places)
