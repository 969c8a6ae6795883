"""What is left of a record that is damaged, or that somebody has changed: it stops no run, and nothing of it is lost."""

from __future__ import annotations

import os
import shutil
from contextlib import suppress
from pathlib import Path

from integrum.hashing import hash_of
from integrum.measures.measures import FILES
from integrum.measures.tables import METHODS, PAGES
from integrum.pages.page import is_own_page
from integrum.recording.manifest import is_listed, read_manifest
from integrum.run_file import MANIFEST, NAME, is_record, methods_hash

# what a record is known by when neither run.json nor the manifest can be read
_KNOWN_BY = ("plan.toml", "sources.csv", "problems.csv", "left-out.csv", "set-aside.csv")
_MANY = 3


def is_damaged(folder: Path) -> bool:
    """Whether a folder is what is left of a record.

    Examples
    --------
    >>> is_damaged(Path("no-such-folder"))
    False
    """
    return sum(os.path.lexists(folder / name) for name in _KNOWN_BY) >= _MANY


def keep_changed(old: Path, new: Path, is_whole: bool = False) -> list[str]:
    """Keep the files of a record that were changed since it was written, in the record that comes in its place.

    They are named ``problems-changed.csv`` and so on. Returns their names.

    Parameters
    ----------
    old, new
        The folders of the two records.
    is_whole
        Whether all files of the old one but the page are known to be as they were written.
    """
    if not is_record(old) and not is_damaged(old):
        return []
    listed = {} if is_whole else read_manifest(old)
    kept = []
    for name in sorted(FILES):
        path = old / name
        if name in (MANIFEST, NAME) or not path.is_file() or not path.stat().st_size:
            continue
        if name in PAGES or name == METHODS:
            if not (is_own_page(path) if name in PAGES else hash_of(path) == methods_hash(old)):
                kept.append(_kept(path, new))
            continue
        # where there is no manifest, nothing says what was written; records of earlier versions have none
        if not is_whole and listed and not is_listed(old, name, listed):
            kept.append(_kept(path, new))
    return kept


def _kept(path: Path, new: Path) -> str:
    stem, suffix = path.stem, path.suffix
    number = 1
    while os.path.lexists(new / (name := f"{stem}-changed{f'-{number}' if number > 1 else ''}{suffix}")) or (
        os.path.lexists(path.with_name(name))
    ):
        number += 1
    try:
        os.link(path, new / name)
    except OSError:  # not on this file system
        with suppress(OSError):
            shutil.copy2(path, new / name)
    return name
