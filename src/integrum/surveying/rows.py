"""One source as Integrum sees it: its rows, each with the part that it was taken for."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from integrum.detecting.detect import Detected
from integrum.plan.layout import Layout
from integrum.problems import notebook
from integrum.problems.problem import clipped, visible
from integrum.reading.cutting import cut
from integrum.reading.head import Head, read_above, read_head
from integrum.reading.parsing import Rows, parse
from integrum.reading.parts import BESIDE, BLANK, DATA, SET_ASIDE, Part, raw_text
from integrum.reading.pieces import Piece, load
from integrum.reading.records import spans
from integrum.sources.source import Source
from integrum.values.arrays import ints

_MOST_ROWS = 200_000
_SHOWN_DATA = 3
# this many rows of a source, or of a piece of a large one, show what names alone do not
_SAMPLED = 16


@dataclass(frozen=True)
class SeenRow:
    """A row and what it was taken for."""

    row: int  # its number in the source
    part: Part  # the part of the ledger: ``"preamble"``, ``"header"``, ``"units"``, ``"data"`` and so on
    text: str


@dataclass(frozen=True)
class OneSource:
    """One source as Integrum sees it; printing it shows it, and so does a notebook.

    Attributes
    ----------
    source
        The name of the source.
    layout
        Its layout, as it was guessed or given.
    confidence, evidence
        How sure that is, from 0 to 1, and why.
    rows
        Its rows, in order; of a large source the first 200,000.
    """

    source: str
    layout: Layout
    confidence: float
    evidence: tuple[str, ...]
    rows: tuple[SeenRow, ...]

    def counts(self) -> dict[str, int]:
        """How many rows were taken for each part."""
        counted: dict[str, int] = {}
        for row in self.rows:
            counted[row.part] = counted.get(row.part, 0) + 1
        return counted

    def shown(self) -> Iterator[SeenRow | int]:
        """The rows to show: of long runs of data only the outer ones."""
        run: list[SeenRow] = []
        for row in (*self.rows, None):
            if row is not None and row.part == DATA:
                run.append(row)
                continue
            yield from run[:_SHOWN_DATA]
            if len(run) > 2 * _SHOWN_DATA:
                yield len(run) - 2 * _SHOWN_DATA
            yield from run[max(_SHOWN_DATA, len(run) - _SHOWN_DATA) :]
            run = []
            if row is not None:
                yield row

    def __str__(self) -> str:
        lines = [f"{self.source}: {', '.join(f'{count:,} {part}' for part, count in self.counts().items())}"]
        lines += [f"  {line}" for line in self.evidence]
        for row in self.shown():
            if isinstance(row, int):
                lines.append(f"  {'':>8}  {'':<15}  … {row:,} more rows of data")
            else:
                lines.append(f"  {row.row:>8}  {row.part:<15}  {clipped(row.text, 100)}")
        return visible("\n".join(lines))

    def _repr_html_(self) -> str:
        rows: list[tuple[object, ...]] = []
        for row in self.shown():
            if isinstance(row, int):
                rows.append(("", "", f"… {row:,} more rows of data"))
            else:
                rows.append((f"{row.row:,}", row.part, notebook.Raw(clipped(row.text, 160))))
        counted = ", ".join(f"{count:,} {part}" for part, count in self.counts().items())
        return notebook.view(
            notebook.title(f"{self.source}: {counted}"),
            *(notebook.line(line) for line in self.evidence),
            notebook.table(["row", "part", "text"], rows, most=200),
        )


def look_at(source: Source, detected: Detected) -> OneSource:
    """Read a source, and give each row with its part.

    Raises SourceFault when the source would be set aside as a whole.
    """
    head = read_head(source, detected.layout)
    rows: list[SeenRow] = []
    read_above(source, detected.layout, lambda *row: rows.append(SeenRow(*row)))
    for piece in cut(source, 0, 1, head, detected.layout, keep=True):
        rows += rows_of_piece(piece, source, head, detected.layout)[0]
        if len(rows) >= _MOST_ROWS:
            break
    return OneSource(
        source.name, detected.layout, detected.confidence, detected.evidence, tuple(rows[:_MOST_ROWS])
    )


def rows_of_piece(piece: Piece, source: Source, head: Head, layout: Layout) -> tuple[list[SeenRow], Rows]:
    """The rows of a piece that has its text, each with its part; and the rows of data among them, parsed."""
    dialect = head.format.dialect
    parsed = parse([load(piece, source, layout)], head.header, head.format)
    part_of = dict.fromkeys(parsed.row.tolist(), DATA)
    part_of |= {one.row: one.part for one in parsed.left_out if one.part != BESIDE}
    part_of |= {one.row: SET_ASIDE for one in parsed.aside if one.is_row}
    text = piece.text or b""
    return [
        SeenRow(row, part_of.get(row, BLANK), raw_text(text[start:end]))
        for row, (start, end) in enumerate(spans(text, dialect, last=True), piece.first_row)
    ], parsed


class SourceRuns:
    """The rows of each source, which stand together: the numbers of the sources, their first rows, how many they are."""

    def __init__(self, rows: Rows) -> None:
        self.first = np.flatnonzero(np.diff(rows.source, prepend=-1))
        self.counts = np.diff(self.first, append=len(rows.source)).tolist()
        self.sources = rows.source[self.first].tolist()
        self.row = rows.row
        self.rows = rows.row[self.first].tolist()
        self.taking = ints(self.first)
        # some rows from all over each source
        sizes = np.diff(self.first, append=len(rows.source))
        few = np.minimum(sizes, _SAMPLED)
        self.some_of = few.tolist()
        steps = np.arange(few.sum()) - np.repeat(np.cumsum(few) - few, few)
        self.some = ints(
            np.repeat(self.first, few) + (steps * np.repeat(sizes, few)) // np.maximum(np.repeat(few, few), 1)
        )
