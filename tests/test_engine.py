"""One engine: a survey and a run say the same of every source; a survey's run is that of its plan."""

import random
from pathlib import Path

import pytest

import books
import integrum as ig
from integrum.intake.ledger import Ledger, SourceSummary, broken_law, check_total
from integrum.problems.codes import CODES

LAKES = ("Ambermere", "Quillon Tarn", "Vessel Lake")


def folder_of(rng: random.Random, folder: Path) -> None:
    """Files and sheets of some header variants, some there twice, some broken, with odd rows in them."""
    folder.mkdir()
    texts: list[str] = []
    for number in range(rng.randint(2, 9)):
        names = ["day", "lake", rng.choice(["depth", "Depth", "depth m"]), "temp"][: rng.randint(2, 4)]
        rng.random() < 0.3 and rng.shuffle(names)
        lines = [",".join(names)]
        for at in range(rng.randint(1, 30)):
            cells = {
                "day": f"2024-05-{at % 28 + 1:02}",
                "lake": rng.choice(LAKES),
                "temp": rng.choice(["7.25", "8", "n/a"] if rng.random() < 0.1 else ["7.25", "8"]),
            }
            lines.append(",".join(cells.get(name, f"{at}.{number}") for name in names))
            lines += [lines[0]] if rng.random() < 0.03 else []
            lines += [""] if rng.random() < 0.03 else []
            lines += ["2024-05-01"] if rng.random() < 0.02 else []
            lines += ['2024-05-01,"x"y,1,1'] if rng.random() < 0.02 else []
        text = "\n".join(lines) + "\n"
        text = rng.choice(texts) if texts and rng.random() < 0.2 else text
        text = 'day,depth\n"2024-05-01,1\n' if rng.random() < 0.05 else text
        text = "" if rng.random() < 0.05 else text
        texts.append(text)
        (folder / f"f{number}.csv").write_text(text)
    if rng.random() < 0.3:
        rows = [
            ["day", "lake", "depth"],
            *([f"2024-06-{at:02}", LAKES[at % 3], at / 4] for at in range(1, 9)),
        ]
        (folder / "visits.xlsx").write_bytes(books.sheets(May=rows, June=rows, July=rows[:4]))


def said(sources: object) -> list[tuple[object, ...]]:
    return [
        (one.source, one.variant, one.status, one.reason, one.content, one.ledger, one.header_row)
        for one in sources  # type: ignore[attr-defined]
    ]


@pytest.mark.parametrize("seed", range(25))
def test_a_survey_and_a_run_say_the_same_of_every_source(seed: int, tmp_path) -> None:
    rng = random.Random(seed)
    folder_of(rng, tmp_path / "in")
    try:
        plan = ig.draft(tmp_path / "in").plan
    except ig.NothingFound:
        return
    plan = ig.Plan(
        [ig.Sources(str(tmp_path / "in"), layout=rng.choice([one.layout for one in plan.sources]))],
        plan.columns,
    )
    seen, made = ig.survey(plan), ig.assemble(plan)
    assert said(seen.sources) == said(made.sources)
    assert seen.rows == made.rows
    for variant in seen.variants:
        having = [one.source for one in seen.sources if one.variant == variant.number]
        assert having == list(variant.sources)
    counts = [len(variant.sources) for variant in seen.variants]
    assert counts == sorted(counts, reverse=True)
    same = [one.source for one in seen.problems if one.code == "same-content"]
    assert same == [one.source for one in made.problems if one.code == "same-content"]
    assert ig.survey(tmp_path / "in").rows == ig.assemble(tmp_path / "in").rows


@pytest.mark.parametrize("seed", range(100, 115))
def test_a_run_without_a_plan_is_that_of_the_drafted_plan(seed: int, tmp_path, monkeypatch) -> None:
    rng = random.Random(seed)
    folder_of(rng, tmp_path / "in")
    try:
        ig.draft(tmp_path / "in").save(tmp_path / "plan.toml")
    except ig.NothingFound:
        return
    monkeypatch.chdir(tmp_path)
    at_once = ig.assemble("in", to=tmp_path / "at once.csv")
    planned = ig.assemble("plan.toml", to=tmp_path / "planned.csv")
    rules = rng.choice(["blank", "set-row-aside", "set-source-aside"])
    assert said(at_once.sources) == said(planned.sources)
    if planned.output is None:
        return
    assert at_once.output.read_bytes() == planned.output.read_bytes()
    plan = ig.Plan(planned.plan.sources, planned.plan.columns, rules=ig.Rules(bad_values=rules))
    assert said(ig.survey(plan).sources) == said(ig.assemble(plan).sources)


