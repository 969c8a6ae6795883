"""Values as people write them: what is read, what it becomes, and what is never guessed."""

from __future__ import annotations

import json
from datetime import date, datetime, time, timedelta

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import integrum as ig
from integrum.plan.decisions import accept_guess
from integrum.plan.from_toml import parse_plan
from integrum.values.arrays import texts
from integrum.values.notation import PLAIN, Conversion, Notation
from integrum.values.pipeline import convert
from integrum.values.units import same_unit
from integrum.values.written.absent import _MONTHS, MONTHS, plain
from value_figures import measure, table
from written_tables import TUNED, UNSEEN

UNTUNED = range(700_000, 700_030)


def read(said: list[str], type_name: str, notation: Notation = PLAIN, **more: object) -> list[str | None]:
    return convert(texts(said), Conversion(type_name, notation=notation, **more)).text.to_pylist()


def one_column(folder, column: ig.Column, *cells: str, **more: object) -> ig.Outcome:
    folder.write("a.csv", "x\n" + "".join(f"{cell}\n" for cell in cells))
    return ig.assemble(ig.Plan([ig.Sources(str(folder.path))], [column], **more))


NUMBERS = st.floats(-1e9, 1e9).map(lambda value: round(value, 3)) | st.integers(-(10**12), 10**12)
MOMENTS = st.datetimes(datetime(1969, 1, 1), datetime(2068, 12, 31)).map(
    lambda each: each.replace(microsecond=0)
)


def grouped(value: float, mark: str, point: str) -> str:
    return f"{value:,}".replace(",", "\0").replace(".", point).replace("\0", mark)


@settings(max_examples=300, deadline=None)
@given(
    st.lists(NUMBERS, min_size=1, max_size=5), st.sampled_from([" ", "\u00a0", "\u2009", "\u202f", "'", "’"])
)
def test_numbers_read_back_however_they_are_written(values: list[float], mark: str) -> None:
    texts_of = [repr(value) for value in values]
    wanted = [float(text) for text in texts_of]

    def same(said: list[str], notation: Notation = PLAIN, **more: object) -> bool:
        return [float(text or "nan") for text in read(said, "number", notation, **more)] == wanted

    assert same([grouped(value, mark, ".") for value in values])
    assert same(
        [grouped(value, ".", ",") for value in values], Notation(decimal_mark=",", thousands_mark=".")
    )
    assert same([grouped(value, ",", ".") for value in values], Notation(thousands_mark=","))
    assert same([text.replace("-", "−") for text in texts_of])
    assert same([f"({text[1:]})" if text.startswith("-") else f"+{text}" for text in texts_of])
    assert same([f"{text[1:]}-" if text.startswith("-") else f" {text} " for text in texts_of])
    assert same([f"{text} mg.l-1" for text in texts_of], Notation(unit="mg.l-1"))
    assert same([f"€ {text}" for text in texts_of], Notation(unit="EUR"))
    assert same([f"{text}x10^0" for text in texts_of])
    wide = str.maketrans("0123456789.", "０１２３４５６７８９．")
    assert same([text.translate(wide) for text in texts_of])


