"""Layouts: what a plan says is followed to the letter; what a survey guesses is held against known truth."""

import contextlib
import random

import pytest

import integrum as ig
from corpus import TableBatch, make
from integrum.detecting.detect import detect_sample
from integrum.detecting.sample import Sample
from knobs import turn

EXPORT = """Logger export
Serial No: 00417
Site;Ambermere

Date/Time;Temp (°C);Depth
;°C;m
2024-05-01 10:00;7,20;2,5
# cleaned the sensor

2024-05-01 11:00;1.007,25;2,5
Date/Time;Temp (°C);Depth
2024-05-01 12:00;7,30
2024-05-01 13:00;7,40;2,6
Total;29,10;
Note: checked
"""
LAYOUT = {
    "header_row": 5,
    "units_row": True,
    "footer_from": ["Total"],
    "comment_mark": "#",
    "delimiter": ";",
    "decimal_mark": ",",
    "thousands_mark": ".",
    "encoding": "cp1252",
    "capture": {"serial": "Serial No", "lake": "site"},
}
COLUMNS = [
    ig.Column("time", "datetime", also=["Date/Time"]),
    ig.Column("temp", "number", also=["Temp (°C)"], unit="degC"),
    ig.Column("Depth", "number"),
]


def plan(folder, columns=COLUMNS, rules: ig.Rules | None = None, **layout: object) -> ig.Plan:
    group = ig.Sources(str(folder.path), layout=ig.Layout(**layout))
    return ig.Plan([group], columns, rules=rules or ig.Rules())


def test_every_row_of_an_export_is_in_one_part(folder, tmp_path) -> None:
    folder.write("a.csv", EXPORT.encode("cp1252"))
    outcome = ig.assemble(plan(folder, **LAYOUT), to=tmp_path / "o.csv")
    (account,) = outcome.sources
    counts = {part: count for part, count in vars(account.ledger).items() if count}
    assert counts == {
        "rows": 15,
        "preamble": 3,
        "header": 1,
        "units": 1,
        "repeated_header": 1,
        "blank": 2,
        "comment": 1,
        "footer": 2,
        "set_aside": 1,
        "data": 3,
    }
    assert outcome.output.read_text() == (
        "source,source_row,serial,lake,time,temp,Depth\n"
        "a.csv,7,00417,Ambermere,2024-05-01 10:00,7.20,2.5\n"
        "a.csv,10,00417,Ambermere,2024-05-01 11:00,1007.25,2.5\n"
        "a.csv,13,00417,Ambermere,2024-05-01 13:00,7.40,2.6\n"
    )
    assert (outcome.record / "preamble.csv").read_text() == (
        "source,sheet,row,key,value\na.csv,,1,,Logger export\na.csv,,2,Serial No,00417\na.csv,,3,Site,Ambermere\n"
    )
    codebook = (outcome.record / "columns.csv").read_text().splitlines()
    assert (
        codebook[0] == "column,type,unit,description,filled,sources,least,greatest,headers,missing,converted"
    )
    assert codebook[4] == 'temp,number,degC,,3,1,7.2,1007.25,"{""Temp (°C)"": 1}",,'
    assert codebook[5].startswith("Depth,number,m,,3,1,2.5,")
    padded = ig.assemble(plan(folder, **LAYOUT, short_rows="pad"))
    assert padded.table["Depth"].to_pylist() == [2.5, 2.5, None, 2.6]
    view = ig.look(folder.path / "a.csv", layout=ig.Layout(**LAYOUT))
    assert view.counts() == {
        part.replace("_", "-"): count for part, count in counts.items() if part != "rows"
    }
    assert [row.row for row in view.rows] == list(range(1, 16))
    assert "repeated-header" in str(view)
    assert "<td>footer</td>" in view._repr_html_()


def test_the_header_is_found_by_its_cells_or_the_source_is_set_aside(folder) -> None:
    folder.write("a.csv", "made by A\nDate/Time,Depth,Temp (°C)\n2024-05-01 10:00,1,2\n")
    folder.write("b.csv", "made by B\nsecond\nthird\ndate_time,Depth,Temp (°C)\n2024-05-02 10:00,3,4\n")
    folder.write("c.csv", "made by C\nname,depth\nx,1\n")
    outcome = ig.assemble(plan(folder, header_has=["Date/Time", "Temp"]))
    assert outcome.table["source_row"].to_pylist() == [3, 5]
    assert [account.reason for account in outcome.sources] == ["", "", "header-not-found"]
    (problem,) = [one for one in outcome.problems if one.severity == "error"]
    assert '"made by C"' in problem.hint
    fixed = ig.assemble(plan(folder, header_row=2))
    assert [account.reason for account in fixed.sources] == ["", "header-not-found", ""]
    assert [one.raw for one in fixed.problems if one.severity == "error"] == ["second"]


