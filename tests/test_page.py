"""The page to decide on, in a real browser: each kind of decision clicked, merged into the plan, and the table compared."""

import json
import re
from collections.abc import Callable, Iterator
from dataclasses import fields
from pathlib import Path
from typing import Any

import pytest

import integrum as ig
from looking import Seen, browser, needs_browser

EVIL = '<img src=x onerror="window.hacked=1">'
LAKES = {
    "amb_2021.csv": "site,water_temp,wind,battery,habitat,oxygen,sampled\n"
    "A1,11.2,3,12.1,Reed,8.1,03/04/2021\n"
    "A2,12.9,4,12.0,Reed,low,04/04/2021\n"
    "A3,10.1,0,12.2,reed,7.9,05/04/2021\n"
    "A4,10.6,5,12.2,Open,8.0,06/04/2021\n",
    "amb_2022.csv": "site,T_water,wind,battery,habitat,oxygen,sampled\n"
    "A1,11.6,6,12.1,Open,8.3,03/05/2022\n"
    "A2,12.1,7,12.0,Open,low,04/05/2022\n"
    "A3,10.9,0,12.2,Reed,7.1,05/05/2022\n"
    "A4,11.1,2,12.2,Reed,7.7,06/05/2022\n",
    "qui_2022.csv": "site,T_water,wind,battery,habitat,oxygen,sampled\n"
    "B1,13.6,6,12.1,Open,8.9,07/05/2022\n"
    "B2,13.1,7,12.0,Open,8.2,08/05/2022\n"
    "B3,12.7,1,12.2,Reed,7.8,09/05/2022\n"
    "quality,12.7,1,12.2,Reed,7.8,09/05/2022\n",
    "old_2020.csv": "site,T_water,wind,battery,habitat,oxygen,sampled\nA1,9.9,6,12.1,Open,8.9,07/05/2020\n",
}
# what the decisions of the first test make of it
MEANT = """\
source,source_row,lake,year,site,T_water,wind,habitat,oxygen,sampled
amb_2021.csv,2,amb,2021,A1,11.2,3,Reed,8.1,2021-03-04
amb_2021.csv,3,amb,2021,A2,12.9,4,Reed,,2021-04-04
amb_2021.csv,4,amb,2021,A3,10.1,,Reed,7.9,2021-05-04
amb_2021.csv,5,amb,2021,A4,10.6,5,Open,8.0,2021-06-04
amb_2022.csv,2,amb,2022,A1,11.6,6,Open,8.3,2022-03-05
amb_2022.csv,3,amb,2022,A2,12.1,7,Open,,2022-04-05
amb_2022.csv,4,amb,2022,A3,10.9,,Reed,7.1,2022-05-05
amb_2022.csv,5,amb,2022,A4,11.1,2,Reed,7.7,2022-06-05
qui_2022.csv,2,qui,2022,B1,13.6,6,Open,8.9,2022-07-05
qui_2022.csv,3,qui,2022,B2,13.1,7,Open,8.2,2022-08-05
qui_2022.csv,4,qui,2022,B3,12.7,1,Reed,7.8,2022-09-05
"""


@pytest.fixture(scope="module")
def chromium() -> Iterator[Any]:
    with browser() as started:
        yield started


Open = Callable[..., Seen]


@pytest.fixture
def opened(chromium: Any) -> Iterator[Open]:
    """Open a page; at the end nothing went wrong on any, and nothing was asked for."""
    contexts, pages = [], []

    def open_page(path: Path, width: int = 1280, **options: Any) -> Seen:
        context = chromium.new_context(viewport={"width": width, "height": 800}, **options)
        contexts.append(context)
        seen = Seen(context.new_page(), path)
        pages.append(seen)
        return seen

    yield open_page
    for seen in pages:
        assert seen.faults == []
        assert [one for one in seen.asked if one != seen.path.as_uri() and not one.startswith("blob:")] == []
    for context in contexts:
        context.close()


def write(folder: Any, files: dict[str, str]) -> None:
    for name, text in files.items():
        folder.write(name, text)


