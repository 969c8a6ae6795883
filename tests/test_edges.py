"""Edges: half-done swaps, times at the ends of calendars, very long cells, lacks of the machine, interrupts, odd places."""

import datetime as dt
import os
import random
import re
import signal
import subprocess
import sys
import threading
import time
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path

import openpyxl
import pyarrow.parquet as pq
import pytest
import xlsxwriter

import attack
import integrum as ig
from integrum.problems.problem import unforeseen
from integrum.sources.own import JOURNAL
from knobs import turn
from serving import SERVED


@pytest.mark.parametrize("seed", range(6))
def test_a_killed_run_leaves_the_old_or_the_new(seed: int) -> None:
    attack.kill(seed)


@pytest.mark.parametrize("seed", range(6))
def test_any_history_gives_the_bytes_of_a_run_from_nothing_or_is_refused(seed: int) -> None:
    attack.history(seed)


KILL = [*range(4, 40)]  # the moment that hit is tried first the next time


@pytest.fixture
def half_done(tmp_path) -> Path:
    """A run that was killed in the midst of its swap."""
    attack.prepared(tmp_path)
    for number in list(KILL):
        ran = SERVED.run([str(number)], tmp_path, os.environ, attack.DIE)
        if list((tmp_path / "out").glob(f"*{JOURNAL}")) and not (tmp_path / "out" / "o-record").exists():
            KILL.insert(0, number)
            return tmp_path
        assert ran.returncode == 9, ran.stderr
        ig.overview(tmp_path / "out" / "o.csv")
    raise AssertionError("no kill hit the swap")


def test_a_journal_is_settled_by_every_command_also_by_one_that_fails(half_done, integrum) -> None:
    (half_done / "in").rename(half_done / "away")
    done = integrum("assemble", "plan.toml", "--to", "out/o.csv")
    assert done.returncode == 2 and "no source found" in done.stderr
    assert not list((half_done / "out").glob(".*"))
    assert (half_done / "out" / "o-record").is_dir()
    states = {one.state for one in ig.verify(half_done / "out" / "o.csv").findings if one.what == "table"}
    assert states == {"same"}


def test_the_record_itself_can_be_named_while_it_is_away(half_done) -> None:
    assert ig.read_record(half_done / "out" / "o-record").sources


# ---- times


ZONED = {
    "UTC": (["0001-01-01 00:00+05:00", "9999-12-31 23:59-03:00"], ["1890-05-01 12:00", "0001-01-01 00:00Z"]),
    "Europe/Berlin": (
        ["0001-01-01 00:00Z", "9999-12-31 23:30Z", "1890-05-01 12:00", "1890-05-01 12:00Z"],
        ["1894-05-01 12:00", "2024-05-01 12:00Z"],
    ),
    "America/New_York": (["0001-01-01 00:00Z", "9999-12-31 23:30"], ["1890-05-01 12:00"]),
}


@pytest.mark.parametrize("zone", ZONED)
@pytest.mark.parametrize("suffix", [".csv", ".parquet", ".arrow", ".xlsx", ".sqlite"])
def test_times_that_no_reader_knows_are_bad_values_in_every_output(
    folder, tmp_path, zone: str, suffix: str
) -> None:
    bad, good = ZONED[zone]
    folder.write("a.csv", "at\n" + "".join(f"{text}\n" for text in (*bad, *good)))
    plan = ig.Plan([ig.Sources(str(folder.path))], [ig.Column("at", "datetime", zone=zone)])
    outcome = ig.assemble(plan, to=tmp_path / f"o{suffix}")
    assert [one.raw for one in outcome.set_aside] == bad and outcome.lost.cells == len(bad)
    read = outcome.table["at"].to_pylist()
    assert read[: len(bad)] == [None] * len(bad) and None not in read[len(bad) :]
    if suffix == ".csv":  # what a reader of Arrow shows is what the CSV says
        said = outcome.output.read_text().splitlines()[1 + len(bad) :]
        for line, moment in zip(said, read[len(bad) :], strict=True):
            assert moment.isoformat(" ").startswith(line.split(",")[2][:16])
    if suffix == ".parquet":
        assert pq.read_table(outcome.output)["at"].to_pylist() == read


