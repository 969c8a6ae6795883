"""Surveys and drafts: all headers side by side, the odd ones out, the evidence, and what is written down of it."""

import json
from pathlib import Path

import pytest

import integrum as ig
from integrum.demo.lakes import write_demo
from integrum.sources.order import natural_key


def test_variants_and_what_the_rarer_ones_lack_add_and_write_otherwise(folder) -> None:
    for at in range(3):
        folder.write(f"{at}.csv", f"day,depth,note\n2024-05-0{at + 1},1,x\n")
    folder.write("odd.csv", "Day,wind\n2024-06-01,2\n")
    seen = ig.survey(folder.path)
    assert [(variant.names, len(variant.sources)) for variant in seen.variants] == [
        (("day", "depth", "note"), 3),
        (("Day", "wind"), 1),
    ]
    text = str(seen)
    assert "1 × odd.csv" in text
    assert "missing depth, note; extra wind; renamed day to Day" in text
    depth = next(column for column in seen.columns if column.name == "depth")
    assert (depth.sources, depth.lacking, depth.filled) == (3, ("odd.csv",), 3)


def test_a_survey_counts_rows_as_a_run_does(folder) -> None:
    folder.write("a.csv", "x,y\n1,2\n\nx,y\n3\n4,5\n")
    folder.write("b.csv", 'x,y\n1,"open\n')
    seen, made = ig.survey(folder.path), ig.assemble(folder.path)
    for one, other in zip(seen.sources, made.sources, strict=True):
        assert vars(one.ledger) == vars(other.ledger)
        assert (one.content, one.status, one.reason) == (other.content, other.status, other.reason)
    assert seen.rows == made.rows


def test_units_that_differ_are_said_and_converted(folder) -> None:
    folder.write("a.csv", "temp\n°C\n7.5\n8.5\n")
    folder.write("b.csv", "temp\ndegC\n9.5\n9.0\n")
    folder.write("c.csv", "temp\n°F\n45.5\n46.0\n")
    draft = ig.draft(folder.path)
    (column,) = draft.plan.columns
    assert (column.unit, column.type) == ("°C", "number")
    assert "different units: °C in 2 sources, °F in 1 source" in str(draft)
    outcome = ig.assemble(draft)
    assert outcome.table["temp"].to_pylist() == [7.5, 8.5, 9.5, 9.0, 7.5, 7.7777777778]


def test_what_is_expected_survives_the_division_by_layout(folder) -> None:
    for at in range(2):
        folder.write(f"plain/{at}.csv", f"day,depth\n2024-05-0{at + 1},1.5\n2024-05-1{at + 1},2.5\n")
        folder.write(f"brand/{at}.csv", f"day;depth\n2024-06-0{at + 1};1,5\n2024-06-1{at + 1};2,5\n")
    draft = ig.draft(ig.Sources(str(folder.path), expect=4))
    assert [group.expect for group in draft.plan.sources] == [4]
    assert ig.assemble(draft).problems == ()
    assert ig.assemble(draft).table["depth"].to_pylist() == [1.5, 2.5] * 4
    folder.write("brand/2.csv", "day;depth\n2024-07-01;1,5\n2024-07-02;2,5\n")
    assert [one.code for one in ig.assemble(draft).problems] == ["source-count"]


def test_a_new_file_that_does_not_fit_its_layout_is_reported_not_guessed(folder, tmp_path) -> None:
    folder.write("a.csv", "Site: Ambermere\nday,depth\n2024-05-01,1.5\n2024-05-02,1.5\n")
    plan = ig.draft(folder.path).save(tmp_path / "plan.toml")
    folder.write("b.csv", "Site: Quillon\nOperator: B\nday,depth\n2024-06-01,1.5\n")
    outcome = ig.assemble(plan)
    assert [account.reason for account in outcome.sources] == ["", "header-not-found"]
    assert "Operator: B" in outcome.problems[-1].raw


