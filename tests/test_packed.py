"""Packed and bundled sources, and what may lie in a folder beside them."""

import bz2
import gzip
import lzma
import os
import zipfile

import pyarrow as pa
import pytest

import integrum as ig
from knobs import turn

TEXT = b"lake,depth\nAmbermere,3.10\nQuillon,4\n"


def gz(data: bytes) -> bytes:
    return gzip.compress(data, 1)


def bzip(data: bytes) -> bytes:
    return bz2.compress(data, 1)


def xz(data: bytes) -> bytes:
    return lzma.compress(data, preset=0)


def zstd(data: bytes) -> bytes:
    return pa.compress(data, codec="zstd", asbytes=True)


def codes(outcome: ig.Outcome) -> list[tuple[str, str]]:
    return [(one.code, one.source) for one in outcome.problems]


@pytest.mark.parametrize(
    ("suffix", "pack"),
    [(".gz", gz), (".bz2", bzip), (".xz", xz), (".zst", zstd)],
)
def test_packed_files(folder, tmp_path, suffix: str, pack) -> None:
    big = b"lake,depth\n" + b"".join(b"Ambermere %d,%d\n" % (at, at) for at in range(400_000))
    folder.write(f"small.csv{suffix}", pack(TEXT))
    folder.write(f"a_big.CSV{suffix}", pack(big))
    folder.write("same.csv", TEXT)
    outcome = ig.assemble(folder.path, to=tmp_path / "o.csv")
    assert [account.source for account in outcome.sources] == [
        f"a_big.CSV{suffix}",
        "same.csv",
        f"small.csv{suffix}",
    ]
    assert outcome.rows == 400_002
    assert codes(outcome) == [("same-content", f"small.csv{suffix}")]
    cut_off = pack(TEXT * 500)[:-20]
    folder.write(f"small.csv{suffix}", cut_off)
    outcome = ig.assemble(folder.path, to=tmp_path / "o.csv")
    assert [account.reason for account in outcome.sources] == ["", "", "unreadable"]


