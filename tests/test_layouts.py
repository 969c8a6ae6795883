"""Groups with several layouts, files that are no tables, and what a folder says about one of its files."""

import json

import pytest

import integrum as ig
from integrum.sources.own import kind_of_file

ONE = "day,depth\n2024-05-01,3.2\n2024-05-02,3.3\n"
TWO = "Export\n\nday;depth\n2024-05-03;3,4\n2024-05-04;3,5\n"
THREE = "day\tdepth\n\tm\n2024-05-05\t3,6\nTotal\t3,6\n"
LAYOUTS = [
    ig.Layout(),
    ig.Layout(header_row=3, delimiter=";", decimal_mark=","),
    ig.Layout(delimiter="\t", encoding="utf-16", units_row=True, decimal_mark=",", footer_from="Total"),
]
COLUMNS = [ig.Column("day", "date"), ig.Column("depth", "number")]


def plan(folder, layouts=LAYOUTS, columns=COLUMNS, **rules: str) -> ig.Plan:
    return ig.Plan([ig.Sources(str(folder.path), layouts=layouts)], columns, rules=ig.Rules(**rules))


def reasons(outcome: ig.Outcome) -> list[str]:
    return [one.reason for one in outcome.sources]


def test_each_source_is_read_by_the_layout_that_fits(folder, tmp_path) -> None:
    folder.write("a.csv", ONE)
    folder.write("b.csv", TWO)
    folder.write("c.csv", THREE.encode("utf-16"))
    folder.write("d.csv", "x,y\n1,2\n")
    made = plan(folder)
    assert ig.parse_plan(ig.write_plan(made)) == made
    assert "[[sources.layouts]]" in ig.write_plan(made)
    outcome = ig.assemble(made, to=tmp_path / "o.csv")
    assert outcome.table["depth"].to_pylist() == [3.2, 3.3, 3.4, 3.5, 3.6]
    assert reasons(outcome) == ["", "", "", "no-layout-fits"]
    record = ig.read_record(outcome.record)
    assert [one.layout for one in record.sources[:3]] == LAYOUTS
    (problem,) = [one for one in outcome.problems if one.code == "no-layout-fits"]
    assert "layout 1: no cell of row 1 is a column of the plan" in problem.message
    seen = ig.survey(made)
    assert [one.layout for one in seen.layouts[:3]] == LAYOUTS
    assert [one.ledger.data for one in seen.sources] == [2, 2, 1, 0]
    assert 'depth  number    from "depth" in 3 sources' in str(seen)
    assert "d.csv (no-layout-fits)" in str(seen)


def test_next_months_file_finds_its_own_layout(folder, tmp_path) -> None:
    for at in range(1, 4):
        folder.write(f"a{at}.csv", ONE.replace("05", f"0{at}"))
        folder.write(f"b{at}.csv", TWO.replace("05", f"0{at}"))
        folder.write(f"c{at}.csv", THREE.replace("05", f"0{at}").encode("utf-16"))
    draft = ig.draft(folder.path)
    (group,) = draft.plan.sources
    assert len(group.layouts) == 3 and len(group.find) == 1
    saved = draft.save(tmp_path / "plan.toml")
    folder.write("a9.csv", ONE.replace("05", "09"))
    folder.write("b9.csv", "Export\nof September\n" + TWO.replace("05", "09").removeprefix("Export\n"))
    folder.write("c9.csv", THREE.replace("05", "09").encode("utf-16"))
    outcome = ig.assemble(saved)
    assert reasons(outcome) == ["", "", "", "", "", "", "", "no-layout-fits", "", "", "", ""]
    folder.write("b9.csv", TWO.replace("05", "09"))
    assert ig.assemble(saved).rows == 4 * 5


def test_two_layouts_that_read_a_source_differently_are_a_problem(folder) -> None:
    folder.write("a.csv", "day,depth\n2024-05-01,3\n2024-05-02,4\n2024-05-03,5\n")
    layouts = [ig.Layout(first_row=3), ig.Layout()]
    outcome = ig.assemble(plan(folder, layouts))
    assert (outcome.status, reasons(outcome)) == (2, ["several-layouts-fit"])
    taken = ig.assemble(plan(folder, layouts, several_layouts="first"))
    assert taken.table["depth"].to_pylist() == [4, 5]
    assert [one.code for one in taken.problems] == ["several-layouts-fit", "left-out-like-data"]
    alike = [ig.Layout(comment_mark="#"), ig.Layout()]
    assert reasons(ig.assemble(plan(folder, alike))) == [""]


