"""Workbooks: every sheet that holds a table is a source."""

import datetime as dt
import io
import json
import random
import zipfile
from concurrent.futures import ProcessPoolExecutor
from typing import Any

import openpyxl
import pytest

import books
import integrum as ig
from integrum.sources import sheets
from knobs import turn
from sheet_corpus import make_sheet

MAY = [["lake", "depth"], ["Ambermere", 3.5], ["Quillon Tarn", 4]]
JUNE = [["lake", "depth"], ["Ambermere", 3.25]]


def plan_for(folder: Any, *columns: ig.Column, **group: Any) -> ig.Plan:
    wanted = columns or (ig.Column("lake"), ig.Column("depth", "number"))
    return ig.Plan([ig.Sources(str(folder.path), **group)], wanted)


def told(outcome: Any, code: str) -> list[str]:
    return [one.source for one in outcome.problems if one.code == code]


def names(outcome: Any) -> list[str]:
    return [account.source for account in outcome.sources]


# -- formats


ROWS = [
    ["lake", "depth", "ok"],
    ["Ambermere", 3.5, True],
    ["Quillon", "#DIV/0!", False],
    ["Vessel", 4.0, True],
]
_TEXT = '<table:table-cell office:value-type="string"><text:p>{}</text:p></table:table-cell>'
_NUMBER = (
    '<table:table-cell office:value-type="float" office:value="{0}"><text:p>{0}</text:p></table:table-cell>'
)
_FLAG = '<table:table-cell office:value-type="boolean" office:boolean-value="{}"><text:p>x</text:p></table:table-cell>'
_BAD = (
    '<table:table-cell table:formula="of:=1/0" office:value-type="string" office:string-value="" '
    'calcext:value-type="error"><text:p>#DIV/0!</text:p></table:table-cell>'
)


def _cell(value: Any) -> str:
    if value == "#DIV/0!":
        return _BAD
    form = _FLAG if isinstance(value, bool) else _TEXT if isinstance(value, str) else _NUMBER
    return form.format(str(value).lower() if isinstance(value, bool) else value)


# a spreadsheet program fills the sheet up to its last row and column
ODS = (
    '<table:table table:name="May">'
    + "".join(f"<table:table-row>{''.join(map(_cell, row))}</table:table-row>" for row in ROWS)
    + '<table:table-row table:number-rows-repeated="1048570">'
    '<table:table-cell table:number-columns-repeated="16384"/></table:table-row></table:table>'
)


def _with_error(book: Any) -> None:
    sheet = book.add_worksheet("May")
    for at, row in enumerate(ROWS):
        sheet.write_row(at, 0, [cell for cell in row if cell != "#DIV/0!"] if at != 2 else row[:1])
    sheet.write_formula(2, 1, "=1/0", None, "#DIV/0!")
    sheet.write(2, 2, False)


@pytest.mark.parametrize(
    ("name", "data"),
    [
        ("a.xlsx", books.xlsx(_with_error)),
        ("a.XLSM", books.xlsx(_with_error)),
        ("a.xls", books.xls(ROWS)),
        ("a.xlsb", books.xlsb(ROWS)),
        ("a.ods", books.ods(ODS)),
        ("wrongly named.xls", books.xlsx(_with_error)),
    ],
)
def test_every_format(folder, name: str, data: bytes) -> None:
    folder.write(name, data)
    folder.write("b.csv", "lake,depth,ok\nHollow,1.50,no\n")
    columns = (ig.Column("lake"), ig.Column("depth", "number"), ig.Column("ok", "boolean"))
    outcome = ig.assemble(plan_for(folder, *columns))
    assert outcome.table.to_pydict() == {
        "source": [name, name, name, "b.csv"] if name[0] == "a" else ["b.csv", name, name, name],
        "sheet": ["May"] * 3 + [None] if name[0] == "a" else [None] + ["May"] * 3,
        "source_row": [2, 3, 4, 2] if name[0] == "a" else [2, 2, 3, 4],
        "lake": _order(name, ["Ambermere", "Quillon", "Vessel"], "Hollow"),
        "depth": _order(name, [3.5, None, 4.0], 1.5),
        "ok": _order(name, [True, False, True], False),
    }
    (bad,) = (one for one in outcome.problems if one.code == "bad-value")
    assert (bad.source, bad.row, bad.column, bad.raw) == (f"{name}/May", 3, "depth", "#DIV/0!")
    hidden = [f"{name}/hidden"] if name == "a.xls" else []
    assert told(outcome, "passed-over") == hidden


def _order(name: str, sheet: list[Any], file: Any) -> list[Any]:
    return [*sheet, file] if name[0] == "a" else [file, *sheet]


def test_workbooks_in_archives_and_packed(folder) -> None:
    with zipfile.ZipFile(folder.path / "round.zip", "w") as archive:
        archive.writestr("in/visits.xlsx", books.sheets(May=MAY, June=JUNE))
    outcome = ig.assemble(plan_for(folder))
    assert names(outcome) == ["round.zip/in/visits.xlsx/May", "round.zip/in/visits.xlsx/June"]
    assert outcome.table["source"].to_pylist() == ["round.zip/in/visits.xlsx"] * 3
    assert outcome.table["depth"].to_pylist() == [3.5, 4.0, 3.25]


def test_a_table_of_files_alone_has_no_column_for_sheets(folder) -> None:
    folder.write("a.csv", "sheet,depth\n7,1\n")
    plan = plan_for(folder, ig.Column("sheet"), ig.Column("depth", "number"))
    assert ig.assemble(plan).table.column_names == ["source", "source_row", "sheet", "depth"]
    folder.write("b.xlsx", books.sheets(May=MAY))
    with pytest.raises(ig.PlanError, match="provenance column for sheets"):
        ig.assemble(plan)
    assert ig.draft(folder.path).plan.provenance.sheet == "file_sheet"
    assert "file_sheet" in ig.assemble(folder.path).table.column_names


# -- which sheets


