"""From a row of the table back to the line: in every output, with and without provenance, and when a source has changed."""

import datetime as dt
import gzip
import zipfile
from dataclasses import replace
from pathlib import Path

import pytest

import books
import integrum as ig
from integrum.plan.layout import SPACES
from integrum.reading.records import Dialect
from integrum.results.traced import cell_spans

SUFFIXES = ["csv", "csv.gz", "parquet", "arrow", "xlsx"]
A = """Exported;2024
lake;Date;Temp (°F);flag

ambermere;01.05.2024;50,0;ok
Vessel Lake;02.05.2024;n/a;
;03.05.2024;warm;x
"""
B = "lake,day,temp\nAmbermere,2024-06-01,7.20\n# pause\nAmbermere,2024-06-02,8\nAmbermere,2024-06-03\n"
COLUMNS = [
    ig.Column("lake", values={"ambermere": "Ambermere"}),
    ig.Column("day", "date", also=["Date"], date_order="dmy"),
    ig.Column("temp", "number", unit="°C", also=[ig.Also("Temp (°F)", unit="°F")], missing=["n/a"]),
]


@pytest.fixture
def plan(folder) -> ig.Plan:
    folder.write("a.csv", A)
    folder.write("b.csv", B)
    one = ig.Layout(header_row=2, delimiter=";", decimal_mark=",")
    where = [str(folder.path / name) for name in ("a.csv", "b.csv")]
    return ig.Plan(
        [ig.Sources(where[0], layout=one), ig.Sources(where[1], layout=ig.Layout(comment_mark="#"))], COLUMNS
    )


@pytest.mark.parametrize("suffix", SUFFIXES)
@pytest.mark.parametrize(
    "provenance", [ig.Provenance(), ig.Provenance(False, False, False)], ids=["named", "not named"]
)
def test_every_row_is_traced_to_its_line(plan, tmp_path, suffix: str, provenance) -> None:
    to = tmp_path / f"o.{suffix}"
    outcome = ig.assemble(replace(plan, provenance=provenance), to)
    assert (outcome.record / "rows.csv").exists() == (provenance.source is False)
    found = ig.trace(to, range(1, outcome.rows + 1))
    lines = {"a.csv": A.splitlines(), "b.csv": B.splitlines()}
    assert [(one.source, one.source_row) for one in found.rows] == [
        ("a.csv", 4), ("a.csv", 5), ("a.csv", 6), ("b.csv", 2), ("b.csv", 4),
    ]  # fmt: skip
    table = outcome.table.to_pylist()
    for one, row in zip(found.rows, table, strict=True):
        assert one.raw == lines[one.source][one.source_row - 1]
        assert not one.remarks
        values = {value.column: value.value for value in one.values}
        assert values["day"] == str(row["day"])
        assert (values["temp"] is None) == (row["temp"] is None)
        assert row["temp"] is None or float(values["temp"]) == row["temp"]


def test_what_the_plan_did_to_each_value(plan, tmp_path) -> None:
    ig.assemble(plan, tmp_path / "o.csv")
    first, second, third = ig.trace(tmp_path / "o.csv", [1, 2, 3]).rows
    said = {value.column: value.said for value in first.values}
    assert said == {
        "lake": 'renamed to "Ambermere" by the plan',
        "day": "read in the order dmy",
        "temp": '"," is the decimal mark; converted from °F to °C',
    }
    assert {value.column: value.said for value in second.values}["temp"] == '"n/a" is a missing code'
    said = {value.column: value.said for value in third.values}
    assert said["temp"] == "not a number, left empty"
    assert said["lake"] == "empty there"
    text = str(second)
    assert "row 2 of" in text and "is from a.csv, row 5" in text
    assert "header | lake;Date;Temp (°F);flag" in text
    line, marks = text.splitlines()[3:5]
    assert line == "       5 | Vessel Lake;02.05.2024;n/a;"
    assert marks == "                       ^^^^^^^^^^ ^^^"


