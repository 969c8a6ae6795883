"""What a table is handed on as, read by others: a database, data frames, spreadsheets, steps of make."""

import json
import re
import shutil
import sqlite3
import subprocess
import sys
import tempfile
import warnings
from contextlib import closing
from datetime import date, datetime, time
from pathlib import Path

import duckdb
import nanoarrow
import openpyxl
import pandas as pd
import polars as pl
import pyarrow as pa
import pytest

import integrum as ig
from integrum.demo.lakes import write_demo

SUFFIXES = (".csv", ".csv.gz", ".parquet", ".arrow", ".xlsx", ".sqlite", ".parquet/")
ALL_TYPES = [
    ig.Column("time", "datetime", zone="Europe/Berlin"),
    ig.Column("local", "datetime"),
    ig.Column("day", "date", description="the day of the visit"),
    ig.Column("clock", "time"),
    ig.Column("month", "month"),
    ig.Column("count", "integer", unit="1"),
    ig.Column("depth", "number", unit="m", missing=["-999"]),
    ig.Column("ice", "boolean"),
    ig.Column("remark"),
]
ROWS = """time,local,day,clock,month,count,depth,ice,remark
,,,,,,-999,,first row with nothing in it but a code
2024-05-01T10:00:00+02:00,2024-05-01 10:00:00.000250,2024-05-01,10:30:00.000250,2024-05,3,7.20,true,"a ""quoted"", text"
2024-10-27T02:30:00+01:00,1895-07-14 12:30,1895-07-14,00:00,1895-07,-9007199254740993,1e-7,false,=1+1
"""


@pytest.fixture
def typed(tmp_path: Path) -> Path:
    (tmp_path / "in").mkdir()
    (tmp_path / "in" / "amber.csv").write_text(ROWS)
    (tmp_path / "in" / "quillon.csv").write_text(ROWS.replace("7.20", "8.25"))
    return tmp_path


def plan_of(folder: Path, **more) -> ig.Plan:
    return ig.Plan([ig.Sources(str(folder / "in"), ids="{lake}.csv")], ALL_TYPES, **more)


def rows_in(place: Path, query: str, *values: object) -> list[tuple]:
    with closing(sqlite3.connect(place)) as base:
        return base.execute(query, values).fetchall()


# --- a database


def test_which_file_is_this_row_from_is_a_query(typed: Path) -> None:
    outcome = ig.assemble(plan_of(typed), to=typed / "o.sqlite")
    assert outcome.status == 0
    place = outcome.output
    assert (
        rows_in(place, "PRAGMA integrity_check") == [("ok",)]
        and rows_in(place, "PRAGMA foreign_key_check") == []
    )
    found = rows_in(
        place,
        "SELECT s.source, d.source_row FROM data d JOIN sources s ON s.id = d.source_id ORDER BY table_row",
    )
    assert found == [("amber.csv", row) for row in (2, 3, 4)] + [("quillon.csv", row) for row in (2, 3, 4)]
    assert rows_in(
        place, "SELECT depth, typeof(depth), ice, count, typeof(count) FROM data WHERE table_row = 5"
    ) == [(8.25, "real", 1, 3, "integer")]
    # SQLite's own functions know the dates and times
    assert rows_in(
        place,
        "SELECT date(local), strftime('%H:%M', clock), julianday(time) > 0 FROM data WHERE table_row = 2",
    ) == [("2024-05-01", "10:30", 1)]
    assert rows_in(place, "SELECT time FROM data WHERE table_row IN (2, 3)") == [
        ("2024-05-01 10:00:00+02:00",),
        ("2024-10-27 02:30:00+01:00",),
    ]
    assert rows_in(place, 'SELECT type, unit, description FROM columns WHERE "column" = ?', "depth") == [
        ("number", "m", None)
    ]