def several(book: Any) -> None:
    for name in ("2023 north", "2023 south", "2024", "Notes", "Cover", "raw"):
        sheet = book.add_worksheet(name)
        for at, row in enumerate(MAY):
            sheet.write_row(at, 0, row)
        if name == "raw":
            sheet.hide()
    cover = book.add_worksheet("title")
    cover.write(0, 0, "Field visits")
    cover.write_row(3, 0, ["Year", 2023])
    book.add_worksheet("empty")
    chart = book.add_chart({"type": "line"})
    chart.add_series({"values": "='2024'!$B$2:$B$3"})
    book.add_chartsheet("chart").set_chart(chart)


@pytest.mark.parametrize(
    ("sheets", "taken"),
    [
        ([], ["2023 north", "2023 south", "2024", "Notes", "Cover"]),
        (["2023*", "!*south"], ["2023 north"]),
        (["!Notes", "!cover"], ["2023 north", "2023 south", "2024"]),
        (["2024", "RAW"], ["2024", "raw"]),
        ("r*", []),
        (["title"], ["title"]),
    ],
)
def test_the_plan_chooses_sheets(folder, sheets: Any, taken: list[str]) -> None:
    folder.write("v.xlsx", books.xlsx(several))
    plan = ig.Plan(
        [ig.Sources(str(folder.path), sheets=sheets)],
        [ig.Column("lake"), ig.Column("depth", "number")],
        rules=ig.Rules(duplicates="keep"),
    )
    outcome = ig.assemble(plan)
    if taken:
        assert names(outcome) == [f"v.xlsx/{name}" for name in taken]
        assert outcome.rows == (0 if sheets == ["title"] else 2 * len(taken))
    else:
        assert [account.reason for account in outcome.sources] == ["no-table"]
        assert outcome.status == 2
    if not sheets:
        said = {one.source: one.message for one in outcome.problems if one.code == "passed-over"}
        assert {
            name: said[f"v.xlsx/{name}"].split(",")[0] for name in ("raw", "title", "empty", "chart")
        } == {
            "raw": "skipped: hidden sheet",
            "title": "skipped: sheet without a table",
            "empty": "skipped: empty sheet",
            "chart": "skipped: a chart or the like",
        }


def test_a_name_that_no_sheet_has_is_reported(folder) -> None:
    folder.write("a.xlsx", books.sheets(May=MAY, June=JUNE))
    folder.write("b.xlsx", books.sheets(June=[*JUNE, ["Vessel", 1]]))
    outcome = ig.assemble(plan_for(folder, sheets=["May", "Jume"]))
    (problem,) = (one for one in outcome.problems if one.code == "sheets-unmatched")
    assert 'did you mean "June"?' in problem.message
    assert [(account.source, account.reason) for account in outcome.sources] == [
        ("a.xlsx/May", ""),
        ("b.xlsx", "no-table"),
    ]


def test_covers_are_told_in_a_survey_and_left_out_by_the_draft(folder) -> None:
    def fill(book: Any) -> None:
        cover = book.add_worksheet("Cover")
        for at, row in enumerate(
            [["Field visits"], [], ["Lake:", "Ambermere"], ["Year:", 2024], ["Team:", "B"]]
        ):
            cover.write_row(at, 0, row)
        for month in ("May", "June"):
            sheet = book.add_worksheet(month)
            for at, row in enumerate(MAY):
                sheet.write_row(at, 0, [*row, month])

    folder.write("a.xlsx", books.xlsx(fill))
    survey = ig.survey(folder.path)
    assert [account.sheet for account in survey.sources] == ["May", "June"]
    assert told(survey, "passed-over") == ["a.xlsx/Cover"]
    made = ig.draft(folder.path)
    assert made.plan.sources[0].sheets == ("!Cover",)
    assert ig.assemble(made).rows == 4


def test_covers_of_pairs_are_no_tables(folder) -> None:
    wide = [["lake", "depth", "seen"], ["Vessel", 1, "x"]]
    pairs = [["Lake:", "Vessel"], ["Year", 2024], ["Team", "B"]]
    folder.write("a.xlsx", books.sheets(Cover=pairs, May=wide, June=wide[:1]))
    columns = (ig.Column("lake"), ig.Column("depth", "number"), ig.Column("seen"))
    outcome = ig.assemble(plan_for(folder, *columns))
    assert told(outcome, "passed-over") == ["a.xlsx/Cover"] and outcome.status == 0
    # a header and nothing below it is a table without rows
    assert told(outcome, "no-data-rows") == ["a.xlsx/June"]
    # two columns are a table when the plan knows one of them
    folder.write(
        "a.xlsx", books.sheets(Cover=pairs, May=[["Lake", "weather"], ["Vessel", "calm"], ["Hollow", "rain"]])
    )
    assert ig.assemble(plan_for(folder, *columns)).table["lake"].to_pylist() == ["Vessel", "Hollow"]


def test_sheets_on_the_command_line(folder, integrum) -> None:
    folder.write("a.xlsx", books.sheets(May=MAY, June=JUNE))
    ran = integrum("assemble", "in", "--sheets", "!June", "--to", "-")
    assert ran.stdout.splitlines()[1:] == ["a.xlsx,May,2,Ambermere,3.5", "a.xlsx,May,3,Quillon Tarn,4"]
    seen = integrum("survey", "in/a.xlsx", "--sheets", "June").stdout
    assert "a.xlsx/June: 1 header, 1 data" in seen
    assert integrum("survey", "in/plan.toml", "--sheets", "x").returncode == 2
    assert 'or --sheets "June"' in integrum("survey", "in/a.xlsx/June").stderr


# -- facts, expectations, twins


