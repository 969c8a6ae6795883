"""What an output says of itself: metadata beside a CSV, in the schema of Parquet and Arrow, the codebook, the overview."""

import csv
import gzip
import json
import re
from pathlib import Path

import pyarrow as pa
import pyarrow.parquet as pq
import pytest

import csvw_terms as terms
import integrum as ig

COLUMNS = [
    ig.Column("lake", description="where it was measured"),
    ig.Column("sampled at", "datetime", spelling="%Y-%m-%d %H:%M:%S"),
    ig.Column("time", "datetime"),
    ig.Column("day", "date"),
    ig.Column("clock", "time"),
    ig.Column("depth", "number", unit="m", description="below the surface", missing=["-999", "n/a"]),
    ig.Column("count", "integer"),
    ig.Column("ice", "boolean"),
    ig.Column("_odd-~name", "number", also=["temp (°C)"]),
]
TEXT = (
    "lake,sampled at,time,day,clock,depth,count,ice,temp (°C)\n"
    "Ambermere,2024-05-01 10:00,2024-05-01 10:00,2024-05-01,10:00,3.20,4,yes,7.5\n"
    "Vessel Lake,2024-05-02 10:00,2024-05-02T10:00,2024-05-02,10:00:30,n/a,5,no,8\n"
)


@pytest.fixture
def plan(folder) -> ig.Plan:
    folder.write("a.csv", TEXT)
    return ig.Plan([ig.Sources(str(folder.path))], COLUMNS, checks=[ig.Check(unique=["lake", "day"])])


def _is_term(name: str, known: set[str]) -> bool:
    return name in known or name.partition(":")[0] in terms.PREFIXES


def test_metadata_beside_a_csv_is_csv_on_the_web(plan, tmp_path) -> None:
    outcome = ig.assemble(plan, tmp_path / "lakes.csv")
    said = json.loads((tmp_path / "lakes.csv-metadata.json").read_text(encoding="utf-8"))
    assert said["@context"] == "http://www.w3.org/ns/csvw"
    assert said["url"] == "lakes.csv"
    assert all(_is_term(key, terms.TABLE) for key in said)
    assert set(said["dialect"]) <= terms.DIALECT
    schema = said["tableSchema"]
    assert all(_is_term(key, terms.SCHEMA) for key in schema)
    columns = schema["columns"]
    with open(outcome.output, encoding="utf-8", newline="") as file:
        header, *rows = csv.reader(file)
    assert [one["titles"] for one in columns] == header
    names = [one["name"] for one in columns]
    assert len(set(names)) == len(names)
    # a variable name as in URI templates (RFC 6570), which does not begin with an underscore
    assert all(re.fullmatch(r"(?!_)([A-Za-z0-9_.]|%[0-9A-F]{2})+", name) for name in names)
    assert set(schema["primaryKey"]) <= set(names)
    for column, cells in zip(columns, zip(*rows, strict=True), strict=True):
        assert all(_is_term(key, terms.COLUMN) for key in column)
        datatype = column["datatype"]
        if isinstance(datatype, dict):
            assert set(datatype) <= terms.DATATYPE
        base = datatype["base"] if isinstance(datatype, dict) else datatype
        assert base in terms.DATATYPES
        if base == "string" and isinstance(datatype, dict):
            assert all(re.fullmatch(datatype["format"], cell) for cell in cells if cell)
    by_title = {one["titles"]: one for one in columns}
    assert by_title["depth"]["schema:unitText"] == "m"
    assert by_title["depth"]["dc:description"] == "below the surface"
    assert '"-999", "n/a"' in by_title["depth"]["rdfs:comment"]
    assert by_title["sampled at"]["datatype"] == {"base": "datetime", "format": "yyyy-MM-dd HH:mm:ss"}
    assert by_title["_odd-~name"]["schema:unitText"] == "°C"
    assert by_title["count"]["datatype"] == "integer" and by_title["day"]["datatype"] == "date"


def test_a_key_is_one_only_if_its_check_has_passed(plan, folder, tmp_path) -> None:
    folder.write("b.csv", TEXT.replace("3.20", "3.21"))
    ig.assemble(plan, tmp_path / "lakes.csv")
    assert "primaryKey" not in (tmp_path / "lakes.csv-metadata.json").read_text()


def test_metadata_of_somebody_else_is_not_written_over(plan, tmp_path) -> None:
    (tmp_path / "lakes.csv-metadata.json").write_text("{}")
    with pytest.raises(ig.OutputError, match="exists, and is not as a run of Integrum wrote it"):
        ig.assemble(plan, tmp_path / "lakes.csv")
    assert not (tmp_path / "lakes.csv").exists()
    assert (tmp_path / "lakes.csv-metadata.json").read_text() == "{}"


def test_metadata_is_no_source(plan, folder) -> None:
    ig.assemble(plan, folder.path / "lakes.csv")
    seen = ig.survey(folder.path)
    assert [(one.code, one.source) for one in seen.problems] == [("own-work", "lakes.csv")]


@pytest.mark.parametrize("suffix", ["parquet", "arrow"])
def test_typed_outputs_carry_the_same_in_their_schema(plan, tmp_path, suffix: str) -> None:
    outcome = ig.assemble(plan, tmp_path / f"lakes.{suffix}")
    if suffix == "parquet":
        schema = pq.read_schema(outcome.output)
    else:
        with pa.memory_map(str(outcome.output)) as file:
            schema = pa.ipc.open_file(file).schema
    for table in (schema, outcome.table.schema, ig.assemble(plan).table.schema):
        field = table.field("depth")
        assert field.metadata == {
            b"description": b"below the surface",
            b"unit": b"m",
            b"missing": b'["-999", "n/a"]',
        }
        assert table.field("_odd-~name").metadata == {b"unit": "°C".encode()}
    assert not (tmp_path / f"lakes.{suffix}-metadata.json").exists()