@needs_browser
def test_every_kind_of_decision(folder, integrum, opened, tmp_path) -> None:
    write(folder, LAKES)
    ran = integrum("draft", "in", "--plan", "lakes.toml", "--page")
    assert ran.returncode == 0, ran.stderr
    assert "page: lakes-draft.html" in ran.stdout
    assert "integrum draft --plan lakes.toml --decisions lakes-decisions.json" in ran.stdout
    seen = opened(tmp_path / "lakes-draft.html")
    before = seen.left
    seen.choose('Is "water_temp" the same column as "T_water"?', "the same")
    seen.choose('Is "reed" the same as "Reed" in "habitat"?', "the same")
    seen.choose('How is "sampled" to be read?', "dates are month-day-year")
    assert seen.left == before - 3
    seen.column("oxygen").get_by_label("type of oxygen").focus()
    seen.column("oxygen").get_by_label("type of oxygen").select_option("number")
    seen.column("wind").get_by_label("a missing code of wind").fill("0")
    seen.column("wind").get_by_role("button", name="means “no value”").first.click()
    seen.column("wind").get_by_label("unit of wind").fill("m/s")
    seen.column("wind").get_by_label("unit of wind").press("Enter")
    seen.column("battery").get_by_role("button", name="leave out").click()
    seen.page.locator("summary").filter(has_text="old_2020.csv").first.click()
    old = seen.page.locator("details.source").filter(has_text="old_2020.csv").last
    old.get_by_role("button", name="leave out this source").click()
    seen.part("qui_2022.csv", 5, "footer")
    seen.page.get_by_label("name of the column for name").fill("lake")
    seen.page.get_by_role("button", name="make them columns").click()
    assert len(seen.decided) == 10
    document = seen.download(tmp_path / "down")
    ran = integrum("draft", "--plan", "lakes.toml", "--decisions", document)
    assert ran.returncode == 0, ran.stderr
    assert "10 decisions made:" in ran.stdout
    assert '"water_temp" is the same column as "T_water"' in ran.stdout
    assert "the beginning of the footer (rows of data in 1 source: 4, now 3)" in ran.stdout
    text = (tmp_path / "lakes.toml").read_text()
    assert "# Drafted from 4 sources" in text and 'unit = "m/s"' in text
    ran = integrum("assemble", "lakes.toml", "--to", "lakes.csv")
    assert (tmp_path / "lakes.csv").read_text() == MEANT
    # kept beside the plan, and nothing is left to do
    kept = json.loads((tmp_path / "lakes-decisions.json").read_text())
    assert kept["integrum_decisions"] == 1 and len(kept["decisions"]) == 10
    again = integrum("draft", "--plan", "lakes.toml", "--update")
    assert "10 decisions already in the plan" in again.stdout
    assert (tmp_path / "lakes.toml").read_text() == text


@needs_browser
def test_undo_and_taking_back(folder, integrum, opened, tmp_path) -> None:
    write(folder, LAKES)
    integrum("draft", "in", "--plan", "lakes.toml", "--page")
    seen = opened(tmp_path / "lakes-draft.html")
    left = seen.left
    undo = seen.page.get_by_role("button", name="Undo")
    assert undo.is_disabled() and seen.page.get_by_role("button", name="Download").is_disabled()
    seen.choose('Is "water_temp" the same column as "T_water"?', "the same")
    seen.choose('Is "water_temp" the same column as "T_water"?', "not the same")
    assert seen.decided == ["“water_temp” is not the same column as “T_water”"]
    undo.click()
    assert seen.decided == ["“water_temp” is the same column as “T_water”"]
    seen.column("wind").get_by_label("unit of wind").fill("m/s")
    seen.column("wind").get_by_label("unit of wind").press("Tab")
    seen.column("battery").get_by_role("button", name="leave out").click()
    assert len(seen.decided) == 3
    seen.page.keyboard.press("Control+z")
    assert [one for one in seen.decided if "battery" in one] == []
    seen.page.get_by_role("button", name="take back: the unit of “wind” is m/s").click()
    assert seen.column("wind").get_by_label("unit of wind").input_value() == ""
    undo.click()
    assert seen.column("wind").get_by_label("unit of wind").input_value() == "m/s"
    for _ in range(2):
        undo.click()
    assert seen.decided == [] and seen.left == left and undo.is_disabled()
    # what is copied is what is downloaded
    seen.choose('What is "oxygen"?', "text, as it is written")
    seen.page.context.grant_permissions(["clipboard-read", "clipboard-write"])
    seen.page.get_by_role("button", name="Copy").click()
    seen.page.locator("#last", has_text="copied").wait_for()
    copied = seen.page.evaluate("navigator.clipboard.readText()")
    assert copied == seen.download(tmp_path).read_text(encoding="utf-8")
    undo.click()
    # pressed again, a choice is taken back
    seen.choose('Is "water_temp" the same column as "T_water"?', "the same")
    seen.choose('Is "water_temp" the same column as "T_water"?', "the same")
    assert seen.decided == []


