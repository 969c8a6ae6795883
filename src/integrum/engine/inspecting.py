"""Read each source once before any of its rows comes into the table."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from integrum.assembling.job import Variant, check_columns, localised, stack
from integrum.plan.layout import Layout
from integrum.plan.model import Column
from integrum.problems import SourceFault
from integrum.reading.head import Head
from integrum.reading.parsing import parse
from integrum.reading.pieces import Inspected, cut, inspect
from integrum.sources.source import Source


@dataclass(frozen=True)
class Look:
    """One source to be inspected; `prove` when one bad value sets the whole source aside."""

    source: Source
    number: int
    variant_number: int
    head: Head | SourceFault
    layout: Layout
    prove: tuple[tuple[Column, ...], tuple[int | None, ...]] | None = None


def inspect_all(looks: Sequence[Look]) -> list[Inspected]:
    """Inspect a few sources, on a worker."""
    return [_inspect(look) for look in looks]


def _inspect(look: Look) -> Inspected:
    seen = inspect(look.source, look.number, look.variant_number, look.head, look.layout)
    if seen.fault or not look.prove or isinstance(look.head, SourceFault):
        return seen
    columns, positions = look.prove
    pieces = (
        [seen.piece]
        if seen.piece
        else cut(look.source, look.number, look.variant_number, look.head, look.layout)
    )
    count, first = 0, None
    for piece in pieces if seen.pieces else ():
        stacked, source, row = stack(
            [
                (
                    localised(parse([piece], look.head.form), Variant(look.head.form, positions), columns),
                    positions,
                )
            ],
            len(columns),
        )
        _, cells = check_columns(stacked, columns, source, row)
        count += len(cells)
        first = first or (min(cells, key=lambda cell: cell[0])[1] if cells else None)
    if first is None:
        return seen
    fault = SourceFault(
        "bad-value",
        f'{count:,} of its values are not of their column\'s type; the first is in column "{first.column}"',
        'mend them, or say `bad_values = "blank"` in the plan\'s rules',
        first.row,
        first.raw,
    )
    return Inspected(seen.source, seen.rows, seen.size, seen.content, fault=fault)
