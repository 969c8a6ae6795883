"""A damaged record stops no run: all is read again, and it is said why. No record gives a traceback in any command."""

import json
import random
import re
import shutil
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

import integrum as ig

PLAN = """integrum = 1
[[sources]]
find = ["in"]
ids = "{name}.csv"
[sources.layout]
header_row = 2
footer_from = ["Total"]
[[columns]]
name = "lake"
[[columns]]
name = "depth"
type = "number"
[[checks]]
unique = ["lake", "depth"]
"""
FILES = (
    *(f"{name}.csv" for name in ("blocks", "categories", "checks", "columns", "ends", "headers", "left-out")),
    *(f"{name}.csv" for name in ("preamble", "problems", "set-aside", "sources", "values", "variants")),
    "plan.toml",
    "run.json",
    "manifest-blake3.txt",
)
_NUMBER = re.compile(rb"\b[0-9]+\b")


def shuffled(data: bytes) -> bytes:
    first, *rest = data.split(b"\n")
    random.Random(0).shuffle(rest)
    return b"\n".join([first, *rest])


def without_column(data: bytes) -> bytes:
    return b"\n".join(line.partition(b",")[2] for line in data.split(b"\n"))


WAYS: dict[str, Callable[[bytes], bytes]] = {
    "empty": lambda data: b"",
    "garbage": lambda data: bytes(random.Random(1).randrange(256) for _ in range(300)),
    "NULs": lambda data: bytes(50),
    "cut": lambda data: data[: len(data) // 2],
    "twice": lambda data: data + data,
    "no first line": lambda data: data.partition(b"\n")[2],
    "only the first line": lambda data: data.partition(b"\n")[0] + b"\n",
    "a column less": without_column,
    "words for numbers": lambda data: _NUMBER.sub(b"x", data),
    "huge numbers": lambda data: _NUMBER.sub(b"9" * 30, data),
    "a quote": lambda data: data.replace(b",", b'",', 1),
    "another order": shuffled,
    "deep": lambda data: b"[" * 100_000,
}
VALUES: tuple[object, ...] = (None, [], {}, "x", -1, [None], [{}], 1e300, "\0", "../../..", 10**30)


@pytest.fixture
def made(folder, tmp_path) -> Path:
    for name, rows in {
        "a": "Amber,1.5\nAmber,x\nAmber,2\n",
        "b": "Quillon,3\nQuillon,4,5\nTotal,3\n",
    }.items():
        folder.write(f"{name}.csv", f"Serial: {name}\nlake,depth\n{rows}")
    (tmp_path / "plan.toml").write_text(PLAN)
    ig.assemble(tmp_path / "plan.toml", to=tmp_path / "out" / "o.csv")
    shutil.copytree(tmp_path / "out", tmp_path / "good")
    return tmp_path


def restored(made: Path) -> Path:
    shutil.rmtree(made / "out")
    shutil.copytree(made / "good", made / "out")
    return made / "out" / "o-record"


def reads(made: Path) -> dict[str, Callable[[], object]]:
    out, record = made / "out" / "o.csv", made / "out" / "o-record"

    def all_of_it() -> None:
        read = ig.read_record(record)
        for name in (
            "sources",
            "problems",
            "set_aside",
            "left_out",
            "columns",
            "categories",
            "checks",
            "ends",
        ):
            list(getattr(read, name))
        for name in (
            "headers",
            "preamble",
            "variants",
            "values",
            "rows",
            "lost",
            "outputs",
            "plan",
            "blocks",
        ):
            str(getattr(read, name))

    return {
        "read_record": all_of_it,
        "overview": lambda: str(ig.overview(out)),
        "trace": lambda: str(ig.trace(out, [1, 3])),
        "trace --where": lambda: str(ig.trace(record, where="depth > 1")),
        "verify": lambda: str(ig.verify(out)),
        "verify --again": lambda: str(ig.verify(record, again=True)),
        "changes": lambda: str(ig.changes(made / "plan.toml")),
        "survey": lambda: str(ig.survey(made / "out")),
    }


def damages(data: bytes, name: str) -> Iterator[tuple[str, bytes | None]]:
    yield "gone", None
    for way, damage in WAYS.items():
        if damage(data) != data:
            yield way, damage(data)
    if name == "run.json":
        run = json.loads(data)
        for key in run:
            yield (
                f"without {key}",
                json.dumps({one: value for one, value in run.items() if one != key}).encode(),
            )
            for value in VALUES:
                yield f"{key} = {value!r}", json.dumps({**run, key: value}).encode()
        for key in run["outputs"][0]:
            for value in VALUES:
                said = [{**run["outputs"][0], key: value}]
                yield f"outputs {key} = {value!r}", json.dumps({**run, "outputs": said}).encode()


def lay(path: Path, data: bytes | None) -> None:
    path.unlink() if data is None else path.write_bytes(data)


@pytest.mark.parametrize("name", FILES)
def test_a_run_goes_on_and_says_why_it_reads_all_again(made, name: str) -> None:
    table = (made / "good" / "o.csv").read_bytes()
    some = [*damages((made / "good" / "o-record" / name).read_bytes(), name)][FILES.index(name) % 2 : 14 : 2]
    for number, (way, data) in enumerate(some):
        record = restored(made)
        lay(record / name, data)
        outcome = ig.assemble(made / "plan.toml", to=made / "out" / "o.csv", afresh=number % 3 == 0)
        assert (made / "out" / "o.csv").read_bytes() == table, (name, way)
        assert outcome.why_all and not outcome.taken_over, (name, way)
        assert f"every source was read again: {outcome.why_all}" in str(outcome)
        assert number % 4 or ig.verify(made / "out" / "o.csv"), (name, way)


@pytest.mark.parametrize("name", FILES)
def test_no_damage_gives_a_traceback(made, name: str) -> None:
    chance = random.Random(name)
    original = (made / "good" / "o-record" / name).read_bytes()
    some = [*damages(original, name)]
    for way, data in some if len(some) < 30 else [*some[:14], *chance.sample(some[14:], 16)]:
        lay(restored(made) / name, data)
        looks = reads(made)
        for command in chance.sample(sorted(looks), 4):
            try:
                looks[command]()
            except ig.IntegrumError as error:
                assert str(error), (name, way, command)
            except Exception as error:
                raise AssertionError(f"{name}, {way}, {command}: {type(error).__name__}: {error}") from error


def test_the_command_line_ends_with_a_line_and_status_2(made, integrum) -> None:
    (made / "out" / "o-record" / "sources.csv").write_text("no,such\ncolumns,here\n")
    for command in (["overview"], ["report"], ["trace"], ["verify"], ["changes"]):
        done = integrum(*command, "out/o.csv", *(["1"] if command == ["trace"] else []))
        assert done.returncode in (1, 2) and "Traceback" not in done.stderr, done.stderr
    done = integrum("assemble", "plan.toml", "--to", "out/o.csv")
    assert (
        done.returncode == 1
        and "every source was read again: sources.csv in the record has changed" in done.stdout
    )


def test_what_is_left_of_a_record_does_not_stop_a_run_that_may_write_over_the_table(made) -> None:
    for name in ("run.json", "manifest-blake3.txt"):
        (made / "out" / "o-record" / name).write_bytes(b"")
    with pytest.raises(ig.OutputError, match="is not written over"):  # nothing says any more what a run wrote
        ig.assemble(made / "plan.toml", to=made / "out" / "o.csv")
    assert ig.assemble(made / "plan.toml", to=made / "out" / "o.csv", replace=True).rows == 4
    assert ig.verify(made / "out" / "o.csv")
