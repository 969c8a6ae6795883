"""How sources are written: escapes, blanks, byte order marks, comments with quotes, encodings; no cell is altered."""

import itertools
import tempfile
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import integrum as ig
from integrum.reading.plain import plain
from integrum.reading.records import Dialect, spans
from knobs import turn

RULES = ig.Rules(unlisted="keep", duplicates="keep")


def read(folder: Path, columns: tuple[ig.Column, ...] = (), **layout: object) -> ig.Outcome:
    outcome = ig.assemble(
        ig.Plan([ig.Sources(str(folder), layout=ig.Layout(**layout))], list(columns), rules=RULES)
    )
    assert all(one.ledger.adds_up for one in outcome.sources)
    return outcome


def rows(outcome: ig.Outcome) -> list[list[object]]:
    shown = [name for name in outcome.table.column_names if name not in ("source", "source_row", "sheet")]
    return [list(row.values()) for row in outcome.table.select(shown).to_pylist()]


def test_an_escape_matters_before_a_quote_in_a_quoted_cell_and_nowhere_else(folder) -> None:
    folder.write(
        "a.csv",
        "a,b\n"
        r'"say \"hi\"",C:\temp'
        "\n"
        r'"C:\temp",ends in \ '
        "\n"
        r"back\,slash\\"
        "\n"
        r'"C:\temp\\",5\" wide'
        "\n"
        r'"a""b","\\server\x"'
        "\n" + "x,dir\\\n"
        r'"a, \"b\", c",2' + "\n",
    )
    outcome = read(folder.path, escape="\\")
    assert not outcome.problems
    assert rows(outcome) == [
        ['say "hi"', "C:\\temp"],
        ["C:\\temp", "ends in \\ "],
        ["back\\", "slash\\\\"],
        ["C:\\temp\\", '5\\" wide'],
        ['a"b', "\\\\server\\x"],
        ["x", "dir\\"],
        ['a, "b", c', "2"],
    ]


def test_what_is_set_aside_is_raw_where_quotes_are_escaped(folder) -> None:
    folder.write("a.csv", 'a,b\n1,"x \\" y",3\n"p \\" q"\n')
    outcome = read(folder.path, escape="\\")
    assert [one.raw for one in outcome.set_aside] == ['1,"x \\" y",3', '"p \\" q"']


def test_blanks_between_cells_leave_quoted_cells_and_their_line_breaks_alone(folder) -> None:
    folder.write(
        "a.csv",
        '  lake   note \n Ambermere  "two  words"  \n\n"x\n  y" \t it\'s\ndog\'s  "a ""b""  c"\n1 5" \n1 2 3\n',
    )
    outcome = read(folder.path, delimiter=" ")
    assert rows(outcome) == [
        ["Ambermere", "two  words"],
        ["x\n  y", "it's"],
        ["dog's", 'a "b"  c'],
        ["1", '5"'],
    ]
    assert [one.raw for one in outcome.set_aside] == ["1 2 3"]
    assert outcome.sources[0].ledger.blank == 1


def test_a_quote_of_another_kind_is_a_letter_between_blanks(folder) -> None:
    folder.write("a.csv", 'a b\n\'x y\' "z\n"1 2"\n')
    outcome = read(folder.path, delimiter=" ", quote="'")
    assert rows(outcome) == [["x y", '"z'], ['"1', '2"']]


@pytest.mark.parametrize("size", [5, 64, 8 << 20])
def test_a_byte_order_mark_inside_a_source_stays_wherever_a_piece_begins(
    folder, monkeypatch, size: int
) -> None:
    turn(monkeypatch, piece=size)
    mark = "\ufeff"
    folder.write("a.csv", f"lake,depth\na,1\n{mark}lake,depth\nb,2\n{mark}c,3\n{mark},4\n".encode())
    folder.write("b.csv", f'"lake","depth"\n"a","1"\n{mark}"lake","depth"\n"b","2"\n'.encode())
    outcome = read(folder.path)
    assert rows(outcome) == [["a", "1"], ["b", "2"], [f"{mark}c", "3"], [mark, "4"], ["a", "1"], ["b", "2"]]
    assert [one.ledger.repeated_header for one in outcome.sources] == [1, 1]


@pytest.mark.parametrize("size", [16, 64, 8 << 20])
def test_quotes_in_comments_swallow_no_rows(folder, monkeypatch, size: int) -> None:
    turn(monkeypatch, piece=size)
    folder.write(
        "a.csv", '# by "night\nn,text\n1,a\n# see, "the log\n2,b\n#,"\n3,"x\n#,y"\n4,"z"\n# ",\n5,"last"\n'
    )
    outcome = read(folder.path, header_row=2, comment_mark="#")
    assert rows(outcome) == [["1", "a"], ["2", "b"], ["3", "x\n#,y"], ["4", "z"], ["5", "last"]]
    assert outcome.sources[0].ledger.comment == 4


def test_the_first_row_may_lie_far_below(folder, monkeypatch) -> None:
    turn(monkeypatch, longest_record=5_000)
    turn(monkeypatch, later_look=200_000)
    folder.write("a.csv", "n\n" + "".join(f"{n}\n" for n in range(2, 100_001)))
    outcome = read(folder.path, first_row=99_999)
    assert rows(outcome) == [["99999"], ["100000"]]
    assert outcome.sources[0].ledger.preamble == 99_997
    far = read(folder.path, header_row=99_998)
    assert far.table.column_names[-1] == "99998"
    assert far.rows == 2
    none = read(folder.path, header_row="none", first_row=100_000)
    assert rows(none) == [["100000"]]
    beyond = read(folder.path, first_row=100_002)
    assert beyond.rows == 0
    with pytest.raises(ig.PlanError, match="from 1 to 100"):
        ig.Layout(header_rows=1_000_000_000)
    gone = read(folder.path, header_row=1_000_000_000)
    assert "the source has only 100,000 rows" in gone.problems[0].message