@needs_browser
def test_what_was_decided_is_still_there_when_the_page_is_opened_again(
    folder, integrum, chromium, tmp_path
) -> None:
    write(folder, LAKES)
    integrum("draft", "in", "--plan", "lakes.toml", "--page")
    context = chromium.new_context()
    seen = Seen(context.new_page(), tmp_path / "lakes-draft.html")
    seen.choose('What is "oxygen"?', "text, as it is written")
    again = Seen(context.new_page(), tmp_path / "lakes-draft.html")
    assert again.decided == ["“oxygen” has the type text"]
    assert "from an earlier look" in again.page.inner_text("#last")
    context.close()


@needs_browser
def test_by_keyboard_alone(folder, integrum, opened, tmp_path) -> None:
    write(folder, LAKES)
    integrum("draft", "in", "--plan", "lakes.toml", "--page")
    seen = opened(tmp_path / "lakes-draft.html")
    press = seen.page.keyboard.press

    def focused() -> str:
        return seen.page.evaluate(
            "document.activeElement.getAttribute('aria-label') || document.activeElement.innerText || ''"
        )

    def tab_to(name: str, most: int = 400) -> None:
        for _ in range(most):
            press("Tab")
            if focused() == name:
                return
        raise AssertionError(f"{name} is not reached")

    press("Tab")
    assert focused() == "To the questions"
    press("Enter")
    tab_to("a number; the other 2 values become empty cells")
    press("Enter")
    tab_to("the same")
    press("Space")
    assert len(seen.decided) == 2
    tab_to("Which columns are in which sources: arrow keys move, the line below says what is there")
    for key in ("ArrowDown", "ArrowDown"):
        press(key)
    assert seen.page.inner_text("#cell-said").startswith("“water_temp”: variant 1 (3 sources, such as")
    press("ArrowRight")
    assert "variant 2 (1 source amb_2021.csv) has the column" in seen.page.inner_text("#cell-said")
    press("End")
    press("Home")
    tab_to("part of row 5 of amb_2022.csv")
    press("f")  # the first part that begins with it: footer is offered as its words are
    tab_to("unit of wind")
    seen.page.keyboard.type("m/s")
    press("Tab")
    assert "the unit of “wind” is m/s" in seen.decided
    tab_to("Undo")
    press("Enter")
    assert "the unit of “wind” is m/s" not in seen.decided
    # what has the focus can be seen, and every control says what it is
    nameless = seen.page.evaluate(
        "[...document.querySelectorAll('button, select, input')].filter((one) => !(one.textContent.trim()"
        " || one.labels?.length || one.getAttribute('aria-label'))).map((one) => one.outerHTML.slice(0, 90))"
    )
    assert nameless == []


@needs_browser
def test_hostile_texts_run_nothing(folder, integrum, opened, tmp_path) -> None:
    closing = "</script><script>window.hacked=1</script>"
    turned = "dep\u202eth"
    for at in range(3):
        rows = "".join(f"{at}{row},{EVIL},{closing},2.{row},7\n" for row in range(5))
        folder.write(f"<b>{at}'&quot;.csv", f"site,{EVIL},{closing},{turned},__proto__\n{rows}")
    folder.write("odd.csv", f"site,{EVIL}_2,constructor,{turned}\n1,{closing},x,9.1\n")
    assert integrum("draft", "in", "--plan", "a'b.toml", "--page").returncode == 0
    page = tmp_path / "a'b-draft.html"
    seen = opened(page)
    assert seen.page.evaluate("window.hacked === undefined && document.querySelectorAll('img').length === 0")
    assert seen.page.locator("script").count() == 2
    seen.column(EVIL).get_by_role("button", name="leave out").click()
    seen.column("__proto__").get_by_label("unit of __proto__").fill(closing)
    seen.column("__proto__").get_by_label("unit of __proto__").press("Tab")
    assert "\u202e" not in seen.page.inner_text("main")
    seen.column("dep\\u202eth").get_by_role("button", name="leave out").click()
    said = seen.document(tmp_path)
    assert said == [
        {"about": "column", "column": EVIL, "keep": False},
        {"about": "unit", "column": "__proto__", "unit": closing},
        {"about": "column", "column": turned, "keep": False},
    ]
    assert seen.page.evaluate("window.hacked === undefined")
    policy = re.search(r'Content-Security-Policy" content="(.*?)"', page.read_text())
    assert policy and "unsafe" not in policy[1] and "default-src &#39;none&#39;" in policy[1]
    ran = integrum("draft", "--plan", "a'b.toml", "--decisions", tmp_path / "a'b-decisions.json")
    assert "3 decisions made" in ran.stdout


