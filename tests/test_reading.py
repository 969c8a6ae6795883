"""Delimited text: every row is data or accounted for, whatever it looks like."""

import csv
import io
import tempfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pyarrow.csv
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import integrum as ig
from integrum.reading import cutting

KEEP = ig.Rules(unlisted="keep", duplicates="keep")


def assembled(folder: Path, **rules: str) -> ig.Outcome:
    plan = ig.Plan([ig.Sources(str(folder))], rules=ig.Rules(unlisted="keep", duplicates="keep", **rules))
    outcome = ig.assemble(plan)
    for account in outcome.sources:
        assert account.ledger.adds_up
    return outcome


def cells(outcome: ig.Outcome, name: str) -> list[object]:
    return list(outcome.table[name].to_pylist())


def test_blank_rows_and_repeated_headers_are_dropped_and_counted(folder) -> None:
    folder.write("a.csv", "x,y\n1,2\n\n,\n  ,\t\nx,y\n3,4\n\n")
    outcome = assembled(folder.path)
    assert cells(outcome, "source_row") == [2, 7]
    ledger = outcome.sources[0].ledger
    assert (ledger.rows, ledger.header, ledger.blank, ledger.repeated_header, ledger.data) == (8, 1, 4, 1, 2)


def test_rows_with_too_many_or_too_few_cells_are_set_aside_with_their_text(folder) -> None:
    folder.write("a.csv", 'x,y,z\n1,2,3\n1,"two ""2""",3,4\n5,6\n7,8,9,,\n10,"a\nb",c,\n11\n12,13,14\n')
    outcome = assembled(folder.path)
    assert cells(outcome, "x") == ["1", "7", "10", "12"]
    assert cells(outcome, "source_row") == [2, 5, 6, 8]
    assert cells(outcome, "y")[2] == "a\nb"
    assert [(one.row, one.code, one.raw) for one in outcome.set_aside] == [
        (3, "row-too-long", '1,"two ""2""",3,4'),
        (4, "row-too-short", "5,6"),
        (7, "row-too-short", "11"),
    ]
    assert [(one.code, one.row, one.count) for one in outcome.problems] == [
        ("row-too-long", 3, 1),
        ("row-too-short", 4, 2),
    ]


@pytest.mark.parametrize("end", ["\n", "\r\n", "\r"])
@pytest.mark.parametrize("last", ["", "end"])
@pytest.mark.parametrize("mark", [b"", b"\xef\xbb\xbf"])
def test_line_ends_and_byte_order_mark(folder, end: str, last: str, mark: bytes) -> None:
    text = end.join(["x,y", "1,2", "", "3,4"]) + (end if last else "")
    folder.write("a.csv", mark + text.encode())
    outcome = assembled(folder.path)
    assert outcome.schema.names[2:] == ["x", "y"]
    assert cells(outcome, "source_row") == [2, 4]
    assert outcome.sources[0].ledger.rows == 4


def test_a_quote_that_is_never_closed_names_the_row(folder) -> None:
    folder.write("bad.csv", 'x,y\n1,"fine"\n2,"a\nb"\n3,"open\n4,d\n')
    folder.write("good.csv", "x,y\n5,6\n")
    outcome = assembled(folder.path)
    assert cells(outcome, "x") == ["5"]
    (problem,) = outcome.problems
    assert (problem.code, problem.row, problem.severity) == ("quote-not-closed", 4, "error")
    assert [(one.source, one.row, one.code) for one in outcome.set_aside] == [
        ("bad.csv", None, "quote-not-closed")
    ]
    assert outcome.sources[0].ledger.set_aside == outcome.sources[0].ledger.rows - 1
    assert outcome.status == 1


def test_bytes_that_are_not_utf8_name_the_offset(folder) -> None:
    folder.write("bad.csv", "x,y\n1,é\n2,".encode() + b"\xe9\n")
    folder.write("good.csv", "x,y\n5,6\n")
    outcome = assembled(folder.path)
    (problem,) = outcome.problems
    assert problem.code == "bytes-not-valid"
    assert "offset 11" in problem.message
    assert problem.row == 3
    assert outcome.rows == 1


def test_text_behind_a_closing_quote_is_set_aside_and_a_lone_quote_is_not(folder) -> None:
    folder.write("a.csv", 'x,y\n1,5" pipe\n2,"abc"def\n3,"a ""b"" c"\n4,"abc" \n5,say "hi"\n')
    outcome = assembled(folder.path)
    assert cells(outcome, "y") == ['5" pipe', 'a "b" c', 'say "hi"']
    assert cells(outcome, "source_row") == [2, 4, 6]
    assert [(one.row, one.raw) for one in outcome.set_aside] == [(3, '2,"abc"def'), (5, '4,"abc" ')]


@pytest.mark.parametrize(
    ("content", "code"),
    [
        (b"", "empty-source"),
        (b"\n\n", "empty-source"),
        (b",,\n1,2,3\n", "no-header"),
        ("x,y\n1,é\n".encode("cp1252"), "bytes-not-valid"),
        (b'"x,y\n1,2\n', "quote-not-closed"),
    ],
)
def test_sources_without_a_readable_header_are_set_aside(folder, content: bytes, code: str) -> None:
    folder.write("bad.csv", content)
    folder.write("good.csv", "x,y\n5,6\n")
    outcome = assembled(folder.path)
    assert [account.reason for account in outcome.sources] == [code, ""]
    assert outcome.rows == 1


