"""Values of a column as they are written and as they are in the table; the most frequent ones."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from markupsafe import Markup

from integrum.columns.binding import explain
from integrum.intake.matched import Family
from integrum.pages.ends import Ends
from integrum.pages.grid import Sample
from integrum.pages.page import SHADES, shares_picture
from integrum.plan.column import Beside, Column
from integrum.problems.problem import clipped
from integrum.reading.parsing import Rows, rows_of_cells

# this many rows of a source are looked at; this many of its values are shown, more where they are changed in several ways
_ROWS, _LEAST, _VALUES, _SOURCES = 400, 2, 3, 4
_LONGEST = 80
_DISTINCT = 12
# this many sources are drawn, and this many values are named; a column of ever other values has no picture
_FREQUENT_SOURCES, _NAMED = 6, 8
_FREQUENT_VALUES = 0.5


@dataclass
class Samples:
    """What some sources have of one column."""

    shown: list[Sample] = field(default_factory=list)
    sources: int = 0
    counts: list[tuple[str, Counter[str]]] = field(
        default_factory=list
    )  # by source how often its values are there


def take_samples(
    found: dict[str, Samples],
    source: str,
    ends: Ends,
    family: Family,
    columns: Sequence[Column],
) -> None:
    """Add the values of a source to those of its columns.

    Parameters
    ----------
    found
        By column, those of the sources before.
    """
    if ends.first is None or not len(ends.first.row):
        return
    rows = _some(ends.first)
    wide = family.bound.wide
    if wide is not None:
        rows = rows_of_cells(rows, wide)[0]
    bindings = {one.column: one for one in family.bound.bindings}
    for column in columns:
        binding = bindings.get(column.name)
        if binding is None or not binding.positions:
            continue
        own = column.read if isinstance(column.read, str) else "a function of your own" if column.read else ""
        cells = [rows.columns[at].to_pylist() for at in binding.positions]
        here = found.setdefault(column.name, Samples())
        counts: Counter[str] = Counter()
        places: dict[tuple[Any, ...], int] = {}
        for at, row in enumerate(zip(*cells, strict=True)):
            text = next((cell for cell in row if cell is not None), None)
            if text is not None:
                counts[text.strip()] += 1
                places.setdefault(row, at)
        here.counts.append((source, counts))
        if here.sources >= _SOURCES or not places:
            continue
        made = []
        for row, at in list(places.items())[:_DISTINCT]:
            value, said = explain(column, binding, row, own)
            raw = " | ".join(cell for cell in row if cell is not None)
            made.append(
                Sample(
                    source,
                    int(rows.row[at]),
                    clipped(raw, _LONGEST),
                    None if value is None else clipped(value, _LONGEST),
                    said,
                    value == raw,
                )
            )
        if isinstance(column, Beside):  # most values have no sign beside them
            made = [one for one in made if one.value is not None]
        if made:
            here.sources += 1
            here.shown += _worth(made)


def _some(rows: Rows) -> Rows:
    """The first rows."""
    columns = [column.slice(0, _ROWS) for column in rows.columns]
    return Rows(columns, rows.source[:_ROWS], rows.row[:_ROWS], [], rows.blank[:0], rows.repeated[:0])


def _worth(made: Sequence[Sample]) -> list[Sample]:
    """One value for each way of changing values, and another one where there is only one way."""
    picked = [made[0]]
    for one in made[1:]:
        if not one.is_same and one.said not in {each.said for each in picked}:
            picked.append(one)
    if len(picked) < _LEAST:
        picked += [one for one in made[1:] if one not in picked]
        picked = picked[:_LEAST]
    return sorted(picked[:_VALUES], key=lambda one: one.row)


def frequent_values(name: str, samples: Samples) -> tuple[Markup, tuple[tuple[str, int], ...]]:
    """A picture of the most frequent values by source, and these with their counts; nothing where values hardly repeat."""
    every: Counter[str] = Counter()
    for _, counts in samples.counts:
        every.update(counts)
    total = sum(every.values())
    if not total or len(every) > max(_FREQUENT_VALUES * total, 1):
        return Markup(""), ()
    top = every.most_common(_NAMED)
    shown = [value for value, _ in top[:SHADES]]
    rows = []
    for _, counts in samples.counts[:_FREQUENT_SOURCES]:
        those = [counts[value] for value in shown]
        rows.append([*those, sum(counts.values()) - sum(those)])
    said = f"the most frequent values of {name} in {len(rows)} sources, a row for each"
    return shares_picture(said, rows), tuple((clipped(value, 40), count) for value, count in top)
