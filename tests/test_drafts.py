"""What a careful analyst would have written: numbers, dates source by source, names, facts from names, rows of headers."""

from datetime import date, datetime, timedelta
from pathlib import Path

import openpyxl
import pytest

import integrum as ig
from count_edits import figures
from desks import UNTUNED


def drafted(folder, **more: object) -> dict[str, ig.Column]:
    return {column.name: column for column in ig.draft(folder.path, **more).plan.columns}


def book(place: Path, rows: list[list[object]]) -> None:
    made = openpyxl.Workbook()
    for row in rows:
        made.active.append(row)
    made.save(place)


def lines(*rows: object) -> str:
    return "".join(f"{row}\n" for row in rows)


# ---- numbers


def test_money_in_some_files_is_a_number_with_its_currency(folder) -> None:
    for year in range(2020, 2024):
        rows = (f'{year}{at},"$1,{at}34.50"' for at in range(1, 9))
        folder.write(f"{year}.csv", lines("id,cost", *rows))
    folder.write("2024.csv", lines("id,cost", *(f"{at},1{at}34.5" for at in range(1, 9))))
    made = ig.assemble(ig.draft(folder.path))
    cost = next(one for one in made.columns if one.column == "cost")
    assert (cost.type, cost.unit, cost.filled, made.status) == ("number", "$", 40, 0)
    assert set(made.table["cost"].to_pylist()[:8]) == set(made.table["cost"].to_pylist()[-8:])
    (told,) = [one for one in made.problems if one.code == "signs-in-numbers"]
    assert told.severity == "note" and '32 × ","' in told.message


@pytest.mark.parametrize(
    ("one", "other", "kind", "unit"),
    [
        ("12.5 mg/L", "12.5", "number", "mg/L"),
        ("€ 12", "€ 1,234,567", "integer", "€"),
        ("12%", "45", "integer", "%"),
        ("12%", "0.5", "text", ""),
        ("$5.10", "€5.10", "text", ""),
        ("5.10", "7,25", "text", ""),
        ("1,234", "2,345", "text", ""),
        ("1,234", "1,234,567", "integer", ""),
        ("101,102", "101,102,205", "text", ""),
    ],
)
def test_what_can_be_read_in_one_way_only(folder, one: str, other: str, kind: str, unit: str) -> None:
    folder.write("a.csv", lines("id,v", *(f'{at},"{one}"\n{at},"{other}"' for at in range(12))))
    column = drafted(folder)["v"]
    assert (column.type, column.unit) == (kind, unit)


def test_a_code_among_whole_numbers_is_no_unit(folder) -> None:
    folder.write("a.csv", lines("plot,n", *(f"{at},{at}" for at in range(1, 41)), "12A,9"))
    assert drafted(folder)["plot"].type == "text"
    folder.write("a.csv", lines("depth,n", *(f"{at}m,{at}" for at in range(1, 31))))
    folder.write("b.csv", lines("depth,n", *(f"{at},{at}" for at in range(1, 31))))
    assert (drafted(folder)["depth"].type, drafted(folder)["depth"].unit) == ("integer", "m")


def test_numbers_without_percent_signs_are_shares_where_they_are_as_small(folder) -> None:
    folder.write("a.csv", lines("id,cover", *(f"{at},{at * 5}%" for at in range(21))))
    folder.write("b.csv", lines("id,cover", *(f"{at},{at * 5}" for at in range(21))))
    assert (drafted(folder)["cover"].type, drafted(folder)["cover"].unit) == ("integer", "%")
    folder.write("c.csv", lines("id,cover", *(f"{at},{at / 20}" for at in range(21))))
    assert drafted(folder)["cover"].type == "text"


def test_a_first_value_in_brackets_is_no_unit_and_is_told_as_below_zero(folder) -> None:
    for name, first in (("a", 0), ("b", 24)):
        folder.write(
            f"{name}.csv",
            lines(
                "site,change",
                *(f"S{at},{f'({at}.5)' if at % 4 == 0 else at}" for at in range(first, first + 24)),
            ),
        )
    made = ig.assemble(folder.path)
    assert made.rows == 48 and made.table["change"].to_pylist()[:5] == [-0.5, 1, 2, 3, -4.5]
    (told,) = made.problems
    assert told.code == "signs-in-numbers" and '12 × "()"' in told.message and "below zero" in told.hint


