"""Wrong words are answered with the nearest right one, by spelling or by meaning; paths are taken wherever a place is."""

import subprocess
import sys
from pathlib import Path

import pytest

import integrum as ig
from integrum.problems.sections import section_of


@pytest.fixture
def sites(folder) -> Path:
    for name, rows in (("a", "Brod,1.5\nLipa,2.5\n"), ("b", "Brod,1.7\nLipa,\n")):
        folder.write(f"{name}.csv", f"village,depth\n{rows}")
    assert folder.path.name == "in"
    return folder.path.parent


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("merge in --output o.csv", 'unknown command "merge"; did you mean "assemble"?'),
        ("stack in", 'did you mean "assemble"?'),
        ("combine in", 'did you mean "assemble"?'),
        ("concat in", 'did you mean "assemble"?'),
        ("asemble in", 'did you mean "assemble"?'),
        ("differences o.csv", 'did you mean "changes"?'),
        ("check o.csv", 'did you mean "verify"?'),
        ("help merge", 'did you mean "assemble"?'),
        ("assemble in --output o.csv", 'unknown option --output; did you mean "--to"?'),
        ("assemble in -o o.csv", 'unknown option -o; did you mean "--to"?'),
        ("assemble in --to o.csv --force", 'did you mean "--replace"?'),
        ("assemble in --to o.csv -j 2", 'did you mean "--workers"?'),
        ("assemble in --to o.csv --sheet A", 'did you mean "--sheets"?'),
        ("assemble in --to o.csv --sep ;", "a plan says it, with the key delimiter in [sources.layout]"),
        (
            "assemble in --to o.csv --encoding latin1",
            "a plan says it, with the key encoding in [sources.layout]",
        ),
        ("assemble --input in --to o.csv", "folders, patterns and files are given without an option"),
        ("assemble in --to o.csv --dry-run", "integrum survey looks at everything and writes nothing"),
        ("assemble in --to o.csv --to p.csv", "--to is given 2 times, and takes one value"),
        ("assemble in --to=o.csv --expect 2 --expect 3", "--expect is given 2 times"),
        ("assemble in", "--to is missing: the table to write"),
        ("trace o.csv --filter x", 'did you mean "--where"?'),
        ("--output o.csv", "give a command before the options: survey, draft, assemble"),
        ("--about fewrows", 'no problem has the code "fewrows"; did you mean "few-rows"?'),
    ],
)
def test_wrong_words_on_the_command_line(sites, integrum, line: str, said: str) -> None:
    done = integrum(*line.split())
    assert (done.returncode, done.stdout) == (2, "")
    assert said in done.stderr
    assert len(done.stderr.splitlines()) == 2 and not (sites / "o.csv").exists()


def test_options_that_may_be_repeated_are_heeded(sites, integrum) -> None:
    integrum(*["assemble", "in", "--to", "o.csv", "--ids", "{lake}_{site}.csv", "--ids", "{site}.csv"])
    head, first, *_ = (sites / "o.csv").read_text().splitlines()
    assert head == "source,source_row,lake,site,village,depth" and first == "a.csv,2,,a,Brod,1.5"


def test_help_is_understood_as_people_write_it(integrum) -> None:
    assert integrum("help").stdout == integrum("--help").stdout
    assert integrum("help", "trace").stdout == integrum("trace", "--help").stdout


def test_what_a_problem_means_is_printed_by_its_code(integrum) -> None:
    for code in ig.CODES:
        said = section_of(code)
        assert said.startswith(f"{code}\n\n") and "To fix it:" in said and "`" not in said.split("    ")[0]
    assert integrum("--about", "few-rows").stdout == section_of("few-rows") + "\n"
    assert integrum("--about=few-rows").stdout == integrum("--about", "few-rows").stdout
    assert integrum("--about", "[same-content]").stdout == integrum("--about", "same-content").stdout


@pytest.mark.parametrize(
    ("text", "better"),
    [
        ("village = 'Brod'", "village == 'Brod'"),
        ("village = Brod", "village == 'Brod'"),
        ("village <> 'Brod'", "village != 'Brod'"),
        ("depth = null", "depth is None"),
        ("depth != NULL", "depth is not None"),
        ("depth > 1 AND village = 'Brod & Co'", "depth > 1 and village == 'Brod & Co'"),
        ("depth > 1 && depth < 2", "depth > 1 and depth < 2"),
        ("depth between 1 and 2", "1 <= depth <= 2"),
        ("depth > 1,5", "depth > 1.5"),
    ],
)
def test_conditions_of_other_languages_are_answered_with_what_to_write(sites, text: str, better: str) -> None:
    ig.assemble(sites / "in", to=sites / "o.csv")
    with pytest.raises(ig.ConditionError) as error:
        ig.trace(sites / "o.csv", where=text)
    assert str(error.value) == f'"{text}" is not a condition on rows; write: {better}'
    ig.trace(sites / "o.csv", where=better)