@pytest.mark.parametrize("suffix", SUFFIXES)
def test_conditions(plan, tmp_path, suffix: str) -> None:
    to = tmp_path / f"o.{suffix}"
    ig.assemble(plan, to)

    def rows(where: str) -> list[int]:
        return [one.row for one in ig.trace(to, where=where, most=9).rows]

    assert rows("temp > 7.5 and lake == 'Ambermere'") == [1, 5]
    assert rows("temp is None") == [2, 3]
    assert rows("not (temp is not None or lake == 'x')") == [2, 3]
    assert rows("lake is None or day >= '2024-06-02'") == [3, 5]
    assert rows("source_row in [2, 4] and source != 'a.csv'") == [4, 5]
    assert rows("7 < temp <= 8") == [4, 5]
    assert rows("lake not in ['Ambermere']") == rows("lake != 'Ambermere'") == [2, 3]
    assert rows("temp == -3") == []
    found = ig.trace(to, where="temp > -99", most=1)
    assert (len(found.rows), found.count) == (1, 3)
    assert "and 2 more rows that fit" in str(found)
    assert str(ig.trace(to, where="temp > 99")) == "no row fits"
    assert [one.column for one in ig.trace(to, where="temp > 7", most=1).rows[0].values if one.asked] == [
        "temp"
    ]


WRONG = [
    ("tmep > 3", 'no column "tmep"; did you mean "temp"'),
    ("temp", '"temp" is not a comparison'),
    ("temp = 3", "not a condition on rows"),
    ("temp > 'x'", "column of numbers"),
    ("lake > 3", "column of texts"),
    ("day > 'May'", '"May" is not a date, as "day" is'),
    ("day > 3", "is not a date"),
    ("3 > 4", "not compared with a column"),
    ("temp + 1 > 4", "not compared with a column"),
    ("temp > open('x')", "expected a number or a text"),
    ("__import__('os').system('touch hacked')", "not a comparison"),
    ("(lambda: 1)() == temp", "expected a number or a text in quotes"),
    ("temp == None", "write: temp is None"),
    ("temp is 3", '"is" can only be used with None'),
    ("lake in 'abc'", '"in" needs a list'),
    ("lake == temp", "of different types"),
    ("", "give row numbers or a condition"),
    ("(" * 300 + "temp > 1" + ")" * 300, "condition"),
]


@pytest.mark.parametrize(("where", "said"), WRONG, ids=[where[:20] for where, _ in WRONG])
def test_a_condition_that_cannot_be_understood_is_never_run(plan, tmp_path, monkeypatch, where, said) -> None:
    monkeypatch.chdir(tmp_path)
    ig.assemble(plan, tmp_path / "o.csv")
    with pytest.raises(ig.IntegrumError) as error:
        ig.trace(tmp_path / "o.csv", where=where)
    assert said in str(error.value)
    assert not (tmp_path / "hacked").exists()


def test_names_that_are_no_words_stand_in_braces(folder, tmp_path) -> None:
    folder.write("a.csv", "Temp (°C),a b\n7,x\n41,y\n")
    ig.assemble(folder.path, tmp_path / "o.csv")
    assert [
        one.row for one in ig.trace(tmp_path / "o.csv", where="{Temp (°C)} > 40 and {a b} == 'y'").rows
    ] == [2]


def test_sources_and_outputs_that_have_changed_say_so(plan, folder, tmp_path) -> None:
    ig.assemble(plan, tmp_path / "o.csv")
    folder.write("b.csv", B.replace("7.20", "7.90"))
    (one,) = ig.trace(tmp_path / "o.csv", 4).rows
    assert one.remarks[0] == f"{folder.path / 'b.csv'} has changed since the run"
    assert one.remarks[1] == "read again, it gives other values in temp than the table has"
    folder.write("b.csv", B.replace("2024-06-01", "2024-06-11"))
    (one,) = ig.trace(tmp_path / "o.csv", 4).rows
    assert one.remarks[1] == "read again, it gives other values in day than the table has"
    folder.write("b.csv", "lake,day,temp\n")
    (one,) = ig.trace(tmp_path / "o.csv", 4).rows
    assert one.raw is None and "does not have row 2 of data any more" in one.remarks[1]
    assert [value.value for value in one.values] == ["Ambermere", "2024-06-01", "7.2"]
    (folder.path / "b.csv").unlink()
    (one,) = ig.trace(tmp_path / "o.csv", 4).rows
    assert one.remarks == (f"{folder.path / 'b.csv'} does not exist any more",)
    with open(tmp_path / "o.csv", "a") as file:
        file.write("a.csv,4,Ambermere,2024-05-01,10\n")
    found = ig.trace(tmp_path / "o.csv", 6)
    assert "has changed since the run" in found.remarks[0]
    assert (found.rows[0].source, found.rows[0].source_row) == ("a.csv", 4)


