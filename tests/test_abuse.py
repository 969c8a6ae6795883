"""Plans and files made by an enemy: no traceback, no hang, nothing that commands the terminal, nothing unsaid."""

import csv
import io
import os
import re
import signal
import subprocess
import sys
import time
import warnings
import zipfile
from functools import lru_cache
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import integrum as ig
from books import ods, sheets, with_part, xlsb
from integrum.plan.scheme import Scheme
from integrum.sources.patterns import matches
from integrum.sources.source import Source
from knobs import turn

LINE = "lake,n\nAmbermere,1\n"


def within(seconds: float) -> "Within":
    return Within(seconds)


class Within:
    """A stretch of the test that has to be over in CPU seconds, so that a busy machine does not count."""

    def __init__(self, seconds: float) -> None:
        self._seconds = seconds

    def __enter__(self) -> None:
        self._start = time.process_time()

    def __exit__(self, kind: object, *_: object) -> None:
        assert kind is not None or time.process_time() - self._start < self._seconds


def test_a_blank_header_row_with_a_comment_mark_is_a_fault(folder) -> None:
    folder.write("a.csv", "\n\n1,2\n")
    folder.write("b.csv", LINE)
    group = ig.Sources(str(folder.path), layout=ig.Layout(comment_mark="#"))
    outcome = ig.assemble(ig.Plan([group], rules=ig.Rules("keep")))
    assert [(one.source, one.code) for one in outcome.problems] == [("a.csv", "no-header")]
    assert outcome.rows == 1


@pytest.mark.parametrize("what", ["a = {}1{}", "[{}", "ids = '{}x'"])
def test_deep_nesting_is_an_error_of_the_plan(what: str) -> None:
    depth = 30_000
    text = {
        "a = {}1{}": "a = " + "[" * depth + "1" + "]" * depth,
        "[{}": "[" + ".".join(["a"] * depth) + "]\nb = 1",
        "ids = '{}x'": f"integrum = 1\n[[sources]]\nfind = ['in']\nids = '{'[' * 80}{{x}}{']' * 80}'\n",
    }[what]
    with pytest.raises(ig.PlanError), within(20):
        ig.parse_plan(text)


@pytest.mark.parametrize(
    ("sources", "said"),
    [
        ({"find": "a\0b"}, "character NUL"),
        ({"exclude": ["x", "a\0b"]}, r"exclude\[2\]: a path cannot have the character NUL"),
        ({"ids": "{a}" + "-x" * 60 + "[" * 50 + "]" * 50}, "at most 100 parts"),
        ({"ids": "{a}" + "[x" * 11 + "]" * 11}, "more than 10 levels deep"),
        (
            {"ids": "{a}_{b}", "expect": {"a": [str(n) for n in range(90_000)], "b": list("xy" * 45_000)}},
            "that would be 180,000 sources; at most 100,000",
        ),
    ],
)
def test_wrong_sources_are_refused(sources: dict[str, object], said: str) -> None:
    with pytest.raises(ig.PlanError, match=said):
        ig.Sources(**{"find": "in", **sources})


def test_paths_with_nul_are_refused_wherever_they_are_given(folder, tmp_path) -> None:
    folder.write("a.csv", LINE)
    for call in (
        lambda: ig.survey("a\0b"),
        lambda: ig.read_plan("a\0b.toml"),
        lambda: ig.assemble(folder.path, to="a\0b.csv"),
        lambda: ig.assemble(folder.path, to=tmp_path / "o.csv", record="a\0b"),
        lambda: ig.read_record("a\0b"),
    ):
        with pytest.raises(ig.IntegrumError):
            call()


def test_many_parts_on_a_name_that_cannot_fit() -> None:
    scheme = Scheme("_".join(f"{{p{n}}}" for n in range(8)) + ".csv")
    with within(2):
        assert scheme.fit("a_" * 100 + ".txt").values is None
        assert "more than one way" in scheme.fit("a_" * 100 + "b.csv").reason
        assert scheme.fit("a_" * 100 + "b.csv", {"p3": lambda value: value == "c"}).values is None