def test_the_layout_with_the_fewest_bad_values_is_taken(folder) -> None:
    folder.write("a.csv", "day;depth\n2024-05-01;3,5\n2024-05-02;3,25\n")
    folder.write("b.csv", "day;depth\n2024-05-01;3.5\n2024-05-02;3.25\n")
    folder.write("c.csv", "day;depth\n;m\n2024-05-01;3.5\n")
    layouts = [
        ig.Layout(delimiter=";", units_row=True),
        ig.Layout(delimiter=";", decimal_mark=","),
        ig.Layout(delimiter=";"),
    ]
    outcome = ig.assemble(plan(folder, layouts))
    assert outcome.table["depth"].to_pylist() == [3.5, 3.25, 3.5, 3.25, 3.5]


def test_a_layout_without_a_header_does_not_take_a_file_with_one(folder) -> None:
    folder.write("a.csv", "day,depth\n2024-05-01,3\n")
    folder.write("b.csv", "2024-05-02,4\n2024-05-03,5\n")
    layouts = [ig.Layout(header_row="none", header=["day", "depth"]), ig.Layout()]
    assert ig.assemble(plan(folder, layouts)).table["depth"].to_pylist() == [3, 4, 5]


def test_wrong_layouts_in_a_plan(folder) -> None:
    with pytest.raises(ig.PlanError, match="either one layout or several"):
        ig.Sources("x", layout=ig.Layout(header_row=2), layouts=[ig.Layout()])
    with pytest.raises(ig.PlanError, match=r"\[\[sources.layouts\]\]"):
        ig.parse_plan('integrum = 1\n[[sources]]\nfind = ["x"]\nlayouts = "x"\n[[columns]]\nname = "a"\n')
    with pytest.raises(ig.PlanError, match=r"layouts\[2\], key header_rows"):
        ig.parse_plan(
            'integrum = 1\n[[sources]]\nfind = ["x"]\n[[sources.layouts]]\n[[sources.layouts]]\nheader_rows = 0\n'
            '[[columns]]\nname = "a"\n'
        )
    text = ig.write_plan(plan(folder, LAYOUTS[:2]))
    merged = ig.merge_plan(text.replace("header_row = 3", "header_row = 3 # kept"), plan(folder, LAYOUTS[:2]))
    assert "# kept" in merged
    assert ig.parse_plan(ig.merge_plan(text, plan(folder))) == plan(folder)
    one = ig.Plan([ig.Sources(str(folder.path))], COLUMNS)
    assert ig.parse_plan(ig.merge_plan(ig.write_plan(one), plan(folder))) == plan(folder)


@pytest.mark.parametrize(
    ("start", "kind"),
    [
        (b"<!DOCTYPE html>\n<html>", "a page in HTML"),
        (b"\xef\xbb\xbf\n <html lang='en'>", "a page in HTML"),
        (b"<?xml version='1.0'?>\n<rows/>", "XML"),
        (b"<rows>\n  <row/>", "XML"),
        (b'{"rows": [1, 2]}', "JSON"),
        (b'[{"day": 1},\n{"day": 2}]', "JSON"),
        (b"[[1, 2], [3, 4]]", "JSON"),
        (b"%PDF-1.4\n", "a PDF document"),
        (b"\x89PNG\r\n\x1a\n", "a picture"),
        (b"PK\x03\x04\x14\0", "a zip archive or a workbook"),
        (b"\x1f\x8b\x08\0", "a packed file (gzip)"),
        (b"\0\1\2\3\4\5" * 50, "a binary file"),
        ("<html>".encode("utf-16"), "a page in HTML"),
        (b"day,depth\n", ""),
        (b"[m],[s]\n1,2\n", ""),
        (b"<0.05,1\n<0.1,2\n", ""),
        (b"<lake>,x\n1,2\n", ""),
        (b"{lake},x\n", ""),
        ("day,depth\n2024-05-01,3\n".encode("utf-16-le"), ""),
        (b"", ""),
    ],
)
def test_what_is_no_table_is_told_by_its_content(start: bytes, kind: str) -> None:
    assert kind_of_file(start) == kind


def test_what_is_no_table_is_one_problem_and_the_rest_goes_on(folder, integrum) -> None:
    folder.write("a.csv", ONE)
    folder.write("page.csv", "<html><body><table><tr><td>1</td></tr></table></body></html>")
    folder.write("data.csv", json.dumps({"rows": [1, 2]}))
    done = integrum("assemble", "in", "--to", "o.csv")
    assert done.returncode == 1
    assert done.stdout.count("[not-a-table]") == 2
    assert [
        len([one for one in found.problems if one.source == "page.csv"])
        for found in (ig.survey(folder.path), ig.assemble(folder.path))
    ] == [1, 1]


