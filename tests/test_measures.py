"""What holds for every measure: a run that takes rows over knows what a full run knows.

All of it is made from the list of measures, so a new one is in it without a new test.
"""

import csv
import os
import shutil
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest

import integrum as ig
from integrum.intake.intake import CannotTake
from integrum.measures.measure import Measure, OfSources, ValueLines
from integrum.measures.measures import FILES, SOURCES, TABLES, VALUES, measures_of
from months import files_of

HERE = Path(__file__).parent
EVERY = measures_of(())
# what is known of sources before their rows are read is known again
OF_ROWS = [one for one in EVERY if one.is_kept and not isinstance(one, OfSources)]
PLAN = """integrum = 1
[[sources]]
find = "in"
ids = "{lake}_{year}.csv"
[sources.layout]
header_row = 3
units_row = true
comment_mark = "#"
footer_from = ["end"]
[[columns]]
name = "day"
type = "date"
[[columns]]
name = "depth"
type = "number"
unit = "cm"
missing = ["-999"]
[[columns]]
name = "clear"
type = "boolean"
[[columns]]
name = "note"
[[columns]]
name = "count"
type = "integer"
bad_values = "set-row-aside"
[[columns]]
name = "shade"
type = "number"
bad_share = 0.3
optional = true
[[checks]]
unique = ["lake", "year", "day"]
[[checks]]
column = "depth"
range = [0, 400]
"""
HEAD = "Site;{lake};;;;\nlogger\tno 7,,,,,\nday,depth,clear,note,count,shade\n,m,,,,\n"
ROWS = """2024-05-01,3.2,true,calm,7,$1
2024-05-01,-999,false,"said ""no"", then left",8,dark
# a rest
2024-05-02,deep,,calm,many,dark

2024-05-03,5.1,true,windy,9,dark
end,of,file,,,
2024-05-04,1.0,true,calm,10,2
"""


