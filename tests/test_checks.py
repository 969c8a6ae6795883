"""Checks of the table: what each finds and what it lets pass, in every output, whatever the batches and the types."""

from collections import Counter
from dataclasses import replace
from pathlib import Path

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import integrum as ig
from integrum.measures.checks import MAKERS
from integrum.plan.check import KINDS
from integrum.values.row_hashes import row_hashes
from knobs import turn

A = """lake,serial,time,depth
Ambermere,AB1,2021-05-01 00:00,7.20
Ambermere,AB1,2021-05-01 01:00,7.3
Ambermere,AB1,2021-05-01 03:00,88
Quillon Tarn,ab2,2021-05-01 00:00,
"""
B = """lake,serial,time,depth
Ambermere,AB1,2021-05-01 03:00,7.5
Ambermere,AB1,2021-05-01 04:00,-9
Ambermere,AB1,2021-05-01 01:00,7.30
"""
C = "lake,serial,time,depth\nAmbermere,AB1,2021-05-03 00:00,7.5\nVessel Lake,,2021-05-03 00:00,1\n"
COLUMNS = [
    ig.Column("lake"),
    ig.Column("serial"),
    ig.Column("time", "datetime"),
    ig.Column("depth", "number"),
]


@pytest.fixture
def lakes(folder) -> Path:
    for name, text in (("a.csv", A), ("b.csv", B), ("c.csv", C)):
        folder.write(name, text)
    (folder.path.parent / "serials.csv").write_text("serial,site\nAB1,x\nAB7,y\n")
    return folder.path


# of combinations there is one problem for all that are absent
FOUND = {"serial": 4}


def found(path: Path, to: Path | None = None, **check: object) -> list[tuple[str, str, int | None, int]]:
    """Of each problem that a check finds: the code, the source, the row and the count."""
    plan = ig.Plan([ig.Sources(str(path))], COLUMNS, checks=[ig.Check(**check)])
    outcome = ig.assemble(plan, to)
    (result,) = outcome.checks
    problems = outcome.problems
    assert all(one.severity == check.get("severity", "error") for one in problems)
    assert result.found == FOUND.get(check.get("complete", [""])[-1], sum(one.count for one in problems))
    assert outcome.status == int(bool(problems) and check.get("severity", "error") == "error")
    return [(one.code, one.source, one.row, one.count) for one in problems]


CASES = [
    ({"unique": ["lake", "time"]}, [("not-unique", "b.csv", 2, 2)]),
    ({"unique": ["lake", "time", "depth"]}, [("not-unique", "b.csv", 4, 1)]),
    ({"unique": ["source", "source_row"]}, []),
    ({"complete": ["lake", "serial"]}, [("combination-missing", "", None, 1)]),
    (
        {"complete": ["lake"], "values": {"lake": ["Ambermere", "Hollow Water"]}},
        [("combination-missing", "", None, 1)],
    ),
    ({"complete": ["lake"]}, []),
    (
        {"column": "depth", "range": [0, 35]},
        [("out-of-range", "a.csv", 4, 1), ("out-of-range", "b.csv", 3, 1)],
    ),
    ({"column": "depth", "range": [-9, ""]}, []),
    ({"column": "depth", "range": ["", 87.9]}, [("out-of-range", "a.csv", 4, 1)]),
    ({"column": "time", "range": ["2021-05-01 01:00", ""]}, [("out-of-range", "a.csv", 2, 2)]),
    ({"column": "lake", "allowed": ["Ambermere", "Vessel Lake"]}, [("not-allowed", "a.csv", 5, 1)]),
    ({"column": "depth", "filled": 0.9}, [("too-few-filled", "", None, 1)]),
    ({"column": "depth", "filled": 0.88}, []),
    ({"rows": [3, 4]}, [("rows-per-source", "c.csv", None, 1)]),
    ({"rows": [2, 4]}, []),
    ({"sources": 4}, [("number-of-sources", "", None, 1)]),
    ({"sources": [1, 3]}, []),
    ({"column": "serial", "match": "[A-Z]{2}[0-9]"}, [("pattern-not-matched", "a.csv", 5, 1)]),
    (
        {"column": "serial", "match": "AB|ab"},
        [("pattern-not-matched", name, 2, n) for name, n in (("a.csv", 4), ("b.csv", 3), ("c.csv", 1))],
    ),
    (
        {"column": "time", "steady": "1 h", "within": ["lake"], "severity": "warning"},
        [
            ("time-not-steady", "a.csv", 4, 1),
            ("time-not-steady", "b.csv", 2, 2),
            ("time-not-steady", "c.csv", 2, 1),
        ],
    ),
    (
        {"column": "time", "follow": "1 d", "within": ["lake"]},
        [("sources-overlap", "b.csv", None, 1), ("gap-between-sources", "c.csv", None, 1)],
    ),
    ({"column": "time", "follow": "2 d", "within": ["lake"]}, [("sources-overlap", "b.csv", None, 1)]),
    ({"in_one_source": "all"}, [("row-in-two-sources", "b.csv", 4, 1)]),
    ({"in_one_source": ["lake", "time"]}, [("row-in-two-sources", "b.csv", 2, 2)]),
    ({"column": "serial", "listed": "serials.csv"}, [("not-in-list", "a.csv", 5, 1)]),
    (
        {"column": "serial", "listed": "serials.csv", "both_ways": True},
        [("not-in-list", "a.csv", 5, 1), ("listed-but-missing", "", None, 1)],
    ),
]


