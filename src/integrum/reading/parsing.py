"""The text of a piece as columns of text with row numbers; short and wide rows."""

from __future__ import annotations

from codecs import BOM_UTF8
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.csv as pacsv

from integrum.columns.header import Header
from integrum.columns.union import WideCells
from integrum.errors import LedgerError
from integrum.reading.head import Format
from integrum.reading.parts import BESIDE, REPEATED, LeftOutRow, SetAside
from integrum.reading.pieces import Loaded
from integrum.reading.plain import is_blank, is_plain, plain, separator, split_cells
from integrum.reading.records import Dialect, bounds
from integrum.values.arrays import (
    Ints,
    Mask,
    each_once,
    flags,
    in_one,
    ints,
    padded,
    positions,
    text,
    texts,
    truths,
)
from integrum.values.digits import Letters

# a column is looked through for a cell whose length so small a part of its texts has
_FEW = 16


@dataclass(frozen=True)
class Rows:
    """Parsed rows: columns of text, and the place of each row."""

    columns: list[pa.Array]  # one string array per header cell; an empty cell is null
    # for each row the number of its source in the run, and its row in that source
    source: Ints
    row: Ints
    aside: list[SetAside]  # rows that did not fit, and cells of sheets that stand beside the table
    # the sources of the rows that were dropped, one entry per row
    blank: Ints
    repeated: Ints
    # comments, footers and repeated headers with their texts, and what stands beside the table of a sheet
    left_out: list[LeftOutRow] = field(default_factory=list)


def parse(pieces: Sequence[Loaded], header: Header, form: Format) -> Rows:
    """Parse pieces of sources with the same header and notation.

    In the order of the pieces, without blank rows and repeated headers.

    Raises LedgerError when a row was lost or made up on the way.

    `pieces`: in their order; at least one.
    """
    source, row = _places(pieces)
    data = pieces[0].data if len(pieces) == 1 else b"".join(piece.data for piece in pieces)
    columns, kept, rejected = _parse_block(plain(data, form.dialect), header, form)
    if len(kept) + len(rejected) != len(row):
        names = sorted({piece.source for piece in pieces})
        raise LedgerError(
            f"{len(row):,} rows were counted but {len(kept) + len(rejected):,} were read, in sources {names}"
        )
    aside = [
        SetAside(piece.source, at, "", "text-after-quote", text)
        for piece in pieces
        for at, text in piece.broken
    ]
    if rejected and not is_plain(form.dialect):
        rejected = _as_written(rejected, pieces, source, row, form.dialect)
    empty = {at for at, _, raw in rejected if is_blank(raw, form.dialect)}
    again = {at for at, _, raw in rejected if at not in empty and _is_header(raw, header, form.dialect)}
    blank_in, again_in = (source[np.array(sorted(some), np.int64)] for some in (empty, again))
    left_out = [one for piece in pieces for one in piece.left_out]
    for at, cells, raw in rejected:
        if at in again:
            left_out.append(LeftOutRow(int(source[at]), int(row[at]), REPEATED, raw))
        if at in empty or at in again:
            continue
        code = "row-too-long" if cells > len(header.names) else "row-too-short"
        aside.append(SetAside(int(source[at]), int(row[at]), "", code, raw))
    if len(kept) != len(row):
        source, row = source[kept], row[kept]
    blank = _blank_rows(columns)
    glued = not data.isascii() and BOM_UTF8 in data
    rows = [*header.rows, *(_behind_mark(header.rows) if glued else ())]
    repeated = np.concatenate([blank[:0], *(_repeated(columns, cells) for cells in rows)])
    if len(repeated):  # header rows may be alike, or have only spaces
        repeated = repeated[~np.isin(repeated, blank)]
    spare = _in_spare(columns, header.unused)
    if len(spare):
        spare = spare[~np.isin(spare, np.concatenate([repeated, blank]))]
    if len(spare) and form.is_sheet:
        aside += _beside(columns, spare, header, source, row)
        spare = spare[:0]
    if len(spare):
        places = list(zip(source[spare].tolist(), row[spare].tolist(), strict=True))
        raw_of = raw_rows(pieces, places, form.dialect)
        aside += [SetAside(*place, "", "row-too-long", raw_of[place]) for place in places]
    left_out += [LeftOutRow(one.source, one.row, BESIDE, one.raw) for one in aside if one.code == BESIDE]
    drop = np.concatenate([blank, repeated, spare])
    if not len(drop):
        return Rows(columns, source, row, aside, blank_in, again_in, left_out)
    if len(repeated):
        places = list(zip(source[repeated].tolist(), row[repeated].tolist(), strict=True))
        left_out += [
            LeftOutRow(*place, REPEATED, raw) for place, raw in raw_rows(pieces, places, form.dialect).items()
        ]
    keep = np.ones(len(row), bool)
    keep[drop] = False
    mask = flags(keep)
    columns = [column.filter(mask) for column in columns]
    blank_in = np.concatenate([source[blank], blank_in])
    return Rows(
        columns,
        source[keep],
        row[keep],
        aside,
        blank_in,
        np.concatenate([source[repeated], again_in]),
        left_out,
    )


