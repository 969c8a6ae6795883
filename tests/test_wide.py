"""Wide sources: a column per month, depth or species becomes rows, and the ledger adds up."""

import pytest

import integrum as ig

COUNTS = "station,note,2024-04,2024-05,2024-06\nA,x,3,,5\nB,,0,7,n/a\nC,z,,,\n"


def plan(folder, wide: ig.Wide, *columns: ig.Column, **rules: object) -> ig.Plan:
    return ig.Plan([ig.Sources(str(folder.path), wide=wide)], columns, rules=ig.Rules(**rules))


MONTHS = [ig.Column("station"), ig.Column("month"), ig.Column("count", "integer", missing=["n/a"])]


def test_a_column_per_month_becomes_rows(folder) -> None:
    folder.write("plankton.csv", COUNTS)
    made = ig.assemble(plan(folder, ig.Wide("20??-??", "month", "count"), *MONTHS))
    assert made.table.to_pydict() == {
        "source": ["plankton.csv"] * 5,
        "source_row": [2, 2, 3, 3, 3],
        "station": ["A", "A", "B", "B", "B"],
        "month": ["2024-04", "2024-06", "2024-04", "2024-05", "2024-06"],
        "count": [3, 5, 0, 7, None],
    }
    (source,) = made.sources
    assert (source.ledger.data, source.rows_each, source.empty_cells, source.table_rows) == (3, 3, 4, 5)
    assert [(one.code, one.column) for one in made.problems] == [("unlisted-header", "note")]
    assert "wide: 3 rows of data became 5 rows of the table; 4 cells are empty" in str(made)


def test_empty_cells_can_be_kept(folder) -> None:
    folder.write("plankton.csv", COUNTS)
    made = ig.assemble(plan(folder, ig.Wide("20??-??", "month", "count", "keep"), *MONTHS))
    assert made.table["count"].to_pylist() == [3, None, 5, 0, 7, None, None, None, None]


def test_headers_with_more_than_one_fact(folder, tmp_path) -> None:
    folder.write("profile.csv", "day,temp 0.5 m,temp 5 m,Oxygen 5 m,air 2 m\n2024-05-01,11.2,8.1,9.3,15\n")
    columns = [
        ig.Column("day", "date"),
        ig.Column("depth", "number"),
        ig.Column("temp", "number"),
        ig.Column("oxygen", "number"),
    ]
    wide = ig.Wide("{measure} {depth} m", value="{measure}")
    made = ig.assemble(plan(folder, wide, *columns), to=tmp_path / "out" / "o.csv")
    text = (tmp_path / "out" / "o.csv").read_text()
    assert text.splitlines()[1:] == [
        "profile.csv,2,2024-05-01,0.5,11.2,",
        "profile.csv,2,2024-05-01,5,8.1,9.3",
    ]
    record = ig.read_record(tmp_path / "out" / "o.csv")
    assert {(one.header, one.state, one.column) for one in record.headers} == {
        ("day", "matched", "day"),
        ("temp 0.5 m", "in part", "temp"),
        ("temp 5 m", "in part", "temp"),
        ("Oxygen 5 m", "in part", "oxygen"),
        ("air 2 m", "unlisted", ""),
    }
    assert [one.rows_each for one in record.sources] == [2]
    assert [(one.code, one.column) for one in made.problems] == [("unlisted-header", "air 2 m")]


def test_wide_and_long_sources_of_one_thing_mix(folder) -> None:
    folder.write("2023.csv", "station,month,count\nA,2023-04,1\nA,2023-05,2\n")
    folder.write("2024.csv", "station,2024-04,2024-05\nA,3,4\n")
    made = ig.assemble(plan(folder, ig.Wide("20??-??", "month", "count"), *MONTHS))
    assert made.table["month"].to_pylist() == ["2023-04", "2023-05", "2024-04", "2024-05"]
    assert made.table["count"].to_pylist() == [1, 2, 3, 4]
    assert made.problems == ()


