"""What a newcomer types and sees: options, errors, screens of any width, notebooks, completion, the wheel."""

import io
import json
import os
import re
import subprocess
import sys
import zipfile
from pathlib import Path

import nbformat
import pandas
import pytest
from nbclient import NotebookClient

import integrum as ig
from integrum.cli.options import parser
from integrum.columns.expectation import some_of
from integrum.problems.found import Entries

ROOT = Path(__file__).parent.parent
HEAD = 'integrum = 1\n\n[[sources]]\nfind = ["in"]\n\n[[columns]]\nname = "depth"\n'


@pytest.fixture
def visits(folder):
    for year in (2021, 2022, 2023):
        extra = ",wind" if year == 2023 else ""
        folder.write(f"amb_{year}.csv", f"day,depth{extra}\n{year}-05-01,3.20{',4' if extra else ''}\n")
    folder.write("amb_2021_old.csv", "day,depth\n2021-05-02,9\n")
    return folder


def test_the_options_are_those_of_the_calls(visits, integrum, tmp_path) -> None:
    more = {"ids": "{site}_{year}.csv", "exclude": "*_old.csv", "expect": 3}
    assert [one.source for one in ig.survey(visits.path, **more).sources] == [
        f"amb_{year}.csv" for year in (2021, 2022, 2023)
    ]
    assert ig.draft(visits.path, **more).plan.sources[0].exclude == ("*_old.csv",)
    outcome = ig.assemble(visits.path, **more)
    assert (outcome.status, outcome.rows, outcome.table["year"].to_pylist()) == (
        0,
        3,
        [2021, 2022, 2023],
    )
    options = ["--ids", more["ids"], "--exclude", "*_old.csv", "--expect", "3"]
    assert integrum("assemble", "in", *options, "--to", "o.csv").returncode == 0
    assert pandas.read_csv(tmp_path / "o.csv")["year"].tolist() == [2021, 2022, 2023]
    group = ig.Sources(str(visits.path), exclude="*_2023.csv")
    assert (
        len(ig.survey(group, exclude="*_old.csv", ids="{site}_{year}.csv").sources) == 3
    )  # what a group says stays
    (tmp_path / "p.toml").write_text(HEAD)
    refused = integrum("survey", "p.toml", "--exclude", "*_old.csv")
    assert (refused.returncode, "with a plan, set them in p.toml" in refused.stderr) == (2, True)
    (tmp_path / "d.toml").write_text(HEAD)
    refused = integrum("draft", "--plan", "d.toml", "--update", "--exclude", "*_old.csv")
    assert (refused.returncode, "set them in d.toml" in refused.stderr) == (2, True)
    for call in (ig.survey, ig.draft, ig.assemble):
        with pytest.raises(
            ig.PlanError, match=r"exclude: for folders and files; with a plan, set them in p\.toml"
        ):
            call(tmp_path / "p.toml", exclude="*_old.csv")
    with pytest.raises(ig.PlanError, match="several groups"):
        ig.survey([str(visits.path), group], expect=3)


def test_short_plans(visits) -> None:
    short = ig.Plan(str(visits.path), ["day", ig.Column("depth", "number")])
    assert short == ig.Plan([ig.Sources(str(visits.path))], [ig.Column("day"), ig.Column("depth", "number")])
    assert ig.Plan(visits.path, ["day"]) == ig.Plan(ig.Sources(str(visits.path)), "day")
    assert ig.assemble(short).rows == 4
    assert ig.assemble(visits.path.glob("*_old.csv"), ids="{lake}_{year}_old.csv").rows == 1
    every = ig.assemble(ig.Plan(sources=[str(visits.path)]))
    assert (every.rows, every.table.column_names[2:]) == (4, ["day", "depth", "wind"])
    assert every.table["depth"].to_pylist() == ["3.20", "9", "3.20", "3.20"]