def test_what_a_survey_learned_holds_only_while_the_file_is_unchanged(folder) -> None:
    path = folder.write("a.csv", "day,depth\n2024-05-01,1\n2024-05-02,2\n")
    made = ig.draft(folder.path)
    assert ig.assemble(made).table["depth"].to_pylist() == [1, 2]
    path.write_text("day,depth\n2024-05-01,1\n2024-05-02,deep\n2024-05-03,007\n")
    again = ig.assemble(made)
    assert again.table["depth"].to_pylist() == [1, None, 7]
    assert [one.raw for one in again.problems] == ["deep"]


def test_a_survey_of_a_plan_counts_what_its_run_counts(folder) -> None:
    folder.write("a.csv", "day,depth\n2024-05-01,1\n")
    folder.write("b.csv", "other,thing\n1,2\n")
    folder.write("c.csv", "day,depth\n2024-05-01,1\n")
    plan = ig.Plan([ig.Sources(str(folder.path))], [ig.Column("day", "date"), ig.Column("depth", "number")])
    seen, made = ig.survey(plan), ig.assemble(plan)
    assert [(one.source, one.reason) for one in seen.sources] == [
        ("a.csv", ""),
        ("b.csv", "header-not-found"),
        ("c.csv", "same-content"),
    ]
    assert said(seen.sources) == said(made.sources)


def test_every_code_is_in_the_table_and_nothing_else_is_a_code() -> None:
    with pytest.raises(ValueError, match="there is no error with the code 'bad-valve'"):
        ig.Problem("error", "bad-valve")
    text = "".join(
        path.read_text() for path in (Path(ig.__file__).parent).rglob("*.py") if path.name != "codes.py"
    )
    assert [code for code in CODES if f'"{code}"' not in text] == []


def test_a_source_that_is_set_aside_keeps_the_parts_that_are_known(folder) -> None:
    folder.write("head.csv", "Site: A\nday,depth\n")
    folder.write("rows.csv", "Site: A\nday,depth\n2024-05-01,1\n")
    folder.write("good.csv", "Site: A\nlake,day\nx,2024-05-01\n")
    plan = ig.Plan(
        [ig.Sources(str(folder.path), layout=ig.Layout(header_row=2))],
        [ig.Column("lake", required=True), ig.Column("day", "date")],
    )
    ledgers = {one.source: one.ledger for one in ig.assemble(plan).sources}
    assert (ledgers["head.csv"].preamble, ledgers["head.csv"].header, ledgers["head.csv"].set_aside) == (
        1,
        1,
        0,
    )
    assert (ledgers["rows.csv"].preamble, ledgers["rows.csv"].header, ledgers["rows.csv"].set_aside) == (
        1,
        1,
        1,
    )
    assert all(one.adds_up for one in ledgers.values())


def test_the_law_of_the_ledger() -> None:
    def source(rows: int, data: int, table_rows: int, **more: int) -> SourceSummary:
        ledger = Ledger(rows=rows, header=1, data=data)
        return SourceSummary("a.csv", "", 1, ledger=ledger, table_rows=table_rows, **more)

    assert broken_law(source(3, 1, 1), True) == "it has 3 rows, but 2 are accounted for"
    assert broken_law(source(2, 1, 2), True) == "it has 1 row of data, but gave 2"
    assert broken_law(source(2, 1, 0), False) == broken_law(source(2, 1, 1), True) == ""
    assert broken_law(source(2, 1, 10, rows_each=12, empty_cells=2), True) == ""
    assert "has 11 rows of data, but gave 10" in broken_law(
        source(2, 1, 10, rows_each=12, empty_cells=1), True
    )
    check_total([source(2, 1, 1)], 1)
    with pytest.raises(ig.LedgerError, match="gave 1, but the table has 2"):
        check_total([source(2, 1, 1)], 2)
