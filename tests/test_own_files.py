"""Files of one's own are not written over; old rows stay with --only-add; what is no longer made goes, or is told."""

import json
import shutil
from pathlib import Path

import pytest

import integrum as ig

PLAN = """integrum = 1
[[sources]]
find = ["in"]
ids = "{lake}_{n}.csv"
[[columns]]
name = "day"
type = "date"
[[columns]]
name = "depth"
type = "number"
"""
SUFFIXES = (".csv", ".csv.gz", ".parquet", ".arrow", ".xlsx", ".sqlite", ".parquet/")


@pytest.fixture
def plan(folder, tmp_path) -> Path:
    for number, lake in enumerate(("amber", "quillon")):
        folder.write(f"{lake}_1.csv", f"day,depth\n2024-05-0{number + 1},{number}.5\n")
    (tmp_path / "plan.toml").write_text(PLAN)
    return tmp_path / "plan.toml"


def spoil(place: Path) -> None:
    """Change an output as somebody may."""
    if place.is_dir():
        place = next(place.glob("part-*"))
    place.write_bytes(place.read_bytes() + b"\n")


def below(folder: Path) -> dict[Path, bytes]:
    return {path: path.read_bytes() for path in folder.rglob("*") if path.is_file()}


@pytest.mark.parametrize("suffix", SUFFIXES)
def test_a_file_that_no_run_wrote_is_not_written_over(plan, tmp_path, suffix: str) -> None:
    to = f"{tmp_path}/out/lakes{suffix}"
    place = Path(to)
    place.parent.mkdir()
    if suffix.endswith("/"):
        place.mkdir()
        (place / "part-00001.parquet").write_text("mine")
    else:
        place.write_text("mine")
    before = below(tmp_path)
    with pytest.raises(
        ig.OutputError, match=r"exists, and is not as a run of Integrum wrote it.*replace=True"
    ):
        ig.assemble(plan, to=to)
    assert below(tmp_path) == before
    assert ig.assemble(plan, to=to, replace=True).status == 0
    assert ig.assemble(plan, to=to).status == 0  # now it is what a run wrote
    spoil(place)
    before = below(tmp_path)
    with pytest.raises(ig.OutputError, match="is not written over"):
        ig.assemble(plan, to=to)
    assert below(tmp_path) == before


def test_the_command_line_refuses_with_status_2_and_says_how_to_go_on(plan, tmp_path, integrum) -> None:
    (tmp_path / "mine.csv").write_text("mine\n")
    done = integrum("assemble", "plan.toml", "--to", "mine.csv")
    assert done.returncode == 2 and "--replace" in done.stderr
    assert (tmp_path / "mine.csv").read_text() == "mine\n" and not (tmp_path / "mine-record").exists()
    assert integrum("assemble", "plan.toml", "--to", "mine.csv", "--replace").returncode == 0
    assert integrum("assemble", "plan.toml", "--to", "mine.csv").returncode == 0


def test_an_empty_file_has_nothing_to_lose(plan, tmp_path) -> None:
    (tmp_path / "o.csv").write_text("")
    assert ig.assemble(plan, to=tmp_path / "o.csv").status == 0


def test_a_table_without_its_record_may_be_anything(plan, tmp_path) -> None:
    ig.assemble(plan, to=tmp_path / "o.csv")
    shutil.rmtree(tmp_path / "o-record")
    with pytest.raises(ig.OutputError, match="is not written over"):
        ig.assemble(plan, to=tmp_path / "o.csv")


@pytest.mark.parametrize("text", ["{}", '{"dc:creator": "Integrum"}'])
def test_metadata_that_was_edited_is_not_written_over(plan, tmp_path, text: str) -> None:
    ig.assemble(plan, to=tmp_path / "o.csv")
    (tmp_path / "o.csv-metadata.json").write_text(text)
    with pytest.raises(ig.OutputError, match=r"o\.csv-metadata\.json exists"):
        ig.assemble(plan, to=tmp_path / "o.csv")
    assert (tmp_path / "o.csv-metadata.json").read_text() == text
    assert ig.assemble(plan, to=tmp_path / "o.csv", replace=True).status == 0


