"""A folder with checksums, as archives take it: BagIt, version 1.0 (RFC 8493)."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from hashlib import sha256
from pathlib import Path

PAYLOAD, TAGS, INFO = "data", "bagit.txt", "bag-info.txt"
_MANIFEST, _TAG_MANIFEST = "manifest-sha256.txt", "tagmanifest-sha256.txt"
_DECLARATION = "BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n"
# signs that a line of a manifest cannot have
_SIGNS = {"%": "%25", "\n": "%0A", "\r": "%0D"}
_CHUNK = 1 << 20


def write_bag(folder: Path, info: Mapping[str, str]) -> None:
    """Make a bag of a folder whose payload is in ``data`` already.

    Parameters
    ----------
    info
        What is said of it in ``bag-info.txt``, by label.
    """
    payload = {path: checksum(folder / path) for path in _files(folder / PAYLOAD, folder)}
    size = sum((folder / path).stat().st_size for path in payload)
    (folder / TAGS).write_text(_DECLARATION, encoding="utf-8", newline="\n")
    said = {**info, "Payload-Oxum": f"{size}.{len(payload)}"}
    lines = (f"{label}: {' '.join(text.split())}\n" for label, text in said.items() if text)
    (folder / INFO).write_text("".join(lines), encoding="utf-8", newline="\n")
    _write_manifest(folder / _MANIFEST, payload)
    tags = {name: checksum(folder / name) for name in (TAGS, INFO, _MANIFEST)}
    _write_manifest(folder / _TAG_MANIFEST, tags)


def is_bag(folder: Path) -> bool:
    """Whether a folder is a bag.

    Examples
    --------
    >>> is_bag(Path("no-such-folder"))
    False
    """
    return (folder / TAGS).is_file() and (folder / PAYLOAD).is_dir()


def info_of(folder: Path) -> dict[str, str]:
    """What ``bag-info.txt`` says, by label; of a label that is there twice the last."""
    try:
        lines = (folder / INFO).read_text(encoding="utf-8").splitlines()
    except (OSError, UnicodeDecodeError):
        return {}
    return {
        label.strip(): text.strip() for label, mark, text in (one.partition(":") for one in lines) if mark
    }


def files_of(folder: Path) -> Iterator[tuple[str, bool, bool]]:
    """The files of a bag: those that it lists, and others in its payload.

    Yields the path of each, whether it is there, and whether it is as the bag says. A file that is not listed is not.
    """
    listed = {**_manifest(folder / _TAG_MANIFEST), **_manifest(folder / _MANIFEST)}
    for path, hash_then in listed.items():
        place = folder / path
        there = place.is_file()
        yield path, there, there and _is_inside(folder, place) and checksum(place) == hash_then
    for path in _files(folder / PAYLOAD, folder):
        if path not in listed:
            yield path, True, False
    for path in (TAGS, INFO, _MANIFEST):
        if path not in listed:
            yield path, (folder / path).is_file(), False
    if not (folder / _TAG_MANIFEST).is_file():
        yield _TAG_MANIFEST, False, False


def checksum(path: Path) -> str:
    """The SHA-256 of a file, in hexadecimal."""
    hasher = sha256()
    with open(path, "rb") as file:
        while data := file.read(_CHUNK):
            hasher.update(data)
    return hasher.hexdigest()


def _files(top: Path, folder: Path) -> list[str]:
    """The files below a folder, by their paths relative to another one, in order."""
    return sorted(path.relative_to(folder).as_posix() for path in top.rglob("*") if path.is_file())


def _is_inside(folder: Path, place: Path) -> bool:
    return folder.resolve() in place.resolve().parents


def _write_manifest(place: Path, hashes: Mapping[str, str]) -> None:
    lines = (f"{hashes[path]}  {_coded(path)}\n" for path in sorted(hashes))
    place.write_text("".join(lines), encoding="utf-8", newline="\n")


def _manifest(place: Path) -> dict[str, str]:
    """The hashes that a manifest lists, by path; nothing where it cannot be read."""
    try:
        lines = place.read_text(encoding="utf-8").split("\n")
    except (OSError, UnicodeDecodeError):
        return {}
    found = {}
    for line in lines:
        content, _, path = line.strip("\r").partition(" ")
        for sign, code in reversed(_SIGNS.items()):
            path = path.replace(code, sign)
        if path.strip():
            found[path.lstrip(" *")] = content.lower()
    return found


def _coded(path: str) -> str:
    for sign, code in _SIGNS.items():
        path = path.replace(sign, code)
    return path
