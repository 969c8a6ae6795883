"""A small case for every kind of problem; docs/problems.md quotes what each of them says."""

import io
import os
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import openpyxl
import pytest

import books
import integrum as ig
from integrum.problems.problem import Problem
from knobs import turn
from places import serving

Case = Callable[[Path, pytest.MonkeyPatch], Any]
CASES: dict[str, Case] = {}
DEPTH = ig.Column("depth", "number")
DAY = ig.Column("day", "date")
LAKE = ig.Column("lake")
TIME = ig.Column("time", "datetime")
MAY = [["lake", "depth"], ["Ambermere", 3.2], ["Vessel Lake", 4.5]]
MANY = "".join(f"2024-05-{at + 1:02},{at / 4:.2f}\n" for at in range(28))


def case(code: str) -> Callable[[Case], Case]:
    """Note a case for a code."""

    def note(made: Case) -> Case:
        assert code not in CASES
        CASES[code] = made
        return made

    return note


def problems_of(code: str, folder: Path, monkeypatch: pytest.MonkeyPatch) -> tuple[Problem, ...]:
    """What is found in the case of a code."""
    (folder / "in").mkdir()
    return tuple(CASES[code](folder / "in", monkeypatch).problems)


def write(folder: Path, **files: str | bytes) -> None:
    """Write files; ``__`` stands for the point of a name."""
    for name, content in files.items():
        place = folder / name.replace("__", ".")
        place.write_bytes(content if isinstance(content, bytes) else content.encode())


def run(folder: Path, *columns: ig.Column, checks: Any = (), rules: Any = None, **group: Any) -> ig.Outcome:
    """Assemble a folder."""
    group = {"find": str(folder)} | group
    plan = ig.Plan([ig.Sources(**group)], columns or [DAY, DEPTH], rules=rules or ig.Rules(), checks=checks)
    return ig.assemble(plan)


def checked(folder: Path, **check: Any) -> ig.Outcome:
    """Assemble two small sources with a check."""
    write(
        folder,
        a__csv="lake,time,depth\nAmbermere,2024-05-01 00:00,3.2\nAmbermere,2024-05-01 01:00,3.3\n",
        b__csv="lake,time,depth\nAmbermere,2024-05-01 01:00,3.30\nVessel Lake,2024-05-03 00:00,\n",
    )
    return run(folder, LAKE, TIME, DEPTH, checks=[ig.Check(**check)])


# ---- of the search


@case("nothing-found")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01,3\n")
    return run(folder, find=[str(folder), str(folder / "june" / "*.csv")])


@case("passed-over")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01,3\n", notes__docx=b"PK")
    return run(folder)


@case("size-not-told")
def _(folder: Path, patch: pytest.MonkeyPatch) -> Any:
    write(folder, may__csv="day,depth\n2024-05-01,3\n")
    with serving(folder) as server:
        server.with_sizes = False
        return ig.assemble(f"{server.address}/may.csv")


@case("folder-as-number")
def _(folder: Path, patch: pytest.MonkeyPatch) -> Any:
    write(folder, site_007__csv="day,depth\n2024-05-01,3\n")
    return ig.assemble(folder, to=f"{folder.parent}/out.parquet/site={{site}}/", ids="site_{site}.csv")


@case("own-work")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01,3\n")
    ig.assemble(folder, to=folder / "all.csv")
    return run(folder)


@case("unsafe-name")
def _(folder: Path, _: Any) -> Any:
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w") as archive:
        archive.writestr("may.csv", "day,depth\n2024-05-01,3\n")
        archive.writestr("../june.csv", "day,depth\n2024-06-01,3\n")
    write(folder, round__zip=file.getvalue())
    return run(folder)


@case("name-not-unicode")
def _(folder: Path, _: Any) -> Any:
    with open(os.fsencode(folder) + b"/m\xe4rz.csv", "wb") as file:
        file.write(b"day,depth\n2024-03-01,3\n")
    return run(folder)


@case("kind-differs")
def _(folder: Path, _: Any) -> Any:
    write(folder, may__xlsx="lake,depth\nAmbermere,3.2\n")
    return run(folder, LAKE, DEPTH)


@case("sheets-unmatched")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__xlsx=books.sheets(May=MAY))
    return run(folder, LAKE, DEPTH, sheets=["May", "Juni"])


@case("label-unused")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01,3\n")
    return run(folder, labels={"b.csv": "north"})


@case("source-count")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01,3\n")
    return run(folder, expect=12)


@case("source-missing")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01,3\n")
    return run(folder, expect=["a.csv", "b.csv"])