def test_a_few_words_among_many_numbers_are_bad_values(folder) -> None:
    values = [f"{at / 4}" for at in range(60)]
    values[7] = values[30] = "refused"
    folder.write("a.csv", lines("id,weight", *(f"p{at},{value}" for at, value in enumerate(values))))
    draft = ig.draft(folder.path)
    assert '2 values are not a number, and will be empty and told: 2 × "refused" in a.csv' in str(draft)
    made = ig.assemble(draft)
    assert made.table["weight"].null_count == 2 and made.status == 1
    assert [(one.code, one.count) for one in made.problems] == [("bad-value", 2)]
    assert str(made.lost).startswith("not in the table: 2 cells")
    # among few values, or with more of them, nothing is proved
    for some in (values[:15], ["refused", *values[:31], "refused"]):
        folder.write("a.csv", lines("id,weight", *(f"p{at},{value}" for at, value in enumerate(some))))
        assert drafted(folder)["weight"].type == "text"


def test_a_written_plan_reads_what_is_clear_and_names_the_key_for_the_rest(folder) -> None:
    folder.write("a.csv", lines("v", '"$1,234.50"', '"1,000,000"', '"12,345"', '"7,5"', "12 mg/L"))
    made = ig.assemble(ig.Plan([ig.Sources(str(folder.path))], [ig.Column("v", "number")]))
    assert made.table["v"].to_pylist() == [1234.5, 1_000_000, None, None, None]
    (bad,) = [one for one in made.problems if one.code == "bad-value"]
    assert (bad.count, bad.raw) == (3, "12,345") and 'thousands_mark = ","' in bad.hint
    kind = ig.Column("v", "number").kind
    assert 'decimal_mark = ","' in kind.advice("7,5", ()) and 'unit = "mg/L"' in kind.advice("12 mg/L", ())


# ---- dates


def days(form: str, first: date, count: int) -> list[str]:
    return [f"{first + timedelta(days=at):{form}},{at}" for at in range(count)]


def test_each_source_decides_its_order_and_one_plan_has_both(folder, tmp_path) -> None:
    folder.write("north/a.csv", lines("day,v", *days("%m/%d/%Y", date(2024, 5, 1), 30)))
    folder.write("north/b.csv", lines("day,v", *days("%m/%d/%Y", date(2024, 7, 1), 30)))
    for name, first in (("c", date(2023, 5, 1)), ("d", date(2023, 8, 1)), ("e", date(2022, 1, 9))):
        folder.write(f"south/{name}.csv", lines("day,v", *days("%d/%m/%Y", first, 30)))
    path = ig.draft(folder.path).save(tmp_path / "p.toml")
    day = ig.read_plan(path).columns[0]
    assert (day.type, day.date_order, day.date_order_in) == ("date", "dmy", {"mdy": ("north/**",)})
    made = ig.assemble(path)
    assert made.problems == () and made.table["day"].to_pylist()[:2] == [date(2024, 5, 1), date(2024, 5, 2)]
    # a new file there is read in the same order
    folder.write("north/f.csv", lines("day,v", *days("%m/%d/%Y", date(2021, 3, 2), 3)))
    assert date(2021, 3, 4) in ig.assemble(path).table["day"].to_pylist()


def test_a_source_that_shows_nothing_is_asked_about_where_those_like_it_differ(folder) -> None:
    folder.write("a.csv", lines("day,v", *days("%m/%d/%Y", date(2024, 5, 1), 30)))
    folder.write("b.csv", lines("day,v", *days("%d/%m/%Y", date(2023, 5, 1), 30)))
    folder.write("c.csv", lines("day,v", "04/05/2022,1", "06/07/2022,2"))
    draft = ig.draft(folder.path)
    day = draft.plan.columns[0]
    assert (day.type, day.date_order, day.date_order_in) == (
        "date", "", {"dmy": ("b.csv",), "mdy": ("a.csv",)},
    )  # fmt: skip
    assert 'add c.csv to date_order_in, as in date_order_in = { dmy = ["NAME"] }' in str(draft)
    made = ig.assemble(draft)
    (bad,) = made.problems
    assert (bad.source, bad.count, made.table["day"].null_count) == ("c.csv", 2, 2)
    assert 'add "c.csv" to date_order_in' in bad.hint


