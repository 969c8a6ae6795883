"""Values: canonical text passes as written, the rest is brought to it or set aside with its place."""

import datetime as dt

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import integrum as ig
from integrum.values.arrays import texts
from integrum.values.checking import checked
from integrum.values.notation import Conversion, Notation
from integrum.values.pipeline import convert
from integrum.values.types import TYPES


def one_column(folder, texts: list[str], type_name: str, rule: str = "blank", **column: object) -> ig.Outcome:
    folder.write("a.csv", "n,x\n" + "".join(f'{at},"{text}"\n' for at, text in enumerate(texts)))
    plan = ig.Plan(
        [ig.Sources(str(folder.path))],
        [ig.Column("n", "integer"), ig.Column("x", type_name, **column)],
        rules=ig.Rules(bad_values=rule),
    )
    return ig.assemble(plan, to=folder.path.parent / "o.csv")


@pytest.mark.parametrize(
    ("type_name", "text", "written", "value"),
    [
        ("number", "7.20", "7.20", 7.2),
        ("number", "-0.50", "-0.50", -0.5),
        ("number", "1E+5", "1E+5", 1e5),
        ("number", " 7.2 ", "7.2", 7.2),
        ("number", "+7.2", "7.2", 7.2),
        ("number", "007.2", "7.2", 7.2),
        ("number", ".5", "0.5", 0.5),
        ("number", "5.", "5", 5.0),
        ("number", "1,5", None, None),
        ("number", "NaN", None, None),
        ("number", "inf", None, None),
        ("number", "1e999", None, None),
        ("number", "0x1F", None, None),
        ("number", "<0.05", None, None),
        ("integer", "42", "42", 42),
        ("integer", "+042", "42", 42),
        ("integer", "3.0", "3", 3),
        ("integer", "3.5", None, None),
        ("integer", "0x1F", None, None),
        ("integer", "123456789012345678", "123456789012345678", 123456789012345678),
        ("integer", "99999999999999999999", None, None),
        ("boolean", "true", "true", True),
        ("boolean", "No", "false", False),
        ("boolean", "maybe", None, None),
        ("date", "2024-02-29", "2024-02-29", dt.date(2024, 2, 29)),
        ("date", "2024-02-29 00:00:00", "2024-02-29", dt.date(2024, 2, 29)),
        ("date", "2023-02-29", None, None),
        ("date", "29.02.2024", None, None),
        ("datetime", "2024-05-01 12:30", "2024-05-01 12:30", dt.datetime(2024, 5, 1, 12, 30)),
        (
            "datetime",
            "2024-05-01T12:30:05.5",
            "2024-05-01T12:30:05.5",
            dt.datetime(2024, 5, 1, 12, 30, 5, 500000),
        ),
        (
            "datetime",
            "2024-05-01 12:30:05.0000000",
            "2024-05-01 12:30:05.000000",
            dt.datetime(2024, 5, 1, 12, 30, 5),
        ),
        ("datetime", "2024-05-01", "2024-05-01 00:00", dt.datetime(2024, 5, 1)),
        ("text", "#DIV/0!", None, None),
        ("text", "#7", "#7", "#7"),
        ("datetime", "2024-05-01 25:00", None, None),
        ("text", " 007 ", " 007 ", " 007 "),
    ],
)
def test_one_value(folder, type_name: str, text: str, written: str | None, value: object) -> None:
    outcome = one_column(folder, [text], type_name)
    shown = "" if written is None else written
    assert outcome.output.read_text() == f"source,source_row,n,x\na.csv,2,0,{shown}\n"
    assert ig.assemble(outcome.plan).table["x"].to_pylist() == [value]
    bad = [(one.code, one.row, one.column, one.raw) for one in outcome.problems]
    assert bad == ([("bad-value", 2, "x", text)] if value is None else [])


def test_bad_cells_among_many_good_ones_are_found_and_the_good_untouched(folder) -> None:
    texts = [f"{number / 100:.2f}" for number in range(5_000)]
    texts[70], texts[4_000], texts[4_001] = "n/a", " 1.10", "n/a"
    outcome = one_column(folder, texts, "number")
    texts[70], texts[4_000], texts[4_001] = "", "1.10", ""
    lines = outcome.output.read_text().splitlines()[1:]
    assert [line.split(",")[3] for line in lines] == texts
    (problem,) = outcome.problems
    assert (problem.row, problem.count, problem.raw) == (72, 2, "n/a")
    aside = (outcome.record / "set-aside.csv").read_text().splitlines()
    assert aside == [
        "source,sheet,row,column,code,raw",
        "a.csv,,72,x,bad-value,n/a",
        "a.csv,,4003,x,bad-value,n/a",
    ]