def test_a_workbook_keeps_what_it_cannot_hold_as_text(folder, tmp_path) -> None:
    folder.write(
        "a.csv",
        "at,day,clock\n2024-05-01 23:59:59.999999,9999-12-31,23:59:59.999999\n"
        "9999-12-31 23:59:59.999999,1900-01-01,12:00:00.25\n1900-01-01 00:00,1900-02-28,00:00\n"
        "1900-03-01 06:00,1900-03-01,23:59:59\n1899-12-31 10:00,1899-12-31,\n",
    )
    columns = [ig.Column("at", "datetime"), ig.Column("day", "date"), ig.Column("clock", "time")]
    outcome = ig.assemble(ig.Plan([ig.Sources(str(folder.path))], columns), to=tmp_path / "o.xlsx")
    sheet = openpyxl.load_workbook(outcome.output)["table"]
    rows = [row[2:] for row in sheet.iter_rows(min_row=2, values_only=True)]
    assert [row[0] for row in rows] == [
        "2024-05-01 23:59:59.999999",
        "9999-12-31 23:59:59.999999",
        dt.datetime(1900, 1, 1),
        dt.datetime(1900, 3, 1, 6),
        "1899-12-31 10:00:00",
    ]
    days = ((9999, 12, 31), (1900, 1, 1), (1900, 2, 28), (1900, 3, 1))
    assert [row[1] for row in rows][:4] == [dt.datetime(*day) for day in days]
    assert [row[2] for row in rows][:4] == [
        "23:59:59.999999", dt.time(12, 0, 0, 250000), dt.time(0), dt.time(23, 59, 59),
    ]  # fmt: skip
    assert outcome.table["at"][0].as_py() == dt.datetime(2024, 5, 1, 23, 59, 59, 999999)
    assert ig.verify(outcome.output)


@pytest.mark.parametrize("from_1904", [False, True])
def test_numbers_that_are_no_day_of_the_calendar(folder, from_1904: bool) -> None:
    book = xlsxwriter.Workbook(str(folder.path / "a.xlsx"), {"date_1904": from_1904})
    sheet = book.add_worksheet("May")
    day, clock = book.add_format({"num_format": "yyyy-mm-dd"}), book.add_format({"num_format": "hh:mm"})
    sheet.write_row(0, 0, ["day", "clock", "depth"])
    for row, number in enumerate((0, 59, 60, 61, -3), 1):
        sheet.write_number(row, 0, number, day)
        sheet.write_number(row, 1, 0.25, clock)
        sheet.write_number(row, 2, -2.5)
    book.close()
    columns = [ig.Column("day"), ig.Column("clock", "time"), ig.Column("depth", "number")]
    outcome = ig.assemble(ig.Plan([ig.Sources(str(folder.path))], columns))
    after = (
        ["1904-02-29", "1904-03-01", "1904-03-02"]
        if from_1904
        else ["1900-02-28", "1900-02-29", "1900-03-01"]
    )
    assert outcome.table["day"].to_pylist()[1:] == [*after, "-3"]
    assert outcome.table["day"][0].as_py() == ("1904-01-01" if from_1904 else "00:00:00")
    assert set(outcome.table["clock"].to_pylist()) == {dt.time(6)}
    assert set(outcome.table["depth"].to_pylist()) == {-2.5}
    dated = ig.assemble(ig.Plan([ig.Sources(str(folder.path))], [ig.Column("day", "date")]))
    assert [one.raw for one in dated.set_aside] == (["-3"] if from_1904 else ["00:00:00", "1900-02-29", "-3"])


# ---- long cells, lacks, odd places