def test_no_half_of_a_source_is_swapped(folder, tmp_path) -> None:
    folder.write("a.csv", lines("day,v", *days("%d/%m/%Y", date(2024, 5, 1), 30)))
    folder.write("b.csv", lines("day,v", *days("%m/%d/%Y", date(2024, 7, 1), 30)))
    plan = ig.Plan([ig.Sources(str(folder.path))], [ig.Column("day", "date", date_order="dmy"), "v"])
    made = ig.assemble(plan, tmp_path / "o.csv")
    (bad,) = [one for one in made.problems if one.code == "bad-value"]
    assert (bad.source, bad.count) == ("b.csv", 30)
    assert "can only be month-day-year" in bad.message and 'date_order_in = { mdy = ["b.csv"] }' in bad.hint
    # the same in a run that takes the rows over
    folder.write("c.csv", lines("day,v", "25/12/2024,1"))
    again = ig.assemble(plan, tmp_path / "o.csv")
    assert again.taken_over == 2 and [one.count for one in again.problems if one.code == "bad-value"] == [30]


def test_an_update_adds_new_sources_with_another_order(folder, tmp_path) -> None:
    folder.write("a.csv", lines("day,v", *days("%d/%m/%Y", date(2024, 5, 1), 30)))
    path = ig.draft(folder.path).save(tmp_path / "p.toml")
    folder.write("b.csv", lines("day,v", *days("%m/%d/%Y", date(2023, 7, 1), 30)))
    made = ig.draft([], onto=path)
    assert "day: its dates are month-day-year in b.csv" in made.new
    made.save(path)
    assert ig.read_plan(path).columns[0].date_order_in == {"mdy": ("b.csv",)}
    assert ig.assemble(path).status == 0 and ig.draft([], onto=path).new == ()


def test_the_steps_over_midnight_show_the_order(folder) -> None:
    first = datetime(2023, 5, 3, 9, 0)
    times = [f"{first + timedelta(minutes=30 * at):%m/%d/%Y %H:%M},{at}" for at in range(200)]
    folder.write("a.csv", lines("time,v", *times))
    time = drafted(folder)["time"]
    assert (time.type, time.date_order) == ("datetime", "mdy")
    # days alone could be one day in each month
    folder.write("a.csv", lines("time,v", *days("%m/%d/%Y", date(2023, 5, 1), 12)))
    assert drafted(folder)["time"].type == "text"


def test_serial_days_beside_dates_are_dates(folder) -> None:
    book(folder.path / "a.xlsx", [["day", "n"], *([date(2024, 5, at), at] for at in range(1, 20))])
    book(folder.path / "b.xlsx", [["day", "n"], *([45_000 + at, at] for at in range(1, 20))])
    made = ig.assemble(ig.draft(folder.path))
    assert made.schema.field("day").type == "date32[day]" and made.table["day"].to_pylist()[19] == date(
        2023, 3, 16
    )
    book(folder.path / "b.xlsx", [["day", "n"], *([1_000 + at, at] for at in range(1, 20))])
    assert drafted(folder)["day"].type == "text"


@pytest.mark.parametrize(
    ("one", "other", "kind"),
    [("2024-05", "2023-11", "month"), ("05/2024", "2023-11", "month"), ("May 2024", "Oct 2024", "month"),
     ("2009-10", "2010-11", "text"), ("5/2024", "6/2024", "text"), ("2024-05", "2024-13", "text")],
)  # fmt: skip
def test_months(folder, one: str, other: str, kind: str) -> None:
    folder.write("a.csv", lines("month,v", *(f"{one},{at}\n{other},{at}" for at in range(30))))
    assert drafted(folder)["month"].type == kind


def test_times_have_one_spelling_with_seconds_where_any_source_has_them(folder, tmp_path) -> None:
    folder.write("a.csv", lines("time,v", "2024-05-01 12:30,1", "2024-05-01 12:40,2"))
    folder.write("b.csv", lines("time,v", "2024-05-02T12:30:05,1"))
    for given in ({}, {"columns": [ig.Column("time", "datetime")]}):
        ig.assemble(ig.draft(folder.path, **given), tmp_path / "o.csv")
        cells = [line.split(",")[2] for line in (tmp_path / "o.csv").read_text().splitlines()[1:]]
        assert {len(cell) for cell in cells} == {19}