@pytest.mark.parametrize(("check", "expected"), CASES, ids=[str(ig.Check(**one)) for one, _ in CASES])
def test_each_kind_finds_what_does_not_hold(lakes, tmp_path, monkeypatch, check, expected) -> None:
    check = dict(check)
    if "listed" in check:
        check["listed"] = str(tmp_path / check["listed"])
    assert found(lakes, **check) == expected
    assert found(lakes, tmp_path / "o.csv", **check) == expected
    turn(monkeypatch, piece=70)
    assert found(lakes, tmp_path / "p.parquet", **check) == expected


def test_every_kind_has_a_case_and_a_maker() -> None:
    assert {ig.Check(**one).kind for one, _ in CASES} == set(KINDS) == set(MAKERS)


def test_messages_name_both_places(lakes) -> None:
    plan = ig.Plan(
        [ig.Sources(str(lakes))],
        COLUMNS,
        checks=[
            ig.Check("one reading", unique=["lake", "time"]),
            ig.Check(column="time", steady="1 h", within="lake"),
        ],
    )
    said = [str(one) for one in ig.assemble(plan).problems]
    assert said[0] == (
        'error: b.csv, row 2: the same lake, time as row 4 of a.csv (check "one reading") (and 1 more) [not-unique]'
    )
    assert "from 2021-05-01 01:00 to 2021-05-01 03:00, 2 h, not a whole step" in said[1]
    assert "(Ambermere)" in said[1]


def test_values_count_and_not_how_they_are_written(folder) -> None:
    folder.write("a.csv", "id,depth\n1,7.2\n2,7.20\n")
    plan = ig.Plan(
        [ig.Sources(str(folder.path))], [ig.Column("depth", "number")], checks=[ig.Check(unique=["depth"])]
    )
    for to in (folder.path.parent / "o.csv", None):
        assert "not-unique" in [one.code for one in ig.assemble(plan, to).problems]