@pytest.mark.parametrize("wrong", [pandas.DataFrame({"a": [1]}), 3, None, [b"in"], {"in": 1}])
def test_a_wrong_thing_is_told_what_is_expected(wrong: object) -> None:
    for call in (ig.survey, ig.draft, ig.assemble):
        with pytest.raises(ig.PlanError, match="where: expected folders, patterns, files, Sources, a Plan"):
            call(wrong)
    with pytest.raises(
        ig.PlanError, match="expected a list of Sources objects or folders, patterns and files"
    ):
        ig.Plan(wrong)
    if wrong is not None:
        with pytest.raises(ig.OutputError, match="to: expected the name of a file"):
            ig.assemble("in", wrong)


def test_lists_are_the_same_with_a_record_and_without(visits, tmp_path) -> None:
    visits.write("odd.csv", "about\nday,depth\n2024-05-01,deep\n2024-05-02\n")
    layouts = [ig.Layout(), ig.Layout(header_row=2)]
    plan = ig.Plan(
        [ig.Sources(str(visits.path), layouts=layouts)],
        [ig.Column("day", "date"), ig.Column("depth", "number")],
    )
    kept, recorded = ig.assemble(plan), ig.assemble(plan, tmp_path / "o.csv")
    for name in ("problems", "columns", "left_out", "set_aside"):
        one, other = getattr(kept, name), getattr(recorded, name)
        assert isinstance(one, Entries) and len(one) and list(one) == list(other), name
        assert one.to_pandas().equals(other.to_pandas())
    assert [(one.source, one.row, one.column, one.raw) for one in kept.set_aside] == [
        ("odd.csv", 3, "depth", "deep"),
        ("odd.csv", 4, "", "2024-05-02"),
    ]
    assert kept.left_out.to_pandas()["row"].dtype == "Int64"
    assert kept.sources.to_pandas().query("data > 0")["source"].tolist() == [
        one.source for one in kept.sources
    ]
    assert ig.survey(visits.path).columns.to_pandas()["name"].tolist() == ["day", "depth", "wind"]
    again = ig.assemble(plan, tmp_path / "o.csv")
    assert len(again.left_out) == len(kept.left_out)
    with pytest.raises(ig.OutputError, match="record of a later run"):
        _ = ig.assemble(plan, tmp_path / "o.csv"), recorded._kept_out()


def test_empty_lists_have_their_columns(tmp_path, folder) -> None:
    folder.write("a.csv", "day,depth\n2024-05-01,3\n")
    outcome = ig.assemble(folder.path)
    assert outcome.set_aside.to_pandas().columns.tolist() == ["source", "row", "column", "code", "raw"]
    assert outcome.problems.to_pandas().columns.tolist()[:2] == ["severity", "code"]


def test_objects_show_as_html_and_their_texts_do_no_harm(visits) -> None:
    visits.write("bad.csv", "day,<b>depth</b>\n2024-05-01,<script>alert(1)</script>\n")
    draft = ig.draft(visits.path)
    outcome = ig.assemble(draft)
    shown = [
        ig.survey(visits.path),
        draft,
        draft.plan,
        outcome,
        outcome.problems,
        outcome.sources,
        outcome.columns,
    ]
    shown += [outcome.left_out, ig.look(visits.path / "bad.csv"), outcome.overview()]
    for one in shown:
        html = one._repr_html_()
        assert html.startswith("<style>") and html.endswith("</div>"), type(one)
        assert "<script>" not in html and "<b>" not in html, type(one)
    assert "&lt;script&gt;" in ig.look(visits.path / "bad.csv")._repr_html_()
    assert "background: #" not in html and "color: #000" not in html  # it takes the colours of its page


def test_every_exported_name_is_there_and_described() -> None:
    done = subprocess.run(
        [sys.executable, "-c", "import integrum; help(integrum)"], capture_output=True, text=True, check=True
    )
    for name in ig.__all__:
        assert getattr(ig, name) is not None
        assert name in done.stdout or name.startswith("_"), name
    assert set(dir(ig)) == set(ig.__all__)
    for name in (
        "Outcome",
        "Survey",
        "Trace",
        "Overview",
        "OneSource",
        "Entries",
        "SourceSummary",
        "Problem",
    ):
        assert name in ig.__all__


