"""Guess the layout of one sheet of a workbook: which columns make its table, and where in them the parts lie."""

from __future__ import annotations

import csv
from collections.abc import Sequence
from dataclasses import dataclass, replace
from io import StringIO

import numpy as np

from integrum.detecting.detect import Detected, about_header, places, whole_lines
from integrum.detecting.dialect import Marks, decimal_sign
from integrum.detecting.footers import footer_text
from integrum.detecting.sample import Row, Sample
from integrum.detecting.shape import Reader, Shape
from integrum.detecting.statistics import Above, above_in_source
from integrum.detecting.vocabulary import leading
from integrum.plan.fields import loosened
from integrum.plan.layout import Layout
from integrum.values.arrays import Mask
from integrum.values.cells import is_absent, is_value
from integrum.workbooks.places import letters

_FREE = frozenset({"encoding", "delimiter", "quote", "escape"})
# rows that are looked at closely: the first, and as many of the middle as of the end
_HEAD, _TAIL = 400, 60
_TOGETHER = 0.5
_NAMELESS, _ENOUGH = 0.8, 5
_COVER_ROWS = 40

Filled = Mask


@dataclass(frozen=True)
class SheetDetected(Detected):
    """The guess for one sheet."""

    # the first and the last column of the table, from 1
    first: int = 1
    end: int = 1
    # the nearest columns with cells on both sides of it; 0 where there are none
    before: int = 0
    behind: int = 0


