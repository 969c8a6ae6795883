"""What holds for every type: each output, a run that takes rows over, trace, overview, report, changes, codebook, metadata.

All of it is made from the table of types, so a new type is in it without a new test.
"""

import json
import os
import shutil
import subprocess
import sys
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path

import pyarrow as pa
import pytest

import integrum as ig
from csvw_terms import DATATYPE, DATATYPES
from integrum.values.types import TYPES, Type
from integrum.writing.formats import FORMATS
from integrum.writing.parts import SUFFIXES
from months import files_of

HERE = Path(__file__).parent
OUTPUTS = (*FORMATS, ".parquet/")
ALL = pytest.mark.parametrize("kind", TYPES.values(), ids=list(TYPES))
# a text that is a value of no type
BAD = "#DIV/0!"


def texts(values: list[str | None]) -> pa.Array:
    return pa.array(values, pa.string())


def rows_of(kind: Type) -> list[str]:
    """The examples of a type, then an empty cell and a bad one."""
    return [*kind.examples, "", BAD]


class Lakes:
    """Two sources with a column of a type, and one whose name is a value of it; a plan of them."""

    def __init__(self, folder: Path, kind: Type) -> None:
        self.folder, self.kind = folder, kind
        (folder / "in").mkdir()
        for name in ("a.csv", "b.csv"):
            lines = [f'{name[0]},"{one}"' if "," in one else f"{name[0]},{one}" for one in rows_of(kind)]
            (folder / "in" / name).write_text("\n".join(["lake,value", *lines]) + "\n")
        self.write_plan()

    def write_plan(self, more: str = "", keys: str = "") -> None:
        plan = '[[sources]]\nfind = "in"\nids = "{from_name}.csv"\n[[columns]]\nname = "lake"\n'
        for name in ("value", "from_name", "nowhere"):
            optional = "optional = true\n" if name == "nowhere" else ""
            plan += f'[[columns]]\nname = "{name}"\ntype = "{self.kind.name}"\n{optional}'
            plan += keys if name == "value" else ""
        (self.folder / "lakes.toml").write_text(f"integrum = 1\n{plan}{more}")

    def add(self, name: str) -> None:
        shutil.copy(self.folder / "in" / "a.csv", self.folder / "in" / name)
        with open(self.folder / "in" / name, "a") as file:
            file.write(f"{name[0]},\n")

    def assemble(self, place: str, **more: object) -> ig.Outcome:
        return ig.assemble(self.folder / "lakes.toml", to=f"{self.folder}/{place}", **more)


@pytest.fixture
def lakes(tmp_path: Path, kind: Type) -> Iterator[Lakes]:
    yield Lakes(tmp_path, kind)


def equal(kind: Type, one: str, other: str) -> bool:
    """Whether two texts are the same value."""
    parsed = [kind.parse(text) for text in (one, other)]
    return None not in parsed and kind.cast(texts(parsed))[0] == kind.cast(texts(parsed))[1]


# what a type says of itself


@ALL
def test_its_examples_are_canonical_and_in_order(kind: Type) -> None:
    examples = texts(list(kind.examples))
    assert len(kind.examples) >= 2 and kind.test(examples)[0] and not kind.odd(examples).any()
    assert [kind.parse(one) for one in kind.examples] == list(kind.examples)
    assert kind.parse(BAD) is None and not kind.test(texts([BAD]))[0]
    typed = kind.cast(examples)
    assert typed.type == kind.arrow
    back = [kind.parse(one) for one in kind.to_text(typed).to_pylist()]
    assert kind.cast(texts(back)) == typed
    if kind.has_order:
        numbers = kind.numbers_in(kind.from_numbers(kind.numbers_in(kind.to_text(typed))))
        assert numbers.tolist() == sorted(numbers.tolist()) and len(set(numbers.tolist())) == len(numbers)


@ALL
def test_its_datatype_is_one_of_the_standard(kind: Type) -> None:
    said = kind.datatype if isinstance(kind.datatype, dict) else {"base": kind.datatype}
    assert set(said) <= DATATYPE and said["base"] in DATATYPES
    assert bool(kind.spelled) or not kind.spellings
    assert {kind.spelled} <= DATATYPES | {""}


@ALL
def test_what_it_is_wider_than_is_there(kind: Type) -> None:
    related = {kind.group, kind.converted, *kind.also_canonical} | ({kind.wider} if kind.wider else set())
    assert related <= set(TYPES)
    assert all(TYPES[name].test(texts(list(kind.examples)))[0] for name in kind.also_canonical)


@ALL
def test_it_is_in_the_docs(kind: Type) -> None:
    if kind.name == "duration":
        pytest.skip("a type of the tests alone")
    assert ig.Column.__doc__ and f'"{kind.name}"' in ig.Column.__doc__