def test_the_tables_of_the_record_stand_beside_the_table(typed: Path) -> None:
    (typed / "in" / "amber.csv").write_text(ROWS + "x,,,,,,deep,,bad\n" + "1,2\n")
    outcome = ig.assemble(plan_of(typed), to=typed / "o.sqlite")
    tables = {
        name for (name,) in rows_in(outcome.output, "SELECT name FROM sqlite_master WHERE type = 'table'")
    }
    assert tables == {
        "data", "sources", "columns", "problems", "checks", "headers", "preamble", "categories", "column_values",
        "set_aside", "left_out",
    }  # fmt: skip
    kept = "SELECT s.source, k.row, k.code, k.raw FROM {} k JOIN sources s ON s.id = k.source_id"
    assert rows_in(outcome.output, kept.format("set_aside")) == [
        (one.source, one.row, one.code, one.raw) for one in outcome.set_aside
    ]
    parts = "SELECT s.source, k.row, k.part, k.raw FROM left_out k JOIN sources s ON s.id = k.source_id"
    assert rows_in(outcome.output, parts) == [
        (one.source, one.row, one.part, one.raw) for one in outcome.left_out
    ]
    assert rows_in(outcome.output, "SELECT code, row FROM problems WHERE source_id = 1 ORDER BY row") == [
        (one.code, one.row) for one in sorted(outcome.problems, key=lambda one: one.row)
    ]
    filled = rows_in(outcome.output, "SELECT sum(filled) FROM column_values WHERE \"column\" = 'depth'")
    assert filled == rows_in(outcome.output, "SELECT count(depth) FROM data")


def test_a_database_is_whole_or_not_there_at_all(typed: Path, monkeypatch) -> None:
    from integrum.writing import sqlite

    place = typed / "o.sqlite"
    ig.assemble(plan_of(typed), to=place)
    before = place.read_bytes()
    (typed / "in" / "vessel.csv").write_text(ROWS)

    def fails(*_: object) -> None:
        raise sqlite3.OperationalError("database or disk is full")

    monkeypatch.setattr(sqlite.SqliteOutput, "_write_about", fails)
    with pytest.raises(ig.OutputError, match="the database cannot be written: database or disk is full"):
        ig.assemble(plan_of(typed), to=place)
    assert place.read_bytes() == before
    assert sorted(path.name for path in typed.iterdir()) == ["in", "o-record", "o.sqlite"]
    assert ig.verify(place).findings[0].state == "same"


@pytest.mark.parametrize(
    ("names", "said"),
    [
        (["Depth", "depth"], 'the columns "Depth" and "depth" differ in capitals only'),
        ([f"c{number}" for number in range(2001)], "but a database holds 1,998"),
    ],
)
def test_columns_that_a_database_cannot_have(tmp_path: Path, names: list[str], said: str) -> None:
    (tmp_path / "a.csv").write_text(f"{','.join(names)}\n{','.join('1' for _ in names)}\n")
    plan = ig.Plan([ig.Sources(str(tmp_path / "a.csv"))], [ig.Column(name, "integer") for name in names])
    with pytest.raises(ig.OutputError, match=re.escape(said)):
        ig.assemble(plan, to=tmp_path / "o.sqlite")
    assert not (tmp_path / "o.sqlite").exists()


def test_columns_named_like_keys_and_words_of_sql(tmp_path: Path) -> None:
    names = ["table_row", "SOURCE_ID", "select", 'a "b"', "order", "É", "é"]
    (tmp_path / "a.csv").write_text('table_row,SOURCE_ID,select,"a ""b""",order,É,é\n1,2,3,4,5,6,7\n')
    plan = ig.Plan([ig.Sources(str(tmp_path / "a.csv"))], [ig.Column(name, "integer") for name in names])
    outcome = ig.assemble(plan, to=tmp_path / "o.sqlite")
    assert rows_in(
        outcome.output, 'SELECT table_row_, source_id_, table_row, "select", "a ""b""", "É", "é" FROM data'
    ) == [(1, 1, 1, 3, 4, 6, 7)]
    assert outcome.table.equals(ig.assemble(plan).table)


