"""The manifest of a record: the hash of every file that a run wrote, and the seal, one short hash over all of them.

The manifest has the form of the checksum files of BagIt (RFC 8493): a line for each file, with its hash and its path
relative to the record. ``run.json`` has the times of a run in it, so it is not listed; it has the hash of the manifest,
and one of itself.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from contextlib import suppress
from pathlib import Path

from integrum.hashing import hash_of
from integrum.measures.measures import FILES
from integrum.measures.tables import METHODS, PAGES
from integrum.run_file import MANIFEST, NAME, is_whole

_LINE = re.compile(r"([0-9a-f]{64})  (\S.*)")
_SIGNS = {"%": "%25", "\r": "%0D", "\n": "%0A"}


def write_manifest(folder: Path, beside: Mapping[str, str]) -> str:
    """Write the manifest of a record whose other files but ``run.json`` are written.

    Returns its hash.

    `beside`: the hashes of the outputs and their metadata, by their paths relative to the record.
    """
    hashes = {**{name: hash_of(folder / name) for name in listed_in(folder)}, **beside}
    lines = (f"{hashes[path]}  {_coded(path)}\n" for path in sorted(hashes))
    (folder / MANIFEST).write_text("".join(lines), encoding="utf-8", newline="\n")
    return hash_of(folder / MANIFEST)


def listed_in(folder: Path) -> list[str]:
    """The files of a record that its manifest lists: all but itself, ``run.json``, and what is made from them."""
    others = (*PAGES, METHODS, MANIFEST, NAME)
    return [name for name in sorted(FILES) if name not in others and (folder / name).exists()]


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


def changed_in(folder: Path, manifest: str) -> list[str]:
    """The files of a record that are not as its run wrote them: changed, missing, or not listed; in order.

    `manifest`: the hash of the manifest, as ``run.json`` has it.
    """
    listed = read_manifest(folder)
    names = {name for name in listed if name in FILES} | set(listed_in(folder))
    changed = [name for name in names if not is_listed(folder, name, listed)]
    changed += [MANIFEST] * (not is_listed(folder, MANIFEST, {MANIFEST: manifest}))
    return sorted(changed + [NAME] * (not is_whole(folder)))


def is_listed(folder: Path, path: str, listed: Mapping[str, str]) -> bool:
    """Whether a file is as a manifest lists it."""
    try:
        return path in listed and hash_of(folder / path) == listed[path]
    except OSError:
        return False


def _coded(path: str) -> str:
    for sign, code in _SIGNS.items():
        path = path.replace(sign, code)
    return path