# each output, and what is made of it


@pytest.mark.parametrize("suffix", OUTPUTS)
@ALL
def test_every_output_has_its_values(lakes: Lakes, kind: Type, suffix: str) -> None:
    run = lakes.assemble(f"out/lakes{suffix}")
    due = [*kind.cast(texts(list(kind.examples))).to_pylist(), None, None] * 2
    table = run.table
    assert table.schema.field("value").type == table.schema.field("nowhere").type == kind.arrow
    assert table["value"].to_pylist() == due
    assert table["nowhere"].null_count == table["from_name"].null_count + (
        len(due) if kind.name == "text" else 0
    )
    bad = [one for one in run.problems if one.code == "bad-value" and one.row]
    assert [(one.source, one.raw) for one in bad] == [("a.csv", BAD), ("b.csv", BAD)]
    if suffix == ".csv":
        lines = run.output.read_text().splitlines()[1:]
        assert all(f",{one}," in lines[at].replace('"', "") for at, one in enumerate(kind.examples))
    record = ig.read_record(run.output)
    assert record.schema == run.schema.remove_metadata() or record.schema.equals(run.schema)


@pytest.mark.parametrize("suffix", OUTPUTS)
@ALL
def test_a_second_run_gives_the_same_bytes(lakes: Lakes, kind: Type, suffix: str) -> None:
    lakes.write_plan("\n[[checks]]\nunique = ['lake', 'value']\nseverity = 'warning'\n")
    lakes.assemble(f"out/lakes{suffix}")
    lakes.add("c.csv")
    run = lakes.assemble(f"out/lakes{suffix}")
    full = lakes.assemble(f"full/lakes{suffix}", afresh=True)
    assert run.taken_over == (2 if suffix in SUFFIXES else 0)
    assert run.problems == full.problems and run.columns == full.columns
    assert str(run.overview()) == str(full.overview())
    assert files_of(lakes.folder / "out") == files_of(lakes.folder / "full")


@pytest.mark.parametrize("suffix", OUTPUTS)
@ALL
def test_trace_codebook_overview_report_and_changes(lakes: Lakes, kind: Type, suffix: str) -> None:
    run = lakes.assemble(f"out/lakes{suffix}")
    (entry,) = (one for one in run.columns if one.column == "value")
    assert (entry.type, entry.filled) == (kind.name, 2 * len(kind.examples))
    assert bool(entry.least) == bool(entry.greatest) == kind.has_order
    if kind.has_order:
        assert equal(kind, entry.least, kind.examples[0]) and equal(kind, entry.greatest, kind.examples[-1])
    record = ig.read_record(run.output)
    values = [one for one in record.values if one.column == "value"]
    assert [(one.filled, one.empty) for one in values] == [(len(kind.examples), 2)] * 2
    assert all(equal(kind, one.first, kind.examples[0]) and one.last == "" for one in values)
    assert kind.is_counted == all(bool(one.counts) for one in values)
    traced = ig.trace(run.output, [1, len(kind.examples) + 2])
    said = [next(one for one in row.values if one.column == "value") for row in traced.rows]
    assert said[0].cells == (kind.examples[0],) and said[0].said == "as written"
    assert said[1].cells == (BAD,) and said[1].said.endswith("left empty")
    overview = str(run.overview())
    assert f"value      {kind.name}" in overview
    assert suffix != ".csv" or kind.name in ig.report(run.output).read_text()
    edit = lakes.folder / "in" / "a.csv"
    last, first = (f'"{one}"' if "," in one else one for one in (kind.examples[-1], kind.examples[0]))
    edit.write_text(edit.read_text().replace(f"a,{last}\n", f"a,{first}\n", 1))
    found = ig.changes(run.output)
    if suffix in (".csv", ".parquet", ".arrow"):
        (cell,) = found.of("changed")[0].cells
        assert equal(kind, cell.new, kind.examples[0]) and equal(kind, cell.old, kind.examples[-1])
    else:
        assert [one.source for one in found.of("changed")] == ["a.csv"]


@ALL
def test_a_table_is_verified_and_described(lakes: Lakes, kind: Type) -> None:
    run = lakes.assemble("out/lakes.csv")
    assert ig.verify(run.output, again=True).is_good
    said = json.loads(run.output.with_name("lakes.csv-metadata.json").read_text())
    (column,) = (one for one in said["tableSchema"]["columns"] if one["name"] == "value")
    assert column["datatype"] == kind.datatype
    for spelling in kind.spellings:
        lakes.write_plan(keys=f'spelling = "{spelling}"\n')
        assert lakes.assemble("out/lakes.csv").rows == run.rows


