"""Facts from names, expectation, labels, and outputs named after identifiers."""

import datetime as dt
import os

import pytest

import integrum as ig
from integrum.plan.scheme import Scheme


def line(number: int) -> str:
    return f"depth\n{number}\n"


def plan(folder, *columns: ig.Column, rules: ig.Rules | None = None, **sources: object) -> ig.Plan:
    group = ig.Sources(str(folder.path), **sources)
    return ig.Plan([group], [*columns, ig.Column("depth", "number")], rules=rules or ig.Rules())


@pytest.mark.parametrize(
    ("scheme", "path", "values"),
    [
        ("{lake}_{month}_{serial}.csv", "x/amb_2024-05_0417.csv", ["amb", "2024-05", "0417"]),
        ("{lake}_{month}_{serial}.csv", "AMB_2024-05_0417.CSV", ["AMB", "2024-05", "0417"]),
        ("{round}/{site}.csv", "data/spring/north.csv", ["spring", "north"]),
        ("{lake+}_{month}.csv", "quillon_tarn_2024-05.csv", ["quillon_tarn", "2024-05"]),
        ("{lake}[_{serial}].csv", "amb.csv", ["amb", ""]),
        ("{lake}[_{serial}].csv", "amb_1.csv", ["amb", "1"]),
        ("lake {lake}, {month}.csv", "lake amb, may.csv", ["amb", "may"]),
        ("{lake}-{month}.csv", "quillon-tarn-may.csv", None),
        ("{lake+}_{place+}.csv", "a_b_c.csv", None),
        ("{lake}_{month}.csv", "amb.csv", None),
        ("{round}/{site}.csv", "north.csv", None),
    ],
)
def test_schemes(scheme: str, path: str, values: list[str] | None) -> None:
    made = Scheme(scheme)
    fit = made.fit(path)
    assert (list(fit.values.values()) if fit.values else None) == values
    assert bool(fit.reason) == (values is None)
    assert made.fit(path) == fit


def test_types_settle_what_the_separator_leaves_open(folder) -> None:
    folder.write("quillon_tarn_2024-05-01_0417.csv", line(1))
    open_to_doubt = plan(folder, ids="{lake}_{day}_{serial}.csv")
    (problem,) = ig.assemble(open_to_doubt).problems
    assert problem.code == "path-does-not-fit"
    assert "more than one way" in problem.message
    settled = plan(folder, ig.Column("day", "date"), ids="{lake}_{day}_{serial}.csv")
    outcome = ig.assemble(settled)
    assert outcome.problems == ()
    assert outcome.table.to_pylist()[0] | {"source": ""} == {
        "source": "",
        "source_row": 2,
        "lake": "quillon_tarn",
        "serial": "0417",
        "day": dt.date(2024, 5, 1),
        "depth": 1.0,
    }


def test_an_identifier_is_a_column_like_any_other(folder, tmp_path) -> None:
    folder.write("spring/AMB_7.csv", line(1))
    folder.write("spring/quillon-tarn_x.csv", line(2))
    made = plan(
        folder,
        ig.Column("number", "integer"),
        ig.Column("lake", swap={"-": " "}, case="title", values={"Amb": "Ambermere"}),
        ids="{lake}_{number}.csv",
        constants={"project": "lake watch"},
        facts={"round": "folder", "file": "name", "changed": "modified"},
    )
    os.utime(folder.path / "spring" / "AMB_7.csv", (1_700_000_000, 1_700_000_000))
    outcome = ig.assemble(made, to=tmp_path / "o.csv")
    assert outcome.schema.names[2:] == ["project", "round", "file", "changed", "number", "lake", "depth"]
    first, second = outcome.table.drop_columns(["source", "source_row"]).to_pylist()
    assert first == {
        "project": "lake watch",
        "round": "spring",
        "file": "AMB_7",
        "changed": first["changed"],
        "number": 7,
        "lake": "Ambermere",
        "depth": 1.0,
    }
    assert str(first["changed"]) == "2023-11-14 22:13:20"
    assert (second["number"], second["lake"]) == (None, "Quillon Tarn")
    (problem,) = outcome.problems
    assert (problem.code, problem.column, problem.raw) == ("bad-value", "number", "x")


