"""Output and record change places together: a fault at each call of the swap, a kill at each call, signals inside it."""

import os
import signal
from pathlib import Path

import pytest

import integrum as ig
from integrum.publish import swap
from integrum.sources.own import JOURNAL
from knobs import turn
from serving import SERVED

PLAN = """integrum = 1
[[sources]]
find = ["in"]
[[columns]]
name = "day"
type = "date"
"""
OLD = "source,source_row,day\na.csv,2,2024-05-01\n"
NEW = "source,source_row,day\na.csv,2,2024-05-01\nb.csv,2,2024-05-02\n"
# runs the plan, and dies at the call of the swap with this number
DIE = """
import os, sys
import integrum as ig
from integrum.publish import swap

class Dying:
    def __init__(self, number):
        self.left = number
    def __getattr__(self, name):
        real = getattr(os, name)
        if name not in ("rename", "replace", "link", "unlink", "fsync", "open"):
            return real
        def call(*given, **more):
            self.left -= 1
            if self.left < 0:
                os._exit(9)
            return real(*given, **more)
        return call

swap.os = Dying(int(sys.argv[1]))
ig.assemble("plan.toml", to=sys.argv[2])
"""
CALLS = ("rename", "replace", "link", "unlink", "fsync", "open")


class Failing:
    """The module os, whose nth call that matters here fails."""

    def __init__(self, number: int) -> None:
        self.left = number

    def __getattr__(self, name: str) -> object:
        real = getattr(os, name)
        if name not in CALLS:
            return real

        def call(*given: object, **more: object) -> object:
            self.left -= 1
            if self.left == -1:
                raise OSError(28, "No space left on device")
            return real(*given, **more)

        return call


@pytest.fixture
def old(folder, tmp_path) -> Path:
    """A plan, an output and a record with notes of the analyst in it, and a source more than they know."""
    folder.write("a.csv", "day\n2024-05-01\n")
    (tmp_path / "plan.toml").write_text(PLAN)
    ig.assemble(tmp_path / "plan.toml", to=tmp_path / "o.csv")
    (tmp_path / "o-record" / "notes.txt").write_text("mine")
    folder.write("b.csv", "day\n2024-05-02\n")
    return tmp_path


def is_whole(folder: Path, output: str = "o.csv", record: str = "o-record") -> str:
    """Which of the two runs is there, output and record alike, with the notes and nothing left over."""
    text = (folder / output).read_text()
    rows = len((folder / record / "sources.csv").read_text().splitlines()) - 1
    assert (folder / record / "notes.txt").read_text() == "mine"
    left = [path.name for path in folder.iterdir() if path.name.startswith(".")]
    assert not left, left
    assert (text, rows) in ((OLD, 1), (NEW, 2))
    return "old" if text == OLD else "new"


def test_a_fault_at_any_call_leaves_the_old_or_puts_the_new(old, monkeypatch) -> None:
    seen = []
    for number in range(60):
        ig.assemble(old / "plan.toml", to=old / "o.csv") if seen[-1:] == ["old"] else None
        failing = Failing(number)
        with monkeypatch.context() as patch:
            patch.setattr(swap, "os", failing)
            try:
                ig.assemble(old / "plan.toml", to=old / "o.csv")
            except ig.OutputError as error:
                assert "No space left on device" in str(error)
        swap.settle(old / "o-record")
        seen.append(is_whole(old))
        if failing.left >= 0:  # it never came to that call
            break
        (old / "in" / "b.csv").unlink()
        ig.assemble(old / "plan.toml", to=old / "o.csv")
        assert is_whole(old) == "old"
        (old / "in" / "b.csv").write_text("day\n2024-05-02\n")
    assert number > 12
    assert set(seen) == {"old", "new"}


@pytest.mark.skipif(os.name != "posix", reason="kills")
def test_a_kill_at_any_call_is_completed_or_undone_by_the_next_call(old) -> None:
    seen = set()
    for number in range(2, 60, 3):
        run = SERVED.run([str(number), "o.csv"], old, os.environ, DIE)
        assert run.returncode in (0, 9), run.stderr
        ig.survey(old)  # finds the folder, and what is left half done in it
        journals = [path for path in old.iterdir() if path.name.endswith(JOURNAL)]
        assert not journals
        seen.add((old / "o.csv").read_text())
        rows = len((old / "o-record" / "sources.csv").read_text().splitlines()) - 1
        assert ((old / "o.csv").read_text(), rows) in ((OLD, 1), (NEW, 2))
        (old / "in" / "b.csv").unlink()
        ig.assemble(old / "plan.toml", to=old / "o.csv")
        assert is_whole(old) == "old"
        (old / "in" / "b.csv").write_text("day\n2024-05-02\n")
        if run.returncode == 0:
            break
    assert run.returncode == 0
    assert seen == {OLD, NEW}


