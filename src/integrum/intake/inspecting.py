"""Read each source once before any of its rows comes into the table: its hash, its rows, and whether it is sound."""

from __future__ import annotations

import codecs
import re
from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

import pyarrow as pa
from blake3 import blake3

from integrum.columns.binding import Binding
from integrum.columns.union import WideCells
from integrum.plan.layout import Layout, is_ascii_like
from integrum.problems.problem import SourceFault, counted, unforeseen
from integrum.reading.cutting import PIECE, cut
from integrum.reading.head import NO_LINE_END, Head
from integrum.reading.parsing import Rows, parse, rows_of_cells
from integrum.reading.parts import COMMENT, FOOTER, Part
from integrum.reading.pieces import Blocks, LineBlocks, Piece, load
from integrum.reading.stream import is_utf_8, reads_ranges
from integrum.sources.source import Source, read_full
from integrum.values.arrays import Ints
from integrum.values.joining import convert_joined
from integrum.values.pipeline import convert
from integrum.workers.pool import still_wanted

# letters that UTF-8 becomes when it is read as a western encoding and written again, and how they stand in that encoding
_DOUBLED = (b"\xc3\x83\xc2", b"\xc3\x82\xc2", b"\xc3\xa2\xe2\x82\xac")
_TAKEN = re.compile(rb"\xc3[\x80-\xbf]|\xc2[\xa0-\xbf]")
_WESTERN = frozenset({"cp1252", "iso8859-1", "iso8859-15"})
_SHOWN = 24


@dataclass(frozen=True)
class Candidate:
    """A source that may come into the table."""

    source: Source
    # its number in the run, and that of its family; 0 when it has none
    number: int
    family: int
    head: Head | SourceFault  # its head, or why it has none
    layout: Layout
    # the bindings of its family, when one bad value sets the whole source aside
    prove: tuple[Binding, ...] = ()
    wide: WideCells | None = None  # how its rows become several, if they do
    remember: bool = (
        False  # whether the worker that reads its rows shares the memory of the one that inspects it
    )


@dataclass(frozen=True)
class Inspection:
    """What one reading of a source established."""

    source: int  # the number of the source in the run
    rows: int  # records, the header included; lines, where the records cannot be told
    size: int  # bytes read
    # the content hash: BLAKE3, 256 bits, in hexadecimal; empty when the source was not read to its end
    content: str
    # rows below the header that are no data, by what they are: comments, rows of the footer
    parts: Mapping[Part, int] = field(default_factory=dict)
    pieces: tuple[Piece, ...] = ()  # where its rows lie
    fault: SourceFault | None = None  # why the source has to be set aside, if so
    ends_closed: bool = True  # whether its last byte belongs to a line end
    nul: bool = False  # whether there are NUL characters in its text
    # where its text first reads like UTF-8 that was taken for another encoding: the line, and some letters
    misread: tuple[int, str] | None = None
    # hashes of its lines, block by block; none when it was not read to its end
    blocks: Blocks = field(default_factory=Blocks)
    # whether no piece can be read on its own: they are cut again, or read one after the other
    again: bool = False

    def without_texts(self) -> Inspection:
        """The same without the texts of the pieces, which take memory."""
        if not any(piece.text for piece in self.pieces):
            return self
        return replace(self, pieces=tuple(replace(piece, text=None) for piece in self.pieces))


def inspect_some(candidates: Sequence[Candidate]) -> list[Inspection]:
    """Inspect a few sources on a worker. Faults are returned, not raised."""
    return [_inspected(one) for one in candidates]


def _inspected(one: Candidate) -> Inspection:
    try:
        return _prove(one, inspect(one)) if one.prove else inspect(one)
    except Exception as error:
        fault = error if isinstance(error, SourceFault) else unforeseen(error)
    hasher = blake3()
    return _set_aside(one, fault, hasher, _Counted(hasher.update))


def inspect(one: Candidate) -> Inspection:
    """Inspect a source: read it once from start to end."""
    hasher = blake3()
    seen = _Counted(hasher.update, None if one.source.sheet else _Misread(one.layout.encoding))
    if isinstance(one.head, SourceFault):
        return _set_aside(one, one.head, hasher, seen)
    rows, parts = one.head.first_row - 1, Counter[Part]()
    pieces: list[Piece] = []
    try:
        for piece in cut(
            one.source, one.number, one.family, one.head, one.layout, seen, remember=one.remember
        ):
            rows += piece.rows + piece.footer
            parts.update({COMMENT: len(piece.comments), FOOTER: piece.footer})
            pieces.append(piece)
    except SourceFault as fault:
        return _set_aside(one, fault, hasher, seen)
    if one.source.has_changed():
        changed = SourceFault("source-changed", "the file changed while it was being read", "run it again")
        return Inspection(one.number, rows, seen.size, hasher.hexdigest(), fault=changed)
    again = len(pieces) > 1 and not reads_ranges(one.source, one.layout)
    return Inspection(
        one.number,
        rows,
        seen.size,
        hasher.hexdigest(),
        dict(parts),
        tuple(piece for piece in pieces if piece.rows or piece.footer),
        ends_closed=seen.end in (b"\n", b"\r", b"\0", b""),
        nul=seen.nul and is_ascii_like(one.layout.encoding),
        misread=_misread(one, seen.misread_at),
        blocks=seen.blocks(),
        again=again,
    )


