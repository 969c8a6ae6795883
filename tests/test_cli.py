"""The command line as a person and as a script meet it."""

import json
import os
import pty
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]


@pytest.fixture
def lakes(tmp_path, integrum) -> Path:
    from integrum.demo.lakes import write_demo

    return write_demo(tmp_path / "lakes")


def test_the_demo_goes_the_whole_way(tmp_path, integrum) -> None:
    done = integrum("demo", "lakes")
    assert (done.returncode, done.stderr) == (0, "")
    for said in (
        "    2024-04-01 00:00;6,40;2,47",
        "plan: lakes/loggers.toml",
        "5,220 rows × 10 columns from 29 of 30 sources",
        "row 4,919 of lakes/loggers.csv is from vessel-lake/vessel-lake_2024-08_00479.csv, row 60",
    ):
        assert f"\n{said}\n" in done.stdout
    assert len(done.stdout.splitlines()) < 100  # it shows, and does not scroll
    assert (tmp_path / "lakes" / "loggers-record" / "run.json").exists()
    again = integrum("demo", "lakes")
    since = ("since the last run: ", "taken over as they were: ", "every source was read again: ")
    lines = [line for line in again.stdout.splitlines() if not line.startswith(since)]
    assert lines == [line for line in done.stdout.splitlines() if not line.startswith(since)]
    (tmp_path / "mine").mkdir()
    (tmp_path / "mine" / "thesis.txt").write_text("")
    refused = integrum("demo", "mine")
    assert refused.returncode == 2
    assert "is not empty" in refused.stderr


def test_survey_draft_assemble(lakes, tmp_path, integrum) -> None:
    seen = integrum("survey", "lakes/lab")
    assert seen.returncode == 0
    assert "4 header variants" in seen.stdout
    assert (
        '"<4" is below or above what can be measured: the sign goes into a column of its own' in seen.stdout
    )
    drafted = integrum("draft", "lakes/lab", "--plan", "plans/lab.toml")
    assert drafted.returncode == 0
    text = (tmp_path / "plans" / "lab.toml").read_text()
    assert 'find = ["../lakes/lab"]' in text
    assert 'censored = "TP_flag"' in text
    again = integrum("draft", "lakes/lab", "--plan", "plans/lab.toml")
    assert again.returncode == 2
    assert "--replace" in again.stderr
    done = integrum("assemble", "plans/lab.toml", "--to", "lab.csv")
    assert done.returncode == 0
    assert "300 rows × 18 columns from 12 of 12 sources" in done.stdout
    assert integrum("draft", "lakes/lab").stdout.startswith("# Drafted from 12 sources")


def test_exit_statuses(folder, integrum) -> None:
    folder.write("a.csv", "x,y\nReed,2\n")
    assert integrum("assemble", "in", "--to", "o.csv", "--strict").returncode == 0
    folder.write("copy.csv", "x,y\nReed,2\n")
    assert integrum("assemble", "in", "--to", "o.csv", "--strict").returncode == 0
    folder.write("b.csv", "x,y\nReed,3\nQuarry,4\nTotal,9\n")
    assert integrum("assemble", "in", "--to", "o.csv").returncode == 0
    assert integrum("assemble", "in", "--to", "o.csv", "--strict").returncode == 1  # a total that is none
    folder.write("b.csv", "x,y\nReed,3\nQuarry\n")
    assert integrum("assemble", "in", "--to", "o.csv").returncode == 1
    folder.write("c.csv", 'x,y\n1,"2\n')
    done = integrum("assemble", "in", "--to", "o.csv")
    assert done.returncode == 1
    assert "c.csv (quote-not-closed)" in done.stdout
    for wrong in (
        ["assemble", "in"],
        ["asemble", "in"],
        ["survey"],
        ["assemble", "p.toml", "in", "--to", "o.csv"],
    ):
        assert integrum(*wrong).returncode == 2


def test_json_for_machines(lakes, integrum) -> None:
    seen = json.loads(integrum("survey", "lakes/loggers", "--json").stdout)
    assert seen["rows"] == 5220
    assert seen["columns"][0]["name"] == "date_time"
    made = json.loads(integrum("assemble", "lakes/loggers", "--to", "o.csv", "--json").stdout)
    assert (made["rows"], made["status"], len(made["sources"])) == (5220, 0, 30)


def test_piped_text_is_plain_and_stable(lakes, integrum) -> None:
    first, second = integrum("survey", "lakes/visits"), integrum("survey", "lakes/visits")
    assert first.stdout == second.stdout
    assert "\x1b" not in first.stdout
    assert first.stderr == ""


@pytest.mark.skipif(os.name != "posix", reason="pseudo terminals")
def test_a_terminal_gets_a_bar_that_names_the_source(folder, tmp_path) -> None:
    folder.write("ambermere.csv", "a,b\n" + "1,2.5\n" * 2_000_000)
    theirs, ours = pty.openpty()
    run = subprocess.Popen(
        [sys.executable, "-m", "integrum", "assemble", "in", "--to", "o.csv"],
        cwd=tmp_path,
        stdout=ours,
        stderr=ours,
        env={**os.environ, "TERM": "xterm", "COLUMNS": "120"},
    )
    os.close(ours)
    shown = b""
    try:
        while chunk := os.read(theirs, 4096):
            shown += chunk
    except OSError:
        pass  # the other end is closed
    assert run.wait(60) == 0
    assert b"assembling" in shown
    assert b"ambermere.csv" in shown
    assert b"%" in shown
    assert b"2,000,000 rows" in shown


def test_a_reader_that_has_had_enough_ends_the_run_quietly(folder, tmp_path) -> None:
    folder.write("a.csv", "a,b\n" + "1,2.5\n" * 2_000_000)
    line = f"{sys.executable} -m integrum assemble in --to - | head -1"
    done = subprocess.run(
        line, shell=True, cwd=tmp_path, capture_output=True, text=True, timeout=60, check=False
    )
    assert done.stdout == "source,source_row,a,b\n"
    assert "Traceback" not in done.stderr


def test_help_loads_nothing_heavy() -> None:
    code = (
        "import sys; from integrum.cli.app import parser\n"
        "try: parser().parse_args(['--help'])\n"
        "except SystemExit: pass\n"
        "print([name for name in ('pyarrow', 'numpy', 'pandas', 'tomlkit', 'rich') if name in sys.modules])"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.splitlines()[-1] == "[]"
    for command in ("survey", "draft", "assemble", "demo"):
        assert command in done.stdout


def test_a_run_does_not_load_pandas(folder) -> None:
    folder.write("a.csv", "a,b,c\n1,x,2024-05-01\n\n")
    code = (
        "import sys, integrum as ig\n"
        f"ig.assemble({str(folder.path)!r}, to={str(folder.path.parent / 'o.csv')!r})\n"
        "print('pandas' in sys.modules)"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout == "False\n"


@pytest.mark.parametrize("example", sorted((ROOT / "examples").glob("*.py")), ids=lambda path: path.stem)
def test_examples(example: Path, tmp_path) -> None:
    done = subprocess.run(
        [sys.executable, str(example), str(tmp_path / "lakes")], capture_output=True, text=True, check=False
    )
    assert done.returncode == 0, done.stderr
    assert "rows ×" in done.stdout
