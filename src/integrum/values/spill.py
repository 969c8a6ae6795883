"""Rows that are kept on the disk once there are many, and are given back by their number."""

from __future__ import annotations

import mmap
import shutil
import tempfile
import weakref
from pathlib import Path

import numpy as np
import pyarrow as pa

from integrum.values.arrays import Ints, ints, wholes

# this many rows are kept in memory
MOST = 1 << 18
# after this many rows the files are let go of
_LET_GO = 1 << 15


def folder_for(owner: object) -> Path:
    """Make a temporary folder that is removed together with its owner, or when the process ends.

    Examples
    --------
    >>> class Owner:
    ...     pass
    >>> one = Owner()
    >>> place = folder_for(one)
    >>> before = place.exists()
    >>> del one
    >>> before, place.exists()
    (True, False)
    """
    place = tempfile.mkdtemp(prefix="integrum-")
    weakref.finalize(owner, shutil.rmtree, place, ignore_errors=True)
    return Path(place)


class Spill:
    """Keeps rows on the disk, and gives them back by their number.

    Parameters
    ----------
    schema
        The columns; the first one has the numbers, as int64.

    Examples
    --------
    >>> spill = Spill(pa.schema({"number": pa.int64(), "said": pa.string()}), most=2)
    >>> for some in ([2, 1], [2], [1, 2]):
    ...     spill.add(pa.table({"number": some, "said": [f"{one}" for one in some]}))
    >>> spill.of(2)["said"].to_pylist(), len(spill)
    (['2', '2', '2'], 5)
    """

    def __init__(self, schema: pa.Schema, most: int = MOST) -> None:
        self._schema, self._most = schema, most
        self._tables: list[pa.Table] = []
        self._held = self._rows = 0
        self._places: tuple[Ints, Ints] | None = None
        self._folder: Path | None = None
        # of each file: its rows, which numbers it has, and where those of each begin
        self._files: list[tuple[pa.Table, Ints, Ints]] = []
        self._maps: list[mmap.mmap] = []
        self._given = 0

    def __len__(self) -> int:
        return self._rows

    def add(self, table: pa.Table) -> None:
        """Take some rows."""
        self._tables.append(table)
        self._places = None
        self._held += len(table)
        self._rows += len(table)
        if self._held > self._most:
            self._put_away()

    def _sorted(self) -> pa.Table:
        table = pa.concat_tables(self._tables).combine_chunks()
        numbers = wholes(table.column(0).combine_chunks())
        if (np.diff(numbers) >= 0).all():
            return table
        return table.take(ints(np.argsort(numbers, kind="stable"))).combine_chunks()

    def _put_away(self) -> None:
        if self._folder is None:
            self._folder = folder_for(self)
        place = self._folder / f"{len(self._files)}.arrow"
        table = self._sorted()
        with pa.ipc.new_file(str(place), table.schema) as file:
            file.write_table(table)
        with open(place, "rb") as file:  # it is looked into, not read
            self._maps.append(mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ))
        there = pa.ipc.open_file(pa.py_buffer(self._maps[-1])).read_all()
        self._files.append((there, *_places(table)))
        self._tables, self._held = [], 0

    def of(self, number: int) -> pa.Table:
        """The rows that were added with a number."""
        return self.between(number, number)

    def between(self, first: int, last: int) -> pa.Table:
        """The rows of all numbers in a range."""
        parts: list[pa.Table] = []
        for table, numbers, starts in self._everywhere():
            at, after = np.searchsorted(numbers, (first, last + 1)).tolist()
            if at < after:
                start = int(starts[at])
                end = int(starts[after]) if after < len(starts) else len(table)
                parts.append(table.slice(start, end - start))
                self._given += end - start
        if self._given > _LET_GO:
            self._let_go()
        return pa.concat_tables(parts) if parts else pa.Table.from_batches([], self._schema)

    def _let_go(self) -> None:
        """Tell the system that the pages of the files need not stay in memory."""
        self._given = 0
        for each in self._maps if hasattr(mmap, "MADV_DONTNEED") else ():
            each.madvise(mmap.MADV_DONTNEED)

    def _everywhere(self) -> list[tuple[pa.Table, Ints, Ints]]:
        if not self._held:
            return self._files
        if len(self._tables) > 1 or self._places is None:
            self._tables = [self._sorted()]
            self._places = _places(self._tables[0])
        return [*self._files, (self._tables[0], *self._places)]

    def numbers(self) -> list[int]:
        """The numbers that there are, in order."""
        return sorted({one for _, numbers, _ in self._everywhere() for one in numbers.tolist()})


def _places(table: pa.Table) -> tuple[Ints, Ints]:
    return np.unique(wholes(table.column(0).combine_chunks()), return_index=True)
