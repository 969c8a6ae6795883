"""Words for a paper and a codebook for people: each sentence is true, and is not there when what it says is not so."""

import re
from pathlib import Path

import openpyxl
import pytest

import integrum as ig

HEADER = "day,depth,lake\n"


def table(folder: Path, files: dict[str, str], plan: str = "", to: str = "o.csv", **more) -> ig.Outcome:
    """Assemble some files by a plan that has columns, and more lines of the plan."""
    for name, text in files.items():
        (folder / "in" / name).parent.mkdir(parents=True, exist_ok=True)
        (folder / "in" / name).write_text(text)
    columns = "" if "[[columns]]" in plan else COLUMNS
    groups = "" if "[[sources]]" in plan else '[[sources]]\nfind = ["in"]\n'
    (folder / "plan.toml").write_text(f"integrum = 1\n{groups}{plan}{columns}")
    return ig.assemble(folder / "plan.toml", to=folder / to, replace=True, **more)


COLUMNS = """
[[columns]]
name = "day"
type = "date"
[[columns]]
name = "depth"
type = "number"
[[columns]]
name = "lake"
"""
PLAIN = {"a.csv": f"{HEADER}2024-05-01,3.2,amber\n", "b.csv": f"{HEADER}2024-05-02,4.1,amber\n"}


def column(name: str, kind: str = "text", more: str = "") -> str:
    return f'\n[[columns]]\nname = "{name}"\ntype = "{kind}"\n{more}\n'


def workbook(folder: Path) -> None:
    book = openpyxl.Workbook()
    for number, name in enumerate(("May", "June")):
        sheet = book.active if not number else book.create_sheet()
        sheet.title = name
        for row in (HEADER.strip().split(","), ["2024-05-01", 3.2, f"lake {name}"]):
            sheet.append(row)
    (folder / "in").mkdir(exist_ok=True)
    book.save(folder / "in" / "visits.xlsx")


