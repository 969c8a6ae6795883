"""A folder for an archive: read by others, verified on another machine, and made again from it."""

import json
import os
import re
import shutil
import zipfile
from importlib.resources import files
from pathlib import Path

import bagit
import pytest
import rdflib
from rocrate.rocrate import ROCrate

import integrum as ig
from integrum.demo.lakes import write_demo

SCHEMA, PROV = rdflib.Namespace("http://schema.org/"), rdflib.Namespace("http://www.w3.org/ns/prov#")
ABOUT = """
[dataset]
title = "Depths of two lakes"
description = "Read by hand."
license = "https://creativecommons.org/licenses/by/4.0/"
people = [{ name = "Orla Fenwick", id = "https://orcid.org/0000-0000-0000-0000", affiliation = "Lake Office" }, "Ned Ashby"]
"""


@pytest.fixture
def lakes(tmp_path: Path) -> Path:
    """A plan with code, a list and two groups of sources, and a table that was made of it."""
    here = tmp_path / "here"
    for name, depth in (("amber", "3.20"), ("quillon", "x4.10")):
        (here / "in" / name).mkdir(parents=True)
        (here / "in" / name / "2024.csv").write_text(f"day,depth,lake\n2024-05-01,{depth},{name}\n")
    (here / "in" / "about.txt").write_text("not a table")
    (here / "far off").mkdir()
    (here / "far off" / "vessel.csv").write_text("day,depth,lake\n2024-05-02,5,vessel\n")
    (here / "steps.py").write_text("def depth(text):\n    return text.removeprefix('x')\n")
    (here / "known.csv").write_text("lake\namber\nquillon\nvessel\n")
    (here / "plan.toml").write_text(
        f"""integrum = 1
{ABOUT}
[[sources]]
find = ["in"]
facts = {{ place = "folder" }}
[[sources]]
find = ["far off/*.csv"]
[[columns]]
name = "day"
type = "date"
[[columns]]
name = "depth"
type = "number"
unit = "m"
description = "to the ground"
read = "steps.py:depth"
[[columns]]
name = "lake"
[[checks]]
column = "lake"
listed = "known.csv"
"""
    )
    ig.assemble(here / "plan.toml", to=here / "out" / "lakes.csv", allow_code=True)
    return here


def elsewhere(place: Path, there: Path) -> Path:
    """The same on another machine: nothing else of the first one is there."""
    there.mkdir()
    shutil.move(place, there / place.name)
    shutil.rmtree(place.parent)
    return there / place.name


def graph_of(deposit: Path) -> rdflib.Graph:
    """The crate as a graph, with its context from the package of another reader, as there is no network."""
    said = json.loads((deposit / "data" / "ro-crate-metadata.json").read_text())
    assert said["@context"][0] == "https://w3id.org/ro/crate/1.3/context"
    known = json.loads(files("rocrate").joinpath("data/ro-crate.jsonld").read_text())
    said["@context"][0] = known["@context"]
    return rdflib.Graph().parse(data=json.dumps(said), format="json-ld", publicID="arcp://here/")


@pytest.mark.parametrize("name", ["lakes-deposit", "lakes.zip"])
def test_it_is_verified_and_made_again_on_another_machine(lakes: Path, tmp_path: Path, name: str) -> None:
    made = ig.deposit(lakes / "out" / "lakes.csv", lakes / name, with_sources=True)
    seal = ig.read_record(lakes / "out" / "lakes.csv").seal
    there = elsewhere(made, tmp_path / "there")
    found = ig.verify(there, again=True, seal=seal, allow_code=True)
    assert found, found
    if there.is_dir():
        assert ig.verify(there / "data")  # where the readme lies
    assert {one.what for one in found.findings} == {
        "deposit", "table", "record", "code", "source", "seal", "table again", "record again",
    }  # fmt: skip
    assert not ig.verify(there, seal="AAAAA-AAAAA-AAAAA-AAAAA")
    with pytest.raises(ig.PlanError, match="add --allow-code"):
        ig.verify(there, again=True)