@needs_browser
@pytest.mark.parametrize("width", [400, 1280, 2000])
def test_it_fits_a_phone_and_a_wall(folder, integrum, opened, tmp_path, width) -> None:
    write(folder, LAKES)
    folder.write(
        f"{'very_long_name_' * 9}2021.csv", LAKES["amb_2021.csv"].replace("habitat", "habitat_" * 20)
    )
    integrum("draft", "in", "--plan", "lakes.toml", "--page")
    seen = opened(tmp_path / "lakes-draft.html", width)
    for details in seen.page.locator("details").all():
        details.evaluate("(one) => { one.open = true; }")
    room = seen.page.evaluate("[document.documentElement.scrollWidth, document.documentElement.clientWidth]")
    assert room[0] <= room[1]
    dark = opened(tmp_path / "lakes-draft.html", width, color_scheme="dark")
    paper = dark.page.evaluate("getComputedStyle(document.body).backgroundColor")
    assert paper == "rgb(20, 24, 29)"
    dark.page.emulate_media(media="print")
    assert not dark.page.locator(".decision-bar").is_visible()
    assert dark.page.evaluate("getComputedStyle(document.body).backgroundColor") == "rgb(255, 255, 255)"


@needs_browser
def test_two_thousand_sources_of_two_hundred_columns(folder, integrum, opened, tmp_path) -> None:
    names = [f"m{at:03}" for at in range(200)]
    for at in range(2000):
        left = at % 8
        kept = names[:left] + names[left + 1 :]
        rows = ",".join("w" if column % 4 else f"{at % 97}.5" for column in range(199)) + "\n"
        folder.write(f"site_{at:04}.csv", ",".join(kept) + "\n" + rows)
    ran = integrum("draft", "in", "--plan", "lakes.toml", "--page")
    assert ran.returncode == 0, ran.stderr
    page = tmp_path / "lakes-draft.html"
    assert page.stat().st_size <= 5_000_000
    seen = opened(page)
    seen.page.select_option("#across", "sources")
    seen.page.focus("#cells")
    seen.page.keyboard.press("Control+End")
    assert "site_1999.csv" in seen.page.inner_text("#cell-said")
    assert "more sources are not on this page" in seen.page.inner_text("main")
    # of 400,000 cells only those that can be seen are drawn
    assert seen.page.locator("#cells td").count() < 4_000
    assert seen.page.evaluate("document.querySelectorAll('*').length") < 60_000
    seen.page.fill("#find", "m199")
    assert seen.page.locator("#cells tbody tr").count() == 1


def test_next_month_what_was_decided_holds(folder, integrum, tmp_path) -> None:
    write(folder, LAKES)
    said = [
        {"about": "name", "column": "T_water", "header": "water_temp", "same": True},
        {"about": "type", "column": "oxygen", "type": "number"},
        {"about": "date-order", "column": "sampled", "order": "mdy"},
        {"about": "source", "source": "old_2020.csv", "keep": False},
        {"about": "line", "source": "qui_2022.csv", "row": 5, "part": "footer"},
        {"about": "identifiers", "scheme": "{name}_{year}.csv", "use": "{lake}_{year}.csv"},
    ]
    made = {"integrum_decisions": 1, "decisions": said}
    folder.write("../mine.json", json.dumps(made))
    ran = integrum("draft", "in", "--plan", "lakes.toml", "--decisions", "mine.json")
    assert ran.returncode == 0 and "6 decisions made" in ran.stdout, ran.stdout + ran.stderr
    first = (tmp_path / "lakes.toml").read_text()
    (tmp_path / "in" / "old_2020.csv").unlink()
    folder.write("qui_2023.csv", LAKES["qui_2022.csv"].replace("2022", "2023").replace("quality", "quality"))
    again = integrum("draft", "in", "--plan", "lakes.toml", "--replace")
    assert "5 decisions made" in again.stdout
    assert "1 decision does not fit (kept in lakes-decisions.json):" in again.stdout
    assert "source old_2020.csv is left out: there is no such source now" in again.stdout
    assert len(json.loads((tmp_path / "lakes-decisions.json").read_text())["decisions"]) == 6
    integrum("assemble", "lakes.toml", "--to", "lakes.csv")
    table = (tmp_path / "lakes.csv").read_text()
    assert "quality" not in table and "qui_2023.csv,4,qui,2023,B3,12.7" in table
    # in Python it is the same
    plan = tmp_path / "lakes.toml"
    draft = ig.draft([], onto=plan)
    assert [str(one.answer) for one in draft.settled if not one.fits] == ["source old_2020.csv is left out"]
    assert first != plan.read_text()