def all_readings(scheme: Scheme, end: str) -> list[tuple[int, bool, dict[str, str]]]:
    """Every reading of a path, by trying all: parts absent, whether loose, values."""

    def expressions(text: str) -> list[tuple[int, str]]:
        inner = re.search(r"\[([^][]*)\]", text)
        if not inner:
            return [(0, text)]
        there, absent = (text[: inner.start()] + part + text[inner.end() :] for part in (inner[1], ""))
        return expressions(there) + [(count + 1, each) for count, each in expressions(absent)]

    found = []
    for absent, plain in dict.fromkeys(expressions(scheme.text)):
        parts = re.split(r"(\{[^{}]*\})", plain)
        names = [part.strip("{}") for part in parts[1::2]]

        def read(at: int, place: int, parts: list[str] = parts) -> list[list[str]]:
            if at == len(parts):
                return [[]] if place == len(end) else []
            if at % 2 == 0:
                fits = end.lower().startswith(parts[at].lower(), place)
                return read(at + 1, place + len(parts[at])) if fits else []
            return [
                [end[place:stop], *rest]
                for stop in range(place + 1, len(end) + 1)
                if "/" not in end[place:stop]
                for rest in read(at + 1, stop)
            ]

        for values in read(0, 0):
            found.append((absent, dict(zip(names, values, strict=True))))
    return found


@settings(max_examples=300, deadline=None)
@given(
    st.sampled_from(["{a}_{b}", "{a}[_{b}].csv", "x{a}-[{b}_]{c}", "{a}[-{b}][-{c}]", "[x]{a}/[y_]{b}"]),
    st.text("ab_-xy/.", max_size=9),
)
def test_a_scheme_finds_a_reading_where_trying_all_finds_one(text: str, path: str) -> None:
    scheme = Scheme(text)
    end = "/".join(path.split("/")[-1 - text.count("/") :])
    there = all_readings(scheme, end) if path.count("/") >= text.count("/") else []
    fit = scheme.fit(path)
    if not there:
        assert fit.values is None and "more than one way" not in fit.reason
        return
    fewest = min(absent for absent, _ in there)
    best = [values for absent, values in there if absent == fewest]
    if fit.values is None:
        assert len(best) > 1 and "more than one way" in fit.reason
    else:
        assert {name: value for name, value in fit.values.items() if value} in best


def plainly(path: str, pattern: str) -> bool:
    """Whether a path fits a pattern, letter by letter and part by part."""

    @lru_cache(None)
    def part(text: str, wild: str) -> bool:
        if not wild:
            return not text
        if wild[0] == "*":
            return part(text, wild[1:]) or (bool(text) and part(text[1:], wild))
        return bool(text) and wild[0] in ("?", text[0]) and part(text[1:], wild[1:])

    @lru_cache(None)
    def parts(texts: tuple[str, ...], wilds: tuple[str, ...]) -> bool:
        if not wilds:
            return not texts
        if wilds[0] == "**":
            if len(wilds) == 1:
                return bool(texts)
            return parts(texts, wilds[1:]) or (bool(texts) and bool(texts[0]) and parts(texts[1:], wilds))
        return bool(texts) and part(texts[0], wilds[0]) and parts(texts[1:], wilds[1:])

    return parts(tuple(path.split("/")), tuple(pattern.split("/")))


@settings(max_examples=500, deadline=None)
@given(
    st.lists(st.text("ab.", min_size=1, max_size=4), min_size=1, max_size=4).map("/".join),
    st.lists(st.just("**") | st.text("ab.*?", min_size=1, max_size=5), min_size=1, max_size=4).map("/".join),
)
def test_patterns_take_what_a_look_at_each_letter_takes(path: str, pattern: str) -> None:
    assert matches(path, pattern) == plainly(path, pattern)


def test_forty_stars_and_a_range_that_runs_backwards() -> None:
    with within(1):
        assert not matches("a" * 200 + "b", "*a" * 40 + "*c")
        assert not matches("a/" * 60 + "b", "**/a/" * 40 + "c")
    assert matches("[z-a].csv", "[z-a].csv")
    assert matches("b.csv", "[a-c].csv") and not matches("^.csv", "[!^].csv")


