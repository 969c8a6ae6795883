"""Turn pieces with the same header into text columns, and tell which row of which source each row is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.csv as pacsv

from integrum.arrays import flags, ints, positions, text, texts, truths
from integrum.errors import LedgerError
from integrum.reading.head import Head
from integrum.reading.pieces import Piece
from integrum.reading.records import record_at

Ints = npt.NDArray[np.int64]


@dataclass(frozen=True)
class RowAside:
    """A row kept out of the table, with its raw text."""

    source: int
    row: int
    code: str
    text: str


@dataclass(frozen=True)
class Rows:
    """Text columns and the place of each row.

    Attributes
    ----------
    columns
        One string array per header cell; an empty cell is null.
    source, row
        For each row the number of its source in the run, and its row in that source.
    aside
        Rows that did not fit.
    blank, repeated
        The sources of the rows that were dropped, one entry per row.
    """

    columns: list[pa.Array]
    source: Ints
    row: Ints
    aside: list[RowAside]
    blank: Ints
    repeated: Ints


def parse(pieces: Sequence[Piece], head: Head) -> Rows:
    """Parse pieces of sources that have the same header.

    Parameters
    ----------
    pieces
        In their order; at least one.
    head
        The head that they share.

    Returns
    -------
    Rows
        In the order of the pieces, without blank rows and repeated headers.

    Raises
    ------
    LedgerError
        When a row was lost or made up on the way.
    """
    source, row = _places(pieces)
    data = pieces[0].data if len(pieces) == 1 else b"".join(piece.data for piece in pieces)
    columns, kept, rejected = _parse_block(data, len(head.cells), head.delimiter)
    if len(kept) + len(rejected) != len(row):
        names = sorted({piece.source for piece in pieces})
        raise LedgerError(
            f"{len(row):,} rows were counted but {len(kept) + len(rejected):,} were read, in sources {names}"
        )
    aside = [
        RowAside(piece.source, one.row, "text-after-quote", one.text)
        for piece in pieces
        for one in piece.broken
    ]
    for at, cells, raw in rejected:
        code = "row-too-long" if cells > len(head.cells) else "row-too-short"
        aside.append(RowAside(int(source[at]), int(row[at]), code, raw))
    aside.sort(key=lambda one: (one.source, one.row))
    if len(kept) != len(row):
        source, row = source[kept], row[kept]
    blank = _blank_rows(columns)
    repeated = _repeated_headers(columns, head.cells)
    drop = np.concatenate([blank, repeated])
    if len(drop):
        keep = np.ones(len(row), bool)
        keep[drop] = False
        dropped_blank, dropped_repeated = source[blank], source[repeated]
        mask = flags(keep)
        columns = [column.filter(mask) for column in columns]
        source, row = source[keep], row[keep]
    else:
        dropped_blank = dropped_repeated = source[:0]
    return Rows(columns, source, row, aside, dropped_blank, dropped_repeated)


def _places(pieces: Sequence[Piece]) -> tuple[Ints, Ints]:
    sources, rows = [], []
    for piece in pieces:
        row = np.arange(piece.first_row, piece.first_row + piece.rows)
        if piece.broken:
            row = np.delete(row, [one.row - piece.first_row for one in piece.broken])
        rows.append(row)
        sources.append(np.full(len(row), piece.source))
    return np.concatenate(sources), np.concatenate(rows)


def _parse_block(
    data: bytes, width: int, delimiter: str
) -> tuple[list[pa.Array], Ints, list[tuple[int, int, str]]]:
    """Columns, the positions in the block of their rows, and what was rejected: position, cells, raw text.

    Rows whose surplus cells are all empty are taken; an empty line comes out as a row of nulls.
    """
    if not data:
        return [texts([])] * width, np.array([], np.int64), []
    rejected: list[tuple[int, int, str]] = []

    def reject(row: pacsv.InvalidRow) -> str:
        rejected.append((row.number - 1, row.actual_columns, row.text))
        return "skip"

    names = [str(position) for position in range(width)]
    table = pacsv.read_csv(
        pa.BufferReader(data),
        read_options=pacsv.ReadOptions(use_threads=False, block_size=len(data) + 1, column_names=names),
        parse_options=pacsv.ParseOptions(
            delimiter=delimiter, ignore_empty_lines=False, newlines_in_values=True, invalid_row_handler=reject
        ),
        convert_options=pacsv.ConvertOptions(
            column_types=dict.fromkeys(names, pa.string()),
            strings_can_be_null=True,
            quoted_strings_can_be_null=True,
            null_values=[""],
            check_utf8=False,
        ),
    )
    columns = [_one(column) for column in table.columns]
    kept = np.arange(len(columns[0]) + len(rejected))
    if not rejected:
        return columns, kept, []
    kept = np.delete(kept, [at for at, _, _ in rejected])
    return _take_surplus(columns, kept, rejected, width, delimiter)


def _take_surplus(
    columns: list[pa.Array], kept: Ints, rejected: list[tuple[int, int, str]], width: int, delimiter: str
) -> tuple[list[pa.Array], Ints, list[tuple[int, int, str]]]:
    parts, places = [columns], [kept]
    still: list[tuple[int, int, str]] = []
    wider: dict[int, list[tuple[int, int, str]]] = {}
    for one in rejected:
        (wider.setdefault(one[1], []) if one[1] > width else still).append(one)
    for cells, rows in wider.items():
        block = "\n".join(raw for _, _, raw in rows).encode() + b"\n"
        more, _, _ = _parse_block(block, cells, delimiter)
        empty = np.ones(len(rows), bool)
        for column in more[width:]:
            empty &= truths(column.is_null())
        taken = np.flatnonzero(empty)
        parts.append([column.take(ints(taken)) for column in more[:width]])
        places.append(np.array([rows[at][0] for at in taken], np.int64))
        still += [rows[at] for at in np.flatnonzero(~empty)]
    place = np.concatenate(places)
    order = np.argsort(place, kind="stable")
    columns = [pa.concat_arrays(list(each)).take(ints(order)) for each in zip(*parts, strict=True)]
    return columns, place[order], sorted(still)


def _one(column: pa.ChunkedArray) -> pa.Array:
    return column.chunk(0) if column.num_chunks == 1 else column.combine_chunks()


def _blank_rows(columns: list[pa.Array]) -> Ints:
    """Rows in which no cell has anything but spaces."""
    maybe: Ints | None = None
    for column in columns:
        if maybe is None:
            if not column.null_count and not _may_be_space(column):
                return np.array([], np.int64)
            maybe = positions(_is_blank(column))
        else:
            maybe = maybe[truths(_is_blank(column.take(ints(maybe))))]
        if not len(maybe):
            break
    return maybe if maybe is not None else np.array([], np.int64)


def _is_blank(column: pa.Array) -> pa.Array:
    return pc.equal(pc.utf8_trim_whitespace(pc.fill_null(column, text(""))), text(""))


def _may_be_space(column: pa.Array) -> bool:
    """Whether some value begins with a space, a tab or a letter outside ASCII that may be one."""
    data = column.buffers()[2]
    if data is None or not len(column):
        return False
    starts = np.frombuffer(column.buffers()[1], np.int32)[column.offset : column.offset + len(column)]
    first = np.frombuffer(data, np.uint8)[np.minimum(starts, len(data) - 1)]
    return bool(np.any((first <= 0x20) | (first >= 0xC2)))


def _repeated_headers(columns: list[pa.Array], cells: Sequence[str]) -> Ints:
    maybe: Ints | None = None
    for column, cell in zip(columns, cells, strict=True):
        if maybe is None:
            if not cell:
                continue
            maybe = positions(pc.equal(column, text(cell)))
        else:
            few = pc.fill_null(column.take(ints(maybe)), text(""))
            maybe = maybe[truths(pc.equal(few, text(cell)))]
        if not len(maybe):
            break
    return maybe if maybe is not None else np.array([], np.int64)


def raw_record(piece: Piece, row: int, delimiter: str) -> str:
    """The raw text of one row of a piece, found again for the few rows where it is wanted.

    Parameters
    ----------
    piece
        The piece that holds the row.
    row
        Its row in the source.
    delimiter
        The character between cells.
    """
    broken_before = sum(one.row < row for one in piece.broken)
    return record_at(piece.data, ord(delimiter), row - piece.first_row - broken_before).decode("utf-8")
