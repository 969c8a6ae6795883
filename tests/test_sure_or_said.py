"""What a guess takes away or changes is proved, or it is told: each harm and its innocent twin, on subjects not tuned on."""

from pathlib import Path

import pytest

import integrum as ig
from integrum.problems.codes import CODES
from sure_corpus import CLASSES, make, violations, warnings, written

FIRST = 400_000


@pytest.mark.parametrize("name", CLASSES)
def test_each_harm_is_avoided_or_told_and_its_twin_is_left_alone(name: str, tmp_path: Path) -> None:
    for seed in range(FIRST, FIRST + 3):
        made = make(name, seed)
        assert not violations(made, tmp_path / f"in-{seed}", tmp_path / f"{seed}.csv"), seed


HARMS = [name for name in CLASSES if make(name, FIRST).told and "-" not in make(name, FIRST).told]


@pytest.mark.parametrize("name", HARMS)
def test_it_is_told_by_the_survey_and_by_runs_of_a_plan(name: str, tmp_path: Path) -> None:
    made = make(name, FIRST)
    folder, wanted = written(made, tmp_path / "in"), set(made.told)
    if not all(CODES[code].scope == "draft" for code in wanted):
        assert warnings(ig.survey(folder).problems) & wanted or "drafted-as-text" in wanted
    plan = tmp_path / "plan.toml"
    ig.draft(folder).save(plan)
    said = " ".join(plan.read_text(encoding="utf-8").replace("\n# ", " ").replace('\\"', '"').split())
    outcome = ig.assemble(plan)
    told = [one for one in outcome.problems if one.code in wanted]
    assert told
    assert any(" ".join(one.message.split())[:40].removeprefix("drafted as ") in said for one in told) or (
        "there may be another table" in said
    )
    again = ig.assemble(plan, to=tmp_path / "o.csv")
    taken = ig.assemble(plan, to=tmp_path / "o.csv")
    assert list(map(str, taken.problems)) == list(map(str, again.problems))


def test_a_doubt_is_repeated_until_it_is_decided(folder, tmp_path) -> None:
    folder.write("a.csv", "depth,ph\nAmbermere,3.2,7.1\nVessel Lake,4.5,7.2\n")
    folder.write("b.csv", "id;mass\n1;12,345\n2;13,456\n")
    plan = tmp_path / "plan.toml"
    ig.draft(folder.path).save(plan)
    text = plan.read_text(encoding="utf-8")
    assert text.count("undecided = ") == 2
    assert warnings(ig.assemble(plan).problems) == {"layout-undecided", "drafted-as-text"}
    lines = [line for line in text.splitlines() if not line.startswith("undecided = ")]
    plan.write_text("\n".join(lines), encoding="utf-8")
    assert not warnings(ig.assemble(plan).problems)


def test_a_doubt_names_its_source_whatever_it_says(folder) -> None:
    folder.write("a.csv", "depth\n3\n")
    doubts = ["a.csv: encoding cp1252: the most likely"]
    plan = ig.Plan([ig.Sources(str(folder.path), undecided=doubts)], [ig.Column("depth", "integer")])
    (problem,) = ig.assemble(plan).problems
    assert (problem.source, problem.message) == ("a.csv", "encoding cp1252: the most likely")


def test_next_years_file_is_read_in_its_own_encoding(folder, tmp_path) -> None:
    folder.write("2023.csv", "lake,remark\nGrüner See,schön\n".encode("cp1252"))
    folder.write("2024.csv", "lake,remark\nHollow Water,calm\n")
    plan = tmp_path / "plan.toml"
    ig.draft(folder.path).save(plan)
    assert 'encoding = "cp1252"' in plan.read_text(encoding="utf-8")
    for name, encoding in (("2025", "utf-8"), ("2026", "utf-8-sig"), ("2027", "utf-16")):
        folder.write(f"{name}.csv", f"lake,remark\nØvre Kolk,grün {name}\n".encode(encoding))
    far = "lake,remark\n" + "Amber,x\n" * 700_000 + "Øvre Kolk,far down\n"
    folder.write("2028.csv", far)
    outcome = ig.assemble(plan, to=tmp_path / "o.csv")
    assert not warnings(outcome.problems)
    lakes = set(outcome.table["lake"].to_pylist())
    assert lakes == {"Grüner See", "Hollow Water", "Øvre Kolk", "Amber"}
    assert ig.trace(tmp_path / "o.csv", outcome.rows).rows[0].source_row == 700_002


def test_a_broken_file_has_no_vote(folder) -> None:
    for at in range(3):
        folder.write(f"{at}.csv", f"lake,remark\nGrüner See,schön {at}\n")
    folder.write("z.csv", 'lake;remark\nGrüner See;"schön\n'.encode("cp1252"))
    (group,) = ig.draft(folder.path).plan.sources
    assert group.layout == ig.Layout()


