"""Reconciling columns: by name, then loosely; never by position, never lost without a word."""

import pytest

import integrum as ig


def plan(folder, *columns: ig.Column, **rules: str) -> ig.Plan:
    return ig.Plan([ig.Sources(str(folder.path))], columns, rules=ig.Rules(**rules))


def test_columns_are_matched_by_name_and_absent_ones_are_empty(folder) -> None:
    folder.write("a.csv", "temp,lake\n7.20,Ambermere\n")
    folder.write("b.csv", "Lake Name,wind\nQuillon,3\n")
    table = ig.assemble(
        plan(
            folder,
            ig.Column("lake", also=["Lake Name"]),
            ig.Column("temp", "number"),
            ig.Column("wind", "integer"),
        )
    ).table
    assert table.to_pydict() == {
        "source": ["a.csv", "b.csv"],
        "source_row": [2, 2],
        "lake": ["Ambermere", "Quillon"],
        "temp": [7.2, None],
        "wind": [None, 3],
    }


def test_case_spaces_and_punctuation_do_not_count_but_are_noted(folder) -> None:
    folder.write("a.csv", "Water-Temp.,O2 (%)\n1,2\n")
    outcome = ig.assemble(plan(folder, ig.Column("water_temp"), ig.Column("o2")))
    assert outcome.table["water_temp"].to_pylist() == ["1"]
    assert outcome.table["o2"].to_pylist() == [None]
    assert [(one.severity, one.code, one.column) for one in outcome.problems] == [
        ("warning", "column-nowhere", "o2"),
        ("note", "header-spelling", "water_temp"),
        ("warning", "unlisted-header", "O2 (%)"),
    ]


def test_an_exact_name_wins_over_a_loose_one(folder) -> None:
    folder.write("a.csv", "Temp,temp\n1,2\n")
    outcome = ig.assemble(plan(folder, ig.Column("temp")))
    assert outcome.table["temp"].to_pylist() == ["2"]
    assert [one.column for one in outcome.problems] == ["Temp"]


def test_two_headers_of_one_column_set_the_source_aside(folder) -> None:
    folder.write("a.csv", "temp,T\n1,2\n")
    folder.write("b.csv", "T\n3\n")
    outcome = ig.assemble(plan(folder, ig.Column("temp", also=["T"])))
    assert [account.reason for account in outcome.sources] == ["header-claimed-twice", ""]
    assert outcome.table["temp"].to_pylist() == ["3"]


@pytest.mark.parametrize(
    ("rule", "rows", "status"), [("report", 2, 1), ("leave-out", 2, 0), ("keep", 2, 0), ("refuse", 1, 1)]
)
def test_what_happens_to_a_header_that_no_column_claims(folder, rule: str, rows: int, status: int) -> None:
    folder.write("a.csv", "lake\nx\n")
    folder.write("b.csv", "lake,new thing\ny,5\n")
    outcome = ig.assemble(plan(folder, ig.Column("lake"), unlisted=rule))
    assert (outcome.rows, outcome.status) == (rows, status)
    assert ("new thing" in outcome.schema.names) == (rule == "keep")
    told = [one.severity for one in outcome.problems if "new thing" in (one.column, *one.message.split('"'))]
    assert told == {"report": ["warning"], "leave-out": ["note"], "keep": [], "refuse": ["error"]}[rule]
    assert outcome.lost.columns == (rule == "report") and outcome.lost.sources == (rule == "refuse")


def test_a_source_without_a_required_column_is_set_aside(folder) -> None:
    folder.write("a.csv", "lake\nx\n")
    folder.write("b.csv", "lakes\ny\n")
    outcome = ig.assemble(plan(folder, ig.Column("lake", required=True)))
    assert [account.reason for account in outcome.sources] == ["", "required-missing"]
    assert 'did you mean "lakes"' in " ".join(one.hint for one in outcome.problems)


def test_a_draft_unites_what_differs_in_writing_and_keeps_a_stable_order(folder) -> None:
    folder.write("2021.csv", "day,Depth (m),note\n2021-01-01,1,a\n")
    folder.write("2022.csv", "day,wind,depth_m\n2022-01-01,3,2.5\n")
    folder.write("2023.csv", "day,depth_m,ice,note\n2023-01-01,3,true,c\n")
    draft = ig.draft(folder.path)
    assert [(column.name, column.type, column.also) for column in draft.plan.columns] == [
        ("day", "date", ()),
        ("wind", "integer", ()),
        ("depth_m", "number", ("Depth (m)",)),
        ("ice", "boolean", ()),
        ("note", "text", ()),
    ]
    assert ig.parse_plan(str(draft)) == draft.plan


def test_names_side_by_side_are_different_columns(folder) -> None:
    folder.write("a.csv", "temp,Temp\n1,2\n")
    assert [column.name for column in ig.draft(folder.path).plan.columns] == ["temp", "Temp"]
    assert ig.assemble(folder.path).table["Temp"].to_pylist() == [2]


def test_a_column_named_source_makes_room(folder) -> None:
    folder.write("a.csv", "source,source_row\nspring,7\n")
    assert ig.assemble(folder.path).table.to_pydict() == {
        "file_source": ["a.csv"],
        "file_source_row": [2],
        "source": ["spring"],
        "source_row": [7],
    }


def test_provenance_can_be_renamed_or_left_out(folder) -> None:
    folder.write("a.csv", "x\n1\n")
    for given, names in [
        (ig.Provenance("file", "line"), ["file", "line", "x"]),
        (ig.Provenance(source_row=False), ["source", "x"]),
        (ig.Provenance(False, False), ["x"]),
    ]:
        made = ig.Plan([ig.Sources(str(folder.path))], [ig.Column("x")], given)
        assert ig.assemble(made).table.column_names == names