def test_asking_writes_and_reads_the_same_document(folder, served, tmp_path, integrum) -> None:
    write(folder, LAKES)
    import subprocess
    import sys

    command = [sys.executable, "-m", "integrum", "draft", "in", "--plan", "lakes.toml", "--ask"]
    ran = subprocess.run(
        command, cwd=tmp_path, input="1\nq\n2\ny\nl\n", capture_output=True, text=True, check=True
    )
    assert (
        'What is "oxygen"?' in ran.stdout
        and "  1  a number; the other 2 values become empty cells" in ran.stdout
    )
    assert "please answer 1, 2, 3, l or s" in ran.stdout
    assert "1 accepted, 0 refused, 2 chosen, 1 still open" in ran.stdout
    assert "kept for later drafts in lakes-decisions.json" in ran.stdout
    said = json.loads((tmp_path / "lakes-decisions.json").read_text())["decisions"]
    assert [one["about"] for one in said] == ["type", "date-order", "name"] or len(said) == 3
    plan = (tmp_path / "lakes.toml").read_text()
    assert 'date_order = "mdy"' in plan and "undecided" not in plan
    (tmp_path / "lakes.toml").unlink()
    again = integrum("draft", "in", "--plan", "lakes.toml")
    assert "3 decisions made" in again.stdout
    assert "1 value may be a different spelling" in again.stdout


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("[", "it is not JSON"),
        ("[]", 'does not have the key "integrum_decisions"'),
        ('{"integrum_decisions": 2}', "expected 1, the version of the document"),
        ('{"integrum_decisions": 1, "decision": []}', 'unknown key "decision"; did you mean "decisions"?'),
        ('{"integrum_decisions": 1, "decisions": {}}', "decisions: expected a list"),
        ('{"integrum_decisions": 1, "decisions": [7]}', "decisions[1]: expected a decision"),
        ('{"integrum_decisions": 1, "decisions": [{"about": "typ"}]}', "'typ' is not a kind of decision"),
        (
            '{"integrum_decisions": 1, "decisions": [{"about": "type", "column": "ph"}]}',
            "decisions[1] (about type): the key type is missing",
        ),
        (
            '{"integrum_decisions": 1, "decisions": [{"about": "type", "column": "ph", "type": "nmber"}]}',
            'key type: "nmber" is not a type; did you mean "number"?',
        ),
        (
            '{"integrum_decisions": 1, "decisions": [{"about": "name", "column": "a", "header": "b", "same": 1}]}',
            "key same: expected true or false, got the number 1",
        ),
        (
            '{"integrum_decisions": 1, "decisions": [{"about": "line", "source": "a", "row": 0, "part": "data"}]}',
            "key row: expected the number of a row, from 1, got the number 0",
        ),
    ],
)
def test_a_wrong_document_is_refused_with_its_place(folder, integrum, tmp_path, text, said) -> None:
    folder.write("a.csv", "day,ph\n2024-05-01,7.1\n")
    (tmp_path / "d.json").write_text(text)
    ran = integrum("draft", "in", "--plan", "p.toml", "--decisions", "d.json")
    assert ran.returncode == 2 and said in ran.stderr and "d.json" in ran.stderr, ran.stderr
    assert not (tmp_path / "p.toml").exists()


def settled(folder: Any, files: dict[str, str], *said: dict[str, Any]) -> ig.Draft:
    """A draft with decisions."""
    write(folder, files)
    folder.write("../d.json", json.dumps({"integrum_decisions": 1, "decisions": said}))
    return ig.draft(str(folder.path), decisions=folder.path.parent / "d.json")


def line(row: int, part: str, source: str = "a.csv") -> dict[str, Any]:
    return {"about": "line", "source": source, "row": row, "part": part}