def test_what_rows_are_looked_up_by_has_an_index(typed: Path) -> None:
    checks = [ig.Check("key", unique=["lake", "remark"])]
    place = ig.assemble(plan_of(typed, checks=checks), to=typed / "o.sqlite").output
    steps = rows_in(place, "EXPLAIN QUERY PLAN SELECT * FROM data WHERE lake = 'amber' AND remark = '=1+1'")
    assert "USING INDEX data_lake_remark" in steps[0][-1]
    assert (
        "data_source_id" in rows_in(place, "EXPLAIN QUERY PLAN SELECT * FROM data WHERE source_id = 2")[0][-1]
    )
    without = ig.assemble(plan_of(typed), to=typed / "p.sqlite").output
    assert (
        "USING INDEX data_lake"
        in rows_in(without, "EXPLAIN QUERY PLAN SELECT * FROM data WHERE lake = ''")[0][-1]
    )


def test_indexes_have_names_of_their_own(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("a,b,a_b,A_B_\n1,2,3,4\n")
    columns = [ig.Column(name, "integer") for name in ("a", "b", "a_b", "A_B_")]
    checks = [
        ig.Check(name, unique=some) for name, some in (("x", ["a", "b"]), ("y", ["a_b"]), ("z", ["A_B_"]))
    ]
    place = ig.assemble(
        ig.Plan([str(tmp_path / "a.csv")], columns, checks=checks), to=tmp_path / "o.sqlite"
    ).output
    names = rows_in(
        place, "SELECT name FROM sqlite_master WHERE type = 'index' AND tbl_name = 'data' ORDER BY 1"
    )
    assert names == [("data_A_B__",), ("data_a_b",), ("data_a_b_",), ("data_source_id",)]


def test_a_table_without_rows_is_a_database_too(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("depth\n")
    plan = ig.Plan([ig.Sources(str(tmp_path / "a.csv"))], [ig.Column("depth", "number")])
    outcome = ig.assemble(plan, to=tmp_path / "o.sqlite")
    assert rows_in(outcome.output, "SELECT count(*) FROM data") == [(0,)]
    assert ig.open_table(outcome.output).table.equals(outcome.table) and outcome.rows == 0


def test_workers_in_other_processes_write_the_same_database(typed: Path) -> None:
    from integrum.workers.elsewhere import processes

    here = ig.assemble(plan_of(typed), to=typed / "a" / "o.sqlite")
    with processes(2) as executor:
        there = ig.assemble(plan_of(typed), to=typed / "b" / "o.sqlite", executor=executor)
    assert here.output.read_bytes() == there.output.read_bytes()


# --- other libraries


def outcomes(folder: Path) -> list[ig.Outcome]:
    plan = plan_of(folder)
    return [
        ig.assemble(plan),
        *(ig.assemble(plan, to=f"{folder}/out/{n}/o{s}") for n, s in enumerate(SUFFIXES)),
    ]


def test_any_output_opens_again_as_it_was(typed: Path) -> None:
    memory, *written = outcomes(typed)
    for outcome in written:
        opened = ig.open_table(outcome.output)
        assert opened.table.equals(memory.table) and opened.schema.equals(memory.schema), outcome.output
        assert opened.table.schema.field("depth").metadata[b"unit"] == b"m"
        assert pa.Table.from_batches(opened.batches()).equals(memory.table)
        assert ig.open_table(outcome.record).table.equals(memory.table)
        assert [one.column for one in opened.columns][:3] == ["lake", "time", "local"]
        assert opened.record is not None and opened.places == (outcome.output,)


def test_a_table_that_is_handed_on_alone_opens_by_what_it_says_itself(typed: Path) -> None:
    memory, *written = outcomes(typed)
    for outcome in written:
        shutil.rmtree(outcome.record)
        if outcome.output.name.endswith(".csv.gz"):
            with pytest.raises(
                ig.OutputError, match=r"neither its record nor o.csv.gz-metadata.json is here"
            ):
                ig.open_table(outcome.output)
            continue
        opened = ig.open_table(outcome.output)
        table = opened.table
        assert opened.record is None and len(opened.columns) == 0
        assert table.drop_columns(["time"]).equals(memory.table.drop_columns(["time"])), outcome.output
        # in which zone its times are is not known without the record, but they are the same moments
        assert (
            table["time"]
            .cast(pa.timestamp("us", "UTC"))
            .equals(memory.table["time"].cast(pa.timestamp("us", "UTC")))
        )


def test_a_guarded_table_opens_without_its_guard(typed: Path) -> None:
    outcome = ig.assemble(plan_of(typed), to=typed / "o.csv", guard_formulas=True)
    assert "'=1+1" in outcome.output.read_text()
    for _ in range(2):
        assert ig.open_table(typed / "o.csv").table["remark"].to_pylist()[2] == "=1+1"
        shutil.rmtree(outcome.record, ignore_errors=True)


def test_several_outputs_open_together_or_one_by_one(typed: Path) -> None:
    outcome = ig.assemble(plan_of(typed), to=typed / "{lake}.csv")
    assert ig.open_table(outcome.record).table.equals(outcome.table) and outcome.rows == 6
    assert ig.open_table(typed / "quillon.csv").table.num_rows == 3
    assert sum(batch.num_rows for batch in outcome.batches()) == 6


def test_what_cannot_be_opened_is_said(typed: Path) -> None:
    outcome = ig.assemble(plan_of(typed), to=typed / "o.csv")
    with pytest.raises(ig.OutputError, match="there is no table here"):
        ig.open_table(typed / "nowhere.csv")
    with pytest.raises(ig.OutputError, match="is a folder, and neither a table nor a record"):
        ig.open_table(typed / "in")
    text = outcome.output.read_text()
    outcome.output.write_text(text)  # at another time, but the same
    assert ig.open_table(outcome.output).table.num_rows == 6
    outcome.output.write_text(text.replace("7.2", "7.3"))
    with pytest.raises(ig.OutputError, match="not as the run wrote it; to open it even so"):
        ig.open_table(outcome.output)
    assert ig.open_table(outcome.output, edited=True).table["depth"].to_pylist()[1] == 7.3
    outcome.output.write_text(text.replace("7.2", "deep"))
    with pytest.raises(ig.OutputError, match="is not as a run wrote it"):
        _ = ig.open_table(outcome.output, edited=True).table
    outcome.output.unlink()
    with pytest.raises(ig.OutputError, match="there is no table here"):
        ig.open_table(outcome.output)
    with pytest.raises(ig.OutputError, match="the table is not there any more"):
        _ = ig.open_table(outcome.record).table


@pytest.mark.parametrize("suffix", [".csv", ".csv.gz", ".parquet", ".arrow", ".xlsx"])
def test_columns_in_another_order_are_not_taken_for_one_another(typed: Path, suffix: str) -> None:
    outcome = ig.assemble(plan_of(typed), to=typed / "a" / f"o{suffix}")
    swapped = [*ALL_TYPES[:2], ALL_TYPES[6], *ALL_TYPES[3:6], ALL_TYPES[2], *ALL_TYPES[7:]]
    other = ig.assemble(ig.Plan(plan_of(typed).sources, swapped), to=typed / "b" / f"o{suffix}")
    shutil.copy(other.output, outcome.output)
    with pytest.raises(ig.OutputError, match="its columns are"):
        _ = ig.open_table(outcome.output, edited=True).table


def test_data_frames_of_any_make_take_an_outcome(typed: Path) -> None:
    for one in (
        ig.assemble(plan_of(typed)),
        ig.open_table(ig.assemble(plan_of(typed), to=typed / "o.csv").output),
    ):
        frame = pl.DataFrame(one)
        assert frame["depth"].to_list() == [None, 7.2, 1e-7, None, 8.25, 1e-7]
        assert frame["day"].to_list()[1] == date(2024, 5, 1) and frame["clock"].to_list()[1] == time(
            10, 30, 0, 250
        )
        assert frame["count"].to_list()[2] == -9007199254740993
        assert frame["local"].to_list()[1] == datetime(2024, 5, 1, 10, 0, 0, 250)
        assert pl.from_dataframe(one).shape == frame.shape
        base = duckdb.connect()
        base.register("lakes", pa.RecordBatchReader.from_stream(one))
        assert (
            base.sql("SELECT lake, sum(depth) FROM lakes GROUP BY lake ORDER BY lake").fetchall()[1][0]
            == "quillon"
        )
        assert duckdb.sql("SELECT count(*) FROM one").fetchall() == [(6,)]
        assert [field.name for field in nanoarrow.Schema(one).fields][:3] == ["source", "source_row", "lake"]
        assert len(nanoarrow.ArrayStream(one).read_all()) == 6
        assert pa.table(one).equals(one.table)
        # a stream in the types that are asked for
        wanted = pa.schema(
            [field.with_type(pa.large_string()) if field.name == "lake" else field for field in one.schema]
        )
        assert (
            pa.RecordBatchReader.from_stream(one, wanted).read_all().schema.field("lake").type
            == pa.large_string()
        )
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # the protocol is on its way out in pandas
            assert pd.api.interchange.from_dataframe(one)["depth"].sum() == frame["depth"].sum()


def test_pandas_has_the_types_that_people_want(typed: Path) -> None:
    with pytest.raises(ig.OutputError, match="integers that a plain number cannot hold"):
        ig.assemble(plan_of(typed)).to_pandas("plain")
    for place in (typed / "in").iterdir():
        place.write_text(place.read_text().replace("-9007199254740993", "-9007199254740992"))
    outcome = ig.assemble(plan_of(typed))
    kinds = {
        "usual": {"count": "Int64", "depth": "float64", "ice": "boolean", "day": "object"},
        "nullable": {
            "count": "Int64",
            "depth": "Float64",
            "ice": "boolean",
            "day": "object",
            "remark": "string",
        },
        "plain": {"count": "float64", "depth": "float64", "ice": "object", "day": "object"},
        "arrow": {"count": "int64[pyarrow]", "depth": "double[pyarrow]", "day": "date32[day][pyarrow]"},
    }
    for types, wanted in kinds.items():
        frame = outcome.to_pandas(types)
        assert {name: str(frame[name].dtype) for name in wanted} == wanted
        assert frame["depth"].isna().tolist() == [True, False, False] * 2
    assert outcome.to_pandas(dates_with_time=True)["day"].dt.year.tolist()[1:3] == [2024, 1895]
    frame = outcome.to_pandas(as_categories=True)
    assert [name for name in frame if str(frame[name].dtype) == "category"] == [
        "source",
        "lake",
        "month",
        "remark",
    ]
    for wrong, said in (
        ({"types": "nulable"}, 'did you mean "nullable"'),
        ({"as_categories": ["Lake"]}, 'did you mean "lake"'),
    ):
        with pytest.raises(ig.OutputError, match=re.escape(said)):
            outcome.to_pandas(**wrong)


def test_categories_are_in_the_order_of_the_plan(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("ice\nthick\nnone\n\nthick\n")
    plan = ig.Plan(
        [ig.Sources(str(tmp_path / "a.csv"))], [ig.Column("ice", allowed=["none", "thin", "thick"])]
    )
    outcome = ig.assemble(plan, to=tmp_path / "o.csv")
    for one in (outcome, ig.open_table(outcome.output)):
        column = one.to_pandas(as_categories="ice")["ice"]
        assert list(column.cat.categories) == ["none", "thin", "thick"] and column.tolist() == [
            "thick",
            "none",
            "thick",
        ]


def test_batches_do_not_hold_the_table_in_memory(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("depth,remark\n" + "".join(f"{n},{'x' * 60}\n" for n in range(200_000)))
    plan = ig.Plan(
        [ig.Sources(str(tmp_path / "a.csv"))], [ig.Column("depth", "integer"), ig.Column("remark")]
    )
    for suffix in (".csv", ".sqlite", ".parquet"):
        outcome = ig.assemble(plan, to=tmp_path / f"o{suffix}")
        rows, most, before = 0, 0, pa.total_allocated_bytes()
        for batch in outcome.batches():
            rows += batch.num_rows
            most = max(most, batch.num_rows)
        assert rows == 200_000 and most < 140_000 and pa.total_allocated_bytes() - before < 60_000_000


# --- a spreadsheet


def test_a_workbook_for_people(typed: Path) -> None:
    (typed / "in" / "amber.csv").write_text(ROWS + "x,,,,,,deep,,bad\n")
    outcome = ig.assemble(plan_of(typed), to=typed / "o.xlsx")
    book = openpyxl.load_workbook(outcome.output)
    assert book.sheetnames == ["table", "codebook", "problems", "sources"]
    for sheet in book:
        assert sheet.freeze_panes == "A2" and sheet.auto_filter.ref.startswith("A1:")
        assert all(
            sheet.column_dimensions[one.column_letter].width >= len(str(one.value)) for one in sheet[1]
        )
    table = book["table"]
    assert [cell.value for cell in table[1]] == outcome.schema.names
    row = dict(zip(outcome.schema.names, table[3], strict=True))
    assert row["day"].value == datetime(2024, 5, 1) and row["day"].is_date and row["depth"].value == 7.2
    # finer than a cell knows, so it stays a text, and loses nothing
    assert row["local"].value == "2024-05-01 10:00:00.000250" and row["clock"].value == "10:30:00.000250"
    assert table[4][outcome.schema.names.index("remark")].value == "=1+1"
    assert table[4][outcome.schema.names.index("remark")].data_type == "s"
    codebook = {cells[0]: cells for cells in book["codebook"].iter_rows(min_row=2, values_only=True)}
    assert codebook["day"][1:3] == ("the day of the visit", "date") and codebook["depth"][3] == "m"
    assert "-999" in codebook["depth"][7]
    assert [cell.value for cell in book["problems"][2]][:2] == ["warning", "bad-value"]


# --- a step of make


def make(folder: Path, *more: str) -> subprocess.CompletedProcess:
    return subprocess.run(["make", *more], cwd=folder, capture_output=True, encoding="utf-8", check=False)


@pytest.fixture
def steps(tmp_path: Path) -> Path:
    odd = tmp_path / "log gers=#1 $x"
    odd.mkdir()
    (odd / "a b.csv").write_text("depth\n1\n")
    (odd / "c[1]%.csv").write_text("depth\n2\n")
    (tmp_path / "plan.toml").write_text(
        f'integrum = 1\n[[sources]]\nfind = ["{odd.name}"]\n[[columns]]\nname = "depth"\ntype = "integer"\n'
    )
    command = f"{sys.executable} -m integrum assemble plan.toml --to $@ --depends lakes.d --quiet"
    (tmp_path / "Makefile").write_text(
        f".DELETE_ON_ERROR:\nout/lakes.csv:\n\t@echo run\n\t@{command}\n-include lakes.d\n"
    )
    return tmp_path


def test_make_runs_it_only_when_something_is_new(steps: Path) -> None:
    (odd,) = steps.glob("log*")
    assert make(steps).stdout == "run\n"

    def runs() -> bool:
        first = make(steps)
        assert first.returncode == 0, first.stderr
        assert "is up to date" in make(steps).stdout  # each run is the last one until something is new
        return "run" in first.stdout

    assert not runs()
    when = (steps / "out" / "lakes.csv").stat().st_mtime_ns
    (odd / "a b.csv").touch()
    assert runs() and (steps / "out" / "lakes.csv").stat().st_mtime_ns > when
    (odd / "new.csv").write_text("depth\n3\n")
    assert runs() and (steps / "out" / "lakes.csv").read_text().count("\n") == 4
    (odd / "c[1]%.csv").unlink()
    assert runs() and (steps / "out" / "lakes.csv").read_text().count("\n") == 3
    (odd / "a b.csv").write_text("depth\n7\n")
    assert runs() and "a b.csv,2,7" in (steps / "out" / "lakes.csv").read_text()
    (steps / "plan.toml").write_text((steps / "plan.toml").read_text().replace('"integer"', '"number"'))
    assert runs() and not runs()
    assert ig.verify(steps / "out" / "lakes.csv")


def test_a_step_from_which_something_is_lost_fails(steps: Path) -> None:
    (odd,) = steps.glob("log*")
    (odd / "a b.csv").write_text("depth\ndeep\n")
    for _ in range(2):
        assert make(steps).returncode == 2
        assert not (steps / "out" / "lakes.csv").exists()
    (odd / "a b.csv").write_text("depth\n8\n")
    assert make(steps).returncode == 0 and (steps / "out" / "lakes.csv").exists()


def test_a_list_of_dependencies_writes_over_nothing_else(steps: Path) -> None:
    (steps / "lakes.d").write_text("mine\n")
    with pytest.raises(ig.OutputError, match="is not a list of dependencies"):
        ig.assemble(steps / "plan.toml", to=steps / "o.csv", depends=steps / "lakes.d")
    assert (steps / "lakes.d").read_text() == "mine\n" and not (steps / "o.csv").exists()
    with pytest.raises(ig.OutputError, match="depends is for a table in a file"):
        ig.assemble(steps / "plan.toml", depends=steps / "other.d")


def test_folders_that_the_table_is_written_to_are_not_waited_for(steps: Path, monkeypatch) -> None:
    monkeypatch.chdir(steps)
    (odd,) = steps.glob("log*")
    ig.assemble("plan.toml", to=odd / "lakes.csv", depends="lakes.d")
    text = (steps / "lakes.d").read_text()
    assert "is not noticed, as the table is written there" in text
    assert "plan.toml:" in text and "lakes.csv:" in text
    # nor that of this file itself, nor the record
    plan = ig.Plan([ig.Sources(".", exclude="lakes.csv")], [ig.Column("depth", "integer")])
    ig.assemble(plan, to="out/lakes.csv", record="rec", depends="more.d")
    ig.assemble(plan, to="out/lakes.csv", record="rec", depends="more.d")
    rules = [line for line in (steps / "more.d").read_text().splitlines() if line.endswith(":")]
    assert not {"rec:", "out:", ".:"} & set(rules) and len(rules) == 3


def test_the_example_for_make_runs(tmp_path: Path) -> None:
    shutil.copy(Path(__file__).parent.parent / "examples" / "16_make" / "Makefile", tmp_path)
    python = f"PYTHON={sys.executable}"
    first = make(tmp_path, python)
    assert first.returncode == 0 and "assemble plan.toml" in first.stdout, first.stderr
    assert make(tmp_path, python).stdout == "make: 'out/report-done' is up to date.\n"
    assert make(tmp_path, python, "month").returncode == 0
    assert make(tmp_path, python).returncode == 2 and not (tmp_path / "out" / "loggers.csv").exists()
    assert make(tmp_path, python, "decide").returncode == 0
    last = make(tmp_path, python)
    assert last.returncode == 0 and ig.verify(tmp_path / "out" / "loggers.csv"), last.stderr
    assert make(tmp_path, python).stdout == "make: 'out/report-done' is up to date.\n"


def test_json_says_what_a_step_needs_to_know(steps: Path, integrum) -> None:
    done = integrum("assemble", "plan.toml", "--to", "o.csv", "--json", cwd=steps)
    said = json.loads(done.stdout)
    (output,) = said["outputs"]
    assert done.returncode == 0 and said["status"] == 0 and said["seal"]
    assert Path(output["output"]).name == "o.csv" and output["rows"] == 2


def test_demo_data_go_into_a_database(tmp_path: Path) -> None:
    folder = write_demo(Path(tempfile.mkdtemp(dir=tmp_path)) / "lakes")
    outcome = ig.assemble(folder / "field", to=tmp_path / "field.sqlite")
    sheets = rows_in(outcome.output, "SELECT count(DISTINCT sheet), count(*) FROM data")
    assert sheets == [(6, outcome.rows)]
    kept = rows_in(
        outcome.output,
        "SELECT count(*) FROM data d JOIN sources s ON s.id = d.source_id AND s.sheet = d.sheet",
    )
    assert kept == [(outcome.rows,)]