def test_its_plan_and_its_script_make_the_same_table(lakes: Path, tmp_path: Path, integrum) -> None:
    wanted = (lakes / "out" / "lakes.csv").read_bytes()
    there = elsewhere(
        ig.deposit(lakes / "out" / "lakes.csv", lakes / "d", with_sources=True), tmp_path / "there"
    )
    data = there / "data"
    assert (
        integrum("assemble", "plan.toml", "--to", "../../again.csv", "--allow-code", cwd=data).returncode == 0
    )
    assert (tmp_path / "there" / "again.csv").read_bytes() == wanted
    script = (data / "make_table.py").read_text()
    assert 'ig.Sources("sources/in"' in script and "code/steps.py:depth" in script
    assert ig.read_plan(data / "plan.toml").checks[0].listed == "lists/known.csv"
    readme = (data / "README.md").read_text()
    assert readme.startswith("# Depths of two lakes\n") and "By Orla Fenwick, Ned Ashby." in readme
    for path in (
        "table/lakes.csv",
        "table/lakes-record",
        "plan.toml",
        "make_table.py",
        "sources",
        "code/steps.py",
    ):
        assert f"| `{path}` |" in readme and (data / path).exists()
    assert not (data / "sources" / "in" / "about.txt").exists()


def test_other_programs_check_it(lakes: Path) -> None:
    (lakes / "out" / "lakes-record" / "my notes.txt").write_text("not for others")
    made = ig.deposit(lakes / "out" / "lakes.csv", lakes / "d", with_sources=True)
    bag = bagit.Bag(str(made))
    assert bag.validate() and bag.info["Contact-Name"] == "Orla Fenwick"
    assert bag.info["External-Description"] == "Depths of two lakes"
    crate = ROCrate(made / "data")
    assert crate.name == "Depths of two lakes" and crate.license.id.startswith("https://creativecommons.org/")
    assert [one["name"] for one in crate.root_dataset["author"]] == ["Orla Fenwick", "Ned Ashby"]
    assert crate.mainEntity.id == "table/lakes.csv"
    there = {
        path.relative_to(made / "data").as_posix() for path in (made / "data").rglob("*") if path.is_file()
    }
    named = {one.id.replace("%20", " ") for one in crate.data_entities}
    assert named == there - {"ro-crate-metadata.json"}
    assert not any("notes" in path for path in there)
    for one in crate.data_entities:
        place = made / "data" / one.id.replace("%20", " ")
        assert int(one["contentSize"]) == place.stat().st_size and one["description"]
        assert one["sha256"] == bag.entries[f"data/{one.id.replace('%20', ' ')}"]["sha256"]


@pytest.mark.filterwarnings("ignore:ConjunctiveGraph is deprecated:DeprecationWarning")
def test_its_provenance_is_a_graph(lakes: Path) -> None:
    made = ig.deposit(lakes / "out" / "lakes.csv", lakes / "d", with_sources=True)
    graph = graph_of(made)
    (run,) = graph.subjects(rdflib.RDF.type, SCHEMA.CreateAction)
    assert (run, rdflib.RDF.type, PROV.Activity) in graph
    table = next(
        each for each in graph.subjects(PROV.wasGeneratedBy, run) if str(each).endswith("table/lakes.csv")
    )
    sources = {str(each).rsplit("sources/", 1)[1] for each in graph.objects(table, PROV.wasDerivedFrom)}
    assert sources == {"in/amber/2024.csv", "in/quillon/2024.csv", "far%20off/vessel.csv"}
    assert set(graph.objects(run, PROV.used)) == set(graph.objects(run, SCHEMA.object))
    start, end = (
        graph.value(run, PROV.startedAtTime).toPython(),
        graph.value(run, PROV.endedAtTime).toPython(),
    )
    assert start <= end and start.tzinfo is not None
    tool = graph.value(run, SCHEMA.instrument)
    assert graph.value(tool, SCHEMA.version).toPython() == ig.__version__
    assert graph.value(graph.value(run, SCHEMA.agent), SCHEMA.name).toPython() == "Orla Fenwick"
    hashes = {
        graph.value(each, SCHEMA.name).toPython(): graph.value(
            graph.value(each, SCHEMA.identifier), SCHEMA.value
        )
        for each in graph.objects(table, PROV.wasDerivedFrom)
    }
    record = ig.read_record(lakes / "out" / "lakes.csv")
    assert hashes["vessel.csv"].toPython() == next(
        one.content for one in record.sources if "vessel" in one.source
    )
    units = {
        graph.value(each, SCHEMA.name).toPython(): graph.value(each, SCHEMA.unitText)
        for each in graph.objects(None, SCHEMA.variableMeasured)
    }
    assert units["depth"].toPython() == "m" and units["lake"] is None