def test_a_preamble_entry_that_is_absent_is_said(folder) -> None:
    layout = ig.Layout(header_row=2, capture={"serial": "Serial No"})
    folder.write("a.csv", "serial no = 7\ndepth\n1\n")
    folder.write("b.csv", "Site: x\ndepth\n2\n")
    plan = ig.Plan(
        [ig.Sources(str(folder.path), layout=layout)], [ig.Column("serial", "integer"), ig.Column("depth")]
    )
    outcome = ig.assemble(plan)
    assert outcome.table["serial"].to_pylist() == [7, None]
    (problem,) = outcome.problems
    assert (problem.code, problem.source, problem.hint) == (
        "capture-missing",
        "b.csv",
        "its entries are: Site",
    )


@pytest.mark.parametrize(
    "names",
    [
        ["site2", "site10", "site10_b", "site11"],
        ["2023-12-01", "2024-01-15", "2024-02-01"],
        ["lab 11-2023", "lab 12-2023", "lab 01-2024"],
        ["30.11.2023", "01.12.2023", "02.01.2024"],
        ["jan_2024", "feb_2024", "oct_2024", "dec_2024"],
        ["a/1", "a/b/1", "b/1"],
        ["x", "X1", "x2"],
    ],
)
def test_names_come_in_the_order_that_people_expect(names: list[str]) -> None:
    files = [f"{name}.csv" for name in names]
    backwards = list(reversed(files))
    assert sorted(backwards, key=natural_key) == files


def test_the_demo_data_is_the_same_each_time(tmp_path) -> None:
    def content(folder: Path) -> dict[str, bytes]:
        return {
            str(path.relative_to(folder)): path.read_bytes() for path in folder.rglob("*") if path.is_file()
        }

    one, two = content(write_demo(tmp_path / "one")), content(write_demo(tmp_path / "two"))
    assert one == two
    assert len(one) > 45


def test_the_demo_data_shows_what_it_says(tmp_path) -> None:
    folder = write_demo(tmp_path / "lakes")
    plan = ig.draft(ig.Sources(str(folder / "loggers"), ids="{lake}_{month}_{serial}.csv"))
    outcome = ig.assemble(plan)
    codes = {problem.code for problem in outcome.problems}
    assert codes == {"passed-over", "path-does-not-fit", "repeated-header", "same-content", "missing-codes"}
    counts = outcome.counts()
    assert (counts["units"], counts["repeated_header"], counts["data"]) == (6, 1, 5220)
    assert outcome.table.filter(outcome.table["lake"].is_null()).num_rows == 180
    lab = ig.assemble(folder / "lab")
    assert (lab.rows, lab.counts()["footer"], lab.status) == (300, 24, 0)


def test_a_survey_of_one_plan_and_of_one_file_on_the_command_line(folder, tmp_path, integrum) -> None:
    folder.write("a_1.csv", "day,depth\n2024-05-01,1\n")
    folder.write("empty.csv", "")
    plan = ig.Plan(
        [ig.Sources("in", ids="{lake}_{n}.csv")], [ig.Column("lake", case="upper"), ig.Column("depth")]
    )
    (tmp_path / "plan.toml").write_text(ig.write_plan(plan))
    seen = json.loads(integrum("survey", "plan.toml", "--json").stdout)
    assert seen["identifiers"] == {"lake": ["A", None], "n": ["1", None]}
    alone = integrum("survey", "in/empty.csv")
    assert alone.returncode == 0
    assert "the file is empty" in alone.stdout
    assert integrum("survey", "plan.toml", "--ids", "{x}.csv").returncode == 2


def test_like_problems_of_many_sources_are_one_line_on_the_command_line(folder, integrum) -> None:
    for at in range(5):
        folder.write(f"{at}.csv", f"day,extra\n2024-05-0{at + 1},1\n")
    folder.write("plan.toml", 'integrum = 1\n[[sources]]\nfind = ["*.csv"]\n[[columns]]\nname = "day"\n')
    done = integrum("assemble", "in/plan.toml", "--to", "o.csv")
    assert done.stdout.count("unlisted-header") == 1
    assert "also in 1.csv; 2.csv; 2 more in o-record/problems.csv" in done.stdout
    assert "5 warnings" in done.stdout