@case("source-unexpected")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01,3\n", b__csv="day,depth\n2024-05-02,3\n")
    return run(folder, expect=["a.csv"])


# ---- of a source as a whole


@case("unreadable")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01,3\n", cut__zip=b"PK\x03\x04 not really")
    return run(folder)


@case("protected")
def _(folder: Path, _: Any) -> Any:
    write(folder, locked__ods=books.ods("", encrypted=True))
    return run(folder, LAKE, DEPTH)


@case("kind-not-read")
def _(folder: Path, _: Any) -> Any:
    write(folder, binary__xlsx=bytes(range(256)) * 8)
    return run(folder, LAKE, DEPTH)


@case("unpacks-too-large")
def _(folder: Path, monkeypatch: pytest.MonkeyPatch) -> Any:

    turn(monkeypatch, free_bytes_of_books=1 << 20)
    part = "xl/worksheets/sheet1.xml"
    write(folder, a__xlsx=books.with_part(books.sheets(May=MAY), part, lambda text: text + b" " * (8 << 20)))
    return run(folder, LAKE, DEPTH)


@case("stray-cells")
def _(folder: Path, _: Any) -> Any:
    def fill(book: Any) -> None:
        sheet = book.add_worksheet("May")
        for at, row in enumerate(MAY):
            sheet.write_row(at, 0, row)
        sheet.write("XFD1048576", "x")

    write(folder, a__xlsx=books.xlsx(fill))
    return run(folder, LAKE, DEPTH)


@case("no-table")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__xlsx=books.sheets(May=MAY))
    return run(folder, LAKE, DEPTH, sheets=["June"])


@case("not-a-table")
def _(folder: Path, _: Any) -> Any:
    write(folder, page__csv="<!DOCTYPE html><html><body><p>Please log in</p></body></html>")
    return run(folder)


@case("empty-source")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="")
    return run(folder)


@case("bytes-not-valid")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="lake,depth\nH\u00f6llensee,3\n".encode("cp1252"))
    return run(folder, LAKE, DEPTH)


@case("quote-not-closed")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv='lake,depth\n"Ambermere,3\nVessel Lake,4\n')
    return run(folder, LAKE, DEPTH)


@case("no-line-end")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv=b"x" * (70 << 20))
    return run(folder, LAKE, DEPTH)


@case("source-changed")
def _(folder: Path, monkeypatch: pytest.MonkeyPatch) -> Any:
    from integrum.sources.source import Source

    write(folder, a__csv="day,depth\n2024-05-01,3\n")
    monkeypatch.setattr(Source, "has_changed", lambda source: True)
    return run(folder)


@case("unforeseen")
def _(folder: Path, monkeypatch: pytest.MonkeyPatch) -> Any:
    from integrum.values import pipeline

    def fail(*given: Any) -> Any:
        raise ZeroDivisionError("division by zero")

    write(folder, a__csv="day,depth\n2024-05-01,3\n")
    monkeypatch.setattr(pipeline, "convert", fail)
    return run(folder)


@case("encoding-unclear")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="name,v\nsj\u00f8,1\n".encode("cp1252"))
    return ig.survey(folder)


def _siblings(folder: Path, **odd: str | bytes) -> ig.Outcome:
    for at in range(5):
        rows = "".join(f"2024-05-{row % 28 + 1:02},{at}.{row}\n" for row in range(60))
        (folder / f"{at}.csv").write_text("day,depth\n" + rows)
    write(folder, **odd)
    return run(folder)


@case("file-cut-off")
def _(folder: Path, _: Any) -> Any:
    return _siblings(folder, cut__csv="day,depth\n" + "2024-05-01,7\n" * 60 + "2024-05-02,")


@case("few-rows")
def _(folder: Path, _: Any) -> Any:
    return _siblings(folder, few__csv="day,depth\n2024-05-01,8\n")


@case("nul-bytes")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv=b"lake,depth\nAmber\0mere,3\n")
    return run(folder, LAKE, DEPTH)


@case("header-cell-empty")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv=",day,depth\n1,2024-05-01,3\n")
    return run(folder)


@case("header-cell-repeated")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth,depth\n2024-05-01,3,4\n")
    return run(folder)


@case("same-name")
def _(folder: Path, _: Any) -> Any:
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w") as archive, pytest.warns(UserWarning):
        archive.writestr("may.csv", "day,depth\n2024-05-01,3\n")
        archive.writestr("may.csv", "day,depth\n2024-05-01,4\n")
    write(folder, round__zip=file.getvalue())
    return run(folder)


@case("same-content")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01,3\n", a_copy__csv="day,depth\n2024-05-01,3\n")
    return run(folder)