@pytest.mark.parametrize("kind", ["number", "text"])
def test_a_very_long_cell_is_kept_once(folder, tmp_path, kind: str) -> None:
    long = "x" * 5_000_000
    folder.write("a.csv", f"lake,depth\nAmber,{long}\nAmber,2\n")
    plan = ig.Plan([ig.Sources(str(folder.path))], ["lake", ig.Column("depth", kind)])
    outcome = ig.assemble(plan, to=tmp_path / "o.csv")
    large = [path.name for path in tmp_path.rglob("*") if path.is_file() and path.stat().st_size > 1_000_000]
    assert sorted(large) == sorted(["a.csv", "o.csv" if kind == "text" else "set-aside.csv"])
    if kind == "number":
        assert outcome.set_aside[0].raw == long and len(outcome.problems[0].raw) < 3_000
    else:
        assert outcome.table["depth"][0].as_py() == long
        assert len(str(outcome.overview())) < 10_000 and len(str(ig.trace(tmp_path / "o.csv", 2))) < 10_000


def test_too_little_memory_and_too_few_threads_are_said_as_such(folder, tmp_path, monkeypatch) -> None:
    for error, said in (
        (MemoryError(), "there is too little memory"),
        (RuntimeError("can't start new thread"), "no more threads can be started"),
        (OSError(11, "Resource temporarily unavailable"), "no more threads can be started"),
    ):
        fault = unforeseen(error)
        assert said in fault.message and "bug" not in fault.hint
    folder.write("a.csv", "x\n1\n")
    script = (
        "import resource, sys\nfrom integrum.cli import app\n"
        "app._COMMANDS['survey'] = lambda given: bytearray(1 << 62)\n"
        "sys.argv = ['integrum', 'survey', 'in']\napp.run()\n"
    )
    ran = subprocess.run(
        [sys.executable, "-c", script], cwd=tmp_path, capture_output=True, text=True, check=False
    )
    assert ran.returncode == 2
    assert ran.stderr == (
        "integrum: there is too little memory; close other programs, or use a machine with more memory; nothing was "
        "written\n"
    )