def test_type_checkers_know_the_words(tmp_path) -> None:
    (tmp_path / "script.py").write_text(
        "import integrum as ig\n"
        'ig.Column("depth", "nmber")\n'
        'ig.Column("day", date_order="dym")\n'
        'ig.Rules(unlisted="kept")\n'
        'ig.Layout(header_row="nome")\n'
        'ig.Sources("in", facts={"lake": "foldr"})\n'
        'ig.Column("depth", "number", case="title", bad_values="blank")\n'
        'reveal_type(ig.assemble("in").problems[0].severity)\n'
    )
    done = subprocess.run(
        [sys.executable, "-m", "mypy", "--strict", "--no-incremental", "--cache-dir", str(tmp_path), "script.py"],
        cwd=tmp_path, capture_output=True, text=True, env={**os.environ, "MYPYPATH": str(ROOT / "src")},
    )  # fmt: skip
    lines = re.findall(r"script\.py:(\d+): error", done.stdout)
    assert sorted(set(lines), key=int) == ["2", "3", "4", "5", "6"], done.stdout
    assert "Literal['error'" in done.stdout


@pytest.mark.parametrize(
    ("text", "said"),
    [
        (
            HEAD + "missing = [-999]\n",
            'line 8, columns[1] "depth", key missing[1]: expected a text, got the number -999; write "-999"',
        ),
        (HEAD + "missing = [2024-05-01]\n", 'write "2024-05-01"'),
        (HEAD + "tpye = 'text'\n", 'line 8, columns[1] "depth", key tpye: unknown key; did you mean "type"?'),
        (HEAD + "also = ['x',\n  { header = 'y', unt = 'm' },\n]\n", "line 8, "),
        (
            HEAD + "[layout]\nheader_row = 3\n",
            "line 8, key layout: unknown key; write [sources.layout], below its [[sources]]",
        ),
        (
            HEAD.replace('["in"]', '["in"]\nheader_row = 3'),
            "line 5, sources[1], key header_row: unknown key; it belongs in [sources.layout]",
        ),
        (
            HEAD + "unlisted = 'keep'\n",
            'line 8, columns[1] "depth", key unlisted: unknown key; it belongs in [rules]',
        ),
        (HEAD + "[rules]\nbad_values = 'empty'\n", "line 9, rules, key bad_values: expected one of blank"),
        (HEAD + "name = 'again'\n", "line 8: not valid TOML: name is set twice in the same table"),
        (HEAD + "required = yes\n", "line 8: not valid TOML: expected a value"),
        (
            HEAD.replace('"in"', '"d\\a.csv"'),
            'line 4: not valid TOML: a backslash in double quotes has a special meaning; write paths with "/"',
        ),
        (HEAD + "[[columns]]\nname = 'depth'\n", 'line 9, columns[2] "depth", name: duplicate column name'),
        (HEAD + '[[columns]]\nname = "a[1], key x"\ntype = "nmber"\n', "line 10, "),
        (
            HEAD + "[sources.layout]\ndelimiter = ';;'\n[[checks]]\n",
            "sources[1], layout, key delimiter: expected one character",
        ),
        (HEAD + "[[checks]]\nunique = ['day']\n", "line 8, checks[1]: the table has no column"),
        (
            HEAD + 'also = [\n  "a [x] \\" #",\n  "b",\n]\nmissing = [\n["y"]\n]\ntipe = "text"\n',
            "line 15, columns[1]",
        ),
    ],
)
def test_an_error_in_a_plan_names_line_place_and_remedy(text: str, said: str, tmp_path) -> None:
    (tmp_path / "plan.toml").write_text(text)
    with pytest.raises(ig.PlanError) as error:
        ig.read_plan(tmp_path / "plan.toml")
    assert said in str(error.value)
    assert str(error.value).startswith(f"{tmp_path / 'plan.toml'}, line ")