def test_what_somebody_changes_in_it_is_told(lakes: Path, tmp_path: Path) -> None:
    made = ig.deposit(lakes / "out" / "lakes.csv", lakes / "d", with_sources=True)
    copy = tmp_path / "copy"

    def changed(path: str, text: str | None) -> set[tuple[str, str, str]]:
        shutil.rmtree(copy, ignore_errors=True)
        shutil.copytree(made, copy)
        if text is None:
            (copy / path).unlink()
        else:
            (copy / path).write_text(text)
        found = ig.verify(copy)
        assert not found
        return {(one.what, one.name, one.state) for one in found.findings if one.state != "same"}

    assert changed("data/README.md", "x") == {("deposit", "data/README.md", "changed")}
    assert changed("data/new.txt", "x") == {("deposit", "data/new.txt", "changed")}
    assert changed("data/make_table.py", None) == {("deposit", "data/make_table.py", "missing")}
    assert changed("bag-info.txt", (made / "bag-info.txt").read_text() + "More: x\n") == {
        ("deposit", "bag-info.txt", "changed")
    }
    assert ("deposit", "manifest-sha256.txt", "missing") in changed("manifest-sha256.txt", None)
    assert changed("data/table/lakes.csv", "lake\n") == {
        ("deposit", "data/table/lakes.csv", "changed"),
        ("table", "lakes.csv", "changed"),
    }
    assert changed("data/sources/in/amber/2024.csv", "day,depth,lake\n") == {
        ("deposit", "data/sources/in/amber/2024.csv", "changed"),
        ("source", "in/amber/2024.csv", "changed"),
    }
    assert ("code", "steps.py", "changed") in changed("data/code/steps.py", "import os\n")
    # without a file that every record has, nothing more can be told of it than that
    assert changed("data/table/lakes-record/problems.csv", None) == {
        ("deposit", "data/table/lakes-record/problems.csv", "missing")
    }


def test_without_its_sources_it_says_where_they_go(lakes: Path, tmp_path: Path) -> None:
    made = ig.deposit(lakes / "out" / "lakes.csv", lakes / "d")
    assert not (made / "data" / "sources").exists()
    found = ig.verify(made)
    assert found and "the sources are not in it" in found.lines()
    with pytest.raises(ig.OutputError, match="put them into data/sources"):
        ig.verify(made, again=True)
    crate = ROCrate(made / "data")
    names = {one["name"]: one for one in crate.contextual_entities if one.id.startswith("#source-")}
    assert set(names) == {"in/amber/2024.csv", "in/quillon/2024.csv", "far off/vessel.csv"}
    shutil.copytree(lakes / "in", made / "data" / "sources" / "in")
    shutil.copytree(lakes / "far off", made / "data" / "sources" / "far off")
    assert ig.verify(made, again=True, allow_code=True)
    (made / "data" / "sources" / "in" / "amber" / "2024.csv").write_text(
        "day,depth,lake\n2024-05-01,9,amber\n"
    )
    assert [one.name for one in ig.verify(made).findings if one.state != "same"] == ["in/amber/2024.csv"]


