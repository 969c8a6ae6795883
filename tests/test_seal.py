"""Verify and the seal: sixty kinds of tampering, none unnoticed; those that only the seal shows are known."""

import json
import re
import shutil
from collections.abc import Callable
from pathlib import Path

import pytest
from blake3 import blake3

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


@pytest.fixture
def sealed(folder, tmp_path) -> ig.Outcome:
    for name, rows in {
        "a": "Amber,1.5\nAmber,x\nAmber,2\n",
        "b": "Quillon,3\nQuillon,4,5\nTotal,3\n",
    }.items():
        folder.write(f"{name}.csv", f"Serial: {name}\nlake,depth\n{rows}")
    (tmp_path / "plan.toml").write_text(PLAN)
    return ig.assemble(tmp_path / "plan.toml", to=tmp_path / "out" / "lakes.csv")


def lines(path: Path, number: int = 0) -> None:
    """Take a line away."""
    some = path.read_bytes().splitlines(keepends=True)
    path.write_bytes(b"".join(some[:number] + some[number + 1 :]))


def swapped(path: Path, old: str, new: str) -> None:
    text = path.read_text()
    assert old in text
    path.write_text(text.replace(old, new, 1))


def said(record: Path, **changed: object) -> None:
    """Change what run.json says."""
    run = json.loads((record / "run.json").read_text())
    (record / "run.json").write_text(json.dumps({**run, **changed}))


def output(record: Path, **changed: object) -> None:
    run = json.loads((record / "run.json").read_text())
    said(record, outputs=[{**run["outputs"][0], **changed}])


def without(record: Path, key: str) -> None:
    run = json.loads((record / "run.json").read_text())
    del run[key]
    (record / "run.json").write_text(json.dumps(run))


def listed(record: Path, name: str) -> None:
    """Make the manifest fit a file that was changed."""
    text, new = (record / LIST).read_text(), blake3((record / name).read_bytes()).hexdigest()
    (record / LIST).write_text(re.sub(rf"^\w{{64}}(?=  {re.escape(name)}$)", new, text, flags=re.M))


def rehashed(record: Path, name: str) -> None:
    """Make the manifest, and what run.json says of it, fit a file that was changed: a careful forger."""
    manifest = record / LIST
    listed(record, name)
    run = json.loads((record / "run.json").read_text())
    run["manifest_blake3"] = blake3(manifest.read_bytes()).hexdigest()
    for one in run["outputs"]:
        one["blake3"] = blake3((record / one["path"]).read_bytes()).hexdigest()
        one["bytes"] = (record / one["path"]).stat().st_size
    run["plan_blake3"] = blake3((record / "plan.toml").read_bytes()).hexdigest()
    run.pop("blake3")
    run["blake3"] = blake3(json.dumps(run, sort_keys=True).encode()).hexdigest()
    (record / "run.json").write_text(json.dumps(run, indent=2, ensure_ascii=False) + "\n")