def _misread(one: Candidate, at: int | None) -> tuple[int, str] | None:
    """The row and the letters of a place where UTF-8 was read in another encoding."""
    if at is None or one.source.sheet is not None:
        return None
    with one.source.open() as file:
        start, before = read_full(file.read, PIECE), 0
        text, end = start, len(start)
        while end <= at:
            before += text.count(b"\n")
            text = read_full(file.read, PIECE)
            if not text:
                return None
            end += len(text)
    place = at - (end - len(text))
    name = codecs.lookup(one.layout.encoding).name
    if name in _WESTERN and is_utf_8(start[: start.rfind(b"\n") + 1]):
        return None  # it is UTF-8, and was read as that
    line = text[text.rfind(b"\n", 0, place) + 1 : place + _SHOWN].split(b"\n")[0]
    return before + text.count(b"\n", 0, place) + 1, line[-2 * _SHOWN :].decode(name, "ignore").strip()


class _Misread:
    """Searches for UTF-8 that was read in another encoding, when the file was written or now."""

    def __init__(self, encoding: str) -> None:
        self._reads = codecs.lookup(encoding).name in _WESTERN

    def __call__(self, data: bytes) -> int:
        """The offset of the first such place; -1 where there is none."""
        if data.isascii():
            return -1
        if self._reads:
            found = _TAKEN.search(data)
            return found.start() if found else -1
        return min((at for mark in _DOUBLED if (at := data.find(mark)) >= 0), default=-1)


def lost(one: Candidate) -> Inspection:
    """The inspection of a source that killed its workers."""
    return Inspection(one.number, 0, one.source.size, "", fault=worker_died())


def worker_died() -> SourceFault:
    """The fault of a source that kills its workers."""
    return SourceFault(
        "unforeseen",
        "each worker that read it ended without a word, perhaps as memory ran out",
        "give the workers more memory, or look at what is in the file",
    )


def _set_aside(one: Candidate, fault: SourceFault, hasher: blake3, seen: _Counted) -> Inspection:
    """The inspection of a source that cannot come in. One without line ends is not read to its end."""
    if fault.code == NO_LINE_END:
        return Inspection(one.number, 0, one.source.size, "", fault=fault)
    rows, whole = _hash_and_count(one.source, seen)
    if not whole:
        return Inspection(one.number, rows, seen.size, "", fault=fault)
    return Inspection(one.number, rows, seen.size, hasher.hexdigest(), fault=fault, blocks=seen.blocks())


def pieces_of(one: Candidate, seen: Inspection) -> Iterable[Piece]:
    """The pieces of an inspected source. Each can be read on its own."""
    if not seen.again or isinstance(one.head, SourceFault):
        return seen.pieces
    pieces = cut(one.source, one.number, one.family, one.head, one.layout, keep=True)
    return (piece for piece in pieces if piece.rows or piece.footer)


class _Counted:
    """Pass bytes through and count them."""

    def __init__(self, hand_on: Callable[[bytes], object], misread: _Misread | None = None) -> None:
        self.size, self.end, self.nul = 0, b"", False
        self._misread = misread
        self.misread_at: int | None = None
        self._hand_on, self._lines = hand_on, LineBlocks()
        self.blocks = self._lines.blocks

    def __call__(self, data: bytes) -> int:
        """Pass on the next bytes. Returns the number of line feeds in them."""
        still_wanted()
        self.size += len(data)
        self.end = data[-1:] or self.end
        self.nul = self.nul or b"\0" in data
        if self._misread and (at := self._misread(data)) >= 0:
            self.misread_at, self._misread = self.size - len(data) + at, None
        self._hand_on(data)
        return self._lines.take(data)


def _hash_and_count(source: Source, seen: _Counted) -> tuple[int, bool]:
    """Hash the rest of a source and count its lines. Returns whether all of it could be read."""
    rows, size, end = 0, 0, b""
    try:
        with source.open() as file:
            while data := file.read(PIECE):
                still_wanted()
                beyond = seen.size - size
                size += len(data)
                if beyond < len(data):
                    seen(data[max(beyond, 0) :])
                rows += data.count(b"\n")
                end = data[-1:]
    except Exception:  # whatever it is, it is told of where it is met first
        return rows, False
    return rows + (end not in (b"\n", b"")), True


def _prove(one: Candidate, seen: Inspection) -> Inspection:
    """Find out whether a source has a bad value in a column where one bad value sets all of it aside."""
    if seen.fault or isinstance(one.head, SourceFault):
        return seen
    count = 0
    first: tuple[int, str, str] | None = None
    for piece in pieces_of(one, seen):
        still_wanted()
        rows = parse([load(piece, one.source, one.layout)], one.head.header, one.head.format)
        if one.wide:
            rows, _ = rows_of_cells(rows, one.wide)
        found: list[tuple[int, str, str]] = []
        for binding in one.prove:
            for raw, bad in _bad_in(binding, rows):
                count += len(bad)
                if len(bad):
                    place = int(bad[0])
                    found.append((int(rows.row[place]), binding.column, raw[place].as_py()))
        first = first or min(found, key=lambda one: one[0], default=None)
    if first is None:
        return seen
    row, column, raw = first
    fault = SourceFault(
        "bad-value",
        f'{counted(count, "value")} not of the type of the column; the first is in "{column}"',
        'fix them, or set `bad_values = "blank"` in [rules]',
        row,
        raw,
    )
    return replace(seen, parts={}, pieces=(), again=False, fault=fault)


def _bad_in(binding: Binding, rows: Rows) -> Iterable[tuple[pa.Array, Ints]]:
    """The cells of a column, and the positions of those that are bad."""
    if binding.joined:
        done, raw = convert_joined([rows.columns[at] for at in binding.positions], binding.conversion)
        yield raw, done.bad
        return
    for number, at in enumerate(binding.positions):
        yield rows.columns[at], convert(rows.columns[at], binding.conversion_at(number)).bad
