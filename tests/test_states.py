"""Every header cell ends in exactly one state: claimed, in part, left out, guessed, unlisted."""

import pytest

import integrum as ig


def assembled(folder, *columns: ig.Column, sources: ig.Sources | None = None, **more: object) -> ig.Outcome:
    plan = ig.Plan([sources or ig.Sources(str(folder.path))], columns, **more)
    return ig.assemble(plan)


def states(folder, tmp_path, *columns: ig.Column, **more: object) -> dict[str, tuple[str, str, int]]:
    plan = ig.Plan([ig.Sources(str(folder.path))], columns, **more)
    ig.assemble(plan, to=tmp_path / "out" / "o.csv")
    record = ig.read_record(tmp_path / "out" / "o.csv")
    return {one.header: (one.state, one.column, one.sources) for one in record.headers}


def codes(outcome: ig.Outcome) -> list[tuple[str, str]]:
    return [(one.code, one.column) for one in outcome.problems]


def test_the_record_has_every_header_cell_in_one_state(folder, tmp_path) -> None:
    folder.write("a.csv", "day,Temp,T_air,battery,Odd 1,wind\n2024-05-01,1,2,3,4,5\n")
    folder.write("b.csv", "day,temp,battery\n2024-05-02,6,7\n")
    found = states(
        folder,
        tmp_path,
        ig.Column("day", "date"),
        ig.Column("temp", "number", also=["Temp"], maybe=[ig.Maybe("T_air", 0.7)]),
        leave_out=["battery", "Odd*"],
    )
    assert found == {
        "day": ("matched", "day", 2),
        "Temp": ("matched", "temp", 1),
        "T_air": ("guessed", "temp", 1),
        "battery": ("left out", "", 2),
        "Odd 1": ("left out", "", 1),
        "wind": ("unlisted", "", 1),
        "temp": ("matched", "temp", 1),
    }


def test_what_is_left_out_on_purpose_is_not_reported_and_a_guess_is(folder) -> None:
    folder.write("a.csv", "temp,Battery (V),T2\n1,2,3\n")
    made = assembled(
        folder,
        ig.Column("temp", "number", maybe=["T2"]),
        sources=ig.Sources(str(folder.path), leave_out=["battery v"]),
    )
    assert codes(made) == [("header-guessed", "T2")]
    assert made.table.column_names == ["source", "source_row", "temp"]


def test_a_column_that_is_claimed_by_name_is_not_left_out_by_a_pattern(folder) -> None:
    folder.write("a.csv", "Odd one,Odd two\n1,2\n")
    made = assembled(folder, ig.Column("Odd one"), leave_out=["Odd*"])
    assert made.table["Odd one"].to_pylist() == ["1"]
    assert codes(made) == []


def test_what_a_group_leaves_out_may_be_a_column_of_another(folder) -> None:
    folder.write("a/x.csv", "temp,battery\n1,2\n")
    folder.write("b/x.csv", "temp,battery\n3,4\n")
    plan = ig.Plan(
        [ig.Sources(str(folder.path / "a"), leave_out=["battery"]), ig.Sources(str(folder.path / "b"))],
        [ig.Column("temp", "integer"), ig.Column("battery", "integer")],
    )
    made = ig.assemble(plan)
    assert made.table["battery"].to_pylist() == [None, 4]
    assert codes(made) == []


def test_a_mixture_of_units_is_said_where_the_plan_gives_none(folder) -> None:
    folder.write("a.csv", "id,depth (m)\n1,2\n")
    folder.write("b.csv", "id,depth (ft)\n1,6\n")
    column = ig.Column("depth", "number", also=["depth (m)", "depth (ft)"])
    made = assembled(folder, ig.Column("id"), column)
    assert codes(made) == [("units-mixed", "depth")]
    assert "m in 1, ft in 1" in made.problems[0].message


@pytest.mark.parametrize(
    ("columns", "more", "said"),
    [
        ([{"name": "T", "never": ["U"], "also": ["U"]}], {}, "in both `also` and `never`"),
        ([{"name": "T"}], {"leave_out": ["T"]}, "also belongs to"),
        ([{"name": "T", "optional": True, "required": True}], {}, "cannot be both"),
        ([{"name": "T", "also": ["U"]}, {"name": "V", "also": ["U"]}], {}, "also belongs to"),
    ],
)
def test_a_plan_that_contradicts_itself_is_an_error(columns, more, said: str) -> None:
    with pytest.raises(ig.PlanError, match=said):
        ig.Plan([ig.Sources("a")], [ig.Column(**each) for each in columns], **more)


def test_the_same_header_means_different_columns_in_different_sources(folder) -> None:
    folder.write("2019/a.csv", "T,depth\n1,2\n")
    folder.write("2020/a.csv", "T,depth\n3,4\n")
    made = assembled(
        folder,
        ig.Column("air", "number", also=[ig.Also("T", in_="2019/**")]),
        ig.Column("water", "number", also=["T"]),
        ig.Column("depth", "number"),
    )
    assert made.table["air"].to_pylist() == [1, None]
    assert made.table["water"].to_pylist() == [None, 3]