FILES = (
    *(f"{name}.csv" for name in ("blocks", "categories", "checks", "columns", "ends", "headers", "left-out")),
    *(f"{name}.csv" for name in ("preamble", "problems", "set-aside", "sources", "values", "variants")),
    "plan.toml",
)
SOME = ("problems.csv", "set-aside.csv", "plan.toml")
TABLE, META, LIST = "../lakes.csv", "../lakes.csv-metadata.json", "manifest-blake3.txt"
KINDS: dict[str, Callable[[Path], object]] = {
    **{f"{name}: one more line": lambda r, n=name: (r / n).write_text((r / n).read_text() + "# \n") for name in FILES},
    **{f"{name}: last line gone": lambda r, n=name: lines(r / n, -1) for name in FILES if name != "plan.toml"},
    **{f"{name}: empty": lambda r, n=name: (r / n).write_bytes(b"") for name in SOME},
    "a value of the table": lambda r: swapped(r / TABLE, "1.5", "1.6"),
    "a row of the table gone": lambda r: lines(r / TABLE, 1),
    "a row of the table twice": lambda r: (r / TABLE).write_text((r / TABLE).read_text() + "b.csv,9,b,Quillon,9\n"),
    "rows of the table in another order": lambda r: (r / TABLE).write_text(
        "".join([(some := (r / TABLE).read_text().splitlines(keepends=True))[0], *reversed(some[1:])])
    ),
    "another line end in the table": lambda r: (r / TABLE).write_bytes((r / TABLE).read_bytes().replace(b"\n", b"\r\n")),
    "the table gone": lambda r: (r / TABLE).unlink(),
    "another unit in the metadata": lambda r: swapped(r / META, '"double"', '"string"'),
    "the metadata gone": lambda r: (r / META).unlink(),
    "a source": lambda r: swapped(r.parent.parent / "in" / "a.csv", "1.5", "1.6"),
    "a source gone": lambda r: (r.parent.parent / "in" / "a.csv").unlink(),
    "a source more": lambda r: (r.parent.parent / "in" / "c.csv").write_text("Serial: c\nlake,depth\nx,1\n"),
    "the plan file": lambda r: swapped(r.parent.parent / "plan.toml", "depth", "deep"),
    "no outputs in run.json": lambda r: said(r, outputs=[]),
    "no files in run.json": lambda r: said(r, files=[]),
    "a file less in run.json": lambda r: said(r, files=[name for name in FILES if name != "problems.csv"]),
    "no sources in run.json": lambda r: said(r, source_files={}),
    "fewer problems in run.json": lambda r: said(r, problems={"error": 0, "warning": 0, "note": 0}),
    "nothing lost in run.json": lambda r: without(r, "lost"),
    "more rows in run.json": lambda r: said(r, rows=5),
    "another version in run.json": lambda r: said(r, version="9.9"),
    "another start in run.json": lambda r: said(r, started="2020-01-01T00:00:00+00:00"),
    "another time of change in run.json": lambda r: output(r, modified=1),
    "another output in run.json": lambda r: output(r, path="../in/a.csv"),
    "another hash of the output in run.json": lambda r: output(r, blake3="0" * 64),
    "no hash of itself in run.json": lambda r: without(r, "blake3"),
    "no hash of the manifest in run.json": lambda r: without(r, "manifest_blake3"),
    "code in run.json": lambda r: said(r, code=[{"function": "x.py:f", "blake3": ""}]),
    "a line less in the manifest": lambda r: lines(r / LIST),
    "the manifest empty": lambda r: (r / LIST).write_bytes(b""),
    "the manifest gone": lambda r: (r / LIST).unlink(),
    "the manifest in another order": lambda r: (r / LIST).write_text(
        "".join(sorted((r / LIST).read_text().splitlines(keepends=True)))
    ),
    "a foreign line in the manifest": lambda r: (r / LIST).write_text((r / LIST).read_text() + f"{'0' * 64}  x.csv\n"),
    "a file and its line gone": lambda r: (
        (r / "ends.csv").unlink(),
        (r / LIST).write_text("".join(x for x in (r / LIST).read_text().splitlines(keepends=True) if "ends" not in x)),
    ),
    "a file and its hash in the manifest": lambda r: (
        swapped(r / "problems.csv", "warning", "note"),
        listed(r, "problems.csv"),
    ),
    "problems.csv, by a careful forger": lambda r: (lines(r / "problems.csv", 1), rehashed(r, "problems.csv")),
    "sources.csv, by a careful forger": lambda r: (lines(r / "sources.csv", 1), rehashed(r, "sources.csv")),
    "the plan, by a careful forger": lambda r: (swapped(r / "plan.toml", "depth", "deep"), rehashed(r, "plan.toml")),
    "only the version": lambda r: (said(r, version="9.9"), rehashed(r, "run.json")),
    "only the times": lambda r: (said(r, started="2020-01-01T00:00:00+00:00"), rehashed(r, "run.json")),
}  # fmt: skip
# what a forger does who makes all hashes fit: only the seal, or another run, shows it
FORGED: dict[str, Callable[[Path], object]] = {
    "a value of the table": lambda r: (swapped(r / TABLE, "1.5", "1.6"), rehashed(r, TABLE)),
    "a bad value hidden": lambda r: (lines(r / "set-aside.csv", 1), rehashed(r, "set-aside.csv")),
    "a unit": lambda r: (swapped(r / META, '"double"', '"string"'), rehashed(r, META)),
    "the codebook": lambda r: (swapped(r / "columns.csv", "depth", "deep"), rehashed(r, "columns.csv")),
    "what is lost": lambda r: (said(r, lost={}), rehashed(r, "run.json")),
}
# they are no part of the table, nor of the seal
_UNSEEN = {"only the times", "only the version"}


