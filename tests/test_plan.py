"""The plan: objects and TOML, both ways; errors that name the place and the nearest key."""

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

import integrum as ig
from integrum.plan.model import BAD_VALUES, CASES, DUPLICATES, MISNAMED, TYPES, UNLISTED

words = st.text(st.characters(exclude_categories=["Cs"]), min_size=1, max_size=12).filter(str.strip)
LAYOUTS = [
    ig.Layout(),
    ig.Layout(header_row=9, units_row=True, delimiter="\t", decimal=",", thousands=".", encoding="utf-16"),
    ig.Layout(
        header_has=["Date/Time", "Temp (°C)"], footer_from="Total", capture={"no": "Serial No"}, comment="#"
    ),
    ig.Layout(
        header_row="none",
        header=["a", "b"],
        first_row=3,
        last_row=9,
        quote="'",
        escape="\\",
        short_rows="pad",
    ),
    ig.Layout(header_row=4, header_rows=2, first_column="c", last_column="AB"),
]


@st.composite
def plans(draw: st.DrawFn) -> ig.Plan:
    names = draw(st.lists(words, min_size=1, max_size=12, unique=True))
    cut = draw(st.integers(0, len(names) - 1))
    columns = [
        ig.Column(
            name,
            draw(st.sampled_from(sorted(TYPES))),
            also=[names[cut + 1 + at]] if cut + 1 + at < len(names) else [],
            missing=draw(st.lists(st.text(st.characters(exclude_categories=["Cs"]), max_size=4), max_size=2)),
            required=draw(st.booleans()),
            unit=draw(st.sampled_from(["", "mg/L"])),
            case=draw(st.sampled_from(CASES)),
            swap=draw(st.dictionaries(words, words, max_size=2)),
            values=draw(st.dictionaries(words, words, max_size=2)),
        )
        for at, name in enumerate(names[: cut + 1])
    ]
    taken = {column.name for column in columns}
    free = [
        name
        for name in ("source", "source_row", "Herkunft", "Zeile", "über #", "row no")
        if name not in taken
    ]
    return ig.Plan(
        [
            ig.Sources(
                draw(st.lists(words, min_size=1, max_size=3)),
                exclude=draw(st.lists(words, max_size=2)),
                sheets=draw(st.sampled_from([[], "May", ["2023*", "!Notes"]])),
                group=draw(st.sampled_from(["", "spring round"])),
                ids=draw(st.sampled_from(["", "{zone}/{lake+}_{month}[_{serial}].csv"])),
                constants=draw(
                    st.dictionaries(words.map(lambda word: f"constant {word}"), words, max_size=2)
                ),
                facts=draw(st.sampled_from([{}, {"changed at": "modified", "in": "folder"}])),
                labels=draw(st.dictionaries(words, words, max_size=2)),
                layout=draw(st.sampled_from(LAYOUTS)),
                expect=draw(st.none() | st.integers(0, 99) | st.lists(words, max_size=2)),
            )
            for _ in range(draw(st.integers(1, 3)))
        ],
        columns,
        ig.Provenance(
            *draw(st.sampled_from([(free[0], free[1]), (free[2], False, "tab"), (False, False, False)]))
        ),
        ig.Rules(
            draw(st.sampled_from(UNLISTED)),
            draw(st.sampled_from(BAD_VALUES)),
            draw(st.sampled_from(DUPLICATES)),
            draw(st.sampled_from(MISNAMED)),
        ),
    )


@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(plans(), words)
def test_a_plan_is_equal_after_toml_and_back(plan: ig.Plan, remark: str) -> None:
    remarks = {("plan", 0): [remark], ("columns", 0): [remark, "two"], ("sources", 0): [remark]}
    assert ig.parse_plan(ig.write_plan(plan)) == plan
    assert ig.parse_plan(ig.write_plan(plan, remarks)) == plan


def toml(columns: str = '[[columns]]\nname = "depth"\n', rest: str = "") -> str:
    return f'integrum = 1\n[[sources]]\nfind = ["in"]\n{columns}{rest}'