@pytest.mark.parametrize(("rule", "rows"), [("blank", 2), ("set-source-aside", 1)])
def test_a_path_that_does_not_fit(folder, rule: str, rows: int) -> None:
    folder.write("amb_may.csv", line(1))
    folder.write("download (2).csv", line(2))
    outcome = ig.assemble(plan(folder, ids="{lake}_{month}.csv", rules=ig.Rules(misnamed=rule)))
    assert outcome.rows == rows
    assert outcome.table["lake"].to_pylist() == ["amb", None][:rows]
    (problem,) = outcome.problems
    assert problem.source == "download (2).csv"
    assert 'expected lake and then "_"' in problem.message
    assert outcome.status == 1
    assert (outcome.lost.sources, outcome.lost.identifiers) == ((0, 2) if rule == "blank" else (1, 0))


def test_groups_with_different_identifiers_and_a_header_of_that_name(folder) -> None:
    folder.write("a/amb_1.csv", "depth,lake\n1,inside\n")
    folder.write("b/2.csv", "depth,lake\n2,Quillon\n")
    made = ig.Plan(
        [ig.Sources(str(folder.path / "a"), ids="{lake}_{n}.csv"), ig.Sources(str(folder.path / "b"))],
        [ig.Column("lake"), ig.Column("depth", "integer")],
    )
    outcome = ig.assemble(made)
    assert outcome.table["lake"].to_pylist() == ["amb", "Quillon"]
    assert outcome.table["n"].to_pylist() == ["1", None]
    assert [(one.code, one.column, one.source) for one in outcome.problems] == [
        ("unlisted-header", "lake", "a/amb_1.csv")
    ]


def test_what_is_expected(folder, integrum) -> None:
    for at, name in enumerate(["amb_may", "amb_june", "qui_may", "odd_may"]):
        folder.write(f"{name}.csv", line(at))

    def said(**sources: object) -> list[tuple[str, str, str]]:
        return [(one.severity, one.code, one.source) for one in ig.assemble(plan(folder, **sources)).problems]

    assert said(expect=4) == []
    assert said(expect=5) == [("error", "source-count", "")]
    assert said(expect=["amb_may", "amb_june.csv", "qui_may", "qui_june.csv"]) == [
        ("warning", "source-unexpected", "odd_may.csv"),
        ("error", "source-missing", "qui_june.csv"),
    ]
    product = {"lake": ["amb", "qui"], "month": ["may", "june"]}
    assert said(ids="{lake}_{month}.csv", expect=product) == [
        ("warning", "source-unexpected", "odd_may.csv"),
        ("error", "source-missing", "lake = qui, month = june"),
    ]
    assert ig.assemble(plan(folder, expect=5)).status == 1
    grid = ig.survey(plan(folder, ids="{lake}_{month}.csv", expect=product)).coverage
    assert str(grid).splitlines()[1:] == [
        "       may     june",
        "  amb    1        1",
        "  odd    1        -",
        "  qui    1  missing",
        "1 combination without a source",
        "  lake = qui, month = june",
    ]
    shown = integrum("survey", "in", "--names", "--ids", "{lake}_{month}.csv", "--expect", "5")
    assert "5 sources were expected in in; 4 are there" in shown.stdout
    assert "sources by lake (down) and month (across)" in shown.stdout


def test_labels_stand_in_the_provenance_column(folder, tmp_path) -> None:
    folder.write("a.csv", line(1))
    folder.write("b.csv", line(2))
    outcome = ig.assemble(
        plan(folder, labels={"a.csv": "Upper basin", "gone.csv": "x"}), to=tmp_path / "o.csv"
    )
    assert outcome.table["source"].to_pylist() == ["Upper basin", "b.csv"]
    assert [(one.code, one.source) for one in outcome.problems] == [("label-unused", "gone.csv")]
    assert (outcome.record / "sources.csv").read_text().splitlines()[1].startswith("a.csv,,Upper basin,")


