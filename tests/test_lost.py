"""What is lost: counted by what it is and by cause, said in the second line, and the exit status."""

import json
from collections.abc import Callable
from pathlib import Path

import pytest

import integrum as ig
from conftest import Folder

HEAD = "lake,day,depth\n"
ROWS = "Amber,2024-05-01,1.5\nAmber,2024-05-02,2.5\n"
LAKE, DAY, DEPTH = ig.Column("lake"), ig.Column("day", "date"), ig.Column("depth", "number")


def run(folder: Folder, *columns: ig.Column, rules: ig.Rules | None = None, **group: object) -> ig.Outcome:
    group = {"find": str(folder.path)} | group
    plan = ig.Plan([ig.Sources(**group)], columns or [LAKE, DAY, DEPTH], rules=rules or ig.Rules())
    return ig.assemble(plan)


def good(folder: Folder) -> None:
    folder.write("a.csv", HEAD + ROWS)
    folder.write("b.csv", HEAD + ROWS.replace("Amber", "Quillon"))


def lost(outcome: ig.Outcome) -> dict[tuple[str, str], int]:
    return {(one.what, one.cause): one.count for one in outcome.lost.by_cause}


# what is done to two good files, what is lost by it, and what the second line says
CASES: dict[str, tuple[Callable[[Folder], ig.Outcome], dict[tuple[str, str], int], str]] = {
    "nothing": (run, {}, "nothing is missing from the table"),
    "a copy": (
        lambda f: (f.write("a (1).csv", HEAD + ROWS), run(f))[1],
        {},
        "nothing is missing from the table",
    ),
    "a broken file": (
        lambda f: (f.write("c.csv", HEAD + '"x'), run(f))[1],
        {("source", "quote-not-closed"): 1},
        "not in the table: 1 source",
    ),
    "other suffixes": (
        lambda f: ([f.write(f"{n}.dat", HEAD + ROWS) for n in "xyz"], run(f))[1],
        {("source", "tables-skipped"): 3},
        "not in the table: 3 files that look like tables",
    ),
    "a long row": (
        lambda f: (f.write("c.csv", HEAD + ROWS + "Hollow,2024-05-01,1,2\n"), run(f))[1],
        {("row", "row-too-long"): 1},
        "not in the table: 1 row",
    ),
    "bad cells": (
        lambda f: (f.write("c.csv", HEAD + "Hollow,soon,1\nHollow,2024-05-01,deep\nHollow,2024-05-02,x\n"), run(f))[1],
        {("cell", "bad-value"): 3},
        "not in the table: 3 cells of 2 columns",
    ),
    "rows with bad cells": (
        lambda f: (
            f.write("c.csv", HEAD + "Hollow,soon,deep\nHollow,2024-05-01,1\n"),
            run(f, rules=ig.Rules(bad_values="set-row-aside")),
        )[1],
        {("row", "bad-value"): 1},
        "not in the table: 1 row",
    ),
    "sources with bad cells": (
        lambda f: (f.write("c.csv", HEAD + "Hollow,soon,1\n"), run(f, rules=ig.Rules(bad_values="set-source-aside")))[1],
        {("source", "bad-value"): 1},
        "not in the table: 1 source",
    ),
    "too many bad cells": (
        lambda f: (f.write("c.csv", HEAD + "Hollow,2024-05-01,x\n"), run(f, rules=ig.Rules(bad_share=0.5)))[1],
        {("cell", "bad-share"): 1},
        "not in the table: 1 cell of 1 column",
    ),
    "headers of no column": (
        lambda f: (
            [f.write(f"{n}.csv", f"lake,day,depth,wind,ice\n{n},2024-05-01,1,2,3\n") for n in "cd"],
            run(f),
        )[1],
        {("column", "unlisted-header"): 2},
        'not in the table: 2 columns of the sources ("wind", "ice")',
    ),
    "headers that nobody asked for": (
        lambda f: (f.write("c.csv", "lake,day,depth,wind\nx,2024-05-01,1,2\n"), run(f, rules=ig.Rules("leave-out")))[1],
        {},
        "nothing is missing from the table",
    ),
    "a name that does not fit": (
        lambda f: (
            f.write("amber_5.csv", HEAD + ROWS.replace("1.5", "7")),
            run(f, LAKE, DAY, DEPTH, ids="{site}_{month}.csv"),
        )[1],
        {("identifier", "path-does-not-fit"): 4},
        "not in the table: 4 identifiers of 2 sources",
    ),
    "rows that a layout leaves out": (
        lambda f: (
            f.write("c.csv", HEAD + ROWS.replace("Amber", "Hollow") + "Total,2024-05-03,9.5\n"),
            run(f, layout=ig.Layout(footer_from=["Total"])),
        )[1],
        {("row", "left-out-like-data"): 1},
        "not in the table: 1 row left out that looks like data",
    ),
    "an expected source": (
        lambda f: run(f, expect=["a", "b", "c"]),
        {("missing", "source-missing"): 1},
        "not in the table: 1 expected source",
    ),
    "fewer sources than expected": (
        lambda f: run(f, expect=5),
        {("missing", "source-count"): 3},
        "not in the table: 3 expected sources",
    ),
    "a column that is nowhere": (
        lambda f: run(f, LAKE, DAY, DEPTH, ig.Column("wind")),
        {("missing", "column-nowhere"): 1},
        "not in the table: 1 column of the plan that no source has",
    ),
    "a column that may be nowhere": (
        lambda f: run(f, LAKE, DAY, DEPTH, ig.Column("wind", optional=True)),
        {},
        "nothing is missing from the table",
    ),
    "a place without sources": (
        lambda f: run(f, find=[str(f.path), str(f.path / "june")]),
        {("missing", "nothing-found"): 1},
        "not in the table: 1 place of the plan without any source",
    ),
    "several things": (
        lambda f: (
            f.write("c.csv", "lake,day,depth,wind\nHollow,soon,1,3\nHollow,2024-05-01,2,3,4\n"),
            f.write("d.csv", '"x'),
            run(f),
        )[2],
        {
            ("source", "quote-not-closed"): 1,
            ("row", "row-too-long"): 1,
            ("cell", "bad-value"): 1,
            ("column", "unlisted-header"): 1,
        },
        'not in the table: 1 source, 1 row, 1 cell of 1 column, 1 column of the sources ("wind")',
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", CASES)
def test_what_is_lost_is_counted_by_cause_and_said_in_the_second_line(folder, name: str) -> None:
    good(folder)
    do, wanted, line = CASES[name]
    outcome = do(folder)
    assert lost(outcome) == wanted
    assert str(outcome).splitlines()[1] == line
    assert outcome.status == int(bool(wanted))
    of_table = {what for what, _ in wanted} - {"missing"}
    assert bool(outcome.lost) == bool(of_table)
    for what in ("source", "row", "cell", "column", "identifier"):
        assert getattr(outcome.lost, f"{what}s") == sum(
            count for (kind, _), count in wanted.items() if kind == what
        )


def test_it_is_on_the_screen_in_json_in_the_record_and_in_the_report(folder, tmp_path, integrum) -> None:
    good(folder)
    folder.write("c.csv", HEAD + "Hollow,2024-05-01,deep\n")
    (tmp_path / "plan.toml").write_text(
        'integrum = 1\n[[sources]]\nfind = ["in"]\n[[columns]]\nname = "lake"\n[[columns]]\nname = "day"\ntype = "date"\n'
        '[[columns]]\nname = "depth"\ntype = "number"\n'
    )
    line = "not in the table: 1 cell of 1 column"
    ran = integrum("assemble", "plan.toml", "--to", "o.csv", "--report")
    assert ran.returncode == 1 and ran.stdout.splitlines()[1] == line
    made = json.loads(integrum("assemble", "plan.toml", "--to", "o.csv", "--json").stdout)
    assert made["status"] == 1 and made["lost"]["said"] == line
    assert {key: made["lost"][key] for key in ("sources", "rows", "cells", "columns", "identifiers", "missing")} == {
        "sources": 0, "rows": 0, "cells": 1, "columns": 0, "identifiers": 0, "missing": 0,
    }  # fmt: skip
    assert made["lost"]["by_cause"] == [{"what": "cell", "cause": "bad-value", "count": 1}]
    assert (
        json.loads((tmp_path / "o-record" / "run.json").read_text())["lost"]["by_cause"]
        == made["lost"]["by_cause"]
    )
    record = ig.read_record(tmp_path / "o.csv")
    assert str(record.lost) == line == str(ig.overview(tmp_path / "o.csv")).splitlines()[1]
    assert "Not in the table: 1 cell of 1 column." in ig.report(tmp_path / "o.csv").read_text()
    # also of rows that are taken over
    again = ig.assemble(tmp_path / "plan.toml", to=tmp_path / "o.csv")
    assert again.taken_over == 3 and again.lost == record.lost


def test_each_of_several_outputs_has_its_own(folder, tmp_path) -> None:
    folder.write("amber.csv", HEAD + ROWS)
    folder.write("hollow.csv", HEAD + "Hollow,soon,deep\n")
    plan = ig.Plan([ig.Sources(str(folder.path), ids="{site}.csv")], [LAKE, DAY, DEPTH])
    outcome = ig.assemble(plan, to=tmp_path / "{site}.csv")
    assert [part.lost.cells for part in outcome.parts] == [0, 2]
    assert [part.status for part in outcome.parts] == [0, 1] and outcome.lost.cells == 2


def test_lost_data_come_first_and_a_copy_comes_last(folder, integrum) -> None:
    good(folder)
    folder.write("a (1).csv", HEAD + ROWS)
    folder.write("c.csv", "lake,day,depth,wind\nHollow,soon,1,3\n")
    folder.write("d.csv", '"x')
    folder.write("notes.docx", b"PK")
    ran = integrum("assemble", "in", "--to", "o.csv")
    codes = [
        line.rsplit("[", 1)[1].rstrip("]")
        for line in ran.stdout.splitlines()
        if line.endswith("]") and "[" in line
    ]
    assert codes[0] == "quote-not-closed" and codes[-1] == "same-content", codes


def test_a_copy_whose_name_says_something_else_may_hide_a_missing_file(folder) -> None:
    folder.write("amber_5.csv", HEAD + ROWS)
    folder.write("amber_6.csv", HEAD + ROWS)
    outcome = run(folder, ids="{site}_{month}.csv")
    (problem,) = outcome.problems
    assert (problem.code, problem.severity, outcome.status) == ("same-content", "warning", 0)


def test_columns_that_nobody_asked_for_are_one_note(folder, tmp_path, integrum) -> None:
    for number in range(10):
        names = [f"c{number}_{at}" for at in range(40)]
        folder.write(f"{number}.csv", f"lake,{','.join(names)}\nL{number},{','.join('1' * 40)}\n")
    (tmp_path / "wanted.toml").write_text('[[columns]]\nname = "lake"\n')
    made = integrum("draft", "in", "--columns", "wanted.toml", "--plan", "plan.toml")
    assert made.returncode == 0
    assert ig.read_plan(tmp_path / "plan.toml").rules.unlisted == "leave-out"
    for outcome in (
        ig.assemble(tmp_path / "plan.toml"),
        ig.assemble(ig.draft(folder.path, columns=["lake"])),
    ):
        assert [(one.code, one.severity) for one in outcome.problems] == [("not-asked-for", "note")]
        assert outcome.problems[0].message.startswith(
            "400 headers of the sources are in no column of the plan"
        )
        assert (outcome.status, str(outcome.lost)) == (0, "nothing is missing from the table")
    without = ig.assemble(ig.Plan([ig.Sources(str(folder.path))], ["lake"]))
    assert (without.status, without.lost.columns) == (1, 400)


@pytest.mark.parametrize("words", ["README.md", "docs/command-line.md"])
def test_the_exit_status_is_told_where_people_look(words: str, integrum) -> None:
    text = " ".join((Path(__file__).parent.parent / words).read_text().split())
    for said in ("0 assembled, and nothing is lost", "2 nothing"):
        assert said in text
        assert said in " ".join(integrum("--help").stdout.split())