def test_the_sheet_gives_facts(folder) -> None:
    folder.write("ambermere_2024.xlsx", books.sheets(May=MAY, June=JUNE))
    folder.write("x.xlsx", books.sheets(May=[*MAY, ["Vessel", 1]]))
    scheme = {"ids": "{site}_{year}.xlsx/{month}", "facts": {"tab": "sheet", "file": "name"}}
    outcome = ig.assemble(plan_for(folder, **scheme))
    table = outcome.table.to_pydict()
    assert table["month"][:3] == ["May", "May", "June"] and table["site"][:1] == ["ambermere"]
    assert table["tab"] == ["May", "May", "June", "May", "May", "May"] and table["file"][-1] == "x"
    assert told(outcome, "path-does-not-fit") == ["x.xlsx/May"]
    plain = ig.assemble(
        plan_for(folder, ids="{site}_{year}.xlsx", labels={"x.xlsx": "X", "x.xlsx/May": "X, May"})
    )
    assert plain.table["site"].to_pylist()[:3] == ["ambermere"] * 3
    assert plain.table["source"].to_pylist()[-1] == "X, May"


def test_expectations_count_sheets_and_know_files(folder) -> None:
    folder.write("a.xlsx", books.sheets(May=MAY, June=JUNE))
    assert ig.assemble(plan_for(folder, expect=2)).status == 0
    assert ig.assemble(plan_for(folder, expect=3)).status == 1
    outcome = ig.assemble(plan_for(folder, expect=["a.xlsx", "b.xlsx"]))
    assert [(one.severity, one.source) for one in outcome.problems] == [("error", "b.xlsx")]


def test_the_same_cells_twice(folder) -> None:
    folder.write("a.xlsx", books.sheets(May=MAY, copy=MAY))
    outcome = ig.assemble(plan_for(folder))
    assert told(outcome, "same-content") == ["a.xlsx/copy"]
    assert "cell for cell" in next(one.message for one in outcome.problems if one.code == "same-content")
    folder.write("b.xlsx", (folder.path / "a.xlsx").read_bytes())
    by_name = ig.survey(folder.path, contents=False)
    assert names(by_name) == ["a.xlsx/May", "a.xlsx/copy", "b.xlsx/May", "b.xlsx/copy"]
    assert told(by_name, "same-content") == ["b.xlsx"]


# -- layout


def odd(book: Any) -> None:
    """A title, a header of two rows in column C, units, blank rows and a blank column, totals, a note beside."""
    sheet = book.add_worksheet("May")
    sheet.merge_range("C1:I1", "Field visits", None)
    sheet.merge_range("C4:C5", "Day", None)
    sheet.merge_range("E4:F4", "Surface", None)
    sheet.merge_range("G4:H4", "Bottom", None)
    sheet.write_row("D5", ["Lake", "Temp", "Oxygen", "Temp", "Oxygen", "", "Remark"])
    sheet.write_row("E6", ["°C", "mg/L", "°C", "mg/L"])
    for at in range(12):
        row = 7 + at + (at > 5)
        sheet.write_datetime(
            row - 1, 2, dt.datetime(2024, 5, 1 + at), book.add_format({"num_format": "d.m.yy"})
        )
        sheet.write_row(
            row - 1, 3, ["Ambermere", 12 + at, 9.5, 6 + at / 10, 8, "", "windy" if at % 3 else ""]
        )
    sheet.write_row("C21", ["Mean", "", 17.5, 9.5])
    sheet.write("M8", "the probe was changed")


def test_an_odd_sheet_is_surveyed_drafted_and_assembled(folder) -> None:
    folder.write("a.xlsx", books.xlsx(odd))
    made = ig.draft(folder.path)
    layout = made.plan.sources[0].layout
    assert (layout.header_row, layout.header_rows, layout.units_row) == (4, 2, True)
    assert (layout.first_column, layout.last_column, layout.footer_from) == ("C", "J", ("Mean",))
    assert [(column.name, column.type, column.unit) for column in made.plan.columns] == [
        ("Day", "date", ""),
        ("Lake", "text", ""),
        ("Surface Temp", "integer", "°C"),
        ("Surface Oxygen", "number", "mg/L"),
        ("Bottom Temp", "number", "°C"),
        ("Bottom Oxygen", "integer", "mg/L"),
        ("Remark", "text", ""),
    ]
    outcome = ig.assemble(made)
    assert outcome.rows == 12 and outcome.status == 0
    assert outcome.table["source_row"].to_pylist() == [*range(7, 13), *range(14, 20)]
    assert outcome.table["Day"].to_pylist()[-1] == dt.date(2024, 5, 12)
    beside = next(one for one in outcome.problems if one.code == "beside-the-table")
    assert (beside.severity, beside.row, beside.column, beside.raw) == (
        "note",
        8,
        "M",
        "the probe was changed",
    )
    assert outcome.sources[0].ledger.rows == 21 and outcome.sources[0].ledger.adds_up
    parts = ig.look(folder.path / "a.xlsx").counts()
    assert parts == {"preamble": 1, "blank": 4, "header": 2, "units": 1, "data": 12, "footer": 1}


def test_cells_beyond_the_header_are_kept_in_the_record(folder, tmp_path) -> None:
    folder.write("a.xlsx", books.sheets(May=[*MAY[:2], [*MAY[2], "", "who was that?"]]))
    outcome = ig.assemble(plan_for(folder), to=tmp_path / "o.csv")
    assert outcome.rows == 2
    (problem,) = outcome.problems
    assert (problem.severity, problem.code, problem.row, problem.column) == (
        "warning",
        "beside-the-table",
        3,
        "column D",
    )
    kept = (tmp_path / "o-record" / "set-aside.csv").read_text().splitlines()
    assert kept[1] == "a.xlsx,May,3,column D,beside-the-table,who was that?"


def test_cells_merged_downwards_stand_in_each_row(folder) -> None:
    def fill(book: Any) -> None:
        sheet = book.add_worksheet("May")
        sheet.write_row(0, 0, ["lake", "depth"])
        sheet.merge_range("A2:A4", "Ambermere", None)
        sheet.write_column("B2", [1, 2, 3, 4])
        sheet.write("A5", "Vessel")

    folder.write("a.xlsx", books.xlsx(fill))
    outcome = ig.assemble(plan_for(folder))
    assert outcome.table["lake"].to_pylist() == ["Ambermere"] * 3 + ["Vessel"]
    (note,) = outcome.problems
    assert (note.severity, note.code, note.row, note.raw) == ("note", "merged-down", 2, "Ambermere")


