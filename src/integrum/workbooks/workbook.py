"""Open a workbook and read its sheets as text."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from io import BytesIO
from itertools import islice
from typing import Any
from zipfile import ZipFile

from python_calamine import (
    CalamineSheet,
    CalamineWorkbook,
    PasswordError,
    SheetTypeEnum,
    SheetVisibleEnum,
)

from integrum.problems.problem import SourceFault
from integrum.workbooks.grid import BLOCK, Grid, grid_of
from integrum.workbooks.html import html_tables
from integrum.workbooks.places import Sheet
from integrum.workbooks.recognise import HTML, ODS, TEXT, XLS, XLSB, XLSX, recognise
from integrum.workbooks.scanned import Scanned, Scans, damaged, known, protected, refuse_excess
from integrum.workbooks.scanning import scan_ods, scan_xls, scan_xlsb
from integrum.workbooks.text import SheetText, as_text
from integrum.workbooks.xlsx import scan_xlsx

_SCANS: dict[str, Callable[[ZipFile], Scans]] = {XLSX: scan_xlsx, XLSB: scan_xlsb, ODS: scan_ods}


@dataclass(frozen=True)
class ListedSheet:
    """A sheet in the list of a workbook."""

    name: str
    hidden: bool = False
    holds_cells: bool = True


class Workbook:
    """A workbook in memory.

    Raises SourceFault when it is not a workbook, protected by a password, damaged, or would fill the memory. The code
    is ``"kind-differs"`` when it is a text.
    """

    def __init__(self, data: bytes) -> None:
        kind = recognise(data)
        if kind == TEXT:
            raise SourceFault("kind-differs", "not a workbook but delimited text", "give it the suffix .csv")
        self._kind, self.is_html = kind, kind == HTML
        if self.is_html:
            tables: list[list[list[str]]] = _guarded(lambda: html_tables(data))
            self._tables = {f"table {number}": rows for number, rows in enumerate(tables, 1)}
            self.sheets = [ListedSheet(name) for name in self._tables]
            return
        self._scans: Scans = _guarded(
            lambda: scan_xls(data) if kind == XLS else _SCANS[kind](ZipFile(BytesIO(data)))
        )
        if kind in (XLS, ODS):  # these are opened as a whole
            scanned: dict[str, Scanned] = _guarded(
                lambda: {name: scan() for name, scan in self._scans.items()}
            )
            for one in scanned.values():
                refuse_excess(one)
            self._scans = known(scanned)
        self._opened: CalamineWorkbook = _guarded(lambda: CalamineWorkbook.from_filelike(BytesIO(data)))
        self.sheets = [
            ListedSheet(
                one.name,
                one.visible != SheetVisibleEnum.Visible,
                one.typ == SheetTypeEnum.WorkSheet,
            )
            for one in self._opened.sheets_metadata
        ]

    def read(self, sheet: Sheet) -> SheetText:
        """Read a sheet.

        Raises SourceFault when its part of the workbook is damaged.
        """
        if self.is_html:
            rows = self._tables[sheet.name]
            width = max(map(len, rows))
            padded = ([*row, *[""] * (width - len(row))] for row in rows)
            return as_text(grid_of(padded, decimal_mark=sheet.decimal_mark), (), sheet, Scanned())
        scan = self._scans.get(sheet.name)
        if scan is None and self._kind != XLS:  # nobody knows how far its cells reach
            raise damaged("it lists a sheet that it does not have")
        scanned = _guarded(scan) if scan else Scanned()
        refuse_excess(scanned)
        opened: CalamineSheet = _guarded(lambda: self._opened.get_sheet_by_name(sheet.name))
        grid = _guarded(lambda: _grid(opened, sheet.decimal_mark))
        return as_text(grid, opened.merged_cell_ranges or (), sheet, scanned)


def _guarded(work: Callable[[], Any]) -> Any:
    """Read, and turn every error of a damaged workbook into a fault."""
    try:
        return work()
    except SourceFault:
        raise
    except PasswordError as error:
        raise protected() from error
    except Exception as error:  # whatever damaged bytes make of a library
        raise damaged(str(error).strip("'\"")[:120]) from error
    except BaseException as error:
        if (
            type(error).__name__ == "PanicException"
        ):  # the library gave up; it has no other name to catch it by
            raise damaged() from error
        raise


def _grid(opened: CalamineSheet, decimal_mark: str) -> Grid:
    if opened.start is None:
        return Grid([])
    row, column = opened.start
    # at once is faster, but all cells are Python objects then
    rows = opened.to_python() if opened.height <= BLOCK else islice(opened.iter_rows(), row, None)
    return grid_of(rows, row + 1, column + 1, decimal_mark)
