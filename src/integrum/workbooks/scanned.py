"""What is learnt from a workbook's own bytes before it is opened, and why one cannot be read."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import partial

from integrum.problems.problem import SourceFault
from integrum.workbooks.places import letters

# a library that opens workbooks sets aside memory for every cell up to the outermost ones
MOST_CELLS = 10_000_000
_FULL = 0.05
# and for every letter of a text, as often as it stands in the sheet
MOST_LETTERS = 1 << 29


def damaged(detail: str = "") -> SourceFault:
    """The fault of a workbook that cannot be read."""
    return SourceFault(
        "unreadable",
        f"it is damaged or cut off{': ' + detail if detail else ''}",
        "open it in a spreadsheet program, which may repair it, or get a complete copy",
    )


def protected() -> SourceFault:
    """The fault of a workbook under a password."""
    return SourceFault(
        "protected",
        "it is protected by a password",
        "open it in a spreadsheet program and save it without a password",
    )


@dataclass
class Scanned:
    """One sheet."""

    # how far its cells reach, at most
    rows: int = 0
    columns: int = 0
    cells: int = 0
    errors: dict[tuple[int, int], str] = field(default_factory=dict)  # error cells by row and column, from 1
    # cells that show days which the calendar has not, or which the library reads otherwise
    odd_days: dict[tuple[int, int], str] = field(default_factory=dict)
    # formulas without a saved value, by row and column
    unsaved: dict[tuple[int, int], str] = field(default_factory=dict)
    in_order: bool = True  # whether its rows come one after the other, as they have to
    # how long the texts are together that a few bytes can blow up: repeated ones, shared ones, runs of
    # blanks
    letters: int = 0

    def reach(self, row: int, column: int) -> None:
        """Take another cell into account."""
        self.in_order &= row >= self.rows
        self.rows, self.columns, self.cells = max(self.rows, row), max(self.columns, column), self.cells + 1


# what scans each sheet, by name, when it is asked to
Scans = Mapping[str, Callable[[], Scanned]]


def known(found: Mapping[str, Scanned]) -> Scans:
    """Cache of scans, by workbook."""
    return {name: partial(_itself, one) for name, one in found.items()}


def _itself(scanned: Scanned) -> Scanned:
    return scanned


def refuse_excess(sheet: Scanned) -> None:
    """Refuse a sheet with a few cells very far out, with rows that go back, or with texts that fill the memory.

    Raises SourceFault: naming how far they reach.
    """
    if sheet.letters > MOST_LETTERS:
        raise SourceFault(
            "unpacks-too-large",
            f"a sheet claims texts with {sheet.letters:,} letters together; it may be a decompression bomb",
            "if you trust it, open it in a spreadsheet program and save the sheet as .csv",
        )
    if not sheet.in_order:
        raise damaged("its rows are not in order")
    size = sheet.rows * sheet.columns
    if size > MOST_CELLS and sheet.cells < _FULL * size:
        raise SourceFault(
            "stray-cells",
            f"its {sheet.cells:,} cells reach as far as {letters(sheet.columns)}{sheet.rows}, which would be "
            f"{size:,} cells",
            f"delete the cells in row {sheet.rows:,} or column {letters(sheet.columns)}, and save it again",
            sheet.rows,
        )