@case("second-table")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01,1\n2024-05-02,2\n\nlake,area,volume\nx,1,2\ny,3,4\nz,5,6\n")
    return ig.assemble(folder)


@case("record-elsewhere")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01,3\n")
    ig.assemble(folder, to=folder.parent / "all.csv")
    return ig.assemble(folder, to=folder.parent / "all.parquet")


# ---- of names and preambles


@case("path-does-not-fit")
def _(folder: Path, _: Any) -> Any:
    write(folder, ambermere_2024__csv="day,depth\n2024-05-01,3\n", ambermere__csv="day,depth\n2024-05-02,3\n")
    return run(folder, ids="{lake}_{year}.csv")


@case("capture-missing")
def _(folder: Path, _: Any) -> Any:
    write(
        folder,
        a__csv="Serial No,00417\nday,depth\n2024-05-01,3\n",
        b__csv="Exported\nday,depth\n2024-05-02,3\n",
    )
    return run(folder, layout=ig.Layout(header_row=2, capture={"serial": "Serial No"}))


# ---- of headers


@case("no-header")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv=",,\n2024-05-01,3,4\n")
    return run(folder)


@case("header-not-found")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="station,value\nnorth,3\n")
    return run(folder)


@case("header-in-preamble")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth,remark\n2024-05-01,3\n2024-05-02,4\n")
    return run(folder, ig.Column("day", also=["column 1"]), layout=ig.Layout(header_row="none", first_row=2))


@case("header-spelling")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="Day,DEPTH\n2024-05-01,3\n")
    return run(folder)


@case("header-claimed-twice")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth,Depth (m)\n2024-05-01,3,4\n")
    return run(folder, DAY, ig.Column("depth", "number", also=["Depth (m)"]))


@case("unlisted-header")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth,battery\n2024-05-01,3,3.6\n")
    return run(folder)


@case("not-asked-for")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth,wind\n2024-05-01,3,2\n")
    return run(folder, rules=ig.Rules("leave-out"))


@case("header-fits-several")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,Temp probe\n2024-05-01,7\n")
    return run(folder, DAY, ig.Column("water", also=["Temp*"]), ig.Column("probe", also=["*probe"]))


@case("header-guessed")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,T_water\n2024-05-01,7\n")
    return run(folder, DAY, ig.Column("water_temp", "number", maybe=[ig.Maybe("T_water", score=0.86)]))


@case("columns-alike")
def _(folder: Path, _: Any) -> Any:
    for year, name in ((2021, "water_temp"), (2022, "water_temp"), (2023, "T_water")):
        rows = "".join(f"{year}-05-{at + 1:02},{9 + at % 7 + at / 9:.2f}\n" for at in range(25))
        (folder / f"{year}.csv").write_text(f"day,{name}\n{rows}")
    return ig.assemble(ig.draft(folder))


@case("units-mixed")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth (m)\n2024-05-01,2\n", b__csv="day,depth (ft)\n2024-05-01,6\n")
    return run(folder, DAY, ig.Column("depth", "number", also=["depth (m)", "depth (ft)"]))


@case("column-nowhere")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01,3\n")
    return run(folder, DAY, DEPTH, ig.Column("oxygen", "number"))


@case("column-not-common")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01,3\n", b__csv="day\n2024-05-02\n")
    return run(folder, rules=ig.Rules(only_common=True))


@case("place-unmatched")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01,3\n")
    return run(folder, DAY, ig.Column("depth", "number", also=[ig.Also("D", in_="2019/**")]))


@case("wide-unmatched")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01,3\n")
    columns = (DAY, DEPTH, ig.Column("month"), ig.Column("count", "integer"))
    return run(folder, *columns, wide=ig.Wide("20??-??", name="month", value="count"))


@case("required-missing")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01,3\n", b__csv="day,oxygen\n2024-05-02,9\n")
    return run(folder, DAY, ig.Column("depth", "number", required=True))


@case("unit-differs")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth (mg/L)\n2024-05-01,3\n")
    return run(folder, DAY, ig.Column("depth", "number", unit="m", also=["depth (mg/L)"]))


@case("unit-converted")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth (cm)\n2024-05-01,320\n")
    return run(folder, DAY, ig.Column("depth", "number", unit="m", also=["depth (cm)"]))


@case("drafted-as-text")
def _(folder: Path, _: Any) -> Any:
    write(
        folder,
        a__csv="day,depth\n05/06/2024,3\n01/07/2024,4\n",
        b__csv="day,depth\n06/06/2024,3\n02/07/2024,4\n",
    )
    return ig.assemble(ig.draft(folder))


