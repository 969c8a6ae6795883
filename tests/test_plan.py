"""The plan: objects and TOML, both ways; errors that name the place and the nearest key."""

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

import integrum as ig
from integrum.plan.column import CASES, TYPES
from integrum.plan.rules import BAD_VALUES, DUPLICATES, MISNAMED, REPEATED_ROWS, UNLISTED

words = st.text(
    st.characters(exclude_categories=["Cs"], exclude_characters="\0"), min_size=1, max_size=12
).filter(str.strip)
LAYOUTS = [
    ig.Layout(),
    ig.Layout(
        header_row=9, units_row=True, delimiter="\t", decimal_mark=",", thousands_mark=".", encoding="utf-16"
    ),
    ig.Layout(
        header_has=["Date/Time", "Temp (°C)"],
        footer_from="Total",
        capture={"no": "Serial No"},
        comment_mark="#",
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


def _wides(name: str) -> list[ig.Wide | None]:
    if "{" in name:
        return [None]
    return [None, ig.Wide("20??", name, name), ig.Wide(["a", "b*"], name, name, "keep")]


def _checks(name: str) -> list[ig.Check]:
    return [
        ig.Check(unique=[name]),
        ig.Check("all of them", "warning", complete=[name], values={name: ["a", "b"]}),
        ig.Check(column=name, filled=0.5),
        ig.Check(column=name, match="[A-Z]+"),
        ig.Check(column=name, allowed=["a", "ü"], severity="note"),
        ig.Check(column=name, listed="lists/lakes.csv", header="lake", both_ways=True),
        ig.Check(in_one_source="all"),
        ig.Check(rows=[1, 9]),
        ig.Check(sources=3),
    ]


@st.composite
def plans(draw: st.DrawFn) -> ig.Plan:
    names = draw(st.lists(words, min_size=1, max_size=12, unique=True))
    cut = draw(st.integers(0, len(names) - 1))
    columns = [
        ig.Column(
            name,
            draw(st.sampled_from(sorted(TYPES))),
            also=draw(
                st.sampled_from(
                    [[names[cut + 1 + at]], [ig.Also(names[cut + 1 + at], "m"), ig.Also("T", in_=f"{at}/**")]]
                )
            )
            if cut + 1 + at < len(names)
            else [],
            missing=draw(st.lists(st.text(st.characters(exclude_categories=["Cs"]), max_size=4), max_size=2)),
            required=at % 2 > 0 and draw(st.booleans()),
            optional=at % 2 < 1 and draw(st.booleans()),
            first_filled=draw(st.booleans()),
            maybe=draw(st.sampled_from([(), ["T?"], [ig.Maybe("T", 0.5, "near", "2019/**"), "U"]])),
            never=draw(st.sampled_from([(), ["never T"], ["never T", "never U"]])),
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
                wide=draw(st.sampled_from(_wides(names[0]))),
                leave_out=draw(st.lists(words, max_size=2)),
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
            draw(st.sampled_from(REPEATED_ROWS)),
            draw(st.sampled_from(MISNAMED)),
            only_common=draw(st.booleans()),
        ),
        draw(st.dictionaries(words, st.lists(words, max_size=3), max_size=2)),
        draw(st.lists(st.sampled_from(_checks(names[0])), max_size=3, unique_by=lambda one: one.key)),
        leave_out=draw(st.sampled_from([(), ["left out", "Odd*"]])),
    )


@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(plans(), words)
def test_a_plan_is_equal_after_toml_and_back(plan: ig.Plan, remark: str) -> None:
    text = ig.write_plan(plan)
    assert ig.parse_plan(text) == plan
    places = [("plan", ""), ("columns", plan.columns[0].name), ("sources", plan.sources[0].key)]
    noted = ig.write_plan(plan, {place: [remark, f"two of {place[0]}"] for place in places})
    assert ig.parse_plan(noted) == plan
    comments = [line for line in noted.split("\n") if line.startswith("# ")]
    groups = sum(one.key == plan.sources[0].key for one in plan.sources)
    for part, times in (("plan", 1), ("columns", 1), ("sources", groups)):
        assert comments.count(f"# two of {part}") == times
    assert len(comments) == 2 * (2 + groups)


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
        ("integrum = [", ["not valid TOML"]),
        (toml(columns='[rules]\nunlisted = "refuse"'), ["columns", "at least one column"]),
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
    assert "file not found" in integrum("assemble", "none.toml", "--to", "o.csv").stderr
    (tmp_path / "p.toml").write_bytes(b"integrum = 1\n# \xff")
    done = integrum("assemble", "p.toml", "--to", "o.csv")
    assert done.returncode == 2
    assert "offset 15" in done.stderr


@settings(deadline=None, max_examples=60, suppress_health_check=[HealthCheck.too_slow])
@given(plans(), plans())
def test_a_plan_merged_into_the_file_of_another_says_what_it_says(old: ig.Plan, new: ig.Plan) -> None:
    assert ig.parse_plan(ig.merge_plan(ig.write_plan(old), new)) == new
    text = ig.write_plan(new)
    assert ig.merge_plan(text, new) == text


EDITED = """# mine
integrum = 1

[[sources]]   # the north shore
find = "loggers"  # by hand
[sources.layout]
header_row = 3

# the one that matters
[[columns]]
name = "depth"   # below the surface
also = ["D", { header = "T", unit = "ft" }]

[[columns]]
name = "lake"
"""


def test_what_the_analyst_wrote_survives_a_merge() -> None:
    plan = ig.parse_plan(EDITED)
    assert ig.merge_plan(EDITED, plan) == EDITED
    depth, lake = plan.columns
    new = ig.Plan(
        [ig.Sources("loggers", layout=ig.Layout(header_row=4, units_row=True)), ig.Sources("buoys")],
        [ig.Column("day", "date"), ig.Column("depth", "number", also=depth.also), lake],
        rules=ig.Rules(unlisted="keep"),
    )
    merged = ig.merge_plan(EDITED, new, {("columns", "day"): ["new in May"]})
    assert ig.parse_plan(merged) == new
    assert merged.splitlines() == [
        "# mine",
        "integrum = 1",
        "",
        "[[sources]]   # the north shore",
        'find = "loggers"  # by hand',
        "[sources.layout]",
        "header_row = 4",
        "units_row = true",
        "",
        "[[sources]]",
        'find = ["buoys"]',
        "",
        "[[columns]]",
        "# new in May",
        'name = "day"',
        'type = "date"',
        "",
        "# the one that matters",
        "[[columns]]",
        'name = "depth"   # below the surface',
        'also = ["D", { header = "T", unit = "ft" }]',
        'type = "number"',
        "",
        "[[columns]]",
        'name = "lake"',
        "",
        "[rules]",
        'unlisted = "keep"',
    ]
    with pytest.raises(ig.PlanError, match="not valid TOML"):
        ig.merge_plan("integrum = ", plan)


def test_a_header_can_have_a_unit_of_its_own(folder) -> None:
    text = """integrum = 1
[[sources]]
find = ["in"]
[[columns]]
name = "depth"
type = "number"
unit = "m"
also = ["D", { header = "Depth" }, { header = "fathoms", unit = "fathom" }]
"""
    plan = ig.parse_plan(text)
    assert plan.columns[0].headers == ("depth", "D", "Depth", "fathoms")
    assert ig.parse_plan(ig.write_plan(plan)) == plan
    for name, header in (("a", "D"), ("b", "fathoms"), ("c", "Depth")):
        folder.write(f"{name}.csv", f"{header}\n{len(name)}.{ord(name)}\n")
    made = ig.assemble(ig.Plan([ig.Sources(str(folder.path))], plan.columns))
    assert [(one.source, one.reason) for one in made.sources] == [
        ("a.csv", ""),
        ("b.csv", "unit-differs"),
        ("c.csv", ""),
    ]
    with pytest.raises(
        ig.PlanError, match=r'columns\[1\] "depth", also\[2\], key hedaer: unknown key; did you mean "header"'
    ):
        ig.parse_plan(text.replace('{ header = "Depth" }', '{ hedaer = "Depth" }'))
    with pytest.raises(ig.PlanError, match=r"also\[1\]: expected a text, got the number 7"):
        ig.Column("depth", also=[7])


@pytest.mark.parametrize(
    "name",
    [
        "unlisted",
        "only_common",
        "bad_values",
        "bad_share",
        "duplicates",
        "repeated_rows",
        "misnamed",
        "several_layouts",
    ],
)
def test_a_rule_that_is_none_is_refused_by_name(name) -> None:
    with pytest.raises(ig.PlanError, match=name):
        ig.Rules(**{name: "sometimes"})
