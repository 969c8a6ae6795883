"""Deciding guesses, drafting onto a plan, and under columns that are given."""

import tomllib

import pytest

import integrum as ig

OLD = "site,water_temp,ph\na,11.5,7.1\nb,12.9,7.3\na,11.7,7.2\n"
NEW = "site,T_water,ph\na,11.6,7.0\nb,13.0,7.4\nb,11.8,7.2\n"


@pytest.fixture
def lakes(folder):
    folder.write("2021.csv", OLD)
    folder.write("2022.csv", OLD.replace("11.5", "11.4"))
    folder.write("2023.csv", NEW)
    return folder


def test_a_guess_is_data_in_the_plan_and_a_run_loses_nothing(lakes, tmp_path) -> None:
    made = ig.draft(lakes.path)
    column = next(one for one in made.plan.columns if one.name == "water_temp")
    (guess,) = column.guesses
    assert guess.header == "T_water"
    assert guess.score >= 0.9
    assert "never in the same source" in guess.because
    outcome = ig.assemble(made)
    assert [(one.severity, one.code, one.column) for one in outcome.problems] == [
        ("note", "columns-alike", "water_temp")
    ]
    assert '"T_water" (0.9' in outcome.problems[0].message
    table = outcome.table
    assert table["water_temp"].null_count == 3
    assert table["T_water"].null_count == 6
    assert ig.parse_plan(made.text(tmp_path)) is not None


def test_an_accepted_guess_makes_one_column_of_two(lakes) -> None:
    made = ig.draft(lakes.path)
    (guess,) = made.guesses
    assert guess.sources == (2, 1)
    assert guess.examples[1][0] == "11.6"
    guess.accept()
    assert not made.guesses
    outcome = ig.assemble(made)
    assert outcome.problems == ()
    table = outcome.table
    assert table.column_names == ["source", "source_row", "site", "water_temp", "ph"]
    assert table["water_temp"].null_count == 0


def test_a_refused_guess_is_not_offered_again(lakes, tmp_path) -> None:
    made = ig.draft(lakes.path)
    made.guesses[0].refuse()
    assert not made.guesses
    path = made.save(tmp_path / "plan.toml")
    text = path.read_text()
    assert 'never = ["T_water"]' in text
    assert "maybe" not in text
    again = ig.draft([], onto=path)
    assert not again.guesses
    assert again.new == ()
    assert again.text(tmp_path) == text


def test_all_guesses_from_a_score_on_are_accepted_and_marked(lakes, integrum, tmp_path) -> None:
    done = integrum("draft", lakes.path, "--plan", "p.toml", "--accept", "0.9")
    assert (done.returncode, "1 guess accepted" in done.stdout) == (0, True)
    text = (tmp_path / "p.toml").read_text()
    assert 'also = ["T_water"]' in text
    assert '# "T_water": accepted, as its score is at least 0.9 (0.9' in text
    none = integrum("draft", lakes.path, "--plan", "q.toml", "--accept", "1")
    assert "0 guesses accepted" in none.stdout
    assert integrum("draft", lakes.path, "--plan", "r.toml", "--accept", "90").returncode == 2


@pytest.mark.parametrize(
    ("typed", "said", "also", "never"),
    [
        ("y\n", "1 accepted, 0 refused, 0 still open", ["T_water"], []),
        ("what\nno\n", "0 accepted, 1 refused, 0 still open", [], ["T_water"]),
        ("later\n", "0 accepted, 0 refused, 1 still open", [], []),
        ("s\n", "0 accepted, 0 refused, 1 still open", [], []),
        ("", "0 accepted, 0 refused, 1 still open", [], []),
    ],
)
def test_guesses_are_asked_one_by_one(lakes, tmp_path, typed, said, also, never) -> None:
    import subprocess
    import sys

    done = subprocess.run(
        [sys.executable, "-m", "integrum", "draft", str(lakes.path), "--plan", "p.toml", "--ask"],
        input=typed,
        capture_output=True,
        encoding="utf-8",
        cwd=tmp_path,
        check=False,
    )
    assert done.returncode == 0
    assert 'Is "T_water" the same column as "water_temp"?' in done.stdout
    assert "in 2 sources" in done.stdout
    assert "11.6" in done.stdout
    assert said in done.stdout
    column = next(
        one
        for one in tomllib.loads((tmp_path / "p.toml").read_text())["columns"]
        if one["name"] == "water_temp"
    )
    assert (column.get("also", []), column.get("never", [])) == (also, never)