def test_rows_that_are_in_two_sources_are_taken_once(folder, tmp_path) -> None:
    rows = [f"2024-05-{at + 1:02},{at / 7:.3f},{at * 1.1:.2f}" for at in range(28)]
    folder.write("a.csv", "\n".join(["day,depth,ph", *rows[:20]]) + "\n")
    folder.write("b.csv", "\n".join(["day,depth,ph", *rows[15:]]) + "\n")
    folder.write("all.csv", "\n".join(["day;depth;ph", *(row.replace(",", ";") for row in rows)]) + "\n")
    columns = [ig.Column("day", "date"), ig.Column("depth", "number"), ig.Column("ph", "number")]
    semicolons = ig.Layout(delimiter=";")
    sources = [ig.Sources(str(folder.path), layouts=[ig.Layout(), semicolons])]
    plan = ig.Plan(sources, columns, rules=ig.Rules(repeated_rows="once"))
    to = tmp_path / "o.csv"
    outcome = ig.assemble(plan, to=to)
    assert outcome.rows == 28 == len(set(outcome.table["day"].to_pylist()))
    assert {(one.source, one.code) for one in outcome.set_aside} == {
        ("all.csv", "row-again"),
        ("b.csv", "row-again"),
    }
    assert not warnings(outcome.problems) and outcome.status == 0
    assert all(one.ledger.adds_up for one in outcome.sources)
    assert ig.verify(to, again=True).is_good
    # what is set aside itself takes no rows away from others
    folder.write("a.csv", "\n".join(["day,depth,ph", *rows[:20], "x" * 9]) + "\n")
    strict = ig.Plan(sources, columns, rules=ig.Rules(repeated_rows="once", bad_values="set-source-aside"))
    folder.write("a.csv", "\n".join(["day,depth,ph", *rows[:20], "2024-06-01,deep,7"]) + "\n")
    outcome = ig.assemble(strict)
    assert [one.source for one in outcome.sources if not one.is_assembled] == ["a.csv"]
    assert len(set(outcome.table["day"].to_pylist())) == 28


def test_a_table_on_its_side_is_turned(folder, tmp_path) -> None:
    rows = [
        'sample,S1,"S, 2",S3',
        "lake,Amber,Vessel,Amber",
        "ph,7.1,7.2,",
        "day,2024-05-01,2024-05-02,2024-05-03",
    ]
    folder.write("a.csv", "\n".join(rows) + "\n")
    columns = [ig.Column("sample"), ig.Column("lake"), ig.Column("ph", "number"), ig.Column("day", "date")]
    plan = ig.Plan([ig.Sources(str(folder.path), layout=ig.Layout(on_its_side=True))], columns)
    outcome = ig.assemble(plan, to=tmp_path / "o.csv")
    assert not outcome.problems
    assert outcome.table["sample"].to_pylist() == ["S1", "S, 2", "S3"]
    assert outcome.table["ph"].to_pylist() == [7.1, 7.2, None]
    assert ig.parse_plan(ig.write_plan(plan)) == plan
    assert ig.verify(tmp_path / "o.csv", again=True).is_good


def test_a_table_that_integrum_made_is_known_by_what_it_holds(folder, tmp_path) -> None:
    for at in range(3):
        folder.write(f"{at}.csv", f"day,depth\n2024-05-0{at + 1},3.{at}\n")
    ig.assemble(folder.path, to=tmp_path / "o.csv")
    folder.write("renamed.csv", (tmp_path / "o.csv").read_bytes())
    outcome = ig.assemble(folder.path)
    assert [one.source for one in outcome.problems if one.code == "rows-in-two-sources"] == ["renamed.csv"]


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("+-1", None),
        ("(+5)", None),
        ("+5-", None),
        ("1e-400", None),
        ("0e-400", 0.0),
        ("(5)", -5.0),
        ("5.5-", -5.5),
    ],
)
def test_signs_that_contradict_and_numbers_that_vanish_are_bad(
    folder, text: str, value: float | None
) -> None:
    folder.write("a.csv", f"depth\n{text}\n2.5\n")
    outcome = ig.assemble(ig.Plan([ig.Sources(str(folder.path))], [ig.Column("depth", "number")]))
    assert outcome.table["depth"].to_pylist() == [value, 2.5]
    assert warnings(outcome.problems) == ({"bad-value"} if value is None else set())


@pytest.mark.parametrize("below", [["°C", "m"], ["", "Avg"]])
def test_describing_rows_are_a_part_of_their_own(folder, tmp_path, below: list[str]) -> None:
    rows = [",".join(["2024-05-01", "7.1", "3.2"]), ",".join(["2024-05-02", "7.2", "3.3"])]
    folder.write("a.csv", "\n".join(["day,temp,depth", ",°C,m", ",Avg,Smp", *rows]) + "\n")
    outcome = ig.assemble(folder.path, to=tmp_path / "o.csv")
    (source,) = outcome.sources
    assert (source.ledger.units, source.ledger.description, source.ledger.data) == (1, 1, 2)
    assert [one.unit for one in outcome.columns if one.column == "temp"] == ["°C"]
    kept = (tmp_path / "o-record" / "left-out.csv").read_text(encoding="utf-8")
    assert 'description,",Avg,Smp"' in kept and below
