"""Files of the record that are written while a run goes on, and are in the order of the sources in the end."""

from __future__ import annotations

import io
import shutil
from collections.abc import Callable, Iterable, Sequence
from itertools import groupby
from pathlib import Path
from typing import Generic, Protocol, Self, TypeVar

from integrum.record.table import Places, RecordTable, lines_of


class OfSource(Protocol):
    """An entry of one source."""

    @property
    def source(self) -> int:
        """Its number in the run."""

    def of(self, source: str | int) -> Self:
        """The same entry with another source."""


# this many entries that come in order, or this many letters, are written at once
_TOGETHER, _LETTERS = 5_000, 4 << 20

Entry = TypeVar("Entry", bound=OfSource)


class StreamedFile(Generic[Entry]):
    """Writes entries to the disk, source by source.

    Outputs named after identifiers get their batches in turn, so the entries of different sources may come out of order.

    Parameters
    ----------
    guarded
        Whether cells that a spreadsheet program would take for formulas are made harmless.
    letters
        How many letters an entry has, where the sources come in their order; then many are written at once.
    """

    def __init__(
        self,
        folder: Path,
        table: RecordTable[Entry],
        places: Places,
        guarded: bool = False,
        letters: Callable[[Entry], int] | None = None,
    ) -> None:
        self._place, self._table, self._places, self._guarded = folder / table.file, table, places, guarded
        self._file = open(self._place, "wb")  # noqa: SIM115
        self._file.writelines(lines_of([table.header]))
        # number of the source, first byte, end
        self._parts: list[tuple[int, int, int]] = []
        self._letters, self._waiting, self._weight = letters, list[Entry](), 0

    def __call__(self, entries: Sequence[Entry]) -> None:
        """Keep some entries."""
        if self._letters:
            self._waiting += entries
            self._weight += sum(map(self._letters, entries))
            if len(self._waiting) >= _TOGETHER or self._weight >= _LETTERS:
                self._flush()
            return
        for source, some in groupby(entries, key=lambda one: one.source):
            start = self._file.tell()
            self._write(some)
            if self._parts and self._parts[-1][0] == source:
                start = self._parts.pop()[1]
            self._parts.append((source, start, self._file.tell()))

    def _write(self, entries: Iterable[Entry]) -> None:
        lines = lines_of((self._table.cells(one, self._places) for one in entries), self._guarded)
        self._file.writelines(lines)

    def _flush(self) -> None:
        self._write(sorted(self._waiting, key=lambda one: one.source))
        self._waiting, self._weight = [], 0

    def close(self) -> None:
        """Sort the entries by source."""
        if self._waiting and not self._file.closed:
            self._flush()
        self._file.close()
        in_order = sorted(self._parts)
        if in_order == self._parts:
            return
        mixed = self._place.with_suffix(".mixed")
        self._place.rename(mixed)
        with open(mixed, "rb") as before, open(self._place, "wb") as after:
            after.writelines(lines_of([self._table.header]))
            for _, start, end in in_order:
                before.seek(start)
                shutil.copyfileobj(io.BytesIO(before.read(end - start)), after)
        mixed.unlink()


class StreamedList(Generic[Entry]):
    """Keeps entries in memory, for runs without a record."""

    def __init__(self, places: Places) -> None:
        self._places = places
        self._entries: list[Entry] = []

    def __call__(self, entries: Sequence[Entry]) -> None:
        """Keep some entries."""
        self._entries += entries

    def close(self) -> None:
        """Sort the entries by source."""
        self._entries.sort(key=lambda one: one.source)

    @property
    def entries(self) -> list[Entry]:
        """The entries, each with the name of its source."""
        return [one.of(self._places.source(one.source).name) for one in self._entries]
