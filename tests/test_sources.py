"""Which files are taken, in which order, and what is said when there are none."""

import os
from pathlib import Path

import pytest

import integrum as ig

LINE = "day,depth\n2024-05-01,3.1\n"


def names(*where: object, **sources: object) -> list[str]:
    return [account.source for account in ig.survey(list(where)).sources]


def test_natural_order_through_folders(folder) -> None:
    for at, name in enumerate(
        ["site10.csv", "site2.csv", "Site1.csv", "b/x.csv", "a10/x.csv", "a9/x.csv", "site2_b.csv"]
    ):
        folder.write(name, LINE + "2024-05-02,1\n" * at)
    assert names(folder.path) == [
        "a9/x.csv",
        "a10/x.csv",
        "b/x.csv",
        "Site1.csv",
        "site2.csv",
        "site2_b.csv",
        "site10.csv",
    ]


def test_patterns_files_and_exclusion(folder, monkeypatch) -> None:
    for at, name in enumerate(["a/1.csv", "a/2.CSV", "a/b/3.csv", "a/b/3_old.csv", "c/4.csv", "notes.txt"]):
        folder.write(name, LINE + "2024-05-02,1\n" * at)
    monkeypatch.chdir(folder.path)
    assert names("a/*.csv") == ["1.csv", "2.CSV"]
    assert names("a/**/*.csv") == ["1.csv", "2.CSV", "b/3.csv", "b/3_old.csv"]
    assert names("a/**/[13].csv") == ["1.csv", "b/3.csv"]
    assert names(ig.Sources("a", exclude=["*_old.csv", "b/3.*"])) == ["1.csv", "2.CSV"]
    assert names("a/1.csv", "c/4.csv", "a/1.csv") == ["a/1.csv", "c/4.csv"]
    assert names("c", "a/?.csv") == ["a/1.csv", "a/2.CSV", "c/4.csv"]


def test_two_groups_come_in_the_order_of_the_plan(folder, monkeypatch) -> None:
    folder.write("a/1.csv", LINE)
    folder.write("z/1.csv", LINE + "2024-05-02,1\n")
    monkeypatch.chdir(folder.path)
    assert names(ig.Sources("z"), ig.Sources("a")) == ["z/1.csv", "a/1.csv"]


def test_own_output_and_record_are_never_sources(folder) -> None:
    folder.write("1.csv", LINE)
    folder.write("sub/2.csv", LINE + "2024-05-02,1\n")
    first = ig.assemble(folder.path, to=folder.path / "all.csv")
    again = ig.assemble(folder.path, to=folder.path / "all.csv")
    other = ig.assemble(folder.path, to=folder.path / "sub" / "other.csv")
    third = ig.assemble(f"{folder.path}/**/*", to=folder.path / "third.parquet")
    for outcome in (first, again, other, third):
        assert [account.source for account in outcome.sources] == ["1.csv", "sub/2.csv"]
        assert outcome.rows == 3
    with pytest.raises(ig.NothingFound, match="written by Integrum"):
        ig.survey(folder.path / "all.csv")


def test_an_output_that_would_overwrite_a_source_is_refused(folder, integrum) -> None:
    a, b = folder.write("a.csv", LINE), folder.write("b.csv", LINE + "2024-05-02,1\n")
    done = integrum("assemble", a, b, "--to", a)
    assert done.returncode == 2
    assert "is one of the sources" in done.stderr
    assert a.read_text() == LINE


@pytest.mark.parametrize(
    ("where", "said"),
    [
        ("loger", ['the path "loger" does not exist', "loggers/"]),
        ("loggers/*.xyz", ['the pattern "loggers/*.xyz" matches no file', "x1.csv"]),
        ("empty", ["does not have any file with one of the suffixes .csv", "is empty"]),
        ("notes", ["does not have any file with one of the suffixes .csv", "readme.txt"]),
        ("none/**/*.csv", ["matches no file", "loggers/"]),
    ],
)
def test_no_source_says_what_is_there_instead(folder, integrum, where: str, said: list[str]) -> None:
    folder.write("loggers/x1.csv", LINE)
    folder.write("notes/readme.txt", "hello")
    (folder.path / "empty").mkdir()
    folder.write("plan.toml", f'integrum = 1\n[[sources]]\nfind = ["{where}"]\n[[columns]]\nname = "day"\n')
    for args in (
        ["survey", where],
        ["draft", where],
        ["assemble", where, "--to", "o.csv"],
        ["assemble", "plan.toml", "--to", "o.csv"],
    ):
        done = integrum(*args, cwd=folder.path)
        assert done.returncode == 2
        assert done.stdout == ""
        assert "Traceback" not in done.stderr
        for word in said:
            assert word in done.stderr
    assert not (folder.path / "o.csv").exists()


def test_a_place_that_gives_nothing_beside_others_is_an_error_but_the_rest_goes_on(folder) -> None:
    folder.write("1.csv", LINE)
    outcome = ig.assemble([folder.path, folder.path / "absent.csv"])
    assert outcome.rows == 1
    assert outcome.status == 1
    assert [(one.code, Path(one.source).name) for one in outcome.problems] == [
        ("nothing-found", "absent.csv")
    ]


def test_names_with_brackets_spaces_and_quotes(folder) -> None:
    for at, name in enumerate(["a [1].csv", 'say "hi".csv', "it's.csv", "ümlaut ä.csv"]):
        folder.write(name, LINE + "2024-05-02,1\n" * at)
    assert len(names(folder.path)) == 4
    assert names(folder.path / "a [1].csv") == ["a [1].csv"]
    outcome = ig.assemble(folder.path, to=folder.path / "o.csv")
    assert set(outcome.table["source"].to_pylist()) == {
        "a [1].csv",
        'say "hi".csv',
        "it's.csv",
        "ümlaut ä.csv",
    }


@pytest.mark.skipif(os.name != "posix", reason="links")
def test_a_loop_of_links_ends(folder) -> None:
    folder.write("a/1.csv", LINE)
    (folder.path / "a" / "again").symlink_to(folder.path, target_is_directory=True)
    assert names(folder.path) == ["a/1.csv"]


def test_the_same_content_twice_comes_once(folder) -> None:
    folder.write("1.csv", LINE)
    folder.write("2.csv", LINE)
    outcome = ig.assemble(folder.path)
    assert outcome.rows == 1
    assert [(a.source, a.status, a.reason) for a in outcome.sources] == [
        ("1.csv", "assembled", ""),
        ("2.csv", "set-aside", "same-content"),
    ]
    assert "1.csv" in outcome.problems[0].message
    keep = ig.Plan(
        [ig.Sources(str(folder.path))], [ig.Column("day")], rules=ig.Rules("keep", duplicates="keep")
    )
    assert ig.assemble(keep).rows == 2