@settings(max_examples=150, deadline=None)
@given(st.lists(MOMENTS, min_size=1, max_size=5), st.sampled_from(["dmy", "mdy"]), st.sampled_from("/-."))
def test_dates_and_times_read_back_however_they_are_written(
    moments: list[datetime], order: str, mark: str
) -> None:
    notation = Notation(date_order=order)
    minutes = [each.isoformat(" ", "minutes") for each in moments]
    seconds = [each.isoformat(" ", "seconds") for each in moments]
    days = [each.date().isoformat() for each in moments]
    for day, month in (("%d", "%m"), ("%-d", "%-m")):
        ordered = mark.join([day, month] if order == "dmy" else [month, day])
        for year in ("%Y", "%y"):
            form = f"{ordered}{mark}{year}"
            assert read([each.strftime(form) for each in moments], "date", notation) == days
            assert read([each.strftime(f"{form} %H:%M") for each in moments], "datetime", notation) == minutes
            assert (
                read([each.strftime(f"{form}, %-H:%M:%S") for each in moments], "datetime", notation)
                == seconds
            )
            assert (
                read([each.strftime(f"{form} %I:%M %p") for each in moments], "datetime", notation) == minutes
            )
            given_form = Notation(format=(f"{form} %H:%M:%S".replace("%-", "%"),))
            padded = [each.strftime(f"{form} %H:%M:%S") for each in moments]
            assert read(padded, "datetime", given_form) == seconds
    for words in _MONTHS.values():
        names = words.split()
        if "-" not in names:
            assert (
                read([f"{each.day} {names[each.month - 1]} {each.year}" for each in moments], "date") == days
            )
    assert (
        read(
            [each.strftime("%Y%m%d %H%M%S") for each in moments],
            "datetime",
            Notation(format=("%Y%m%d %H%M%S",)),
        )
        == seconds
    )
    assert read(
        [each.isoformat("T", "seconds") + "Z" for each in moments],
        "datetime",
        Notation(zoned=True),
        zone="UTC",
    ) == [f"{said}Z" for said in seconds]
    ago = [f"{(each - timedelta(hours=5, minutes=30)).isoformat()}-05:30" for each in moments]
    assert read(ago, "datetime", Notation(zoned=True), zone="UTC") == [f"{said}Z" for said in seconds]
    clocks = [each.strftime("%-I:%M:%S %p") for each in moments]
    assert read(clocks, "time") == [each.time().isoformat() for each in moments]
    epoch = [str(int((each - datetime(1970, 1, 1)).total_seconds())) for each in moments]
    assert read(epoch, "datetime", Notation(format=("epoch-seconds",))) == seconds


def test_what_may_be_two_things_is_not_read() -> None:
    assert (
        read(["1,23", "0,123", "1 23", "12 34", "1.2.3", "1/2", "3-5", "0x10", "1_0", "five"], "number")
        == [None] * 10
    )
    assert read(["0,123", "1,23"], "number", Notation(thousands_mark=",")) == [None, None]
    assert read(["12 mg/L", "5 %", "1,234", "<0.05", "n.d."], "number") == [None] * 5
    assert read(["$ 3", "1,234.5", "1,000,000", "2 EUR"], "number") == ["3", "1234.5", "1000000", "2"]
    assert read(["12 mg/L", "12 g/L"], "number", Notation(unit="mg/L")) == ["12", None]
    assert read(["01/05/2024", "1.5.24", "2024-13-01", "31.02.2024"], "date") == [None] * 4
    assert read(["31.02.2024", "01/13/2024", "29.02.2023"], "date", Notation(date_order="dmy")) == [None] * 3
    assert read(["2024-05-01 12:30Z", "12:30", "24:30"], "datetime") == [None] * 3
    assert read(["PT3H", "3 h", "25:00", "12:60"], "time") == [None] * 4
    assert read(["maybe", "J/N", "", "2"], "boolean") == [None] * 4
    assert read(["2024-13", "5/2024", "May 24", "2024"], "month") == [None] * 4
    assert read(["2024-05", "05/2024", "May 2024"], "month") == ["2024-05"] * 3


def test_no_word_for_a_month_means_two() -> None:
    said: dict[str, int] = {}
    for words in _MONTHS.values():
        for number, word in enumerate(words.split(), 1):
            if word != "-":
                assert said.setdefault(plain(word), number) == number, word
    assert said == MONTHS