PLAN = """# the plan of the lake group
integrum = 1

[[sources]]
find = ["in"]  # all years

[[columns]]
name = "ph"            # first, as we like it
type = "text"

# as measured
[[columns]]
name = "water_temp"
type = "number"
missing = ["-999"]

[[columns]]
name = "site"
"""


def test_drafting_again_only_adds(lakes, tmp_path, integrum) -> None:
    (tmp_path / "p.toml").write_text(PLAN)
    lakes.write("2024.csv", "Site,water temp,wind\na,11.6,3\n")
    done = integrum("draft", "--plan", "p.toml", "--update")
    assert done.returncode == 0, done.stderr
    text = (tmp_path / "p.toml").read_text()
    lines = iter(text.splitlines())
    assert all(line in lines for line in PLAN.splitlines()[:-1])  # all of them, in their order
    plan = ig.read_plan(tmp_path / "p.toml")
    assert [column.name for column in plan.columns] == ["ph", "water_temp", "site", "T_water", "wind"]
    assert plan.columns[1].headers == ("water_temp", "water temp")
    assert [one.header for one in plan.columns[1].guesses] == ["T_water"]
    assert "+# new" in done.stdout.splitlines()
    assert "new column: wind" in done.stdout
    again = integrum("draft", "--plan", "p.toml", "--update")
    assert "nothing is new" in again.stdout
    assert (tmp_path / "p.toml").read_text() == text


@pytest.mark.parametrize("place", ["p.toml", "plans/p.toml"])
def test_new_places_become_groups_of_a_plan_that_is_there(lakes, tmp_path, integrum, place: str) -> None:
    up = "../" * place.count("/")
    (tmp_path / place).parent.mkdir(exist_ok=True)
    (tmp_path / place).write_text(PLAN.replace('"in"', f'"{up}in"'))
    (tmp_path / "more").mkdir()
    (tmp_path / "more" / "x.csv").write_text("site;ph\na;7,1\nb;7,3\nc;6,9\n")
    done = integrum("draft", "more", "in", "--plan", place, "--update")
    assert done.returncode == 0, done.stderr
    plan = ig.read_plan(tmp_path / place)
    assert [group.find for group in plan.sources] == [(f"{up}in",), (f"{up}more",)]
    assert plan.sources[1].layout.delimiter == ";"
    assert ig.assemble(tmp_path / place).rows == 12


def test_an_update_needs_a_plan(lakes, integrum) -> None:
    assert (
        "--update needs an existing plan file"
        in integrum("draft", lakes.path, "--plan", "p.toml", "--update").stderr
    )
    assert "no sources given" in integrum("draft", "--plan", "p.toml").stderr
    assert "add --plan" in integrum("draft", lakes.path, "--ask").stderr


def test_columns_that_are_given_stay_as_they_are(lakes, tmp_path, integrum) -> None:
    lakes.write("2024.csv", "Site,T_water,wind\na,11.6,3\n")
    made = ig.draft(
        lakes.path,
        columns=[
            ig.Column("water_temperature", "number", unit="degC"),
            ig.Column("site"),
            ig.Column("ph", "text"),
        ],
        ids="{year}.csv",
    )
    assert [(one.name, one.type) for one in made.plan.columns] == [
        ("year", "integer"),
        ("water_temperature", "number"),
        ("site", "text"),
        ("ph", "text"),
    ]
    assert made.plan.columns[2].headers == ("site", "Site")
    assert {one.header for one in made.plan.columns[1].guesses} == {"water_temp", "T_water"}
    outcome = ig.assemble(made)
    codes = {(one.code, one.column) for one in outcome.problems}
    (asked,) = [one for one in outcome.problems if one.code == "not-asked-for"]
    assert asked.severity == "note" and '"wind"' in asked.message
    assert ("header-guessed", "T_water") in codes
    wanted = tmp_path / "wanted.toml"
    wanted.write_text(
        '[[columns]]\nname = "site"\n[[columns]]\nname = "water_temperature"\ntype = "number"\n'
    )
    done = integrum("draft", lakes.path, "--columns", "wanted.toml", "--plan", "p.toml")
    assert done.returncode == 0, done.stderr
    assert 'not a column of the plan: "ph" in 3 sources, "wind" in 1 source' in done.stdout
    assert [one.name for one in ig.read_plan(tmp_path / "p.toml").columns] == ["site", "water_temperature"]