def test_missing_texts_are_empty_without_a_problem(folder) -> None:
    outcome = one_column(folder, ["-999", "1", "n/a"], "number", missing=["-999", "n/a"])
    assert ig.assemble(outcome.plan).table["x"].to_pylist() == [None, 1.0, None]
    assert outcome.problems == ()


def test_a_row_with_a_bad_value_can_be_set_aside_with_its_raw_text(folder) -> None:
    outcome = one_column(folder, ["1", 'b ""q""', "3"], "number", "set-row-aside")
    table = ig.assemble(outcome.plan).table
    assert table["source_row"].to_pylist() == [2, 4]
    assert outcome.sources[0].ledger.set_aside == 1
    aside = ig.assemble(outcome.plan).set_aside
    assert [(one.row, one.column, one.raw) for one in aside] == [(3, "x", '1,"b ""q"""')]


def test_many_rows_with_bad_values_keep_their_raw_text(folder) -> None:
    folder.write(
        "a.csv", "n,x\n" + "".join(f'{at},"bad {at}"\n' if at % 2 else f"{at},1\n" for at in range(60_000))
    )
    plan = ig.Plan(
        [ig.Sources(str(folder.path))],
        [ig.Column("n", "integer"), ig.Column("x", "number")],
        rules=ig.Rules(bad_values="set-row-aside"),
    )
    outcome = ig.assemble(plan)
    assert (outcome.rows, len(outcome.set_aside)) == (30_000, 30_000)
    assert outcome.set_aside[-1].raw == '59999,"bad 59999"'


def test_a_source_with_a_bad_value_can_be_set_aside(folder) -> None:
    folder.write("b.csv", "n,x\n1,2\n")
    outcome = one_column(folder, ["1", "bad", "worse"], "number", "set-source-aside")
    assert [account.reason for account in outcome.sources] == ["bad-value", ""]
    assert outcome.rows == 1
    assert (outcome.problems[0].row, outcome.problems[0].raw) == (3, "bad")
    assert "2 values not of the type" in outcome.problems[0].message


@pytest.mark.parametrize(
    ("texts", "type_name"),
    [
        (["1", "2"], "integer"),
        (["1", "2.5"], "number"),
        (["007", "008"], "text"),
        (["True", "FALSE"], "boolean"),
        (["2024-01-01"], "date"),
        (["2024-01-01 10:00", "2024-01-01T10:00:01"], "datetime"),
        (["2024-01-01", "2024-01-01 10:00"], "datetime"),
        (["1", " 2 ", "#N/A"], "integer"),
        (["#N/A", "#REF!"], "text"),
        (["2024-01-01", "2024-02-30"], "text"),
        (["12345678901234567890123"], "text"),
        (["", " "], "text"),
        (["1", "", " "], "integer"),
        (["1", "n/a"], "integer"),
        (["1", "ice"], "text"),
    ],
)
def test_the_drafted_type(folder, texts: list[str], type_name: str) -> None:
    folder.write("a.csv", "n,x\n" + "".join(f"{at},{text}\n" for at, text in enumerate(texts)))
    assert ig.draft(folder.path).plan.columns[1].type == type_name
    outcome = ig.assemble(folder.path)
    assert outcome.status == int(bool(outcome.lost)) and not outcome.lost.sources


def test_what_disagrees_stands_beside_the_column(folder) -> None:
    folder.write("a.csv", "x\n" + "1.5\n" * 9)
    folder.write("b.csv", "x\n1\nice\n2\nice\n")
    text = str(ig.draft(folder.path))
    assert '# text; would be a number but for 2 of 13 values: 2 × "ice" in b.csv, first in row 3' in text


def test_pandas_keeps_integers_and_booleans_with_empty_cells(folder) -> None:
    folder.write("a.csv", "i,b\n1,true\n")
    folder.write("b.csv", "i\n2\n")
    frame = ig.assemble(folder.path).to_pandas()
    assert frame["i"].tolist() == [1, 2]
    assert str(frame["b"].dtype) == "boolean"


NUMBERS = st.from_regex(r"\A[+-]?[0-9]{0,4}(\.[0-9]{0,3})?([eE][+-]?[0-9]{0,4})?\Z")
MOMENTS = st.from_regex(
    r"\A(0000|0001|1582|1969|2024|9999)-[01][0-9]-[0-3][0-9]([ T][0-2][0-9]:?[0-6][0-9](:?[0-6][0-9](\.[0-9]{0,9})?)?)?Z?\Z"
)
WORDS = st.sampled_from(
    [
        "true",
        "TRUE",
        "#N/A",
        "Err:502",
        "1e-400",
        "1e999",
        "-0",
        "9223372036854775808",
        "inf",
        "nan",
        "0x1",
        "",
    ]
)
LETTERS = st.text("0123456789.eE+- :T-é#/Z,", max_size=12)