def test_no_header_two_header_rows_and_limits(folder) -> None:
    folder.write("a.csv", "x1,1,2\nx2,3,4\nx3,5,6\nx4,7,8\n")
    columns = [ig.Column("id"), ig.Column("low", "integer"), ig.Column("column 3", "integer")]
    by_position = plan(folder, columns, header_row="none", header=["id", "low"], first_row=2, last_row=3)
    outcome = ig.assemble(by_position)
    assert outcome.table.to_pydict()["low"] == [3, 5]
    ledger = outcome.sources[0].ledger
    assert (ledger.preamble, ledger.footer, ledger.data) == (1, 1, 2)
    folder.write("a.csv", ",Water,,Air\nday,temp,ph,temp\n2024-05-01,1,2,3\n")
    two = ig.assemble(plan(folder, [], rules=ig.Rules("keep"), header_rows=2))
    assert two.schema.names[2:] == ["day", "Water temp", "Water ph", "Air temp"]


@pytest.mark.parametrize(
    ("encoding", "delimiter", "quote", "escape"),
    [
        ("utf-8-sig", ",", '"', ""),
        ("utf-16", "\t", '"', ""),
        ("utf-16-le", ";", '"', ""),
        ("utf-16-be", ",", '"', ""),
        ("cp1252", ";", '"', ""),
        ("latin-1", "|", '"', ""),
        ("mac-roman", ",", "'", ""),
        ("utf-8", ",", '"', "\\"),
    ],
)
def test_encodings_and_dialects_come_back_cell_for_cell(folder, encoding, delimiter, quote, escape) -> None:
    inner = escape + quote if escape else quote * 2
    special = f"{quote}a {inner}b{inner}{delimiter} é\nline{quote}"
    rows = [["name", "note"], *([f"lake {at}", f"{at}.5"] for at in range(2_000))]
    rows.insert(700, ["Øvre Kolk", special])
    text = "\r\n".join(delimiter.join(row) for row in rows)
    folder.write("a.csv", text.encode(encoding))
    made = plan(
        folder,
        [ig.Column("name"), ig.Column("note")],
        encoding="utf-16" if encoding == "utf-16" else encoding,
        delimiter=delimiter,
        quote=quote,
        escape=escape,
    )
    outcome = ig.assemble(made)
    assert outcome.rows == 2_001
    assert outcome.table["name"][699].as_py() == "Øvre Kolk"
    assert outcome.table["note"][699].as_py() == f"a {quote}b{quote}{delimiter} é\nline"
    guessed = ig.assemble(folder.path)
    if encoding != "mac-roman":  # one letter is not enough to tell it from others
        assert guessed.table["name"].to_pylist() == outcome.table["name"].to_pylist()


def test_tabs_in_a_folder_and_texts_by_pattern(folder) -> None:
    folder.write("a.tsv", "time\tdepth\n10:00\t1.5\n11:00\t2.5\n")
    folder.write("b.txt", "time;depth\n12:00;3,5\n13:00;4,5\n")
    assert ig.assemble(folder.path).table["depth"].to_pylist() == [1.5, 2.5]
    assert ig.assemble(f"{folder.path}/*").table["depth"].to_pylist() == [1.5, 2.5, 3.5, 4.5]


def test_runs_of_spaces(folder) -> None:
    folder.write("a.csv", "  time   depth  temp\n  10:00    1.5   7.2\n  11:00   12.5   7.1\n")
    assert ig.assemble(folder.path).table.to_pydict()["depth"] == [1.5, 12.5]


def test_a_byte_that_is_not_in_the_encoding_names_its_offset(folder) -> None:
    folder.write("a.csv", b"name,note\nx,y\n\x81,z\n")
    (problem,) = ig.assemble(plan(folder, [ig.Column("name")], encoding="cp1252")).problems
    assert "not CP1252: byte 0x81 at offset 14" in problem.message


def test_another_unit_of_the_quantity_is_converted_and_one_of_another_kept_out(folder) -> None:
    folder.write("a.csv", "Temp (°C)\n7\n")
    folder.write("b.csv", "Temp [degC]\n8\n")
    folder.write("c.csv", "Temp (°F)\n45\n")
    folder.write("d.csv", "Temp (mg/L)\n9\n")
    headers = ["Temp (°C)", "Temp [degC]", "Temp (°F)", "Temp (mg/L)"]
    outcome = ig.assemble(plan(folder, [ig.Column("temp", "number", also=headers, unit="degC")]))
    assert outcome.table["temp"].to_pylist() == [7.0, 8.0, 7.2222222222]
    assert [account.reason for account in outcome.sources] == ["", "", "", "unit-differs"]
    assert [one.code for one in outcome.problems] == ["unit-converted", "unit-differs"]


