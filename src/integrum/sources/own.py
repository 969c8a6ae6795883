"""Recognise what Integrum itself has written, so that it is never taken as a source."""

from __future__ import annotations

import json
import os
from collections.abc import Iterable
from pathlib import Path

MARK = "integrum"
RUN_FILE = "run.json"
UNFINISHED = ".integrum-"


def record_run(folder: Path) -> dict[str, object] | None:
    """What the run wrote about itself, when the folder is a record; else None.

    Examples
    --------
    >>> record_run(Path("no-such-folder")) is None
    True
    """
    try:
        with open(folder / RUN_FILE, encoding="utf-8") as file:
            run = json.load(file)
    except (OSError, ValueError):
        return None
    return run if isinstance(run, dict) and run.get("made_by") == MARK else None


def recorded_output(folder: Path, run: dict[str, object]) -> str | None:
    """The real path of the output that a record belongs to, when it still is as the run left it."""
    output, size = run.get("output"), run.get("output_bytes")
    if not isinstance(output, str) or not isinstance(size, int):
        return None
    path = os.path.realpath(folder / output)
    try:
        return path if os.stat(path).st_size == size else None
    except OSError:
        return None


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

    def learn(self, folder: str | Path) -> bool:
        """Look whether a folder is a record; if so remember it and its output."""
        run = record_run(Path(folder))
        if run is None:
            return False
        for path in (folder, recorded_output(Path(folder), run)):
            key = _key(path) if path else None
            if key:
                self._written.add(key)
        return True

    def holds(self, state: os.stat_result) -> bool:
        """Whether the file or folder with this state is our own work."""
        return (state.st_dev, state.st_ino) in self._written | self._planned

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