@pytest.mark.parametrize(
    ("text", "said", "rows"),
    [
        # the header is further down than it was taken for
        ("x,y\n1,2\nsite,depth\nA,3\nB,4\n", [line(3, "header")], [("A", "3"), ("B", "4")]),
        # a header of two rows
        (
            "lake,lake\nsite,depth\nA,3\nB,4\nC,5\n",
            [line(1, "header"), line(2, "header")],
            [("A", "3"), ("B", "4"), ("C", "5")],
        ),
        # no header at all
        ("A,x\nB,y\nC,z\n", [line(1, "data")], [("A", "x"), ("B", "y"), ("C", "z")]),
        # units that were taken for data
        ("site,depth\nx,y\nA,3\nB,4\n", [line(1, "header"), line(2, "units")], [("A", "3"), ("B", "4")]),
        # a row that describes the columns
        (
            "site,depth\nplace,probe 3\nA,3\nB,4\n",
            [line(1, "header"), line(2, "description")],
            [("A", "3"), ("B", "4")],
        ),
        # comments, by their mark
        ("site,depth\nA,3\n%calibrated,9\nB,4\n", [line(3, "comment")], [("A", "3"), ("B", "4")]),
        # the end
        ("site,depth\nA,3\nB,4\nquality,9\nC,9\n", [line(4, "footer")], [("A", "3"), ("B", "4")]),
        # a first row of data that is none
        ("site,depth\nzero,0\nA,3\nB,4\n", [line(2, "preamble")], [("A", "3"), ("B", "4")]),
        # a footer that is data
        (
            "site,depth\nA,3\nB,4\nC,5\nTotal,12\n",
            [line(5, "data")],
            [("A", "3"), ("B", "4"), ("C", "5"), ("Total", "12")],
        ),
    ],
)
def test_the_part_of_a_line(folder, tmp_path, text, said, rows) -> None:
    draft = settled(folder, {"a.csv": text}, *said)
    assert {one.became for one in draft.settled} <= {"made", "there"}
    assert "made" in {one.became for one in draft.settled}
    plan = draft.save(tmp_path / "p.toml")
    table = ig.assemble(plan).table
    found = [
        tuple(map(str, row.values())) for row in table.drop_columns(["source", "source_row"]).to_pylist()
    ]
    assert found == rows
    # made once more, nothing changes
    text = plan.read_text()
    again = ig.draft([], onto=plan)
    assert {one.became for one in again.settled} == {"there"}, again.settled
    again.save(plan)
    assert plan.read_text() == text


@pytest.mark.parametrize(
    ("said", "why"),
    [
        (line(3, "footer"), 'rows of data above it begin with "A", too'),
        (line(1, "footer"), "no key of a layout can say that; the row would be header"),
        (line(1, "comment"), "it does not begin with a mark"),
        (line(9, "data"), "the source has only 3 rows now"),
        (line(3, "units"), "there is data between the header and this row"),
        (line(3, "comment"), "it does not begin with a mark"),
        (line(2, "data", "b.csv"), "there is no such source now"),
        (
            {"about": "name", "column": "site", "header": "place", "same": True},
            'no source has the header "place" now',
        ),
        (
            {"about": "name", "column": "site", "header": "site", "same": False},
            "the column has this name itself",
        ),
        ({"about": "type", "column": "gone", "type": "text"}, 'there is no column "gone" now'),
        (
            {"about": "unit", "column": "depth", "unit": "m", "header": "x"},
            'the header "x" does not belong to it',
        ),
        ({"about": "column", "column": "gone", "keep": False}, "no source has a column of this name now"),
        ({"about": "source", "source": "b.csv", "keep": False}, "there is no such source now"),
        (
            {"about": "identifiers", "scheme": "{lake}_{n}.csv", "use": "{a}_{n}.csv"},
            "no names of files fit it now",
        ),
        ({"about": "layout", "source": "b.csv", "right": True}, "there is no such source now"),
    ],
)
def test_what_does_not_fit_is_told_and_changes_nothing(folder, said, why) -> None:
    files = {"a.csv": "site,depth\nA,3\nA,4\n"}
    draft = settled(folder, files, said)
    (one,) = draft.settled
    assert not one.fits and one.became.startswith(why), one.became
    assert draft.plan == ig.draft(str(folder.path)).plan
    assert draft.answers == (one.answer,)  # it is kept


def test_names_that_are_not_the_same_after_all(folder) -> None:
    files = {"a.csv": "Site,depth\nA,3\nB,4\n", "b.csv": "site,Depth\nC,5\nD,6\n"}
    said = {"about": "name", "column": "depth", "header": "Depth", "same": False}
    draft = settled(folder, files, said)
    names = [column.name for column in draft.plan.columns]
    assert len(names) == 3 and {"depth", "Depth"} <= set(names)
    table = ig.assemble(draft).table
    assert table["depth"].to_pylist() == [3, 4, None, None] and table["Depth"].to_pylist() == [
        None,
        None,
        5,
        6,
    ]


