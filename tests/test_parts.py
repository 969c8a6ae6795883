"""The parts on which all stands, each against a plain way of doing the same."""

import csv
import io
import random
import re
from concurrent.futures import Executor, Future, ProcessPoolExecutor, ThreadPoolExecutor
from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import books
import integrum as ig
from integrum.columns.header import Header, tidy_names
from integrum.columns.union import CountedHeader, unite
from integrum.intake import inspecting
from integrum.plan.layout import Layout
from integrum.reading import cutting
from integrum.reading.head import read_head
from integrum.reading.pieces import load
from integrum.reading.records import Dialect, find_records, first_with_cell, records_beginning, spans
from integrum.sources.find import find_sources
from integrum.sources.own import OwnWork
from integrum.values.arrays import padded, texts
from integrum.values.csv_lines import csv_lines, line_sizes
from integrum.workbooks import workbook
from integrum.workers.pool import ahead
from integrum.writing import typed as parquet
from knobs import turn

ODD = st.text('ab1,"\n\r# \té', max_size=60)
CELLS = st.text('a1,"\n ', max_size=6)


@settings(max_examples=400, deadline=None)
@given(ODD, st.sampled_from(["#", "ab", "a", "1"]))
def test_rows_that_begin_with_a_text_are_those_of_a_look_at_each(text: str, mark: str) -> None:
    data, dialect = text.encode(), Dialect()
    wanted = [
        (number, start, end)
        for number, (start, end) in enumerate(spans(data, dialect, last=True))
        if data[start:end].startswith(mark.encode())
    ]
    assert records_beginning(data, dialect, [mark]) == wanted


@settings(max_examples=400, deadline=None)
@given(
    st.lists(
        st.lists(
            st.sampled_from(["", " ", "a", "ab", "a b", "a: 1", "a=1", "ab:", "b", " a ", "a,b", 'a"b']),
            min_size=1,
        ),
        max_size=6,
    ),
    st.sampled_from([["a"], ["ab", "b"], ["a b"], ["a,b"]]),
    st.booleans(),
    st.booleans(),
)
def test_a_footer_begins_where_a_whole_first_cell_says_so(
    rows: list[list[str]], texts_: list[str], all_quoted: bool, many: bool
) -> None:
    file = io.StringIO()
    csv.writer(
        file, lineterminator="\n", quoting=csv.QUOTE_ALL if all_quoted else csv.QUOTE_MINIMAL
    ).writerows(rows)
    first = [next((cell.strip() for cell in row if cell.strip()), "") for row in rows]
    wanted = next(
        (at for at, cell in enumerate(first) if {cell, re.split("[:=]", cell)[0].strip()} & set(texts_)), None
    )
    asked = [*texts_, *(f"none {n}" for n in range(20))] if many else texts_
    found = first_with_cell(file.getvalue().encode(), Dialect(), asked)
    assert (found and found[0]) == wanted


