"""Every kind of problem can occur and is documented, what cost data comes first, and a source that fails stops nothing."""

import json
import pickle
import re
from collections.abc import Iterator
from pathlib import Path

import pytest

import integrum as ig
from integrum.dispatch.failing import Failed
from integrum.problems.codes import CODES
from integrum.problems.grouped import grouped
from integrum.problems.problem import Problem, unforeseen
from problem_cases import CASES, problems_of

DOCS = Path(__file__).parent.parent / "docs" / "problems.md"
PLAN = ig.Plan([ig.Sources("in")], [ig.Column("day", "date"), ig.Column("depth", "number")])


def documented() -> dict[str, str]:
    """The section of each code."""
    parts = re.split(r"^### (.+)\n", DOCS.read_text(encoding="utf-8"), flags=re.M)
    return dict(zip(parts[1::2], parts[2::2], strict=True))


def test_every_code_is_documented_and_has_a_case() -> None:
    assert set(documented()) == set(CODES) == set(CASES)
    for code, said in documented().items():
        assert "*To fix it:* " in said, code


@pytest.mark.parametrize("code", CODES)
def test_what_is_documented_occurs(code: str, tmp_path, monkeypatch) -> None:
    (example,) = re.findall(r"^    (.+)$", documented()[code], flags=re.M)
    found = [
        str(one).replace(str(tmp_path / "in"), "loggers") for one in problems_of(code, tmp_path, monkeypatch)
    ]
    assert example in found


def test_what_cost_data_comes_first_and_like_ones_are_together() -> None:
    spelling = [
        Problem("note", "header-spelling", f"{at}.csv", column="depth", raw=f"Depth {at % 2}")
        for at in range(9)
    ]
    some = [
        *spelling,
        Problem("error", "out-of-range", "a.csv", 3, "depth", "99"),
        Problem("warning", "unlisted-header", "a.csv", column="battery", message="not claimed"),
        *(
            Problem("warning", "bad-value", f"{at}.csv", at, "depth", "x", 2, "no number")
            for at in range(1, 6)
        ),
        Problem("warning", "row-too-long", "a.csv", 4),
        Problem("note", "same-content", "b.csv"),
        Problem("error", "unreadable", "c.csv"),
    ]
    groups = grouped(some)
    assert [group.first.code for group in groups] == [
        "unreadable",
        "row-too-long",
        "bad-value",
        "unlisted-header",
        "out-of-range",
        "header-spelling",
        "same-content",
    ]
    assert (groups[2].count, len(groups[2].sources)) == (10, 5)
    assert groups[2].lines == [
        'warning: 1.csv, row 1, column "depth": no number: "x" (and 1 more) [bad-value]',
        '  also in 2.csv, row 2: "x" (and 1 more); 3.csv, row 3: "x" (and 1 more); 2 more places',
    ]
    (line,) = groups[-2].lines
    assert '"Depth 0", "Depth 1" (in 9 sources)' in line
    assert sum(len(group.problems) for group in groups) == len(some)


@pytest.fixture
def failing(folder, monkeypatch) -> Iterator[Path]:
    """Five sources, of which the conversion of one fails where nobody foresaw it, and the head of another."""
    from integrum.reading import heads
    from integrum.values import pipeline

    for at in range(5):
        # the last one has a header of its own, as the head of a like source is not read again
        folder.write(f"{at}.csv", f"day,depth{',' * (at == 4)}\n2024-05-0{at + 1},3.{at}\n")
    convert, read = pipeline.convert, heads.read_head

    def fails(values, *given, **more):
        if "3.2" in values.to_pylist():
            raise ZeroDivisionError("division by zero")
        return convert(values, *given, **more)

    def head(source, layout):
        if source.name == "4.csv":
            raise RuntimeError("head\x1b[31m over heels")
        return read(source, layout)

    monkeypatch.setattr(pipeline, "convert", fails)
    monkeypatch.setattr(heads, "read_head", head)
    yield folder.path


def test_a_source_that_fails_is_set_aside_and_the_run_goes_on(failing, tmp_path) -> None:
    plan = ig.Plan([ig.Sources(str(failing))], PLAN.columns)
    for to in (tmp_path / "o.csv", None):
        outcome = ig.assemble(plan, to)
        assert [one.reason for one in outcome.sources] == ["", "", "unforeseen", "", "unforeseen"]
        assert outcome.table["depth"].to_pylist() == [3.0, 3.1, 3.3]
        assert outcome.status == 1
        assert [one.ledger.set_aside for one in outcome.sources] == [0, 0, 2, 0, 2]
        assert {name: trace.splitlines()[-1] for name, trace in outcome.tracebacks.items()} == {
            "2.csv": "ZeroDivisionError: division by zero",
            "4.csv": "RuntimeError: head\x1b[31m over heels",
        }
    (said, other) = (str(one) for one in outcome.problems)
    assert said == "error: 2.csv: reading it failed: ZeroDivisionError: division by zero [unforeseen]"
    assert "\x1b" not in other
    run = json.loads((tmp_path / "o-record" / "run.json").read_text())
    assert set(run["tracebacks"]) == {"2.csv", "4.csv"}
    assert (tmp_path / "o.csv").read_text().count("\n") == 4


