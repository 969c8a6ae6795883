"""Work on processes and clusters: the same bytes, whatever dies; tables in folders of Parquet files; watching a run."""

from __future__ import annotations

import gzip
import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import pyarrow.dataset as ds
import pytest

import integrum as ig
from dying import die_at_five
from integrum.demo.lakes import write_demo
from integrum.workers.elsewhere import Processes, cluster, processes
from integrum.workers.pool import ahead
from integrum.workers.progress import Pace, Progress
from knobs import turn
from test_record import Elsewhere, files

COMMAND = [sys.executable, "-m", "integrum"]
posix = pytest.mark.skipif(os.name != "posix", reason="signals of POSIX systems")


@pytest.fixture(scope="module")
def lakes(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Loggers in three layouts, one of them UTF-16, and a packed file of several pieces; a plan for them."""
    folder = write_demo(tmp_path_factory.mktemp("scale") / "lakes")
    rows = "".join(
        f"2025-01-{1 + at % 28:02} {at % 24:02}:00,{at % 30}.5,n/a,{at}\n" for at in range(130_000)
    )
    with gzip.open(folder / "loggers" / "packed_2025-01_00001.csv.gz", "wt", 1) as file:
        file.write("date_time,water_temp,oxygen,battery\n" + rows)
    ig.draft(folder / "loggers", ids="{lake}_{month}_{serial}.csv").save(folder / "plan.toml")
    return folder


def made(lakes: Path, out: Path, to: str, **how: object) -> dict[str, bytes]:
    out.mkdir()
    outcome = ig.assemble(lakes / "plan.toml", to=f"{out}/{to}", **how)  # type: ignore[arg-type]
    assert outcome.rows > 135_000
    found = {name: data for name, data in files(out).items() if not name.endswith("ends.csv")}
    assert not [name for name in found if "integrum-" in name]  # no part file is left
    return found


OUTPUTS = ("o.csv", "o.parquet/lake={lake}/", "{lake}.arrow")


def test_processes_give_the_same_bytes(lakes, tmp_path) -> None:
    with processes(2) as pool:
        for number, to in enumerate(OUTPUTS):
            here = made(lakes, tmp_path / f"{number}", to)
            assert made(lakes, tmp_path / f"{number}-processes", to, executor=pool) == here
            assert len(here) >= 14


class Scheduler:
    """A scheduler and two workers, each a process."""

    def __init__(self, folder: Path) -> None:
        place = folder / "scheduler.json"
        quiet = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}
        start = [sys.executable, "-m", "distributed.cli."]
        run = [
            *start[:2],
            f"{start[2]}dask_scheduler",
            "--host",
            "127.0.0.1",
            "--port",
            "0",
            "--no-dashboard",
        ]
        self.process = subprocess.Popen([*run, "--scheduler-file", str(place)], **quiet)  # type: ignore[call-overload]
        while not place.exists() or not place.read_text():
            time.sleep(0.05)
        worker = [
            *start[:2],
            f"{start[2]}dask_worker",
            "--scheduler-file",
            str(place),
            "--nthreads",
            "1",
            "--no-dashboard",
        ]
        self.workers = [
            subprocess.Popen([*worker, "--local-directory", str(folder / f"w{n}"), "--no-nanny"], **quiet)  # type: ignore[call-overload]
            for n in range(2)
        ]
        import json

        self.address = json.loads(place.read_text())["address"]

    def end(self) -> None:
        for process in (*self.workers, self.process):
            process.kill()
            process.wait()


@pytest.fixture
def scheduler(tmp_path: Path) -> Iterator[Scheduler]:
    there = Scheduler(tmp_path)
    yield there
    there.end()


def test_a_cluster_gives_the_same_bytes(lakes, tmp_path, scheduler) -> None:
    with cluster(scheduler.address) as pool:
        for number, to in enumerate(("o.csv.gz", "o.parquet/")):
            here = made(lakes, tmp_path / f"{number}", to)
            assert made(lakes, tmp_path / f"{number}-cluster", to, executor=pool) == here
        said = str(ig.survey(lakes / "loggers"))
        assert str(ig.survey(lakes / "loggers", executor=pool)) == said
        assert ig.assemble(lakes / "plan.toml", executor=pool).table == ig.assemble(lakes / "plan.toml").table


@pytest.fixture
def many(folder, monkeypatch: pytest.MonkeyPatch) -> ig.Plan:
    """Files that make many tasks."""
    rows = "".join(f"2025-01-{1 + at % 28:02},{at}\n" for at in range(20_000))
    for number in range(12):
        folder.write(f"{number}.csv", f"day,depth\n2024-01-{number + 1:02},7\n{rows}")
    turn(monkeypatch, job=100_000)
    return ig.Plan([ig.Sources(str(folder.path))], [ig.Column("day", "date"), ig.Column("depth", "integer")])


def test_when_a_worker_of_a_cluster_dies_its_work_is_done_elsewhere(many, tmp_path, scheduler) -> None:
    ig.assemble(many, to=tmp_path / "here" / "o.csv")
    seen: list[Progress] = []

    def watch(at: Progress) -> None:
        seen.append(at)
        if at.rows and scheduler.workers[0].poll() is None:
            scheduler.workers[0].kill()
            scheduler.workers[0].wait()

    with cluster(scheduler.address) as pool:
        ig.assemble(many, to=tmp_path / "there" / "o.csv", executor=pool, watch=watch)
    assert files(tmp_path / "there") == files(tmp_path / "here")
    assert scheduler.workers[0].poll() is not None
    assert max(one.tasks for one in seen) > 1 and {one.workers for one in seen} == {2}


def test_when_the_scheduler_dies_the_old_table_is_untouched(many, tmp_path, scheduler) -> None:
    ig.assemble(many, to=tmp_path / "out" / "o.csv")
    before = files(tmp_path / "out")

    def watch(at: Progress) -> None:
        if at.rows and scheduler.process.poll() is None:
            scheduler.process.kill()
            scheduler.process.wait()

    with pytest.raises(ig.WorkersLost, match="nothing was written"), cluster(scheduler.address) as pool:
        ig.assemble(many, to=tmp_path / "out" / "o.csv", executor=pool, watch=watch, afresh=True)
    assert files(tmp_path / "out") == before


def test_where_there_is_no_cluster_one_is_told(monkeypatch) -> None:
    turn(monkeypatch, patience_for_workers=0.5)
    with (
        pytest.raises(ig.WorkersLost, match="no scheduler at tcp"),
        cluster("tcp://127.0.0.1:9"),
    ):
        pass


def test_little_is_sent_to_a_worker_even_of_packed_sources(lakes, tmp_path) -> None:
    far = Elsewhere()
    assert made(lakes, tmp_path / "far", "o.csv", executor=far) == made(lakes, tmp_path / "here", "o.csv")
    assert (lakes / "loggers" / "packed_2025-01_00001.csv.gz").stat().st_size > 400_000
    assert far.largest < 60_000


KILLER = """
import os, signal

def depth(text):
    if text == "kill":
        os.kill(os.getpid(), signal.SIGKILL)
    return text
"""


@posix
def test_a_source_that_kills_its_workers_is_set_aside(folder, tmp_path) -> None:
    for number in range(4):
        folder.write(f"{number}.csv", f"day,depth\n2024-05-01,{'kill' if number == 2 else number}\n")
    (tmp_path / "steps.py").write_text(KILLER)
    (tmp_path / "plan.toml").write_text(
        f'integrum = 1\n[[sources]]\nfind = ["{folder.path.as_posix()}"]\n[[columns]]\nname = "depth"\n'
        'type = "number"\nread = "steps.py:depth"\n'
    )
    with processes(2) as pool:
        outcome = ig.assemble(tmp_path / "plan.toml", to=tmp_path / "o.csv", allow_code=True, executor=pool)
    assert [one.source for one in outcome.sources if not one.is_assembled] == ["2.csv"]
    assert "ended without a word" in next(str(one) for one in outcome.problems if one.source == "2.csv")
    assert outcome.table["depth"].to_pylist() == [0, 1, 3]


@posix
def test_processes_outlive_one_that_dies() -> None:
    with processes(2) as pool:
        results = list(ahead(pool, die_at_five, range(9), 5, instead=lambda number: -number))
    assert results == [0, 1, 2, 3, 4, -5, 6, 7, 8]
    with pytest.raises(ig.WorkersLost), processes(1) as pool:
        list(ahead(pool, die_at_five, range(9)))


def test_nobody_waits_for_processes_when_a_call_ends_early() -> None:
    start = time.monotonic()
    with pytest.raises(KeyError), processes(1) as pool:
        assert isinstance(pool, Processes)
        pool.submit(time.sleep, 60)
        raise KeyError
    assert time.monotonic() - start < 20


def test_a_folder_of_parquet_files_is_a_table(lakes, tmp_path) -> None:
    one = ig.assemble(lakes / "plan.toml", to=tmp_path / "one.parquet")
    folder = ig.assemble(lakes / "plan.toml", to=f"{tmp_path}/many.parquet/")
    assert folder.table == one.table
    place = tmp_path / "many.parquet"
    assert sorted(path.name for path in place.iterdir()) == ["part-00001.parquet"]
    assert ds.dataset(place).to_table().select(one.table.column_names) == one.table
    assert ig.verify(place, again=True).is_good
    row = ig.trace(place, [3]).rows[0]
    assert (row.source, row.source_row) == (
        one.table["source"][2].as_py(),
        one.table["source_row"][2].as_py(),
    )
    (place / "part-00001.parquet").write_bytes(b"")
    assert not ig.verify(place).is_good


def test_the_files_of_a_folder_are_the_same_however_they_are_made(lakes, tmp_path, monkeypatch) -> None:

    turn(monkeypatch, stretch=1 << 20)
    here = made(lakes, tmp_path / "here", "o.parquet/")
    assert len([name for name in here if name.startswith("o.parquet/")]) > 1
    assert made(lakes, tmp_path / "far", "o.parquet/", executor=Elsewhere()) == here


def test_a_folder_can_be_divided_by_an_identifier(folder, tmp_path) -> None:
    for lake, row in (("Upper=Mere", 1), ("01", 2), ("", 3)):
        folder.write(f"{lake}_2024.csv", f"day,depth\n2024-05-01,{row}\n")
    plan = ig.Plan([ig.Sources(str(folder.path), ids="[{lake}]_{year}.csv")], ["lake", "day", "depth"])
    outcome = ig.assemble(plan, to=f"{tmp_path}/o.parquet/lake={{lake}}/")
    names = sorted(path.name for path in (tmp_path / "o.parquet").iterdir())
    assert names == ["lake=01", "lake=Upper%3DMere", "lake=__HIVE_DEFAULT_PARTITION__"]
    assert sorted(outcome.table["lake"].to_pylist(), key=str) == ["01", None, "Upper=Mere"]
    kinds = ds.partitioning(flavor="hive", schema=outcome.table.select(["lake"]).schema)
    read = ds.dataset(tmp_path / "o.parquet", partitioning=kinds).to_table()
    assert sorted(read["lake"].to_pylist(), key=str) == ["01", None, "Upper=Mere"]
    assert "lake" not in ds.dataset(tmp_path / "o.parquet" / "lake=01" / "part-00001.parquet").schema.names
    # a lake that is no longer there is no longer in the table
    (folder.path / "01_2024.csv").unlink()
    ig.assemble(plan, to=f"{tmp_path}/o.parquet/lake={{lake}}/")
    assert ds.dataset(tmp_path / "o.parquet", partitioning=kinds).count_rows() == 2
    assert ig.verify(tmp_path / "o.parquet", again=True).is_good
    (tmp_path / "o.parquet" / "lake=mine").mkdir()
    (tmp_path / "o.parquet" / "lake=mine" / "part-1.parquet").write_bytes(b"not of this table")
    with pytest.raises(ig.OutputError, match="not part of it"):
        ig.assemble(plan, to=f"{tmp_path}/o.parquet/lake={{lake}}/")
    with pytest.raises(ig.OutputError, match="each folder is name="):
        ig.assemble(plan, to=f"{tmp_path}/o.parquet/{{lake}}/")
    with pytest.raises(ig.OutputError, match=r"ends with \.parquet/"):
        ig.assemble(plan, to=f"{tmp_path}/o/")


def run(*command: str, cwd: Path) -> subprocess.CompletedProcess[str]:
    return subprocess.run([*COMMAND, *command], cwd=cwd, capture_output=True, text=True, check=False)


def test_the_command_line_takes_workers_and_tells_the_progress(lakes, tmp_path) -> None:
    plan = str(lakes / "plan.toml")
    assert run("assemble", plan, "--to", "one.csv", cwd=tmp_path).returncode == 1
    done = run("assemble", plan, "--to", "two.csv", "--workers", "2", "--progress", cwd=tmp_path)
    assert (tmp_path / "one.csv").read_bytes() == (tmp_path / "two.csv").read_bytes()
    lines = done.stderr.splitlines()
    assert lines and all(line.startswith("assembling: ") and " of " in line for line in lines)
    assert run("assemble", plan, "--to", "two.csv", "--workers", "0", cwd=tmp_path).returncode == 2


@posix
@pytest.mark.parametrize("how", [[], ["--workers", "2"]])
def test_an_interrupted_run_leaves_nothing(lakes, tmp_path, how: list[str]) -> None:
    for number in range(6):
        rows = (lakes / "loggers" / "packed_2025-01_00001.csv.gz").read_bytes()
        (tmp_path / f"in{number}.csv").write_bytes(
            gzip.decompress(rows).replace(b"2025", f"20{30 + number}".encode())
        )
    out = tmp_path / "out"
    command = [*COMMAND, "assemble", "*.csv", "--to", "out/o.parquet/", "--progress", *how]
    process = subprocess.Popen(
        command, cwd=tmp_path, stderr=subprocess.PIPE, text=True, start_new_session=True
    )
    assert process.stderr
    while not (out.exists() and any(path.name.endswith("-parts") for path in out.iterdir())):
        assert process.poll() is None
        time.sleep(0.02)
    os.killpg(process.pid, signal.SIGINT)
    said = process.communicate(timeout=60)[1]
    assert (
        process.returncode == 130 and "interrupted; nothing was written" in said and "Traceback" not in said
    )
    assert list(out.iterdir()) == []


def test_the_pace_is_told_in_words() -> None:
    now = iter([0.0, 10.0, 20.0])
    pace = Pace(lambda: next(now))
    for done, rows in ((0, 0), (100 << 20, 10_000), (200 << 20, 20_000)):
        pace.add(Progress("a.csv", done, 400 << 20, rows, 3, 2))
    assert pace.said() == "210 of 419 MB, 20,000 rows, 10 MB/s, 1,000 rows/s, 20 s left, 3 tasks on 2 workers"


def test_a_meter_shows_a_run(lakes) -> None:
    meter, seen = ig.Meter(), []
    ig.assemble(lakes / "plan.toml", watch=lambda at: (meter(at), seen.append(at)))  # type: ignore[func-returns-value]
    assert seen[-1].share == 1 and seen[-1].rows > 135_000 and seen[0].rows == 0
    assert [one.done for one in seen] == sorted(one.done for one in seen)
    assert repr(meter).startswith("assembling: 100%, ") and "width: 100%" in meter._repr_html_()


def test_many_problems_are_on_the_disk_and_come_back(folder, tmp_path, monkeypatch) -> None:
    from integrum.values.spill import Spill

    header = ",".join(["day", "word", *(f"c{at}" for at in range(20))])
    for number in range(60):
        rows = f"2024-05-01,w{number % 50}," + ",".join(f"bad{number}" for _ in range(20))
        folder.write(f"{number}.csv", f"{header}\n{rows}\n2024-05-02,n/a," + ",".join(["7"] * 20) + "\n")
    columns = [ig.Column("day", "date"), ig.Column("word", missing=["n/a"])]
    columns += [ig.Column(f"c{at}", "number", bad_share=0.5 if at == 3 else 1) for at in range(20)]
    plan = ig.Plan([ig.Sources(str(folder.path))], columns)
    few = ig.assemble(plan, to=tmp_path / "few" / "o.csv")
    turn(
        monkeypatch,
        problems_in_memory=100,
        problems_at_a_time=64,
        rows_set_aside_in_memory=50,
        figures_in_memory=200,
        figures_at_a_time=90,
        values_sketched=300,
        categories_in_memory=7,
        spilled_at_a_time=10,
        pieces_in_a_job=7,
    )
    monkeypatch.setattr(Spill.__init__, "__defaults__", (100,))
    many = ig.assemble(plan, to=tmp_path / "many" / "o.csv")
    here, there = files(tmp_path / "few"), files(tmp_path / "many")
    assert here == there and len(few.problems) == 1200
    assert list(many.problems) == list(few.problems) and many.problems[-1] == few.problems[-1]
    assert many.problems[5:9] == few.problems[5:9]
    assert many.problems.to_pandas()["raw"].tolist() == few.problems.to_pandas()["raw"].tolist()
    assert str(many) == str(few).replace("few", "many")
    assert list(ig.read_record(many.record).problems) == list(few.problems)