@pytest.mark.parametrize(
    "to", ["o.parquet/lake={lake}/", "{lake}.csv", "o.sqlite", "o.xlsx", "deep/down/o.csv.gz"]
)
def test_any_output_can_be_handed_on(lakes: Path, tmp_path: Path, to: str) -> None:
    plan = ig.Plan(
        [ig.Sources(str(lakes / "in"), facts={"lake": "folder", "when": "modified"})], [ig.Column("depth")]
    )
    outcome = ig.assemble(plan, to=f"{tmp_path}/out/{to}", record=tmp_path / "records" / "of lakes")
    folder = ig.deposit(outcome.record, lakes / "folder", with_sources=True)
    readme = (folder / "data" / "README.md").read_text()
    named = re.search(r'open_table\("(.+)"\)', readme)[1]
    assert ig.open_table(folder / "data" / named).table.num_rows == 2
    assert re.search(r"--to again(\S+)", readme)[1] in to.replace("/", " ") and readme.endswith(
        "codebook.md`.\n"
    )
    made = ig.deposit(outcome.record, lakes / "d.zip", with_sources=True)
    there = elsewhere(made, tmp_path / "there")
    for path in (tmp_path / "out", tmp_path / "records"):
        shutil.rmtree(path)
    found = ig.verify(there, again=True)
    assert found, found


def test_workbooks_archives_and_odd_names_go_with_it(tmp_path: Path) -> None:
    folder = write_demo(tmp_path / "lakes")
    (folder / "loggers" / "über & [a]#.csv").write_text("Date/Time;Water Temp;Depth\n°C;°C;m\n")
    for name in ("field", "loggers"):
        outcome = ig.assemble(folder / name, to=tmp_path / "out" / f"{name}.csv")
        made = ig.deposit(outcome.output, tmp_path / f"{name}-deposit", with_sources=True)
        assert bagit.Bag(str(made)).validate()
        found = ig.verify(made, again=True)
        assert found, found
        assert len(ROCrate(made / "data").data_entities) >= 30


def test_what_cannot_be_handed_on_is_said(lakes: Path, tmp_path: Path) -> None:
    out = lakes / "out" / "lakes.csv"
    (lakes / "there").mkdir()
    (lakes / "there" / "mine.txt").write_text("mine")
    with pytest.raises(ig.OutputError, match="exists; give another name"):
        ig.deposit(out, lakes / "there", replace=True)
    made = ig.deposit(out, lakes / "d")
    with pytest.raises(ig.OutputError, match="add --replace"):
        ig.deposit(out, made)
    assert (
        ig.deposit(out, made, with_sources=True, replace=True) == made
        and (made / "data" / "sources").exists()
    )
    (lakes / "in" / "new.csv").write_text("day,depth,lake\n2024-05-01,9,amber\n")
    with pytest.raises(ig.OutputError, match=r"not what they were in the run: in/new.csv"):
        ig.deposit(out, lakes / "e", with_sources=True)
    assert not (lakes / "e").exists() and not list(lakes.glob(".*"))
    assert ig.deposit(out, lakes / "e").is_dir()
    out.write_text("lake\n")
    with pytest.raises(ig.OutputError, match="not as the run wrote it"):
        ig.deposit(out, lakes / "f")
    with pytest.raises(ig.OutputError, match="is in no file"):
        ig.deposit(ig.assemble(lakes / "in", record=tmp_path / "r").record, lakes / "f")
    (tmp_path / "x.zip").write_bytes(b"PK")
    for place, said in (
        (tmp_path / "x.zip", "was not made by integrum"),
        (tmp_path / "y.zip", "there is nothing here"),
    ):
        with pytest.raises(ig.OutputError, match=said):
            ig.verify(place)