# ---- names


def test_headers_with_serial_numbers_are_one_column_for_the_next_instrument_too(folder, tmp_path) -> None:
    for serial in (10_482, 10_577):
        folder.write(
            f"{serial}.csv", lines(f'#,"Temp, °C (S/N: {serial})"', *(f"{at},{at}.5" for at in range(9)))
        )
    path = ig.draft(folder.path).save(tmp_path / "p.toml")
    temp = ig.read_plan(path).columns[1]
    assert (temp.name, temp.also, temp.unit) == ("Temp, °C", ("Temp, °C (S/N: *)",), "°C")
    folder.write("3.csv", lines('#,"Temp, °C (S/N: 99999)"', "1,2.5"))
    made = ig.assemble(path)
    assert (made.rows, made.problems) == (19, ())


def test_values_that_are_alike_are_not_enough_to_be_sure(folder) -> None:
    for year, name in ((2021, "n_goats"), (2022, "n_sheep"), (2023, "household_size")):
        folder.write(f"{year}.csv", lines(f"key,{name}", *(f"k{at},{at % 9 + 1}" for at in range(40))))
    draft = ig.draft(folder.path)
    assert all(one.score < 0.9 for one in draft.guesses)
    assert draft.accept(0.9) == []


def test_columns_for_signs_never_clash(folder) -> None:
    for year, name in ((2021, "Lead (µg/L)"), (2022, "lead total"), (2023, "Lead (%)")):
        folder.write(
            f"{year}.csv", lines(f"id,{name}", *(f"{at},<0.0{at % 7 + 1}" for at in range(20)), "99,1.5")
        )
    columns = drafted(folder, accept=0.5)
    flags = [one.censored for one in columns.values() if one.censored]
    assert len(set(flags)) == len(flags) >= 2


def test_a_source_without_a_header_has_the_names_of_its_siblings(folder) -> None:
    rows = [f"2024-05-{at:02},{at % 7}.5,reed" for at in range(1, 25)]
    for year in (2021, 2022, 2023):
        text = lines("day,depth,habitat", *rows).replace("2024", str(year))
        folder.write(f"{year}.csv", text if year != 2022 else text.partition("\n")[2])
    draft = ig.draft(folder.path)
    made = ig.assemble(draft)
    assert made.schema.names[2:] == ["day", "depth", "habitat"] and made.table["depth"].null_count == 0
    assert [(one.code, one.severity) for one in draft.problems] == [("names-of-siblings", "note")]
    # of other kinds it has none of their names
    folder.write("2022.csv", lines(*(f"{at},reed,{at}" for at in range(24))))
    assert "column 1" in drafted(folder)


# ---- Python is the command line


def test_given_columns_are_filled_from_the_values(folder, integrum, tmp_path) -> None:
    folder.write(
        "a.csv",
        lines("day,site,v", *(f"{at + 12}/05/2024,s{at},{at}.5" for at in range(1, 12)), "13/05/2024,s,-999"),
    )
    folder.write("b.csv", lines("Day,site,v", *(f"05/{at + 12}/2023,s{at},<0.{at}" for at in range(1, 12))))
    whole = ig.draft(folder.path).plan.columns
    given = ig.draft(
        folder.path, columns=[ig.Column("day", "date"), ig.Column("site"), ig.Column("v", "number")]
    )
    assert given.plan.columns == whole
    assert given.plan.columns[0].date_order_in and given.plan.columns[2].missing == ("-999",)
    assert ig.draft(folder.path, columns="day, site, v").plan.columns == whole
    done = integrum("draft", folder.path, "--columns", "day,site,v", "--plan", "p.toml")
    assert done.returncode == 0, done.stderr
    assert ig.read_plan(tmp_path / "p.toml").columns == whole
    # what is given stays
    own = ig.Column("v", "number", missing=["n/a"], censored="sign")
    (kept,) = ig.draft(folder.path, columns=[own]).plan.columns
    assert (kept.missing, kept.censored) == (("n/a",), "sign")


