"""The codebook: of each column its type, its unit, and where it comes from."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence

from integrum.dispatch.job import State
from integrum.intake.ledger import SourceSummary
from integrum.intake.matched import Matched
from integrum.measures.items import ColumnEntry
from integrum.measures.measure import Context, OfSources
from integrum.record.table import RecordColumn


def units_of(matched: Matched) -> dict[str, str]:
    """The units of the columns: that of the plan, or else the first that a source gives."""
    units = {column.name: column.unit for column in matched.columns}
    for family in matched.families.values():
        for binding in family.bound.bindings:
            units[binding.column] = units[binding.column] or binding.unit
    return units


def codebook(
    matched: Matched,
    summaries: Sequence[SourceSummary],
    filled: Sequence[int],
    missing: Mapping[tuple[str, str], int],
    reaches: Mapping[str, tuple[str, str]],
) -> list[ColumnEntry]:
    """Describe the columns of a table."""
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
        for column, count in zip(matched.columns, filled, strict=True)
    ]
    by_name = {entry.column: entry for entry in entries}
    for (name, code), count in sorted(missing.items(), key=lambda item: (-item[1], item[0])):
        if name in by_name:
            by_name[name].missing[code] = count
    for family, numbers in matched.by_family(summaries).items():
        identified = Counter(name for number in numbers for name in matched.intake.identified[number].values)
        for entry, binding in zip(entries, matched.families[family].bound.bindings, strict=True):
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


class ConvertedUnits(State[None]):
    """The units that values were converted from."""

    def __init__(self, context: Context) -> None:
        self._context = context
        self._found: dict[str, dict[int, str]] = {}

    def finish(self) -> None:
        """Find the units by column and source."""
        matched = self._context.matched
        for family, numbers in matched.by_family(self._context.summaries).items():
            for binding in matched.families[family].bound.bindings:
                units = [unit for unit, linear in zip(binding.units, binding.linears, strict=False) if linear]
                if units:
                    said = ", ".join(dict.fromkeys(units))
                    self._found.setdefault(binding.column, {}).update(dict.fromkeys(numbers, said))

    def of_values(self, at: int) -> Mapping[int, str]:
        """By source the unit that the values of a column were converted from."""
        return self._found.get(self._context.columns[at].name, {})


class Units(OfSources[ConvertedUnits]):
    """The measure of the units that values were converted from."""

    begin = ConvertedUnits

    value_column = RecordColumn("converted_from", "the unit that the values were converted from")


UNITS = Units()