@pytest.mark.parametrize("suffix", OUTPUTS)
@ALL
def test_a_condition_finds_its_values(lakes: Lakes, kind: Type, suffix: str) -> None:
    lakes.assemble(f"out/lakes{suffix}")
    quoted = kind.examples[0] if kind.is_number else f"'{kind.examples[0]}'"
    found = ig.trace(lakes.folder / f"out/lakes{suffix}", where=f"value == {quoted} and lake == 'b'")
    assert [(row.source, row.source_row) for row in found.rows] == [("b.csv", 2)]
    empty = ig.trace(lakes.folder / f"out/lakes{suffix}", where="value is None")
    assert len(empty.rows) == 4
    with pytest.raises(ig.ConditionError):
        ig.trace(
            lakes.folder / f"out/lakes{suffix}",
            where=f"value == {'[]' if kind.arrow == pa.string() else repr(BAD)}",
        )


@ALL
def test_a_draft_and_a_survey_know_it(lakes: Lakes, kind: Type) -> None:
    for path in (lakes.folder / "in").iterdir():
        path.write_text("".join(line for line in path.read_text().splitlines(True) if BAD not in line))
    seen = {one.name: one for one in ig.survey(lakes.folder / "in").columns}["value"]
    assert seen.type == kind.name
    made = ig.draft(lakes.folder / "in")
    assert {column.name: column.type for column in made.plan.columns}["value"] == kind.name
    run = ig.assemble(lakes.folder / "in", to=lakes.folder / "all.csv")
    assert run.table["value"].to_pylist() == [*kind.cast(texts(list(kind.examples))).to_pylist(), None] * 2


@ALL
def test_checks_know_what_can_be_made_with_it(lakes: Lakes, kind: Type) -> None:
    least, most = kind.examples[0], kind.examples[-2]
    bounds = f"[{least}, {most}]" if kind.is_number else json.dumps([least, most])
    lakes.write_plan(f"[[checks]]\ncolumn = 'value'\nrange = {bounds}\n")
    if "range" not in kind.checks:
        with pytest.raises(ig.PlanError, match="range is for"):
            lakes.assemble("out/lakes.csv")
        return
    for suffix in (".csv", ".parquet"):
        found = [one for one in lakes.assemble(f"out/lakes{suffix}").problems if one.code == "out-of-range"]
        assert [(one.source, one.row, equal(kind, one.raw, kind.examples[-1])) for one in found] == [
            ("a.csv", len(kind.examples) + 1, True),
            ("b.csv", len(kind.examples) + 1, True),
        ]


@ALL
def test_a_value_list_is_compared_by_value(lakes: Lakes, kind: Type) -> None:
    allowed = json.dumps(list(kind.examples[:-1]))
    lakes.write_plan(f"[[checks]]\ncolumn = 'value'\nallowed = {allowed}\n[[checks]]\nunique = 'value'\n")
    found = {(one.code, one.row) for one in lakes.assemble("out/lakes.parquet").problems if one.row}
    assert ("not-allowed", len(kind.examples) + 1) in found
    assert ("not-allowed", 2) not in found and ("not-unique", 2) in found


@pytest.fixture(scope="module")
def elsewhere() -> Iterator[ProcessPoolExecutor]:
    with ProcessPoolExecutor(1, get_context("spawn")) as pool:
        yield pool


@ALL
def test_workers_elsewhere_know_it(lakes: Lakes, kind: Type, elsewhere: ProcessPoolExecutor) -> None:
    run = lakes.assemble("far/lakes.parquet", executor=elsewhere)
    full = lakes.assemble("near/lakes.parquet")
    assert run.output.read_bytes() == full.output.read_bytes()


# a new type is one file and one line


def test_a_new_type_is_one_file_and_one_line(tmp_path: Path) -> None:
    import integrum

    package = Path(integrum.__file__).parent
    copy = tmp_path / "src" / "integrum"
    shutil.copytree(package, copy, ignore=shutil.ignore_patterns("__pycache__"))
    shutil.copy(HERE / "duration.py", copy / "values" / "types" / "duration.py")
    table = copy / "values" / "types" / "__init__.py"
    table.write_text(table.read_text().replace('    "datetime",\n', '    "datetime",\n    "duration",\n', 1))
    asked = [sys.executable, "-m", "pytest", "-q", "-n0", "-p", "no:cacheprovider", "-k", "duration"]
    done = subprocess.run(
        [*asked, str(Path(__file__))],
        cwd=tmp_path,
        env={**os.environ, "PYTHONPATH": f"{copy.parent}{os.pathsep}{HERE}"},
        capture_output=True,
        encoding="utf-8",
        check=False,
    )
    assert done.returncode == 0, done.stdout[-4000:]
    passed = int(done.stdout.splitlines()[-1].split(" passed")[0].split()[-1])
    assert passed > 30, done.stdout[-400:]