def test_a_second_table_is_reported_and_a_plan_can_point_to_it(folder) -> None:
    def fill(book: Any) -> None:
        sheet = book.add_worksheet("May")
        for at, row in enumerate([["lake", "depth"], *([f"L{n}", n] for n in range(8))]):
            sheet.write_row(at, 0, row)
            sheet.write_row(at, 3, row if at == 0 else [f"R{at}", at * 10])
        below = book.add_worksheet("June")
        for at, row in enumerate(
            [["lake", "depth"], *([f"L{n}", n] for n in range(8)), [], ["site", "wind"]]
        ):
            below.write_row(at, 0, row)
        below.write_row(11, 0, ["X", 3])
        below.write_row(12, 0, ["Y", 5])

    folder.write("a.xlsx", books.xlsx(fill))
    survey = ig.survey(folder.path)
    found = {one.source: (one.row, one.column) for one in survey.problems if one.code == "second-table"}
    assert found == {"a.xlsx/May": (1, "D"), "a.xlsx/June": (11, "")}
    assert "# there may be another table in a.xlsx/May, row 1, column D" in str(ig.draft(folder.path))
    assert told(ig.assemble(folder.path), "second-table") == ["a.xlsx/May", "a.xlsx/June"]
    right = ig.Layout(first_column="D", last_column="E")
    outcome = ig.assemble(plan_for(folder, sheets="May", layout=right))
    assert outcome.table["depth"].to_pylist() == [float(at * 10) for at in range(1, 9)]
    columns = (ig.Column("site"), ig.Column("wind", "number"))
    lower = ig.assemble(plan_for(folder, *columns, sheets="June", layout=ig.Layout(header_row=11)))
    assert lower.table["site"].to_pylist() == ["X", "Y"]
    assert lower.sources[0].ledger.preamble == 9


def test_a_second_table_and_a_footer_far_down(folder) -> None:
    rows = [["lake", "depth"], *([f"L{at}", at / 4] for at in range(900))]
    folder.write("a.xlsx", books.sheets(May=[*rows, [], ["site", "wind"], ["X", 3], ["Y", 5]]))
    folder.write(
        "b.xlsx",
        books.sheets(May=[*rows[:-1], ["Mean", sum(at / 4 for at in range(899)) / 899], ["checked"]]),
    )
    survey = ig.survey(folder.path)
    assert [(one.source, one.row) for one in survey.problems if one.code == "second-table"] == [
        ("a.xlsx/May", 903)
    ]
    assert [one.layout.footer_from for one in survey.layouts] == [("site",), ("Mean",)]
    assert [one.ledger.footer for one in survey.sources] == [3, 2]


def test_sheets_of_other_layouts_in_one_workbook_become_groups(folder) -> None:
    def fill(book: Any, base: int, months: tuple[str, ...], late: tuple[str, ...]) -> None:
        for number, month in enumerate(months):
            sheet, top = book.add_worksheet(month), 3 if month in late else 0
            if top:
                sheet.write(0, 0, f"Units and all, {month}")
            sheet.write_row(top, 0, ["lake", "depth", "seen"])
            if top:
                sheet.write_row(top + 1, 1, ["m"])
            for at in range(5):
                sheet.write_row(
                    top + 1 + bool(top) + at, 0, ["Vessel", base + number + at / 10, "2024-05-01"]
                )

    folder.write("a.xlsx", books.xlsx(lambda book: fill(book, 10, ("May", "June", "August"), ("August",))))
    folder.write("b.xlsx", books.xlsx(lambda book: fill(book, 20, ("May", "June", "July"), ())))
    made = ig.draft(folder.path)
    assert [group.sheets for group in made.plan.sources] == [("!August",), ("August",)]
    assert ig.assemble(made).rows == 30 and ig.assemble(made).status == 0
    folder.write("b.xlsx", books.xlsx(lambda book: fill(book, 20, ("May", "June", "August"), ("May",))))
    made = ig.draft(folder.path)
    outcome = ig.assemble(made)
    assert len(outcome.sources) == 6 and outcome.rows == 30 and outcome.status == 0, str(made)


# -- values


def typed_cells(book: Any) -> None:
    sheet = book.add_worksheet("May")
    form = {
        name: book.add_format({"num_format": code})
        for name, code in (
            ("day", "d/m/yy"),
            ("time", "hh:mm"),
            ("long", "[h]:mm:ss"),
            ("part", "0%"),
            ("text", "@"),
        )
    }
    sheet.write_row(0, 0, ["id", "n", "day", "moment", "time", "long", "part", "text", "flag"])
    for row in (1, 2):
        sheet.write_number(row, 0, 123456789012345)
        sheet.write_number(row, 1, 3.0 if row == 1 else 0.1)
        sheet.write_datetime(row, 2, dt.datetime(2024, 3, 28 + row), form["day"])
        sheet.write_datetime(row, 3, dt.datetime(2024, 5, row, 12 * (row - 1), 30 * (row - 1)), form["day"])
        sheet.write_datetime(row, 4, dt.time(7, 45), form["time"])
        sheet.write_number(row, 5, 1.5, form["long"])
        sheet.write_number(row, 6, 0.42, form["part"])
        sheet.write_string(row, 7, "007", form["text"])
        sheet.write_boolean(row, 8, row == 1)