def test_ascii_is_ascii(folder) -> None:
    folder.write("a.csv", "lake,n\nBrén,1\n".encode("cp1252"))
    folder.write("b.csv", "lake,n\nBren,1\n")
    outcome = read(folder.path, encoding="ascii")
    assert rows(outcome) == [["Bren", "1"]]
    assert "0xE9 at offset 9" in outcome.problems[0].message


@pytest.mark.parametrize("name", ["utf-16", "utf-32", "shift_jis", "cp037", "utf-7", "hz", "gb18030"])
def test_the_offset_of_a_bad_byte_is_the_one_in_the_file(folder, monkeypatch, name: str) -> None:
    turn(monkeypatch, letters_at_a_time=7)
    good = "n,text\n" + "1,x\n" * 40
    folder.write("good.csv", good.encode(name))
    outcome = read(folder.path, encoding=name)
    assert rows(outcome) == [["1", "x"]] * 40
    if name in ("utf-16", "shift_jis"):
        data = "n,é\n".encode("utf-16") + b"\x00\xd8x\x00" if name == "utf-16" else b"n,x\n1,ab\n1,\xff\xff\n"
        folder.write("bad.csv", data)
        bad = read(folder.path, encoding=name).problems[0]
        assert f"at offset {10 if name == 'utf-16' else 11}" in bad.message


@pytest.mark.parametrize(
    ("layout", "said"),
    [
        ({"encoding": "base64"}, "name of an encoding"),
        ({"encoding": "rot13"}, "name of an encoding"),
        ({"encoding": "undefined"}, "name of an encoding"),
        ({"encoding": "idna"}, "name of an encoding"),
        ({"encoding": "a\0b"}, "name of an encoding"),
        ({"quote": "«"}, "ASCII"),
        ({"escape": "ß"}, "ASCII"),
        ({"delimiter": "§"}, "ASCII"),
        ({"delimiter": "\0"}, "one character"),
        ({"quote": ","}, "same as delimiter"),
        ({"escape": '"'}, "same as quote"),
        ({"escape": ","}, "same as delimiter"),
        ({"escape": "\\", "quote": ""}, "no quote"),
        ({"decimal_mark": ",", "thousands_mark": ","}, "same as thousands_mark"),
        ({"thousands_mark": "."}, "same as thousands_mark"),
        ({"decimal_mark": "5"}, "not a digit"),
        ({"thousands_mark": "-"}, "not a digit"),
        ({"comment_mark": "#\n"}, "one line"),
        ({"header_rows": 101}, "from 1 to 100"),
    ],
)
def test_marks_that_cannot_be_are_refused(layout: dict[str, object], said: str) -> None:
    with pytest.raises(ig.PlanError, match=said):
        ig.Layout(**layout)


PARTS = ['"', "\\", "'", ",", " ", "\t", "\n", "\r\n", "a", "7", "#", "é"]


@settings(max_examples=400, deadline=None)
@given(
    st.lists(st.sampled_from(PARTS), max_size=24).map("".join),
    st.sampled_from(
        [
            Dialect(escape="\\"),
            Dialect(" "),
            Dialect(" ", "'", "\\"),
            Dialect(comment="#"),
            Dialect(" ", comment="#"),
        ]
    ),
)
def test_each_record_is_the_same_alone_and_among_others(text: str, dialect: Dialect) -> None:
    data = text.encode()
    whole = spans(data, dialect, last=True)
    alone = b"".join(plain(data[start:end], dialect) for start, end in whole)
    if whole and whole[-1][1] == len(data):
        assert plain(data, dialect) == alone
    for start, end in itertools.islice(whole, 5):
        assert len(spans(data[start:end], dialect, last=True)) == 1


@settings(max_examples=200, deadline=None)
@given(
    st.lists(
        st.tuples(*[st.text(st.sampled_from(["a", '"', "\\", ",", "\n", "é"]), max_size=6)] * 2), max_size=9
    )
)
def test_what_is_escaped_comes_back(table: list[tuple[str, str]]) -> None:
    # a run of escapes is read in pairs only where a quote follows, so only there it is written in pairs
    def written(cell: str) -> str:
        out, run = "", 0
        for letter in cell:
            run = run + 1 if letter == "\\" else 0
            out += ("\\" * (len(out) - len(out.rstrip("\\"))) + "\\" if letter == '"' else "") + letter
        return f'"{out}' + "\\" * (len(out) - len(out.rstrip("\\"))) + '"'

    lines = ["a,b,n", *(f"{written(one)},{written(two)},1" for one, two in table)]
    with tempfile.TemporaryDirectory() as name:
        Path(name, "a.csv").write_text("\n".join(lines) + "\n", newline="")
        outcome = read(Path(name), escape="\\")
    assert rows(outcome) == [[one or None, two or None, "1"] for one, two in table]


def test_a_header_in_brackets_is_not_taken_for_json(folder) -> None:
    folder.write("a.csv", "[id],[ph]\n1,7.1\n2,7.2\n")
    outcome = ig.assemble(folder.path)
    assert (outcome.rows, outcome.table.column_names[2:]) == (2, ["[id]", "[ph]"])
