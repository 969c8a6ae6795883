"""Recognise what Integrum itself has written, so that it is never taken as a source."""

from __future__ import annotations

import os
from collections.abc import Iterable
from pathlib import Path

from integrum.run_file import is_record, wrote

UNFINISHED = ".integrum-"
# begins the names of the files in an output that is a folder
PART = "part-"
# ends the name of the file that is there while outputs and their record are put in their places
JOURNAL = f"{UNFINISHED}swap.json"


def metadata_place(output: Path) -> Path:
    """Where the metadata of an output in CSV lies.

    Examples
    --------
    >>> metadata_place(Path("out/lakes.csv")).name
    'lakes.csv-metadata.json'
    """
    return output.with_name(f"{output.name}-metadata.json")


def size_of(place: str | Path) -> int:
    """Bytes of an output: of a file, or of all files of a folder."""
    if not os.path.isdir(place):
        return os.stat(place).st_size
    with os.scandir(place) as entries:
        return sum(entry.stat().st_size for entry in entries if entry.name.startswith(PART))


class OwnWork:
    """Outputs and records to keep out of the sources.

    Parameters
    ----------
    paths
        Files and folders that the run at hand is going to write.
    """

    def __init__(self, paths: Iterable[Path] = ()) -> None:
        self._planned = {key for path in paths if (key := _key(path))}
        self._written: set[tuple[int, int]] = set()
        self._of_this_run = set(self._planned)

    def learn(self, folder: str | Path, of_this_run: bool = False) -> bool:
        """Look whether a folder is a record, perhaps that of the run at hand; if so remember it and its output."""
        if not is_record(folder):
            return False
        outputs = wrote(folder)
        for path in (folder, *outputs, *(metadata_place(Path(path)) for path in outputs)):
            key = _key(path)
            if key:
                self._written.add(key)
                if of_this_run:
                    self._of_this_run.add(key)
        return True

    def holds(self, state: os.stat_result) -> bool:
        """Whether the file or folder with this state is our own work."""
        return (state.st_dev, state.st_ino) in self._written | self._planned

    def is_of_this_run(self, state: os.stat_result) -> bool:
        """Whether it is what the run at hand, or the one before to the same place, has written."""
        return (state.st_dev, state.st_ino) in self._of_this_run

    def would_lose(self, state: os.stat_result) -> bool:
        """Whether the run is going to write over this file, and it is none that Integrum wrote."""
        key = (state.st_dev, state.st_ino)
        return key in self._planned and key not in self._written


def _key(path: str | Path) -> tuple[int, int] | None:
    try:
        state = os.stat(path)
    except OSError:
        return None
    return state.st_dev, state.st_ino