def test_the_ends_of_the_day_and_of_february() -> None:
    assert read(["2024-02-28 24:00", "2023-12-31T24:00:00"], "datetime") == [
        "2024-02-29 00:00",
        "2024-01-01 00:00:00",
    ]
    assert read(["2024-02-29", "2023-02-29"], "date") == ["2024-02-29", None]
    assert read(["9999-12-31 24:00"], "datetime") == [None]
    # a leap second is no time of a table: it is kept in the record, and not moved
    assert read(["2016-12-31 23:59:60"], "datetime") == [None]
    # 02:30 is there twice on one night of Berlin, and not at all on another
    night = ["2024-10-27 02:30", "2024-03-31 02:30", "2024-10-27 02:30+02:00", "2024-07-01 12:00"]
    assert read(night, "datetime", Notation(zoned=True), zone="Europe/Berlin") == [
        None,
        None,
        "2024-10-27 02:30+02:00",
        "2024-07-01 12:00+02:00",
    ]


@pytest.mark.parametrize(
    ("one", "other", "same"),
    [
        ("ug/l", "µg/L", True), ("mg.l-1", "mg/L", True), ("mg L⁻¹", "mg per litre", True), ("deg C", "°C", True),
        ("ntu", "NTU", True), ("ph", "pH", True), ("‰", "permille", True), ("m3 s-1", "m³/s", True), ("$", "USD", True),
        ("mS/cm", "ms/cm", False), ("Mg", "mg", False), ("mg N/L", "mg/L", False), ("m", "min", False),
    ],
)  # fmt: skip
def test_spellings_of_units(one: str, other: str, same: bool) -> None:
    assert same_unit(one, other) is same


def test_a_date_and_a_time_in_two_columns(folder) -> None:
    folder.write("a.csv", "Date,Time,x\n2024-05-01,12:30,1\n2024-05-02,,2\n,,3\n")
    folder.write("b.csv", "when,x\n2024-06-01 08:00,4\n")
    column = ig.Column("when", "datetime", from_=["Date", "Time"])
    outcome = ig.assemble(ig.Plan([ig.Sources(str(folder.path))], [column, ig.Column("x", "integer")]))
    assert outcome.table["when"].to_pylist() == [
        datetime(2024, 5, 1, 12, 30), None, None, datetime(2024, 6, 1, 8, 0),
    ]  # fmt: skip
    (problem,) = outcome.problems
    assert (problem.code, problem.row, problem.raw) == ("bad-value", 3, "2024-05-02")
    assert "a part of it is missing" in problem.message
    # where one of the two is not there, the column is not, and the other is said to belong to nothing
    folder.write("c.csv", "Date,x\n2024-07-01,5\n")
    again = ig.assemble(ig.Plan([ig.Sources(str(folder.path))], [column, ig.Column("x", "integer")]))
    assert [one.code for one in again.problems if one.source == "c.csv"] == ["unlisted-header"]


def test_censored_values_give_a_number_and_a_sign(folder) -> None:
    column = ig.Column("x", "number", censored="x_sign", unit="mg/L")
    outcome = one_column(folder, column, "<0.05", "7.20", "≥ 2400 mg/L", "n.d.", "<LOD", "less")
    assert outcome.table["x"].to_pylist() == [0.05, 7.2, 2400.0, None, None, None]
    assert outcome.table["x_sign"].to_pylist() == ["<", None, ">=", "n.d.", "<LOD", None]
    assert [one.raw for one in outcome.problems] == ["less"]
    drafted = ig.draft(folder.path).plan.columns[0]
    assert (drafted.type, drafted.censored) == ("text", "")  # for the word that is none