def without_again(rows: Rows, again: Mapping[int, Ints], pieces: Sequence[Loaded], dialect: Dialect) -> Rows:
    """The same rows without those that count in another source; these are set aside.

    `again`: by the number of a source the numbers of such rows, in order.
    """
    gone = np.zeros(len(rows.row), bool)
    for source, numbers in again.items():
        start, end = np.searchsorted(rows.source, [source, source + 1])
        gone[start:end] = np.isin(rows.row[start:end], numbers)
    places = list(zip(rows.source[gone].tolist(), rows.row[gone].tolist(), strict=True))
    if not places:
        return rows
    raw_of = raw_rows(pieces, places, dialect)
    aside = [SetAside(*place, "", "row-again", raw_of[place]) for place in places]
    mask = flags(~gone)
    columns = [column.filter(mask) for column in rows.columns]
    return replace(
        rows,
        columns=columns,
        source=rows.source[~gone],
        row=rows.row[~gone],
        aside=[*rows.aside, *aside],
    )


def _places(pieces: Sequence[Loaded]) -> tuple[Ints, Ints]:
    sources, rows = [], []
    for piece in pieces:
        row = np.arange(piece.first_row, piece.first_row + piece.rows)
        if len(piece.gone):
            row = np.delete(row, piece.gone - piece.first_row)
        rows.append(row)
        sources.append(np.full(len(row), piece.source))
    return np.concatenate(sources), np.concatenate(rows)


def _is_header(raw: str, header: Header, dialect: Dialect) -> bool:
    """Whether a row that has not as many cells as there are columns is a header row as it is written."""
    sizes = {len(cells) for cells in header.rows} - {len(header.names)}
    if not sizes:
        return False
    cells = [cell.casefold() for cell in split_cells(raw, dialect)]
    return any(cells) and cells in ([cell.casefold() for cell in row] for row in header.rows)


def _parse_block(
    data: bytes, header: Header, form: Format
) -> tuple[list[pa.Array], Ints, list[tuple[int, int, str]]]:
    """Columns, the positions in the block of their rows, and what was rejected: position, cells, text.

    Rows whose surplus cells are all empty are taken; an empty line comes out as a row of nulls.
    """
    width = len(header.names)
    if not data:
        return [texts([])] * width, np.array([], np.int64), []
    rejected: list[tuple[int, int, str]] = []

    def reject(row: pacsv.InvalidRow) -> str:
        rejected.append((row.number - 1, row.actual_columns, row.text))
        return "skip"

    if data.startswith(BOM_UTF8):  # the parser takes the first one away, wherever the block was cut
        data = BOM_UTF8 + data
    names = [str(position) for position in range(width)]
    table = pacsv.read_csv(
        pa.BufferReader(data),
        read_options=pacsv.ReadOptions(use_threads=False, block_size=len(data) + 1, column_names=names),
        parse_options=pacsv.ParseOptions(
            delimiter=separator(form.dialect),
            quote_char=form.dialect.quote or False,
            ignore_empty_lines=False,
            newlines_in_values=True,
            invalid_row_handler=reject,
        ),
        convert_options=pacsv.ConvertOptions(
            column_types=dict.fromkeys(names, pa.string()),
            strings_can_be_null=True,
            quoted_strings_can_be_null=True,
            null_values=[""],
            check_utf8=False,
        ),
    )
    columns = [in_one(column) for column in table.columns]
    kept = np.arange(len(columns[0]) + len(rejected))
    if not rejected:
        return columns, kept, []
    kept = np.delete(kept, [at for at, _, _ in rejected])
    # a row may end where the names of the header end
    least = 1 if form.pads else header.least if not form.is_sheet else width
    return _take_others(columns, kept, rejected, width, least, form)


