"""Every line that is not in the table is in the record, and says so when it reads like the data."""

import csv
from pathlib import Path

import openpyxl
import pytest

import integrum as ig
from integrum.intake.judging import Likeness
from integrum.reading.parts import FOOTER, HEADER, PREAMBLE, UNITS
from knobs import turn

FILE = """Logger export
Serial No: 00417

day,depth,lake
,m,
2024-05-01,3.2,Ambermere
# sensor cleaned
2024-05-02,3.3,Ambermere
day,depth,lake
2024-05-03,3.4
Total,9.9,
Signed
"""
PARTS = [
    ("1", "preamble", "Logger export"),
    ("2", "preamble", "Serial No: 00417"),
    ("4", "header", "day,depth,lake"),
    ("5", "units", ",m,"),
    ("7", "comment", "# sensor cleaned"),
    ("9", "repeated-header", "day,depth,lake"),
    ("10", "set-aside", "2024-05-03,3.4"),
    ("11", "footer", "Total,9.9,"),
    ("12", "footer", "Signed"),
]
COLUMNS = [ig.Column("day", "date"), ig.Column("depth", "number"), ig.Column("lake")]


def plan(folder, columns=COLUMNS, **layout: object) -> ig.Plan:
    return ig.Plan([ig.Sources(str(folder.path), layout=ig.Layout(**layout))], columns)


def left_out(outcome: ig.Outcome) -> list[tuple[str, ...]]:
    with open(outcome.record / "left-out.csv", encoding="utf-8", newline="") as file:
        return [tuple(row.values()) for row in csv.DictReader(file)]


def told(found: ig.Outcome | ig.Survey, code: str) -> list[tuple[str, int | None, str, int]]:
    return [(one.source, one.row, one.raw, one.count) for one in found.problems if one.code == code]


def test_every_line_is_in_the_table_or_in_the_record(folder, tmp_path) -> None:
    folder.write("a.csv", FILE)
    folder.write("b.csv", "no such header\n1\n")
    layout = {"header_row": 4, "units_row": True, "footer_from": "Total", "comment_mark": "#"}
    outcome = ig.assemble(plan(folder, **layout), to=tmp_path / "o.csv")
    assert left_out(outcome) == [
        *(("a.csv", "", *part) for part in PARTS),
        ("b.csv", "", "", "set-aside", ""),
    ]
    ledger = outcome.sources[0].ledger
    assert ledger.rows == ledger.data + ledger.blank + len(PARTS)
    record = ig.read_record(outcome.record)
    assert [(one.source, str(one.row), one.part, one.raw) for one in record.left_out[:-1]] == [
        ("a.csv", *part) for part in PARTS
    ]
    in_memory = ig.assemble(plan(folder, **layout))
    assert [(one.source, one.row, one.part, one.raw) for one in in_memory.left_out] == [
        (one.source, one.row, one.part, one.raw) for one in record.left_out
    ]


def test_outputs_by_identifier_and_long_preambles(folder, tmp_path, monkeypatch) -> None:
    turn(monkeypatch, kept_above=50)
    top = "".join(f"line {at} of a long preamble\n" for at in range(40))
    for name in ("quillon", "amber", "quillon 2"):
        folder.write(f"{name}.csv", f"{top}n,x\n1,{name}\nTotal,1\n")
    group = ig.Sources(
        str(folder.path), ids="{lake}.csv", layout=ig.Layout(header_row=41, footer_from="Total")
    )
    outcome = ig.assemble(
        ig.Plan([group], [ig.Column("n", "integer"), ig.Column("x")]), to=tmp_path / "{lake}.csv"
    )
    rows = left_out(outcome)
    assert len(rows) == 3 * 42
    assert [row[0] for row in rows] == [
        name for name in ("amber.csv", "quillon.csv", "quillon 2.csv") for _ in range(42)
    ]
    assert rows[39][2:] == ("40", "preamble", "line 39 of a long preamble")
    assert [row[3] for row in rows[40:42]] == ["header", "footer"]


