"""The tables of a record: the columns of each file, and the way from objects to rows and back."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, fields
from functools import cache
from pathlib import Path
from typing import Any, Generic, NamedTuple, TypeVar, cast

from integrum.assembling.codebook import ColumnEntry
from integrum.assembling.ends import EndRow
from integrum.assembling.row_runs import RowRun
from integrum.checking.checks import CheckResult
from integrum.codes import Severity
from integrum.columns.header import Header
from integrum.engine.headers import HeaderEntry
from integrum.engine.ledger import Ledger, SourceSummary
from integrum.plan.layout import Layout
from integrum.problems import Problem
from integrum.reading.aside import Aside
from integrum.reading.left_out import LeftOut
from integrum.reading.parts import COUNTED, part_named
from integrum.recording.lines import lines_of, rows_of

Item = TypeVar("Item")

PLAN, RUN, VALUES, REPORT = "plan.toml", "run.json", "values.csv", "report.html"


class Named(NamedTuple):
    """A source by the name of its file and its sheet."""

    source: str
    sheet: str

    @property
    def name(self) -> str:
        """The name of the source."""
        return f"{self.source}/{self.sheet}" if self.sheet else self.source


# the two cells by which a source is named, by its name
Names = Mapping[str, Named]


class PreambleEntry(NamedTuple):
    """One entry of the lines above a header: the name of the source, the row, the key and the value."""

    source: str
    row: int
    key: str
    value: str


class VariantEntry(NamedTuple):
    """A header as it is written: its number, that of its variant, and the header."""

    number: int
    variant: int
    header: Header


class BlockEntry(NamedTuple):
    """A block of lines of a source: its first line, the lines of a whole block, and the hash of the block."""

    source: str
    line: int
    lines: int
    blake3: str


class CategoryEntry(NamedTuple):
    """How often a value of a column is in the table."""

    column: str
    value: str
    rows: int


@dataclass(frozen=True)
class RecordTable(Generic[Item]):
    """One file of a record.

    Attributes
    ----------
    file
        Its name.
    columns
        Its header.
    cells
        The cells of an object; sources are named as the table names them, by file and sheet.
    item
        The object of a row, by the names of its columns.
    """

    file: str
    columns: tuple[str, ...]
    cells: Callable[[Item, Names], Sequence[object]]
    item: Callable[[Mapping[str, str]], Item]

    def write(self, folder: Path, items: Iterable[Item], names: Names, guarded: bool = False) -> None:
        """Write the file, perhaps guarded against formulas."""
        with open(folder / self.file, "wb") as file:
            file.writelines(lines_of([self.columns]))
            file.writelines(lines_of((self.cells(item, names) for item in items), guarded))

    def read(self, folder: Path, guarded: bool = False) -> Iterator[Item]:
        """Read the objects back, one by one."""
        return map(self.item, rows_of(folder / self.file, guarded))


def _named(name: str, names: Names) -> Named:
    return names.get(name) or Named(name, "")


_SUMMARY = (
    "source",
    "sheet",
    "label",
    "group",
    "status",
    "reason",
    "bytes",
    "blake3",
    "workbook_blake3",
    "last_line",
    "variant",
    "header_number",
    "header_row",
    "layout",
    "identifiers",
    "output",
    "first_table_row",
    "last_table_row",
    "first_byte",
    "end_byte",
    "table_rows",
    "rows_each",
    "empty_cells",
    "rows",
    *COUNTED,
)


_SPANS = (
    "first_table_row",
    "last_table_row",
    "first_byte",
    "end_byte",
    "table_rows",
    "rows_each",
    "empty_cells",
)
_PLAIN = Layout()
# whether the last line of a source has an end
_ENDED, _OPEN = "ended", "open"


def _layout_text(layout: Layout) -> str:
    """What differs from a plain file, as JSON with the keys of a plan."""
    if layout == _PLAIN:
        return ""
    said = {
        each.name: value
        for each in fields(Layout)
        if (value := getattr(layout, each.name)) != getattr(_PLAIN, each.name)
    }
    return json.dumps(said, ensure_ascii=False, default=dict)


def _summary_cells(one: SourceSummary, names: Names) -> Sequence[object]:
    return (
        *_named(one.source, names),
        one.label,
        one.group,
        one.status,
        one.reason,
        one.size,
        one.content,
        one.workbook,
        _ENDED if one.is_closed else _OPEN,
        one.variant or "",
        one.header_number or "",
        one.header_row or "",
        _layout_text(one.layout),
        json.dumps(one.identifiers, ensure_ascii=False) if one.identifiers else "",
        one.output,
        *(value or "" for value in (one.first_table_row, one.last_table_row, one.first_byte, one.end_byte)),
        one.table_rows,
        one.rows_each,
        one.empty_cells,
        one.ledger.rows,
        *one.ledger.counts.values(),
    )


@cache
def _layout_of(text: str) -> Layout:
    return Layout(**json.loads(text or "{}"))


def _summary(row: Mapping[str, str]) -> SourceSummary:
    summary = SourceSummary(
        Named(row["source"], row["sheet"]).name,
        "",
        int(row["group"]),
        int(row["bytes"]),
        row["blake3"],
        _number(row["variant"]),
        row["status"],
        row["reason"],
        Ledger(int(row["rows"]), *(int(row[part]) for part in COUNTED)),
        row["label"],
        row["sheet"],
        row["workbook_blake3"],
        _number(row["header_row"]),
        _layout_of(row["layout"]),
        row["output"],
    )
    for key in _SPANS:
        setattr(summary, key, _number(row[key]))
    summary.identifiers = json.loads(row["identifiers"] or "{}")
    summary.header_number = _number(row.get("header_number", ""))
    summary.is_closed = row.get("last_line") != _OPEN
    return summary


def _number(cell: str) -> int:
    return int(cell) if cell else 0


_PROBLEM = ("severity", "code", "source", "sheet", "row", "column", "raw", "count", "message", "hint")


def _problem_cells(one: Problem, names: Names) -> Sequence[object]:
    source = _named(one.source, names)
    return (
        one.severity,
        one.code,
        *source,
        one.row,
        one.column,
        one.raw,
        one.count,
        one.message,
        one.hint,
    )


def _problem(row: Mapping[str, str]) -> Problem:
    return Problem(
        cast(Severity, row["severity"]),
        row["code"],
        Named(row["source"], row["sheet"]).name,
        int(row["row"]) if row["row"] else None,
        row["column"],
        row["raw"],
        int(row["count"]),
        row["message"],
        row["hint"],
    )


def aside_cells(one: Aside, source: Named) -> Sequence[object]:
    """The cells of what was kept out of the table."""
    return (*source, one.row, one.column, one.code, one.raw)


def _aside(row: Mapping[str, str]) -> tuple[str, Aside]:
    place = int(row["row"]) if row["row"] else None
    name = Named(row["source"], row["sheet"]).name
    return name, Aside(-1, place, row["column"], row["code"], row["raw"])


def left_out_cells(one: LeftOut, source: Named) -> Sequence[object]:
    """The cells of a row that is not in the table."""
    return (*source, one.row, one.part, one.raw)


def _check_cells(one: CheckResult, names: Names) -> Sequence[object]:  # noqa: ARG001
    return (one.name, one.kind, json.dumps(one.columns, ensure_ascii=False), one.severity, one.found)


def row_run_cells(one: RowRun, source: Named) -> Sequence[object]:
    """The cells of a run of rows."""
    return (*source, one.row, one.rows, one.each)


def _left_out(row: Mapping[str, str]) -> tuple[str, LeftOut]:
    place = int(row["row"]) if row["row"] else None
    return Named(row["source"], row["sheet"]).name, LeftOut(-1, place, part_named(row["part"]), row["raw"])


def _column_cells(one: ColumnEntry, names: Names) -> Sequence[object]:  # noqa: ARG001
    headers = json.dumps(one.headers, ensure_ascii=False) if one.headers else ""
    counted = (json.dumps(each, ensure_ascii=False) if each else "" for each in (one.missing, one.converted))
    about = (one.column, one.type, one.unit, one.description)
    return (*about, one.filled, one.sources, one.least, one.greatest, headers, *counted)


def _column(row: Mapping[str, str]) -> ColumnEntry:
    headers: dict[str, Any] = json.loads(row["headers"] or "{}")
    return ColumnEntry(
        row["column"],
        row["type"],
        row["unit"],
        int(row["filled"]),
        int(row["sources"]),
        row["description"],
        row["least"],
        row["greatest"],
        headers,
        *(json.loads(row[key] or "{}") for key in ("missing", "converted")),
    )


def _preamble(row: Mapping[str, str]) -> PreambleEntry:
    return PreambleEntry(Named(row["source"], row["sheet"]).name, int(row["row"]), row["key"], row["value"])


def _variant_cells(one: VariantEntry, names: Names) -> Sequence[object]:  # noqa: ARG001
    header = one.header
    parts = (header.names, header.rows, header.units, header.spare)
    return (
        one.number,
        one.variant,
        *(json.dumps(part, ensure_ascii=False) if part else "" for part in parts),
    )


def _variant(row: Mapping[str, str]) -> VariantEntry:
    names, rows, units, spare = (json.loads(row[key] or "[]") for key in ("names", "rows", "units", "spare"))
    header = Header(tuple(names), tuple(map(tuple, rows)), tuple(units), tuple(spare))
    return VariantEntry(int(row["header_number"]), int(row["variant"]), header)


SOURCES = RecordTable("sources.csv", _SUMMARY, _summary_cells, _summary)
PROBLEMS = RecordTable("problems.csv", _PROBLEM, _problem_cells, _problem)
COLUMNS = RecordTable(
    "columns.csv",
    (
        "column",
        "type",
        "unit",
        "description",
        "filled",
        "sources",
        "least",
        "greatest",
        "headers",
        "missing",
        "converted",
    ),
    _column_cells,
    _column,
)
HEADERS = RecordTable(
    "headers.csv",
    ("header", "state", "column", "sources", "first_source", "first_sheet"),
    lambda one, names: (one.header, one.state, one.column, one.sources, *_named(one.first, names)),
    lambda row: HeaderEntry(
        row["header"],
        row["state"],
        row["column"],
        int(row["sources"]),
        Named(row["first_source"], row["first_sheet"]).name,
    ),
)
VARIANTS: RecordTable[VariantEntry] = RecordTable(
    "variants.csv", ("header_number", "variant", "names", "rows", "units", "spare"), _variant_cells, _variant
)
BLOCKS: RecordTable[BlockEntry] = RecordTable(
    "blocks.csv",
    ("source", "sheet", "line", "lines", "blake3"),
    lambda one, names: (*_named(one.source, names), one.line, one.lines, one.blake3),
    lambda row: BlockEntry(
        Named(row["source"], row["sheet"]).name, int(row["line"]), int(row["lines"]), row["blake3"]
    ),
)
PREAMBLE: RecordTable[PreambleEntry] = RecordTable(
    "preamble.csv",
    ("source", "sheet", "row", "key", "value"),
    lambda one, names: (*_named(one.source, names), one.row, one.key, one.value),
    _preamble,
)
SET_ASIDE: RecordTable[tuple[str, Aside]] = RecordTable(
    "set-aside.csv",
    ("source", "sheet", "row", "column", "code", "raw"),
    lambda one, names: aside_cells(one[1], _named(one[0], names)),
    _aside,
)
LEFT_OUT: RecordTable[tuple[str, LeftOut]] = RecordTable(
    "left-out.csv",
    ("source", "sheet", "row", "part", "raw"),
    lambda one, names: left_out_cells(one[1], _named(one[0], names)),
    _left_out,
)
CHECKS: RecordTable[CheckResult] = RecordTable(
    "checks.csv",
    ("check", "kind", "columns", "severity", "found"),
    _check_cells,
    lambda row: CheckResult(
        row["check"], row["kind"], row["severity"], tuple(json.loads(row["columns"])), int(row["found"])
    ),
)
CATEGORIES: RecordTable[CategoryEntry] = RecordTable(
    "categories.csv",
    ("column", "value", "rows"),
    lambda one, names: one,  # noqa: ARG005
    lambda row: CategoryEntry(row["column"], row["value"], int(row["rows"])),
)
ENDS: RecordTable[EndRow] = RecordTable(
    "ends.csv",
    ("output", "row", "cells"),
    lambda one, names: (one.output, one.row, json.dumps(one.cells, ensure_ascii=False)),  # noqa: ARG005
    lambda row: EndRow(row["output"], int(row["row"]), tuple(json.loads(row["cells"]))),
)
ROWS: RecordTable[tuple[str, RowRun]] = RecordTable(
    "rows.csv",
    ("source", "sheet", "row", "rows", "each"),
    lambda one, names: row_run_cells(one[1], _named(one[0], names)),
    lambda row: (
        Named(row["source"], row["sheet"]).name,
        RowRun(-1, int(row["row"]), int(row["rows"]), int(row["each"])),
    ),
)
_TABLES = (SOURCES, PROBLEMS, COLUMNS, CATEGORIES, CHECKS, ENDS, HEADERS, PREAMBLE, SET_ASIDE, LEFT_OUT)
# those that every record has, those that it has since schema 7, and all that may be in one
ALWAYS = (PLAN, RUN, VALUES, *(one.file for one in _TABLES))
SINCE_7 = (VARIANTS.file, BLOCKS.file)
FILES = (*ALWAYS, *SINCE_7, ROWS.file, REPORT)