@case("headers-are-values")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="station,2024-04,2024-05,2024-06\nA,3,4,5\nB,4,6,1\n")
    return ig.assemble(folder)


@case("names-of-siblings")
def _(folder: Path, _: Any) -> Any:
    rows = "".join(f"2024-05-{at:02},{at % 7}.5,reed\n" for at in range(1, 21))
    write(folder, a__csv=f"day,depth,habitat\n{rows}", b__csv=rows.replace("2024", "2023"))
    return ig.assemble(folder)


@case("no-layout-fits")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="x,y\n1,2\n")
    return run(folder, layouts=[ig.Layout(), ig.Layout(header_row=2)])


@case("several-layouts-fit")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01,3\n2024-05-02,4\n2024-05-03,5\n")
    return run(folder, layouts=[ig.Layout(first_row=3), ig.Layout()])


# ---- of rows and cells


@case("row-too-long")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01,3,2\n2024-05-02,4\n")
    return run(folder)


@case("row-too-short")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01\n2024-05-02,4\n")
    return run(folder)


@case("text-after-quote")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv='lake,depth\n"Amber"mere,3\nVessel Lake,4\n')
    return run(folder, LAKE, DEPTH)


@case("repeated-header")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01,3\nday,depth\n2024-05-02,4\n")
    return run(folder)


@case("no-data-rows")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n\n")
    return run(folder)


@case("left-out-like-data")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n" + MANY)
    return run(folder, layout=ig.Layout(first_row=3))


@case("much-left-out")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n# a\n2024-05-01,3.1\n# b\n# c\n2024-05-02,4.2\n# d\n2024-05-03,4.4\n")
    return ig.survey(folder)


@case("total-in-table")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="lake,depth\nAmbermere,3\nSubtotal,3\nVessel Lake,4\nQuillon Tarn,2\nSubtotal,6\n")
    return run(folder, LAKE, DEPTH)


@case("table-on-its-side")
def _(folder: Path, _: Any) -> Any:
    write(
        folder,
        a__csv="sample,S1,S2,S3\nlake,Amber,Vessel,Amber\nph,7.1,7.2,7.0\ndate,2024-05-01,2024-05-02,2024-05-03\n",
    )
    return ig.assemble(folder)


@case("on-its-side")
def _(folder: Path, patch: pytest.MonkeyPatch) -> Any:
    write(folder, a__csv="day," + "2024-05-01," * 900 + "\n")
    patch.setattr("integrum.reading.stream.MOST_TURNED", 5000)
    patch.setattr("integrum.reading.stream.MOST_TURNED", 5000)
    return run(folder, layout=ig.Layout(on_its_side=True))


@case("text-misread")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="lake,depth\nGrÃ¼ner See,3\n")
    return run(folder, LAKE, DEPTH)


@case("tables-skipped")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01,3\n", b__dat="day,depth\n2024-06-01,4\n")
    return run(folder)


@case("layout-undecided")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="depth,ph\nAmbermere,3.2,7.1\nVessel Lake,4.5,7.2\n")
    return ig.assemble(folder)


@case("rows-in-two-sources")
def _(folder: Path, _: Any) -> Any:
    rows = MANY.splitlines(keepends=True)
    write(folder, a__csv="day,depth\n" + "".join(rows[:20]), b__csv="day,depth\n" + "".join(rows[16:]))
    return run(folder)


@case("row-again")
def _(folder: Path, _: Any) -> Any:
    rows = MANY.splitlines(keepends=True)
    write(folder, a__csv="day,depth\n" + "".join(rows[:20]), b__csv="day,depth\n" + "".join(rows[16:]))
    return run(folder, rules=ig.Rules(repeated_rows="once"))


@case("missing-codes")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01,-999\n2024-05-02,n/a\n2024-05-03,-999\n2024-05-04,3.2\n")
    return ig.assemble(folder)


@case("signs-in-numbers")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv='day,depth\n2024-05-01,"$1,234.50"\n2024-05-02,"1,000,000"\n2024-05-03,7\n')
    return run(folder)


@case("currencies-mixed")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01,$5\n2024-05-02,€ 7\n2024-05-03,7 €\n")
    return run(folder)


@case("bad-value")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01,deep\n2024-05-02,4\n")
    return run(folder)


@case("bad-share")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01,deep\n2024-05-02,4\n")
    return run(folder, DAY, ig.Column("depth", "number", bad_share=0.2))


