"""The record's file of what was kept out of the table: written as it comes, and in the order of the sources in the end."""

from __future__ import annotations

import io
import shutil
from collections.abc import Sequence
from itertools import groupby
from pathlib import Path

from integrum.reading.aside import Aside
from integrum.recording.lines import lines_of
from integrum.recording.tables import SET_ASIDE, Named, aside_cells


class AsideFile:
    """Takes what is kept out of the table.

    Outputs named after identifiers get their batches in turn, so what is kept out may come out of order.

    Parameters
    ----------
    folder
        Where the record is being written.
    names
        The sources, by their numbers.
    guarded
        Whether cells that a spreadsheet program would take for formulas are made harmless.
    """

    def __init__(self, folder: Path, names: Sequence[Named], guarded: bool = False) -> None:
        self._place, self._names, self._guarded = folder / SET_ASIDE.file, names, guarded
        self._file = open(self._place, "wb")  # noqa: SIM115
        self._file.writelines(lines_of([SET_ASIDE.columns]))
        # number of the source, first byte, end
        self._parts: list[tuple[int, int, int]] = []

    def __call__(self, entries: Sequence[Aside]) -> None:
        """Keep some, those of one source one behind the other."""
        for source, some in groupby(entries, key=lambda one: one.source):
            start = self._file.tell()
            self._file.writelines(
                lines_of((aside_cells(one, self._names[source]) for one in some), self._guarded)
            )
            end = self._file.tell()
            if self._parts and self._parts[-1][0] == source:
                start = self._parts.pop()[1]
            self._parts.append((source, start, end))

    def close(self) -> None:
        """Bring them into the order of the sources."""
        self._file.close()
        in_order = sorted(self._parts)
        if in_order == self._parts:
            return
        mixed = self._place.with_suffix(".mixed")
        self._place.rename(mixed)
        with open(mixed, "rb") as before, open(self._place, "wb") as after:
            after.writelines(lines_of([SET_ASIDE.columns]))
            for _, start, end in in_order:
                before.seek(start)
                shutil.copyfileobj(io.BytesIO(before.read(end - start)), after)
        mixed.unlink()


class AsideList:
    """Keeps the same in memory, for runs without a record.

    Parameters
    ----------
    names
        The sources, by their numbers.
    """

    def __init__(self, names: Sequence[Named]) -> None:
        self._names = names
        self._entries: list[Aside] = []

    def __call__(self, entries: Sequence[Aside]) -> None:
        """Keep some."""
        self._entries += entries

    def close(self) -> None:
        """Bring them into the order of the sources."""
        self._entries.sort(key=lambda one: one.source)

    @property
    def entries(self) -> tuple[tuple[str, Aside], ...]:
        """Each with the name of its source."""
        return tuple((self._names[one.source].name, one) for one in self._entries)
