"""Faults planted in the demo data: each is reported at its very place, and the rest of the table is right to the cell."""

import datetime as dt
import os
import warnings
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

import books
import integrum as ig
from integrum.demo.lakes import write_demo
from planted import Bed, joined, workbook, zipped

LAB = "sample,lake,sampled,total_phosphorus,chlorophyll_a,turbidity"


@pytest.fixture(scope="module")
def demo(tmp_path_factory) -> Path:
    return write_demo(tmp_path_factory.mktemp("demo") / "lakes")


def bed_of(demo: Path, part: str, **group: Any) -> Bed:
    draft = ig.draft(demo / part)
    draft.accept(0.9)
    plan = draft.plan
    return Bed(demo / part, replace(plan, sources=[replace(plan.sources[0], **group)]) if group else plan)


def planted_loggers(demo: Path) -> Bed:
    bed = bed_of(demo, "loggers", ids="{lake}_{month}_{serial}.csv")
    amb, hollow, quillon = "ambermere/ambermere_", "hollow-water/hollow-water_", "quillon-tarn/quillon-tarn_"
    # cells
    bed.cell(f"{amb}2024-04_00417.csv", 20, 1, "warm", "bad-value", "water_temp")
    bed.cell(f"{amb}2024-05_00417.csv", 21, 0, "2024-05-44 00:00", "bad-value", "date_time")
    bed.cell(f"{amb}2024-06_00417.csv", 22, 2, "2..4", "bad-value", "depth")
    bed.cell(f"{amb}2024-07_00417.csv", 23, 3, "#REF!", "bad-value", "oxygen")
    bed.cell(f"{amb}2024-07_00417.csv", 24, 3, "n/a", "", "oxygen")
    bed.cell(f"{amb}2024-08_00417.csv", 25, 3, "-", "bad-value", "oxygen")
    bed.cell(f"{amb}2024-09_00417.csv", 26, 4, "3;6", "bad-value", "battery")
    bed.cell(f"{quillon}2024-04_00448.csv", 9, 1, "1e", "bad-value", "water_temp")
    bed.cell(f"{quillon}2024-05_00448.csv", 9, 0, "31/12/2024 10:00", "bad-value", "date_time")
    # rows
    bed.row(f"{quillon}2024-06_00448.csv", 30, "2024-06-05 20:00,1,2,3", "row-too-long")
    bed.row(f"{quillon}2024-08_00448.csv", 31, "2024-08-06", "row-too-short")
    bed.row(f"{quillon}2024-09_00448.csv", 32, '2024-09-06 00:00,"2.4"0,18.9,8.0,3.6', "text-after-quote")
    bed.lines(f"{hollow}2024-07_00510.csv", lambda lines: lines.insert(40, lines[0]))
    name = f"{hollow}2024-07_00510.csv"
    moved = {key: row for key, row in bed.expected.items() if key[0] == name and key[2] > 40}
    for key in moved:
        del bed.expected[key]
    bed.expected |= {(name, "", key[2] + 1): row for key, row in moved.items()}
    bed.says("repeated-header", name)
    # whole sources
    header = "date_time,water_temp,depth\n"
    bed.new("ambermere/ambermere_2024-10_00417.csv", "", "empty-source")
    bed.new("ambermere/ambermere_2024-11_00417.csv", "<!DOCTYPE html><html></html>", "not-a-table")
    bed.new("hollow-water/extra_names_in_it_x.csv", header + "2024-10-01 00:00,7,2\n", rows={
        2: {"date_time": dt.datetime(2024, 10, 1), "water_temp": 7.0, "depth": 2.0}
    })  # fmt: skip
    bed.new("quillon-tarn/nothing.csv", header + "2024-10-01 04:00,8,2\n", "path-does-not-fit", rows={
        2: {"date_time": dt.datetime(2024, 10, 1, 4), "water_temp": 8.0, "depth": 2.0}
    })  # fmt: skip
    bed.new("quillon-tarn/notes.docx", b"PK", "passed-over")
    bed.says("few-rows", "hollow-water/extra_names_in_it_x.csv")
    bed.says("path-does-not-fit", "hollow-water/extra_names_in_it_x.csv")
    bed.says("few-rows", "quillon-tarn/nothing.csv")
    # the plan
    find = [*bed.plan.sources[0].find, str(demo / "loggers" / "october")]
    bed.group(find=find, labels={"gone.csv": "x"})
    bed.says("nothing-found", find[1])
    bed.says("label-unused", "gone.csv")
    bed.column(
        "depth",
        also=[
            *next(one for one in bed.plan.columns if one.name == "depth").also,
            ig.Also("D", in_="2019/**"),
        ],
    )
    bed.says("place-unmatched")
    bed.change(columns=[*bed.plan.columns, ig.Column("conductivity", "number")])
    bed.says("column-nowhere", column="conductivity")
    for row in bed.expected.values():
        row["conductivity"] = None
    return bed


