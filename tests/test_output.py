"""The output and its record: together, whole, or not at all; the same bytes each time."""

import csv
import json
import os
import signal
import subprocess
import sys
import time
from concurrent.futures import ProcessPoolExecutor, ThreadPoolExecutor
from pathlib import Path

import pyarrow as pa
import pyarrow.parquet as pq
import pytest

import integrum as ig
from integrum.dispatch import job

PLAN = """integrum = 1
[[sources]]
find = ["in"]
[[columns]]
name = "day"
type = "date"
[[columns]]
name = "depth"
type = "number"
"""


@pytest.fixture
def plan(folder) -> Path:
    folder.write("a.csv", 'day,depth\n2024-05-01,3.10\n2024-05-02,"deep, very"\n\n')
    folder.write("b.csv", "day,depth\n2024-06-01,4\n2024-06-02\n")
    path = folder.path.parent / "plan.toml"
    path.write_text(PLAN)
    return path


def state(folder: Path) -> dict[str, bytes]:
    return {str(path.relative_to(folder)): path.read_bytes() for path in folder.rglob("*") if path.is_file()}


def rows_of(path: Path) -> list[dict[str, str]]:
    with open(path, encoding="utf-8", newline="") as file:
        return list(csv.DictReader(file))


def test_the_record_says_what_happened(plan, tmp_path) -> None:
    outcome = ig.assemble(plan, to=tmp_path / "out" / "lakes.csv")
    record = tmp_path / "out" / "lakes-record"
    assert outcome.record == record
    assert sorted(path.name for path in record.iterdir()) == [
        "blocks.csv",
        "categories.csv",
        "checks.csv",
        "columns.csv",
        "ends.csv",
        "headers.csv",
        "left-out.csv",
        "manifest-blake3.txt",
        "methods.txt",
        "plan.toml",
        "preamble.csv",
        "problems.csv",
        "run.json",
        "set-aside.csv",
        "sources.csv",
        "values.csv",
        "variants.csv",
    ]
    sources = rows_of(record / "sources.csv")
    parts = (
        "preamble",
        "header",
        "units",
        "repeated-header",
        "blank",
        "comment",
        "footer",
        "set-aside",
        "data",
    )
    for row in sources:
        assert int(row["rows"]) == sum(int(row[part]) for part in parts)
        assert len(row["blake3"]) == 64
    assert [(row["source"], row["data"], row["blank"], row["set-aside"]) for row in sources] == [
        ("a.csv", "2", "1", "0"),
        ("b.csv", "1", "0", "1"),
    ]
    assert [row["code"] for row in rows_of(record / "problems.csv")] == ["bad-value", "row-too-short"]
    assert [row["raw"] for row in rows_of(record / "set-aside.csv")] == ["deep, very", "2024-06-02"]
    assert [row["source"] for row in rows_of(record / "set-aside.csv") if not row["row"]] == []
    run = json.loads((record / "run.json").read_text())
    assert (run["rows"], run["outputs"][0]["path"], run["common_folder"]) == (3, "../lakes.csv", "../../in")
    again = ig.assemble(record / "plan.toml", to=tmp_path / "again.csv")
    assert again.output.read_bytes() == outcome.output.read_bytes()


def test_csv_parquet_and_memory_agree(plan, tmp_path) -> None:
    in_csv = ig.assemble(plan, to=tmp_path / "o.csv")
    in_parquet = ig.assemble(plan, to=tmp_path / "o.parquet")
    in_memory = ig.assemble(plan)
    assert in_csv.output.read_text() == (
        "source,source_row,day,depth\na.csv,2,2024-05-01,3.10\na.csv,3,2024-05-02,\nb.csv,2,2024-06-01,4\n"
    )
    assert in_csv.table.equals(in_memory.table)
    assert in_parquet.table.equals(in_memory.table)
    assert pq.read_schema(tmp_path / "o.parquet").field("day").type == pa.date32()
    assert pa.table(in_memory).equals(in_memory.table)
    assert in_memory.record is None


def test_any_executor_gives_the_same_bytes(plan, tmp_path) -> None:
    ig.assemble(plan, to=tmp_path / "1.csv")
    with ThreadPoolExecutor(1) as one:
        ig.assemble(plan, to=tmp_path / "2.csv", executor=one)
    with ProcessPoolExecutor(2) as processes:
        ig.assemble(plan, to=tmp_path / "3.csv", executor=processes)
        assert ig.survey(tmp_path / "in", executor=processes).rows == 3
    assert (
        (tmp_path / "1.csv").read_bytes()
        == (tmp_path / "2.csv").read_bytes()
        == (tmp_path / "3.csv").read_bytes()
    )


