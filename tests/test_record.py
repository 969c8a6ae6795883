"""The record: read back as objects; the same bytes from any executor, from pieces of any size, on any day."""

import csv
import json
import shutil
import subprocess
import sys
import time
from concurrent.futures import Executor, Future, ProcessPoolExecutor, ThreadPoolExecutor
from pathlib import Path

import pytest

import books
import integrum as ig
from knobs import turn

PLAN = """integrum = 1
[[sources]]
find = ["in/files"]
ids = "{lake}_{month}.csv"
labels = { "amb_2.csv" = "Ambermere, second" }
[sources.layout]
units_row = true
comment_mark = "#"
footer_from = ["Total"]
decimal_mark = ","
delimiter = ";"

[[sources]]
find = ["in/books"]

[[columns]]
name = "day"
type = "date"
[[columns]]
name = "depth"
type = "number"
missing = ["-999"]
also = ["Depth (m)"]
[[columns]]
name = "remark"
"""


@pytest.fixture
def plan(folder, tmp_path) -> Path:
    rows = [f"2024-05-{day:02};{day},25;fine, no {day}\n" for day in range(1, 29)]
    rows[3] = "2024-05-04;deep;bad\n"
    rows[7] = '2024-05-08;-999;"two\nlines; ""quoted"""\n'
    rows[9] = '2024-05-10;1,5;"x"y\n'
    rows[12] = "# calibrated here\n"
    rows[15] = "day;Depth (m);remark\n"
    rows[17] = "\n"
    rows[20] = "2024-05-21;1\n"
    text = "day;Depth (m);remark\n;m;\n" + "".join(rows)
    folder.write("files/amb_1.csv", text + "Total;28;\nchecked;;\n")
    folder.write("files/amb_2.csv", text.replace("2024-05", "2025-05"))
    folder.write(
        "files/qui_1.csv", b"\xef\xbb\xbf" + text.replace("2024-05", "2026-05").replace("\n", "\r\n").encode()
    )
    folder.write("files/odd.csv", text.replace("2024-05", "2027-05"))
    folder.write("files/qui_9.csv", 'day;Depth (m);remark\n;m;\n"2024-01-01;1;x\n')
    folder.write("files/z_copy.csv", text + "Total;28;\nchecked;;\n")
    folder.write(
        "books/visits.xlsx",
        books.sheets(
            May=[["day", "depth"], ["2024-06-01", 1.5]], June=[["day", "depth"], ["2024-07-01", "deep"]]
        ),
    )
    path = tmp_path / "plan.toml"
    path.write_text(PLAN)
    return path


def files(folder: Path) -> dict[str, bytes]:
    """All files but the one in which whatever differs from run to run stands."""
    return {
        str(path.relative_to(folder)): path.read_bytes()
        for path in sorted(folder.rglob("*"))
        if path.is_file() and path.name != "run.json"
    }


class Elsewhere(Executor):
    """An executor like that of a cluster: nothing is known of it but `submit`, and what goes there is pickled."""

    def __init__(self) -> None:
        self.largest = 0

    def submit(self, function, /, *args, **kwargs):  # type: ignore[no-untyped-def]
        import pickle

        sent = pickle.dumps((function, args, kwargs))
        self.largest = max(self.largest, len(sent))
        future: Future[object] = Future()
        work, given, more = pickle.loads(sent)
        future.set_result(pickle.loads(pickle.dumps(work(*given, **more))))
        return future


