"""Read each source once before any of its rows comes into the table: its hash, its rows, and whether it is sound."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

import pyarrow as pa
from blake3 import blake3

from integrum.arrow.arrays import Ints
from integrum.columns.binding import Binding
from integrum.columns.wide_cells import WideCells
from integrum.plan.layout import Layout, is_ascii_like
from integrum.problems import SourceFault, counted, unforeseen
from integrum.reading.blocks import Blocks, LineBlocks
from integrum.reading.cutting import PIECE, cut
from integrum.reading.head import NO_LINE_END, Head
from integrum.reading.parsing import Rows, parse
from integrum.reading.parts import COMMENT, FOOTER, Part
from integrum.reading.pieces import Piece, load
from integrum.reading.stream import reads_ranges
from integrum.reading.wide_rows import rows_of_cells
from integrum.sources.source import Source
from integrum.values.joining import convert_joined
from integrum.values.pipeline import convert
from integrum.workers.pool import still_wanted


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
    # hashes of its lines, block by block; none when it was not read to its end
    blocks: Blocks = field(default_factory=Blocks)
    # whether no piece can be read on its own: they are cut again, or read one after the other
    again: bool = False


def inspect_some(candidates: Sequence[Candidate]) -> list[Inspection]:
    """Inspect a few sources, on a worker; a fault is given back, not raised."""
    return [_inspected(one) for one in candidates]


def _inspected(one: Candidate) -> Inspection:
    try:
        return _prove(one, inspect(one)) if one.prove else inspect(one)
    except Exception as error:
        fault = error if isinstance(error, SourceFault) else unforeseen(error)
    hasher = blake3()
    return _set_aside(one, fault, hasher, _Counted(hasher.update))


def inspect(one: Candidate) -> Inspection:
    """Read a source once from start to end."""
    hasher = blake3()
    seen = _Counted(hasher.update)
    if isinstance(one.head, SourceFault):
        return _set_aside(one, one.head, hasher, seen)
    rows, parts = one.head.first_row - 1, Counter[Part]()
    pieces: list[Piece] = []
    try:
        for piece in cut(one.source, one.number, one.family, one.head, one.layout, seen):
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
        blocks=seen.blocks(),
        again=again,
    )


def lost(one: Candidate) -> Inspection:
    """What is known of a source whose workers died while they inspected it."""
    return Inspection(one.number, 0, one.source.size, "", fault=worker_died())


def worker_died() -> SourceFault:
    """The fault of a source that its workers do not survive."""
    return SourceFault(
        "unforeseen",
        "each worker that read it ended without a word, perhaps as memory ran out",
        "give the workers more memory, or look at what is in the file",
    )


def _set_aside(one: Candidate, fault: SourceFault, hasher: blake3, seen: _Counted) -> Inspection:
    """What is known of a source that cannot come in; one without line ends is not a text, and is not read to its end."""
    if fault.code == NO_LINE_END:
        return Inspection(one.number, 0, one.source.size, "", fault=fault)
    rows, whole = _hash_and_count(one.source, seen)
    if not whole:
        return Inspection(one.number, rows, seen.size, "", fault=fault)
    return Inspection(one.number, rows, seen.size, hasher.hexdigest(), fault=fault, blocks=seen.blocks())


def pieces_of(one: Candidate, seen: Inspection) -> Iterable[Piece]:
    """The pieces of a source that was inspected, so that each can be read on its own."""
    if not seen.again or isinstance(one.head, SourceFault):
        return seen.pieces
    pieces = cut(one.source, one.number, one.family, one.head, one.layout, keep=True)
    return (piece for piece in pieces if piece.rows or piece.footer)


class _Counted:
    """Hand bytes on and count them."""

    def __init__(self, hand_on: Callable[[bytes], object]) -> None:
        self.size, self.end, self.nul = 0, b"", False
        self._hand_on, self._lines = hand_on, LineBlocks()
        self.blocks = self._lines.blocks

    def __call__(self, data: bytes) -> None:
        """Take the next bytes."""
        still_wanted()
        self.size += len(data)
        self.end = data[-1:] or self.end
        self.nul = self.nul or b"\0" in data
        self._hand_on(data)
        self._lines.take(data)


def _hash_and_count(source: Source, seen: _Counted) -> tuple[int, bool]:
    """Take what was not read yet into the hash, and count the lines; whether all of it could be read."""
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
    """Look at all values of a source of which one bad one sets it aside as a whole."""
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
    """The cells of a column, and the positions of its bad values."""
    if binding.joined:
        done, raw = convert_joined([rows.columns[at] for at in binding.positions], binding.conversion)
        yield raw, done.bad
        return
    for number, at in enumerate(binding.positions):
        yield rows.columns[at], convert(rows.columns[at], binding.conversion_at(number)).bad