@settings(max_examples=150, deadline=None)
@given(st.lists(ODD, max_size=8), st.integers(3, 40), st.booleans())
def test_a_file_cut_by_ranges_gives_what_one_cut_as_a_stream_gives(
    lines: list[str], size: int, marked: bool
) -> None:
    text = "head,er\n" + "".join(line + "\n" for line in lines)
    with pytest.MonkeyPatch.context() as patch, Folder() as folder:
        patch.setattr(cutting, "PIECE", size)
        patch.setattr(cutting, "_BLOCK", max(1, size // 2))
        (folder / "a.csv").write_bytes((b"\xef\xbb\xbf" if marked else b"") + text.encode())
        (source,) = find_sources([ig.Sources(str(folder))], folder, OwnWork()).sources
        layout = Layout(comment_mark="#")
        head = read_head(source, layout)
        gave = []
        for keep in (False, True):
            seen: list[bytes] = []
            try:
                pieces = list(cutting.cut(source, 0, 1, head, layout, seen.append, keep))
            except Exception as error:
                gave.append((type(error), str(error)))
                continue
            loaded = [load(piece, source, layout) for piece in pieces]
            gave.append(
                (
                    b"".join(one.data for one in loaded),
                    sum(one.rows for one in loaded),
                    [row for one in loaded for row in one.gone.tolist()],
                    [each for one in loaded for each in one.broken],
                    b"".join(map(bytes, seen)) == (folder / "a.csv").read_bytes(),
                )
            )
        assert gave[0] == gave[1]
        if len(gave[0]) > 2:
            assert gave[0][4] is True


class Folder:
    def __enter__(self) -> Path:
        import tempfile

        self._made = tempfile.TemporaryDirectory()
        return Path(self._made.name)

    def __exit__(self, *error: object) -> None:
        self._made.cleanup()


@settings(max_examples=200, deadline=None)
@given(st.lists(st.tuples(CELLS, CELLS), min_size=1, max_size=12), st.data())
def test_the_bytes_of_each_source_in_a_csv_are_found(
    rows: list[tuple[str, str]], data: st.DataObject
) -> None:
    counts, left = [], len(rows)
    while left:
        counts.append(data.draw(st.integers(1, left)))
        left -= counts[-1]
    lines = bytes(csv_lines([texts([row[at] for row in rows]) for at in (0, 1)]))
    sizes = line_sizes(lines, counts)
    assert sum(sizes) == len(lines)
    place = row = 0
    for count, size in zip(counts, sizes, strict=True):
        part = io.StringIO(lines[place : place + size].decode(), newline="")
        assert [tuple(each) for each in csv.reader(part)] == rows[row : row + count]
        place, row = place + size, row + count


@settings(max_examples=200, deadline=None)
@given(st.lists(st.lists(st.sampled_from("abcdefgh"), max_size=6, unique=True), max_size=6))
def test_the_union_has_the_order_of_one_insertion_after_the_other(headers: list[list[str]]) -> None:
    order: list[str] = []
    for names in headers:
        at = -1 if set(names) & set(order) else len(order) - 1
        for name in names:
            if name in order:
                at = order.index(name)
            else:
                at += 1
                order.insert(at, name)
    made = unite([CountedHeader(tuple(names), 1) for names in headers])
    assert [column.name for column in made] == order


def test_many_like_names_are_told_apart_in_no_time() -> None:
    names = tidy_names(tuple(["depth"] * 5_000 + ["depth (7)"]))
    assert len(set(names)) == 5_001
    assert names[:3] == ("depth", "depth (2)", "depth (3)") and "depth (7)" in names
    assert Header(names, spare=(0,)).named[1] == "depth (2)"


@given(st.lists(st.none() | st.text(" \ta1é\u00a0", max_size=4), max_size=8))
def test_texts_with_outer_spaces_are_among_those_that_may_have_some(values: list[str | None]) -> None:
    may = padded(texts(values))
    assert all(may[at] for at, value in enumerate(values) if value is not None and value != value.strip())


@settings(max_examples=300, deadline=None)
@given(ODD.map(str.encode), st.booleans())
def test_a_scan_block_by_block_counts_what_a_look_at_the_whole_counts(data: bytes, last: bool) -> None:
    scan = cutting._Scan(b'"')
    for at in range(0, len(data), 7):
        scan.see(data[at : at + 7])
    assert (scan.size, scan.ascii) == (len(data), data.isascii())
    if scan.plain and data:
        whole = find_records(data, Dialect(), last)
        assert scan.records(data, last) == whole


class Slow(Executor):
    """Does nothing before the result is asked for, and counts what is on the way."""

    def __init__(self) -> None:
        self.on_the_way = self.most = 0

    def submit(self, function, /, *args, **kwargs):  # type: ignore[no-untyped-def]
        executor, future = self, Future()
        self.on_the_way += 1
        self.most = max(self.most, self.on_the_way)
        result = future.result

        def when_asked(timeout: float | None = None) -> object:
            if not future.done():
                executor.on_the_way -= 1
                future.set_result(function(*args, **kwargs))
            return result(timeout)

        future.result = when_asked
        return future


@pytest.mark.parametrize(("room", "most"), [(0, 3), (100, 10), (35, 3), (1, 3)])
def test_no_more_is_in_flight_than_there_is_room_for(room: int, most: int) -> None:
    slow = Slow()
    slow._max_workers = 2
    assert list(ahead(slow, abs, range(50), room, lambda _: 10 if room else 1)) == list(range(50))
    assert slow.most == most


def test_a_run_without_a_plan_reads_no_file_and_no_sheet_twice_to_inspect_it(folder, monkeypatch) -> None:
    for number in range(5):
        folder.write(f"f{number}.csv", f"day,depth\n2024-05-0{number + 1},{number}\n")
    rows = [["day", "depth"], ["2024-06-01", 1.5], ["2024-06-02", 2.5]]
    folder.write("a.xlsx", books.sheets(May=rows, June=rows[:2], Cover=[["a note"]]))
    inspected, opened = [], []
    inspect, init = inspecting.inspect, workbook.Workbook.__init__
    monkeypatch.setattr(inspecting, "inspect", lambda one: inspected.append(one.source.name) or inspect(one))

    def count(self: object, data: bytes) -> None:
        opened.append(len(data))
        init(self, data)

    monkeypatch.setattr(workbook.Workbook, "__init__", count)
    made = ig.assemble(folder.path)
    assert made.rows == 8
    assert len(inspected) == len(set(inspected)) == 7
    assert len(opened) == 1


def test_what_was_seen_is_not_trusted_where_the_plan_asks_for_more(folder) -> None:
    folder.write("a.csv", "day,depth\n2024-05-01,-999\n2024-05-02,2\n")
    made = ig.draft(folder.path)
    first, depth = made.plan.columns
    plan = ig.Plan(made.plan.sources, [first, ig.Column("depth", depth.type, missing=["-999"])])
    changed = type(made)(plan, made.remarks, made.folder, made.problems, made.survey)
    assert ig.assemble(changed).table["depth"].to_pylist() == [None, 2]
    text = ig.Plan(made.plan.sources, [first, ig.Column("depth", "date")])
    wrong = ig.assemble(type(made)(text, made.remarks, made.folder, made.problems, made.survey))
    assert [one.code for one in wrong.problems] == ["bad-value"]


def test_a_survey_says_the_same_on_any_executor(folder) -> None:
    draw = random.Random(4)
    for number in range(12):
        rows = "".join(f"2024-05-{day:02},{draw.random():.3f},{draw.choice('xyz')}\n" for day in range(1, 29))
        folder.write(f"f{number}.csv", "day,depth,remark\n" + rows.replace("2024-05-07", "n/a"))
    folder.write("a.xlsx", books.sheets(May=[["day", "depth"], ["2024-06-01", 1.5]]))
    said = str(ig.survey(folder.path))
    with ProcessPoolExecutor(2) as processes, ThreadPoolExecutor(1) as one:
        assert str(ig.survey(folder.path, executor=processes)) == said
        assert str(ig.survey(folder.path, executor=one, in_flight=1)) == said
    assert 'missing code: "n/a" (12, first in f0.csv, row 8)' in said


def test_row_groups_have_a_fixed_number_of_rows(tmp_path, monkeypatch) -> None:
    turn(monkeypatch, rows_of_a_block=100)
    made = []
    for sizes in ([350], [1, 99, 3, 247], [50] * 7):
        output = parquet.ParquetOutput.at(tmp_path / "o.parquet")
        values = pa.table({"a": pa.array(np.arange(350)), "b": [f"lake {at % 3}" for at in range(350)]})
        output.open(values.schema)
        start = 0
        for size in sizes:
            batch = values.slice(start, size).combine_chunks().to_batches()[0]
            output.append(batch, size)
            start += size
        output.finish()
        found = pq.ParquetFile(tmp_path / "o.parquet").metadata
        assert [found.row_group(at).num_rows for at in range(found.num_row_groups)] == [100, 100, 100, 50]
        made.append((tmp_path / "o.parquet").read_bytes())
    assert made[0] == made[1] == made[2]


def test_names_that_look_like_markup_reach_a_terminal_as_they_are(folder, tmp_path) -> None:
    pty = pytest.importorskip("pty")
    import os
    import subprocess
    import sys

    folder.write("[red]a[bold].csv", "[/red] day,[bold]\n2024-05-01,1\n2024-05-02,2\n")
    folder.write("b[/].csv", "day,[link=x]depth\n2024-05-01,1\n\n2024-05-03,deep\n")
    commands = (
        ["survey", "in"],
        ["survey", "in/b[/].csv"],
        ["assemble", "in", "--to", "o.csv"],
        ["draft", "in", "--plan", "p.toml", "--replace"],
    )
    for command in commands:
        for columns in ("120", "40"):
            theirs, ours = pty.openpty()
            env = {**os.environ, "TERM": "xterm", "COLUMNS": columns}
            command = (
                [*command, "--replace"] if command[0] == "draft" and "--replace" not in command else command
            )
            run = subprocess.Popen(
                [sys.executable, "-m", "integrum", *command], cwd=tmp_path, stdout=ours, stderr=ours, env=env
            )
            os.close(ours)
            shown = b""
            try:
                while chunk := os.read(theirs, 4096):
                    shown += chunk
            except OSError:
                pass  # the other end is closed
            assert run.wait(60) == 0, shown.decode()
            assert b"Traceback" not in shown
            if columns == "120" and command[0] == "survey" and command[1] == "in":
                assert b"[/red] day" in shown and b"[link=x]depth" in shown and b"b[/].csv" in shown