class Lakes:
    """Sources in which every measure finds something, and a plan of them."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        (folder / "in").mkdir()
        for name in ("Ambermere_2023", "Ambermere_2024", "Vessel Lake_2024"):
            self.add(name)
        self.say(PLAN)

    def say(self, plan: str) -> None:
        (self.folder / "lakes.toml").write_text(plan)

    def add(self, name: str) -> None:
        text = HEAD.replace(";", ",").format(lake=name) + ROWS
        (self.folder / "in" / f"{name}.csv").write_text(text)

    def assemble(self, place: str, **more: Any) -> ig.Outcome:
        return ig.assemble(self.folder / "lakes.toml", to=self.folder / place, **more)

    def files(self, place: str) -> dict[str, bytes]:
        """The output and its record, but for what is of the run at hand."""
        found = files_of(self.folder / place)
        return {name: data for name, data in found.items() if not name.endswith("run.json")}


@pytest.fixture
def lakes(tmp_path: Path) -> Iterator[Lakes]:
    yield Lakes(tmp_path)


def test_a_measure_without_recall_cannot_be_made() -> None:
    class Forgetful(Measure[Any, Any, Any]):
        look = begin = lambda self, some: some

    with pytest.raises(TypeError, match="recall"):
        Forgetful()  # type: ignore[abstract]


def test_each_is_in_the_list_once() -> None:
    assert len({type(one) for one in EVERY}) == len(EVERY)
    columns = [one for each in EVERY for one in (each.source_column, each.value_column) if one]
    assert {one.name for one in columns} <= {*SOURCES.header, *VALUES.header}


@pytest.mark.parametrize("rows_said", [True, False], ids=["rows said", "rows not said"])
@pytest.mark.parametrize("suffix", [".csv", ".parquet", ".sqlite"])
def test_a_record_is_the_same_whatever_is_taken_over(lakes: Lakes, suffix: str, rows_said: bool) -> None:
    if not rows_said:
        lakes.say(PLAN + "[provenance]\nsource_row = false\n")
    for names, over in (((), 3), (("Hollow Water_2022", "Quillon_2025"), 3), ((), 5)):
        lakes.assemble(f"again/lakes{suffix}")
        for name in names:
            lakes.add(name)
        run = lakes.assemble(f"again/lakes{suffix}")
        full = lakes.assemble(f"full/lakes{suffix}", afresh=True)
        assert run.taken_over == over and full.taken_over == 0
        again, whole = lakes.files("again"), lakes.files("full")
        assert again == whole
        assert list(run.problems) == list(full.problems)
    # no file of the record is empty, and no column of a measure is
    folder = lakes.folder / "full" / "lakes-record"
    for table in TABLES:
        there = (folder / table.file).exists() and bool(rows_of(folder / table.file))
        assert there == (not rows_said or table.since > 0), table.file
    assert {one.file for one in TABLES} <= set(FILES)
    for measure in EVERY:
        for column, table in ((measure.source_column, SOURCES), (measure.value_column, VALUES)):
            assert not column or any(row[column.name] for row in rows_of(folder / table.file))


def rows_of(place: Path) -> list[dict[str, str]]:
    with open(place, newline="", encoding="utf-8") as file:
        return list(csv.DictReader(file))


def files_after(lakes: Lakes, suffix: str, forgets: Measure[Any, Any, Any] | None) -> dict[str, bytes] | None:
    """What a run leaves that takes all over while a measure knows nothing of it; None where it notices."""
    lakes.assemble(f"again/lakes{suffix}", afresh=True)
    if forgets is None:
        assert lakes.assemble(f"again/lakes{suffix}").taken_over == 3
        return lakes.files("again")
    with pytest.MonkeyPatch.context() as patch:
        recall = type(forgets).recall
        patch.setattr(type(forgets), "recall", lambda self, earlier: recall(self, Nothing(earlier)))
        try:
            run = lakes.assemble(f"again/lakes{suffix}")
        except (ig.LedgerError, CannotTake):
            return None
    return lakes.files("again") if run.taken_over == 3 else None


class Nothing:
    """Knows only which sources there are."""

    was, identifiers, spans = {}, {}, ()

    def __init__(self, earlier: Any) -> None:
        self.schema, self.first, self.output = earlier.schema, earlier.first, earlier.output
        nothing = np.array([], np.int64)
        self.values = ValueLines(nothing, nothing, earlier.values.cells.slice(0, 0))

    def problems(self, _: int) -> tuple[()]:
        return ()

    def entries(self, _: Any) -> tuple[()]:
        return ()

    def ends(self) -> tuple[list[Any], list[Any]]:
        return [], []

    def table_rows(self, _: Any) -> tuple[()]:
        return ()


@pytest.mark.parametrize("measure", OF_ROWS, ids=[type(one).__name__ for one in OF_ROWS])
def test_what_a_measure_does_not_recall_is_missed(lakes: Lakes, measure: Measure[Any, Any, Any]) -> None:
    """So the test above would notice it."""
    lakes.say(PLAN + "[provenance]\nsource_row = false\n")
    whole = files_after(lakes, ".csv", None)
    assert files_after(lakes, ".csv", measure) != whole


# a new figure is one file and one line


def test_a_new_figure_is_one_file_and_one_line(tmp_path: Path) -> None:
    import integrum

    copy = tmp_path / "src" / "integrum"
    shutil.copytree(Path(integrum.__file__).parent, copy, ignore=shutil.ignore_patterns("__pycache__"))
    shutil.copy(HERE / "own_figures.py", copy / "measures" / "own_figures.py")
    place = copy / "measures" / "measures.py"
    text = place.read_text().replace("    HEADS,\n", "    HEADS,\n    LETTERS,\n", 1)
    one = "from integrum.measures.measure import"
    place.write_text(text.replace(one, f"from integrum.measures.own_figures import LETTERS\n{one}", 1))
    done = subprocess.run(
        [
            sys.executable,
            "-m",
            "pytest",
            "-q",
            "-n0",
            "-p",
            "no:cacheprovider",
            "-k",
            "record or Letters",
            str(__file__),
        ],
        cwd=tmp_path,
        env={**os.environ, "PYTHONPATH": f"{copy.parent}{os.pathsep}{HERE}"},
        capture_output=True,
        encoding="utf-8",
        check=False,
    )
    assert done.returncode == 0, done.stdout[-4000:]
    assert int(done.stdout.splitlines()[-1].split(" passed")[0].split()[-1]) == 7, done.stdout[-400:]