def test_a_file_that_appears_while_the_run_is_at_work_is_not_written_over(plan, tmp_path) -> None:
    def appear(_: object) -> None:
        (tmp_path / "o.csv").write_text("mine")

    with pytest.raises(ig.OutputError, match="has changed while the run was at work"):
        ig.assemble(plan, to=tmp_path / "o.csv", watch=appear)
    assert (tmp_path / "o.csv").read_text() == "mine"


def test_files_of_a_record_that_were_edited_are_kept(plan, tmp_path, folder) -> None:
    ig.assemble(plan, to=tmp_path / "o.csv")
    record = tmp_path / "o-record"
    (record / "problems.csv").write_text("looked at: all fine\n")
    (record / "report.html").write_text("my page")
    (record / "thesis.txt").write_text("mine")
    outcome = ig.assemble(plan, to=tmp_path / "o.csv")
    assert "problems.csv in the record has changed" in str(outcome)
    assert (record / "problems-changed.csv").read_text() == "looked at: all fine\n"
    assert (record / "report-changed.html").read_text() == "my page"
    assert (record / "thesis.txt").read_text() == "mine"
    (record / "problems.csv").write_text("again\n")
    ig.assemble(plan, to=tmp_path / "o.csv")
    assert (record / "problems-changed.csv").read_text() == "looked at: all fine\n"
    assert (record / "problems-changed-2.csv").read_text() == "again\n"
    assert ig.verify(tmp_path / "o.csv")


def test_a_page_that_was_edited_is_not_written_over(plan, tmp_path, integrum) -> None:
    ig.assemble(plan, to=tmp_path / "o.csv")
    page = ig.report(tmp_path / "o.csv")
    assert ig.report(tmp_path / "o.csv") == page
    page.write_text(page.read_text().replace("<h1>", "<h1>My "))
    done = integrum("report", "o.csv")
    assert done.returncode == 2 and "--replace" in done.stderr and "<h1>My " in page.read_text()
    assert integrum("report", "o.csv", "--replace").returncode == 0 and "<h1>My " not in page.read_text()


def test_a_remote_table_that_no_run_wrote_is_not_written_over(plan) -> None:
    fsspec = pytest.importorskip("fsspec")
    memory = fsspec.filesystem("memory")
    memory.pipe("/own/lakes.csv", b"mine")
    with pytest.raises(ig.OutputError, match="is not as a run of Integrum wrote it"):
        ig.assemble(plan, to="memory://own/lakes.csv")
    assert memory.cat("/own/lakes.csv") == b"mine"
    ig.assemble(plan, to="memory://own/lakes.csv", replace=True)
    assert ig.assemble(plan, to="memory://own/lakes.csv").status == 0
    memory.pipe("/own/lakes.csv", memory.cat("/own/lakes.csv") + b"\n")
    with pytest.raises(ig.OutputError, match="is not as a run of Integrum wrote it"):
        ig.assemble(plan, to="memory://own/lakes.csv")


# ---- only to add


def only_add(plan: Path, to: Path) -> ig.Outcome:
    return ig.assemble(plan, to=to, only_add=True)


@pytest.mark.parametrize(
    "spoilt",
    ["record gone", "run.json gone", "manifest gone", "sources.csv changed", "table gone", "older record"],
)
def test_what_cannot_be_proved_is_refused(plan, tmp_path, folder, spoilt: str) -> None:
    to, record = tmp_path / "o.csv", tmp_path / "o-record"
    only_add(plan, to)
    folder.write("hollow_1.csv", "day,depth\n2024-05-03,1\n")
    only_add(plan, to)
    folder.write("vessel_1.csv", "day,depth\n2024-05-04,1\n")
    if spoilt == "record gone":
        shutil.rmtree(record)
    elif spoilt == "table gone":
        to.unlink()
    elif spoilt == "sources.csv changed":
        (record / "sources.csv").write_text((record / "sources.csv").read_text().replace("hollow", "hallow"))
    elif spoilt == "older record":
        run = json.loads((record / "run.json").read_text())
        (record / "run.json").write_text(json.dumps(run | {"schema": 7}))
    else:
        (record / {"run.json gone": "run.json", "manifest gone": "manifest-blake3.txt"}[spoilt]).unlink()
    before = below(tmp_path)
    with pytest.raises(ig.OutputError):
        only_add(plan, to)
    assert below(tmp_path) == before


