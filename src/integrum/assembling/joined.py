"""Bring payloads to their outputs, also where workers have left them in part files."""

from __future__ import annotations

import secrets
from collections.abc import Mapping
from concurrent.futures import Executor
from pathlib import Path
from typing import Any

from integrum.engine.sending import is_there
from integrum.errors import OutputError
from integrum.workers.pool import on_every_worker, shares_memory
from integrum.writing.output import FILES, Output, Spans
from integrum.writing.part_files import PartRef, forget_parts, payload_of, remove


def usable(folder: Path | None, executor: Executor, in_files: bool) -> Path | None:
    """The folder for part files, where it is of use and the workers reach it.

    Raises OutputError when the output needs them, and there are workers that do not reach the folder.
    """
    if folder is None or shares_memory(executor):
        return folder if in_files else None
    mark = folder / secrets.token_hex(8)
    mark.touch(exist_ok=False)
    try:
        if all(on_every_worker(executor, is_there, str(mark))):
            return folder
    finally:
        mark.unlink()
    if in_files:
        raise OutputError(
            f"{folder.parent} is not there for all workers, but they write the files of the table; give a place that "
            "all of them reach"
        )
    return None


class Joined:
    """Appends payloads to their outputs; part files go when they are used up."""

    def __init__(self, outputs: Mapping[str, Output], kind: str) -> None:
        self._outputs, self._kind = outputs, kind
        self._at: dict[str, Path] = {}

    def append(self, output: str, payload: Any, rows: int, spans: Spans) -> None:
        """Take the next payload of an output, with the sources of its rows."""
        if isinstance(payload, PartRef) and self._kind != FILES:
            before = self._at.get(output)
            if before is not None and before != payload.place:
                remove(before)
            self._at[output] = payload.place
            payload = payload_of(payload, self._kind)
        self._outputs[output].append(payload, rows, spans)

    def close(self) -> None:
        """Let go of the last part files."""
        forget_parts()
        for place in self._at.values():
            remove(place)
