"""One source: where it lies and what it is called."""

from __future__ import annotations

import csv
import os
import shutil
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import dataclass, field, replace
from io import BufferedReader, BytesIO, StringIO
from pathlib import Path
from tempfile import SpooledTemporaryFile
from typing import BinaryIO, cast

from integrum.plan.layout import Layout
from integrum.problems.problem import Problem, SourceFault
from integrum.record.hashing import hash_in
from integrum.remote.access import Access
from integrum.remote.files import RemoteFile, RemoteState, state_at
from integrum.workbooks.places import Sheet


@dataclass(frozen=True)
class ReadSheet:
    """A sheet that was read as text."""

    # where its text lies while the run goes on; it is read from the workbook again where it does not
    kept: str = ""
    size: int = 0  # bytes of the text
    # what `integrum.workbooks.text.SheetText` says about its rows and columns
    pairs: int = 0
    wide: int = 0
    last_rows: tuple[int, ...] = ()
    merged: tuple[tuple[int, int, int], ...] = ()
    problems: tuple[Problem, ...] = ()  # what is to be said; without the name of the source
    # bytes of the text of the cells beside the columns that are wanted; it lies beside `kept`
    beside: int = 0


@dataclass(frozen=True)
class Remote:
    """How a remote source is reached."""

    access: Access  # how its place is entered; secrets are only named
    state: RemoteState  # what the place said of it when it was found

    def has_changed(self, address: str) -> bool:
        """Whether the remote file has changed since it was found."""
        try:
            return state_at(address, self.access) != self.state
        except SourceFault:
            return True


# what the name of the text of the cells beside a table ends with
BESIDE = ".beside"


@dataclass(frozen=True)
class Source:
    """One table to bring in."""

    # the path relative to the common folder, with ``/`` on every system; for a member of an archive the
    # archive's name and then the member's, for a sheet the workbook's name and then the sheet's
    name: str
    path: str  # where the file lies, as the system knows it; or its address
    group: int  # the number of its group in the plan, from 1
    size: int  # bytes to be read, as far as is known when it is found
    # size and time of the last change (ns) of the file, when it was found; of a remote place that tells no
    # time a negative number for its etag
    state: tuple[int, int]
    packing: str = ""  # ``""``, or how it is packed: ``".gz"``, ``".zip"`` and so on
    member: int = -1  # in an archive: the position of the member in its list
    sheet: Sheet | None = None  # the sheet, when it is one of a workbook
    read: ReadSheet = field(default_factory=ReadSheet)  # of a sheet: what its reading gave
    workbook: str = ""  # of a sheet: the content hash of the file
    fault: SourceFault | None = None  # why it cannot be read, when that is known before it is opened
    remote: Remote | None = None  # how it is reached, where `path` is an address

    @property
    def file(self) -> str:
        """The name of its file; of a sheet, the name of the workbook."""
        return self.name[: -len(self.sheet.name) - 1] if self.sheet else self.name

    @property
    def sheet_name(self) -> str:
        """The name of the sheet that it is; empty for a file."""
        return self.sheet.name if self.sheet else ""

    def open(self) -> BinaryIO:
        """Open the source for reading from the start: its bytes, unpacked on the way, or a sheet as text."""
        if self.fault:
            raise self.fault
        if self.sheet is None:
            return self.open_file()
        if self.read.kept:
            with suppress(OSError):  # a worker elsewhere may not have it
                return open(self.read.kept, "rb", buffering=0)
        from integrum.workbooks.workbook import Workbook

        return BytesIO(Workbook(self.whole_file()).read(self.sheet).text)

    def content(self) -> str:
        """The hash of its content as it is now: BLAKE3, 256 bits, in hexadecimal; of a sheet that of its cells."""
        with self.open() as file:
            return hash_in(file)

    def cells_beside(self) -> Iterator[tuple[int, str]]:
        """The cells beside the columns that are wanted of a sheet, row by row, as one text for each row."""
        if self.sheet is None or not self.read.beside:
            return
        text = b""
        with suppress(OSError):
            text = Path(self.read.kept + BESIDE).read_bytes()
        if not text:
            from integrum.workbooks.workbook import Workbook

            text = Workbook(self.whole_file()).read(self.sheet).beside
        for row, raw in csv.reader(StringIO(text.decode("utf-8"), newline="")):
            yield int(row), raw

    @property
    def has_ranges(self) -> bool:
        """Whether any range of its bytes can be read without reading what stands before it."""
        if self.sheet:
            return bool(self.read.kept)
        return not self.packing and (self.remote is None or self.remote.state.ranges)

    def open_file(self) -> BinaryIO:
        """Open the file itself, also where the source is a sheet in it."""
        if self.packing:
            from integrum.sources.packing import unpacked

            return unpacked(self.packed_file(), self.packing, self.member)
        return self._bytes()

    def packed_file(self) -> BinaryIO:
        """Open a packed file or an archive as it is."""
        if self.remote is None:
            return open(self.path, "rb")
        if self.remote.state.size >= 0:
            return BufferedReader(cast(RemoteFile, self._bytes()), _CHUNK)
        # how it is packed is told at its end, and the place does not say where that is
        whole = SpooledTemporaryFile(_IN_MEMORY)  # noqa: SIM115
        with self._bytes() as file:
            shutil.copyfileobj(file, whole)
        whole.seek(0)
        return cast(BinaryIO, whole)

    def _bytes(self) -> BinaryIO:
        if self.remote is None:
            return open(self.path, "rb", buffering=0)
        if self.fault:
            raise self.fault
        state = self.remote.state
        return cast(BinaryIO, RemoteFile(self.path, self.remote.access, state.size, state.ranges, state.tag))

    def whole_file(self) -> bytes:
        """All bytes of the file itself."""
        with self.open_file() as file:
            return b"".join(iter(lambda: file.read(_CHUNK), b""))

    def written(self, layout: Layout) -> Layout:
        """The layout of its group as it applies to it; of a sheet without delimiter and encoding."""
        if self.sheet is None:
            return layout
        plain = Layout()
        return replace(
            layout, encoding=plain.encoding, delimiter=plain.delimiter, quote=plain.quote, escape=plain.escape
        )

    def has_changed(self) -> bool:
        """Whether the file has changed since it was found."""
        if self.remote is not None:
            return self.remote.has_changed(self.path)
        try:
            state = os.stat(self.path)
        except OSError:
            return True
        return (state.st_size, state.st_mtime_ns) != self.state


_CHUNK, _IN_MEMORY = 1 << 20, 16 << 20


def read_full(read: Callable[[int], bytes], want: int) -> bytes:
    """Read until `want` bytes are there or the end is reached, also where single reads give less."""
    data = read(want)
    if not data or len(data) == want:
        return data
    parts, size = [data], len(data)
    while size < want and (more := read(want - size)):
        parts.append(more)
        size += len(more)
    return b"".join(parts)