def test_a_script_that_keeps_its_plan_guesses_only_once(lakes, tmp_path) -> None:
    kept = tmp_path / "lakes.toml"
    first = ig.draft(lakes.path, columns=["site", "ph"], keep=kept)
    text = kept.read_text()
    one = ig.assemble(first, tmp_path / "one.csv")
    second = ig.draft(lakes.path, columns=["site", "ph"], keep=kept)
    two = ig.assemble(second, tmp_path / "two.csv")
    assert kept.read_text() == text
    assert (tmp_path / "one.csv").read_bytes() == (tmp_path / "two.csv").read_bytes()
    assert (one.rows, two.rows) == (9, 9)
    lakes.write("2024.csv", "site,ph,wind\na,7.6,3\n")
    third = ig.draft(lakes.path, keep=kept)
    assert len(third.new) == 1
    assert '"wind" in 1 source' in third.new[0]


def test_sources_that_the_plan_would_set_aside_are_looked_at_in_drafting_again(lakes, tmp_path) -> None:
    kept = tmp_path / "p.toml"
    columns = [ig.Column("site"), ig.Column("water_temp", "number", required=True)]
    first = ig.draft(lakes.path, columns=columns, keep=kept)
    assert ig.assemble(first).rows == 6
    again = ig.draft([], onto=kept, accept=0.5)
    again.save(kept)
    assert ig.assemble(kept).rows == 9
    assert any("T_water" in line for line in kept.read_text().splitlines() if line.startswith("# "))


def test_months_in_headers_are_proposed_as_rows_and_not_made_so(folder, tmp_path) -> None:
    folder.write("2022.csv", "lake,month,count\na,2022-04,5\nb,2022-04,6\n")
    folder.write("2023.csv", "lake,2023-04,2023-05,2023-06\na,1,2,3\nb,,5,6\n")
    folder.write("2024.csv", "lake,2024-04,2024-05,2024-06\na,,8,\n")
    made = ig.draft(folder.path)
    path = made.save(tmp_path / "p.toml")
    text = path.read_text()
    proposed = '# wide = { headers = "{month}", value = "count" }'
    assert proposed in text
    assert "2023-04" in [column.name for column in made.plan.columns]
    # it holds when its comment sign goes, for next year's months, too
    path.write_text(text.replace(proposed, proposed[2:]))
    folder.write("2025.csv", "lake,2025-04\na,9\n")
    outcome = ig.assemble(path)
    assert outcome.table["count"].to_pylist() == [5, 6, 1, 2, 3, 5, 6, 8, 9]
    assert outcome.problems == ()


def test_a_figure_of_the_presence(lakes, tmp_path) -> None:
    for number in range(40):
        lakes.write(f"more/{number:02}.csv", f"site,depth\na,{number}\n")
    figure = ig.survey(lakes.path).figure()
    target = tmp_path / "presence.png"
    figure.savefig(target)
    assert target.read_bytes()[:4] == b"\x89PNG"
    (axes,) = figure.axes
    assert axes.get_yticklabels()[0].get_text() == "site"
    assert axes.get_xlim() == (0, 43)


def test_the_grid_of_a_plan_tells_all_states_apart(lakes) -> None:
    lakes.write("2024.csv", "site,T_water,wind,battery\na,11.6,3,9\n")
    plan = ig.Plan(
        [ig.Sources(str(lakes.path), leave_out=["battery"])],
        [ig.Column("site"), ig.Column("water_temp", "number", maybe=["T_water"])],
    )
    grid = ig.survey(plan).presence
    rows = dict(zip(grid.columns, grid.cells, strict=True))
    assert grid.variants == (1, 2, 3)
    assert rows["water_temp"] == ("filled", "guessed", "guessed")
    assert rows["ph"] == ("unlisted", "unlisted", "absent")
    assert rows["battery"] == ("absent", "absent", "left out")