def test_twenty_thousand_footer_words(folder) -> None:
    folder.write("a.csv", "lake,n\n" + "Ambermere,1\n" * 50_000 + '" Word 19999: x",2\nAmbermere,3\n')
    words = [f"Word {n}" for n in range(20_000)]
    group = ig.Sources(str(folder.path), layout=ig.Layout(footer_from=words))
    with within(10):
        outcome = ig.assemble(ig.Plan([group], rules=ig.Rules("keep")))
    assert (outcome.rows, outcome.sources[0].ledger.footer) == (50_000, 2)


def test_names_that_are_too_long(folder, integrum) -> None:
    folder.write("a.csv", LINE)
    long = "n" * 300
    for args in (
        ("assemble", "in", "--to", f"{long}.csv"),
        ("assemble", "in", "--to", f"{long}/{long}/o.csv"),
        ("assemble", "in", "--to", "o.csv", "--record", long),
        ("assemble", "in", "--to", long + "{group}.csv"),
        ("draft", "in", "--plan", f"{long}.toml"),
        ("survey", long),
        ("survey", f"{long}/*.csv"),
    ):
        done = integrum(*args)
        assert done.returncode == 2, args
        assert done.stderr.startswith("integrum: ") and "Traceback" not in done.stderr
    assert integrum("assemble", "in", "--to", "n" * 200 + ".csv").returncode == 0


def test_of_two_members_with_one_name_the_last_is_taken_and_that_is_said(folder) -> None:
    warnings.simplefilter("ignore", UserWarning)
    with zipfile.ZipFile(folder.path / "a.zip", "w") as archive:
        for name, text in [("x.csv", "n\n1\n"), ("y.csv", "n\n5\n"), ("x.csv", "n\n2\n3\n")]:
            archive.writestr(name, text)
        for month in ("May", "June"):
            archive.writestr("b.xlsx", sheets(**{month: [["n", "m", "k"], [1, 2, 3]]}))
    outcome = ig.assemble(folder.path)
    assert outcome.table["n"].to_pylist() == [1, 2, 3, 5]
    aside = [one for one in outcome.sources if not one.is_assembled]
    assert [(one.source, one.reason, one.content) for one in aside] == [
        ("a.zip/b.xlsx", "same-name", ""),
        ("a.zip/x.csv", "same-name", ""),
    ]
    assert outcome.status == 1


def row(*cells: str, **attributes: str) -> str:
    said = " ".join(f'table:{name.replace("_", "-")}="{value}"' for name, value in attributes.items())
    inner = "".join(
        f'<table:table-cell office:value-type="string"><text:p>{cell}</text:p></table:table-cell>'
        for cell in cells
    )
    return f"<table:table-row {said}>{inner}</table:table-row>"


def book(*rows: str) -> bytes:
    return ods(f'<table:table table:name="A">{row("lake", "depth", "note")}{"".join(rows)}</table:table>')


DEEP = 20_000
HOSTILE = {
    "blanks.ods": (book(row("a", "1", 'x<text:s text:c="2000000000"/>y')), "2,000,000,002 letters"),
    "many.ods": (book(row("a", "1", '<text:s text:c="9000000"/>' * 90)), "letters together"),
    "again.ods": (book(row("a", "1", "b" * 99_999, number_rows_repeated="99999")), "letters together"),
    "digits.ods": (book(row("a", "1", f'<text:s text:c="{"9" * 5000}"/>')), "damaged"),
    "deep.ods": (
        book(row("a", "1", "<text:span>" * DEEP + "</text:span>" * DEEP)),
        "more than 200 levels deep",
    ),
    "nested.xls": (b"<html>" + b"<table><tr><td>a<td>b<td>c" * DEEP, "more than 50 levels deep"),
    "wide.xls": (b"<html><table>" + b"<tr>" + b"<td colspan=1000>a" * 20, "16,384 columns"),
    "far.xls": (b"<html><table>" + b"<tr><td colspan=999>a" * 11_000, "10,000,000 cells"),
    "open.xls": (b"<html><table>" + b"<!--" * 300_000, "none of its sheets"),
    "tags.xls": (b"<html><table>" + b"</t" * 300_000, "none of its sheets"),
}