def _as_written(
    rejected: Sequence[tuple[int, int, str]],
    pieces: Sequence[Loaded],
    source: Ints,
    row: Ints,
    dialect: Dialect,
) -> list[tuple[int, int, str]]:
    """The rejected rows, with their text as it is in the source."""
    places = [(int(source[at]), int(row[at])) for at, _, _ in rejected]
    raw_of = raw_rows(pieces, places, dialect)
    return [(at, cells, raw_of[place]) for (at, cells, _), place in zip(rejected, places, strict=True)]


def _take_others(
    columns: list[pa.Array],
    kept: Ints,
    rejected: list[tuple[int, int, str]],
    width: int,
    least: int,
    form: Format,
) -> tuple[list[pa.Array], Ints, list[tuple[int, int, str]]]:
    """Take rows with empty surplus cells, and short ones if they may be filled up."""
    parts, places = [columns], [kept]
    still: list[tuple[int, int, str]] = []
    others: dict[int, list[tuple[int, int, str]]] = {}
    for one in rejected:
        (others.setdefault(one[1], []) if one[1] >= least else still).append(one)
    for cells, rows in others.items():
        block = "\n".join(raw for _, _, raw in rows).encode() + b"\n"
        more, _, _ = _parse_block(block, Header(tuple(map(str, range(cells)))), form)
        empty = np.ones(len(rows), bool)
        for column in more[width:]:
            empty &= truths(column.is_null())
        taken = np.flatnonzero(empty)
        more += [pa.nulls(len(rows), pa.string())] * (width - cells)
        parts.append([column.take(ints(taken)) for column in more[:width]])
        places.append(np.array([rows[at][0] for at in taken], np.int64))
        still += [rows[at] for at in np.flatnonzero(~empty)]
    place = np.concatenate(places)
    order = np.argsort(place, kind="stable")
    columns = [pa.concat_arrays(list(each)).take(ints(order)) for each in zip(*parts, strict=True)]
    return columns, place[order], sorted(still)


def _beside(
    columns: list[pa.Array], rows: Ints, header: Header, source: Ints, row: Ints
) -> Iterator[SetAside]:
    for at in header.unused:
        for place, value in zip(rows.tolist(), columns[at].take(ints(rows)).to_pylist(), strict=True):
            if value:
                name = header.names[at]
                yield SetAside(int(source[place]), int(row[place]), name, "beside-the-table", value)


def _in_spare(columns: list[pa.Array], spare: Sequence[int]) -> Ints:
    """Rows with a value in the cells at the end that have no name in the header."""
    filled = [np.flatnonzero(truths(column.is_valid())) for column in (columns[at] for at in spare)]
    some = [places for places in filled if len(places)]
    return each_once(np.concatenate(some)) if some else np.array([], np.int64)


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


def _repeated(columns: list[pa.Array], cells: Sequence[str]) -> Ints:
    """Rows that have all the cells of a header row, the empty ones too, and no other; in any case where they are several."""
    maybe: Ints | None = None
    if not any(cells):
        return np.array([], np.int64)
    folds = sum(map(bool, cells)) > 1
    filled_first = sorted(range(len(columns)), key=lambda at: not cells[at : at + 1] or not cells[at])
    for at in filled_first:
        cell = cells[at] if at < len(cells) else ""
        if maybe is None:
            maybe = _with_case(columns[at], cell) if folds else positions(pc.equal(columns[at], text(cell)))
        else:
            few = pc.fill_null(columns[at].take(ints(maybe)), text(""))
            maybe = maybe[truths(pc.equal(pc.utf8_lower(few), text(cell.lower())))]
        if not len(maybe):
            break
    return maybe if maybe is not None else np.array([], np.int64)


def _with_case(column: pa.Array, cell: str) -> Ints:
    """The positions of a text in a column, ignoring case; of common lengths, only the usual cases are tried."""
    alike = np.flatnonzero(Letters.of(column).lengths == len(cell.encode()))
    if len(alike) > len(column) // _FEW:
        return positions(pc.is_in(column, texts(_cases(cell))))
    some = pc.fill_null(column.take(ints(alike)), text(""))
    return alike[truths(pc.equal(pc.utf8_lower(some), text(cell.lower())))]


