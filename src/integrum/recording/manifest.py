"""The manifest of a record: the hash of every file that a run wrote, and the seal, one short hash over all of them.

The manifest has the form of the checksum files of BagIt (RFC 8493): a line for each file, with its hash and its path
relative to the record.
"""

from __future__ import annotations

import base64
import json
import re
from collections.abc import Mapping
from contextlib import suppress
from pathlib import Path

from blake3 import blake3

from integrum.hashing import hash_of
from integrum.measures.measures import FILES
from integrum.measures.tables import REPORT
from integrum.run_file import MANIFEST, NAME, UNSEALED

_LINE = re.compile(r"([0-9a-f]{64})  (\S.*)")
_SIGNS = {"%": "%25", "\r": "%0D", "\n": "%0A"}
# letters of a seal, and of each of its groups
_LENGTH, _GROUP = 20, 5


def write_manifest(folder: Path, beside: Mapping[str, str]) -> str:
    """Write the manifest of a record whose other files are written.

    Returns the seal.

    `beside`: the hashes of the outputs and their metadata, by their paths relative to the record.
    """
    inside = {name: hash_of(folder / name) for name in covered_in(folder)}
    hashes = {**inside, **beside}
    lines = (f"{hashes[path]}  {_coded(path)}\n" for path in sorted(hashes))
    (folder / MANIFEST).write_text("".join(lines), encoding="utf-8", newline="\n")
    return seal_of(folder)


def covered_in(folder: Path) -> list[str]:
    """The files of a record that its manifest lists: all but the page, which is made from them, and itself."""
    return [name for name in sorted(FILES) if name not in (REPORT, MANIFEST) and (folder / name).exists()]


def read_manifest(folder: Path) -> dict[str, str]:
    """The hashes that a manifest lists, by path relative to the record; what cannot be read in it is left away."""
    with suppress(OSError):
        return manifest_in((folder / MANIFEST).read_bytes())
    return {}


def manifest_in(data: bytes) -> dict[str, str]:
    """The same from the bytes of a manifest."""
    found: dict[str, str] = {}
    with suppress(UnicodeDecodeError):
        for line in data.decode().split("\n"):
            if fits := _LINE.fullmatch(line):
                path = fits[2]
                for sign, code in reversed(_SIGNS.items()):
                    path = path.replace(code, sign)
                found[path] = fits[1]
    return found


def changed_in(folder: Path) -> list[str]:
    """The files of a record that are not what its manifest says: changed, missing, or not listed; in order."""
    listed = read_manifest(folder)
    names = {name for name in listed if name in FILES} | set(covered_in(folder))
    return sorted(name for name in names if not is_listed(folder, name, listed))


def is_listed(folder: Path, path: str, listed: Mapping[str, str]) -> bool:
    """Whether a file is as a manifest lists it."""
    try:
        return path in listed and hash_of(folder / path) == listed[path]
    except OSError:
        return False


def seal_of(folder: Path) -> str:
    """The seal of a table and its record: a hash of 100 bits over all that the manifest lists, but for times.

    Returns 20 letters and digits in groups of five; an empty text when there is no manifest, or no ``run.json``.
    """
    listed = read_manifest(folder)
    try:
        said = json.loads((folder / NAME).read_bytes())
        timeless = {key: value for key, value in said.items() if key not in UNSEALED}
        for one in timeless.get("outputs", ()):
            one.pop("modified", None)
    except (OSError, ValueError, AttributeError, TypeError, RecursionError):
        return ""
    if NAME not in listed:
        return ""
    hasher = blake3(json.dumps(timeless, sort_keys=True).encode())
    for path in sorted(listed):
        if path != NAME:
            hasher.update(f"\n{listed[path]}  {_coded(path)}".encode())
    letters = base64.b32encode(hasher.digest()).decode()[:_LENGTH]
    return "-".join(letters[at : at + _GROUP] for at in range(0, _LENGTH, _GROUP))


def same_seal(one: str, other: str) -> bool:
    """Whether two seals are the same, however they are written.

    Examples
    --------
    >>> same_seal("abcde fghij klmno pqrst", "ABCDE-FGHIJ-KLMNO-PQRST")
    True
    """
    plain, others = (re.sub(r"[\s-]", "", each).upper() for each in (one, other))
    return plain == others != ""


def _coded(path: str) -> str:
    for sign, code in _SIGNS.items():
        path = path.replace(sign, code)
    return path
