"""The codebook for people: what each column of a table is, in words."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import pyarrow as pa

from integrum.measures.items import ColumnEntry
from integrum.measures.result import Result
from integrum.plan.column import Column
from integrum.plan.plan import Plan
from integrum.problems.problem import clipped, counted
from integrum.values.notation import ORDER_WORDS

# this many sources are named behind a header, and this many values of a column are shown
_NAMED, _VALUES = 5, 12


@dataclass(frozen=True)
class OtherName:
    """Another name of a column, with the sources that use it."""

    name: str
    sources: int
    named: tuple[str, ...]  # the first of these
    in_all: bool = False  # whether all sources of the table have it

    def __str__(self) -> str:
        if self.in_all:
            return f'"{clipped(self.name)}" ({"the" if self.sources == 1 else "all"} {counted(self.sources, "source")})'
        more = f" and {self.sources - len(self.named):,} more" if self.sources > len(self.named) else ""
        where = f": {', '.join(self.named)}{more}" if self.named else ""
        return f'"{clipped(self.name)}" ({counted(self.sources, "source")}{where})'


@dataclass(frozen=True)
class CodebookColumn:
    """A column of a table, in words; a text is empty where there is nothing to say."""

    name: str
    description: str
    type: str
    unit: str
    range: str  # the least and the greatest value, or the values where there are few
    filled: int
    share: str  # of the rows
    missing: tuple[str, ...]  # its missing codes, with the number of cells of each
    others: tuple[OtherName, ...]
    converted: tuple[str, ...]  # what was done to its values
    are_values: bool = False  # whether `range` has its values, as there are few

    # the headings of a codebook, and a line of it
    HEADER = (
        "column",
        "description",
        "type",
        "unit",
        "range or values",
        "filled",
        "share",
        "missing codes",
        "names in the sources",
        "changes of values",
    )

    @property
    def heading(self) -> str:
        """What `range` is."""
        return "values" if self.are_values else "range"

    @property
    def cells(self) -> tuple[object, ...]:
        """A line of the codebook."""
        return (
            self.name,
            self.description,
            self.type,
            self.unit,
            self.range,
            self.filled,
            self.share,
            "; ".join(self.missing),
            "; ".join(map(str, self.others)),
            "; ".join(self.converted),
        )


def codebook_of(result: Result, plan: Plan, schema: pa.Schema, rows: int) -> list[CodebookColumn]:
    """Describe the columns of a table, in their order.

    Parameters
    ----------
    schema
        The columns of the table.
    rows
        Rows of the table.
    """
    entries = {one.column: one for one in result.columns}
    about = {one.name: one for one in plan.table_columns}
    names, values = _names_in_sources(result), result.by_category()
    sources = sum(one.is_assembled for one in result.sources)
    found = []
    for field in schema:
        entry = entries.get(field.name)
        if entry is None:  # where the row comes from
            said = (field.metadata or {}).get(b"description", b"").decode()
            kind = "integer" if pa.types.is_integer(field.type) else "text"
            found.append(CodebookColumn(field.name, said, kind, "", "", rows, _share(rows, rows), (), (), ()))
            continue
        column = about.get(field.name)
        missing = {code: entry.missing.get(code, 0) for code in column.missing} if column else {}
        missing |= entry.missing
        found.append(
            CodebookColumn(
                entry.column,
                entry.description,
                entry.type,
                entry.unit,
                _range(entry, values.get(entry.column, {})),
                entry.filled,
                _share(entry.filled, rows),
                tuple(f'"{code}" ({counted(count, "cell")})' for code, count in missing.items()),
                tuple(_others(entry, names.get(entry.column, {}), sources)),
                tuple(_changes(entry, column)),
                not entry.least,
            )
        )
    return found


def _share(filled: int, rows: int) -> str:
    if not rows:
        return ""
    share = 100 * filled / rows
    return f"{share:.0f} %" if filled in (0, rows) else f"{min(max(share, 0.1), 99.9):.1f} %"


def _range(entry: ColumnEntry, values: Mapping[str, int]) -> str:
    if entry.least:
        return entry.least if entry.least == entry.greatest else f"{entry.least} to {entry.greatest}"
    some = [f"{clipped(value, 30)} ({count:,})" for value, count in list(values.items())[:_VALUES]]
    more = len(values) - len(some)
    return ", ".join(some) + (f" and {more:,} more" if more > 0 else "")


def _names_in_sources(result: Result) -> dict[str, dict[str, list[str]]]:
    """The headers of each column with their sources, where a header means one column everywhere."""
    columns: dict[str, set[str]] = {}
    for one in result.headers:
        columns.setdefault(one.header, set()).add(one.column if one.state == "matched" else "")
    plain = {header: next(iter(some)) for header, some in columns.items() if len(some) == 1}
    # of sources with the very same header no more than are named
    first: dict[int, list[int]] = {}
    for number, source in enumerate(result.sources):
        if source.is_assembled and len(some := first.setdefault(source.header_number, [])) < _NAMED:
            some.append(number)
    found: dict[str, dict[str, list[int]]] = {}
    for variant in result.variants:
        for header in variant.header.names:
            if (column := plain.get(header)) and variant.number in first:
                found.setdefault(column, {}).setdefault(header, []).extend(first[variant.number])
    names = [one.source for one in result.sources]
    return {
        column: {header: [names[at] for at in sorted(some)[:_NAMED]] for header, some in headers.items()}
        for column, headers in found.items()
    }


def _others(entry: ColumnEntry, named: Mapping[str, Sequence[str]], assembled: int) -> Iterator[OtherName]:
    for header, sources in sorted(entry.headers.items(), key=lambda one: (-one[1], one[0])):
        yield OtherName(header, sources, tuple(named.get(header, ()))[:sources], sources == assembled)


def _changes(entry: ColumnEntry, column: Column | None) -> Iterator[str]:
    """What was done to the values of a column, as the plan says, and as the run has counted."""
    for unit, sources in entry.converted.items():
        yield f"converted from {unit} to {entry.unit} in {counted(sources, 'source')}"
    if column is None:
        return
    if column.from_:
        yield f"made of the columns {', '.join(column.from_)}"
    if column.date_order:
        yield f"dates of digits read as {ORDER_WORDS[column.date_order]}"
    for order, places in column.date_order_in.items():
        yield f"dates of digits read as {ORDER_WORDS[order]} in {', '.join(places)}"
    if column.zone:
        zone = (
            "as written, without conversion" if column.zone == "as-written" else f"in the zone {column.zone}"
        )
        yield f"times {zone}"
    if column.censored:
        yield f'signs such as < stand in the column "{column.censored}"'
    if column.percent == "share":
        yield "percentages as shares: 45 % is 0.45"
    if column.values:
        yield f"{counted(len(column.values), 'value')} replaced by the plan"
    if column.swap:
        yield "parts of texts replaced: " + ", ".join(
            f'"{old}" by "{new}"' for old, new in column.swap.items()
        )
    if column.case:
        yield f"letters in {column.case} case"
    if column.read is not None:
        yield "values read by a function of the plan's author"