def test_what_the_code_says_goes_before_a_kept_plan(folder, tmp_path) -> None:
    folder.write("a.csv", lines("site,ph,wind", "a,7.1,3", "b,7.2,4"))
    kept = tmp_path / "kept.toml"
    first = ig.draft(folder.path, columns=[ig.Column("site"), ig.Column("ph", "number")], keep=kept)
    assert first.new == ()
    text = kept.read_text()
    again = ig.draft(
        folder.path, columns=[ig.Column("ph", "text"), ig.Column("site"), "wind"], ids="{name}.csv", keep=kept
    )
    columns = {column.name: column.type for column in again.plan.columns}
    assert columns == {"ph": "text", "site": "text", "wind": "integer"}
    assert 'ph: type = "text", as the code says; kept.toml has "number"' in again.new
    assert "wind: a new column in the code; it is not in kept.toml" in again.new
    assert again.plan.sources[0].ids == "{name}.csv" and kept.read_text() == text
    gone = ig.draft(folder.path, columns=["site"], keep=kept)
    assert "ph: not a column in the code any more" in gone.new
    with pytest.raises(ig.PlanError, match=r"the code and kept[.]toml look at different places"):
        ig.draft(tmp_path, keep=kept)


# ---- facts from names


def test_a_list_of_schemes_and_any_text(folder) -> None:
    for name in ("amber_2023", "amber_2024", "2024-vessel", "final 2022 checked"):
        folder.write(f"{name}.csv", lines("v,n", f"{name},1", f"{name},2"))
    draft = ig.draft(folder.path, ids=["{lake}_{year}.csv", "{year}-{lake}.csv", "*{year}*.csv"])
    made = ig.assemble(draft)
    assert made.table["year"].to_pylist()[::2] == [2024, 2023, 2024, 2022]
    assert made.table["lake"].to_pylist()[::2] == ["vessel", "amber", "amber", None]
    with pytest.raises(ig.PlanError, match='"lake" right beside'):
        ig.Sources("in", ids="*{lake}*.csv")


def test_a_draft_says_which_names_do_not_fit_and_what_would(folder) -> None:
    for name in ("amber_2023", "quillon_tarn_2024", "vessel_2024", "notes"):
        folder.write(f"{name}.csv", lines("v", "1", "2"))
    text = str(ig.draft(folder.path, ids="{lake}_{year}.csv"))
    assert '2 of 4 names do not fit ids: "notes.csv" does not fit' in text
    assert '# ids = "{lake+}_{year}.csv" fits all but 1' in text
    text = str(ig.draft(folder.path))
    assert "3 of 4 names follow a pattern; not: notes.csv" in text


def test_captured_facts_have_the_marks_of_their_source(folder) -> None:
    for name, depth in (("a", "3,5"), ("b", "12,25")):
        folder.write(
            f"{name}.csv",
            lines(f"Depth: {depth}", "Begun: 14.05.2024", "day;v", "2024-05-01;1,5", "2024-05-02;2,5"),
        )
    layout = ig.Layout(
        header_row=3, delimiter=";", decimal_mark=",", capture={"depth": "Depth", "begun": "Begun"}
    )
    columns = [
        ig.Column("depth", "number"),
        ig.Column("begun", "date", date_order="dmy"),
        ig.Column("v", "number"),
    ]
    made = ig.assemble(ig.Plan([ig.Sources(str(folder.path), layout=layout)], columns))
    assert made.table["depth"].to_pylist()[::2] == [3.5, 12.25] and made.table["begun"][0].as_py() == date(
        2024, 5, 14
    )


# ---- wide


@pytest.mark.parametrize(
    ("headers", "setting", "names"),
    [
        (["Jan 2024", "Feb 2024", "Mar 2024"], '{ headers = "{month}", value = "value" }', ["month", "value"]),
        (["2024-Q1", "2024-Q2", "2024-Q3"], '{ headers = "{quarter}", value = "value" }', ["quarter", "value"]),
        (["2021", "2022", "2023"], '{ headers = "{year}", value = "value" }', ["year", "value"]),
        (["1 m", "5 m", "10 m"], '{ headers = "{depth} m", value = "value" }', ["depth", "value"]),
        (["temp 1 m", "temp 5 m", "oxygen 1 m", "oxygen 5 m"], '{ headers = "{measure} {depth} m", value = "{measure}" }',
         ["depth", "temp", "oxygen"]),
        (["rain_2021", "rain_2022", "sun_2021", "sun_2022"], '{ headers = "{measure}_{year}", value = "{measure}" }',
         ["year", "rain", "sun"]),
    ],
)  # fmt: skip
def test_a_proposal_for_wide_sources_works_as_it_stands(folder, tmp_path, headers, setting, names) -> None:
    folder.write(
        "a.csv",
        lines(",".join(["station", *headers]), *(f"s{at}" + ",1.5" * len(headers) for at in range(5))),
    )
    seen = ig.survey(folder.path)
    assert [one.code for one in seen.problems] == ["headers-are-values"]
    path = ig.draft(folder.path).save(tmp_path / "p.toml")
    text = path.read_text()
    assert f"# wide = {setting}" in text
    path.write_text(text.replace(f"# wide = {setting}", f"wide = {setting}"))
    made = ig.assemble(path)
    assert made.schema.names == ["source", "source_row", "station", *names]
    assert made.problems == () and made.schema.field(names[-1]).type == "double"


