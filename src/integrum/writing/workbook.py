"""A workbook: the table with real numbers and dates, and what there is to know about it on sheets beside it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import date, datetime, time
from pathlib import Path
from typing import Any, ClassVar

import pyarrow as pa
import pyarrow.compute as pc
import xlsxwriter
from xlsxwriter.format import Format
from xlsxwriter.worksheet import Worksheet

from integrum.columns.table_schema import TableSchema
from integrum.errors import OutputError
from integrum.values.types import TYPES, Type
from integrum.workbooks.places import LAST_COLUMN, Sheet
from integrum.workbooks.workbook import Workbook
from integrum.writing.csv import parse_csv
from integrum.writing.output import About, Spans
from integrum.writing.typed import TypedFile

TABLE = "table"
# what stands beside the table for people
CODEBOOK, _SHEETS = "codebook", ("problems", "sources")
MOST_ROWS = 1_048_575
MOST_LETTERS = 32_767
_LARGER = "; a .csv or .parquet file can hold it"
_EXACT = 10**15
_FIRST_YEAR = 1900
# the day 0 of a workbook; up to the 29th of February of 1900, which it has and the calendar has not, days are one less
_DAY_ZERO, _AFTER_LEAP = date(1899, 12, 30).toordinal(), date(1900, 3, 1)
# a cell knows no more than thousandths of a second; and how these are shown
_THOUSANDTHS, _FINE = 86_400_000, ".000"
_WIDEST, _NARROWEST, _LOOKED_AT = 48, 8, 500
# room for the arrow of a filter behind a name; and for fonts of other programs, which show no date that does not fit
_ARROW, _WIDER = 4, 1.2
# the same run gives the same bytes, so no time of writing
_CREATED = datetime(2000, 1, 1)


class WorkbookOutput(TypedFile):
    """Writes an .xlsx workbook.

    Nothing is written before all rows are there, as a sheet takes no more than 1,048,575 of them.
    """

    has_tables: ClassVar[bool] = True

    def __init__(self, path: Path) -> None:
        super().__init__(path)
        self._batches: list[pa.RecordBatch] = []
        self._rows = 0
        self._book: xlsxwriter.Workbook | None = None

    def begin(self, schema: TableSchema) -> int:
        """Take the schema.

        Raises OutputError when a sheet has not as many columns.
        """
        if len(schema.names) > LAST_COLUMN:
            raise OutputError(
                f"the table has {len(schema.names):,} columns, but a sheet holds {LAST_COLUMN:,}{_LARGER}"
            )
        self._schema = schema
        return 0

    def append(self, payload: pa.RecordBatch, rows: int, spans: Spans = ()) -> None:  # noqa: ARG002
        """Keep a batch.

        Raises OutputError when a sheet has not as many rows, or a text is longer than a cell takes.
        """
        if self._rows + rows > MOST_ROWS:
            raise OutputError(
                f"the table has more than {MOST_ROWS:,} rows, the most that a sheet holds{_LARGER}"
            )
        for name, column in zip(payload.schema.names, payload.columns, strict=True):
            if pa.types.is_string(column.type):
                self._check_lengths(name, column)
        self._batches.append(payload)
        self._rows += rows

    def _check_lengths(self, name: str, column: pa.Array) -> None:
        lengths = pc.utf8_length(column)
        longest = pc.max(lengths).as_py()
        if longest is not None and longest > MOST_LETTERS:
            row = self._rows + pc.index(lengths, longest).as_py() + 1
            raise OutputError(
                f'row {row:,} of the table, column "{name}": a text of {longest:,} letters, but a cell holds '
                f"{MOST_LETTERS:,}{_LARGER}"
            )

    def finish(self) -> None:
        """Write the table."""
        options = {"constant_memory": True, "strings_to_numbers": False, "strings_to_formulas": False}
        self._book = xlsxwriter.Workbook(str(self._path), options | {"strings_to_urls": False})
        self._book.set_properties({"created": _CREATED})
        self._header = self._book.add_format({"bold": True, "bottom": 1})
        self._wrapped = self._book.add_format({"text_wrap": True, "valign": "top"})
        said = dict.fromkeys(one.cell_format for one in TYPES.values() if one.cell_format)
        both = [each for form in said for each in (form, f"{form}{_FINE}")]
        self._formats = {form: self._book.add_format({"num_format": form}) for form in both}
        sheet = self._book.add_worksheet(TABLE)
        widths = self._begin_sheet(sheet, self._schema.names)
        row = 1
        for batch in self._batches:
            kinds = self._schema.types
            writers = [
                self._writer(sheet, kind, field.type)
                for kind, field in zip(kinds, self._schema.arrow, strict=True)
            ]
            columns = [
                (column if _has_cell(column.type) else kind.to_text(column)).to_pylist()
                for kind, column in zip(kinds, batch.columns, strict=True)
            ]
            for at, column in enumerate(columns):
                widths[at] = max(widths[at], *(len(_shown(value)) for value in column[:_LOOKED_AT]), 0)
            for cells in zip(*columns, strict=True):
                for at, value in enumerate(cells):
                    if value is not None:
                        writers[at](row, at, value)
                row += 1
        self._batches.clear()
        self._end_sheet(sheet, widths, row)

    def document(self, about: About) -> None:
        """Write sheets beside the table."""
        assert self._book
        whole = about()
        for name, make in {
            CODEBOOK: whole.codebook,
            **{name: whole.tables[name] for name in _SHEETS},
        }.items():
            said = make()
            sheet, rows = self._book.add_worksheet(name), list(said.rows)
            widths = self._begin_sheet(sheet, said.header)
            for row, cells in enumerate(rows[:MOST_ROWS], 1):
                for at, value in enumerate(cells):
                    widths[at] = max(widths[at], len(_shown(value)))
                    if isinstance(value, int):
                        sheet.write_number(row, at, value)
                    elif value not in (None, ""):
                        text = str(value)[:MOST_LETTERS]
                        sheet.write_string(row, at, text, self._wrapped if name == CODEBOOK else None)
            self._end_sheet(sheet, widths, min(len(rows), MOST_ROWS) + 1)

    def close(self) -> None:
        """Put the parts of the workbook together."""
        if self._book:
            self._book.close()

    def discard(self) -> None:
        """Leave everything as it is."""
        if self._book:
            self._book.fileclosed = 1  # else the library would write it in the end

    @staticmethod
    def load(path: Path, schema: TableSchema, guarded: bool = False) -> pa.Table:  # noqa: ARG004
        """Read the table back, with its types."""
        return parse_csv(Workbook(path.read_bytes()).read(Sheet(TABLE)).text, schema)

    @staticmethod
    def batches(path: Path, schema: TableSchema, guarded: bool = False) -> Iterator[pa.RecordBatch]:
        """Read it back in batches; the sheet is in memory as a whole."""
        yield from WorkbookOutput.load(path, schema, guarded).to_batches()

    def _begin_sheet(self, sheet: Worksheet, header: Sequence[str]) -> list[int]:
        """Write the header; gives the first widths of the columns."""
        for at, name in enumerate(header):
            sheet.write_string(0, at, name, self._header)
        sheet.freeze_panes(1, 0)
        return [len(name) + _ARROW for name in header]

    def _end_sheet(self, sheet: Worksheet, widths: Sequence[int], rows: int) -> None:
        for at, width in enumerate(widths):
            sheet.set_column(at, at, min(max(int(width * _WIDER) + 1, _NARROWEST), _WIDEST))
        if widths:
            sheet.autofilter(0, 0, max(rows - 1, 1), len(widths) - 1)

    def _writer(self, sheet: Worksheet, kind: Type, arrow: pa.DataType) -> Any:
        """What writes the values of a column."""
        if pa.types.is_string(arrow) or not _has_cell(arrow):
            return sheet.write_string
        if pa.types.is_boolean(arrow):
            return sheet.write_boolean
        if pa.types.is_integer(arrow):
            return lambda row, at, value: _whole(sheet, row, at, value)
        if pa.types.is_floating(arrow):
            return lambda row, at, value: sheet.write_number(row, at, _Exact(value))
        if pa.types.is_timestamp(arrow) and arrow.tz:
            # a cell has no zone: the local time, with its offset as text
            return lambda row, at, value: sheet.write_string(row, at, value.isoformat(sep=" "))
        forms = self._formats[kind.cell_format], self._formats[f"{kind.cell_format}{_FINE}"]
        if pa.types.is_time(arrow):
            return lambda row, at, value: _clock(sheet, row, at, value, forms)
        return lambda row, at, value: _moment(sheet, row, at, value, forms)


def _has_cell(arrow: pa.DataType) -> bool:
    """Whether a cell of a workbook can hold such values; others are texts there."""
    is_moment = pa.types.is_temporal(arrow) and not pa.types.is_duration(arrow)
    return is_moment or arrow in (pa.string(), pa.bool_(), pa.int64(), pa.float64())


class _Exact(float):
    """A number that the library writes with all of its digits; others it rounds to 16."""

    def __format__(self, form: str) -> str:
        return float.__repr__(self)


def _whole(sheet: Worksheet, row: int, at: int, value: int) -> None:
    """A number of a workbook has 15 digits; a longer one is written as text, as it would not stay exact."""
    if abs(value) < _EXACT:
        sheet.write_number(row, at, value)
    else:
        sheet.write_string(row, at, str(value))


def _moment(sheet: Worksheet, row: int, at: int, value: date, forms: Sequence[Format]) -> None:
    """Workbooks know no time before 1900, and none finer than a thousandth of a second; such a one is written as text."""
    if value.year < _FIRST_YEAR or (isinstance(value, datetime) and value.microsecond % 1000):
        sheet.write_string(row, at, _shown(value))
        return
    fine = _thousandths(value.time()) if isinstance(value, datetime) else 0
    day = value.toordinal() - _DAY_ZERO - (date(value.year, value.month, value.day) < _AFTER_LEAP)
    sheet.write_number(row, at, _Exact(day + fine / _THOUSANDTHS), forms[fine % 1000 > 0])


def _clock(sheet: Worksheet, row: int, at: int, value: time, forms: Sequence[Format]) -> None:
    if value.microsecond % 1000:
        sheet.write_string(row, at, _shown(value))
        return
    fine = _thousandths(value)
    sheet.write_number(row, at, _Exact(fine / _THOUSANDTHS), forms[fine % 1000 > 0])


def _thousandths(value: time) -> int:
    """The thousandths of a second since midnight."""
    return ((value.hour * 60 + value.minute) * 60 + value.second) * 1000 + value.microsecond // 1000


def _shown(value: object) -> str:
    return "" if value is None else str(value)