def test_a_missing_code_decides_the_type(folder) -> None:
    rows = "".join(f"{at},{at}.5\n" for at in range(6))
    files = {"a.csv": f"n,depth\n{rows}7,dry\n8,dry\n9,dry\n", "b.csv": "n,depth\n1,n/a\n2,1.5\n3,2.5\n"}
    draft = settled(folder, files, {"about": "missing", "column": "depth", "code": "dry", "missing": True})
    column = next(one for one in draft.plan.columns if one.name == "depth")
    assert (column.type, set(column.missing), column.undecided) == ("number", {"dry", "n/a"}, "")
    back = settled(folder, files, {"about": "missing", "column": "depth", "code": "n/a", "missing": False})
    column = next(one for one in back.plan.columns if one.name == "depth")
    assert "n/a" not in column.missing


def test_a_page_is_not_written_over_when_it_is_somebody_elses(folder, integrum, tmp_path) -> None:
    write(folder, LAKES)
    assert integrum("draft", "in", "--page").stderr.startswith("integrum: --page is written beside a plan")
    (tmp_path / "lakes-draft.html").write_text("mine")
    ran = integrum("draft", "in", "--plan", "lakes.toml", "--page")
    assert ran.returncode == 2 and "is not as Integrum made it" in ran.stderr
    assert (tmp_path / "lakes-draft.html").read_text() == "mine"
    ran = integrum("draft", "in", "--plan", "lakes.toml", "--page", "--replace")
    assert ran.returncode == 0 and (tmp_path / "lakes-draft.html").stat().st_size > 20_000
    page = ig.draft(str(folder.path)).page(tmp_path / "lakes.toml")
    assert page.path == tmp_path / "lakes-draft.html" and "lakes-draft.html" in page._repr_html_()


def test_a_plan_that_was_edited_since_goes_before_earlier_decisions(folder, tmp_path) -> None:
    write(folder, LAKES)
    folder.write(
        "../d.json",
        json.dumps(
            {
                "integrum_decisions": 1,
                "decisions": [
                    {"about": "type", "column": "oxygen", "type": "number"},
                    {"about": "source", "source": "old_2020.csv", "keep": False},
                    {"about": "name", "column": "wind", "header": "Wind speed", "same": True},
                ],
            }
        ),
    )
    plan = ig.draft(str(folder.path), decisions=tmp_path / "d.json").save(tmp_path / "lakes.toml")
    text = plan.read_text()
    edited = text.replace('type = "number"\nmissing = []', "").replace('exclude = ["old_2020.csv"]\n', "")
    edited = re.sub(r'(name = "oxygen"\ntype = )"number"', r'\1"text"', edited)
    assert edited != text
    plan.write_text(edited)
    draft = ig.draft([], onto=plan)
    assert [one.became for one in draft.settled] == [
        "the plan says otherwise now, and it goes first",
        "the plan says otherwise now, and it goes first",
        'no source has the header "Wind speed" now',
    ]
    draft.save(plan)
    assert plan.read_text() == edited
    # said once more, it is done; and what was decided about a header holds when the header comes
    folder.write("amb_2023.csv", LAKES["amb_2022.csv"].replace("wind", "Wind speed").replace("2022", "2023"))
    draft = ig.draft([], onto=plan)
    assert draft.settled[-1].became == "made"
    assert "Wind speed" in next(one for one in draft.plan.columns if one.name == "wind").headers
    again = ig.draft([], onto=plan, decisions=tmp_path / "d.json")
    assert next(one for one in again.plan.columns if one.name == "oxygen").type == "number"
    assert again.plan.sources[0].exclude == ("old_2020.csv",)


def test_one_sheet_of_several_workbooks_is_left_out_and_kept_again(folder, tmp_path) -> None:
    import xlsxwriter

    for lake in ("amb", "qui"):
        with xlsxwriter.Workbook(folder.path / f"{lake}.xlsx") as book:
            for month in ("May", "June"):
                sheet = book.add_worksheet(month)
                for at, row in enumerate(
                    [["day", "depth"], [f"2024-05-0{len(month)}", 3.5], ["2024-05-09", 4]]
                ):
                    sheet.write_row(at, 0, row)
    said = {"about": "source", "source": "amb.xlsx/May", "keep": False}
    draft = settled(folder, {}, said)
    assert [one.became for one in draft.settled] == ["made"]
    plan = draft.save(tmp_path / "p.toml")
    names = [(one.file, one.sheet) for one in ig.assemble(plan).sources]
    assert sorted(names) == [("amb.xlsx", "June"), ("qui.xlsx", "June"), ("qui.xlsx", "May")]
    assert [one.became for one in ig.draft([], onto=plan).settled] == ["there"]
    folder.write("../back.json", json.dumps({"integrum_decisions": 1, "decisions": [{**said, "keep": True}]}))
    ig.draft([], onto=plan, decisions=tmp_path / "back.json").save(plan)
    assert len(ig.assemble(plan).sources) == 4