@pytest.mark.parametrize(
    ("rule", "counts", "set_aside"),
    [("blank", [1, None, 3, 4], 0), ("set-row-aside", [3, 4], 1), ("set-source-aside", [], 2)],
)
def test_a_bad_value_in_a_wide_source(folder, rule: str, counts: list[int | None], set_aside: int) -> None:
    folder.write("a.csv", "station,2024-04,2024-05,2024-06\nA,1,many,\nB,3,4,\n")
    folder.write("b.csv", "station,month,count\n")
    made = ig.assemble(plan(folder, ig.Wide("20??-??", "month", "count"), *MONTHS, bad_values=rule))
    assert made.table["count"].to_pylist() == counts
    assert made.sources[0].ledger.set_aside == set_aside
    assert ("bad-value", 2) in [(one.code, one.row) for one in made.problems]


def test_many_rows_in_pieces_give_the_same_bytes(folder, tmp_path) -> None:
    lines = [f"s{at},{at},,{at % 7}" for at in range(20_000)]
    folder.write("a.csv", "station,2024-04,2024-05,2024-06\n" + "\n".join(lines) + "\n")
    wanted = plan(folder, ig.Wide("20??-??", "month", "count"), *MONTHS)
    for name in ("one", "two"):
        made = ig.assemble(wanted, to=tmp_path / name / "o.csv", in_flight=50_000 if name == "two" else 0)
        assert made.rows == 40_000
    assert (tmp_path / "one/o.csv").read_bytes() == (tmp_path / "two/o.csv").read_bytes()


def test_the_same_fact_twice_sets_the_source_aside(folder) -> None:
    folder.write("a.csv", "day,temp 5 m,Temp 5 m\n2024-05-01,1,2\n")
    folder.write("b.csv", "day,temp 5 m,depth\n2024-05-02,1,2\n")
    columns = [ig.Column("day", "date"), ig.Column("depth", "number"), ig.Column("temp", "number")]
    made = ig.assemble(plan(folder, ig.Wide("{measure} {depth} m", value="{measure}"), *columns))
    assert [one.reason for one in made.sources] == ["header-claimed-twice", "header-claimed-twice"]


def test_a_group_that_is_not_wide_is_said(folder) -> None:
    folder.write("a.csv", "station,april,month,count\nA,3,x,1\n")
    made = ig.assemble(plan(folder, ig.Wide("20??-??", "month", "count"), *MONTHS, ig.Column("april")))
    (problem,) = made.problems
    assert (problem.code, problem.severity) == ("wide-unmatched", "warning")
    assert "no header fits `wide`" in problem.message


def test_an_exception_beside_wide_columns_stays_a_column(folder) -> None:
    folder.write("a.csv", "station,2024-04,2024-05,2024 total\nA,3,4,7\n")
    made = ig.assemble(
        plan(folder, ig.Wide("20*", "month", "count"), *MONTHS, ig.Column("2024 total", "integer"))
    )
    assert made.table["2024 total"].to_pylist() == [7, 7] and made.table["count"].to_pylist() == [3, 4]


@pytest.mark.parametrize(
    ("wide", "said"),
    [
        ({"headers": "20*"}, "wide, key name: missing"),
        ({"headers": "{month}", "name": "m"}, "wide, key name: the parts of the scheme"),
        ({"headers": "{a} {b}", "value": "{c}"}, '"c" is not a part of the scheme'),
        ({"headers": "20*", "name": "month", "value": "{c}"}, "headers is not a scheme"),
        ({"headers": ["{a}", "b"]}, "a scheme cannot be combined"),
        ({"headers": "20*", "name": "mnth", "value": "count"}, 'no column "mnth"; did you mean "month"?'),
        ({"headers": "20*", "name": "month", "empty": "gone"}, "drop"),
    ],
)
def test_a_wrong_description_names_the_place(wide: dict[str, object], said: str) -> None:
    inside = ", ".join(
        f"{key} = {str(value).replace(chr(39), chr(34)) if isinstance(value, list) else chr(34) + str(value) + chr(34)}"
        for key, value in wide.items()
    )
    text = (
        f'integrum = 1\n[[sources]]\nfind = "a"\nwide = {{ {inside} }}\n'
        '[[columns]]\nname = "month"\n[[columns]]\nname = "count"\n'
    )
    with pytest.raises(ig.PlanError) as error:
        ig.parse_plan(text)
    assert said in str(error.value)