def test_sheets_archives_and_packed_files(folder, tmp_path) -> None:
    day = dt.datetime(2024, 5, 2)
    folder.write(
        "book.xlsx", books.sheets(Notes=[["x"]], May=[["visits"], ["day", "depth"], [day, 3.5], [day, "n/a"]])
    )
    with zipfile.ZipFile(folder.path / "round.zip", "w") as archive:
        archive.writestr("deep/c.csv", "day,depth\n2024-05-03,4\n")
    folder.write("d.csv.gz", gzip.compress(b"day,depth\n2024-05-04,5\n"))
    columns = [ig.Column("day", "datetime"), ig.Column("depth", "number", missing=["n/a"])]
    plan = ig.Plan(
        [
            ig.Sources(str(folder.path / "book.xlsx"), sheets=["May"], layout=ig.Layout(header_row=2)),
            ig.Sources([str(folder.path / "round.zip"), str(folder.path / "d.csv.gz")]),
        ],
        columns,
    )
    for to in (tmp_path / "o.xlsx", tmp_path / "o2.csv"):
        ig.assemble(plan, to)
        found = ig.trace(to, [1, 2, 3, 4]).rows
        places = {(one.source, one.sheet, one.source_row) for one in found}
        assert places == {
            ("book.xlsx", "May", 3),
            ("book.xlsx", "May", 4),
            ("round.zip/deep/c.csv", "", 2),
            ("d.csv.gz", "", 2),
        }
        assert not [one.remarks for one in found if one.remarks]
        sheet = found[1]
        assert [value.places for value in sheet.values] == [("A4",), ("B4",)]
        assert "is from book.xlsx, sheet May, row 4" in str(sheet) and "B4 n/a" in str(sheet)


@pytest.mark.parametrize(
    "provenance", [ig.Provenance(), ig.Provenance(False, False, False)], ids=["named", "not named"]
)
def test_rows_of_wide_sources_are_traced_to_their_cells(folder, tmp_path, provenance) -> None:
    folder.write("a.csv", "site,2024-04,2024-05,2024-06\nnorth,1,,3\nsouth,,5,5\n")
    plan = ig.Plan(
        [ig.Sources(str(folder.path), wide=ig.Wide("20??-??", name="month", value="count"))],
        [ig.Column("site"), ig.Column("month"), ig.Column("count", "integer")],
        provenance,
    )
    ig.assemble(plan, tmp_path / "o.csv")
    found = ig.trace(tmp_path / "o.csv", [1, 2, 3, 4], columns="count").rows
    assert [one.source_row for one in found] == [2, 2, 3, 3]
    counts = [next(value for value in one.values if value.column == "count") for one in found]
    assert [(value.value, value.positions) for value in counts] == [
        ("1", (1,)),
        ("3", (3,)),
        ("5", (2,)),
        ("5", (3,)),
    ]
    assert str(found[1]).splitlines()[4].index("^") - str(found[1]).splitlines()[3].index("north") == len(
        "north,1,,"
    )


def test_the_line_is_told_where_it_is_not_the_row(folder, tmp_path) -> None:
    folder.write("a.csv", 'id,remark\n1,"two\nlines"\n2,x\n')
    folder.write("b.csv", 'id;remark\r\n1;"two\r\nlines"\r\n2;é\r\n'.encode("cp1252"))
    ig.assemble(folder.path, tmp_path / "o.csv")
    found = ig.trace(tmp_path / "o.csv", [1, 2, 3, 4]).rows
    assert [(one.source_row, one.line) for one in found] == [(2, 2), (3, 4), (2, 2), (3, 4)]
    assert "is from a.csv, row 3 (line 4)" in str(found[1])
    assert "row 2\n" in str(found[0])