def test_a_header_and_nothing_below_is_no_problem(folder) -> None:
    folder.write("a.csv", "x,y\n")
    outcome = assembled(folder.path)
    assert outcome.rows == 0
    assert outcome.status == 0
    assert [one.code for one in outcome.problems] == ["no-data-rows"]
    assert outcome.table.column_names == ["source", "source_row", "x", "y"]


def test_header_cells_are_tidied_and_told_apart(folder) -> None:
    folder.write("a.csv", '" x  ",,x,"a\nb"\n1,2,3,4\n')
    assert assembled(folder.path).schema.names[2:] == ["x", "column 2", "x (2)", "a b"]


cell = st.text(st.sampled_from('ab1,"\n\r \tµ'), max_size=6)


@settings(max_examples=150, deadline=None)
@given(
    rows=st.lists(st.lists(cell, min_size=3, max_size=3), max_size=25),
    end=st.sampled_from(["\n", "\r\n"]),
    size=st.integers(5, 60),
)
def test_any_table_comes_back_cell_for_cell_across_batch_borders(rows, end: str, size: int) -> None:
    text = io.StringIO()
    csv.writer(text, lineterminator=end, quoting=csv.QUOTE_ALL).writerows([["p", "q", "r"], *rows])
    wanted = [row for row in rows if any(each.strip() for each in row) and row != ["p", "q", "r"]]
    normal = cutting.PIECE
    cutting.PIECE = size
    try:
        with tempfile.TemporaryDirectory() as name:
            Path(name, "a.csv").write_bytes(text.getvalue().encode())
            outcome = assembled(Path(name))
            to_csv = ig.assemble(outcome.plan, to=Path(name, "out.csv"))
            with open(to_csv.output, encoding="utf-8", newline="") as file:
                read = list(csv.reader(file))[1:]
    finally:
        cutting.PIECE = normal
    got = list(zip(*(cells(outcome, name) for name in "pqr"), strict=True))
    assert got == [tuple(each or None for each in row) for row in wanted]
    assert [row[2:] for row in read] == wanted
    assert outcome.sources[0].ledger.rows == len(rows) + 1


def test_a_large_source_in_many_batches(folder, tmp_path) -> None:
    lines = [f'{number},"lake {number % 7}",{number / 8}' for number in range(600_000)]
    lines[300_000] = "300000,oops"
    folder.write("big.csv", "id,lake,depth\n" + "\n".join(lines))
    folder.write("small.csv", "id,lake,depth\n-1,x,2.50\n")
    outcome = ig.assemble(folder.path, to=tmp_path / "o.csv")
    table = pyarrow.csv.read_csv(tmp_path / "o.csv")
    assert outcome.rows == table.num_rows == 600_000
    assert table["source_row"].to_pylist()[299_999:300_001] == [300_001, 300_003]
    assert table["id"].to_pylist()[-1] == -1
    assert (tmp_path / "o.csv").read_text().endswith("small.csv,2,-1,x,2.50\n")


def test_a_late_fault_in_a_large_source_keeps_all_of_it_out(folder) -> None:
    folder.write("big.csv", b"id,lake\n" + b"1,ambermere\n" * 900_000 + b'2,"open\n')
    folder.write("good.csv", "id,lake\n7,quillon\n")
    outcome = assembled(folder.path)
    assert outcome.rows == 1
    assert outcome.problems[0].row == 900_002


def test_very_wide_and_very_long(folder) -> None:
    wide = ",".join(f"c{number}" for number in range(10_000))
    folder.write("wide.csv", f"{wide}\n{wide.replace('c', '')}\n")
    folder.write("long.csv", "c1\n" + '"' + "line\n" * 2_000_000 + '"\n')
    outcome = assembled(folder.path)
    assert outcome.rows == 2
    assert len(cells(outcome, "c1")[0]) == 10_000_000
    assert cells(outcome, "c9999")[1] == "9999"


def test_a_source_that_cannot_be_opened_is_set_aside(folder, monkeypatch) -> None:
    folder.write("a.csv", "x\n1\n")
    folder.write("b.csv", "x\n2\n")
    from integrum.sources.source import Source

    opening = Source.open

    def refuse(self: Source) -> object:
        if self.name == "a.csv":
            raise PermissionError(13, "Permission denied")
        return opening(self)

    monkeypatch.setattr(Source, "open", refuse)
    outcome = assembled(folder.path)
    assert [account.reason for account in outcome.sources] == ["unreadable", ""]
    assert "Permission denied" in outcome.problems[0].message


def test_a_source_that_changes_while_it_is_read_is_noticed(folder, tmp_path, monkeypatch) -> None:
    small = folder.write("a.csv", "x\n1\n")
    folder.write("b.csv", "x\n2\n")

    class Meddler(ThreadPoolExecutor):
        def submit(self, work, *given):  # type: ignore[override]
            with open(small, "a") as file:
                file.write("3\n")
            return super().submit(work, *given)

    with Meddler(1) as meddler:
        outcome = ig.assemble(ig.Plan([ig.Sources(str(folder.path))], [ig.Column("x")]), executor=meddler)
    assert outcome.sources[0].reason == "source-changed"
    assert outcome.rows == 1
    big = folder.write("big.csv", "x\n" + "123456789\n" * 1_800_000)

    def change() -> None:
        with open(big, "a") as file:
            file.write("3\n")

    outcome = ig.assemble(
        ig.Plan([ig.Sources([str(big), str(small)])], [ig.Column("x")]),
        to=tmp_path / "o.csv",
        watch=lambda at: change() if at.source == "big.csv" and at.done > 0 else None,
    )
    assert [one.reason for one in outcome.sources] == ["", "source-changed"]
    assert (tmp_path / "o.csv").read_text().splitlines()[1].startswith("a.csv,2,")
