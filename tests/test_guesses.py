"""Guesses against known truth, on seeds that nothing was tuned on; ``pytest -s`` prints the figures that the docs give."""

import tempfile
from collections import Counter
from pathlib import Path

import pytest

import integrum as ig
import odd_folders
import odd_tables
from integrum.detecting.encoding import detect_encoding
from integrum.problems.problem import counted

FIRST = 200_000
CLASSES = {
    "a word that begins like a footer": ("site,depth\nAmbermere,2.5\nMeander,2\n", "header data data"),
    "a name that begins like a statistic": (
        "state,v\nMaine,3.3\nMinnesota,3.6\nSumming,4\n",
        "header data data data",
    ),
    "one code in the last row": ("id,v\n1,3.3\n2,3.4\nA4,3.6\n", "header data data data"),
    "codes like a footer's": ("id,v\nA1,1.2\nA2,2.2\nQC1,3\n", "header data data data"),
    "identifiers with a comment mark": ("id,v\n#1,3.3\n#2,3.4\n", "header data data"),
    "paths with two slashes": ("//a/b,1\n//c/d,2\n", "data data"),
    "colours": ("name,colour\nred,#ff0000\ngreen,#00ff00\n", "header data data"),
    "a unit that is a comment mark": ("o,t\n%,C\n3,4\n5,6\n", "header units data data"),
    "letters that are units": ("id,sex,class\nx,m,s\ny,f,t\n", "header data data"),
    "units in words": (",Mass,Volume\n,kg,litres\nA,3,4\nB,5,6\n", "header units data data"),
    "an odd value first": ("t,v\nbroken,1\n3,2\n4,3\n", "header data data data"),
    "an infinite value first": ("v,w\ninf,1\n2,3\n", "header data data"),
    "a line break in the first row": ('note,v\n"a\nb",2\nc,3\n', "header data data"),
    "names that are words for truth and years": (
        "No,True,1960,1961\n1,yes,3.2,4\n2,no,3,4\n",
        "header data data",
    ),
    "names that are ranges": ("site,0-5 cm,5-10 cm\nA,3,4\nB,5,6\n", "header data data"),
    "an index without a name, among texts": (",a,b\nx,p,q\ny,r,s\n", "header data data"),
    "an index without a cell": ("mass,cups\nmoor,21,6\nfen,22,4\n", "header data data"),
    "delimiters behind the data": ("a,b\n1,2,\n3,4,\n", "header data data"),
    "a delimiter behind the header": ("a,b,\n1,2\n3,4\n", "header data data"),
    "a repeated header in a table of texts": (
        "name,sort\nx,y\nname,sort\nz,w\n",
        "header data repeated-header data",
    ),
    "a preamble longer than the table": (
        "T\nu\nv\nw\nx: y\n\na,b\n1,2\n",
        "preamble " * 5 + "blank header data",
    ),
    "a note with a comma below one column": (
        "depth\n3\n4\n5\nNote, see page 3\n",
        "header data data data footer",
    ),
    "statistics below numbers": (
        "a,b\n1,2\n3,4\n5,6\nMean,4\nMax,6\nSD,2\n",
        "header data data data footer footer footer",
    ),
    "a total that may be a number of rows by chance": (
        "town,v\nArnau,0\nBell,1\nCorin,2\nDorn,3\nTotal,4\n",
        "header data data data data data",
    ),
    "a person who has the most": (
        "observer,n\nAnn,2\nBea,4\nCem,1\nMax,4\n",
        "header data data data data",
    ),
    "a total of small numbers": ("site,n\nA,1\nB,2\nC,3\nTotal,6\n", "header data data data footer"),
    "a first loss in brackets": ("site,change\nA,(2.5)\nB,3.1\nC,(4)\nD,2\n", "header data data data data"),
    "a header alone": ("a,b,c\n", "header"),
    "a row of numbers alone": ("5.2,3.1\n", "data"),
    "a stray row": ("t,a\nrestart\n1,2\n2,3\n", "header set-aside data data"),
    "sparse rows": ("t,a,b,c\n1,,,3\n2,,,\n3,4,5,6\n4,5,6,7\n", "header data data data data"),
}


@pytest.mark.parametrize("name", CLASSES)
def test_what_is_easily_taken_for_something_else(folder, name: str) -> None:
    text, parts = CLASSES[name]
    assert [row.part for row in ig.look(folder.write("a.csv", text)).rows] == parts.split()


def test_an_index_without_a_header_cell_is_the_unnamed_column(folder) -> None:
    folder.write("a.csv", '"mass","cups"\n"moor",21,6\n"fen",22,4\n')
    outcome = ig.assemble(folder.path)
    assert outcome.table.drop_columns(["source", "source_row"]).to_pydict() == {
        "column 1": ["moor", "fen"],
        "mass": [21, 22],
        "cups": [6, 4],
    }
    assert "header_from_column = 2" in str(ig.draft(folder.path))