@case("range-apart")
def _(folder: Path, _: Any) -> Any:
    for number in range(5):
        rows = "".join(f"{2 + number / 10 + at / 7:.2f}\n" for at in range(12))
        (folder / f"{number}.csv").write_text("depth\n" + rows)
    write(folder, odd__csv="depth\n" + "".join(f"{200 + at * 14}\n" for at in range(12)))
    return run(folder, DEPTH)


@case("values-differ")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth,Depth (m)\n2024-05-01,3,4\n2024-05-02,3,3.0\n")
    return run(folder, DAY, ig.Column("depth", "number", also=["Depth (m)"], first_filled=True))


@case("beside-the-table")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__xlsx=books.sheets(May=[MAY[0], [*MAY[1], None, "probe was changed"], MAY[2]]))
    return run(folder, LAKE, DEPTH, layout=ig.Layout(last_column="B"))


@case("error-without-place")
def _(folder: Path, _: Any) -> Any:
    def fill(book: Any) -> None:
        sheet = book.add_worksheet("May")
        for at, row in enumerate(MAY):
            sheet.write_row(at, 0, row)
        sheet.write_formula("B2", "=1/0", None, "#DIV/0!")

    part = "xl/worksheets/sheet1.xml"
    write(folder, a__xlsx=books.with_part(books.xlsx(fill), part, lambda text: text.replace(b' r="B2"', b"")))
    return run(folder, LAKE, DEPTH)


@case("merged-down")
def _(folder: Path, _: Any) -> Any:
    def fill(book: Any) -> None:
        sheet = book.add_worksheet("May")
        sheet.write_row(0, 0, ["lake", "depth"])
        sheet.merge_range("A2:A4", "Ambermere", None)
        sheet.write_column("B2", [1, 2, 3])

    write(folder, a__xlsx=books.xlsx(fill))
    return run(folder, LAKE, DEPTH)


@case("formulas-not-saved")
def _(folder: Path, _: Any) -> Any:
    book = openpyxl.Workbook()
    sheet: Any = book.active
    sheet.title = "May"
    for row in (["lake", "depth"], ["Ambermere", "=1+2"], ["Vessel Lake", 2]):
        sheet.append(row)
    book.save(folder / "a.xlsx")
    return run(folder, LAKE, DEPTH)


# ---- of checks


@case("check-impossible")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="day,depth\n2024-05-01,3\n")
    return run(folder, rules=ig.Rules("keep"), checks=[ig.Check(unique=["lake"])])


@case("not-unique")
def _(folder: Path, _: Any) -> Any:
    return checked(folder, unique=["lake", "time"])


@case("combination-missing")
def _(folder: Path, _: Any) -> Any:
    return checked(folder, complete=["lake"], values={"lake": ["Ambermere", "Hollow Water"]})


@case("out-of-range")
def _(folder: Path, _: Any) -> Any:
    return checked(folder, column="depth", range=[0, 3.2])


@case("not-allowed")
def _(folder: Path, _: Any) -> Any:
    return checked(folder, column="lake", allowed=["Ambermere", "Hollow Water"])


@case("pattern-not-matched")
def _(folder: Path, _: Any) -> Any:
    return checked(folder, column="lake", match="[A-Z][a-z]+")


@case("too-few-filled")
def _(folder: Path, _: Any) -> Any:
    return checked(folder, column="depth", filled=0.9)


@case("rows-per-source")
def _(folder: Path, _: Any) -> Any:
    return checked(folder, rows=[10, 900])


@case("number-of-sources")
def _(folder: Path, _: Any) -> Any:
    return checked(folder, sources=24)


@case("time-not-steady")
def _(folder: Path, _: Any) -> Any:
    return checked(folder, column="time", steady="1 h", within=["lake"])


@case("sources-overlap")
def _(folder: Path, _: Any) -> Any:
    return checked(folder, column="time", follow="1 h")


@case("gap-between-sources")
def _(folder: Path, _: Any) -> Any:
    write(folder, a__csv="time\n2024-05-01 00:00\n", b__csv="time\n2024-05-03 00:00\n")
    return run(folder, TIME, checks=[ig.Check(column="time", follow="1 h")])


@case("row-in-two-sources")
def _(folder: Path, _: Any) -> Any:
    return checked(folder, in_one_source="all")


def _list(folder: Path) -> str:
    (folder.parent / "lakes.csv").write_text("lake\nAmbermere\nHollow Water\n")
    return str(folder.parent / "lakes.csv")


@case("not-in-list")
def _(folder: Path, _: Any) -> Any:
    return checked(folder, column="lake", listed=_list(folder))


@case("listed-but-missing")
def _(folder: Path, _: Any) -> Any:
    return checked(folder, column="lake", listed=_list(folder), both_ways=True)