def test_cells_without_a_name_at_the_end_are_only_dropped_when_empty(folder) -> None:
    folder.write("a.csv", 'x,y,,\n1,2,,\n3,"4",,surprise\n5,6\n7,8,\n')
    outcome = ig.assemble(folder.path)
    assert outcome.table["x"].to_pylist() == [1, 3, 5, 7]
    assert outcome.table["column 4"].to_pylist() == [None, "surprise", None, None]
    folder.write("a.csv", "x,y,\n" + "1,2,\n" * 400_000 + "3,4,far down\n")
    outcome = ig.assemble(plan(folder, [ig.Column("x"), ig.Column("y")]))
    assert [(one.row, one.code) for one in outcome.set_aside] == [(400_002, "row-too-long")]
    assert outcome.set_aside[0].raw == "3,4,far down"


def test_a_draft_writes_the_layouts_down_and_assembles_them(folder, integrum) -> None:
    for at in range(3):
        folder.write(
            f"plain_{at}.csv",
            f"Date/Time,Temp,Depth\n2024-05-0{at + 1} 10:00,7.2,2.5\n2024-05-0{at + 1} 11:00,7.3,2.5\n",
        )
        top = "Logger export\n" * (at + 1) + f"Serial No: 0041{at}\n"
        body = f"Date/Time;Temp;Depth\n;°C;m\n2024-06-0{at + 1} 10:00;8,2;3,5\n"
        body += f"2024-06-0{at + 1} 11:00;8,3;3,5\nTotal;16,5;\n"
        folder.write(f"brand/export_{at}.csv", (top + body).encode("cp1252"))
    draft = ig.draft(folder.path)
    (group,) = draft.plan.sources
    brand, main = sorted(group.layouts, key=lambda layout: layout.delimiter == ",")
    assert main == ig.Layout()
    assert list(brand.header_has) == ["Date/Time", "Temp", "Depth"]
    assert (brand.delimiter, brand.decimal_mark, brand.units_row) == (";", ",", True)
    assert list(brand.footer_from) == ["Total"]
    text = str(draft)
    assert "row 3 in 1, row 4 in 1, row 5 in 1" in text
    assert 'serial_no = "Serial No"' in text
    assert ig.parse_plan(text) == draft.plan
    outcome = ig.assemble(draft)
    assert (outcome.rows, outcome.status) == (12, 0)
    assert sorted(set(outcome.table["Temp"].to_pylist())) == [7.2, 7.3, 8.2, 8.3]
    assert outcome.counts()["footer"] == 3
    seen = integrum("survey", "in")
    assert "3 × header in row 3, 4, 5, units below, footer from Total" in seen.stdout
    one = integrum("survey", "in/brand/export_0.csv")
    assert "3  header" in one.stdout
    assert "7  footer           Total;16,5;" in one.stdout


def test_a_second_table_is_reported(folder) -> None:
    folder.write("a.csv", "day,depth\n2024-05-01,1\n2024-05-02,2\n\nlake,area,volume\nx,1,2\ny,3,4\nz,5,6\n")
    (problem,) = [one for one in ig.survey(folder.path).problems if one.code == "second-table"]
    assert problem.row == 1
    plain = ig.Layout(header_row=1, last_row=3)
    assert ig.assemble(ig.Sources(str(folder.path), layout=plain)).table["depth"].to_pylist() == [1, 2]


@pytest.mark.parametrize("size", [0, 1, 7])
def test_footers_comments_and_line_breaks_across_batch_borders(folder, monkeypatch, size: int) -> None:

    turn(monkeypatch, piece=40 + size)
    rows = [f'{at},"two\nlines {at}"' for at in range(30)]
    rows[11] = "# a comment"
    folder.write("a.csv", "\n".join(["n,text", *rows, "Total,x", "", "Signed"]))
    outcome = ig.assemble(
        plan(folder, [ig.Column("n", "integer"), ig.Column("text")], footer_from="Total", comment_mark="#")
    )
    ledger = outcome.sources[0].ledger
    assert (ledger.rows, ledger.data, ledger.comment, ledger.footer) == (34, 29, 1, 3)
    assert outcome.problems == ()


