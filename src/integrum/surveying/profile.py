"""What kinds of values the columns of some pieces hold. Runs on any worker."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt
import pyarrow as pa

from integrum.arrow.arrays import ints, truths
from integrum.assembling.job import Aside
from integrum.reading.head import Form
from integrum.reading.parsing import Rows, parse
from integrum.reading.pieces import Piece
from integrum.values.evidence import EMPTY, KINDS, kinds, lone_kind
from integrum.values.pipeline import with_point


@dataclass(frozen=True)
class Inspection:
    """Consecutive pieces to be looked at, and the forms of their variants."""

    pieces: tuple[Piece, ...]
    forms: Mapping[int, Form]


@dataclass(frozen=True)
class Seen:
    """Values of one kind in one column of one source.

    Attributes
    ----------
    source, position
        The number of the source, and the position of the column in its header.
    kind
        Index into `KINDS`.
    count
        How many.
    row, raw
        The first of them.
    """

    source: int
    position: int
    kind: int
    count: int
    row: int
    raw: str


@dataclass
class Profile:
    """What some pieces hold.

    Attributes
    ----------
    seen
        The values by source, column and kind; empty cells are not counted.
    rows, blank, repeated
        Numbers of sources, one entry per row.
    aside
        Rows that would be set aside.
    """

    seen: list[Seen] = field(default_factory=list)
    rows: list[npt.NDArray[np.int64]] = field(default_factory=list)
    blank: list[npt.NDArray[np.int64]] = field(default_factory=list)
    repeated: list[npt.NDArray[np.int64]] = field(default_factory=list)
    aside: list[Aside] = field(default_factory=list)


def profile(inspection: Inspection) -> Profile:
    """Look at the values of some pieces."""
    by_variant: dict[int, list[Piece]] = {}
    for piece in inspection.pieces:
        by_variant.setdefault(piece.variant, []).append(piece)
    result = Profile()
    for number, pieces in by_variant.items():
        rows = parse(pieces, inspection.forms[number])
        result.rows.append(rows.source)
        result.blank.append(rows.blank)
        result.repeated.append(rows.repeated)
        result.aside += [Aside(one.source, one.row, "", one.code, one.text) for one in rows.aside]
        form = inspection.forms[number]
        result.aside += [
            Aside(one.source, one.row, one.column, "beside-the-table", one.text) for one in rows.beside
        ]
        for position in form.named:
            values = with_point(rows.columns[position], form.decimal, form.thousands)
            result.seen += _look(values, position, rows)
    return result


def _look(column: pa.Array, position: int, rows: Rows) -> list[Seen]:
    lone = lone_kind(column)
    if lone == EMPTY:
        return []
    if lone is not None:
        kind_of = np.full(len(column), lone, np.int8)
        kind_of[truths(column.is_null())] = EMPTY
    else:
        kind_of = kinds(column)
    with_text = np.flatnonzero(kind_of != EMPTY)
    codes = rows.source[with_text] * len(KINDS) + kind_of[with_text]
    if lone is None:
        distinct, first, counts = np.unique(codes, return_index=True, return_counts=True)
    else:  # the rows come source by source, so equal codes stand together
        first = np.flatnonzero(np.diff(codes, prepend=-1))
        distinct, counts = codes[first], np.diff(first, append=len(codes))
    places = with_text[first]
    raw = column.take(ints(places)).to_pylist()
    return [
        Seen(int(code) // len(KINDS), position, int(code) % len(KINDS), int(count), int(rows.row[at]), text)
        for code, count, at, text in zip(distinct, counts, places, raw, strict=True)
    ]