def planted_lab(demo: Path) -> Bed:
    bed = bed_of(demo, "lab")
    day = dt.date(2025, 1, 2)
    row = {
        "sample": "990001",
        "lake": "Ambermere",
        "sampled": day,
        "TP (µg/L)": 4.0,
        "chlorophyll_a": 5.0,
        "turbidity": 6.0,
    }
    line = "{},Ambermere,2025-01-02,4,5,6"

    def small(number: int, header: str = LAB, more: str = "", at: int = 2) -> dict[str, Any]:
        text = joined([header, line.format(990000 + number) + more])
        return {"content": text, "rows": {at: row | {"sample": str(990000 + number)}}}

    # sources that cannot come in
    bed.new("z01.csv", "", "empty-source")
    bed.new("z02.csv", "<!DOCTYPE html><html><body></body></html>", "not-a-table")
    bed.new("z03.csv", b"PK\x03\x04\x00\x01\x02\x03" * 20, "not-a-table")
    bed.new("z04.csv", f"{LAB}\n".encode() + "990004,H\u00f6llensee,2025-01-02,4,5,6\n".encode("cp1252"))
    bed.says("bytes-not-valid", "z04.csv", 2)
    bed.new("z05.csv", f'{LAB}\n990005,"Ambermere,2025-01-02,4,5,6\n')
    bed.says("quote-not-closed", "z05.csv", 2)
    bed.new("z06.csv", "station,value\nnorth,3\n")
    bed.says("required-missing", "z06.csv", column="lake")
    bed.says("unlisted-header", "z06.csv", column="station")
    bed.says("unlisted-header", "z06.csv", column="value")
    bed.new("z07.csv", ",,\n1,2,3\n")
    bed.says("no-header", "z07.csv", 1)
    bed.new("z08.csv", f"{LAB},Sample No\n990008,Ambermere,2025-01-02,4,5,6,990008\n")
    bed.says("header-claimed-twice", "z08.csv", column="sample")
    bed.new("z09.csv", "sample,sampled,TP (µg/L)\n990009,2025-01-02,4\n")
    bed.column("lake", required=True)
    bed.says("required-missing", "z09.csv", column="lake")
    bed.column("turbidity", unit="m", also=["Turbidity", "turbidity (mg/L)"])
    bed.new("z10.csv", LAB.replace("turbidity", "turbidity (mg/L)") + "\n990010,Ambermere,2025-01-02,4,5,6\n")
    bed.says("unit-differs", "z10.csv", column="turbidity")
    (bed.folder / "z11.csv").write_bytes((bed.folder / "batch3.csv").read_bytes())
    bed.says("same-content", "z11.csv")
    bed.new("z12.zip", b"PK\x03\x04 not really", "unreadable")
    # sources that come in, with something to say
    bed.new("z20.csv", **small(20, LAB.replace("lake", "LAKE")))
    bed.says("header-spelling", "z20.csv", column="lake")
    bed.new("z21.csv", **small(21, LAB + ",battery", ",3.6"))
    bed.says("unlisted-header", "z21.csv", column="battery")
    bed.new("z22.csv", **small(22, LAB + ",chl_probe", ",3.6"))
    bed.column("chlorophyll_a", maybe=[ig.Maybe("chl_probe", 0.7)])
    bed.says("header-guessed", "z22.csv", column="chl_probe")
    bed.new("z23.csv", **small(23, LAB + ",lake", ",x"))
    bed.says("header-cell-repeated", "z23.csv", 1)
    bed.says("unlisted-header", "z23.csv", column="lake (2)")
    bed.new(
        "z24.csv", "," + LAB + "\n1,990024,Ambermere,2025-01-02,4,5,6\n", rows={2: row | {"sample": "990024"}}
    )
    bed.says("header-cell-empty", "z24.csv", 1)
    bed.says("unlisted-header", "z24.csv", column="column 1")
    bed.new("z25.csv", f"{LAB}\n990025,Amber\0mere,2025-01-02,4,5,6\n", "nul-bytes", rows={
        2: row | {"sample": "990025", "lake": "Amber\0mere"}
    })  # fmt: skip
    bed.new("z26.csv", f"{LAB}\n\n", "no-data-rows")
    bed.new(
        "z27.csv",
        f"{LAB}\n990027,Ambermere,2025-01-02,4,5,6",
        "file-cut-off",
        rows={2: row | {"sample": "990027"}},
    )
    bed.due[-1] = ("file-cut-off", "z27.csv", 2, "")
    bed.new("z28.zip", zipped(("june.csv", joined([LAB, line.format(990028)])), ("../july.csv", "x\n1\n")))
    bed.expected["z28.zip/june.csv", "", 2] = dict.fromkeys(bed.names) | row | {"sample": "990028"}
    bed.says("unsafe-name", "z28.zip/../july.csv")
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        both = zipped(
            ("june.csv", joined([LAB, line.format(1)])), ("june.csv", joined([LAB, line.format(990029)]))
        )
    bed.new("z29.zip", both)
    bed.expected["z29.zip/june.csv", "", 2] = dict.fromkeys(bed.names) | row | {"sample": "990029"}
    bed.says("same-name", "z29.zip/june.csv")
    (bed.folder / "z30").mkdir()
    ig.assemble(
        ig.Sources(str(bed.folder / "batch1.csv"), layout=bed.plan.sources[0].layout),
        bed.folder / "z30" / "all.csv",
    )
    bed.says("own-work", "z30/all.csv")
    with open(os.fsencode(bed.folder) + b"/z31\xe4.csv", "wb") as file:
        file.write(joined([LAB, line.format(990031)]).encode())
    bed.expected["z31\\xe4.csv", "", 2] = dict.fromkeys(bed.names) | row | {"sample": "990031"}
    bed.says("name-not-unicode", "z31\\xe4.csv")
    lines = [line.format(990032), "Total samples: 1", line.format(990033)]
    bed.new("z32.csv", joined([LAB, *lines]), rows={2: row | {"sample": "990032"}})
    bed.says("left-out-like-data", "z32.csv", 4)
    lines = [f"{990100 + at},Ambermere,2025-01-02,{5000 + 900 * at},5,6" for at in range(20)]
    bed.new("z33.csv", joined([LAB, *lines]), rows={
        at + 2: row | {"sample": str(990100 + at), "TP (µg/L)": 5000.0 + 900 * at} for at in range(20)
    })  # fmt: skip
    bed.says("range-apart", "z33.csv", column="TP (µg/L)")
    bed.new(
        "z34.csv",
        f"{LAB}\n990034,Ambermere,2025-01-02,<3,5,6\n",
        rows={2: row | {"sample": "990034", "TP (µg/L)": 3.0, "TP_flag": "<"}},
    )
    # checks
    serials = bed.folder.parent / "lakes.csv"
    serials.write_text("lake\nAmbermere\nBrindlemere\nHollow Water\nQuillon Tarn\nVessel Lake\nLost Lake\n")
    bed.change(checks=[
        ig.Check(column="lake", listed=str(serials), both_ways=True, severity="warning"),
        ig.Check(column="TP (µg/L)", range=[0, 1000]),
        ig.Check(column="sample", match="[0-9]{6}"),
        ig.Check(unique=["sample"]),
        ig.Check(rows=[1, 25]),
        ig.Check(sources=[0, 12]),
        ig.Check(column="nitrate", filled=0.9),
        ig.Check(complete=["lake"], values={"lake": ["Lost Lake"]}),
        ig.Check(column="lake", allowed=["Ambermere", "Brindlemere", "Hollow Water", "Quillon Tarn", "Vessel Lake"]),
    ])  # fmt: skip
    bed.says("not-in-list", "z25.csv", 2, "lake")
    bed.says("listed-but-missing", column="lake")
    bed.says("out-of-range", "z33.csv", 2, "TP (µg/L)")
    bed.says("number-of-sources")
    bed.says("too-few-filled", column="nitrate")
    bed.says("combination-missing")
    bed.says("not-allowed", "z25.csv", 2, "lake")
    bed.says("rows-per-source", "z26.csv")
    return bed