@pytest.mark.parametrize("suffix", ["csv", "parquet", "sqlite"])
def test_lists_and_groups_count_values_and_not_how_they_are_written(folder, tmp_path, suffix: str) -> None:
    folder.write("a.csv", "depth,time\n7.20,2024-05-01 10:00\n8,2024-05-01T10:00:00\n")
    (tmp_path / "depths.csv").write_text("depth\n7.2\n8.0\n9\n")
    plan = ig.Plan(
        [ig.Sources(str(folder.path))],
        [ig.Column("depth", "number"), ig.Column("time", "datetime")],
        checks=[
            ig.Check(column="depth", allowed=["7.2", "8.00"]),
            ig.Check(column="time", allowed=["2024-05-01 10:00"]),
            ig.Check(column="depth", listed=str(tmp_path / "depths.csv"), both_ways=True),
            ig.Check(complete=["depth", "time"], values={"depth": ["7.200"]}),
        ],
    )
    said = [(one.code, one.raw, one.count) for one in ig.assemble(plan, tmp_path / f"o.{suffix}").problems]
    assert said == [("listed-but-missing", "9", 1)]


def test_a_step_of_months_is_one_of_the_calendar(folder) -> None:
    folder.write("a.csv", "day\n2023-12-31\n2024-01-31\n2024-02-29\n2024-04-30\n")
    plan = ig.Plan(
        [ig.Sources(str(folder.path))],
        [ig.Column("day", "date")],
        checks=[ig.Check(column="day", steady="1 month")],
    )
    (problem,) = ig.assemble(plan).problems
    assert (problem.row, problem.count) == (5, 1)


def test_a_check_of_outputs_by_identifier_goes_over_all_of_them(folder, tmp_path) -> None:
    for lake, month in (("amb", 5), ("qui", 6)):
        for at in range(2):
            folder.write(f"{lake}_{at}.csv", f"day\n2024-0{month}-0{at + 1}\n2024-0{month}-0{at + 1}\n")
    plan = ig.Plan(
        [ig.Sources(str(folder.path), ids="{lake}_{n}.csv")],
        [ig.Column("day", "date")],
        checks=[ig.Check(unique=["lake", "day"]), ig.Check(column="day", steady="1 d", within=["lake"])],
    )
    outcome = ig.assemble(plan, tmp_path / "{lake}.csv")
    codes = Counter(one.code for one in outcome.problems)
    assert codes == {"not-unique": 4, "time-not-steady": 4}


def test_a_check_that_cannot_be_made_says_so(folder) -> None:
    folder.write("a.csv", "day\n2024-05-01\n")
    plan = ig.Plan([ig.Sources(str(folder.path))], rules=ig.Rules("keep"), checks=[ig.Check(unique=["lake"])])
    outcome = ig.assemble(plan)
    (problem,) = outcome.problems
    assert (problem.code, problem.message) == (
        "check-impossible",
        'the check cannot be made: the table has no column "lake"',
    )
    assert (outcome.rows, outcome.status) == (1, 1)
    plan = replace(plan, checks=[ig.Check(column="day", range=[0, 1]), ig.Check(column="day", steady="1 d")])
    assert [one.message.partition(": ")[2] for one in ig.assemble(plan).problems] == [
        '"day" is text, and range is for integer, number, date, time, datetime',
        '"day" is text, and steady is for date, datetime',
    ]


WRONG = [
    ({}, "a check needs one of unique"),
    ({"unique": ["a"], "rows": 3}, "this one has unique and rows"),
    ({"range": [0, 1]}, "range needs a column"),
    ({"column": "depth", "range": [2, 1]}, "the least value is greater"),
    ({"column": "depth", "range": ["", ""]}, "both ends are open"),
    ({"column": "depth", "range": 3}, "expected the least and the greatest value"),
    ({"column": "depth", "range": ["2021-05-01", ""]}, "expected a number"),
    ({"column": "time", "range": ["May", ""]}, "expected a datetime in ISO 8601"),
    ({"column": "time", "range": [3, ""]}, "expected a datetime"),
    (
        {"column": "lake", "range": [0, 1]},
        'range is for integer, number, date, time, datetime; "lake" is text',
    ),
    ({"column": "time", "steady": "soon"}, "expected a number and a unit"),
    ({"column": "depth", "steady": "1 h"}, "steady is for date, datetime"),
    ({"unique": ["lake", "tiem"]}, 'the table has no column "tiem"; did you mean "time"'),
    ({"unique": ["lake"], "within": ["lake"]}, "cannot be combined with unique"),
    ({"complete": ["lake"], "values": {"serial": ["x"]}}, '"serial" is not one of the columns of complete'),
    ({"rows": [9, 1]}, "the least is more than the most"),
    ({"column": "depth", "filled": 90}, "expected a number from 0 to 1"),
    ({"unique": ["lake"], "severity": "bad"}, "expected one of error, warning, note"),
    ({"column": "lake", "match": "("}, "not a valid regular expression"),
    ({"column": "lake", "listed": "none.csv"}, "cannot be read as CSV"),
    ({"column": "lake", "listed": "serials.csv"}, 'has no column "lake"; it has serial, site'),
]