def test_in_may_name_a_group_and_a_place_without_sources_is_said(folder) -> None:
    folder.write("old/a.csv", "T\n1\n")
    folder.write("new/a.csv", "T\n2\n")
    groups = [ig.Sources(str(folder.path / name), group=f"{name} ones") for name in ("old", "new")]
    columns = [
        ig.Column("air", "number", also=[ig.Also("T", in_="old ones"), ig.Also("t9", in_="2031/*")]),
        ig.Column("water", "number", also=[ig.Also("T", in_="new ones")]),
    ]
    made = ig.assemble(ig.Plan(groups, columns))
    assert made.table["air"].to_pylist() == [1, None]
    assert made.table["water"].to_pylist() == [None, 2]
    assert [(one.code, one.raw) for one in made.problems] == [("place-unmatched", "2031/*")]


def test_two_columns_that_both_take_a_header_here_set_the_source_aside(folder) -> None:
    folder.write("2019/a.csv", "T\n1\n")
    folder.write("b.csv", "T\n2\n")
    made = assembled(
        folder,
        ig.Column("air", "number", also=[ig.Also("T", in_="2019/**"), "T"]),
        ig.Column("water", "number", also=[ig.Also("T", in_="2019/*")]),
    )
    assert [one.reason for one in made.sources] == ["header-claimed-twice", ""]


def test_a_pattern_counts_where_no_header_is_literally_so(folder) -> None:
    folder.write("a.csv", "Temp 2 (°C),Depth?\n1,2\n")
    folder.write("b.csv", "Temp 3 (°C),Depth2\n3,4\n")
    made = assembled(
        folder,
        ig.Column("temp", "number", also=["Temp ? (°C)"]),
        ig.Column("depth", "number", also=["Depth?"]),
    )
    assert made.table["temp"].to_pylist() == [1, 3]
    # "Depth?" stands in a source, so it is no pattern, and "Depth2" is not it
    assert made.table["depth"].to_pylist() == [2, None]
    assert codes(made) == [("unlisted-header", "Depth2")]


def test_a_header_that_patterns_of_two_columns_fit_is_nobodys(folder) -> None:
    folder.write("a.csv", "day,Temp 2\n2024-05-01,1\n")
    made = assembled(
        folder,
        ig.Column("day", "date"),
        ig.Column("air", "number", also=["Temp*"], optional=True),
        ig.Column("water", "number", also=["Temp ?"], optional=True),
    )
    assert codes(made) == [("header-fits-several", "Temp 2"), ("unlisted-header", "Temp 2")]


def test_of_several_headers_the_first_that_is_filled_counts_and_what_differs_is_said(folder) -> None:
    folder.write("a.csv", "id,T2,T1\na,1.0,\nb,,2\nc,3,3.0\nd,4,5\ne,x,6\nf,n/a,7\n")
    made = assembled(
        folder,
        ig.Column("id"),
        ig.Column("t", "number", also=["T1", "T2"], first_filled=True, missing=["n/a"]),
    )
    assert made.table["t"].to_pylist() == [1.0, 2.0, 3.0, 5.0, 6.0, 7.0]
    assert [(one.code, one.row, one.raw) for one in made.problems] == [("values-differ", 5, "5 | 4")]
    assert [(one.row, one.column, one.raw) for one in made.set_aside] == [
        (5, "t", "5 | 4"),
        (6, "t", "6 | x"),
    ]


def test_only_columns_that_every_source_has(folder, tmp_path) -> None:
    folder.write("a.csv", "day,temp,wind\n2024-05-01,1,2\n")
    folder.write("b.csv", "day,temp\n2024-05-02,3\n")
    folder.write("c.csv", "something else\n4\n")
    columns = [ig.Column("day", "date"), ig.Column("temp", "number"), ig.Column("wind", "number")]
    made = assembled(folder, *columns, rules=ig.Rules(only_common=True))
    assert made.table.column_names == ["source", "source_row", "day", "temp"]
    assert ("column-not-common", "wind") in codes(made)
    found = states(folder, tmp_path, *columns, rules=ig.Rules(only_common=True))
    assert found["wind"] == ("left out", "wind", 1)


def test_a_column_that_no_source_has_is_a_warning_unless_it_is_optional(folder) -> None:
    folder.write("a.csv", "day,temp\n2024-05-01,1\n")
    slip = assembled(folder, ig.Column("day", "date"), ig.Column("tmep", "number"))
    (problem,) = [one for one in slip.problems if one.code == "column-nowhere"]
    assert (problem.severity, problem.column) == ("warning", "tmep")
    assert 'did you mean "temp"?' in problem.hint
    fine = assembled(
        folder, ig.Column("day", "date"), ig.Column("temp"), ig.Column("wind", "number", optional=True)
    )
    assert codes(fine) == []
    assert fine.table["wind"].to_pylist() == [None]


@pytest.mark.parametrize(("unlisted", "rows", "names"), [("keep", 1, ["T2"]), ("refuse", 0, [])])
def test_a_guess_counts_as_a_header_that_nobody_claims(
    folder, unlisted: str, rows: int, names: list[str]
) -> None:
    folder.write("a.csv", "temp,T2\n1,3\n")
    folder.write("b.csv", "temp\n1\n")
    made = assembled(folder, ig.Column("temp", "number", maybe=["T2"]), rules=ig.Rules(unlisted=unlisted))
    assert made.rows == 1 + rows
    assert made.table.column_names[3:] == names