@pytest.mark.parametrize("name", HOSTILE)
def test_workbooks_and_pages_that_blow_up_are_set_aside(folder, name: str) -> None:
    data, said = HOSTILE[name]
    folder.write(name, data)
    folder.write("b.csv", LINE)
    with within(10):
        outcome = ig.assemble(folder.path)
    assert outcome.rows == 1
    assert [said in one.message for one in outcome.problems if one.severity == "error"] == [True]


def test_one_long_text_in_many_cells_is_set_aside(folder, monkeypatch) -> None:
    turn(monkeypatch, letters_of_a_book=200_000)
    table = [["lake", "depth", "note"], *[["Ambermere", 1, "y" * 3_000]] * 100]
    folder.write("shared.xlsx", sheets(A=table))
    folder.write("few.xlsx", sheets(A=[*table[:3], *[["Ambermere", 1, "z"]] * 100]))
    folder.write("own.xlsb", xlsb(table))
    outcome = ig.assemble(folder.path)
    assert [(one.source, one.reason) for one in outcome.sources if not one.is_assembled] == [
        ("shared.xlsx/A", "unpacks-too-large")
    ]


def test_spans_with_five_thousand_digits(folder) -> None:
    folder.write(
        "a.xls", f"<table><tr><td>a<td>b<td>c<tr><td rowspan={'0' * 5_000}2>x<td>1<td>2<tr><td>3<td>4"
    )
    assert ig.assemble(folder.path).table["a"].to_pylist() == ["x", "x"]


