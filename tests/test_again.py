"""Again next month: what is taken over, what has changed, and the proof that old rows stayed."""

import json
import os
import random
import shutil
import subprocess
import sys
from collections import Counter
from dataclasses import fields
from pathlib import Path

import pytest

import integrum as ig
from integrum.measures.measures import TABLES
from integrum.record.run_file import ORDER, RunFile
from integrum.reuse.rows import align
from integrum.sources.source import Source
from months import Months, files_of, plan_text
from record_page import PAGE, page

AMBER = "day,depth\n2024-05-01,3.20\n2024-05-02,3.25\n2024-05-03,3.30\n"
PLAN = """integrum = 1
[[sources]]
find = "in"
[[columns]]
name = "day"
type = "date"
[[columns]]
name = "depth"
type = "number"
"""


@pytest.fixture
def lakes(tmp_path: Path) -> Path:
    """A folder with a plan and three sources, and the table that it gives."""
    (tmp_path / "in").mkdir()
    for lake in ("amber", "quillon", "vessel"):
        (tmp_path / "in" / f"{lake}.csv").write_text(AMBER.replace("3.2", f"{len(lake)}.2"))
    (tmp_path / "lakes.toml").write_text(PLAN)
    assert assembled(tmp_path).taken_over == 0
    return tmp_path


def assembled(folder: Path, to: str = "lakes.csv", **more: object) -> ig.Outcome:
    return ig.assemble(folder / "lakes.toml", to=folder / "out" / to, **more)


def edit(path: Path, old: str, new: str) -> None:
    text = path.read_text()
    assert old in text
    path.write_text(text.replace(old, new, 1))


# the same bytes as a full run


@pytest.mark.parametrize("seed", range(8))
def test_any_sequence_of_months_gives_the_bytes_of_a_full_run(seed: int, tmp_path: Path) -> None:
    chance = random.Random(seed)
    suffix = chance.choice(("csv", "parquet", "sqlite"))
    to = ("{lake}." if chance.random() < 0.2 else "all.") + suffix
    guarded = suffix == "csv" and chance.random() < 0.3
    (tmp_path / "p.toml").write_text(plan_text(chance))
    months = Months(tmp_path, chance)
    before: Counter[bytes] = Counter()
    for month in range(3):
        seen = (
            ig.changes(tmp_path / "p.toml", record=next((tmp_path / "a").glob("*-record"))) if month else None
        )
        run = ig.assemble(
            tmp_path / "p.toml",
            to=tmp_path / "a" / to,
            guard_formulas=guarded,
            trust_times=chance.random() < 0.5,
        )
        shutil.rmtree(tmp_path / "b", ignore_errors=True)
        full = ig.assemble(tmp_path / "p.toml", to=tmp_path / "b" / to, guard_formulas=guarded, afresh=True)
        assert full.taken_over == 0 and full.is_assembled
        ours, theirs = files_of(tmp_path / "a"), files_of(tmp_path / "b")
        assert {name: ours[name] for name in theirs} == theirs
        if seen is not None:
            assert run.changes is not None and seen.sources == run.changes.sources
            assert (seen.rows, seen.rows_before) == (run.rows, run.changes.rows_before)
        if to == "all.csv":
            now = Counter((tmp_path / "a" / to).read_bytes().splitlines()[1:])
            if seen is not None and seen.keeps_rows:
                assert before <= now
            before = now
        months.pass_on()


def test_large_sources_are_taken_over_in_parts(tmp_path: Path) -> None:
    (tmp_path / "in").mkdir()
    (tmp_path / "lakes.toml").write_text(
        PLAN + '[[checks]]\nunique = ["day", "depth"]\nseverity = "warning"\n'
    )
    rows = "".join(f"2024-05-{at % 28 + 1:02},{at % 9973}.{at % 7}\n" for at in range(400_000))
    (tmp_path / "in" / "amber.csv").write_text("day,depth\n" + rows)
    for suffix in ("csv", "parquet", "sqlite"):
        assembled(tmp_path, f"lakes.{suffix}")
    (tmp_path / "in" / "a.csv").write_text(AMBER)
    for suffix in ("csv", "parquet", "sqlite"):
        run = assembled(tmp_path, f"lakes.{suffix}")
        assert (run.taken_over, run.rows) == (1, 400_003)
        full = ig.assemble(tmp_path / "lakes.toml", to=tmp_path / "b" / f"lakes.{suffix}")
        assert run.output.read_bytes() == full.output.read_bytes()
        assert run.problems == full.problems