def test_backslashes_between_folders_are_explained(folder, integrum) -> None:
    folder.write("a.csv", "day\n2024-05-01\n")
    assert 'write / between folders: "in/b.csv"' in integrum("survey", "in\\b.csv").stderr
    (folder.path.parent / "p.toml").write_text(HEAD.replace('"in"', '"in\\new.csv"'))
    assert "a backslash in double quotes has a special meaning" in integrum("survey", "p.toml").stderr


def test_a_pattern_names_the_packed_files_that_it_misses(folder) -> None:
    folder.write("a.csv", "day\n2024-05-01\n")
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as archive:
        archive.writestr("c.csv", "day\n2024-05-03\n")
    for name in ("b.csv.gz", "old.csv.gz", "sub/c.zip", "notes.txt"):
        folder.write(name, packed.getvalue())
    seen = ig.survey(str(folder.path / "**" / "*.csv"), exclude="old*")
    assert [(one.code, one.source) for one in seen.problems] == [
        ("passed-over", "b.csv.gz"),
        ("passed-over", "sub/c.zip"),
    ]
    assert "skipped: packed, and not in" in seen.problems[0].message


@pytest.mark.parametrize(
    ("places", "said"),
    [
        ("n2019 n2020 s2019 s2020", "all before 2021"),
        ("s2019 s2020 s2021 s2022", "all in s/"),
        ("n2021 s2021 n2022 s2022", "all from 2021 on"),
        ("n2020 s2020 n2021 s2021", "all of 2020 and 2021"),
        ("n2019 n2020", "n/a_2019.csv, n/a_2020.csv"),
        ("n2019 n2020 n2021 s2022", "n/a_2019.csv, n/a_2020.csv, n/a_2021.csv and 1 more"),
    ],
)
def test_some_sources_are_named_by_what_they_have_in_common(places: str, said: str) -> None:
    every = [f"{folder}/a_{year}.csv" for folder in "ns" for year in range(2019, 2023)]
    some = [f"{place[0]}/a_{place[1:]}.csv" for place in places.split()]
    assert some_of(some, every) == said
    # a folder has what is in its sub-folders, too
    assert "all in s/" not in some_of(some, [*every, "s/deep/b.csv"])


def test_headers_that_share_nothing_are_not_compared(folder) -> None:
    for name in ("a", "b"):
        folder.write(f"{name}.csv", "day,depth\n2024-05-01,3\n")
    folder.write("c.csv", "station,value\nx,1\n")
    assert "2 columns, none of them in variant 1: station, value" in str(ig.survey(folder.path))


def _screen(columns: int, command: str, cwd: Path) -> list[str]:
    """What a terminal of that width shows."""
    shell = f"stty cols {columns} rows 50; {sys.executable} -m integrum {command}"
    environment = {key: value for key, value in os.environ.items() if key != "COLUMNS"} | {"TERM": "xterm"}
    done = subprocess.run(
        ["script", "-qec", shell, "/dev/null"], cwd=cwd, capture_output=True, text=True, env=environment
    )
    plain = re.sub(r"\x1b\[[0-9;?]*[A-Za-z]|\r", "", done.stdout)
    return [line for line in plain.splitlines() if "━" not in line]


@pytest.mark.skipif(not Path("/usr/bin/script").exists(), reason="needs script")
@pytest.mark.parametrize("columns", [40, 80, 130])
def test_names_can_be_read_at_any_width(columns: int, folder, integrum, tmp_path) -> None:
    names = [f"vessel-lake/logger-of-the-northern-basin_2024-{month:02}_00479.csv" for month in range(1, 10)]
    for at, name in enumerate(names):
        folder.write(
            name, f"day,depth{',wind' if at > 6 else ''}\n2024-05-0{at + 1},deep{',4' if at > 6 else ''}\n"
        )
    lines = _screen(columns, "survey in", tmp_path)
    assert all(len(line) <= columns for line in lines)
    assert re.sub(r"[\s…]", "", names[0]) in re.sub(r"\s", "", "".join(lines))
    (tmp_path / "p.toml").write_text(HEAD + 'type = "number"\n')
    lines = _screen(columns, "assemble p.toml --to o.csv", tmp_path)
    shown = " ".join(" ".join(lines).split())
    assert "hint: " in shown and "more in o-record/problems.csv" in shown
    piped = integrum("assemble", "p.toml", "--to", "o.csv").stdout
    assert all(name in piped or name[:20] in piped for name in names[:3])
    assert "    hint: fix it in the source" in piped