def test_zones_and_offsets(folder) -> None:
    cells = ("2024-05-01T12:30+02:00", "2024-05-01T12:30Z", "2024-05-01 12:30")
    utc = one_column(folder, ig.Column("x", "datetime", zone="UTC"), *cells)
    assert str(utc.table.schema.field("x").type) == "timestamp[us, tz=UTC]"
    assert [each.isoformat() for each in utc.table["x"].to_pylist()] == [
        "2024-05-01T10:30:00+00:00", "2024-05-01T12:30:00+00:00", "2024-05-01T12:30:00+00:00",
    ]  # fmt: skip
    local = one_column(folder, ig.Column("x", "datetime", zone="as-written", offset="off"), *cells)
    assert local.table["x"].to_pylist() == [datetime(2024, 5, 1, 12, 30)] * 3
    assert local.table["off"].to_pylist() == ["+02:00", "+00:00", None]
    out = folder.path.parent / "o.csv"
    ig.assemble(ig.Plan([ig.Sources(str(folder.path))], [ig.Column("x", "datetime", zone="UTC")]), to=out)
    assert out.read_text().splitlines()[1] == "a.csv,2,2024-05-01 10:30Z"
    bare = one_column(folder, ig.Column("x", "datetime"), *cells)
    assert 'zone = "UTC"' in bare.problems[0].hint


@pytest.mark.parametrize("suffix", ["csv", "parquet", "xlsx"])
def test_times_of_a_day_and_spellings_in_every_output(folder, suffix: str) -> None:
    folder.write("a.csv", "at,clock\n2024-05-01T12:30,9:05\n2024-05-01 12:30:05,12:30:00\n")
    columns = [
        ig.Column("at", "datetime", spelling="%Y-%m-%d %H:%M:%S"),
        ig.Column("clock", "time", spelling="%H:%M"),
    ]
    plan = ig.Plan([ig.Sources(str(folder.path))], columns)
    outcome = ig.assemble(plan, to=folder.path.parent / f"o.{suffix}")
    assert outcome.table["clock"].to_pylist() == [time(9, 5), time(12, 30)]
    assert outcome.table["at"].to_pylist() == [datetime(2024, 5, 1, 12, 30), datetime(2024, 5, 1, 12, 30, 5)]
    if suffix == "csv":
        assert outcome.output.read_text().splitlines()[1:] == [
            "a.csv,2,2024-05-01 12:30:00,09:05", "a.csv,3,2024-05-01 12:30:05,12:30",
        ]  # fmt: skip


def test_a_value_finer_than_the_spelling_is_not_cut(folder) -> None:
    outcome = one_column(folder, ig.Column("x", "datetime", spelling="%Y-%m-%d %H:%M"), "2024-05-01 12:30:05")
    assert [(one.code, one.raw) for one in outcome.problems] == [("bad-value", "2024-05-01 12:30:05")]
    assert "finer than the spelling" in outcome.problems[0].message


def test_percent_allowed_and_numbers_of_days(folder) -> None:
    share = one_column(folder, ig.Column("x", "number", percent="share"), "45 %", "7.5%", "0.3")
    assert share.table["x"].to_pylist() == [0.45, 0.075, 0.3]
    assert one_column(folder, ig.Column("x", "number", unit="%"), "45 %").table["x"].to_pylist() == [45.0]
    asked = one_column(folder, ig.Column("x", "number"), "45 %")
    assert "percent" in asked.problems[0].hint
    some = one_column(folder, ig.Column("x", allowed=["reed", "shore"], case="lower"), "Reed", "sand")
    assert some.table["x"].to_pylist() == ["reed", None]
    assert "not one of the allowed values" in some.problems[0].message
    days = one_column(folder, ig.Column("x", "date", format="serial-days"), "45413", "45413.5", "59")
    assert days.table["x"].to_pylist() == [date(2024, 5, 1), None, None]