# what is said, the files and the plan with which it is so, and those with which it is not
SENTENCES = {
    "different headers": (
        "The sources have 2 different headers.",
        ({**PLAIN, "c.csv": "lake,depth,day\namber,1,2024-05-03\n"}, ""),
        (PLAIN, ""),
    ),
    "several names": (
        'The column "depth" has more than one name in the sources; the names were matched as a plan lists them.',
        (
            {**PLAIN, "c.csv": "day,deep,lake\n2024-05-03,1,amber\n"},
            column("day", "date") + column("depth", "number", 'also = ["deep"]') + column("lake"),
        ),
        (PLAIN, column("day", "date") + column("depth", "number", 'also = ["deep"]') + column("lake")),
    ),
    "facts of names": (
        'The column "site" was filled from the names of files and folders.',
        (PLAIN, 'ids = "{site}.csv"\n'),
        (PLAIN, ""),
    ),
    "facts of folders and the plan": (
        'The column "of" was filled from the plan. The column "where" was filled from the names of folders.',
        (PLAIN, 'constants = { of = "spring" }\nfacts = { where = "folder" }\n'),
        (PLAIN, ""),
    ),
    "facts of lines above": (
        'The column "serial" was filled from lines above the header.',
        (
            {"a.csv": f"Serial: 17\n{HEADER}2024-05-01,3.2,amber\n"},
            "[sources.layout]\nheader_row = 2\ncapture = { serial = \"Serial\" }\n",
        ),
        ({"a.csv": f"Serial: 17\n{HEADER}2024-05-01,3.2,amber\n"}, "[sources.layout]\nheader_row = 2\n"),
    ),
    "turned": (
        "1 source with values of one kind in several columns was turned: each month has a row of its own.",
        (
            {"a.csv": "lake,2024-05,2024-06\namber,1,2\n"},
            'wide = { headers = "20??-??", name = "month", value = "count" }\n'
            + column("lake") + column("month") + column("count", "integer"),
        ),
        ({"a.csv": "lake,month,count\namber,2024-05,1\n"}, column("lake") + column("month") + column("count", "integer")),
    ),
    "units": (
        'Values of "depth" were converted to m from cm (1 source).',
        (
            {**PLAIN, "c.csv": "day,depth (cm),lake\n2024-05-03,100,amber\n"},
            column("day", "date") + column("depth", "number", 'unit = "m"\nalso = ["depth (cm)"]') + column("lake"),
        ),
        (PLAIN, column("day", "date") + column("depth", "number", 'unit = "m"\nalso = ["depth (cm)"]') + column("lake")),
    ),
    "codes": (
        '"-9" stands for no value in the columns "depth" and "lake" (3 cells).',
        (
            {"a.csv": f"{HEADER}2024-05-01,-9,-9\n2024-05-02,-9,amber\n"},
            column("day", "date") + column("depth", "number", 'missing = ["-9"]') + column("lake", more='missing = ["-9"]'),
        ),
        (PLAIN, column("day", "date") + column("depth", "number", 'missing = ["-9"]') + column("lake")),
    ),
    "orders": (
        'Dates of digits in the column "day" are read as day-month-year.',
        ({"a.csv": f"{HEADER}01.05.2024,3,amber\n"}, 'date_order = "dmy"\n'),
        (PLAIN, ""),
    ),
    "orders in places": (
        'In "b.csv", dates of digits in "day" are read as month-day-year. '
        'Dates of digits in the column "day" are read as day-month-year.',
        (
            {"a.csv": f"{HEADER}31.05.2024,3,amber\n", "b.csv": f"{HEADER}05.31.2024,3,amber\n"},
            column("day", "date", 'date_order = "dmy"\ndate_order_in = { mdy = ["b.csv"] }')
            + column("depth", "number") + column("lake"),
        ),
        (PLAIN, ""),
    ),
    "zones": (
        'Times of the column "day" are in the time zone UTC.',
        (
            {"a.csv": f"{HEADER}2024-05-01 10:00,3,amber\n"},
            column("day", "datetime", 'zone = "UTC"') + column("depth", "number") + column("lake"),
        ),
        (
            {"a.csv": f"{HEADER}2024-05-01 10:00,3,amber\n"},
            column("day", "datetime") + column("depth", "number") + column("lake"),
        ),
    ),
    "limits": (
        '1 value of "depth" is beyond what can be measured; the table has the limit, and its sign in "depth_flag".',
        (
            {"a.csv": f"{HEADER}2024-05-01,<0.5,amber\n"},
            column("day", "date") + column("depth", "number", 'censored = "depth_flag"') + column("lake"),
        ),
        (PLAIN, column("day", "date") + column("depth", "number", 'censored = "depth_flag"') + column("lake")),
    ),
    "joined": (
        'The column "at" is made of the columns "day" and "clock" of the sources.',
        ({"a.csv": "day,clock\n2024-05-01,10:00\n"}, column("at", "datetime", 'from = ["day", "clock"]')),
        ({"a.csv": "at\n2024-05-01 10:00\n"}, column("at", "datetime")),
    ),
    "commas": (
        "1 source has decimal commas. 1 source is in the encoding cp1252.",
        (
            {"a.csv": "depth;lake\n3,2;amber\n"},
            '[sources.layout]\ndelimiter = ";"\ndecimal_mark = ","\nencoding = "cp1252"\n'
            + column("depth", "number") + column("lake"),
        ),
        (
            {"a.csv": "depth;lake\n3.2;amber\n"},
            '[sources.layout]\ndelimiter = ";"\n' + column("depth", "number") + column("lake"),
        ),
    ),
    "shares": (
        'Percentages of the column "depth" are in the table as shares.',
        ({"a.csv": "depth\n32 %\n"}, column("depth", "number", 'percent = "share"')),
        ({"a.csv": "depth\n32 %\n"}, column("depth", "number", 'percent = "as-written"')),
    ),
    "replaced": (
        'Texts of the column "lake" are brought to one form, as the plan lists it.',
        (PLAIN, column("day", "date") + column("depth", "number") + column("lake", more='values = { amber = "Ambermere" }')),
        (PLAIN, ""),
    ),
    "not data": (
        "Of the 6 rows in these sources, 4 are not data: header (2), repeated header (1) and blank (1).",
        ({**PLAIN, "a.csv": f"{HEADER}2024-05-01,3.2,amber\n\n{HEADER}"}, ""),
        (PLAIN, ""),
    ),
    "sources set aside": (
        "1 source is not in the table: c.csv (an empty file or sheet).",
        ({**PLAIN, "c.csv": ""}, ""),
        (PLAIN, ""),
    ),
    "copies": (
        "1 source has the same content as an earlier one, and was not taken again.",
        ({**PLAIN, "c.csv": PLAIN["a.csv"]}, ""),
        (PLAIN, ""),
    ),
    "rows set aside": (
        "1 row that may be data is not in the table (a row with more cells than the header).",
        ({"a.csv": PLAIN["a.csv"] + "2024-05-02,1,amber,more\n"}, ""),
        (PLAIN, ""),
    ),
    "rows for several causes": (
        "3 rows that may be data are not in the table: 2 (a row with more cells than the header) and 1 (a row with fewer "
        "cells than the header).",
        ({"a.csv": PLAIN["a.csv"] + "2024-05-02,1,amber,more\n2024-05-02,2,amber,more\n2024-05-02,1\n"}, ""),
        (PLAIN, ""),
    ),
    "cells": (
        "2 cells of 1 column were left empty (a value that does not have the type of its column).",
        ({"a.csv": f"{HEADER}2024-05-01,deep,amber\n2024-05-02,x,amber\n"}, ""),
        (PLAIN, ""),
    ),
    "columns": (
        '1 column of the sources is not in the table: "ice".',
        ({**PLAIN, "c.csv": "day,depth,lake,ice\n2024-05-03,1,amber,yes\n"}, ""),
        (PLAIN, ""),
    ),
    "columns that are not wanted": (
        'The column "ice" of the sources was left out, as the plan says.',
        ({**PLAIN, "c.csv": "day,depth,lake,ice\n2024-05-03,1,amber,yes\n"}, 'leave_out = ["ice"]\n'),
        (PLAIN, 'leave_out = ["ice"]\n'),
    ),
    "identifiers": (
        "1 value from names or lines above the header was left empty, in 1 source.",
        ({"2024_a.csv": PLAIN["a.csv"], "b.csv": PLAIN["b.csv"]}, 'ids = "{year}_*.csv"\n'),
        ({"2024_a.csv": PLAIN["a.csv"], "2025_b.csv": PLAIN["b.csv"]}, 'ids = "{year}_*.csv"\n'),
    ),
    "absent": (
        "Expected, but not found: 1 (there are more or fewer sources than the plan expects).",
        (PLAIN, "expect = 3\n"),
        (PLAIN, "expect = 2\n"),
    ),
    "whole": (
        "No source, no row of data and no cell of the sources is missing from the table.",
        (PLAIN, ""),
        ({**PLAIN, "c.csv": ""}, ""),
    ),
    "checks": (
        "The table passed the check of the plan.",
        (PLAIN, COLUMNS + '\n[[checks]]\nunique = ["day"]\n'),
        (PLAIN, COLUMNS + '\n[[checks]]\nunique = ["lake"]\n'),
    ),
    "checks that failed": (
        "The table failed 1 of 2 checks of the plan: once (1 found).",
        (PLAIN, COLUMNS + '\n[[checks]]\nname = "once"\nunique = ["lake"]\n[[checks]]\nunique = ["day"]\n'),
        (PLAIN, COLUMNS + '\n[[checks]]\nunique = ["day"]\n'),
    ),
}  # fmt: skip