def test_what_is_half_done_is_settled_before_it_is_read_as_a_source(old) -> None:
    """New record, old output: without a look at the journal the output would not be known as Integrum's own."""
    half = []
    for number in range(4, 60, 2):
        run = SERVED.run([str(number), "o.csv"], old, os.environ, DIE)
        if run.returncode == 0:
            break
        if any(path.name.endswith(JOURNAL) for path in old.iterdir()):
            half.append(number)
            seen = ig.survey(old).sources
            assert {one.source for one in seen} == {"in/a.csv", "in/b.csv"}
            assert is_whole(old) in ("old", "new")
    assert half


@pytest.mark.skipif(os.name != "posix", reason="signals")
def test_signals_wait_until_the_swap_is_over(old, monkeypatch) -> None:
    came = []
    complete = swap._complete

    def interrupted(moves: swap.Swap) -> None:
        os.kill(os.getpid(), signal.SIGTERM)
        complete(moves)

    before = signal.signal(signal.SIGTERM, lambda *_: came.append(is_whole(old)))
    try:
        monkeypatch.setattr(swap, "_complete", interrupted)
        ig.assemble(old / "plan.toml", to=old / "o.csv")
    finally:
        signal.signal(signal.SIGTERM, before)
    assert came == ["new"]


def test_a_journal_that_another_run_holds_is_not_touched(old, monkeypatch) -> None:
    fcntl = pytest.importorskip("fcntl")
    journal = swap.journal_of(old / "o-record")
    journal.write_text("{}")
    turn(monkeypatch, patience_for_the_swap=0.2)
    with open(journal, "rb+") as held:
        fcntl.flock(held, fcntl.LOCK_EX)
        with pytest.raises(ig.OutputError, match="another run is writing"):
            swap.settle(old / "o-record")
    swap.settle(old / "o-record")
    assert not journal.exists()


def test_several_outputs_and_their_record_change_places_together(folder, tmp_path, monkeypatch) -> None:
    plan = ig.Plan([ig.Sources(str(folder.path), ids="{lake}.csv")], [ig.Column("day", "date")])
    folder.write("amb.csv", "day\n2024-05-01\n")
    folder.write("qui.csv", "day\n2024-05-02\n")
    ig.assemble(plan, to=tmp_path / "{lake}_tidy.csv")
    before = {path.name: path.read_bytes() for path in tmp_path.glob("*_tidy.csv")}
    folder.write("amb.csv", "day\n2025-05-01\n")
    for number in range(60):
        failing = Failing(number)
        with monkeypatch.context() as patch:
            patch.setattr(swap, "os", failing)
            try:
                ig.assemble(plan, to=tmp_path / "{lake}_tidy.csv")
                break
            except ig.OutputError:
                swap.settle(tmp_path / "lake_tidy-record")
        after = {path.name: path.read_bytes() for path in tmp_path.glob("*_tidy.csv")}
        if after != before:
            break
    assert number > 8
    assert "2025" in (tmp_path / "amb_tidy.csv").read_text()
    assert not [path for path in tmp_path.iterdir() if path.name.startswith(".")]


def test_two_outputs_of_one_stem_do_not_share_a_record(old, integrum) -> None:
    other = ig.assemble(old / "plan.toml", to=old / "o.parquet")
    assert other.record == old / "o.parquet-record"
    assert [one.code for one in other.problems] == ["record-elsewhere"]
    assert ig.read_record(old / "o.csv").outputs[0].path == old / "o.csv"
    assert ig.read_record(old / "o.parquet").outputs[0].path == old / "o.parquet"
    assert ig.assemble(old / "plan.toml", to=old / "o.parquet").record == old / "o.parquet-record"
    with pytest.raises(ig.OutputError, match=r"is the record of .*o\.csv, which still exists"):
        ig.assemble(old / "plan.toml", to=old / "z.csv", record=old / "o-record")
    (old / "o.csv").unlink()  # a record without its output is free to be taken over
    again = ig.assemble(old / "plan.toml", to=old / "o.xlsx")
    assert again.record == old / "o-record"
    assert (old / "o-record" / "notes.txt").read_text() == "mine"


def test_a_run_that_assembles_nothing_leaves_what_was_there(old, folder, integrum) -> None:
    before = {path: path.read_bytes() for path in old.rglob("*") if path.is_file() and "in" not in path.parts}
    folder.write("a.csv", 'day\n"2024-05-01\n')
    folder.write("b.csv", "other\n1\n")
    made = ig.assemble(old / "plan.toml", to=old / "o.csv")
    assert (made.status, made.output, made.record) == (2, None, None)
    with pytest.raises(ig.OutputError, match="no source could be assembled"):
        _ = made.table
    ran = integrum("assemble", "plan.toml", "--to", "o.csv")
    assert ran.returncode == 2
    assert "a.csv (quote-not-closed)" in ran.stderr
    assert "nothing was assembled, so nothing was written" in ran.stderr
    for path, data in before.items():
        if path.parent != folder.path:
            assert path.read_bytes() == data