@pytest.mark.parametrize(
    ("text", "said"),
    [
        (toml('[[column]]\nname = "a"'), ["key column", 'did you mean "columns"?']),
        (
            toml('[[columns]]\nname = "a"\nrequird = true'),
            ['columns[1] "a"', "requird", 'did you mean "required"?'],
        ),
        (
            toml('[[columns]]\nname = "a"\ntype = "nubmer"'),
            ['columns[1] "a"', "type", 'did you mean "number"?'],
        ),
        (
            toml(rest='[sources.layout]\nfirst_column = "5"\n', columns=""),
            ["layout", "first_column", "from A to XFD"],
        ),
        (toml(rest='[sources.layout]\nlast_column = "XFE"\n', columns=""), ["last_column", "from A to XFD"]),
        (
            toml(rest='[sources.layout]\nfirst_column = "D"\nlast_column = "B"\n', columns=""),
            ["last_column", "before the first one, D"],
        ),
        (toml(rest="sheets = [7]\n", columns=""), ["sheets[1]", "expected a text"]),
        (toml("[[columns]]\nname = 7"), ["columns[1]", "name", "expected a text", "7"]),
        (toml('[[columns]]\ntype = "text"'), ["columns[1]", "key name", "missing"]),
        (toml('[[columns]]\nname = "a"\nalso = [1]'), ['columns[1] "a"', "also[1]", "expected a text"]),
        (toml('[[columns]]\nname = "a"\nrequired = "yes"'), ["required", "expected true or false"]),
        (
            toml('[[columns]]\nname = "a"\n[[columns]]\nname = "a"'),
            ['columns[2] "a"', "duplicate column name"],
        ),
        (
            toml('[[columns]]\nname = "a"\nalso = ["t"]\n[[columns]]\nname = "b"\nalso = ["t"]'),
            ['columns[2] "b"', '"t"', 'columns[1] "a"'],
        ),
        (toml('[[columns]]\nname = "source"'), ['columns[1] "source"', "provenance"]),
        (toml(rest='[rules]\nunlisted = "kep"'), ["rules", "unlisted", 'did you mean "keep"?']),
        (toml(rest="[provenance]\nsource_row = true"), ["provenance", "source_row", "false"]),
        (toml(columns="columns = 3\n"), ["columns"]),
        ('integrum = 1\n[[columns]]\nname = "a"', ["sources", "missing"]),
        ('integrum = 2\n[[sources]]\nfind = ["a"]', ["integrum", "format 1"]),
        ('[[sources]]\nfind = ["a"]', ["integrum", "missing"]),
        ("integrum = 1\n[[sources]]\nfind = []\n", ["sources[1]", "find", "empty"]),
        ("integrum = [", ["not TOML"]),
        (toml(columns=""), ["columns", "at least one column"]),
    ],
)
def test_a_wrong_plan_names_the_place(text: str, said: list[str], tmp_path, integrum) -> None:
    with pytest.raises(ig.PlanError) as error:
        ig.parse_plan(text)
    for word in said:
        assert word in str(error.value)
    (tmp_path / "p.toml").write_text(text)
    done = integrum("assemble", "p.toml", "--to", "out.csv")
    assert done.returncode == 2
    assert "Traceback" not in done.stderr
    assert "p.toml" in done.stderr
    assert said[0] in done.stderr
    assert not (tmp_path / "out.csv").exists()


def test_a_plan_without_columns_may_keep_everything(folder) -> None:
    folder.write("a.csv", "x,y\n1,2\n")
    folder.write("b.csv", "y,z\n3,4\n")
    plan = ig.Plan([ig.Sources(str(folder.path))], rules=ig.Rules(unlisted="keep"))
    table = ig.assemble(plan).table
    assert table.column_names == ["source", "source_row", "x", "y", "z"]
    assert table["y"].to_pylist() == ["2", "3"]


def test_a_plan_that_is_not_there_or_not_text(tmp_path, integrum) -> None:
    assert "no such file" in integrum("assemble", "none.toml", "--to", "o.csv").stderr
    (tmp_path / "p.toml").write_bytes(b"integrum = 1\n# \xff")
    done = integrum("assemble", "p.toml", "--to", "o.csv")
    assert done.returncode == 2
    assert "offset 15" in done.stderr