def planted_gauges(demo: Path) -> Bed:
    bed = bed_of(demo, "gauges")
    bed.cell("gauge_ambermere.csv", 5, 1, "2024-02-30", "bad-value", "day")
    bed.cell("gauge_ambermere.csv", 6, 2, "25:00", "bad-value", "clock")
    bed.cell("gauge_brindlemere.csv", 7, 5, "perhaps", "bad-value", "ice")
    bed.cell("gauge_brindlemere.csv", 8, 3, "n/a", "", "level (m)")
    for row in range(2, 40):
        bed.cell("gauge_hollow-water.csv", row, 4, "dry", "", "outflow (L/s)")
    bed.column("outflow (L/s)", bad_share=0.2)
    bed.says("bad-share", "gauge_hollow-water.csv", column="outflow (L/s)")
    bed.lines("gauge_vessel-lake.csv", lambda lines: lines.__setitem__(10, lines[9]))
    bed.expected["gauge_vessel-lake.csv", "", 11] = bed.expected["gauge_vessel-lake.csv", "", 10]
    text = (bed.folder / "gauge_ambermere.csv").read_text().splitlines()
    bed.new("gauge_ambermere_again.csv", joined([text[0], *text[50:]]), rows={
        at + 2: dict(bed.expected["gauge_ambermere.csv", "", 51 + at]) for at in range(len(text) - 50)
    })  # fmt: skip
    bed.new("other.csv", "x,y\n1,2\n", "no-layout-fits")
    bed.change(checks=[
        ig.Check(unique=["gauge", "day"]),
        ig.Check(in_one_source="all", severity="warning"),
        ig.Check(column="day", follow="1 d", within=["gauge"]),
        ig.Check(column="day", steady="3 d", within=["gauge"], severity="note"),
    ])  # fmt: skip
    bed.says("not-unique", "gauge_ambermere_again.csv", 2)
    bed.says("rows-in-two-sources", "gauge_ambermere_again.csv", 2)
    bed.says("not-unique", "gauge_vessel-lake.csv", 11)
    bed.says("row-in-two-sources", "gauge_ambermere_again.csv", 2)
    bed.says("sources-overlap", "gauge_ambermere_again.csv", column="day")
    bed.says("time-not-steady", "gauge_ambermere.csv", 6, "day")
    bed.says("time-not-steady", "gauge_ambermere_again.csv", 2, "day")
    bed.says("time-not-steady", "gauge_vessel-lake.csv", 11, "day")
    return bed