def test_two_dates_and_a_text_can_be_joined(folder) -> None:
    """A column that is joined with one of another type does not keep keys that are not for its own."""
    files = {"a.csv": "when,ph\n10:30,7\n11:15,8\n", "b.csv": "clock,ph\nnoon,7\nlater,9\n"}
    draft = settled(folder, files, {"about": "name", "column": "when", "header": "clock", "same": True})
    assert [one.became for one in draft.settled] == ["made"]
    assert next(one for one in draft.plan.columns if one.name == "when").headers == ("when", "clock")


def test_the_page_has_words_for_each_kind_of_decision() -> None:
    from integrum.drafting.answers import KINDS
    from integrum.pages.page import part_of_page

    words = part_of_page("draft.js").partition("const WORDS = {")[2].partition("\n  };")[0]
    assert set(re.findall(r'^    "([a-z-]+)":', words, re.M)) == set(KINDS)
    page = (Path(__file__).parent.parent / "docs" / "how" / "decide.md").read_text(encoding="utf-8")
    for about, kind in KINDS.items():
        row = next(line for line in page.splitlines() if line.startswith(f"| `{about}` |"))
        assert all(f"`{one.name}`" in row for one in fields(kind)), about


def document(path: Path, *said: dict[str, Any]) -> Path:
    """A document of decisions."""
    path.write_text(json.dumps({"integrum_decisions": 1, "decisions": said}))
    return path


def test_an_update_on_the_command_line_keeps_what_was_edited(folder, integrum, tmp_path) -> None:
    write(folder, LAKES)
    said = {"about": "type", "column": "oxygen", "type": "number"}
    document(tmp_path / "d.json", said)
    integrum("draft", "in", "--plan", "lakes.toml", "--decisions", "d.json")
    plan = tmp_path / "lakes.toml"
    edited = re.sub(r'(name = "oxygen"\ntype = )"number"', r'\1"text"', plan.read_text())
    plan.write_text(edited)
    ran = integrum("draft", "--plan", "lakes.toml", "--update")
    assert "the plan says otherwise now, and it goes first" in ran.stdout
    assert plan.read_text() == edited
    # written anew, both what is kept and what is given hold
    document(tmp_path / "e.json", {"about": "unit", "column": "wind", "unit": "m/s"})
    ran = integrum("draft", "in", "--plan", "lakes.toml", "--replace", "--decisions", "e.json")
    assert "2 decisions made" in ran.stdout
    columns = {one.name: one for one in ig.read_plan(plan).columns}
    assert (columns["oxygen"].type, columns["wind"].unit) == ("number", "m/s")


def test_decisions_hold_for_a_plan_that_a_script_keeps(folder, tmp_path) -> None:
    write(folder, LAKES)
    first = document(tmp_path / "d.json", {"about": "type", "column": "oxygen", "type": "number"})
    plan = tmp_path / "lakes.toml"
    ig.draft(str(folder.path), keep=plan, decisions=first)
    more = document(tmp_path / "e.json", {"about": "unit", "column": "wind", "unit": "m/s"})
    draft = ig.draft(str(folder.path), keep=plan, decisions=more)
    assert [one.became for one in draft.settled] == ["there", "made"]
    assert next(one for one in draft.plan.columns if one.name == "wind").unit == "m/s"


def test_one_name_of_a_column_can_be_left_out_and_the_others_stay(folder) -> None:
    files = {"a.csv": "site,depth\nA,3\nB,4\n", "b.csv": "site,Depth\nC,5\nD,6\n"}
    name = next(one for one in settled(folder, files).plan.columns if one.name != "site")
    (other,) = set(name.headers) - {name.name}
    draft = settled(folder, files, {"about": "column", "column": other, "keep": False})
    table = ig.assemble(draft).table
    assert name.name in table.column_names and table[name.name].null_count == 2
    assert draft.plan.sources[0].leave_out == (other,)


def test_odd_values_make_a_page(folder, tmp_path) -> None:
    long = "x" * 200_000
    folder.write("a.csv", f'n,big,text\n1,1e999,"{long}"\n2,-1e999,b\nTotal,nan,"{long}"\nend,,\n')
    folder.write("b.csv", "n,big,text\n1,1e308,\n2,-1e308,c\n")
    page = ig.draft(str(folder.path)).page(tmp_path / "p.toml").path
    assert page.stat().st_size < 200_000
