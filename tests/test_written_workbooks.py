"""Workbooks as outputs, and CSV that spreadsheet programs take for nothing but text."""

import datetime as dt
import json

import openpyxl
import pytest

import integrum as ig
from integrum.writing import workbook
from knobs import turn

TEXT = """name,n,id,day,moment,ok,note
=1+1,-5,7,2024-05-01,2024-05-01 12:30:00,true,@SUM
+x,3.25,123456789012345678,1850-01-01,1850-01-01 06:00:00,false,"a
b"
-y,,,,,,http://lake.example
"""
COLUMNS = (
    ig.Column("name"),
    ig.Column("n", "number"),
    ig.Column("id", "integer"),
    ig.Column("day", "date"),
    ig.Column("moment", "datetime"),
    ig.Column("ok", "boolean"),
    ig.Column("note"),
)


@pytest.fixture
def plan(folder) -> ig.Plan:
    folder.write("a.csv", TEXT)
    return ig.Plan([ig.Sources(str(folder.path))], COLUMNS)


def test_a_workbook_has_real_values_and_no_formulas(plan, tmp_path) -> None:
    outcome = ig.assemble(plan, to=tmp_path / "o.xlsx")
    book = openpyxl.load_workbook(tmp_path / "o.xlsx")
    assert book.sheetnames == ["table", "codebook", "problems", "sources"]
    sheet = book["table"]
    rows = [[cell.value for cell in row] for row in sheet.iter_rows()]
    assert rows[0] == ["source", "source_row", *(column.name for column in COLUMNS)]
    moment = dt.datetime(2024, 5, 1, 12, 30)
    assert rows[1] == ["a.csv", 2, "=1+1", -5, 7, dt.datetime(2024, 5, 1), moment, True, "@SUM"]
    # what a workbook cannot hold exactly is text
    assert rows[2][4:7] == ["123456789012345678", "1850-01-01", "1850-01-01 06:00:00"]
    assert rows[3][3:8] == [None] * 5
    assert not any(cell.data_type == "f" for row in sheet.iter_rows() for cell in row)
    assert sheet["D2"].data_type == "n" and sheet["C2"].data_type != "n"
    assert sheet["F2"].number_format == "yyyy-mm-dd" and sheet["G2"].number_format == "yyyy-mm-dd hh:mm:ss"
    assert sheet["I4"].hyperlink is None
    assert sheet.freeze_panes == "A2" and sheet.auto_filter.ref == "A1:I4"
    assert sheet.column_dimensions["E"].width > sheet.column_dimensions["D"].width
    assert outcome.table.equals(ig.assemble(plan).table)


def test_the_sheets_beside_the_table_are_the_record(folder, tmp_path) -> None:
    folder.write("a.csv", "lake,depth\nAmbermere,=x\n")
    folder.write("b.csv", "site\n1\n")
    plan = ig.Plan([ig.Sources(str(folder.path))], [ig.Column("lake"), ig.Column("depth", "number")])
    ig.assemble(plan, to=tmp_path / "o.xlsx")
    book = openpyxl.load_workbook(tmp_path / "o.xlsx")
    assert [row[0].value for row in book["sources"].iter_rows(min_row=2)] == ["a.csv", "b.csv"]
    problems = [[cell.value for cell in row[:7]] for row in book["problems"].iter_rows(min_row=2)]
    assert ["warning", "bad-value", "a.csv", None, 2, "depth", "=x"] in problems
    assert [row[0].value for row in book["codebook"].iter_rows(min_row=2)][-2:] == ["lake", "depth"]
    assert book["problems"].freeze_panes == "A2"
    assert (tmp_path / "o-record" / "problems.csv").exists()


def test_the_same_run_writes_the_same_workbook(plan, tmp_path) -> None:
    ig.assemble(plan, to=tmp_path / "o.xlsx")
    first = (tmp_path / "o.xlsx").read_bytes()
    ig.assemble(plan, to=tmp_path / "o.xlsx")
    assert (tmp_path / "o.xlsx").read_bytes() == first