@pytest.mark.parametrize("which", SENTENCES)
def test_a_sentence_is_there_when_it_is_true_and_only_then(tmp_path: Path, which: str) -> None:
    said, so, not_so = SENTENCES[which]
    (tmp_path / "one").mkdir()
    (tmp_path / "two").mkdir()
    assert said in (text := table(tmp_path / "one", *so).methods), text
    assert said not in (text := table(tmp_path / "two", *not_so).methods), text


def test_what_is_left_out_by_the_plan_is_not_called_whole(tmp_path: Path) -> None:
    text = table(
        tmp_path, {"a.csv": "day,depth,lake,ice\n2024-05-03,1,amber,yes\n"}, 'leave_out = ["ice"]\n'
    ).methods
    assert "No other cell, no row of data and no source is missing from the table." in text
    assert "No source, no row" not in text


def test_the_first_sentence_counts(tmp_path: Path) -> None:
    outcome = table(tmp_path, PLAIN)
    assert outcome.methods.startswith(
        "A table of 2 rows and 5 columns was made from 2 sources: 2 .csv files."
    )
    assert "All 2 rows" not in outcome.methods
    workbook(tmp_path)
    outcome = table(tmp_path, {"c.csv": ""})
    assert outcome.methods.startswith(
        "A table of 4 rows and 6 columns was made from 4 of 5 sources: 2 .csv files and 2 sheets of 1 workbook."
    )
    assert (
        'Each row says where it is from (the columns "source", "sheet" and "source_row").' in outcome.methods
    )