@pytest.mark.parametrize("piece", [30, 4 << 20])
@pytest.mark.parametrize("encoding", ["utf-8", "utf-16"])
def test_a_footer_longer_than_a_piece_is_kept_line_by_line(
    folder, tmp_path, monkeypatch, piece: int, encoding: str
) -> None:

    turn(monkeypatch, piece=piece)
    below = [f"note {at} with some text" for at in range(30)]
    folder.write("a.csv", "\n".join(["n,x", "1,a", "2,b", "Total", *below]).encode(encoding))
    made = plan(folder, [ig.Column("n", "integer"), ig.Column("x")], footer_from="Total", encoding=encoding)
    outcome = ig.assemble(made, to=tmp_path / "o.csv")
    assert [row[2:] for row in left_out(outcome)] == [
        ("1", "header", "n,x"),
        *((str(at + 4), "footer", text) for at, text in enumerate(["Total", *below])),
    ]


@pytest.mark.parametrize(
    ("text", "layout", "row", "raw", "count"),
    [
        ("site,depth\nAmbermere,2.5\nMean,2\nQuillon,3\n", {"footer_from": "Mean"}, 4, "Quillon,3", 1),
        ("site,depth\nAmbermere,2.5\n#A1,2\n#A2,4\n", {"comment_mark": "#"}, 3, "#A1,2", 2),
        ("site,depth\n# Ambermere,2.5\nQuillon,2\n", {"comment_mark": "#"}, 2, "# Ambermere,2.5", 1),
        ("site,depth\nAmbermere,2.5\nQuillon,2\n", {"units_row": True}, 2, "Ambermere,2.5", 1),
        ("site,depth\nx,1\nVessel,3.5\nQuillon,2\n", {"last_row": 3}, 4, "Quillon,2", 1),
        ("Ambermere,2.5\nVessel,3.5\nQuillon,2\n", {"header_row": 1}, 1, "Ambermere,2.5", 1),
        ("a,b,site,depth\n1,2,x,4\nsite,depth,x,y\n3,5,x,5\n", {"header_row": 3}, 2, "1,2,x,4", 1),
    ],
)
def test_what_is_left_out_and_reads_like_data_is_a_warning(folder, text, layout, row, raw, count) -> None:
    folder.write("a.csv", text)
    made = ig.Plan([ig.Sources(str(folder.path), layout=ig.Layout(**layout))], rules=ig.Rules("keep"))
    guesses = made.sources[0].layout == ig.Layout()  # then a survey finds that there is no header
    for found in (ig.assemble(made), *(() if guesses else (ig.survey(made),))):
        assert told(found, "left-out-like-data") == [("a.csv", row, raw, count)]


@pytest.mark.parametrize(
    ("text", "layout"),
    [
        (FILE, {"header_row": 4, "units_row": True, "footer_from": "Total", "comment_mark": "#"}),
        ("site,1960,1961\nAmbermere,2.5,3\nQuillon,3,4\n", {}),
        ("a,b\n1,2\n3,4\nMean,3\n", {"footer_from": "Mean"}),
        ("Serial,417\nOperator,3\nday,depth\n2024-05-01,3\n", {"header_row": 3}),
        ("name,sort\nx,y\nname,sort\nz,w\n", {}),
    ],
)
def test_what_is_rightly_left_out_is_no_warning(folder, text: str, layout: dict[str, object]) -> None:
    folder.write("a.csv", text)
    made = ig.Plan([ig.Sources(str(folder.path), layout=ig.Layout(**layout))], rules=ig.Rules("keep"))
    assert told(ig.assemble(made), "left-out-like-data") == []


def test_a_source_without_rows_and_a_guess_that_leaves_out_much_are_warnings(folder) -> None:
    folder.write("a.csv", "day,depth\n")
    folder.write("b.csv", "day,depth\n# a\n2024-05-01,1\n# b\n2024-05-02,2\n# c\n2024-05-03,2\n")
    seen = ig.survey(folder.path)
    assert told(seen, "no-data-rows") == [("a.csv", None, "", 1)]
    (problem,) = [one for one in seen.problems if one.code == "much-left-out"]
    assert (problem.source, problem.message) == (
        "b.csv",
        "3 of 6 rows below the header are left out: 3 comments",
    )
    outcome = ig.assemble(folder.path)
    assert {one.code for one in outcome.problems} == {"no-data-rows", "much-left-out"}
    assert outcome.status == 0