def detect_sheet(sample: Sample) -> SheetDetected:
    """Guess the layout of a sheet from a sample of its text.

    `sample`: of the sheet as text, with all of its columns.
    """
    every = list(csv.reader(StringIO(sample.head.decode("utf-8", "replace"), newline="")))
    if not sample.whole:
        every = every[:-1]
    width = max(map(len, every), default=0)
    every = [_padded(cells, width) for cells in every]
    used = np.array([list(map(bool, cells)) for cells in every], bool)
    if not used.any():
        return SheetDetected(Layout(), 0.0, is_table=False, free=_FREE)
    rest = every[_HEAD:]
    tail = rest[-_TAIL:] if sample.whole else [*csv.reader(whole_lines(sample.tail))]
    inner = rest[: len(rest) - _TAIL : max(1, len(rest) // _TAIL)]
    rows = [Row(number, cells) for number, cells in enumerate(every[:_HEAD], 1)]
    filled = used[:_HEAD]
    blocks = _blocks(filled)
    first, end, others = _main(blocks, filled, rows)
    alone = (first, end) == (0, width)
    table = rows if alone else [Row(row.number, row.cells[first:end]) for row in rows]
    last = [Row(0, cells[first:end]) for cells in tail if len(cells) == width]

    def above(start: int, row: Row, marks: Marks) -> Above:
        """The numbers of a sheet that is too large to be looked at as a whole."""
        if sample.source is None:
            return Above(marks)
        layout = Layout(header_row="none", first_row=start, footer_from=[leading(row.first) or row.first])
        return above_in_source(sample.source, layout, marks).from_column(first)

    shape = Reader(table, [Row(0, cells[first:end]) for cells in inner], last, above=above).shape()
    end = _trimmed(table, shape, first, end)
    second = shape.second_table or _second_below(every, first, end)
    shape = replace(shape, second_table=second)
    found = _detected(table, shape, first, end, others, last)
    columns = np.flatnonzero(used.any(axis=0)) + 1
    before = int(max((at for at in columns if at <= first), default=0))
    behind = int(min((at for at in columns if at > end), default=0))
    ends = _ends_at(every, first, end, second) if second and second > len(rows) else []
    layout = replace(
        found.layout,
        footer_from=[*ends, *found.layout.footer_from],
        first_column=letters(first + 1) if first else "",
        last_column=letters(end) if behind else "",
    )
    evidence = found.evidence
    if before or behind:
        said = f"columns {letters(first + 1)} to {letters(end)}"
        evidence += (f"the table is in {said}; cells beside it are left out",)
    return replace(
        found,
        layout=layout,
        evidence=evidence,
        first=first + 1,
        end=end,
        before=before,
        behind=behind,
    )


def _padded(cells: Sequence[str], width: int) -> list[str]:
    return [*cells, *[""] * (width - len(cells))]


def _second_below(every: Sequence[Sequence[str]], first: int, end: int) -> int:
    """The row of another header below those that are looked at closely; 0 when there is none."""
    for at in range(max(_HEAD, 1), len(every) - 2):
        cells = every[at][first:end]
        if any(every[at - 1][first:end]) or sum(map(bool, cells)) < 2 or any(map(is_value, cells)):
            continue
        following = [row[first:end] for row in every[at + 1 : at + 3]]
        if all(any(map(is_value, row)) for row in following):
            return at + 1
    return 0


def _ends_at(every: Sequence[Sequence[str]], first: int, end: int, second: int) -> list[str]:
    """The text with which another table begins further down; the plan ends the data there."""
    rows = [Row(number, cells[first:end]) for number, cells in enumerate(every[:second], 1)]
    text = footer_text(rows[-1], rows[:-1]) if rows else ""
    return [text] if text else []


def _blocks(filled: Filled) -> list[tuple[int, int]]:
    """Neighbouring columns with cells: the first of each block and the one behind its last."""
    used = np.flatnonzero(filled.any(axis=0)).tolist()
    starts = [at for at in used if at - 1 not in used]
    return [(start, next(at for at in range(start, used[-1] + 2) if at not in used)) for start in starts]


def _main(
    blocks: Sequence[tuple[int, int]], filled: Filled, rows: Sequence[Row]
) -> tuple[int, int, list[tuple[int, int]]]:
    """The columns of the main table, with blank ones inside, and the other blocks."""
    if len(blocks) == 1:
        return *blocks[0], []
    main = max(blocks, key=lambda block: int(filled[:, block[0] : block[1]].sum()))
    known, header, within = _rows_of(filled, rows, main)
    names = _names(rows, main)
    first, end = main
    others = []
    for block in blocks:
        cells = filled[:, block[0] : block[1]].any(axis=1)
        shared = int((cells & within).sum()) / max(int(within.sum()), 1)
        in_header = bool(filled[header, block[0] : block[1]].any())
        again = block != main and len(names & _names(rows, block)) >= 0.5 * max(1, len(_names(rows, block)))
        belongs = in_header or shared >= _TOGETHER
        if known:  # a few rows may well have something beside them
            belongs = in_header or (shared >= _NAMELESS and int(within.sum()) >= _ENOUGH)
        if belongs and not again:
            first, end = min(first, block[0]), max(end, block[1])
        else:
            others.append(block)
    return first, end, [block for block in others if not first <= block[0] < end]


def _rows_of(filled: Filled, rows: Sequence[Row], block: tuple[int, int]) -> tuple[bool, slice, Filled]:
    """Whether a block alone has a header, its last row, and the rows in which its table has cells."""
    shape = Reader([Row(row.number, row.cells[block[0] : block[1]]) for row in rows], [], []).shape()
    if not shape.header_row or not shape.data_row:
        return False, slice(0, 0), _solid(filled, block)
    numbers = np.array([row.number for row in rows])
    below = numbers >= shape.data_row
    if shape.footer is not None and shape.footer.number:
        below &= numbers < shape.footer.number
    last = shape.header_row + shape.header_rows - 2
    within: Filled = below & filled[:, block[0] : block[1]].any(axis=1)
    return True, slice(last, last + 1), within


def _solid(filled: Filled, block: tuple[int, int]) -> Filled:
    """The rows that fill at least half as many columns as most rows of the block do."""
    counts = filled[:, block[0] : block[1]].sum(axis=1)
    with_cells = counts[counts > 0]
    solid: Filled = counts >= max(1.0, 0.5 * float(np.median(with_cells)))
    return solid


def _names(rows: Sequence[Row], block: tuple[int, int]) -> set[str]:
    """The cells of the first row of a block that may be a header."""
    for row in rows:
        cells = [cell for cell in row.cells[block[0] : block[1]] if cell.strip()]
        if len(cells) >= max(1, (block[1] - block[0]) // 2) and not any(map(is_value, cells)):
            return {loosened(cell) or cell for cell in cells}
    return set()


def _trimmed(table: Sequence[Row], shape: Shape, first: int, end: int) -> int:
    """The last column of the table. Columns at the end without a header and with few values are notes beside it."""
    if not shape.header_row or not shape.data_row:
        return end
    heads = [row for row in table if 0 <= row.number - shape.header_row < shape.header_rows]
    data = [row for row in table if row.number >= shape.data_row and row.filled]
    while end - first > 1:
        at = end - first - 1
        if any(row.cells[at].strip() for row in heads):
            return end
        if sum(bool(row.cells[at].strip()) for row in data) >= _TOGETHER * len(data):
            return end
        end -= 1
    return end


def _detected(
    table: Sequence[Row],
    shape: Shape,
    first: int,
    end: int,
    others: Sequence[tuple[int, int]],
    last: Sequence[Row],
) -> SheetDetected:
    data = [row for row in table if shape.data_row and row.number >= shape.data_row]
    cells = [cell for row in [*data[:40], *last[:40]] for cell in row.cells if "," in cell or "." in cell]
    decimal_mark, thousands_mark = decimal_sign(cells, ",")
    layout = Layout(**places(shape, data), decimal_mark=decimal_mark or ".", thousands_mark=thousands_mark)
    free = {*_FREE, *(() if decimal_mark else ("decimal_mark",))}
    evidence = ["a sheet of a workbook", *about_header(shape)]
    second, column = shape.second_table, ""
    for start, stop in others:
        beside = [row for row in table if row.number and row.number == shape.data_row]
        if beside and stop - start > 1 and not second:
            second, column = shape.header_row or shape.data_row, letters(start + 1)
    return SheetDetected(
        layout,
        round(min(1.0, shape.confidence), 2),
        tuple(evidence),
        frozenset(free),
        second,
        column,
        is_table=not _is_cover(table, end - first),
        doubt=shape.doubt,
    )


def _is_cover(table: Sequence[Row], width: int) -> bool:
    """Whether a sheet has only labels with their values, in two columns."""
    rows = [row for row in table if row.filled]
    pairs = [row for row in rows if row.filled == 2]
    if width > 2 or len(rows) > _COVER_ROWS:
        return False
    if len(pairs) < 2:
        return True
    if sum(row.first.rstrip().endswith(":") for row in pairs) >= 0.5 * len(pairs):
        return True
    below = [row for row in pairs[1:] if not is_absent(row.cells[1])]
    values = sum(row.values[1] for row in below)
    labels = not any(row.values[0] for row in pairs)
    return labels and len(pairs) > 2 and 0.1 < values / max(len(below), 1) < 0.9