def test_tables_that_are_hard_to_read() -> None:
    right: Counter[str] = Counter()
    sure = [0, 0]
    count = 1_500
    with tempfile.TemporaryDirectory() as place:
        file = Path(place) / "t.csv"
        for seed in range(FIRST, FIRST + count):
            made = odd_tables.make(seed)
            file.write_bytes(made.data)
            seen = ig.look(file)
            got = {
                part: {row.row for row in seen.rows if row.part == part}
                for part in ("header", "units", "footer")
            }
            kept = {row.row for row in seen.rows if row.part in ("data", "set-aside")}
            good = {part: rows == made.of(part) for part, rows in got.items()}
            good["no row lost"] = made.of("data") <= kept
            good["header, 20 rows and more"] = made.rows < 20 or good["header"]
            good["header, below 20 rows"] = made.rows >= 20 or good["header"]
            right.update(name for name, each in good.items() if each)
            right["all"] += all(good.values())
            if seen.confidence >= 0.95:
                sure[0] += 1
                sure[1] += all(good.values())
    shares = {name: round(100 * hits / count, 2) for name, hits in right.items()}
    print(shares, f"sure: {sure[0]}, of these right: {100 * sure[1] / sure[0]:.2f} %")
    assert shares["no row lost"] >= 99.9
    assert shares["header, 20 rows and more"] >= 99.5
    assert shares["header, below 20 rows"] >= 98
    assert min(shares["units"], shares["footer"]) >= 99
    assert sure[0] > 0.6 * count and sure[1] >= 0.99 * sure[0]


def test_folders_are_drafted_as_one_group_and_lose_nothing(tmp_path) -> None:
    count, right = 60, Counter()
    for seed in range(FIRST, FIRST + count):
        made = odd_folders.make_folder(seed)
        place = tmp_path / str(seed)
        (place / "in").mkdir(parents=True)
        for name, data in made.files.items():
            (place / "in" / name).write_bytes(data)
        draft = ig.draft(place / "in")
        outcome = ig.assemble(draft.save(place / "plan.toml"))
        rows = {one.source: one.ledger.data + one.ledger.set_aside for one in outcome.sources}
        copies = {one.source for one in outcome.problems if one.code == "same-content"}
        wanted = {name: rows for name, rows in made.rows.items() if rows >= 0 and name not in copies}
        right["rows"] += all(rows[name] == count for name, count in wanted.items())
        right["names"] += {column.name.lower() for column in draft.plan.columns} == {
            name.lower() for name in made.header
        }
        right["one group"] += len(draft.plan.sources) == 1
        right["first line"] += f"with {counted(outcome.rows, 'row')} of data" in str(draft).splitlines()[0]
        right["on the fly"] += ig.assemble(place / "in").rows == outcome.rows
    print({name: round(100 * hits / count, 2) for name, hits in right.items()})
    assert min(right["first line"], right["on the fly"]) == count
    assert min(right["rows"], right["names"], right["one group"]) >= 0.95 * count


@pytest.mark.parametrize(
    ("encoding", "words"),
    [
        ("cp1252", "Jäger"),
        ("cp1252", "Temp (°C) 5 µS/cm"),
        ("cp1252", "forêt déjà température Étang"),
        ("cp1252", "sjø måling blåbær"),
        ("mac-roman", "Grüner See, Straße, Höhe, Müritz, Jäger"),
        ("cp1250", "głębokość jezioro średnia źródło żółty Łódź"),
        ("cp1250", "hloubka řeka přehrada čistý šířka žlutý teplota"),
        ("iso8859-2", "głębokość jezioro średnia źródło żółty Łódź"),
        ("cp1251", "Озеро глубина температура Тихое станция проба"),
        ("koi8-r", "Озеро глубина температура Тихое станция проба"),
        ("cp1253", "λίμνη βάθος θερμοκρασία σταθμός ημερομηνία"),
        ("shift_jis", "みずうみ 温度 深さ データ サンプル 観測点"),
        ("euc_jp", "みずうみ 温度 深さ データ サンプル 観測点"),
        ("gb18030", "湖泊 深度 温度 测站 日期 样本 水质"),
        ("big5", "湖泊 深度 溫度 測站 日期 樣本 水質"),
        ("euc_kr", "호수 깊이 온도 관측소 시료"),
    ],
)
def test_encodings_are_told_by_letters_in_words(folder, encoding: str, words: str) -> None:
    text = "name,v\n" + "".join(f'"{words}",{at}.5\n' for at in range(4))
    data = text.encode(encoding)
    found = detect_encoding(data)
    assert data.decode(found.name) == text
    folder.write("a.csv", data)
    assert ig.assemble(folder.path).table["name"].to_pylist() == [words] * 4


def test_an_encoding_that_cannot_be_told_is_said_and_neighbours_decide(folder) -> None:
    folder.write("a.csv", "name,v\nsjø,1\n".encode("cp1252"))
    for found in (ig.survey(folder.path), ig.assemble(folder.path)):
        assert [(one.severity, one.source) for one in found.problems if one.code == "encoding-unclear"] == [
            ("warning", "a.csv")
        ]
    folder.write("b.csv", "name,v\nvær måling blåbær sjø,1\nøl,2\n".encode("mac-roman"))
    folder.write("a.csv", "name,v\nsjø,1\n".encode("mac-roman"))
    outcome = ig.assemble(folder.path)
    assert outcome.table["name"].to_pylist() == ["sjø", "vær måling blåbær sjø", "øl"]
    assert not [one for one in outcome.problems if one.code == "encoding-unclear"]