def planted_field(demo: Path) -> Bed:
    bed = bed_of(demo, "field")
    name = "field-visits_ambermere_2024.xlsx"

    def change(book: Any) -> None:
        sheet = book["May"]
        sheet["F5"] = "cold"
        sheet["E6"] = "#N/A"
        sheet["D7"] = sheet["D7"].value
        sheet["N5"] = "calibrated"

    workbook(bed.folder / name, change)
    for row, column in ((5, "Surface Temp (°C)"), (6, "Secchi (m)")):
        bed.expected[name, "May", row][column] = None
        bed.says("bad-value", f"{name}/May", row, column)
    bed.says("beside-the-table", f"{name}/May", 5, "N")
    may = [["", "Visits"], [], [None, *[None] * 4, "Surface", None, "Bottom"], [None, *bed_header()]]
    bed.new("locked.ods", books.ods("", encrypted=True), "protected")
    bed.new("other.xlsx", books.sheets(May=[["x"], [], ["", "station", "value"], [], ["", "north", 3]]))
    bed.says("passed-over", "other.xlsx/May")
    bed.says("no-table", "other.xlsx")
    bed.new("binary.xlsx", bytes(range(256)) * 8, "kind-not-read")
    bed.new("cover.xlsx", books.sheets(Cover=[["x"]]), "no-table")
    bed.new("web.xlsx", "<!DOCTYPE html><html><body><p>log in</p></body></html>")
    bed.says("kind-differs", "web.xlsx")
    bed.says("no-table", "web.xlsx")

    def stray(book: Any) -> None:
        sheet = book.add_worksheet("May")
        for at, cells in enumerate(may):
            sheet.write_row(at, 0, ["" if cell is None else cell for cell in cells])
        sheet.write("XFD1048576", "x")

    bed.new("stray.xlsx", books.xlsx(stray))
    bed.says("stray-cells", "stray.xlsx/May", 1_048_576)

    def merged(book: Any) -> None:
        sheet = book.add_worksheet("May")
        for at, cells in enumerate(may):
            sheet.write_row(at, 0, ["" if cell is None else cell for cell in cells])
        for at in (4, 5):
            sheet.write_row(at, 1, ["2024-05-01", "10:00:00", "A", 1.5, 7, 8, 6, 7, f"visit {at}"])
        sheet.merge_range("D5:D6", "A", None)
        sheet.merge_range("F3:G3", "Surface", None)
        sheet.merge_range("H3:I3", "Bottom", None)

    bed.new("merged.xlsx", books.xlsx(merged))
    for row in (5, 6):
        bed.expected["merged.xlsx", "May", row] = {
            "Date": dt.date(2024, 5, 1),
            "Time": dt.time(10),
            "Team": "A",
            "Secchi (m)": 1.5,
            "Surface Temp (°C)": 7.0,
            "Surface Oxygen (mg/L)": 8.0,
            "Bottom Temp (°C)": 6.0,
            "Bottom Oxygen (mg/L)": 7.0,
            "Remarks": f"visit {row - 1}",
        }
    bed.says("merged-down", "merged.xlsx/May", 5, "D")

    def formulas(book: Any) -> None:
        for row in (5, 6):
            book["June"][f"E{row}"] = "=1+2"

    other = "field-visits_brindlemere_2024.xlsx"
    workbook(bed.folder / other, formulas)
    for row in (5, 6):
        bed.expected[other, "June", row]["Secchi (m)"] = None
    bed.says("formulas-not-saved", f"{other}/June", 5, "E")
    bed.says("bad-value", f"{other}/June", 5, "Secchi (m)")
    bed.group(expect=99)
    bed.says("source-count")
    return bed


def bed_header() -> list[str]:
    return [
        "Date",
        "Time",
        "Team",
        "Secchi (m)",
        "Temp (°C)",
        "Oxygen (mg/L)",
        "Temp (°C)",
        "Oxygen (mg/L)",
        "Remarks",
    ]


PARTS = {
    "loggers": planted_loggers,
    "lab": planted_lab,
    "gauges": planted_gauges,
    "field": planted_field,
}


@pytest.fixture(scope="module")
def beds(demo) -> dict[str, Bed]:
    return {part: plant(demo) for part, plant in PARTS.items()}


@pytest.mark.parametrize("part", PARTS)
def test_each_fault_is_found_at_its_place_and_the_rest_is_right(beds, tmp_path, part: str) -> None:
    assert beds[part].check(tmp_path / "o.parquet").status == 1


def test_the_faults_are_many_and_of_many_kinds(beds) -> None:
    planted = [code for bed in beds.values() for code, *_ in bed.due]
    assert len(planted) >= 60
    assert len(set(planted)) >= 55