def test_help_is_in_words_and_completion_has_every_command(integrum) -> None:
    for command in ("survey", "draft", "assemble", "trace", "overview", "report", "demo"):
        said = integrum(command, "--help").stdout
        assert not re.search(r"\b(INT|STR|FLOAT|PATH|int|str)\b", said)
    wrong = integrum("trace", "o.csv", "first")
    assert "expected a whole number, got first" in wrong.stderr
    assert 'unknown command "assamble"; did you mean "assemble"?' in integrum("assamble", "in").stderr
    assert "unknown option --exlude; did you mean" in integrum("survey", "in", "--exlude", "x").stderr
    for shell in ("bash", "zsh", "tcsh"):
        script = integrum("--completion", shell).stdout
        assert "assemble" in script and ("--stop-at-first" in script or shell == "tcsh")
    assert {"survey", "draft"} <= set(parser()._subparsers._group_actions[0].choices)


def test_the_notebook_runs(tmp_path) -> None:
    notebook = nbformat.read(ROOT / "examples" / "05_notebook.ipynb", as_version=4)
    written = [json.dumps(cell.get("outputs", [])) for cell in notebook.cells]
    NotebookClient(
        notebook, timeout=300, kernel_name="python3", resources={"metadata": {"path": str(tmp_path)}}
    ).execute()
    for cell, before in zip(notebook.cells, written, strict=True):
        for output in cell.get("outputs", []):
            html = output.get("data", {}).get("text/html", "")
            if "integrum" in html:
                assert json.dumps(html)[1:-1] in before, "run the notebook again and save it"
    assert sum("text/html" in text for text in written) >= 6


def test_a_wheel_can_be_built_and_installed(tmp_path) -> None:
    """In a fresh environment with nothing but the wheel; what it depends on is lent by this one."""
    run = lambda *command, **more: subprocess.run(command, check=True, capture_output=True, text=True, **more)  # noqa: E731
    run(
        sys.executable,
        "-m",
        "pip",
        "wheel",
        "--quiet",
        "--no-deps",
        "--no-build-isolation",
        "--wheel-dir",
        str(tmp_path),
        str(ROOT),
    )
    (wheel,) = tmp_path.glob("integrum-*.whl")
    names = zipfile.ZipFile(wheel).namelist()
    for name in (
        "integrum/py.typed",
        "integrum/pages/draft.html.jinja",
        "integrum/pages/draft.js",
        "integrum/problems/problems.md",
        "integrum/columns/names/glossary.txt",
    ):
        assert name in names
    run(sys.executable, "-m", "venv", str(tmp_path / "fresh"))
    python = tmp_path / "fresh" / "bin" / "python"
    run(str(python), "-m", "pip", "install", "--quiet", "--no-deps", "--no-index", str(wheel))
    packages = run(str(python), "-c", "import sysconfig; print(sysconfig.get_path('purelib'))").stdout.strip()
    lent = run(sys.executable, "-c", "import sysconfig; print(sysconfig.get_path('purelib'))").stdout
    Path(packages, "lent.pth").write_text(lent)
    clean = {key: value for key, value in os.environ.items() if key != "PYTHONPATH"}
    command = tmp_path / "fresh" / "bin" / "integrum"
    assert "integrum 0.1.0" in run(str(command), "--version", cwd=tmp_path, env=clean).stdout
    where = run(
        str(python), "-c", "import integrum; print(integrum.__file__)", cwd=tmp_path, env=clean
    ).stdout
    assert where.startswith(packages)
    run(str(command), "demo", "lakes", "--data-only", cwd=tmp_path, env=clean)
    made = run(
        str(command), "assemble", "lakes/visits", "--to", "visits.csv", "--report", cwd=tmp_path, env=clean
    )
    assert made.stdout.startswith("120 rows × 8 columns from 4 of 4 sources")