def test_likeness_knows_kinds_widths_and_series() -> None:
    rows = Likeness.of([["A", "B", "C"], ["1.5", "2", "n/a"], ["2024-05-01", "2024-05-02", ""]])
    assert rows.kinds == {1: "number", 2: "time"}
    assert rows.fits(["D", "7", "2024-06-01"], FOOTER)
    assert rows.fits(["D", "7", "2024-06-01", ""], FOOTER)
    assert not rows.fits(["D", "7"], FOOTER)
    assert not rows.fits(["", "", ""], FOOTER)
    assert not rows.fits(["Total", "7", ""], FOOTER)
    assert rows.fits(["D", "7", "2024-06-01"], HEADER)
    assert not rows.fits(["site", "depth", "2024-06-01"], HEADER)
    assert not rows.fits(["", "m", "UTC"], UNITS)
    assert not rows.fits(["Serial", "7", "x"], PREAMBLE)


def test_readme_of_the_record_names_every_part() -> None:
    from integrum.reading.parts import PARTS

    text = (Path(__file__).parents[1] / "docs" / "record.md").read_text(encoding="utf-8")
    assert all(f"`{part}`" in text for part in PARTS if part.is_kept)


def test_cells_beside_the_table_of_a_sheet_are_in_the_record(folder, tmp_path) -> None:
    book = openpyxl.Workbook()
    sheet = book.active
    for row in (
        ["day", "depth", None, "key", "means"],
        ["2024-05-01", 3.2, None, "a", "=clear"],
        ["2024-05-02", 3.3],
    ):
        sheet.append(row)
    book.save(folder.path / "a.xlsx")
    columns = [ig.Column("day", "date"), ig.Column("depth", "number")]
    outcome = ig.assemble(plan(folder, columns, last_column="B"), to=tmp_path / "o.csv")
    assert [row for row in left_out(outcome) if row[3] == "beside-the-table"][:1] == [
        ("a.xlsx", "Sheet", "1", "beside-the-table", "key, means")
    ]


@pytest.mark.parametrize("piece", [25, 4 << 20])
def test_a_footer_that_cuts_data_is_told_wherever_pieces_end(folder, monkeypatch, piece: int) -> None:

    turn(monkeypatch, piece=piece)
    rows = [f"Amber,{at}.5" for at in range(20)]
    folder.write("a.csv", "\n".join(["site,depth", *rows[:8], "Mean,4", *rows[8:]]) + "\n")
    made = plan(folder, [ig.Column("site"), ig.Column("depth", "number")], footer_from="Mean")
    for found in (ig.assemble(made), ig.survey(made)):
        assert told(found, "left-out-like-data") == [("a.csv", 11, "Amber,8.5", 12)]


def test_a_longer_row_of_the_footer_that_reads_like_data_is_said(folder) -> None:
    data = "".join(f"2024-05-0{at},{at}.5,ok\n" for at in range(1, 9))
    folder.write(
        "a.csv",
        f"day,depth,remark\n{data}Total 5,2024-05-09,9.5\n2024-05-09,9.5,ok,again,x\nnote, one, two, three\n",
    )
    columns = [ig.Column("day", "date"), ig.Column("depth", "number"), ig.Column("remark")]
    outcome = ig.assemble(plan(folder, columns, footer_from="Total 5"))
    assert [(one.code, one.row) for one in outcome.problems] == [("left-out-like-data", 11)]


def test_a_header_that_is_taken_for_a_preamble_is_said(folder) -> None:
    for name, top in (("a", "day,depth,remark,by"), ("b", "Logger 7,3.5"), ("c", "by,by,by,by")):
        folder.write(f"{name}.csv", f"{top}\n2024-05-01,{len(name)}.5\n2024-05-02,{ord(name)}\n")
    columns = [ig.Column("day", "date", also=["column 1"]), ig.Column("depth", "number", also=["column 2"])]
    outcome = ig.assemble(plan(folder, columns, header_row="none", first_row=2))
    said = [(one.source, one.row, one.raw) for one in outcome.problems if one.code == "header-in-preamble"]
    assert said == [("a.csv", 1, "day,depth,remark,by")]