def test_sources_whose_rows_do_not_add_up_stay_out(plan, tmp_path, monkeypatch, folder) -> None:
    ig.assemble(plan, to=tmp_path / "o.csv")
    before = state(tmp_path)
    whole = job.parse

    def lossy(*given: object) -> object:
        rows = whole(*given)
        rows.columns[:] = [column[:-1] for column in rows.columns]
        return type(rows)(
            rows.columns, rows.source[:-1], rows.row[:-1], rows.aside, rows.blank, rows.repeated
        )

    monkeypatch.setattr(job, "parse", lossy)
    outcome = ig.assemble(plan, to=tmp_path / "o.csv", afresh=True)
    said = {one.source: one.message for one in outcome.problems if one.code == "unforeseen"}
    assert said == {
        "a.csv": "its rows do not add up: it has 4 rows, but 3 are accounted for",
        "b.csv": "its rows do not add up: it has 3 rows, but 2 are accounted for",
    }
    assert outcome.status == 2
    assert state(tmp_path) == before


def test_a_failed_run_leaves_what_was_there_before(plan, tmp_path, monkeypatch) -> None:
    ig.assemble(plan, to=tmp_path / "o.csv")
    (tmp_path / "o-record" / "my notes.txt").write_text("mine")
    before = state(tmp_path)

    def full(*given: object) -> None:
        raise OSError(28, "No space left on device")

    with monkeypatch.context() as patch:
        patch.setattr(os, "replace", full)
        with pytest.raises(ig.OutputError, match="No space left"):
            ig.assemble(plan, to=tmp_path / "o.csv")
    assert state(tmp_path) == before
    ig.assemble(plan, to=tmp_path / "o.csv")
    assert (tmp_path / "o-record" / "my notes.txt").read_text() == "mine"
    assert not [path for path in tmp_path.iterdir() if path.name.startswith(".")]


@pytest.mark.skipif(os.name != "posix", reason="signals")
@pytest.mark.parametrize("how", [signal.SIGINT, signal.SIGTERM, signal.SIGKILL])
def test_an_interrupted_run_leaves_what_was_there_before(folder, tmp_path, how: signal.Signals) -> None:
    folder.write("big.csv", "a,b,c\n" + "1,some text,2.5\n" * 3_000_000)
    (tmp_path / "o.csv").write_text("before")
    run = subprocess.Popen(
        [sys.executable, "-m", "integrum", "assemble", "in", "--to", "o.csv", "--replace"],
        cwd=tmp_path,
        stderr=subprocess.PIPE,
        text=True,
    )
    limit = time.monotonic() + 60
    while not list(tmp_path.glob(".o.csv.integrum-*")) and time.monotonic() < limit:
        time.sleep(0.01)
    run.send_signal(how)
    _, said = run.communicate(timeout=60)
    assert run.returncode != 0
    assert (tmp_path / "o.csv").read_text() == "before"
    assert not (tmp_path / "o-record").exists()
    if how != signal.SIGKILL:
        assert said == "integrum: interrupted; nothing was written\n"
    else:  # what it left is hidden, never a source, and swept away by the next run
        folder.write("big.csv", "a,b,c\n1,t,2\n")
        assert ig.assemble(folder.path, to=tmp_path / "o.csv", replace=True).rows == 1
    assert not list(tmp_path.glob(".*integrum*"))


def test_places_that_cannot_take_the_output(plan, tmp_path, integrum) -> None:
    (tmp_path / "folder.csv").mkdir()
    (tmp_path / "x-record").mkdir()
    (tmp_path / "x-record" / "thesis.txt").write_text("mine")
    (tmp_path / "file").write_text("")
    for to, said in [
        ("o.xlsy", "an output is .csv, .csv.gz, .parquet, .arrow, .xlsx or .sqlite"),
        ("folder.csv", "is a folder"),
        ("x.csv", "not a record of Integrum"),
        ("file/o.csv", "cannot write"),
    ]:
        done = integrum("assemble", plan, "--to", to)
        assert done.returncode == 2
        assert said in done.stderr
        assert "Traceback" not in done.stderr
    assert (tmp_path / "x-record" / "thesis.txt").read_text() == "mine"


def test_standard_output(plan, tmp_path, integrum) -> None:
    ig.assemble(plan, to=tmp_path / "o.csv")
    before = set(tmp_path.iterdir())
    done = integrum("assemble", plan, "--to", "-")
    assert done.stdout == (tmp_path / "o.csv").read_text()
    assert "3 rows" in done.stderr
    assert set(tmp_path.iterdir()) == before
    recorded = integrum("assemble", plan, "--to", "-", "--record", "r")
    assert recorded.stdout == done.stdout
    assert (tmp_path / "r" / "run.json").exists()


def test_a_lone_column_of_empty_cells_stays_readable(folder, tmp_path) -> None:
    folder.write("a.csv", "x,y\n1,2\n,3\n")
    plan = ig.Plan([ig.Sources(str(folder.path))], [ig.Column("x")], ig.Provenance(False, False))
    outcome = ig.assemble(plan, to=tmp_path / "o.csv")
    assert outcome.output.read_text() == 'x\n1\n""\n'
    assert outcome.table.num_rows == 2