@settings(max_examples=500, deadline=None)
@given(st.lists(NUMBERS | MOMENTS | WORDS | LETTERS, min_size=1, max_size=4), st.booleans())
def test_a_whole_column_passes_when_each_of_its_texts_is_canonical(said: list[str], hole: bool) -> None:
    """One definition of each type: what the test of a column says is what parsing its texts one by one says."""
    values = texts([*said, *([None] if hole else [])])
    for kind in TYPES.values():
        one_by_one = [kind.parse(text) == text for text in said]
        passed, cast = kind.test(values)
        assert passed == all(one_by_one), (kind.name, said)
        if cast is not None and passed:
            assert cast.equals(kind.cast(values))
        assert not (kind.odd(values)[: len(said)] & one_by_one).any(), (kind.name, said)
        done = checked(values, kind)
        wanted = [text if kind.parse(text) == text else kind.parse(text.strip()) for text in said]
        assert done.text.to_pylist()[: len(said)] == wanted
        assert done.bad.tolist() == [
            at for at, text in enumerate(said) if wanted[at] is None and text.strip()
        ]
        typed = checked(values, kind, as_text=False)
        assert typed.typed(kind).equals(kind.cast(done.text)), (kind.name, said)
        assert typed.bad.tolist() == done.bad.tolist()


def test_no_value_is_meant_as_written_or_as_tidied() -> None:
    def done(values: list[str], *how: object, **more: object) -> list[str | None]:
        return convert(texts(values), Conversion(*how, **more)).text.to_pylist()

    assert done([" -999 ", "1"], "number", ("-999",)) == [None, "1"]
    assert done(["-999,0", "1,5"], "number", ("-999,0",), notation=Notation(decimal_mark=",")) == [
        None,
        "1.5",
    ]
    assert done(["N/A", "Reed"], "text", ("N/A",), case="lower") == [None, "reed"]
    assert done(["none at all", "reed"], "text", ("none-at-all",), {" ": "-"}) == [None, "reed"]


def test_a_point_is_no_decimal_comma_and_groups_have_three_digits() -> None:
    done = convert(
        texts(["1,5", "1.234", "1.5", "12.34"]), Conversion("number", notation=Notation(decimal_mark=","))
    )
    assert (done.text.to_pylist(), done.bad.tolist()) == (["1.5", None, None, None], [1, 2, 3])
    marks = Conversion("number", notation=Notation(decimal_mark=",", thousands_mark="."))
    done = convert(texts(["1.234,5", "1.5", "12.34", ",5"]), marks)
    assert (done.text.to_pylist(), done.bad.tolist()) == (["1234.5", None, None, "0.5"], [1, 2])


def test_raw_texts_of_bad_values_are_raw(folder) -> None:
    folder.write("a.csv", "n;x\n1; 3,5x\n2;1.5\n")
    plan = ig.Plan(
        [ig.Sources(str(folder.path), layout=ig.Layout(delimiter=";", decimal_mark=","))],
        [ig.Column("n"), ig.Column("x", "number", case="upper")],
    )
    assert [one.raw for one in ig.assemble(plan).set_aside] == [" 3,5x", "1.5"]


def test_only_a_row_with_all_cells_of_the_header_repeats_it(folder) -> None:
    folder.write("a.csv", "day,remark\n,-\n2024-01-01,-\n,-\nday,\nday,remark\n")
    plan = ig.Plan(
        [ig.Sources(str(folder.path), layout=ig.Layout(units_row=True))],
        [ig.Column("day"), ig.Column("remark")],
    )
    made = ig.assemble(plan)
    assert made.table["source_row"].to_pylist() == [3, 5]
    assert made.sources[0].ledger.repeated_header == 2


@pytest.mark.parametrize("places", [[0], [1], [63, 64], [999], [0, 500, 998], list(range(0, 1000, 37))])
def test_dates_that_only_look_right_are_found_wherever_they_stand(places: list[int]) -> None:
    days = ["2024-02-28"] * 1000
    for at in places:
        days[at] = "2024-02-30"
    done = checked(texts(days), TYPES["date"])
    assert done.bad.tolist() == places
    assert [at for at, value in enumerate(done.text.to_pylist()) if value is None] == places