def test_the_output_is_no_source_of_the_next_run(folder, tmp_path) -> None:
    folder.write("a.csv", "lake\nAmbermere\n")
    for _ in range(2):
        outcome = ig.assemble(folder.path, to=folder.path / "all.xlsx")
        assert [account.source for account in outcome.sources] == ["a.csv"]
    assert ig.assemble(tmp_path / "in" / "a.csv", to=tmp_path / "{group}.xlsx").rows == 1


@pytest.mark.parametrize(
    ("name", "most", "said"),
    [
        ("rows_of_a_sheet", 2, "more than 2 rows"),
        ("columns_of_a_sheet", 8, "9 columns"),
        ("letters_of_a_cell", 4, "row 1 of the table"),
    ],
)
def test_what_a_sheet_cannot_take_is_refused_before_anything_is_written(
    plan, tmp_path, monkeypatch, name: str, most: int, said: str
) -> None:
    (tmp_path / "o.xlsx").write_text("yesterday")
    turn(monkeypatch, **{name: most})
    with pytest.raises(ig.OutputError, match=said) as error:
        ig.assemble(plan, to=tmp_path / "o.xlsx", replace=True)
    assert ".csv or .parquet" in str(error.value)
    assert (tmp_path / "o.xlsx").read_text() == "yesterday"
    assert not (tmp_path / "o-record").exists() and not list(tmp_path.glob(".*"))


def test_as_many_rows_as_a_sheet_takes(plan, tmp_path, monkeypatch) -> None:
    assert workbook.MOST_ROWS == 2**20 - 1
    turn(monkeypatch, rows_of_a_sheet=3)
    assert ig.assemble(plan, to=tmp_path / "o.xlsx").rows == 3


def test_guarded_csv(plan, folder, tmp_path, integrum) -> None:
    folder.write("a.csv", TEXT + "'quoted,+1e5,,,,,-7\n")
    outcome = ig.assemble(plan, to=tmp_path / "o.csv", guard_formulas=True)
    lines = (tmp_path / "o.csv").read_text().splitlines()
    assert lines[1].split(",")[2:4] == ["'=1+1", "-5"] and lines[1].endswith(",'@SUM")
    assert lines[2].startswith("a.csv,3,'+x,3.25,")
    assert lines[-1] == "a.csv,5,''quoted,1e5,,,,,-7"
    assert outcome.table.equals(ig.assemble(plan).table)
    assert json.loads((tmp_path / "o-record" / "run.json").read_text())["guard_formulas"] is True
    plain = ig.assemble(plan, to=tmp_path / "o.csv")
    assert "'=" not in plain.output.read_text()
    ran = integrum("assemble", "in", "--to", "-", "--guard-formulas")
    assert "'=1+1" in ran.stdout
    ran = integrum("assemble", "in", "--to", "o.parquet", "--guard-formulas")
    assert ran.returncode == 2 and "guard_formulas is for CSV" in ran.stderr
    with pytest.raises(ig.OutputError, match=r"give a \.csv file"):
        ig.assemble(plan, guard_formulas=True)


def test_headers_are_guarded_too(folder, tmp_path) -> None:
    folder.write("a.csv", "=lake,depth\nAmbermere,1\n")
    outcome = ig.assemble(folder.path, to=tmp_path / "o.csv", guard_formulas=True)
    assert (tmp_path / "o.csv").read_text().startswith("source,source_row,'=lake,depth\n")
    assert outcome.table.column_names[2] == "=lake"


def test_a_very_wide_table_is_written(folder, tmp_path) -> None:
    names = [f"c{at}" for at in range(17_000)]
    folder.write("a.csv", ",".join(names) + "\n" + ",".join("1" for _ in names) + "\n")
    plan = ig.Plan([ig.Sources(str(folder.path))], [ig.Column(name) for name in names])
    ig.assemble(plan, to=tmp_path / "o.csv")
    assert (tmp_path / "o.csv").read_text().splitlines()[1] == "a.csv,2," + ",".join("1" for _ in names)