def test_packed_csv_is_the_same_text(plan, tmp_path) -> None:
    plain = ig.assemble(plan, tmp_path / "a.csv").output.read_bytes()
    packed = ig.assemble(plan, tmp_path / "b.csv.gz")
    assert gzip.decompress(packed.output.read_bytes()) == plain
    assert packed.table.equals(ig.assemble(plan).table)
    assert packed.record == tmp_path / "b-record"
    assert ig.read_record(packed.record).outputs[0].bytes == packed.output.stat().st_size


def test_every_output_gives_the_table_back(plan, tmp_path) -> None:
    table = ig.assemble(plan).table
    for suffix in ("csv", "csv.gz", "parquet", "arrow", "xlsx", "sqlite"):
        outcome = ig.assemble(plan, tmp_path / f"{suffix[-2:]}.{suffix}")
        assert outcome.table.equals(table), suffix


def test_the_codebook_has_descriptions_and_ranges(plan, tmp_path) -> None:
    outcome = ig.assemble(plan, tmp_path / "lakes.csv")
    entries = {one.column: one for one in ig.read_record(outcome.output).columns}
    assert (entries["depth"].description, entries["depth"].least, entries["depth"].greatest) == (
        "below the surface",
        "3.2",
        "3.2",
    )
    assert (entries["time"].least, entries["time"].greatest) == ("2024-05-01 10:00:00", "2024-05-02 10:00:00")
    assert (entries["clock"].least, entries["clock"].greatest) == ("10:00:00", "10:00:30")
    assert entries["lake"].least == ""
    counts = [(one.column, one.value, one.rows) for one in ig.read_record(outcome.output).categories]
    assert counts == [
        ("lake", "Ambermere", 1),
        ("lake", "Vessel Lake", 1),
        ("ice", "false", 1),
        ("ice", "true", 1),
    ]


def test_an_overview_is_a_screen_whatever_the_table(folder, tmp_path, integrum) -> None:
    for at in range(30):
        lake = ("Ambermere", "Vessel Lake", "Hollow Water")[at % 3]
        names = [f"c{column}" for column in range(60)]
        rows = "".join(f"{at}-{row}," + ",".join("1" * 30 for _ in names) + "\n" for row in range(at + 1))
        folder.write(f"{lake}_{at}.csv", "id," + ",".join(names) + "\n" + rows)
    plan = ig.Plan(
        [
            ig.Sources(
                str(folder.path), ids="{lake}_{n}.csv", expect={"lake": ["Ambermere", "Quillon"], "n": ["0"]}
            )
        ],
        rules=ig.Rules("keep"),
        checks=[ig.Check(f"check {at}", rows=[0, at]) for at in range(9)],
    )
    outcome = ig.assemble(plan, tmp_path / "o.csv")
    seen = outcome.overview()
    lines = str(seen).splitlines()
    assert len(lines) < 52 and max(map(len, lines)) <= 200
    text = str(seen)
    assert text.startswith("465 rows × 65 columns from 30 of 30 sources")
    assert "rows per source: 1 to 30, mostly about 15" in text
    assert "fewest: Ambermere_0.csv (1), Vessel Lake_1.csv (2)" in text
    assert "most: Hollow Water_29.csv (30)" in text
    assert "lake: 1 of 2 expected; missing: Quillon; not expected: Hollow Water, Vessel Lake" in text
    assert "checks: 0 passed, 9 failed" in text and "and 4 more" in text
    assert "Hollow Water 165, Vessel Lake 155, Ambermere 145" in text
    assert str(ig.overview(tmp_path / "o.csv")) == str(ig.overview(outcome.record)) == text
    ran = integrum("overview", "o.csv")
    assert ran.stdout == text + "\n"
    shown = integrum("assemble", "o-record/plan.toml", "--to", "o.csv")
    assert text.split("\n", 2)[2] in shown.stdout
    assert "next: integrum report o.csv    integrum trace o.csv ROW" in shown.stdout
    assert integrum("overview", "none.csv").returncode == 2


def test_an_overview_of_one_of_several_outputs(folder, tmp_path) -> None:
    for lake in ("amb", "qui"):
        folder.write(f"{lake}_1.csv", f"depth\n1{len(lake)}.5\n{lake == 'amb'}\n")
    outcome = ig.assemble(ig.Sources(str(folder.path), ids="{lake}_{n}.csv"), tmp_path / "{lake}.csv")
    assert str(outcome.parts[1].overview()) == str(ig.overview(Path(tmp_path / "qui.csv")))
    assert "qui_1.csv" in str(outcome.parts[1].overview()) and "amb_1.csv" not in str(
        outcome.parts[1].overview()
    )
    assert "2 of 2 sources" in str(outcome.overview())


def test_nothing_to_look_at(folder) -> None:
    folder.write("a.csv", "")
    plan = ig.Plan([ig.Sources(str(folder.path))], [ig.Column("depth")])
    with pytest.raises(ig.OutputError, match="nothing was assembled"):
        ig.assemble(plan).overview()