def test_a_survey_and_a_run_without_a_plan_carry_on_too(folder, monkeypatch) -> None:
    from integrum.detecting import many

    for at in range(3):
        folder.write(f"{at}.csv", f"day,depth\n2024-05-0{at + 1},3.{at}\n")
    take = many.take_sample

    def sample(source):
        if source.name == "1.csv":
            raise RuntimeError("no sample")
        return take(source)

    monkeypatch.setattr(many, "take_sample", sample)
    assert [one.ledger.data for one in ig.survey(folder.path).sources] == [1, 1, 1]
    assert ig.assemble(folder.path).rows == 3

    def detect(samples, *more):
        if any("3.1" in one.head.decode() for one in samples):
            raise RuntimeError("no guess")
        return detected(samples, *more)

    detected = many.detect_alike
    monkeypatch.setattr(many, "take_sample", take)
    monkeypatch.setattr(many, "detect_alike", detect)
    seen = ig.survey(folder.path)
    assert [one.reason for one in seen.sources] == ["", "unforeseen", ""]
    assert [one.reason for one in ig.assemble(folder.path).sources] == ["", "unforeseen", ""]


def test_a_table_on_standard_output_cannot_begin_again(failing) -> None:
    (failing / "4.csv").unlink()
    with pytest.raises(ig.OutputError, match=r"2\.csv: .*already printed"):
        ig.assemble(ig.Plan([ig.Sources(str(failing))], PLAN.columns), "-")


def test_stop_at_first(failing, tmp_path, integrum, folder) -> None:
    plan = ig.Plan([ig.Sources(str(failing))], PLAN.columns)
    with pytest.raises(ig.StoppedAtFirst, match=r"nothing was written: error: 4\.csv|2\.csv"):
        ig.assemble(plan, tmp_path / "o.csv", stop_at_first=True)
    assert not (tmp_path / "o.csv").exists()
    folder.write("0.csv", "day,depth\n")
    folder.write("1.csv", b"\xff\xfe")
    ran = integrum("assemble", "in", "--to", "x.csv", "--stop-at-first")
    assert ran.returncode == 2
    assert "stopped at the first source" in ran.stderr and "1.csv" in ran.stderr
    assert not (tmp_path / "x.csv").exists()


def test_a_source_that_fails_where_it_is_left_out_ends_the_run(folder, monkeypatch) -> None:
    from integrum.dispatch import engine

    folder.write("a.csv", "day,depth\n2024-05-01,3\n")
    monkeypatch.setattr(engine, "broken_law", lambda summary, has_table: "never")
    with pytest.raises(ig.LedgerError, match="its rows do not add up: never; nothing was written"):
        ig.assemble(ig.Plan([ig.Sources(str(folder.path))], PLAN.columns))


def test_failures_come_back_from_workers_elsewhere() -> None:
    try:
        raise ZeroDivisionError("division by zero")
    except ZeroDivisionError as error:
        failed = Failed({3: unforeseen(error)})
    (fault,) = pickle.loads(pickle.dumps(failed)).faults.values()
    assert (fault.code, fault.trace.splitlines()[-1]) == ("unforeseen", "ZeroDivisionError: division by zero")


def test_quiet_and_verbose(folder, integrum) -> None:
    folder.write("a.csv", "day,depth\n2024-05-01,3\n2024-05-02,deep\n")
    folder.write("b.csv", "")
    folder.write("p.toml", PLAN_TEXT)
    quiet = integrum("assemble", "in/p.toml", "--to", "o.csv", "--quiet")
    assert quiet.stdout == ""
    assert quiet.stderr.splitlines() == [
        "not in the table: 1 source, 1 cell of 1 column",
        "  error: b.csv: the file is empty [empty-source]",
        "    hint: get a complete copy from where it came from",
    ]
    verbose = integrum("assemble", "in/p.toml", "--to", "o.csv", "--verbose")
    assert re.search(r"\d\d:\d\d:\d\d  found: 2 files", verbose.stderr)
    assert "set aside: b.csv (empty-source)" in verbose.stderr
    assert re.search(r"written: .*o\.csv, 2 rows", verbose.stderr)
    assert integrum("survey", "in", "--quiet", "--verbose").returncode == 2


PLAN_TEXT = """integrum = 1
[[sources]]
find = ["."]
[[columns]]
name = "day"
type = "date"
[[columns]]
name = "depth"
type = "number"
"""