@pytest.mark.parametrize("from_1904", [False, True])
def test_cells_by_type(folder, tmp_path, from_1904: bool) -> None:
    folder.write("a.xlsx", books.xlsx(typed_cells, date_1904=from_1904))
    ig.assemble(folder.path, to=tmp_path / "o.csv")
    assert (tmp_path / "o.csv").read_text().splitlines()[1:] == [
        "a.xlsx,May,2,123456789012345,3,2024-03-29,2024-05-01 00:00:00,07:45:00,36:00:00,0.42,007,true",
        "a.xlsx,May,3,123456789012345,0.1,2024-03-30,2024-05-02 12:30:00,07:45:00,36:00:00,0.42,007,false",
    ]
    types = {column.name: column.type for column in ig.draft(folder.path).plan.columns}
    assert (types["id"], types["n"], types["day"], types["moment"]) == (
        "integer",
        "number",
        "date",
        "datetime",
    )
    assert (types["text"], types["flag"]) == ("text", "boolean")


def test_dates_of_old_workbooks(folder) -> None:
    moment = dt.datetime(2024, 5, 1, 12, 30)
    folder.write("a.xls", books.xls([["lake", "seen"], ["Ambermere", moment]]))
    outcome = ig.assemble(plan_for(folder, ig.Column("lake"), ig.Column("seen", "datetime")))
    assert outcome.table["seen"].to_pylist() == [moment]


def test_numbers_stored_as_text_and_numbers_side_by_side(folder) -> None:
    rows = [["lake", "depth"], ["a", "1.234,5"], ["b", 1.234], ["c", "7,2"], ["d", 0.5], ["e", " 12 "]]
    folder.write("a.xlsx", books.sheets(May=rows))
    comma = ig.Layout(decimal_mark=",", thousands_mark=".")
    outcome = ig.assemble(plan_for(folder, layout=comma))
    assert outcome.table["depth"].to_pylist() == [1234.5, 1.234, 7.2, 0.5, 12.0]
    assert not outcome.problems
    assert ig.assemble(plan_for(folder)).table["depth"].to_pylist() == [None, 1.234, None, 0.5, 12.0]


def test_texts_with_commas_are_drafted_as_numbers(folder) -> None:
    rows = [["lake", "depth"], *([f"L{at}", f"1.{at:03},5"] for at in range(8))]
    folder.write("a.xlsx", books.sheets(May=rows))
    made = ig.draft(folder.path)
    assert (made.plan.sources[0].layout.decimal_mark, made.plan.sources[0].layout.thousands_mark) == (
        ",",
        ".",
    )
    assert ig.assemble(made).table["depth"].to_pylist() == [1000.5 + at for at in range(8)]


def test_errors_are_bad_values_also_among_texts(folder, tmp_path) -> None:
    def fill(book: Any) -> None:
        sheet = book.add_worksheet("May")
        sheet.write_row(0, 0, ["lake", "depth"])
        sheet.write_row(1, 0, ["Ambermere", 1])
        sheet.write_formula(2, 0, "=NA()", None, "#N/A")
        sheet.write(2, 1, 2)

    folder.write("a.xlsx", books.xlsx(fill))
    outcome = ig.assemble(plan_for(folder), to=tmp_path / "o.csv")
    (problem,) = outcome.problems
    assert (problem.code, problem.row, problem.column, problem.raw) == ("bad-value", 3, "lake", "#N/A")
    assert outcome.table["lake"].to_pylist() == ["Ambermere", None]
    known = plan_for(folder, ig.Column("lake", missing=["#N/A"]), ig.Column("depth", "number"))
    assert not ig.assemble(known).problems


def test_formulas_without_saved_values_are_no_blanks(folder) -> None:
    book = openpyxl.Workbook()
    sheet = book.active
    sheet.title = "May"
    for row in (["lake", "depth", "double"], ["Ambermere", 1, "=B2*2"], ["Vessel", 2, "=B3*2"]):
        sheet.append(row)
    book.save(folder.path / "a.xlsx")
    columns = (ig.Column("lake"), ig.Column("depth", "number"), ig.Column("double", "number"))
    outcome = ig.assemble(plan_for(folder, *columns))
    said = next(one for one in outcome.problems if one.code == "formulas-not-saved")
    assert (said.severity, said.row, said.column, said.raw, said.count) == ("error", 2, "C", "=B2*2", 2)
    bad = next(one for one in outcome.problems if one.code == "bad-value")
    assert (bad.column, bad.count, bad.raw) == ("double", 2, "#UNSAVED! =B2*2")
    assert outcome.status == 1 and outcome.table["depth"].to_pylist() == [1.0, 2.0]
    # with their values they are values, and an empty text is one too
    whole = books.xlsx(
        lambda book: [
            (sheet := book.add_worksheet("May")).write_row(0, 0, ["lake", "depth", "double"]),
            sheet.write_row(1, 0, ["Ambermere", 1]),
            sheet.write_formula(1, 2, "=B2*2", None, 2),
            sheet.write_row(2, 0, ["Vessel", 2]),
            sheet.write_formula(2, 2, '=""', None, ""),
        ]
    )
    folder.write(
        "a.xlsx",
        books.with_part(
            whole,
            "xl/worksheets/sheet1.xml",
            lambda part: part.replace(b'<c r="C3"><f>""</f>', b'<c r="C3" t="str"><f>""</f>'),
        ),
    )
    assert ig.assemble(plan_for(folder, *columns)).table["double"].to_pylist() == [2.0, None]


# -- what is none, or does harm


HTML = """<!DOCTYPE html><html><head><meta charset="utf-8"></head><body><p>Export</p><table>
<tr><th>lake</th><th>depth</th></tr><tr><td rowspan="2">Ambermere &amp; co</td><td>3,5</td></tr><tr><td> 4 </td></tr>
</table><table><tr><td>alone</td></tr></table></body></html>"""