def test_a_place_that_refuses_says_so_at_once(tmp_path) -> None:
    asked = []

    class Refusing(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            asked.append(self.path)
            self.send_response(403)
            self.end_headers()

        do_HEAD = do_GET  # noqa: N815

        def log_message(self, format: str, *args: object) -> None:
            pass

    server = ThreadingHTTPServer(("127.0.0.1", 0), Refusing)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    address = f"http://127.0.0.1:{server.server_port}/lakes/"
    try:
        with pytest.raises(ig.NothingFound, match="refuses access: 403"):
            ig.survey(address)
        assert len(asked) <= 3  # no other attempts
    finally:
        server.shutdown()
        server.server_close()


def test_a_search_from_the_root_stays_out_of_what_the_system_shows(folder, monkeypatch) -> None:

    folder.write("a.csv", "x\n1\n")
    folder.write("proc/b.csv", "x\n2\n")
    turn(monkeypatch, pseudo_folders=(os.path.realpath(folder.path / "proc"),))
    seen = ig.survey(f"{folder.path}/**/*.csv")
    assert [one.source for one in seen.sources] == ["a.csv"]
    assert "a folder of the system" in " ".join(one.message for one in seen.problems)


def test_values_that_differ_only_in_case_are_told_in_plain_words(folder, tmp_path) -> None:
    folder.write("Amber_1.csv", "x\n1\n")
    folder.write("amber_2.csv", "x\n2\n")
    plan = ig.Plan([ig.Sources(str(folder.path), ids="{lake}_{n}.csv")], ["x"])
    with pytest.raises(ig.OutputError) as error:
        ig.assemble(plan, to=tmp_path / "{lake}.csv")
    assert 'the values "Amber" and "amber" differ only in upper and lower case' in str(error.value)
    assert "(" not in str(error.value).replace(str(tmp_path), "")


def test_control_characters_do_not_reach_the_page(folder, tmp_path) -> None:
    odd = "Am\x1b[31mber\u202e"
    folder.write("b\x1b[2J.csv", f"la\x1bke,de\x07pth\n{odd},1\n{odd},x\n")
    outcome = ig.assemble(
        ig.Plan([ig.Sources(str(folder.path))], ["la\x1bke", ig.Column("de\x07pth", "number")]),
        to=tmp_path / "o.csv",
    )
    text = ig.report(outcome.output).read_text()
    assert not re.search("[\x00-\x08\x0b-\x1f\x7f-\x9f\u202a-\u202e\u2066-\u2069]", text)


def test_code_stays_beside_the_plan_unless_more_is_allowed(folder, tmp_path, integrum) -> None:
    folder.write("a.csv", "x\n1\n")
    (tmp_path / "far").mkdir()
    (tmp_path / "far" / "steps.py").write_text("def read(text):\n    return '7'\n")
    (tmp_path / "plans" / "below").mkdir(parents=True)
    text = 'integrum = 1\n[[sources]]\nfind = ["../in"]\n[[columns]]\nname = "x"\ntype = "integer"\nread = "PLACE:read"\n'
    plan = tmp_path / "plans" / "plan.toml"
    for place in ("../far/steps.py", (tmp_path / "far" / "steps.py").as_posix()):
        plan.write_text(text.replace("PLACE", place))
        done = integrum("assemble", "plans/plan.toml", "--to", "o.csv", "--allow-code")
        assert (
            done.returncode == 2
            and "which is not beside the plan" in done.stderr
            and "--code-from" in done.stderr
        )
        assert not (tmp_path / "o.csv").exists()
        with pytest.raises(ig.PlanError, match="not beside the plan"):
            ig.assemble(plan, allow_code=True)
        assert ig.assemble(plan, allow_code=tmp_path / "far").table["x"].to_pylist() == [7]
    os.symlink(tmp_path / "far" / "steps.py", tmp_path / "plans" / "link.py")
    plan.write_text(text.replace("PLACE", "link.py"))
    with pytest.raises(ig.PlanError, match="not beside the plan"):
        ig.assemble(plan, allow_code=True)
    (tmp_path / "plans" / "below" / "steps.py").write_text("def read(text):\n    return '8'\n")
    plan.write_text(text.replace("PLACE", "below/steps.py"))
    assert ig.assemble(plan, allow_code=True).table["x"].to_pylist() == [8]
    assert integrum("assemble", "plans/plan.toml", "--to", "o.csv", "--code-from", "far").returncode == 0
    assert integrum("verify", "o.csv", "--again", "--allow-code").returncode == 0


def test_a_table_that_was_edited_since_is_told_by_overview_and_report(folder, tmp_path) -> None:
    folder.write("a.csv", "x\n1\n")
    ig.assemble(folder.path, to=tmp_path / "o.csv")
    os.utime(tmp_path / "o.csv")  # another time, the same bytes
    assert "note: " not in str(ig.overview(tmp_path / "o.csv"))
    (tmp_path / "o.csv").write_text("source,source_row,x\na.csv,2,5\n")
    said = "o.csv is not as the run wrote it any more"
    assert f"note: {said}" in str(ig.overview(tmp_path / "o.csv"))
    assert said in ig.report(tmp_path / "o.csv").read_text()


@pytest.mark.parametrize("how", [signal.SIGINT, signal.SIGTERM])
def test_an_interrupt_at_any_moment_ends_with_one_line_and_status_130(
    folder, tmp_path, how: signal.Signals
) -> None:
    folder.write("a.csv", "lake,depth\n" + "Amber,1.5\n" * 300_000)
    chance = random.Random(how)
    seen = set()
    for _ in range(7):
        run = subprocess.Popen(
            [sys.executable, "-c", "print('up', flush=True)\nfrom integrum.cli import main\nmain()",
             "assemble", "in", "--to", "o.csv"],
            cwd=tmp_path, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
        )  # fmt: skip
        assert run.stdout and run.stdout.readline() == "up\n"
        time.sleep(0.15 + chance.random() * 1.2)
        run.send_signal(how)
        _, said = run.communicate(timeout=60)
        seen.add(run.returncode)
        if run.returncode == 130:
            assert re.fullmatch(
                r"integrum: interrupted; (nothing was written|the table is written, .*)\n", said
            ), said
        else:
            assert (run.returncode, said) == (0, "")
        assert not list(tmp_path.glob(".o*"))
    assert 130 in seen