def test_a_few_long_rows_are_taken_over(tmp_path: Path) -> None:
    (tmp_path / "in").mkdir()
    (tmp_path / "lakes.toml").write_text(PLAN + '[[columns]]\nname = "remark"\n')
    for name, length in (("amber", 5 << 20), ("quillon", 20), ("vessel", 100_000)):
        lines = [f"2024-05-0{day},{day},{name[0] * length}" for day in (1, 2)]
        (tmp_path / "in" / f"{name}.csv").write_text("\n".join(["day,depth,remark", *lines]) + "\n")
    assembled(tmp_path)
    (tmp_path / "in" / "hollow.csv").write_text(AMBER)
    assert assembled(tmp_path).taken_over == 3
    ig.assemble(tmp_path / "lakes.toml", to=tmp_path / "b" / "lakes.csv")
    assert files_of(tmp_path / "out") == files_of(tmp_path / "b")


def test_sheets_are_taken_over(tmp_path: Path) -> None:
    import xlsxwriter

    (tmp_path / "in").mkdir()
    for name in ("amber", "quillon"):
        with xlsxwriter.Workbook(str(tmp_path / "in" / f"{name}.xlsx")) as book:
            for month in ("May", "June"):
                sheet = book.add_worksheet(month)
                for at, row in enumerate(line.split(",") for line in AMBER.splitlines()):
                    sheet.write_row(at, 0, [row[0], float(row[1]) + len(month + name) if at else row[1]])
    (tmp_path / "lakes.toml").write_text(PLAN)
    first = assembled(tmp_path)
    (tmp_path / "in" / "vessel.csv").write_text(AMBER)
    run = assembled(tmp_path)
    assert (first.rows, run.taken_over, run.rows) == (12, 4, 15)
    assert (
        run.output.read_bytes()
        == ig.assemble(tmp_path / "lakes.toml", to=tmp_path / "b.csv").output.read_bytes()
    )


# what is unchanged is not read, and what is doubtful is


@pytest.mark.parametrize("suffix", [".csv", ".parquet"])
def test_with_nothing_new_the_table_stays_where_it_is(lakes: Path, suffix: str) -> None:
    (lakes / "in" / "broken.csv").write_text("nothing,of,this\n1,2,3\n")
    (lakes / "in" / "empty.csv").write_text("day,depth\n")
    table, record = lakes / "out" / f"stays{suffix}", lakes / "out" / "stays-record"
    first = assembled(lakes, table.name)
    before = {path.name: path.read_bytes() for path in record.iterdir() if path.name != "run.json"}
    inode, when = table.stat().st_ino, table.stat().st_mtime_ns
    second = assembled(lakes, table.name)
    assert (table.stat().st_ino, table.stat().st_mtime_ns) == (inode, when)
    assert (first.taken_over, second.taken_over, second.rows) == (0, 3, first.rows)
    assert {path.name: path.read_bytes() for path in record.iterdir() if path.name != "run.json"} == before
    assert second.table == first.table
    assert ig.verify(table).is_good
    edit(lakes / "in" / "vessel.csv", "3.30", "3.31")
    assert assembled(lakes, table.name).taken_over == 2
    assert table.stat().st_ino != inode
    assert not list((lakes / "out").glob(".*"))