def test_files_of_code_with_one_name_are_told_apart(tmp_path: Path) -> None:
    (tmp_path / "in").mkdir()
    (tmp_path / "in" / "a.csv").write_text("depth,lake\nx3,amber\n")
    for folder, body in (("one", "text[1:]"), ("two", "text.title()")):
        (tmp_path / folder).mkdir()
        (tmp_path / folder / "steps.py").write_text(f"def read(text):\n    return {body}\n")
    columns = [
        ig.Column("depth", "number", read="one/steps.py:read"),
        ig.Column("lake", read="two/steps.py:read"),
    ]
    (tmp_path / "plan.toml").write_text(ig.write_plan(ig.Plan(["in"], columns)))
    outcome = ig.assemble(tmp_path / "plan.toml", to=tmp_path / "o.csv", allow_code=True)
    assert outcome.table.to_pylist()[0]["lake"] == "Amber"
    made = ig.deposit(outcome.output, tmp_path / "d", with_sources=True)
    assert sorted(path.name for path in (made / "data" / "code").iterdir()) == ["steps.py", "steps_2.py"]
    found = ig.verify(made, again=True, allow_code=True)
    assert found, found


@pytest.mark.parametrize("suffix", [".csv", ".sqlite", ".xlsx"])
def test_a_run_without_a_plan_is_verified_by_a_full_run(tmp_path: Path, suffix: str) -> None:
    (tmp_path / "in").mkdir()
    for number in range(3):
        rows = "".join(f"2024-05-{day:02},{day}.5\n" for day in range(1, 29)) + "2024-05-29,n/a\n"
        (tmp_path / "in" / f"{number}.csv").write_text(f"day,depth\n{rows.replace('.5', f'.{number}')}")
    outcome = ig.assemble(tmp_path / "in", to=tmp_path / "out" / f"o{suffix}")
    assert "missing-codes" in {one.code for one in outcome.problems}
    found = ig.verify(outcome.output, again=True)
    assert found, found


def test_it_does_not_lie_where_the_next_run_looks_for_sources(lakes: Path) -> None:
    for place in ("in/d", "in/amber/d.zip"):
        with pytest.raises(ig.OutputError, match="where the plan looks for sources"):
            ig.deposit(lakes / "out" / "lakes.csv", lakes / place)
    # a pattern of files does not reach into folders
    assert ig.deposit(lakes / "out" / "lakes.csv", lakes / "far off" / "d").is_dir()
    assert ig.assemble(lakes / "plan.toml", to=lakes / "out" / "lakes.csv", allow_code=True).rows == 3


def test_a_zip_cannot_reach_outside_of_its_folder(lakes: Path, tmp_path: Path) -> None:
    made = ig.deposit(lakes / "out" / "lakes.csv", lakes / "d.zip")
    with zipfile.ZipFile(made, "a") as packed:
        packed.writestr("../outside.txt", "x")
    assert not ig.verify(made) or not (tmp_path / "outside.txt").exists()
    folder = ig.deposit(lakes / "out" / "lakes.csv", lakes / "e")
    info = (folder / "bag-info.txt").read_text()
    (folder / "bag-info.txt").write_text(info.replace("data/table/lakes-record", "../out/lakes-record"))
    found = ig.verify(folder)
    assert not found and found.remarks == ("its record cannot be read",)


def test_it_is_one_command(lakes: Path, integrum) -> None:
    done = integrum("report", "out/lakes.csv", "--deposit", "d", "--with-sources", cwd=lakes)
    assert (
        done.stdout.splitlines() == ["deposit: d", "next: integrum verify d --again"] and done.returncode == 0
    )
    done = integrum("verify", "d", "--again", "--allow-code", cwd=lakes)
    assert done.returncode == 0 and done.stdout.splitlines()[-1].startswith("verified:")
    done = integrum("report", "out/lakes.csv", "--with-sources", cwd=lakes)
    assert done.returncode == 2 and "needs a folder for the archive: --deposit FOLDER" in done.stderr
    assert os.listdir(lakes / "d") and not list(lakes.glob(".*"))