def test_a_condition_on_a_name_with_spaces(sites) -> None:
    ig.assemble(ig.Plan(sites / "in", [ig.Column("the depth", "number", also="depth")]), to=sites / "p.csv")
    with pytest.raises(ig.ConditionError, match=r"write: \{the depth\} > 1"):
        ig.trace(sites / "p.csv", where="the depth > 1")
    with pytest.raises(ig.ConditionError, match='give a condition by its name: where="depth > 1"'):
        ig.trace(sites / "p.csv", "depth > 1")  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("code", "said"),
    [
        ("ig.merge", 'did you mean "assemble"?'),
        ("ig.asemble", 'did you mean "assemble"?'),
        ("ig.assemble('in', output='o.csv')", "unexpected keyword argument 'output'; did you mean \"to\"?"),
        ("ig.survey('in', sheet='May')", 'did you mean "sheets"?'),
        ("ig.Column('depth', kind='number')", 'did you mean "type"?'),
        ("ig.Column('depth', units='m')", 'did you mean "unit"?'),
        ("ig.Column('depth', 'float')", 'got "float"; did you mean "number"?'),
        ("ig.Column('depth', 'string')", 'did you mean "text"?'),
        ("ig.Layout(header_rwo=3)", 'did you mean "header_row"?'),
        ("ig.Layout(sep=';')", 'did you mean "delimiter"?'),
        ("ig.Layout(header=3)", "set header_row = 3"),
        ("ig.Rules(bad_values='null')", 'did you mean "blank"?'),
        ("ig.Dataset(persons=[])", 'did you mean "people"?'),
    ],
)
def test_wrong_words_in_python(code: str, said: str) -> None:
    with pytest.raises((TypeError, AttributeError, ig.PlanError)) as error:
        eval(code, {"ig": ig})
    assert said in str(error.value)


def test_an_error_of_somebody_elses_function_is_not_taken_for_a_wrong_word(sites) -> None:
    def watch(progress: ig.Progress) -> None:
        watch(wrong=progress)  # type: ignore[call-arg]

    with pytest.raises(TypeError, match=r"unexpected keyword argument 'wrong'$"):
        ig.survey(sites / "in", watch=watch)


def test_a_path_is_taken_wherever_a_place_is(sites) -> None:
    (sites / "villages.csv").write_text("village\nBrod\nLipa\n")
    plan = ig.Plan(
        [ig.Sources([sites / "in"], exclude=Path("b.csv"), expect=Path("a.csv"))],
        [ig.Column("village"), ig.Column("depth", "number", also=[ig.Also("h", in_=Path("north/**"))])],
        checks=ig.Check(column="village", listed=sites / "villages.csv"),
    )
    assert ig.Sources(Path("loggers")) == ig.Sources("loggers")
    outcome = ig.assemble(plan, to=sites / "o.csv", depends=sites / "o.d", record=sites / "r")
    assert outcome.status == 0 and [one.source for one in outcome.sources] == ["a.csv"]
    assert ig.assemble([sites / "in" / "a.csv"], to=sites / "p.csv", exclude=[Path("b.csv")]).rows == 2
    for call in (ig.overview, ig.open_table, ig.verify, ig.read_record, ig.report):
        call(sites / "p.csv")
    ig.draft(sites / "in", keep=sites / "k.toml")
    assert ig.script(sites / "k.toml", sites / "s.py") and ig.deposit(sites / "p.csv", sites / "d")


def test_one_text_is_a_list_of_one(sites) -> None:
    one = ig.Plan(
        ig.Sources(sites / "in", ids="{site}.csv", expect={"site": "a"}, leave_out="x", sheets="May"),
        [ig.Column("village", also="place", never="town", missing="n/a", allowed="Brod"), "depth"],
        checks=ig.Check(unique="village"),
        glossary={"bloom": "algae"},
    )
    several = ig.Plan(
        [
            ig.Sources(
                [str(sites / "in")],
                ids=["{site}.csv"],
                expect={"site": ["a"]},
                leave_out=["x"],
                sheets=["May"],
            )
        ],
        [
            ig.Column("village", also=["place"], never=["town"], missing=["n/a"], allowed=["Brod"]),
            ig.Column("depth"),
        ],
        checks=[ig.Check(unique=["village"])],
        glossary={"bloom": ["algae"]},
    )
    assert one == several
    with pytest.raises(ig.PlanError, match="a single one belongs in `also`"):
        ig.Column("sampled", "datetime", from_="Date")


def test_without_an_extra_it_says_what_to_install(sites, tmp_path) -> None:
    """The core tells all without pages, figures and data frames."""
    code = (
        "import sys, integrum as ig\n"
        "class Nothing:\n"
        "    def find_spec(self, name, *_):\n"
        "        if name.split('.')[0] in ('jinja2', 'matplotlib', 'pandas'): raise ModuleNotFoundError(name)\n"
        "sys.meta_path.insert(0, Nothing())\n"
        "import importlib.util\n"
        "found = importlib.util.find_spec\n"
        "import integrum.errors as errors\n"
        "errors.find_spec = lambda name: None if name in ('jinja2', 'matplotlib', 'pandas') else found(name)\n"
        "outcome = ig.assemble('in', to='o.csv')\n"
        "print(outcome.status, ig.overview('o.csv').rows, bool(ig.verify('o.csv')), len(ig.trace('o.csv', 1).rows))\n"
        "for call in (lambda: ig.report('o.csv'), outcome.to_pandas, outcome.sources.to_pandas,\n"
        "             lambda: ig.deposit('o.csv', 'd'), lambda: ig.draft('in').page('p.toml'), ig.survey('in').figure):\n"
        "    try: call()\n"
        "    except ig.ExtraNeeded as error: print(error)\n"
    )
    done = subprocess.run([sys.executable, "-c", code], cwd=sites, capture_output=True, text=True)
    assert done.stderr == ""
    first, *others = done.stdout.splitlines()
    assert first == "0 4 True 1"
    assert others == [
        "a report needs more packages; install them: pip install 'integrum[pages]'",
        "a data frame needs more packages; install them: pip install 'integrum[pandas]'",
        "a data frame needs more packages; install them: pip install 'integrum[pandas]'",
        "a deposit needs more packages; install them: pip install 'integrum[pages]'",
        "a page needs more packages; install them: pip install 'integrum[pages]'",
        "a figure needs more packages; install them: pip install 'integrum[pages]'",
    ]