def test_archives(folder) -> None:
    with zipfile.ZipFile(folder.path / "round.zip", "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("b/2.csv", TEXT)
        archive.writestr("10.csv", b"lake,depth\nVessel,1\n")
        archive.writestr("9.csv", b"lake,depth\nHollow,1\n")
        archive.writestr("notes.txt", b"hello")
        archive.writestr("../outside.csv", b"lake,depth\nevil,1\n")
        archive.writestr("/etc/outside.csv", b"lake,depth\nevil,2\n")
        archive.writestr("__MACOSX/._9.csv", b"x")
    (folder.path / "broken.zip").write_bytes(b"PK\x03\x04 not really")
    outcome = ig.assemble(ig.Sources(str(folder.path), ids="{n}.csv"))
    assert outcome.table["source"].to_pylist() == [
        "round.zip/9.csv",
        "round.zip/10.csv",
        "round.zip/b/2.csv",
        "round.zip/b/2.csv",
    ]
    assert outcome.table["lake"].to_pylist() == ["Hollow", "Vessel", "Ambermere", "Quillon"]
    assert ("unreadable", "broken.zip") in codes(outcome)
    assert [code for code, name in codes(outcome) if "outside" in name] == ["unsafe-name", "unsafe-name"]
    assert ("passed-over", "round.zip/notes.txt") in codes(outcome)
    assert ig.survey(folder.path / "round.zip", contents=False).sources[0].source == "round.zip/9.csv"


def test_a_bomb_is_set_aside_and_the_rest_goes_on(folder, monkeypatch) -> None:
    turn(monkeypatch, free_bytes=1 << 20)
    bomb = b"lake,depth\n" + b"0,0\n" * 3_000_000
    folder.write("bomb.csv.gz", gzip.compress(bomb))
    with zipfile.ZipFile(folder.path / "bomb.zip", "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("in.csv", bomb)
    folder.write("good.csv", TEXT)
    outcome = ig.assemble(ig.Plan([ig.Sources(str(folder.path))], [ig.Column("lake")]))
    assert [account.reason for account in outcome.sources] == ["unpacks-too-large", "unpacks-too-large", ""]
    assert outcome.rows == 2


def test_a_member_under_a_password(folder) -> None:
    with zipfile.ZipFile(folder.path / "locked.zip", "w") as archive:
        archive.writestr("in.csv", TEXT)
    data = bytearray((folder.path / "locked.zip").read_bytes())
    data[6] |= 1  # the flag of an encrypted member, in both of its places
    data[data.index(b"PK\x01\x02") + 8] |= 1
    folder.write("locked.zip", bytes(data))
    folder.write("good.csv", TEXT)
    outcome = ig.assemble(ig.Plan([ig.Sources(str(folder.path))], [ig.Column("lake")]))
    (problem,) = [one for one in outcome.problems if one.severity == "error"]
    assert "password" in problem.message


@pytest.mark.skipif(os.name != "posix", reason="devices, links and odd names")
def test_what_lies_beside_the_sources_is_listed_and_hurts_nobody(folder) -> None:
    folder.write("good.csv", TEXT)
    for name in (
        "~$good.csv",
        ".hidden.csv",
        "shore.JPG",
        "report.pdf",
        "x.csv.tmp",
        "notes.txt",
        "line\nbreak.png",
    ):
        folder.write(name, "x")
    (folder.path / "empty").mkdir()
    os.mkfifo(folder.path / "pipe.csv")
    (folder.path / "lost.csv").symlink_to(folder.path / "nowhere.csv")
    (folder.path / "loop.csv").symlink_to(folder.path / "loop.csv")
    with open(os.path.join(os.fsencode(folder.path), b"\xff\xfe.csv"), "wb") as file:
        file.write(TEXT + b"x,1\n")
    for where in (folder.path, f"{folder.path}/*[!t]"):
        outcome = ig.assemble(where, to=folder.path.parent / "o.csv")
        assert {account.source for account in outcome.sources} == {"good.csv", "\\xff\\xfe.csv"}
        said = {name: code for code, name in codes(outcome)}
        for name in (
            "~$good.csv",
            ".hidden.csv",
            "shore.JPG",
            "report.pdf",
            "x.csv.tmp",
            "line\nbreak.png",
            "pipe.csv",
        ):
            assert said[name] == "passed-over"
        assert said["lost.csv"] == said["loop.csv"] == "unreadable"
        assert said["\\xff\\xfe.csv"] == "name-not-unicode"
    assert {name: code for code, name in codes(ig.assemble(folder.path))}["empty/"] == "passed-over"
    with pytest.raises(ig.NothingFound, match="not a regular file"):
        ig.survey(folder.path / "pipe.csv")


def test_a_folder_that_cannot_be_read_is_named(folder, monkeypatch) -> None:
    folder.write("a/1.csv", TEXT)
    folder.write("b/2.csv", TEXT)
    scan = os.scandir

    def refuse(path):
        if not isinstance(path, int) and os.fspath(path).endswith("/b"):
            raise PermissionError(13, "Permission denied")
        return scan(path)

    monkeypatch.setattr(os, "scandir", refuse)
    outcome = ig.assemble(folder.path)
    assert ("unreadable", "b/") in codes(outcome)
    assert (outcome.rows, outcome.status) == (2, 1)


def test_names_alone_find_what_is_there_twice(folder, integrum) -> None:
    folder.write("a.csv", TEXT)
    folder.write("b.csv", TEXT)
    folder.write("c.csv", TEXT.replace(b"4", b"5"))
    folder.write("d.csv.gz", gzip.compress(TEXT))
    seen = ig.survey(folder.path, contents=False)
    assert [(one.source, one.code) for one in seen.problems] == [
        ("b.csv", "same-content"),
        ("d.csv.gz", "same-content"),
    ]
    assert "4 sources in in" in integrum("survey", "in", "--names").stdout