def test_there_are_sixty_kinds() -> None:
    assert len(KINDS) + len(FORGED) >= 60


@pytest.mark.parametrize("kind", KINDS)
def test_no_tampering_goes_unnoticed(sealed, kind: str) -> None:
    assert ig.verify(sealed.record, seal=sealed.seal)
    KINDS[kind](sealed.record)
    try:
        found = ig.verify(sealed.output if sealed.output.exists() else sealed.record)
    except ig.IntegrumError:
        return
    assert bool(found) == (kind in _UNSEEN), str(found)


@pytest.mark.parametrize("kind", FORGED)
def test_what_a_careful_forger_does_is_shown_by_the_seal(sealed, kind: str) -> None:
    FORGED[kind](sealed.record)
    assert ig.verify(sealed.output)  # the docs say so
    found = ig.verify(sealed.output, seal=sealed.seal)
    assert [one.what for one in found.findings if one.state != "same"] == ["seal"]


def test_the_seal_is_the_same_for_the_same_table_and_another_for_another(sealed, tmp_path, integrum) -> None:
    assert re.fullmatch(r"([A-Z2-7]{5}-){3}[A-Z2-7]{5}", sealed.seal)
    again = ig.assemble(tmp_path / "plan.toml", to=sealed.output)
    afresh = ig.assemble(tmp_path / "plan.toml", to=sealed.output, afresh=True)
    assert sealed.seal == again.seal == afresh.seal and again.taken_over
    moved = tmp_path / "elsewhere"
    for name in ("in", "out"):
        shutil.copytree(tmp_path / name, moved / name)
    shutil.copy(tmp_path / "plan.toml", moved)
    written = sealed.seal.lower().replace("-", " ")
    good = integrum("verify", "elsewhere/out/lakes.csv", "--seal", written)
    assert good.returncode == 0 and f"its seal: {sealed.seal}" in good.stdout
    (tmp_path / "in" / "a.csv").write_text("Serial: a\nlake,depth\nAmber,1.25\n")
    other = integrum("assemble", "plan.toml", "--to", "out/lakes.csv")
    (seal,) = re.findall("^seal: (.*)$", other.stdout, re.M)
    assert seal != sealed.seal
    wrong = integrum("verify", "out/lakes.csv", "--seal", sealed.seal)
    assert wrong.returncode == 1 and "seal: " in wrong.stdout


def test_the_manifest_is_what_other_programs_read(sealed) -> None:
    """Lines of a hash, two blanks and a path: the form of b3sum and of BagIt."""
    for line in (sealed.record / LIST).read_text().splitlines():
        content, path = line.split("  ", 1)
        assert blake3((sealed.record / path).read_bytes()).hexdigest() == content


def test_the_record_of_a_table_in_memory_can_be_verified(sealed, tmp_path) -> None:
    outcome = ig.assemble(tmp_path / "plan.toml", record=tmp_path / "notes")
    assert outcome.seal and ig.verify(tmp_path / "notes", seal=outcome.seal)
    said(tmp_path / "notes", rows=1)
    assert not ig.verify(tmp_path / "notes")