def test_a_damaged_part_is_a_fault_and_not_a_traceback(folder) -> None:
    good = sheets(A=[["lake", "depth", "note"], ["Ambermere", 1, "x"]])
    for at, name in enumerate(zipfile.ZipFile(folder.write("good.xlsx", good)).namelist()):
        folder.write(f"{at}.xlsx", with_part(good, name, lambda part: part[: len(part) // 2] + b"<" * 9))
    outcome = ig.assemble(folder.path)
    assert {one.reason for one in outcome.sources} <= {"", "unreadable", "no-table", "same-content"}


def test_record_tables_are_guarded_and_read_back(folder, tmp_path) -> None:
    folder.write("a.csv", '=lake,n\n=1+1,@x\n\'q,-5\n-x,"+1\r2"\n1,2,=3\n')
    plan = ig.Plan([ig.Sources(str(folder.path))], [ig.Column("n", "number")])
    outcome = ig.assemble(plan, to=tmp_path / "o.csv", guard_formulas=True)
    plain = ig.assemble(plan, to=tmp_path / "p.csv")
    for file in ("problems.csv", "set-aside.csv", "sources.csv", "columns.csv", "preamble.csv"):
        with open(tmp_path / "o-record" / file, newline="") as lines:
            assert not [cell for row in csv.reader(lines) for cell in row if re.match(r"[=+@]|-[a-z]", cell)]
    one, other = (ig.read_record(each.output) for each in (outcome, plain))
    assert one.problems == other.problems == outcome.problems
    assert one.set_aside == other.set_aside
    assert [aside.raw for aside in one.set_aside] == ["@x", "+1\r2", "1,2,=3"]


def test_a_raw_text_of_any_kind_and_length_comes_back_from_the_record(folder, tmp_path) -> None:
    texts = ["a\rb", 'q"q', "x\ny", "z" * 300_000, "ü\0", "'", ","]
    folder.write("a.csv", "n\n" + "".join('"' + text.replace('"', '""') + '"\n' for text in texts))
    outcome = ig.assemble(
        ig.Plan([ig.Sources(str(folder.path))], [ig.Column("n", "number")]), to=tmp_path / "o.csv"
    )
    assert [aside.raw for aside in ig.read_record(outcome.output).set_aside] == texts


def test_a_header_cell_of_any_length(folder) -> None:
    long = "x" * 200_000
    folder.write("a.csv", f'lake,"{long},y",n\nAmbermere,1,2\n')
    assert ig.assemble(folder.path).table.column_names[2:] == ["lake", f"{long},y", "n"]


COMMANDS = {"escape": "\x1b]0;evil\x07", "c1": "\x9b31m", "turned": "\u202e"}


@pytest.mark.skipif(
    os.name != "posix", reason="names that other systems do not let in, and a pseudo-terminal"
)
@pytest.mark.parametrize("encoding", ["utf-8", "ascii", "cp1252"])
def test_nothing_in_names_headers_and_cells_commands_a_terminal(folder, tmp_path, encoding: str) -> None:
    import pty

    for at, each in enumerate(COMMANDS.values()):
        folder.write(
            f"a{each}{at}.csv", f"lake{each},n{each}\n" + f"Amb{each},{at}\n" * 4 + f"A,{each}\nA,3,{each}\n"
        )
    (tmp_path / "bad.toml").write_text('integrum = 1\n[[sources]]\nfind = ["in"]\n"k\\u001b]0;evil" = 1\n')
    first = min(os.listdir(folder.path))
    for args in (
        ("survey", "in"),
        ("survey", "in", "--json"),
        ("survey", f"in/{first}"),
        ("draft", "in"),
        ("assemble", "in", "--to", "o.csv"),
        ("assemble", "in", "--to", "-"),
        ("survey", "bad.toml"),
        ("x" + COMMANDS["escape"],),
    ):
        ours, theirs = pty.openpty()
        env = {**os.environ, "TERM": "xterm-256color", "COLUMNS": "120", "PYTHONIOENCODING": encoding}
        command = [sys.executable, "-m", "integrum", *args]
        with subprocess.Popen(command, stdout=theirs, stderr=theirs, cwd=tmp_path, env=env) as run:
            os.close(theirs)
            shown = b""
            while True:
                try:
                    shown += os.read(ours, 65_536)
                except OSError:
                    break
                if run.poll() is not None and not shown:
                    break
        os.close(ours)
        assert run.returncode in (0, 1, 2)
        assert b"Traceback" not in shown
        assert shown
        assert not [name for name, each in COMMANDS.items() if each.encode() in shown], args


@pytest.mark.skipif(os.name != "posix", reason="signals")
@pytest.mark.parametrize("kind", ["rows", "no line ends", "an open quote"])
def test_a_signal_is_heeded_while_a_large_file_is_read(folder, tmp_path, kind: str) -> None:
    text = {"rows": b"1,some text,2.5\n", "no line ends": b"x" * 100, "an open quote": b'1,"some text\n'}[
        kind
    ]
    with open(folder.path / "big.csv", "wb") as file:
        file.write(b"a,b,c\n" if kind == "rows" else b'a,b,"c' if kind == "an open quote" else b"")
        for _ in range(300):
            file.write(text * (1_000_000 // len(text)))
    run = subprocess.Popen(
        [sys.executable, "-m", "integrum", "assemble", "in", "--to", "o.csv"],
        cwd=tmp_path,
        stderr=subprocess.PIPE,
    )
    time.sleep(0.8)
    run.send_signal(signal.SIGTERM)
    start = time.monotonic()
    run.communicate(timeout=60)
    # it takes some hundredths of a second; a busy machine may stall for longer than the one second that is promised
    assert time.monotonic() - start < 8
    assert not (tmp_path / "o.csv").exists()


def test_a_file_without_line_ends_is_not_read_to_its_end(folder, monkeypatch) -> None:
    turn(monkeypatch, longest_record=100_000)
    folder.write("a.csv", "x" * 40_000_000)
    folder.write("b.csv", LINE)
    read: list[int] = []

    class Counted(io.FileIO):
        def readinto(self, room: Any) -> int:
            read.append(super().readinto(room) or 0)
            return read[-1]

        def read(self, size: int = -1) -> bytes:
            data = super().read(size)
            read.append(len(data or b""))
            return data or b""

    monkeypatch.setattr(Source, "open_file", lambda self: Counted(self.path))
    outcome = ig.assemble(folder.path)
    aside = next(one for one in outcome.sources if not one.is_assembled)
    assert (aside.reason, aside.content) == ("no-line-end", "")
    assert 40_000 < sum(read) < 20_000_000