def test_bad_values_by_column_and_the_share_that_is_too_much(folder) -> None:
    folder.write("a.csv", "x,y\n1,a\n2,3\nq,4\n")
    folder.write("b.csv", "x,y\n" + "5,6\n" * 8 + "5,u\n5,v\n5,w\n")
    columns = [
        ig.Column("x", "integer", bad_values="set-row-aside"),
        ig.Column("y", "integer", bad_share=0.25),
    ]
    outcome = ig.assemble(ig.Plan([ig.Sources(str(folder.path))], columns))
    assert outcome.table["x"].to_pylist() == [1, 2] + [5] * 11
    assert [(one.source, one.row) for one in outcome.set_aside if one.column == "x"] == [("a.csv", 4)]
    said = {(one.source, one.code): one for one in outcome.problems}
    assert said["b.csv", "bad-share"].severity == "error"
    assert "27% of its 11 values cannot be read" in said["b.csv", "bad-share"].message
    assert ("a.csv", "bad-share") in said  # one of three is more than a quarter
    assert ("b.csv", "bad-value") not in said
    assert sum(one.column == "y" for one in outcome.set_aside if one.source == "b.csv") == 3
    aside = ig.assemble(
        ig.Plan([ig.Sources(str(folder.path), bad_values="set-source-aside")], [ig.Column("y", "integer")])
    )
    assert [one.reason for one in aside.sources] == ["bad-value", "bad-value"]


def test_a_function_of_ones_own(folder, integrum, tmp_path) -> None:
    met: list[str] = []

    def depth(text: str) -> str | None:
        met.append(text)
        return None if text == "dry" else str(int(text.removesuffix("ft")) * 12)

    outcome = one_column(folder, ig.Column("x", "integer", read=depth), "3ft", "3ft", "dry", "deep")
    assert outcome.table["x"].to_pylist() == [36, 36, None, None]
    assert sorted(met) == ["3ft", "deep", "dry"]
    assert "ValueError" in outcome.problems[0].message
    (tmp_path / "steps.py").write_text("def depth(text):\n    return text.replace('ft', '')\n")
    (tmp_path / "plan.toml").write_text(
        'integrum = 1\n[[sources]]\nfind = ["in"]\n[[columns]]\nname = "x"\ntype = "integer"\nread = "steps.py:depth"\n'
    )
    refused = integrum("assemble", "plan.toml", "--to", "o.csv")
    assert refused.returncode == 2
    assert "--allow-code" in refused.stderr
    assert (
        integrum("assemble", "plan.toml", "--to", "o.csv", "--allow-code").returncode == 1
    )  # two bad values
    assert (tmp_path / "o.csv").read_text().splitlines()[1] == "a.csv,2,3"
    run = json.loads((tmp_path / "o-record" / "run.json").read_text())
    assert run["code"][0]["function"] == "../steps.py:depth"
    assert len(run["code"][0]["blake3"]) == 64
    assert 'read = "../steps.py:depth"' in (tmp_path / "o-record" / "plan.toml").read_text()
    (tmp_path / "plan.toml").write_text((tmp_path / "plan.toml").read_text().replace(":depth", ":dept"))
    absent = integrum("assemble", "plan.toml", "--to", "o.csv", "--allow-code")
    assert "has no function dept" in absent.stderr


def test_units_by_the_name_of_the_header_and_in_the_codebook(folder, tmp_path) -> None:
    folder.write("a.csv", "level\n1.5\n")
    folder.write("b.csv", "level_cm\n210\n33.3\n")
    folder.write("c.csv", "level_max\n9\n")
    column = ig.Column("level", "number", unit="m", also=["level_cm", "level_max"])
    outcome = ig.assemble(ig.Plan([ig.Sources(str(folder.path))], [column]), to=tmp_path / "o.csv")
    assert outcome.table["level"].to_pylist() == [1.5, 2.1, 0.333, 9.0]
    record = ig.read_record(tmp_path / "o.csv")
    entry = next(one for one in record.columns if one.column == "level")
    assert entry.converted == {"cm": 1}
    said = [(one.source, one.least, one.greatest, one.converted_from) for one in record.values]
    assert said[:2] == [("a.csv", "1.5", "1.5", ""), ("b.csv", "0.333", "2.1", "cm")]


