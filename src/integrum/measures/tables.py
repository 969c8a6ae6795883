"""The files of a record: the columns of each, and the objects that its rows are."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import fields, replace
from functools import cache, partial
from typing import Any

from integrum.columns.header import Header
from integrum.intake.ledger import Figures, Ledger, SourceSummary
from integrum.measures.items import (
    BlockEntry,
    CategoryEntry,
    CheckResult,
    ColumnEntry,
    EndRow,
    HeaderEntry,
    RowRun,
    ValuesEntry,
    VariantEntry,
)
from integrum.plan.layout import Layout
from integrum.problems.problem import Problem
from integrum.reading.head import PreambleEntry
from integrum.reading.parts import COUNTED, PARTS, LeftOutRow, SetAside, part_named
from integrum.record.table import (
    FILE,
    OUTPUT,
    Named,
    RecordColumn,
    RecordTable,
    as_json,
    source_columns,
    whole,
    whole_or_none,
    whole_or_zero,
)

PLAN, METHODS = "plan.toml", "methods.txt"
# pages that are made from a record at any time
REPORT, CODEBOOK, CODEBOOK_TEXT = PAGES = ("report.html", "codebook.html", "codebook.md")


_PLAIN = Layout()
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


@cache
def _layout_of(text: str) -> Layout:
    return Layout(**json.loads(text or "{}"))


_LEDGER, _FIGURES = "ledger.", "figures."
_COUNTS = {f"{_LEDGER}{name}": name for name in ("rows", *(part.key for part in COUNTED))}


def _summary(figures: Mapping[str, str], **said: Any) -> SourceSummary:
    """A source of its cells, those of its ledger and of its figures put together; these by the names of their attributes."""
    ledger = Ledger(**{name: said.pop(key) for key, name in _COUNTS.items()})
    more = Figures({name: said.pop(key) for key, name in figures.items()})
    name = Named(said.pop("source"), said["sheet"]).name
    return SourceSummary(name, "", ledger=ledger, figures=more, **said)


def sources_table(more: Sequence[RecordColumn]) -> RecordTable[SourceSummary]:
    """What became of each source; with the columns of measures, which are told as figures of a source."""
    figures = [replace(column, attribute=f"{_FIGURES}{column.name}") for column in more]
    return RecordTable(
        "sources.csv",
        partial(_summary, {one.attribute: one.name for one in figures}),
        (
            RecordColumn("source", "the file, relative to the common folder", place=FILE),
            RecordColumn("sheet", "the sheet of a workbook"),
            RecordColumn(
                "label",
                "what the `source` column of the table has; use it, with `sheet`, to join this file with the table",
            ),
            whole("group", "the number of its group in the plan, from 1"),
            RecordColumn("status", "`assembled` or `set-aside`"),
            RecordColumn("reason", "the code of the problem for which it was set aside"),
            whole("bytes", "its size; for a sheet that of its cells as text", "size"),
            RecordColumn("blake3", "the hash of its content (BLAKE3, 256 bits)", "content"),
            RecordColumn("workbook_blake3", "of a sheet: the hash of the file", "workbook"),
            RecordColumn(
                "last_line",
                "`ended` if the file ends with a line end, else `open`",
                "is_closed",
                lambda one: _ENDED if one else _OPEN,
                lambda cell: cell != _OPEN,
            ),
            whole_or_zero("variant", "its header variant; 1 is the one that most sources have"),
            whole_or_zero("header_number", "its header, as it is written: a line of `variants.csv`"),
            whole_or_zero("header_row", "the row of its header"),
            RecordColumn(
                "layout",
                "its layout as it was read: JSON, with the keys of a plan; empty for a plain file",
                write=_layout_text,
                read=_layout_of,
            ),
            as_json("identifiers", "what its path, its sheet and its preamble say: JSON, by column"),
            RecordColumn("output", "the output that its rows are in, relative to the record", place=OUTPUT),
            whole_or_zero("first_table_row", "its first row in that table, from 1"),
            whole_or_zero("last_table_row", "its last row there"),
            whole_or_zero("first_byte", "where its rows are in a CSV: the offset of the first byte"),
            whole_or_zero("end_byte", "the offset of the byte after the last"),
            whole("table_rows", "its rows in the table: `data` × `rows_each` − `empty_cells`"),
            whole("rows_each", "of a wide source: rows of the table for each row; else 1"),
            whole("empty_cells", "of a wide source: rows that are not there because cells are empty"),
            whole("rows", "rows in the source: the sum of the following", f"{_LEDGER}rows"),
            *(
                replace(whole(part, f"rows that are {part.words}", f"{_LEDGER}{part.key}"), absent="0")
                for part in COUNTED
            ),
            *figures,
        ),
    )


PROBLEMS = RecordTable(
    "problems.csv",
    Problem,
    (
        RecordColumn("severity", "`error`, `warning` or `note`"),
        RecordColumn(
            "code", "what was found; [each code](problems.md) has a section that says how to fix it"
        ),
        *source_columns("where it was found; empty where it is about the whole run"),
        whole_or_none("row", "the row in the source, the header counted; with a `count`, the first"),
        RecordColumn("column", "the column of the table, or the header cell"),
        RecordColumn("raw", "the text as it is in the source; with a `count`, the first"),
        whole("count", "how often this was found in this source"),
        RecordColumn("message", "what was found, in words"),
        RecordColumn("hint", "what to do about it"),
    ),
)
SET_ASIDE = RecordTable(
    "set-aside.csv",
    SetAside,
    (
        *source_columns("the file, relative to the common folder"),
        whole_or_none("row", "the row in the source; empty for a whole source"),
        RecordColumn(
            "column", "the column of a cell that was left empty; for a row the columns that are the reason"
        ),
        RecordColumn("code", "the code of the problem that says why"),
        RecordColumn("raw", "the text as it is in the source"),
    ),
)
LEFT_OUT = RecordTable(
    "left-out.csv",
    LeftOutRow,
    (
        *source_columns("the file, relative to the common folder"),
        whole_or_none("row", "the row in the source; empty for a whole source"),
        RecordColumn(
            "part",
            f"what it was taken for: {', '.join(f'`{part}`' for part in PARTS if part.is_kept)} (cells of a sheet)",
            read=part_named,
        ),
        RecordColumn("raw", "the text as it is in the source"),
    ),
)
COLUMNS = RecordTable(
    "columns.csv",
    ColumnEntry,
    (
        RecordColumn("column", "its name"),
        RecordColumn("type", "its type"),
        RecordColumn("unit", "its unit: that of the plan, or the first one in the sources"),
        RecordColumn("description", "what it is, as the plan says"),
        whole("filled", "cells with a value"),
        whole("sources", "how many sources have it"),
        RecordColumn("least", "the least value of numbers, dates and times"),
        RecordColumn("greatest", "the greatest value"),
        as_json(
            "headers", "JSON: the header cells that it comes from, with the number of sources that have each"
        ),
        as_json("missing", "JSON: how often each missing code was met"),
        as_json("converted", "JSON: the units that values were converted from, with the number of sources"),
    ),
)


def values_table(more: Sequence[RecordColumn]) -> RecordTable[ValuesEntry]:
    """The values of each column in each source; with the columns of measures."""
    return RecordTable(
        "values.csv",
        _values_entry,
        (
            RecordColumn("column", "the column"),
            *source_columns("the source; identifiers are not in this file"),
            whole("filled", "cells with a value"),
            whole("empty", "cells without one"),
            RecordColumn("least", "the least value of numbers, dates and times, after all conversions"),
            RecordColumn(
                "median",
                "the median of 32 values from all over the source, or of all where there are no more; of a source that was "
                "read in several pieces that of the piece with most values",
            ),
            RecordColumn("greatest", "the greatest value"),
            RecordColumn("first", "the first cell, empty where it is"),
            RecordColumn("last", "the last cell"),
            *more,
        ),
    )


def _values_entry(**said: Any) -> ValuesEntry:
    known = [each.name for each in fields(ValuesEntry)]
    others = {name: said.pop(name) for name in list(said) if name not in known}
    return ValuesEntry(**said, others=others)


CATEGORIES = RecordTable(
    "categories.csv",
    CategoryEntry,
    (
        RecordColumn("column", "a column of text or booleans with at most 40 different values"),
        RecordColumn("value", "one of its values"),
        whole("rows", "how often it is in the table"),
    ),
)
CHECKS = RecordTable(
    "checks.csv",
    CheckResult,
    (
        RecordColumn("check", "its name", "name"),
        RecordColumn("kind", "what it tests"),
        as_json("columns", "JSON: the columns that it looks at", read=tuple, may_be_empty=False),
        RecordColumn("severity", "the severity of its findings"),
        whole("found", "how many violations; 0: passed"),
    ),
)
ENDS = RecordTable(
    "ends.csv",
    EndRow,
    (
        RecordColumn("output", "the output, relative to the record", place=OUTPUT),
        whole("row", "one of its first or last three rows, from 1"),
        as_json(
            "cells", "JSON: its cells, in the order of the table's columns", read=tuple, may_be_empty=False
        ),
    ),
)
HEADERS = RecordTable(
    "headers.csv",
    HeaderEntry,
    (
        RecordColumn("header", "a header cell of a source that was assembled"),
        RecordColumn(
            "state",
            "`matched`, `in part`, `left out`, `guessed` or `unlisted`; see [the rules](rules.md#columns)",
        ),
        RecordColumn("column", "the column that it is for, or may be for"),
        whole("sources", "how many sources have it so"),
        *source_columns("the first of them", "first", "first_"),
    ),
)
VARIANTS = RecordTable(
    "variants.csv",
    lambda number, variant, **parts: VariantEntry(
        number, variant, Header(**{name.removeprefix("header."): part for name, part in parts.items()})
    ),
    (
        whole("header_number", "the number of a header as it is written; `sources.csv` has it", "number"),
        whole("variant", "the number of its header variant"),
        as_json("names", "JSON: its cells, tidied", "header.names", tuple),
        as_json(
            "rows", "JSON: its rows as they are written", "header.rows", lambda rows: tuple(map(tuple, rows))
        ),
        as_json("units", "JSON: the units below it", "header.units", tuple),
        as_json(
            "spare", "JSON: the positions, from 0, of cells at its end without a name", "header.spare", tuple
        ),
        as_json("used", "JSON: of these, the positions of columns that have values", "header.used", tuple),
    ),
    since=7,
)
PREAMBLE = RecordTable(
    "preamble.csv",
    PreambleEntry,
    (
        *source_columns("the file, relative to the common folder"),
        whole("row", "the row above the header"),
        RecordColumn("key", "what stands before the value, such as `Serial No`"),
        RecordColumn("value", "the value"),
    ),
)
BLOCKS = RecordTable(
    "blocks.csv",
    BlockEntry,
    (
        *source_columns("the file, relative to the common folder"),
        whole("line", "the first line of a block, from 1"),
        whole("lines", "the lines of a whole block"),
        RecordColumn("blake3", "the hash of the block"),
    ),
    since=7,
)
ROWS = RecordTable(
    "rows.csv",
    RowRun,
    (
        *source_columns("the file, relative to the common folder"),
        whole("row", "the first row of a run of rows"),
        whole("rows", "how many, one after the other"),
        whole("each", "how many rows of the table each gives; more than 1 in wide sources"),
    ),
    since=0,
)
# written source by source while a run goes on; until they are, their entries have the numbers of their sources
STREAMED: tuple[RecordTable[Any], ...] = (SET_ASIDE, LEFT_OUT, ROWS)