@pytest.mark.parametrize("suffix", ["csv", "csv.gz", "parquet", "arrow", "sqlite"])
def test_the_same_bytes_from_any_executor_and_pieces_of_any_size(
    plan, tmp_path, monkeypatch, suffix: str
) -> None:
    def run(name: str, **how: object) -> dict[str, bytes]:
        (tmp_path / name).mkdir()
        ig.assemble(plan, to=tmp_path / name / f"o.{suffix}", **how)
        return files(tmp_path / name)

    first = run("first")
    assert len(first) == 17 + (suffix == "csv")
    with ThreadPoolExecutor(1) as one:
        assert run("one", executor=one) == first
    with ProcessPoolExecutor(2) as processes:
        assert run("processes", executor=processes, in_flight=1 << 28) == first
    assert run("elsewhere", executor=Elsewhere()) == first
    for size in (64, 300, 8 << 20):
        turn(monkeypatch, piece=size)
        turn(monkeypatch, block=max(7, size // 3))
        assert run(f"pieces of {size}") == first
    moved = tmp_path / "elsewhere on the disk"
    moved.mkdir()
    shutil.copytree(tmp_path / "in", moved / "in")
    shutil.copy(plan, moved)
    time.sleep(0.01)
    (moved / "out").mkdir()
    ig.assemble(moved / "plan.toml", to=moved / "out" / f"o.{suffix}")
    assert files(moved / "out") == first


def test_several_outputs_give_the_same_bytes_too(plan, tmp_path, monkeypatch) -> None:
    def run(name: str) -> dict[str, bytes]:
        (tmp_path / name).mkdir()
        made = ig.assemble(plan, to=tmp_path / name / "{lake}.csv")
        assert [part.output.name for part in made.parts] == ["amb.csv", "no-lake.csv", "qui.csv"]
        return files(tmp_path / name)

    first = run("first")
    turn(monkeypatch, piece=64)
    assert run("again") == first


def test_a_record_is_read_back(plan, tmp_path) -> None:
    made = ig.assemble(plan, to=tmp_path / "out" / "o.csv")
    record = ig.read_record(tmp_path / "out" / "o.csv")
    assert record.folder == made.record
    assert [(one.source, one.status, one.ledger, one.content) for one in record.sources] == [
        (one.source, one.status, one.ledger, one.content) for one in made.sources
    ]
    assert [one.layout for one in record.sources] == [one.layout for one in made.sources]
    assert record.problems == made.problems
    assert [one.path for one in record.sources] == [one.path for one in made.sources]
    in_memory = ig.assemble(plan)
    assert record.set_aside == made.set_aside == in_memory.set_aside
    assert record.left_out == made.left_out == in_memory.left_out
    (output,) = record.outputs
    assert (output.path, output.rows, output.bytes) == (made.output, made.rows, made.output.stat().st_size)
    assert (record.run.schema, record.run.rows) == (9, made.rows)
    again = ig.assemble(record.folder / "plan.toml", to=tmp_path / "again.csv")
    assert again.output.read_bytes() == made.output.read_bytes()
    assert [one.column for one in record.columns] == ["lake", "month", "day", "depth", "remark"]
    with pytest.raises(ig.OutputError, match="there is no record"):
        ig.read_record(tmp_path / "in")


def test_a_record_knows_where_in_the_output_each_source_is(plan, tmp_path) -> None:
    made = ig.assemble(plan, to=tmp_path / "o.csv")
    whole = made.output.read_bytes()
    with open(made.output, encoding="utf-8", newline="") as file:
        table = list(csv.DictReader(file))
    there = [one for one in ig.read_record(made.output).sources if one.is_assembled]
    assert sum(one.last_table_row - one.first_table_row + 1 for one in there) == len(table)
    for one in there:
        rows = table[one.first_table_row - 1 : one.last_table_row]
        assert {(row["source"], row["sheet"]) for row in rows} == {(one.label, one.sheet)}
        cut = whole[one.first_byte : one.end_byte].decode()
        assert list(csv.reader(cut.splitlines(keepends=True))) == [list(row.values()) for row in rows]
    joined = {(row["source"], row["sheet"]) for row in table}
    with open(made.record / "sources.csv", encoding="utf-8", newline="") as file:
        assert joined == {
            (row["label"], row["sheet"]) for row in csv.DictReader(file) if row["status"] == "assembled"
        }
    sheets = [one for one in there if one.sheet]
    assert len({one.workbook for one in sheets}) == 1 and len({one.content for one in sheets}) == 2


def test_a_job_says_where_its_rows_are_and_does_not_carry_them(folder, tmp_path) -> None:
    rows = "".join(f"2024-05-01,{at},some words to fill the line\n" for at in range(300_000))
    folder.write("a.csv", "day,depth,remark\n" + rows)
    folder.write(
        "b.xlsx",
        books.sheets(
            May=[["day", "depth", "remark"], *[["2024-05-01", at, "x" * 40] for at in range(20_000)]]
        ),
    )
    far = Elsewhere()
    plan = ig.Plan(
        [ig.Sources(str(folder.path))], [ig.Column("day"), ig.Column("depth"), ig.Column("remark")]
    )
    assert ig.assemble(plan, to=tmp_path / "o.csv", executor=far).rows == 320_000
    assert far.largest < 20_000


LIMITED = """
import sys
import integrum as ig
outcome = ig.assemble(sys.argv[1], to=sys.argv[2])
with open("/proc/self/status") as file:
    peak = next(int(line.split()[1]) // 1024 for line in file if line.startswith("VmHWM"))
print(outcome.rows, len(outcome.problems), peak)
"""


@pytest.mark.skipif(sys.platform != "linux", reason="the system counts memory in its own way")
def test_memory_stays_below_a_ceiling(folder, tmp_path) -> None:
    """250 MB in one file: below 350 MB; 200,000 bad values and 200,000 rows set aside on top of 60 MB: below 350 MB."""
    line = "2024-05-01 12:00,Ambermere,12.25,7.5,some words to fill the line with, more or less\n".replace(
        "with,", "with"
    )
    with open(folder.path / "large.csv", "w") as file:
        file.write("time,lake,depth,temp,remark\n")
        for _ in range(300):
            file.write(line * 10_000)
    odd = "2024-05-01 12:00,Ambermere,deep,7.5,x\n2024-05-01 12:00,Ambermere,1\n" + line * 2
    (folder.path.parent / "odd").mkdir()
    (folder.path.parent / "odd" / "odd.csv").write_text("time,lake,depth,temp,remark\n" + odd * 200_000)
    peaks = []
    for name, rows in (("in", 3_000_000), ("odd", 600_000)):
        plan = tmp_path / f"{name}.toml"
        columns = [
            ("time", "datetime"),
            ("lake", "text"),
            ("depth", "number"),
            ("temp", "number"),
            ("remark", "text"),
        ]
        plan.write_text(
            f'integrum = 1\n[[sources]]\nfind = ["{name}"]\n'
            + "".join(f'[[columns]]\nname = "{one}"\ntype = "{kind}"\n' for one, kind in columns)
        )
        ran = subprocess.run(
            [sys.executable, "-c", LIMITED, str(plan), str(tmp_path / f"{name}.csv")],
            capture_output=True,
            text=True,
            check=True,
        )
        assembled, problems, peak = map(int, ran.stdout.split())
        assert (assembled, problems) == (rows, 0 if name == "in" else 2)
        peaks.append(peak)
    with open(tmp_path / "odd-record" / "set-aside.csv", encoding="utf-8") as file:
        assert sum(1 for _ in file) == 400_001
    assert max(peaks) < 350, peaks
    (folder.path / "large.csv").unlink()


def test_run_json_has_what_differs_and_hashes_what_does_not(plan, tmp_path) -> None:
    from blake3 import blake3

    made = ig.assemble(plan, to=tmp_path / "o.csv")
    run = json.loads((made.record / "run.json").read_text())
    assert run["outputs"][0]["blake3"] == blake3(made.output.read_bytes()).hexdigest()
    assert run["plan_blake3"] == blake3((made.record / "plan.toml").read_bytes()).hexdigest()
    source = next(one for one in made.sources if one.source.endswith("amb_1.csv"))
    assert source.content == blake3(Path(source.path).read_bytes()).hexdigest()
    for path in made.record.iterdir():
        if path.name != "run.json":
            assert str(tmp_path) not in path.read_text()