def test_whole_numbers_in_several_units_are_numbers(folder) -> None:
    folder.write("a.csv", "temp\n°C\n7\n8\n")
    folder.write("b.csv", "temp\n°F\n45\n46\n")
    outcome = ig.assemble(ig.draft(folder.path))
    assert outcome.table["temp"].to_pylist() == [7.0, 8.0, 7.2222222222, 7.7777777778]
    columns = [ig.Column("temp", "integer", unit="°C", maybe=["T"]), ig.Column("T", "integer", unit="°F")]
    decided = accept_guess(ig.Plan([ig.Sources("x")], columns), "temp", "T").columns[0]
    assert (decided.type, decided.unit) == ("number", "°C")


def test_a_source_whose_values_lie_apart_is_named(folder) -> None:
    for number in range(5):
        rows = "".join(f"{2 + number / 10 + at / 7:.2f}\n" for at in range(12))
        folder.write(f"{number}.csv", "depth\n" + rows)
    folder.write("odd.csv", "depth\n" + "".join(f"{200 + at * 14}\n" for at in range(12)))
    for said in (ig.survey(folder.path).problems, ig.assemble(folder.path).problems):
        (problem,) = [one for one in said if one.code == "range-apart"]
        assert (problem.source, problem.column) == ("odd.csv", "depth")
        assert "200 to 354, median 277; in the others 2 to 3.97" in problem.message


def test_a_missing_code_is_written_and_counted(folder, tmp_path) -> None:
    folder.write("a.csv", "x,y,habitat\n" + "7.2,5,reed\n" * 20 + "-999,n/a,NA\n-999,6,reed\n")
    draft = ig.draft(folder.path)
    assert [(one.type, list(one.missing)) for one in draft.plan.columns] == [
        ("number", ["-999"]), ("integer", ["n/a"]), ("text", []),
    ]  # fmt: skip
    assert 'missing code: "-999" (2, first in a.csv, row 22)' in str(draft)
    ig.assemble(draft, to=tmp_path / "o.csv")
    record = ig.read_record(tmp_path / "o.csv")
    assert {one.column: one.missing for one in record.columns}["x"] == {"-999": 2}


@pytest.mark.parametrize(
    ("cells", "type_name", "missing"),
    [
        (["-999"], "integer", []),  # the only value there is
        (["5", "-9"], "integer", []),
        (["120", "999", "130"], "integer", []),  # once, and not far away
        (["-5.2", "-999.9", "3.1", "-999.9"], "number", ["-999.9"]),
        (["1", "2", "none at all"], "text", []),
        (["1", "none"], "integer", ["none"]),
        (["-", "-"], "text", []),
        (["2024-05-01", "n/a"], "date", ["n/a"]),
        (["12:30", "--"], "time", ["--"]),
        (["yes", "no", "?"], "boolean", ["?"]),
        (["yes", "no", "perhaps"], "text", []),
        (["N", "S", "N"], "text", []),  # points of the compass
        (["0", "1", "1"], "integer", []),
        (["7,5", "5.1"], "text", []),
        (["3 mg/L", "4 g/L"], "text", []),
        (["+49 30 1234", "+49 30 9876"], "text", []),
        (["1.2.3", "1.2.4"], "text", []),
        (["1e3", "2.5"], "number", []),
    ],
)
def test_what_a_draft_decides(folder, cells: list[str], type_name: str, missing: list[str]) -> None:
    folder.write("a.csv", "n,x\n" + "".join(f'{at},"{cell}"\n' for at, cell in enumerate(cells)))
    column = ig.draft(folder.path).plan.columns[1]
    assert (column.type, list(column.missing)) == (type_name, missing)