def test_functions_versions_and_seal_are_named(tmp_path: Path) -> None:
    (tmp_path / "steps.py").write_text("def lake(text):\n    return text.title()\n")
    plan = column("day", "date") + column("depth", "number") + column("lake", more='read = "steps.py:lake"')
    outcome = table(tmp_path, PLAIN, plan, allow_code=True)
    assert "Values were read by a function of the authors: lake in steps.py." in outcome.methods
    assert "function of the authors" not in table(tmp_path, PLAIN).methods
    said = outcome.methods.split("\n\n")
    run = ig.read_record(outcome.record).run
    assert (
        said[1]
        .strip()
        .endswith(f"have the seal {ig.verify(tmp_path / 'o.csv').seal}, by which they can be verified.")
    )
    assert (
        f"Integrum {ig.__version__} (Python {run.python}, pyarrow {run.pyarrow} and NumPy {run.numpy})"
        in said[1]
    )


def test_it_is_made_from_the_record_alone_and_verified_with_it(tmp_path: Path, integrum) -> None:
    outcome = table(tmp_path, {**PLAIN, "c.csv": ""}, 'ids = "{site}.csv"\n')
    record = ig.read_record(outcome.record)
    written = (outcome.record / "methods.txt").read_text()
    for source in (tmp_path / "in").iterdir():
        source.unlink()
    assert record.methods == written == outcome.methods
    assert integrum("report", "o.csv", "--methods", cwd=tmp_path).stdout == written
    (outcome.record / "methods.txt").write_text("We did this and that.\n")
    found = [
        one for one in ig.verify(outcome.output).findings if one.what == "record" and one.state != "same"
    ]
    assert [(one.name, one.state) for one in found] == [("methods.txt", "changed")]


def test_words_that_somebody_has_changed_are_kept(tmp_path: Path) -> None:
    outcome = table(tmp_path, PLAIN)
    (outcome.record / "methods.txt").write_text("We did this and that.\n")
    again = table(tmp_path, {"c.csv": f"{HEADER}2024-05-03,1,amber\n"})
    assert again.taken_over == 2 and "3 rows" in again.methods
    assert (again.record / "methods-changed.txt").read_text() == "We did this and that.\n"
    third = table(tmp_path, {})
    assert (third.record / "methods.txt").read_text() == again.methods


def test_the_words_are_the_same_from_run_to_run(tmp_path: Path) -> None:
    first = table(tmp_path, PLAIN).methods
    assert table(tmp_path, PLAIN).methods == first == table(tmp_path, PLAIN, afresh=True).methods


# --- the codebook


def codebook(folder: Path) -> ig.Outcome:
    files = {
        "a.csv": "day,depth,lake,ice\n01.05.2024,3.2,amber,yes\n02.05.2024,-9,amber,no\n",
        "b.csv": "day,deep (cm),lake,ice\n03.05.2024,410,quillon | x,yes\n",
    }
    plan = (
        'date_order = "dmy"\n'
        + column("day", "date", 'description = "of the *visit*"\ndate_order = "dmy"')
        + column("depth", "number", 'unit = "m"\nalso = ["deep (cm)"]\nmissing = ["-9", "n/a"]')
        + column("lake") + column("ice", "boolean")
    )  # fmt: skip
    return table(folder, files, plan)


def test_the_codebook_says_what_each_column_is(tmp_path: Path) -> None:
    outcome = codebook(tmp_path)
    by_name = {one.name: one for one in ig.read_record(outcome.record).codebook}
    assert list(by_name) == outcome.schema.names
    depth = by_name["depth"]
    assert (depth.type, depth.unit, depth.range, depth.filled, depth.share) == (
        "number",
        "m",
        "3.2 to 4.1",
        2,
        "66.7 %",
    )
    assert depth.missing == ('"-9" (1 cell)', '"n/a" (0 cells)')
    assert list(map(str, depth.others)) == ['"deep (cm)" (1 source: b.csv)', '"depth" (1 source: a.csv)']
    assert depth.converted == ("converted from cm to m in 1 source",)
    assert (
        by_name["day"].description == "of the *visit*" and by_name["day"].range == "2024-05-01 to 2024-05-03"
    )
    assert by_name["day"].converted == ("dates of digits read as day-month-year",)
    assert by_name["lake"].range == "amber (2), quillon | x (1)" and by_name["lake"].heading == "values"
    assert by_name["source_row"].description == "the row in the file, the header counted, from 1"