def test_an_output_for_each_value(folder, tmp_path, integrum) -> None:
    for at, name in enumerate(["amb_1", "qui_1", "amb_2", "qui_2", "odd"]):
        folder.write(f"{name}.csv", line(at))
    outcome = ig.assemble(plan(folder, ids="{lake}_{n}.csv"), to=tmp_path / "{lake}_tidy.parquet")
    assert [(part.output.name, part.rows) for part in outcome.parts] == [
        ("amb_tidy.parquet", 2),
        ("no-lake_tidy.parquet", 1),
        ("qui_tidy.parquet", 2),
    ]
    assert [path.name for path in tmp_path.glob("*-record")] == ["lake_tidy-record"]
    assert outcome.record == tmp_path / "lake_tidy-record"
    assert outcome.parts[2].table["source"].to_pylist() == ["qui_1.csv", "qui_2.csv"]
    assert (outcome.rows, outcome.table.num_rows, len(outcome.sources)) == (5, 5, 5)
    by_group = integrum("assemble", "in", "--to", "group {group}.csv")
    assert by_group.returncode == 0
    assert (tmp_path / "group 1.csv").exists()
    wrong = integrum("assemble", "in", "--ids", "{lake}_{n}.csv", "--to", "{laek}.csv")
    assert wrong.returncode == 2
    assert 'did you mean "lake"?' in wrong.stderr
    folder.write("a:b_1.csv", line(7))
    folder.write("a?b_1.csv", line(8))
    with pytest.raises(ig.OutputError, match="both be written"):
        ig.assemble(plan(folder, ids="{lake}_{n}.csv"), to=tmp_path / "{lake}.csv")


def test_a_draft_proposes_a_scheme_and_says_how_many_names_fit(folder) -> None:
    for at in range(9):
        folder.write(f"amb_2024-0{at + 1}_0417.csv", line(at))
    text = str(ig.draft(folder.path))
    assert "# all 9 names follow a pattern" in text
    assert '# ids = "amb_{month}_{number}.csv"' in text
    folder.write("odd one.csv", line(10))
    text = str(ig.draft(folder.path))
    assert "# 9 of 10 names follow a pattern; not: odd one.csv" in text and '# ids = "amb_' in text
    for at in range(9):
        folder.write(f"odd {at}ne.csv", line(20 + at))
    assert "ids =" not in str(ig.draft(folder.path))
    for path in folder.path.glob("odd*"):
        path.unlink()
    kept = ig.draft(ig.Sources(str(folder.path), ids="amb_{month}_{number}.csv"))
    assert [(column.name, column.type) for column in kept.plan.columns] == [
        ("month", "month"),
        ("number", "text"),
        ("depth", "integer"),
    ]
    assert ig.assemble(kept).table["number"].to_pylist()[0] == "0417"


@pytest.mark.parametrize(
    ("sources", "said"),
    [
        ({"ids": "{lake"}, "unmatched"),
        ({"ids": "all.csv"}, "not have an identifier"),
        ({"ids": "{a}{b}.csv"}, "side by side"),
        ({"ids": "{a}_{a}.csv"}, "twice"),
        ({"ids": "{a}.csv", "constants": {"a": "x"}}, "filled twice"),
        ({"ids": "{source}.csv"}, "provenance"),
        ({"facts": {"x": "modifed"}}, 'did you mean "modified"'),
        ({"expect": 2.5}, "expected a number"),
        ({"expect": {"lake": ["a"]}}, "not an identifier of this group"),
    ],
)
def test_wrong_sources_are_said_in_the_plan(folder, sources: dict[str, object], said: str) -> None:
    with pytest.raises(ig.PlanError, match=said):
        plan(folder, **sources)