def test_the_order_of_day_and_month_is_never_guessed(folder) -> None:
    folder.write("a.csv", "day\n25/06/2024\n01/07/2024\n")
    assert (ig.draft(folder.path).plan.columns[0].type, ig.draft(folder.path).plan.columns[0].date_order) == (
        "date",
        "dmy",
    )
    folder.write("b.csv", "day\n05/06/2024\n01/07/2024\n")
    draft = ig.draft(folder.path)  # like the other source, which shows it
    assert (draft.plan.columns[0].type, draft.plan.columns[0].date_order) == ("date", "dmy")
    assert "the dates in 1 source could be read in two ways" in str(draft)
    folder.write("a.csv", "day\n05/06/2024\n01/07/2024\n")
    folder.write("b.csv", "day\n06/06/2024\n01/07/2024\n")
    draft = ig.draft(folder.path)
    assert (draft.plan.columns[0].type, draft.plan.columns[0].date_order) == ("text", "")
    assert 'every date in 2 sources could be day-month and month-day, such as "05/06/2024"' in str(draft)
    assert [one.code for one in ig.assemble(draft).problems] == ["drafted-as-text"]
    known = ig.Column("day", "date")
    told = ig.assemble(ig.Plan([ig.Sources(str(folder.path), date_order="dmy")], [known]))
    assert told.table["day"].to_pylist()[2] == date(2024, 6, 6)


def test_spellings_of_a_category_are_offered(folder, tmp_path) -> None:
    folder.write("a.csv", "habitat,n\n" + "Reed bed,1\nOpen water,2\n" * 6 + "reed bed,3\nOpen wather,4\n")
    draft = ig.draft(folder.path)
    assert [(one.value, one.other) for one in draft.value_guesses] == [
        ("reed bed", "Reed bed"), ("Open wather", "Open water"),
    ]  # fmt: skip
    assert ig.assemble(draft).table["habitat"].to_pylist()[-2:] == ["reed bed", "Open wather"]
    draft.value_guesses[1].accept()
    draft.value_guesses[0].refuse()
    assert not draft.value_guesses
    path = draft.save(tmp_path / "plan.toml")
    assert ig.read_plan(path).columns[0].values == {"Open wather": "Open water", "reed bed": "reed bed"}
    assert ig.assemble(path).table["habitat"].to_pylist()[-1] == "Open water"


@pytest.mark.parametrize(
    ("key", "message"),
    [
        ('date_order = "ddm"', "expected one of dmy, mdy, ymd"),
        ('format = ["%d.%Q"]', '"%Q" is not known'),
        ('zone = "Lakeland"', "is not a time zone"),
        ('offset = "off"', 'needs zone = "as-written"'),
        ('percent = "share"', "only for numbers"),
        ('read = "steps"', 'such as "steps.py:depth"'),
        ("bad_share = 2", "expected a number from 0 to 1"),
        ('from = ["Date"]', "expected several headers"),
        ('bad_values = "drop"', "expected one of blank"),
        ('spelling = "%H"', "expected one of %Y-%m-%d %H:%M"),
    ],
)
def test_what_is_wrong_in_a_plan_is_said(key: str, message: str) -> None:
    text = f'integrum = 1\n[[sources]]\nfind = ["in"]\n[[columns]]\nname = "x"\ntype = "datetime"\n{key}\n'
    with pytest.raises(ig.PlanError) as caught:
        parse_plan(text)
    assert message in str(caught.value)
    assert 'columns[1] "x"' in str(caught.value)


def test_made_up_tables_are_decided_rightly() -> None:
    tuned, untuned = measure(UNTUNED, TUNED), measure(UNTUNED, (UNSEEN,))
    both = tuned + untuned
    said = table(tuned, untuned)
    assert both["orders wrong"] == 0, said
    assert both["types right"] >= 0.99 * both["types"], said
    assert both["codes right"] >= 0.95 * both["codes"], said
    assert both["codes too many"] <= 0.01 * both["types"], said
    assert both["units right"] >= 0.98 * both["units"], said


def test_the_pairs_of_words_for_true_and_false(folder) -> None:
    for yes, no in (("ja", "nein"), ("oui", "non"), ("tak", "nie"), ("Sim", "Não")):
        folder.write("a.csv", f"x\n{yes}\n{no}\n{yes}\n")
        outcome = ig.assemble(folder.path)
        assert outcome.table["x"].to_pylist() == [True, False, True]