@pytest.mark.parametrize(("check", "said"), WRONG, ids=[said for _, said in WRONG])
def test_a_wrong_check_is_an_error_that_says_what_to_do(lakes, monkeypatch, check, said) -> None:
    monkeypatch.chdir(lakes.parent)
    with pytest.raises(ig.PlanError) as error:
        ig.assemble(ig.Plan([ig.Sources(str(lakes))], COLUMNS, checks=[ig.Check(**check)]))
    assert said in str(error.value)


def test_checks_in_a_file_are_those_of_python(lakes, tmp_path, integrum) -> None:
    (tmp_path / "plan.toml").write_text(
        'integrum = 1\n[[sources]]\nfind = ["in"]\n[[columns]]\nname = "lake"\n[[columns]]\nname = "serial"\n'
        '[[checks]]\nname = "known serials"\ncolumn = "serial"\nlisted = "serials.csv"\n[[checks]]\nrows = 3\n'
    )
    ran = integrum("assemble", "plan.toml", "--to", "out/o.csv")
    assert ran.returncode == 1
    assert 'not in the list serials.csv (check "known serials"): "ab2"' in ran.stdout
    assert "checks: 0 passed, 2 failed" in ran.stdout
    again = integrum("assemble", "out/o-record/plan.toml", "--to", "again.csv")
    assert "serials.csv" in again.stdout and again.returncode == 1
    bad = integrum("assemble", "bad.toml", "--to", "o.csv")
    assert bad.returncode == 2
    (tmp_path / "bad.toml").write_text((tmp_path / "plan.toml").read_text().replace("rows = 3", "row = 3"))
    bad = integrum("assemble", "bad.toml", "--to", "o.csv")
    assert 'bad.toml, line 13, checks[2], key row: unknown key; did you mean "rows"?' in bad.stderr


def test_hashes_of_neighbours_differ() -> None:
    numbers = np.arange(-60_000, 60_000)
    times = pa.array(numbers * 60_000_000, pa.timestamp("us"))
    for column in (
        pa.array(numbers),
        pa.array(numbers / 100),
        times,
        pa.array([f"site {one}" for one in numbers]),
    ):
        for hashes in row_hashes([column]):
            assert len(np.unique(hashes)) == len(numbers)
    zero = row_hashes([pa.array([0.0, -0.0, None])])[0]
    assert zero[0] == zero[1] != zero[2]


cells = st.one_of(st.none(), st.text(max_size=9), st.sampled_from(["a", "b", "7.2", "Ambermere"]))


@settings(max_examples=150, deadline=None)
@given(st.lists(st.tuples(cells, cells), min_size=1, max_size=40))
def test_hashes_are_the_same_where_rows_are(rows) -> None:
    columns = [pa.array([row[at] for row in rows], pa.string()) for at in (0, 1)]
    one, two = row_hashes(columns)
    by_hash = {}
    for row, pair in zip(rows, zip(one.tolist(), two.tolist(), strict=True), strict=True):
        assert by_hash.setdefault(pair, row) == row
    assert len(by_hash) == len(set(rows))
    cut = row_hashes([column.slice(1) for column in columns])[0]
    assert np.array_equal(cut, one[1:])