def test_what_is_called_a_workbook_and_is_none(folder) -> None:
    folder.write("page.xls", HTML)
    folder.write("text.xlsx", 'lake,depth\nVessel,"1,50"\n')
    folder.write("empty.xlsx", b"")
    folder.write("zip.xlsx", _zip({"word/document.xml": b"<x/>"}))
    folder.write(
        "old.xls", b'<?xml version="1.0"?><Workbook xmlns="urn:schemas-microsoft-com:office:spreadsheet"/>'
    )
    folder.write("binary.xlsx", bytes(range(256)) * 8)
    outcome = ig.assemble(plan_for(folder, layout=ig.Layout(decimal_mark=",")))
    assert outcome.table["lake"].to_pylist() == ["Ambermere & co"] * 2 + ["Vessel"]
    assert outcome.table["depth"].to_pylist() == [3.5, 4.0, 1.5]
    assert outcome.table["sheet"].to_pylist() == ["table 1", "table 1", None]
    reasons = {account.source: account.reason for account in outcome.sources if account.reason}
    assert reasons == {
        "empty.xlsx": "empty-source",
        "zip.xlsx": "kind-not-read",
        "old.xls": "kind-not-read",
        "binary.xlsx": "kind-not-read",
    }
    assert sorted(told(outcome, "kind-differs")) == ["page.xls", "text.xlsx"]


def _zip(parts: dict[str, bytes]) -> bytes:
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in parts.items():
            archive.writestr(name, data)
    return file.getvalue()


def _renamed_stream(data: bytes) -> bytes:
    """An old workbook whose stream has the name that those under a password give it."""
    old, new = ("Workbook".encode("utf-16-le"), "EncryptedPackage".encode("utf-16-le"))
    at = data.index(old)
    entry = new.ljust(64, b"\0") + (len(new) + 2).to_bytes(2, "little")
    return data[:at] + entry + data[at + 66 :]


