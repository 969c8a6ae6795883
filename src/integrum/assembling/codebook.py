"""The codebook: of each column its type, its unit, and where it comes from."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from integrum.engine.engine import Engine
from integrum.plan.column import Column


@dataclass
class ColumnEntry:
    """One column in the codebook.

    Attributes
    ----------
    column, type, unit
        Its name, type and unit: the unit of the plan, or the first one in the sources.
    filled
        Cells with a value.
    sources
        Number of sources that have it.
    description
        What it is, from the plan.
    least, greatest
        The least and the greatest value of numbers, dates and times; as texts.
    headers
        Its headers, with the number of sources that have each.
    missing
        Its missing codes, with the number of cells of each.
    converted
        The units that its values were converted from, with the number of sources that have each.
    """

    column: str
    type: str
    unit: str
    filled: int = 0
    sources: int = 0
    description: str = ""
    least: str = ""
    greatest: str = ""
    headers: dict[str, int] = field(default_factory=dict)
    missing: dict[str, int] = field(default_factory=dict)
    converted: dict[str, int] = field(default_factory=dict)


def converted_units(engine: Engine) -> dict[str, dict[int, str]]:
    """By column and source the unit that its values were converted from, where they were."""
    found: dict[str, dict[int, str]] = {}
    for family, numbers in engine.of_families().items():
        for binding in engine.families[family].bound.bindings:
            units = [unit for unit, linear in zip(binding.units, binding.linears, strict=False) if linear]
            if units:
                said = ", ".join(dict.fromkeys(units))
                found.setdefault(binding.column, {}).update(dict.fromkeys(numbers, said))
    return found


def units_of(engine: Engine) -> dict[str, str]:
    """The units of the columns: that of the plan, or else the first that a source gives."""
    units = {column.name: column.unit for column in engine.columns}
    for family in engine.families.values():
        for binding in family.bound.bindings:
            units[binding.column] = units[binding.column] or binding.unit
    return units


def codebook(
    engine: Engine,
    columns: Sequence[Column],
    filled: Sequence[int],
    missing: Mapping[tuple[str, str], int],
    reaches: Mapping[str, tuple[str, str]],
) -> list[ColumnEntry]:
    """Describe the columns of a table.

    Parameters
    ----------
    engine
        The engine that its sources went through.
    columns
        Its columns but those of provenance.
    filled
        How many cells of each have a value.
    missing
        By column and code how often it was met.
    reaches
        By column its least and its greatest value.
    """
    entries = [
        ColumnEntry(
            column.name,
            column.type,
            column.unit,
            count,
            0,
            column.description,
            *reaches.get(column.name, ("", "")),
        )
        for column, count in zip(columns, filled, strict=True)
    ]
    by_name = {entry.column: entry for entry in entries}
    for (name, code), count in sorted(missing.items(), key=lambda item: (-item[1], item[0])):
        if name in by_name:
            by_name[name].missing[code] = count
    for family, numbers in engine.of_families().items():
        identified = Counter(name for number in numbers for name in engine.intake.identified[number].values)
        for entry, binding in zip(entries, engine.families[family].bound.bindings, strict=True):
            for unit, linear in zip(binding.units, binding.linears, strict=False):
                if linear:
                    entry.converted[unit] = entry.converted.get(unit, 0) + len(numbers)
            named = identified[entry.column]
            entry.sources += named
            if binding.positions and named < len(numbers):
                others = len(numbers) - named
                entry.sources += others
                for name in binding.headers:
                    entry.headers[name] = entry.headers.get(name, 0) + others
                entry.unit = entry.unit or binding.unit
    return entries