def test_a_source_by_another_name_changes_old_rows(plan, tmp_path, folder) -> None:
    to = tmp_path / "o.csv"
    only_add(plan, to)
    (folder.path / "amber_1.csv").rename(folder.path / "amber_2.csv")
    with pytest.raises(ig.OutputError, match="renamed"):
        only_add(plan, to)
    with pytest.raises(ig.OutputError, match="choose one"):
        ig.assemble(plan, to=to, only_add=True, replace=True)


# ---- outputs by identifier


def names(folder: Path) -> set[str]:
    return {path.name for path in folder.iterdir() if path.is_file()}


@pytest.mark.parametrize("suffix", [".csv", ".parquet", ".sqlite"])
def test_an_output_that_is_no_longer_made_goes_when_it_is_as_it_was_written(
    plan, tmp_path, folder, suffix: str
) -> None:
    to = f"{tmp_path}/out/{{lake}}{suffix}"
    beside = {"amber.csv-metadata.json"} if suffix == ".csv" else set()
    ig.assemble(plan, to=to)
    (folder.path / "quillon_1.csv").unlink()
    outcome = ig.assemble(plan, to=to)
    assert names(tmp_path / "out") == {f"amber{suffix}"} | beside
    assert [path.name for path in outcome.taken_away] == [f"quillon{suffix}"] and not outcome.left
    assert f"deleted, as this run does not make them any more: {tmp_path}/out/quillon{suffix}" in str(outcome)
    assert ig.verify(tmp_path / "out" / f"amber{suffix}")


def test_one_that_was_edited_since_stays_is_told_and_is_never_a_source(
    plan, tmp_path, folder, integrum
) -> None:
    ig.assemble(plan, to=f"{folder.path}/made/{{lake}}.csv")
    old = folder.path / "made" / "quillon.csv"
    old.write_text(old.read_text() + "mine,2,quillon,2024-05-09,9\n")
    (folder.path / "quillon_1.csv").unlink()
    for _ in range(2):
        ran = integrum("assemble", "plan.toml", "--to", "in/made/{lake}.csv")
        assert ran.returncode == 0, ran.stderr
        assert (
            "left from an earlier run, and edited since; not part of this table: in/made/quillon.csv"
            in ran.stdout
        )
        assert "mine,2" in old.read_text()
    assert [one.source for one in ig.survey(folder.path).sources] == ["amber_1.csv"]
    assert ig.assemble(plan, to=tmp_path / "other.csv").rows == 1
    assert ig.verify(folder.path / "made" / "amber.csv")


def test_a_record_that_was_named_is_taken_again(plan, tmp_path, folder) -> None:
    to = f"{tmp_path}/out/{{lake}}.csv"
    ig.assemble(plan, to=to, record=tmp_path / "notes")
    (folder.path / "quillon_1.csv").unlink()
    assert ig.assemble(plan, to=to, record=tmp_path / "notes").taken_away
    with pytest.raises(ig.OutputError, match="is the record of"):
        ig.assemble(plan, to=tmp_path / "out" / "all.csv", record=tmp_path / "notes")


def test_a_folder_of_files_that_is_no_longer_made_goes(plan, tmp_path, folder) -> None:
    to = f"{tmp_path}/lakes.parquet/lake={{lake}}/"
    ig.assemble(plan, to=to)
    (folder.path / "quillon_1.csv").unlink()
    ig.assemble(plan, to=to)
    assert [path.name for path in (tmp_path / "lakes.parquet").iterdir()] == ["lake=amber"]


def test_a_folder_of_files_that_was_edited_is_not_emptied(plan, tmp_path, folder) -> None:
    to = f"{tmp_path}/lakes.parquet/lake={{lake}}/"
    ig.assemble(plan, to=to)
    spoil(tmp_path / "lakes.parquet" / "lake=quillon")
    (folder.path / "quillon_1.csv").unlink()
    before = below(tmp_path)
    with pytest.raises(
        ig.OutputError, match=r"lake=quillon exists, and is not as a run of Integrum wrote it"
    ):
        ig.assemble(plan, to=to)
    assert below(tmp_path) == before
    assert ig.assemble(plan, to=to, replace=True).status == 0
