"""The codebook: of each column its type, its unit, and where it comes from."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from integrum.engine.engine import Engine
from integrum.plan.column import Column
from integrum.reading.head import Head


@dataclass
class ColumnEntry:
    """One column in the codebook.

    Attributes
    ----------
    column, type, unit
        Its name, its type, and its unit: that of the plan, or else the first that a source gives.
    filled
        Cells with a value.
    sources
        How many sources have it.
    headers
        The header cells that it comes from, with the number of sources that have each.
    """

    column: str
    type: str
    unit: str
    filled: int = 0
    sources: int = 0
    headers: dict[str, int] = field(default_factory=dict)


def codebook(engine: Engine, columns: Sequence[Column], filled: Sequence[int]) -> list[ColumnEntry]:
    """Describe the columns of a table.

    Parameters
    ----------
    engine
        The engine that its sources went through.
    columns
        Its columns but those of provenance.
    filled
        How many cells of each have a value.
    """
    entries = [
        ColumnEntry(column.name, column.type, column.unit, count)
        for column, count in zip(columns, filled, strict=True)
    ]
    for number, summary in enumerate(engine.summaries):
        head = engine.intake.heads[number]
        if not summary.is_assembled or not isinstance(head, Head):
            continue
        identifiers = engine.intake.identified[number].values
        bindings = engine.families[engine.family_of[number]].bound.bindings
        for entry, binding in zip(entries, bindings, strict=True):
            if entry.column in identifiers:
                entry.sources += 1
            elif binding.positions:
                entry.sources += 1
                for name in binding.headers:
                    entry.headers[name] = entry.headers.get(name, 0) + 1
                entry.unit = entry.unit or binding.unit
    return entries