def test_protected_and_damaged_workbooks(folder) -> None:
    good, old = books.sheets(May=MAY), books.xls(MAY)
    folder.write("cut.xlsx", good[:-200])
    folder.write("start.xlsx", good[:1500])
    folder.write("cut.xls", old[: len(old) // 2])
    folder.write("locked.ods", books.ods("", encrypted=True))
    folder.write("locked.xls", old.replace(b"\x42\x00\x02\x00", b"\x2f\x00\x02\x00", 1))
    folder.write("locked.xlsx", _renamed_stream(old))
    folder.write("broken.xlsx", books.with_part(good, "xl/worksheets/sheet1.xml", lambda part: part[:300]))
    folder.write("good.xlsx", good)
    outcome = ig.assemble(plan_for(folder))
    assert outcome.rows == 2
    assert {account.source: account.reason for account in outcome.sources} == {
        "broken.xlsx/May": "unreadable",
        "cut.xls": "unreadable",
        "cut.xlsx": "unreadable",
        "good.xlsx/May": "",
        "locked.ods": "protected",
        "locked.xls": "protected",
        "locked.xlsx": "protected",
        "start.xlsx": "unreadable",
    }
    for problem in outcome.problems:
        assert problem.hint and "Error" not in problem.message, problem


def _stray(cell: str) -> bytes:
    def fill(book: Any) -> None:
        sheet = book.add_worksheet("May")
        for at, row in enumerate(MAY):
            sheet.write_row(at, 0, row)
        sheet.write(cell, "x")
        book.add_worksheet("June").write_row(0, 0, JUNE[0])
        book.get_worksheet_by_name("June").write_row(1, 0, JUNE[1])

    return books.xlsx(fill)


def test_stray_cells_neither_hang_nor_fill_the_memory(folder, monkeypatch) -> None:
    folder.write("corner.xlsx", _stray("XFD1048576"))
    folder.write("right.xlsx", _stray("XFD3"))
    outcome = ig.assemble(plan_for(folder))
    assert {account.source: account.reason for account in outcome.sources} == {
        "corner.xlsx/May": "stray-cells",
        "corner.xlsx/June": "",
        "right.xlsx/May": "",
        "right.xlsx/June": "same-content",
    }
    corner = next(one for one in outcome.problems if one.code == "stray-cells")
    assert "XFD1048576" in corner.message and corner.hint
    turn(monkeypatch, cells_of_a_book=1_000)
    (folder.path / "right.xlsx").unlink()
    folder.write("corner.xlsx", _stray("C900"))
    assert ig.assemble(plan_for(folder)).sources[0].reason == "stray-cells"


@pytest.mark.parametrize("quote", ['"', "'"])
def test_a_lie_about_the_size_helps_nobody(folder, quote: str) -> None:
    def lie(part: bytes) -> bytes:
        part = part.replace(b'<dimension ref="A1:XFD1048576"/>', b'<dimension ref="A1:B3"/>')
        return part.replace(b'"', quote.encode()) if quote != '"' else part

    folder.write("a.xlsx", books.with_part(_stray("XFD1048576"), "xl/worksheets/sheet1.xml", lie))
    assert ig.assemble(plan_for(folder)).sources[0].reason == "stray-cells"

    def back(part: bytes) -> bytes:
        return part.replace(b'r="3"', b'r="1"').replace(b'r="A3"', b'r="A1"').replace(b'r="B3"', b'r="B1"')

    folder.write("a.xlsx", books.with_part(books.sheets(May=MAY), "xl/worksheets/sheet1.xml", back))
    plan = plan_for(folder)
    ig.assemble(plan)

    def ahead(part: bytes) -> bytes:
        return part.replace(b'r="1"', b'r="900000"').replace(b'A1"', b'A900000"').replace(b'B1"', b'B900000"')

    far = books.with_part(books.sheets(May=MAY), "xl/worksheets/sheet1.xml", ahead)
    folder.write("a.xlsx", far)
    outcome = ig.assemble(plan)
    assert outcome.sources[0].reason == "unreadable" and "not in order" in outcome.problems[0].message


def test_a_bomb_is_set_aside(folder, monkeypatch) -> None:

    turn(monkeypatch, free_bytes_of_books=1 << 20)
    bomb = books.with_part(
        books.sheets(May=MAY), "xl/worksheets/sheet1.xml", lambda part: part + b" " * (8 << 20)
    )
    folder.write("a.xlsx", bomb)
    folder.write("b.xlsx", books.sheets(May=MAY))
    outcome = ig.assemble(plan_for(folder))
    assert [account.reason for account in outcome.sources] == ["unpacks-too-large", ""]


def test_random_damage_hurts_nobody(folder) -> None:
    chance = random.Random(5)
    whole = [books.xlsx(odd), books.xls(ROWS), books.xlsb(ROWS), books.ods(ODS)]
    for number in range(60):
        data = bytearray(whole[number % 4])
        for _ in range(chance.choice((1, 5, 40))):
            data[chance.randrange(len(data))] = chance.randrange(256)
        if chance.random() < 0.3:
            del data[chance.randrange(len(data)) :]
        folder.write(f"{number}.xlsx", bytes(data))
    folder.write("good.xlsx", books.sheets(May=MAY))
    outcome = ig.assemble(plan_for(folder))
    assert all(account.ledger.adds_up for account in outcome.sources)
    assert [account.reason for account in outcome.sources if account.source == "good.xlsx/May"] == [""]


# -- the run


def test_the_same_bytes_whatever_is_kept_and_whoever_works(folder, tmp_path, monkeypatch) -> None:
    folder.write("a.xlsx", books.sheets(May=MAY, June=JUNE))
    folder.write("b.xlsx", books.xlsx(odd))
    folder.write("c.xls", books.xls(ROWS))
    ig.draft(folder.path).save(tmp_path / "plan.toml")
    ig.assemble(tmp_path / "plan.toml", to=tmp_path / "one.csv")
    with ProcessPoolExecutor(2) as pool:
        ig.assemble(tmp_path / "plan.toml", to=tmp_path / "two.csv", executor=pool)
    keep = sheets._kept
    monkeypatch.setattr(sheets, "_kept", lambda read, scratch: keep(read, None))
    ig.assemble(tmp_path / "plan.toml", to=tmp_path / "three.csv")
    first = (tmp_path / "one.csv").read_bytes()
    assert first.count(b"\n") == 1 + 3 + 12 + 3
    assert (tmp_path / "two.csv").read_bytes() == first == (tmp_path / "three.csv").read_bytes()


def test_a_sheet_of_more_than_one_piece(folder, monkeypatch) -> None:

    turn(monkeypatch, piece=4_000)
    rows = [["lake", "depth"], *([f"L{at}", at / 4] for at in range(2_000))]
    folder.write("a.xlsx", books.sheets(May=rows))
    outcome = ig.assemble(plan_for(folder))
    assert outcome.table["source_row"].to_pylist() == list(range(2, 2_002))
    assert outcome.table["depth"].to_pylist() == [at / 4 for at in range(2_000)]


def test_the_demo_has_workbooks(tmp_path, integrum) -> None:
    integrum("demo", "lakes", "--data-only")
    ran = integrum("assemble", "lakes/field", "--to", "field.parquet")
    assert ran.returncode == 1, ran.stdout
    assert "not in the table: 1 cell of 1 column" in ran.stdout  # a division by zero
    assert "205 rows × 12 columns from 30 of 30 sources" in ran.stdout
    assert integrum("assemble", "lakes/field", "--to", "field.xlsx").returncode == 1
    assert (tmp_path / "field.xlsx").exists()


def test_made_up_sheets_are_found_out(folder) -> None:
    """From a survey to the table; the rest are sheets that a person would have to look at, too."""
    wrong = []
    for seed in range(5_000, 5_100):
        made = make_sheet(seed)
        path = folder.write("a.xlsx", made.data)
        try:
            draft = ig.draft(path)
        except ig.NothingFound:
            wrong.append((seed, "no table"))
            continue
        layout = draft.plan.sources[0].layout
        outcome = ig.assemble(draft)
        found = (layout.header_row, layout.header_rows, layout.units_row, outcome.rows)
        truth = (made.header_row, made.header_rows, made.units_row, made.rows)
        if found != truth or tuple(column.name for column in draft.plan.columns) != made.names:
            wrong.append((seed, f"{found} for {truth}"))
    assert len(wrong) <= 3, wrong


def test_a_column_without_a_name_has_the_letter_of_its_place(folder) -> None:
    rows = [["", "", "lake", "", "depth"], *(["", "", "Ambermere", f"x{at}", at] for at in range(6))]
    folder.write("a.xlsx", books.sheets(May=rows))
    made = ig.draft(folder.path)
    assert [column.name for column in made.plan.columns] == ["lake", "column D", "depth"]
    assert made.plan.sources[0].layout.first_column == "C"
    assert ig.assemble(made).table["column D"].to_pylist() == [f"x{at}" for at in range(6)]


def test_one_can_watch_workbooks_being_read(folder) -> None:
    folder.write("a.xlsx", books.sheets(May=MAY))
    folder.write("b.xlsx", books.sheets(June=JUNE))
    seen: list[str] = []
    ig.assemble(plan_for(folder), watch=lambda at: seen.append(at.source))
    assert seen[:2] == ["a.xlsx", "b.xlsx"] and set(seen[2:]) == {"a.xlsx/May", "b.xlsx/June"}


# -- the rules of a run hold for sheets as for files


def test_rows_of_sheets_are_set_aside_with_their_cells(folder, tmp_path) -> None:
    folder.write("a.xlsx", books.sheets(May=[*MAY, ["Vessel", "deep, very"], ["Hollow", 2.5]]))
    rules = {name: ig.Rules(bad_values=name) for name in ("set-row-aside", "set-source-aside")}
    plan = plan_for(folder)
    by_row = ig.assemble(
        ig.Plan(plan.sources, plan.columns, rules=rules["set-row-aside"]), to=tmp_path / "o.csv"
    )
    assert by_row.table["lake"].to_pylist() == ["Ambermere", "Quillon Tarn", "Hollow"]
    kept = (tmp_path / "o-record" / "set-aside.csv").read_text().splitlines()
    assert kept[1] == 'a.xlsx,May,4,depth,bad-value,"Vessel,""deep, very"""'
    whole = ig.assemble(ig.Plan(plan.sources, plan.columns, rules=rules["set-source-aside"]))
    assert whole.sources[0].reason == "bad-value" and whole.rows == 0


def test_layout_keys_that_say_nothing_about_sheets(folder) -> None:
    folder.write("a.xlsx", books.sheets(May=[*MAY, ["Grüner See; 'x'", 5]]))
    folder.write("b.csv", "lake;depth\nHollow;2\n".encode("utf-16"))
    layout = ig.Layout(encoding="utf-16", delimiter=";", quote="'", escape="\\")
    outcome = ig.assemble(plan_for(folder, layout=layout))
    assert outcome.table["lake"].to_pylist() == ["Ambermere", "Quillon Tarn", "Grüner See; 'x'", "Hollow"]


def test_comments_entries_and_headers_of_sheets_as_the_plan_says(folder, tmp_path) -> None:
    rows = [
        ["Site:", "Ambermere"],
        ["Serial No: 00417"],
        [],
        ["Lake", "Depth (m)"],
        ["# moved"],
        ["A", 1],
        ["A", 2],
    ]
    folder.write("a.xlsx", books.sheets(May=[*rows, ["Total", 3], ["checked"]]))
    layout = ig.Layout(
        header_has=["depth"],
        comment_mark="#",
        footer_from="Total",
        capture={"site": "Site", "serial": "Serial No"},
    )
    columns = (ig.Column("lake"), ig.Column("depth", "integer", also=["Depth (m)"]))
    outcome = ig.assemble(plan_for(folder, *columns, layout=layout), to=tmp_path / "o.csv")
    assert outcome.table.to_pylist() == [
        {
            "source": "a.xlsx",
            "sheet": "May",
            "source_row": row,
            "site": "Ambermere",
            "serial": "00417",
            "lake": "A",
            "depth": row - 5,
        }
        for row in (6, 7)
    ]
    ledger = outcome.sources[0].ledger
    assert (ledger.preamble, ledger.blank, ledger.comment, ledger.footer) == (2, 1, 1, 2)
    assert "Serial No,00417" in (tmp_path / "o-record" / "preamble.csv").read_text()


def test_a_sheet_without_a_header_by_position(folder) -> None:
    def fill(book: Any) -> None:
        sheet = book.add_worksheet("May")
        for at in range(4):
            sheet.write_row(at + 2, 2, ["Ambermere", "", at])

    folder.write("a.xlsx", books.xlsx(fill))
    layout = ig.Layout(header_row="none", header=["lake", "gap", "depth"], first_row=3, first_column="C")
    outcome = ig.assemble(plan_for(folder, layout=layout))
    assert outcome.table["depth"].to_pylist() == [0.0, 1.0, 2.0, 3.0]
    assert outcome.table["lake"].to_pylist() == ["Ambermere"] * 4


def test_files_and_sheets_with_the_same_header_are_one_group(folder) -> None:
    folder.write("a.xlsx", books.sheets(May=MAY, June=JUNE))
    folder.write("b.csv", "lake,depth\nHollow,1.50\n")
    made = ig.draft(folder.path)
    assert len(made.plan.sources) == 1 and made.plan.sources[0].layout == ig.Layout()
    assert ig.assemble(made).rows == 4


def test_a_workbook_that_changes_on_the_way_is_set_aside(folder, monkeypatch) -> None:
    path = folder.write("a.xlsx", books.sheets(May=MAY))
    folder.write("b.xlsx", books.sheets(May=JUNE))
    original = sheets.unfold

    def then_changed(*args: Any, **more: Any) -> Any:
        found = original(*args, **more)
        path.write_bytes(books.sheets(May=[*MAY, ["new", 1]]))
        return found

    monkeypatch.setattr(sheets, "unfold", then_changed)
    outcome = ig.assemble(plan_for(folder))
    assert [account.reason for account in outcome.sources] == ["source-changed", ""]


def test_several_tables_of_a_page(folder) -> None:
    table = "<table><tr><th>lake<th>depth</tr>{}</table>"
    rows = "<tr><td>A<td colspan='1'>1</tr><tr><td>B<br>2</td><td>&lt;2</td></tr>"
    folder.write(
        "page.xls",
        f"<html>{table.format(rows)}<table><tr><td>menu</td></tr></table>{table.format(rows)}</html>",
    )
    outcome = ig.assemble(plan_for(folder, sheets="table 1"))
    assert outcome.table["lake"].to_pylist() == ["A", "B 2"]
    assert [one.raw for one in outcome.problems if one.code == "bad-value"] == ["<2"]


def test_a_survey_says_what_is_beside_and_what_is_wrong(folder, integrum) -> None:
    folder.write("a.xlsx", books.xlsx(odd))
    folder.write("b.xlsx", books.xls(ROWS))
    seen = integrum("survey", "in").stdout
    assert "header in row 4, 2 header rows, units below, footer from Mean, from column C, to column J" in seen
    assert '1 error of a spreadsheet, first "#DIV/0!" in b.xlsx/May, row 3: no value in the table' in seen
    data = json.loads(integrum("survey", "in", "--json").stdout)
    assert [source["sheet"] for source in data["sources"]] == ["May", "May"]
    assert integrum("assemble", "in", "--to", "o.csv", "--strict").returncode == 1


@pytest.mark.parametrize("chunk", [17, 40, 101, 1 << 24])
def test_the_cells_of_a_long_sheet_are_counted_once_however_it_is_cut(chunk: int, monkeypatch) -> None:
    from integrum.workbooks import xlsx

    turn(monkeypatch, bytes_of_xlsx=chunk)
    rows = range(99_980, 100_120)
    cells = "".join(
        f'<row r="{row}"><c r="A{row}"><v>1</v></c><c r="ZZ{row}"><v>2</v></c></row>' for row in rows
    )
    found = xlsx._reach(f"<sheetData>{cells}</sheetData>".encode())
    assert found.in_order and (found.rows, found.columns, found.cells) == (100_119, 702, 280)