def _cases(cell: str) -> list[str]:
    """The forms of upper and lower case in which a header cell may be repeated."""
    return sorted({cell, cell.lower(), cell.upper(), cell.title(), cell.capitalize()})


def _behind_mark(rows: Sequence[Sequence[str]]) -> Iterator[Sequence[str]]:
    """Header rows as they stand where a file was glued to another with its byte order mark."""
    for first, *others in rows:
        yield f"\ufeff{first}", *others
        yield f'\ufeff"{first}"', *others


def raw_rows(
    pieces: Sequence[Loaded], places: Iterable[tuple[int, int]], dialect: Dialect
) -> dict[tuple[int, int], str]:
    """The raw text of rows, found again for the few that are wanted.

    Returns the text by source and row, without the line end.
    """
    wanted: dict[int, list[int]] = {}
    for source, row in places:
        wanted.setdefault(source, []).append(row)
    found = {}
    for piece in pieces:
        here = [row for row in wanted.get(piece.source, ()) if 0 <= row - piece.first_row < piece.rows]
        if not here:
            continue
        starts, ends = bounds(piece.data, dialect, last=True)
        numbers = np.array(here) - piece.first_row - np.searchsorted(piece.gone, here)
        for row, at in zip(here, numbers.tolist(), strict=True):
            found[piece.source, row] = piece.data[starts[at] : ends[at]].rstrip(b"\r\n").decode("utf-8")
    return found


def rows_of_cells(rows: Rows, wide: WideCells) -> tuple[Rows, Ints]:
    """Turn each row of a wide source into several rows.

    Returns the rows, those of one row of the source together, with the columns of `wide` behind the others; columns
    that have become rows are as they were. And the sources of the cells that gave no row, one entry for each row that
    there is not.

    Examples
    --------
    >>> site, april, may = texts(["a", "b"]), texts(["1", None]), texts(["2", "3"])
    >>> numbers = np.array([0, 0]), np.array([2, 3])
    >>> rows = Rows([site, april, may], *numbers, [], numbers[0][:0], numbers[0][:0])
    >>> made, empty = rows_of_cells(rows, WideCells(("month",), (("04",), ("05",)), ("count",), ((1,), (2,)), False, 3))
    >>> [column.to_pylist() for column in (made.columns[0], *made.columns[3:])], made.row.tolist(), len(empty)
    ([['a', 'a', 'b'], ['04', '05', '05'], ['1', '2', '3']], [2, 2, 3], 1)
    """
    size, count = len(rows.row), len(wide.keys)
    stacked = [
        pa.concat_arrays(
            [pa.nulls(size, pa.string()) if row[at] < 0 else rows.columns[row[at]] for row in wide.cells]
        )
        for at in range(len(wide.values))
    ]
    # the cells of a row of the source one after the other, as places in the columns that are stacked
    order = (np.arange(count)[None, :] * size + np.arange(size)[:, None]).ravel()
    kept = order
    if not wide.keeps_empty:
        filled = np.zeros(size * count, bool)
        for values in stacked:
            filled |= _filled(values)
        kept = order[filled[order]]
    row_of, key_of = kept % max(size, 1), ints(kept // max(size, 1))
    taking = ints(row_of)
    cells = {at for row in wide.cells for at in row}
    columns = [column if at in cells else column.take(taking) for at, column in enumerate(rows.columns)]
    names = [texts([key[at] for key in wide.keys]).take(key_of) for at in range(len(wide.names))]
    values = [column.take(ints(kept)) for column in stacked]
    empty = (
        np.repeat(rows.source, count)[~np.isin(order, kept)] if len(kept) < len(order) else rows.source[:0]
    )
    made = replace(
        rows, columns=[*columns, *names, *values], source=rows.source[row_of], row=rows.row[row_of]
    )
    return made, empty


def _filled(values: pa.Array) -> Mask:
    filled = truths(values.is_valid())
    spaced = np.flatnonzero(padded(values))
    if len(spaced):
        trimmed = pc.utf8_trim_whitespace(values.take(ints(spaced)))
        filled[spaced[truths(pc.equal(trimmed, text("")))]] = False
    return filled