def told(found: ig.Outcome | ig.Survey, code: str) -> list[str]:
    return [one.source for one in found.problems if one.code == code]


def test_files_that_are_not_whole_are_told_by_their_siblings(folder) -> None:
    for at in range(5):
        folder.write(f"{at}.csv", "n,x\n" + "".join(f"{row},{at}\n" for row in range(60)))
    folder.write("cut.csv", "n,x\n" + "".join(f"{row},7\n" for row in range(60)) + "60,")
    folder.write("few.csv", "n,x\n1,8\n")
    folder.write("nul.csv", b"n,x\n" + b"".join(b"%d,9\n" % row for row in range(60)) + b"61,\0\0\n")
    for found in (ig.survey(folder.path), ig.assemble(folder.path)):
        assert told(found, "file-cut-off") == ["cut.csv"]
        assert told(found, "few-rows") == ["few.csv"]
        assert told(found, "nul-bytes") == ["nul.csv"]


def test_two_files_without_a_last_line_end_are_nothing_to_speak_of(folder) -> None:
    folder.write("a.csv", "n,x\n1,2")
    folder.write("b.csv", "n,x\n2,3")
    assert ig.assemble(folder.path).problems == ()


def test_empty_and_repeated_header_cells_are_named_once(folder) -> None:
    for at in range(4):
        folder.write(f"{at}.csv", f",depth,depth\nx,{at},2\ny,3,4\n")
    problems = [one for one in ig.assemble(folder.path).problems if one.code.startswith("header-cell")]
    assert [(one.code, one.source) for one in problems] == [
        ("header-cell-empty", "0.csv"),
        ("header-cell-repeated", "0.csv"),
    ]
    assert '"column 1" (and in 3 more sources)' in problems[0].message
    assert '"depth (2)"' in problems[1].message


def test_an_empty_month_is_no_copy_of_another(folder) -> None:
    folder.write("amb_2024-05.csv", "n,x\n1,2\n")
    for month in ("06", "07"):
        folder.write(f"amb_2024-{month}.csv", "n,x\n")
    folder.write("amb_2024-08.csv", "n,x\n1,2\n")
    group = ig.Sources(str(folder.path), ids="{lake}_{month}.csv")
    outcome = ig.assemble(ig.Plan([group], [ig.Column("n", "integer"), ig.Column("x", "integer")]))
    assert reasons(outcome) == ["", "", "", "same-content"]
    (copy,) = [one for one in outcome.problems if one.code == "same-content"]
    assert 'though month is "2024-08" here, and "2024-05" there' in copy.message


def test_neighbours_decide_for_a_file_that_is_too_short_to_tell(folder) -> None:
    for at in range(1, 5):
        folder.write(
            f"{at}.csv", f"Site: {at}\nlake,weather\nAmber,calm\nVessel,rain\nAmber,fog\nQuillon,calm {at}\n"
        )
    folder.write("5.csv", "Site: 5\nOperator: keeper\nlake,weather\n")
    folder.write("6.csv", "Site: 6\nlake,weather\nHollow,ice\n")
    outcome = ig.assemble(folder.path)
    assert outcome.schema.names[2:] == ["lake", "weather"]
    assert [one.ledger.data for one in outcome.sources] == [4, 4, 4, 4, 0, 1]


def test_a_file_in_ascii_beside_files_in_utf_16(folder) -> None:
    for at in range(3):
        folder.write(f"{at}.csv", f"day;depth\n2024-05-0{at + 1};3\n2024-06-0{at + 1};4\n".encode("utf-16"))
    folder.write("9.csv", "day;depth\n2024-07-01;5\n2024-07-02;6\n")
    assert ig.assemble(folder.path).table["depth"].to_pylist() == [3, 4] * 3 + [5, 6]


def test_names_that_differ_by_a_sign_with_a_meaning_stay_apart(folder) -> None:
    folder.write("a.csv", "temp 1.5 m,T-5,a+b,Depth_m\n1,2,3,4\n")
    folder.write("b.csv", "temp 15 m,T5,ab,depth m\n5,6,7,8\n")
    names = ig.assemble(folder.path).schema.names[2:]
    assert sorted(names) == ["Depth_m", "T-5", "T5", "a+b", "ab", "temp 1.5 m", "temp 15 m"]


def test_a_second_table_below_does_not_come_into_the_first(folder) -> None:
    folder.write("a.csv", "day,depth\n2024-05-01,1\n2024-05-02,2\n2024-05-03,2\n\nlake,area\nx,1\ny,3\nz,5\n")
    outcome = ig.assemble(folder.path)
    assert outcome.rows == 3
    assert "second-table" in {one.code for one in outcome.problems}