def test_a_source_that_comes_in_now_is_not_missing_from_a_table_that_stays(
    lakes: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    with monkeypatch.context() as patched:
        patched.setattr(Source, "has_changed", lambda source: source.name == "vessel.csv")
        assert assembled(lakes, "o.csv").rows == 6
    outcome = assembled(lakes, "o.csv")
    assert (outcome.rows, outcome.status) == (9, 0)
    assert (lakes / "out" / "o.csv").read_bytes() == (lakes / "out" / "lakes.csv").read_bytes()


def test_unchanged_sources_are_not_parsed(lakes: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    import integrum.reading.head as head

    opened: list[str] = []
    read = head.read_head

    def noted(source, layout):
        opened.append(source.name)
        return read(source, layout)

    monkeypatch.setattr("integrum.reading.heads.read_head", noted)
    (lakes / "in" / "hollow.csv").write_text(AMBER.replace("3.2", "1.2"))
    assert assembled(lakes).taken_over == 3
    assert opened == ["hollow.csv"]


def test_trusted_times_stand_for_the_content(lakes: Path) -> None:
    path = lakes / "in" / "amber.csv"
    state = path.stat()
    edit(path, "3.30", "9.99")
    os.utime(path, ns=(state.st_atime_ns, state.st_mtime_ns))
    trusting = assembled(lakes, trust_times=True)
    assert trusting.taken_over == 3 and "9.99" not in trusting.output.read_text()
    assert not ig.changes(lakes / "lakes.toml", trust_times=True)
    careful = assembled(lakes)
    assert careful.taken_over == 2 and "9.99" in careful.output.read_text()


def test_a_table_edited_by_hand_is_not_taken_over(lakes: Path) -> None:
    table = lakes / "out" / "lakes.csv"
    right = table.read_bytes()
    edit(table, "3.30", "3.39")
    with pytest.raises(ig.OutputError, match="is not written over"):
        assembled(lakes)
    run = ig.assemble(lakes / "lakes.toml", to=table, replace=True)
    assert run.taken_over == 0
    assert "is not as the last run left it" in run.why_all
    assert table.read_bytes() == right


def _newer_version(lakes: Path) -> None:
    run = lakes / "out" / "lakes-record" / "run.json"
    run.write_text(run.read_text().replace(f'"version": "{ig.__version__}"', '"version": "0.0.9"'))


REASONS = {
    "the plan has changed": lambda lakes: edit(lakes / "lakes.toml", '"number"', '"number"\nunit = "m"'),
    "problems.csv in the record has changed": lambda lakes: edit(
        lakes / "out" / "lakes-record" / "problems.csv", "severity", "Severity"
    ),
    "the last run used Integrum 0.0.9": _newer_version,
    "is not as the last run left it": lambda lakes: (lakes / "out" / "lakes.csv").unlink(),
}


@pytest.mark.parametrize("reason", REASONS)
def test_what_is_doubtful_is_read_again(lakes: Path, reason: str) -> None:
    REASONS[reason](lakes)
    run = assembled(lakes)
    assert run.taken_over == 0
    assert reason in run.why_all
    assert f"every source was read again: {run.why_all}" in str(run)
    assert assembled(lakes).taken_over == 3


def test_other_checks_do_not_change_rows(lakes: Path) -> None:
    with open(lakes / "lakes.toml", "a") as plan:
        plan.write('[[checks]]\nunique = "day"\n[[checks]]\nrows = [1, 2]\n')
    assert ig.changes(lakes / "lakes.toml").remarks == ("the checks of the plan have changed",)
    run = assembled(lakes)
    full = ig.assemble(lakes / "lakes.toml", to=lakes / "b" / "lakes.csv")
    assert run.taken_over == 3
    assert run.problems == full.problems and {one.code for one in run.problems} == {
        "not-unique",
        "rows-per-source",
    }


def test_other_columns_are_another_table(tmp_path: Path) -> None:
    (tmp_path / "in").mkdir()
    (tmp_path / "lakes.toml").write_text(PLAN + '[rules]\nunlisted = "keep"\n')
    (tmp_path / "in" / "amber.csv").write_text(AMBER)
    assembled(tmp_path)
    (tmp_path / "in" / "quillon.csv").write_text("day,depth,wind\n2024-05-01,3.2,4\n")
    run = assembled(tmp_path)
    assert (run.taken_over, run.why_all) == (0, "the table has other columns now")
    assert run.changes.new_columns == ("wind",)
    with pytest.raises(ig.OutputError, match="column smoke"):
        (tmp_path / "in" / "hollow.csv").write_text("day,depth,smoke\n2024-05-01,3.2,4\n")
        assembled(tmp_path, only_add=True)


def test_a_new_header_that_changes_what_others_mean_is_told(lakes: Path) -> None:
    # with a header that is written so, "dept?" is no pattern any more
    edit(lakes / "lakes.toml", 'name = "depth"', 'name = "level"\nalso = ["dept?"]')
    assert assembled(lakes).rows == 9
    (lakes / "in" / "hollow.csv").write_text("day,dept?\n2024-05-01,3.2\n")
    run = assembled(lakes)
    assert (run.taken_over, run.why_all) == (0, "new header cells change which columns the old ones are for")
    assert (
        files_of(lakes / "out")["lakes.csv"]
        == ig.assemble(lakes / "lakes.toml", to=lakes / "b" / "lakes.csv").output.read_bytes()
    )
    assert ig.changes(lakes / "lakes.toml").summary() == "nothing has changed"


def test_an_earlier_copy_sets_the_old_one_aside(lakes: Path) -> None:
    shutil.copy(lakes / "in" / "quillon.csv", lakes / "in" / "a copy.csv")
    run = assembled(lakes)
    assert [one.source for one in run.sources if not one.is_assembled] == ["quillon.csv"]
    assert (
        run.output.read_bytes() == ig.assemble(lakes / "lakes.toml", to=lakes / "b.csv").output.read_bytes()
    )


# what has changed


def test_changes_of_every_kind(lakes: Path) -> None:
    assert not ig.changes(lakes / "lakes.toml")
    (lakes / "in" / "hollow.csv").write_text(AMBER.replace("3.2", "1.2"))
    (lakes / "in" / "vessel.csv").rename(lakes / "in" / "vessel lake.csv")
    edit(lakes / "in" / "amber.csv", "2024-05-02,5.25", "2024-05-02,5.52")
    edit(lakes / "in" / "amber.csv", "2024-05-03,3.30\n", "2024-05-03,3.30\n2024-05-04,5.40\n")
    (lakes / "in" / "quillon.csv").unlink()
    found = ig.changes(lakes / "out" / "lakes.csv")
    kinds = {one.source: one.kind for one in found.sources}
    assert kinds == {
        "amber.csv": "changed",
        "hollow.csv": "new",
        "vessel lake.csv": "renamed",
        "quillon.csv": "gone",
    }
    amber = found.of("changed")[0]
    assert (amber.changed, amber.added, amber.removed, amber.moved, amber.at_end) == (1, 1, 0, 0, True)
    assert amber.cells == (ig.CellChange(3, "depth", "5.25", "5.52"),)
    assert found.of("renamed")[0].was == "vessel.csv"
    assert (found.rows, found.rows_before, found.keeps_rows) == (10, 9, False)
    lines = str(found).splitlines()
    assert '    row 3, column "depth": "5.25" → "5.52"' in lines
    assert "  amber.csv: 1 row changed, 1 row added at the end" in lines


CASES = {
    "appended": (AMBER + "2024-05-04,3.40\n", (0, 1, 0, 0, True), True),
    "inserted": (AMBER.replace("2024-05-02", "2024-05-01,9.99\n2024-05-02"), (0, 1, 0, 2, False), False),
    "removed": (AMBER.replace("2024-05-02,3.25\n", ""), (0, 0, 1, 1, False), False),
    "corrected": (AMBER.replace("3.25", "3.52"), (1, 0, 0, 0, False), False),
    "other spelling": (AMBER.replace("3.25", "3.250"), (1, 0, 0, 0, False), False),
    "a line end more": (AMBER + "\n", (0, 0, 0, 0, False), True),
    "columns in another order": (
        "depth,day\n3.20,2024-05-01\n3.25,2024-05-02\n3.30,2024-05-03\n",
        (0, 0, 0, 0, False),
        True,
    ),
}


@pytest.mark.parametrize("case", CASES)
@pytest.mark.parametrize("suffix", ["csv", "parquet", "arrow", "sqlite"])
def test_rows_that_changed(case: str, suffix: str, tmp_path: Path) -> None:
    text, counts, keeps = CASES[case]
    if case == "other spelling" and suffix != "csv":
        counts, keeps = (0, 0, 0, 0, False), True
    (tmp_path / "in").mkdir()
    (tmp_path / "lakes.toml").write_text(PLAN)
    (tmp_path / "in" / "amber.csv").write_text(AMBER)
    assembled(tmp_path, f"lakes.{suffix}")
    (tmp_path / "in" / "amber.csv").write_text(text)
    found = ig.changes(tmp_path / "lakes.toml")
    one = found.sources[0]
    assert (one.changed, one.added, one.removed, one.moved, one.at_end) == counts
    assert found.keeps_rows == keeps
    assert bool(one.header) == (case == "columns in another order")
    if keeps:
        assert assembled(tmp_path, f"lakes.{suffix}", only_add=True).changes.sources == found.sources
    else:
        before = (tmp_path / "out" / f"lakes.{suffix}").read_bytes()
        with pytest.raises(ig.OutputError, match=r"rows of the last table would change or go .*amber\.csv"):
            assembled(tmp_path, f"lakes.{suffix}", only_add=True)
        assert (tmp_path / "out" / f"lakes.{suffix}").read_bytes() == before


def test_headers_and_units_that_changed(lakes: Path) -> None:
    edit(lakes / "lakes.toml", 'find = "in"', 'find = "in"\nlayout = { units_row = true }')
    for path in (lakes / "in").iterdir():
        edit(path, "day,depth\n", "day,depth\n,m\n")
    assembled(lakes)
    edit(lakes / "in" / "amber.csv", ",m\n", ",cm\n")
    edit(lakes / "in" / "quillon.csv", "day,depth\n", "day,Depth of water\n")
    found = ig.changes(lakes / "lakes.toml")
    said = {one.source: one.header for one in found.sources}
    assert said["amber.csv"] == ('unit of "depth": m → cm',)
    assert said["quillon.csv"] == (
        'new in the header: "Depth of water"',
        'no longer in the header: "depth"',
    )
    new = found.headers[0]
    assert (new.header, new.state, new.guess) == ("Depth of water", "unlisted", "depth")
    assert new.score > 0.5 and 'may be "depth"' in str(found)


def test_expected_sources_that_are_still_missing(lakes: Path) -> None:
    edit(
        lakes / "lakes.toml", 'find = "in"', 'find = "in"\nexpect = ["amber", "quillon", "vessel", "hollow"]'
    )
    assembled(lakes)
    assert [one.code for one in ig.changes(lakes / "lakes.toml").missing] == ["source-missing"]


def test_a_changed_plan_is_told_with_what_it_changes(lakes: Path) -> None:
    edit(lakes / "lakes.toml", 'type = "number"', 'type = "number"\nmissing = ["3.30"]')
    edit(lakes / "in" / "amber.csv", "5.25", "5.26")
    found = ig.changes(lakes / "lakes.toml")
    assert found.remarks == ("the plan has changed",)
    assert {one.source: one.changed for one in found.sources} == {
        "amber.csv": 2,
        "quillon.csv": 1,
        "vessel.csv": 1,
    }
    assert {cell.old for one in found.sources for cell in one.cells} == {"3.30", "5.25"}
    with_table = ig.changes(lakes / "out" / "lakes.csv")
    assert with_table.remarks == ("lakes.toml has changed; compared with the plan of the last run",)
    assert [one.source for one in with_table.sources] == ["amber.csv"]


def test_without_the_table_the_blocks_say_where(tmp_path: Path) -> None:
    (tmp_path / "in").mkdir()
    (tmp_path / "lakes.toml").write_text(PLAN)
    rows = [f"2024-05-{at % 28 + 1:02},{at}" for at in range(2_000)]
    (tmp_path / "in" / "amber.csv").write_text("\n".join(["day,depth", *rows]) + "\n")
    assembled(tmp_path)
    (tmp_path / "out" / "lakes.csv").unlink()
    rows[1_500] += "5"
    (tmp_path / "in" / "amber.csv").write_text("\n".join(["day,depth", *rows]) + "\n")
    one = ig.changes(tmp_path / "lakes.toml").sources[0]
    assert one.changed is None
    assert one.from_line <= 1_502 < one.from_line + 256


def test_changes_write_nothing(lakes: Path) -> None:
    (lakes / "in" / "hollow.csv").write_text(AMBER)
    before = files_of(lakes)
    assert ig.changes(lakes / "lakes.toml")
    assert files_of(lakes) == before


@pytest.mark.parametrize("seed", range(30))
def test_rows_are_aligned(seed: int) -> None:
    import numpy as np

    chance = random.Random(seed)
    old = [chance.randint(0, 60) for _ in range(chance.randint(0, 40))]
    new = list(old)
    for _ in range(chance.randint(0, 6)):
        at = chance.randint(0, len(new))
        if chance.random() < 0.5 and at < len(new):
            new[at : at + 1] = [] if chance.random() < 0.5 else [chance.randint(100, 200)]
        else:
            new.insert(at, chance.randint(100, 200))
    found = align(np.array(old, np.uint64), np.array(new, np.uint64))
    kept = [
        value
        for at, value in enumerate(old)
        if at not in {*found.removed, *(one for one, _ in found.changed)}
    ]
    same = [
        value for at, value in enumerate(new) if at not in {*found.added, *(two for _, two in found.changed)}
    ]
    assert kept == same
    assert len(old) - len(found.removed) == len(new) - len(found.added)


# verify


def test_verify_finds_what_was_touched(lakes: Path) -> None:
    assert ig.verify(lakes / "out" / "lakes.csv", again=True).is_good
    record = lakes / "out" / "lakes-record"
    edit(lakes / "in" / "amber.csv", "5.25", "5.52")
    (lakes / "in" / "quillon.csv").unlink()
    (lakes / "in" / "hollow.csv").write_text(AMBER)
    edit(lakes / "lakes.toml", '"number"', '"text"')
    edit(record / "columns.csv", "depth", "Depth")
    edit(lakes / "out" / "lakes.csv", "3.30", "3.31")
    found = ig.verify(record)
    assert {(one.what, one.name): one.state for one in found.findings if one.state != "same"} == {
        ("table", "lakes.csv"): "changed",
        ("plan", "lakes.toml"): "changed",
        ("record", "columns.csv"): "changed",
        ("source", "amber.csv"): "changed",
        ("source", "quillon.csv"): "missing",
        ("source", "hollow.csv"): "new",
    }
    assert str(found).splitlines()[-1] == "not verified: 6 things are not as recorded"
    before = files_of(lakes)
    again = ig.verify(record, again=True)
    assert ("table again", "changed") in {(one.what, one.state) for one in again.findings}
    assert files_of(lakes) == before


@pytest.mark.parametrize("suffix", ["csv", "csv.gz", "parquet", "arrow", "xlsx", "sqlite"])
def test_a_full_run_gives_the_same_bytes(suffix: str, lakes: Path) -> None:
    assembled(lakes, f"all.{suffix}")
    found = ig.verify(lakes / "out" / f"all.{suffix}", again=True)
    assert found.is_good and sum(one.what == "record again" for one in found.findings) > 10


def test_verify_tables_named_after_identifiers(lakes: Path) -> None:
    edit(lakes / "lakes.toml", 'find = "in"', 'find = "in"\nids = "{lake}.csv"')
    outcome = assembled(lakes, "{lake}.csv")
    found = ig.verify(outcome.record, again=True)
    assert found.is_good and sum(one.what == "table again" for one in found.findings) == 3


# in step with others: records of the version before


def test_a_record_of_the_schema_before_is_read(tmp_path: Path) -> None:
    shutil.copytree(Path(__file__).parent / "records" / "schema-6", tmp_path / "old")
    record = ig.read_record(tmp_path / "old" / "lakes.csv")
    assert (record.run.schema, len(record.sources), len(record.problems)) == (6, 4, 6)
    assert (len(record.left_out), len(record.set_aside), len(record.columns)) == (9, 5, 6)
    assert (len(record.variants), record.blocks) == (0, {})
    assert all(one.counts == {} for one in record.values)
    assert "7 rows × 8 columns" in str(ig.overview(tmp_path / "old" / "lakes.csv"))
    assert "amber_2024-05.csv, row 3" in str(ig.trace(tmp_path / "old" / "lakes.csv", 1))
    assert ig.report(tmp_path / "old" / "lakes.csv").exists()
    (tmp_path / "old" / "in" / "amber_2024-07.csv").write_text(
        "Serial No: 481\nday,depth,state\n2024-07-01,3.6,ok\n"
    )
    found = ig.changes(tmp_path / "old" / "lakes.toml", record=tmp_path / "old" / "lakes.csv")
    assert [one.source for one in found.of("new")] == ["amber_2024-07.csv"]
    with pytest.raises(ig.OutputError, match="assemble again, and it can be verified from then on"):
        ig.verify(tmp_path / "old" / "lakes.csv")
    run = ig.assemble(tmp_path / "old" / "lakes.toml", to=tmp_path / "old" / "lakes.csv")
    assert (run.rows, run.why_all) == (8, "the record was written by an earlier version of Integrum")
    assert ig.verify(run.output, again=True).is_good


def test_every_file_and_column_of_a_record_is_documented(lakes: Path) -> None:
    """After a change of a file's columns: python tests/record_page.py."""
    assert PAGE.read_text(encoding="utf-8") == page()
    edit(lakes / "lakes.toml", "[[columns]]", "[provenance]\nsource_row = false\n[[columns]]")
    assembled(lakes)
    tables = {one.file: list(one.header) for one in TABLES}
    for path in (lakes / "out" / "lakes-record").iterdir():
        assert f"\n## {path.name}\n" in page()
        if path.suffix == ".csv":
            assert path.read_text().splitlines()[0].split(",") == tables[path.name]
    said = json.loads((lakes / "out" / "lakes-record" / "run.json").read_text())
    section = page().split("\n## run.json\n")[1].split("\n## ")[0]
    assert all(f"`{name}`" in section for name in said)
    assert [*said][1:] == [*ORDER, "blake3"] and {one.name for one in fields(RunFile)} == {*ORDER, "blake3"}


def test_what_a_stranger_needs_is_in_the_record(lakes: Path) -> None:
    run = json.loads((lakes / "out" / "lakes-record" / "run.json").read_text())
    assert run["schema"] == 9
    assert {
        "version",
        "python",
        "platform",
        "pyarrow",
        "numpy",
        "plan_blake3",
        "to",
        "plan_file",
    } <= run.keys()
    assert (run["to"], run["plan_file"]) == ("../lakes.csv", "../../lakes.toml")
    assert set(run["source_files"]) == {"amber.csv", "quillon.csv", "vessel.csv"}
    there = {path.name for path in (lakes / "out" / "lakes-record").iterdir()}
    assert set(run["files"]) == there - {"run.json", "manifest-blake3.txt", "methods.txt"}


# the plan as a script


def test_a_script_gives_the_same_bytes(lakes: Path) -> None:
    edit(lakes / "lakes.toml", "[[columns]]", "# the day of the visit\n[[columns]]")
    edit(lakes / "lakes.toml", 'type = "number"', 'type = "number"  # in metres\nmissing = ["-999"]')
    table = assembled(lakes).output.read_bytes()
    script = lakes / "code" / "make_lakes.py"
    text = ig.script(lakes / "lakes.toml", script)
    assert '        # the day of the visit\n        ig.Column("day", "date"),\n' in text
    assert "# in metres" in text
    subprocess.run([sys.executable, str(script), "two.csv"], cwd=lakes, check=True, capture_output=True)
    assert (lakes / "two.csv").read_bytes() == table
    with pytest.raises(ig.OutputError, match="already exists"):
        ig.script(lakes / "lakes.toml", script)
    ruff = Path(sys.executable).with_name("ruff")
    checked = subprocess.run([str(ruff), "format", "--isolated", "--check", str(script)], capture_output=True)
    assert checked.returncode == 0, checked.stdout


ODD = """# Lakes of the north.

integrum = 1   # format
leave_out = ["battery", "volt"]

[[sources]]
find = ["loggers/*.csv", "more/**/*.csv"]   # two places
labels = { "a.csv" = "first 'one' \\"two\\"" }
wide = { headers = ["20??-??"], name = "month", value = "count" }
expect = { lake = ["amber", "quillon"] }
[sources.layout]
# the instrument
header_row = 9
capture = { lake = "Site" }

[[sources]]
find = "b"
[[sources.layouts]]
header_row = 2
# an old logger
[[sources.layouts]]
header_has = ["Date/Time", "Temp"]

[[columns]]
name = "month"
# below its column

[[columns]]
name = "count"
type = "number"
also = ["Temp (°C)", { header = "Temp (°F)", unit = "degF" }, { header = "T", in = "2019/**" }]
maybe = [{ header = "T_water", score = 0.86, because = "same range" }]
values = { "a" = "b", 'c "d"' = "it's" }
[provenance]
sheet = false
[glossary]
nitrate = ["NO3", "no3_n"]
[[checks]]
unique = ["month", "count"]
"""


def test_a_script_in_another_folder_finds_what_the_plan_finds(lakes: Path) -> None:
    table = assembled(lakes).output.read_bytes()
    find = json.dumps(str(lakes / "in"))
    edit(lakes / "lakes.toml", 'find = "in"', f"find = {find}")
    script = lakes / "code" / "make_lakes.py"
    assert find in ig.script(lakes / "lakes.toml", script)
    subprocess.run([sys.executable, str(script), "two.csv"], cwd=lakes, check=True, capture_output=True)
    assert (lakes / "two.csv").read_bytes() == table


def test_a_script_has_all_of_a_plan(tmp_path: Path) -> None:
    plan = ig.parse_plan(ODD)
    text = plan.to_python()
    names: dict[str, object] = {}
    exec(text.split("if __name__")[0], names)
    assert names["plan"] == plan
    for comment in ("Lakes of the north.", "format", "two places", "the instrument", "an old logger"):
        assert f"# {comment}\n" in text
    assert text.index("# below its column") < text.index('ig.Column("month")')
    (tmp_path / "s.py").write_text(text)
    ruff = Path(sys.executable).with_name("ruff")
    assert (
        subprocess.run([str(ruff), "format", "--isolated", "--check", str(tmp_path / "s.py")]).returncode == 0
    )


# the commands


def test_the_commands_of_a_month(integrum, tmp_path: Path) -> None:
    assert integrum("demo", "d", "--data-only").returncode == 0
    scheme = "{lake}_{month}_{serial}.csv"
    integrum("draft", "d/loggers", "--ids", scheme, "--plan", "d/loggers.toml")
    integrum("assemble", "d/loggers.toml", "--to", "d/loggers.csv")
    same = integrum("changes", "d/loggers.toml")
    assert (same.returncode, same.stdout.splitlines()[-1]) == (0, "nothing has changed")
    assert integrum("demo", "d", "--next-month").stdout.startswith("5 new files")
    assert integrum("demo", "d", "--next-month").returncode == 2
    found = integrum("changes", "d/loggers.toml")
    assert found.returncode == 1
    assert '    row 60, column "water_temp": "22.46" → "21.46"' in found.stdout.splitlines()
    assert json.loads(integrum("changes", "d/loggers.csv", "--json").stdout)["keeps_rows"] is False
    refused = integrum("assemble", "d/loggers.toml", "--to", "d/loggers.csv", "--only-add")
    assert (
        refused.returncode == 2 and "vessel-lake_2024-08_00479.csv (changed: 1 row changed)" in refused.stderr
    )
    done = integrum("assemble", "d/loggers.toml", "--to", "d/loggers.csv")
    assert "since the last run: 5 sources new (+900 rows), 1 gone, 1 renamed, 2 changed" in done.stdout
    assert "taken over as they were: 26 of 34 sources; read: 8" in done.stdout
    verified = integrum("verify", "d/loggers.csv", "--again")
    assert (verified.returncode, verified.stdout.splitlines()[-1]) == (
        0,
        "verified: the table is what the record says; a full run gives the same bytes",
    )
    (tmp_path / "d" / "loggers.csv").unlink()
    assert integrum("verify", "d/loggers-record").returncode == 1
    assert integrum("script", "d/loggers.toml", "--to", "make.py").returncode == 0
    assert integrum("changes", "d/nowhere.csv").returncode == 2