@pytest.mark.parametrize(
    ("layout", "said"),
    [
        ({"header_row": 0}, "header_row"),
        ({"header_row": "first"}, "none"),
        ({"encoding": "utf-99"}, "encoding"),
        ({"delimiter": ",,"}, "one character"),
        ({"short_rows": "drop"}, "set-aside"),
        ({"header": ["a"]}, "header_row"),
    ],
)
def test_wrong_layouts(layout: dict[str, object], said: str) -> None:
    with pytest.raises(ig.PlanError, match=said):
        ig.Layout(**layout)


def judged(made: TableBatch) -> dict[str, bool]:
    found = detect_sample(Sample(made.data))
    layout = found.layout
    return {
        "dialect": layout.delimiter == made.delimiter
        and ("decimal_mark" in found.free or layout.decimal_mark == made.decimal_mark),
        "header": (layout.header_row, layout.header_rows) == (made.header_row, made.header_rows),
        "units": layout.units_row == made.units_row,
        "footer": bool(layout.footer_from) == bool(made.footer_row),
        "encoding": made.only_ascii or layout.encoding == made.encoding,
    }


def test_guesses_against_known_truth() -> None:
    """Seeds that nothing was tuned on; the shares are printed with ``pytest -s``."""
    count = 2_000
    right = dict.fromkeys(judged(make(0)), 0)
    for seed in range(1_000_000, 1_000_000 + count):
        for name, good in judged(make(seed)).items():
            right[name] += good
    shares = {name: good / count for name, good in right.items()}
    print(shares)
    wanted = {"dialect": 0.99, "header": 0.99, "units": 0.98, "footer": 0.97, "encoding": 0.97}
    assert all(shares[name] >= least for name, least in wanted.items()), shares


def spoilt(chance: random.Random) -> bytes:
    """A made file, cut off and with some bytes changed, lost or put in."""
    data = bytearray(make(chance.randrange(10**6)).data[: chance.choice([50, 500, 5_000])])
    for _ in range(chance.choice([0, 1, 5, 50])):
        at, kind = chance.randrange(len(data) or 1), chance.random()
        if kind < 0.4 and data:
            data[at] = chance.randrange(256)
        elif kind < 0.7:
            del data[at : at + chance.randrange(1, 9)]
        else:
            data[at:at] = chance.choice(
                [b'"', b"\r", b"\n", b";", b"\x00", b"\\", b"'", b"#", b"\xff\xfe", b" " * 5]
            )
    return bytes(data)


@pytest.mark.parametrize(("size", "rounds"), [(97, 6), (8 << 20, 12)])
def test_spoilt_files_never_end_a_run(folder, monkeypatch, size: int, rounds: int) -> None:

    turn(monkeypatch, piece=size)
    for round_ in range(rounds):
        chance = random.Random(3_000_000 + round_)
        for number in range(6):
            folder.write(f"{number}.csv", spoilt(chance))
        folder.write("good.csv", f"day,depth\n2024-05-01,{round_}\n")
        outcome = ig.assemble(folder.path)
        assert outcome.rows >= 1
        assert all(account.ledger.adds_up for account in outcome.sources)
        for number in range(6):
            with contextlib.suppress(ig.NothingFound):
                seen = ig.look(folder.path / f"{number}.csv")
                assert [row.row for row in seen.rows] == list(range(1, len(seen.rows) + 1))


def test_whatever_is_guessed_the_ledger_holds(folder) -> None:
    for seed in range(2_000_000, 2_000_060):
        folder.write(f"{seed}.csv", make(seed).data)
    outcome = ig.assemble(folder.path)
    for account in outcome.sources:
        assert account.ledger.adds_up
    assert outcome.rows + outcome.counts()["set_aside"] >= 0.95 * sum(
        make(seed).rows for seed in range(2_000_000, 2_000_060)
    )


@pytest.mark.parametrize("first", ["", "c,d\n", "c,d\n1,2\n"])
def test_a_source_that_ends_above_the_first_row_says_nothing_about_the_next(folder, first: str) -> None:
    """Sources that begin with the same lines share a head; one that ends there has none to share."""
    folder.write("a.csv", f"a,b\n{first}")
    folder.write("b.csv", "a,b\nc,d\n1,2\n3,4\n5,6\n")
    layout = ig.Layout(first_row=5)
    outcome = ig.assemble(
        ig.Plan([ig.Sources(str(folder.path), layout=layout)], [ig.Column("a"), ig.Column("b")])
    )
    ledger = outcome.sources[1].ledger
    assert (ledger.header, ledger.preamble, ledger.data) == (1, 3, 1)
    assert outcome.table["a"].to_pylist() == ["5"]