def test_one_of_several_outputs(folder, tmp_path) -> None:
    for lake in ("amb", "qui"):
        for at in range(2):
            folder.write(f"{lake}_{at}.csv", f"depth\n{at}.5\n{lake == 'amb'}.7\n")
    plan = ig.Plan(
        [ig.Sources(str(folder.path), ids="{lake}_{n}.csv")],
        [ig.Column("depth")],
        ig.Provenance(False, False, False),
    )
    ig.assemble(plan, tmp_path / "{lake}.csv")
    assert [one.source for one in ig.trace(tmp_path / "qui.csv", [1, 4]).rows] == ["qui_0.csv", "qui_1.csv"]
    assert [one.source_row for one in ig.trace(tmp_path / "amb.csv", [2, 3]).rows] == [3, 2]
    with pytest.raises(
        ig.OutputError, match=r"row numbers are counted in each table; give one of the 2: .*amb"
    ):
        ig.trace(tmp_path / "lake-record", 1)
    both = ig.trace(tmp_path / "lake-record", where="depth in ['0.5', 'False.7']")
    told = [(Path(one.output).name, one.row, one.source, one.source_row) for one in both.rows]
    assert told == [
        ("amb.csv", 1, "amb_0.csv", 2),
        ("qui.csv", 1, "qui_0.csv", 2),
        ("qui.csv", 2, "qui_0.csv", 3),
        ("qui.csv", 4, "qui_1.csv", 3),
    ]
    few = ig.trace(tmp_path / "lake-record", where="depth in ['0.5', 'False.7']", most=2)
    assert [one.source for one in few.rows] == ["amb_0.csv", "qui_0.csv"] and few.count == 4
    with pytest.raises(ig.OutputError, match="does not have a row 9; it has 4"):
        ig.trace(tmp_path / "amb.csv", 9)
    for name in ("amb.csv", "qui.csv"):
        (tmp_path / name).unlink()
    with pytest.raises(ig.OutputError, match="is not an output of the run"):
        ig.trace(tmp_path / "lake.csv", 1)


def test_functions_of_ones_own_are_run_only_when_that_is_allowed(folder, tmp_path) -> None:
    (tmp_path / "steps.py").write_text("def depth(text):\n    return text.removesuffix('ft')\n")
    folder.write("a.csv", "depth\n3ft\n")
    (tmp_path / "p.toml").write_text(
        'integrum = 1\n[[sources]]\nfind = ["in"]\n[[columns]]\nname = "depth"\ntype = "number"\nread = "steps.py:depth"\n'
    )
    ig.assemble(tmp_path / "p.toml", tmp_path / "o.csv", allow_code=True)
    (value,) = ig.trace(tmp_path / "o.csv", 1).rows[0].values
    assert value.said == "read by steps.py:depth, which was not run; add --allow-code to run it"
    (value,) = ig.trace(tmp_path / "o.csv", 1, allow_code=True).rows[0].values
    assert (value.value, value.said) == ("3", "read by a function of your own")


@pytest.mark.parametrize(
    ("raw", "dialect", "cells"),
    [
        ('a,"b, ""c""",,d', Dialect(), ["a", '"b, ""c"""', "", "d"]),
        ('a,"b\\", c",d', Dialect(escape="\\"), ["a", '"b\\", c"', "d"]),
        ('5" deep,x', Dialect(), ['5" deep', "x"]),
        ("a|b|", Dialect("|", ""), ["a", "b", ""]),
        ("  a \t b  ", Dialect(SPACES), ["a", "b"]),
        ("", Dialect(), [""]),
    ],
)
def test_where_cells_begin_and_end(raw: str, dialect: Dialect, cells: list[str]) -> None:
    assert [raw[start:end] for start, end in cell_spans(raw, dialect)] == cells


def test_the_command(plan, folder, tmp_path, integrum) -> None:
    ig.assemble(plan, tmp_path / "o.csv")
    ran = integrum("trace", "o.csv", 1, 5)
    assert ran.returncode == 0
    assert ran.stdout.count(" is from ") == 2
    assert (
        integrum("trace", "o.csv", "--where", "temp > 7", "--most", 1, "--column", "day").stdout.count("^")
        == 10
    )
    for given, said in [
        (("o.csv",), "give row numbers or --where CONDITION"),
        (("o.csv", 77), "does not have a row 77; it has 5"),
        (("o.csv", 1, "--column", "tmep"), 'did you mean "temp"'),
        (("none.csv", 1), "there is no record here"),
    ]:
        ran = integrum("trace", *given)
        assert (ran.returncode, ran.stdout) == (2, "")
        assert said in ran.stderr
    folder.write("evil\x1b[31m.csv", "lake,day,temp\nx,2024-07-01,\x1b[2J\n")
    ig.assemble(folder.path / "evil\x1b[31m.csv", tmp_path / "e.csv")
    assert "\x1b" not in integrum("trace", "e.csv", 1).stdout
    assert Path(tmp_path / "e-record").exists()