def test_the_codebook_is_a_page_and_a_text(tmp_path: Path, integrum) -> None:
    outcome = codebook(tmp_path)
    done = integrum("report", "o.csv", cwd=tmp_path)
    assert done.stdout.splitlines() == ["report: o-record/report.html", "codebook: o-record/codebook.html"]
    text, page = ((outcome.record / f"codebook.{kind}").read_text() for kind in ("md", "html"))
    assert "## depth\n" in text and r"of the \*visit\*" in text and r"quillon \| x" in text
    assert re.findall("^## (.*)", text, re.M) == ["source", "source\\_row", "day", "depth", "lake", "ice"]
    for said in ("of the *visit*", "3.2 to 4.1", "converted from cm to m in 1 source", "quillon | x"):
        assert said in page
    assert "http" not in page.replace("http-equiv", "") and "<script" not in page
    assert ig.verify(outcome.output)
    (outcome.record / "codebook.md").write_text("mine")
    assert (
        "codebook.md exists, and is not as Integrum made it"
        in integrum("report", "o.csv", cwd=tmp_path).stderr
    )
    again = table(tmp_path, {"c.csv": "day,depth,lake,ice\n01.06.2024,3.2,amber,yes\n"})
    assert (again.record / "codebook-changed.md").read_text() == "mine"


def test_a_draft_leaves_a_place_for_descriptions(tmp_path: Path, integrum) -> None:
    codebook(tmp_path)
    draft = ig.draft(tmp_path / "in")
    text = str(draft)
    assert text.count('description = ""') == len(draft.plan.columns) == text.count("[[columns]]")
    draft.save(tmp_path / "d.toml")
    text = (tmp_path / "d.toml").read_text().replace('description = ""', 'description = "of the visit"', 1)
    (tmp_path / "d.toml").write_text(text)
    (tmp_path / "in" / "c.csv").write_text("day,depth,lake,ice,wind\n01.06.2024,3.2,amber,yes,N\n")
    assert integrum("draft", "--plan", "d.toml", "--update", cwd=tmp_path).returncode == 0
    plan = ig.read_plan(tmp_path / "d.toml")
    assert plan.columns[0].description == "of the visit"
    # what is there stays as it is written, and a new column has such a place, too
    assert (tmp_path / "d.toml").read_text().count("description = ") == len(plan.columns) == 6


def test_what_the_plan_says_of_the_whole_goes_with_the_table(tmp_path: Path) -> None:
    about = '[dataset]\ntitle = "Depths <of> lakes"\nlicense = "CC BY 4.0"\npeople = ["Orla Fenwick", "Ned Ashby"]\n'
    plan = f'{about}[[sources]]\nfind = ["in"]\n'
    outcome = table(tmp_path, PLAIN, plan)
    metadata = (tmp_path / "o.csv-metadata.json").read_text()
    assert (
        '"dc:title": "Depths <of> lakes"' in metadata
        and '"dc:contributor": "Orla Fenwick, Ned Ashby"' in metadata
    )
    ig.report(outcome.output)
    assert "Depths &lt;of&gt; lakes: codebook" in (outcome.record / "codebook.html").read_text()
    # a title changes no row, so nothing is read again for it
    again = table(tmp_path, {}, plan.replace("<of>", "of two"))
    assert again.taken_over == 2 and "Depths of two lakes" in (tmp_path / "o.csv-metadata.json").read_text()


@pytest.mark.parametrize(
    ("said", "wrong"),
    [
        ('titel = "x"', 'unknown key; did you mean "title"?'),
        ("people = [3]", 'people[1]: expected a text, got the number 3; write "3"'),
        ('people = ["A", "A"]', '"A" is named twice'),
        ('people = [{ id = "x" }]', "people[1], key name: missing"),
    ],
)
def test_what_is_wrong_in_it_is_said(said: str, wrong: str) -> None:
    with pytest.raises(ig.PlanError, match=re.escape(wrong)):
        ig.parse_plan(f'integrum = 1\n[dataset]\n{said}\n[[sources]]\nfind = ["in"]\n')


def test_python_says_the_same_as_the_file() -> None:
    people = ["Orla Fenwick", ig.Person("Ned Ashby", id="https://orcid.org/0", affiliation="Lake Office")]
    plan = ig.Plan(["in"], dataset=ig.Dataset("T", "D", license="L", people=people))
    assert ig.parse_plan(ig.write_plan(plan)) == plan
    assert eval(plan.to_python().split("plan = ")[1].split("\n\n\n")[0], {"ig": ig}) == plan