def test_the_last_lines_say_how_to_keep_what_a_run_decided(folder, tmp_path, integrum) -> None:
    folder.write("a.csv", lines("day,v", *days("%d/%m/%Y", date(2024, 5, 1), 30)))
    done = integrum("assemble", folder.path, "--to", "out.csv")
    assert done.stdout.splitlines()[-2:] == [
        "keep: this run drafted its plan, out-record/plan.toml; to keep its decisions for the next run:",
        "      integrum draft out.csv --plan out.toml",
    ]
    before = (tmp_path / "out.csv").read_bytes()
    folder.write("a.csv", (Path(folder.path) / "a.csv").read_text() + "2/6/2024,9\n")
    done = integrum("draft", "out.csv", "--plan", "out.toml")
    assert done.returncode == 0, done.stderr
    plan = ig.read_plan(tmp_path / "out.toml")
    assert (
        plan.columns[0].date_order == "dmy"
        and "# dates are day-month-year" in (tmp_path / "out.toml").read_text()
    )
    made = ig.assemble(tmp_path / "out.toml", tmp_path / "out.csv")
    assert made.status == 0 and (tmp_path / "out.csv").read_bytes().startswith(before)
    assert "keep:" not in integrum("assemble", "out.toml", "--to", "out.csv").stdout


def test_a_folder_with_one_other_suffix_only(folder) -> None:
    folder.write("a.dat", lines("day,v", "2024-05-01,1", "2024-05-02,2", "2024-05-03,2"))
    folder.write("notes.txt", "the logger was changed in May\n")
    draft = ig.draft(folder.path)
    assert draft.plan.sources[0].find[0].endswith("/**/*.dat") and ig.assemble(draft).rows == 3
    folder.write("b.csv", lines("day,v", "2024-05-01,1"))
    assert ig.assemble(folder.path).rows == 1


# ---- folders as people have them, of subjects and seeds that nobody tuned on


def test_drafts_of_made_up_desks_need_hardly_any_edit() -> None:
    counts = figures(range(910_000, 910_002), UNTUNED)
    said = dict(counts)
    assert counts["silent"] == counts["failed"] == 0, said
    assert counts["without edits"] >= 0.95 * counts["folders"], said
    assert counts["edits"] <= 0.1 * counts["folders"], said
    assert counts["types right"] >= 0.99 * counts["types"], said
    assert counts["innocent, warned of"] <= 0.02 * counts["innocent"], said


def test_a_guess_is_offered_whatever_spelling_of_the_column_comes_first(folder) -> None:
    """The first files write it otherwise than most; the column has the most frequent name, and so has the guess."""
    rows = "".join(f"2024-05-{day:02},{7 + day / 4}\n" for day in range(1, 20))
    folder.write("a.csv", f"day,Water Temp\n{rows}")
    for name in "bcd":
        folder.write(f"{name}.csv", f"day,water_temp\n{rows.replace('-05-', f'-0{ord(name) - 92}-')}")
    folder.write("e.csv", f"day,water_temperature\n{rows.replace('-05-', '-11-')}")
    draft = ig.draft(folder.path)
    assert [(one.column, one.header) for one in draft.guesses] == [("water_temp", "water_temperature")]
    draft.accept(0.5)
    assert [column.name for column in draft.plan.columns] == ["day", "water_temp"]
    assert draft.plan.columns[1].headers == ("water_temp", "Water Temp", "water_temperature")
