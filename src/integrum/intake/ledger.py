"""The account of rows, per source, and the law that it obeys."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field, make_dataclass
from operator import attrgetter
from typing import TYPE_CHECKING, Any

from integrum.errors import LedgerError
from integrum.plan.layout import Layout
from integrum.problems import notebook
from integrum.problems.found import SPREAD
from integrum.problems.problem import Problem, counted
from integrum.reading.parts import COUNTED, Part

# the same for all that have no other
_PLAIN = Layout()


if TYPE_CHECKING:

    class _Counts:
        """The counts of the parts, for type checkers."""

        rows: int

        def __init__(self, rows: int = 0, *counts: int, **more: int) -> None: ...
        def __getattr__(self, name: str) -> int: ...
        def __setattr__(self, name: str, value: int) -> None: ...

else:
    _Counts = make_dataclass("_Counts", [("rows", int, 0), *((part.key, int, 0) for part in COUNTED)])


_COUNTS = attrgetter(*(part.key for part in COUNTED))


class Ledger(_Counts):
    """The rows of one source, each in exactly one part.

    Attributes
    ----------
    rows
        Rows in the file, counted on its bytes before anything is parsed.
    preamble, header, units, repeated_header, blank, comment, footer, set_aside, data
        What they were; these add up to `rows`.

    Examples
    --------
    >>> Ledger(rows=4, header=1, blank=1, data=2).adds_up
    True
    """

    @property
    def adds_up(self) -> bool:
        """Whether rows in are rows out."""
        return self.rows == sum(self.counts.values())

    @property
    def counts(self) -> dict[Part, int]:
        """The number of rows by part, in the order of the parts."""
        return dict(zip(COUNTED, _COUNTS(self), strict=True))

    def _repr_html_(self) -> str:
        rows = [(part.words, count) for part, count in self.counts.items() if count]
        return notebook.view(notebook.table(["part", "rows"], [*rows, ("in the file", self.rows)]))

    def add(self, part: Part, count: int) -> None:
        """Count more rows of a part."""
        setattr(self, part.key, getattr(self, part.key) + count)


ASSEMBLED, SET_ASIDE = "assembled", "set-aside"


class Figures(dict[str, Any]):
    """The figures that measures find about a source, by their columns in the record."""

    def __getattr__(self, name: str) -> Any:
        try:
            return self[name]
        except KeyError:
            raise AttributeError(name) from None


@dataclass
class SourceSummary:
    """What became of one source.

    Attributes
    ----------
    source
        Its name: the path below the common folder.
    path
        Its path, or its address.
    group
        The number of its group in the plan, from 1.
    size
        The bytes of its text, unpacked.
    content
        The content hash: BLAKE3, 256 bits, in hexadecimal; of a sheet that of its cells.
    variant
        The number of its header variant, from 1 in the order of how many sources have it; 0 when it has none.
    status
        ``"assembled"`` or ``"set-aside"``.
    reason
        The code of the problem for which it was set aside, or ``""``.
    ledger
        The number of its rows by part.
    label
        What stands in the provenance column; its name, when the plan gives it no label.
    sheet
        The sheet of a workbook that it is, or ``""``.
    workbook
        Of a sheet: the content hash of the file.
    header_number
        The number of its header in ``variants.csv``, from 1; 0 when it has none.
    header_row
        The row of its header; 0 when it has none.
    layout
        Its layout, as it was read.
    output
        The output that its rows are in, or ``""``.
    first_table_row, last_table_row
        The first and the last of its rows in the table, from 1; 0 when it has none there.
    first_byte, end_byte
        Where they lie in an output in CSV: the offset of the first byte, and that behind the last; 0 elsewhere.
    table_rows
        Rows of the table that it gave.
    rows_each
        Rows of the table that a row of it gives: 1, but for wide sources.
    empty_cells
        Rows of the table that there are not, as the cells of a wide source are empty.
    identifiers
        Its identifiers, by name; None where it has no value for one.
    is_closed
        Whether it ends with a line end.
    figures
        What measures of one's own have found out about it, by name.
    """

    source: str
    path: str
    group: int
    size: int = 0
    content: str = ""
    variant: int = 0
    status: str = ASSEMBLED
    reason: str = ""
    ledger: Ledger = field(default_factory=Ledger)
    label: str = ""
    sheet: str = ""
    workbook: str = ""
    header_row: int = 0
    layout: Layout = _PLAIN
    output: str = ""
    first_table_row: int = 0
    last_table_row: int = 0
    first_byte: int = 0
    end_byte: int = 0
    table_rows: int = 0
    rows_each: int = 1
    empty_cells: int = 0
    identifiers: Mapping[str, str | None] = field(default_factory=dict)
    header_number: int = 0
    is_closed: bool = True
    figures: Figures = field(default_factory=Figures, repr=False, metadata=SPREAD)

    @property
    def file(self) -> str:
        """The name of its file; of a sheet, the name of the workbook."""
        return self.source[: -len(self.sheet) - 1] if self.sheet else self.source

    @property
    def is_assembled(self) -> bool:
        """Whether it is in the table."""
        return self.status == ASSEMBLED

    def set_aside(self, reason: str) -> None:
        """Set the whole source aside: its data rows are counted as set aside."""
        self.status, self.reason = SET_ASIDE, reason
        ledger = self.ledger
        known = sum(ledger.counts.values()) - ledger.set_aside
        if known > ledger.rows:  # its rows could only be counted as lines
            ledger = self.ledger = Ledger(ledger.rows)
            known = 0
        ledger.set_aside = ledger.rows - known


def account_of(sources: Iterable[SourceSummary]) -> str:
    """The sum of some ledgers in words: rows in the files = rows by part.

    Examples
    --------
    >>> account_of([SourceSummary("a.csv", "", 1, ledger=Ledger(rows=4, header=1, repeated_header=1, data=2))])
    '4 rows in the files = 1 header + 1 repeated header + 2 data'
    """
    total, rows = Counter[Part](), 0
    for one in sources:
        rows += one.ledger.rows
        total.update(one.ledger.counts)
    said = " + ".join(f"{total[part]:,} {part.words}" for part in COUNTED if total[part])
    return f"{rows:,} rows in the files = {said or '0'}"


def about_rows(summary: SourceSummary, elsewhere: int = 0) -> Iterator[Problem]:
    """The notes about the ledger of an assembled source.

    `elsewhere`: how many of its rows are taken from other sources.
    """
    ledger = summary.ledger
    if ledger.repeated_header:
        yield Problem.of(
            "repeated-header",
            summary.source,
            count=ledger.repeated_header,
            message="row skipped: repeated header",
        )
    if summary.is_assembled and not ledger.data and not 0 < elsewhere == ledger.set_aside:
        parts = [f"{count:,} {part}" for part, count in ledger.counts.items() if count]
        yield Problem.of(
            "no-data-rows",
            summary.source,
            message=f"no rows of data; its rows: {', '.join(parts)}",
            hint="integrum survey FILE shows how each row was read",
        )


def broken_law(summary: SourceSummary, has_table: bool) -> str:
    """How the ledger of a source does not add up; empty when it does.

    The rows of a source are in exactly one part each. What are data give as many rows of the table; in a wide source each
    row gives a row for every cell that is not empty.

    Examples
    --------
    >>> broken_law(SourceSummary("a.csv", "", 1, ledger=Ledger(rows=3, header=1, data=1), table_rows=1), True)
    'it has 3 rows, but 2 are accounted for'
    """
    ledger = summary.ledger
    if not ledger.adds_up:
        known = sum(ledger.counts.values())
        are = "is" if known == 1 else "are"
        return f"it has {counted(ledger.rows, 'row')}, but {known:,} {are} accounted for"
    due = ledger.data * summary.rows_each - summary.empty_cells
    if has_table and summary.table_rows != due:
        return f"it has {counted(due, 'row')} of data, but gave {summary.table_rows:,}"
    return ""


def check_total(summaries: Iterable[SourceSummary], table_rows: int) -> None:
    """Make sure that the rows of all sources are the rows of the table.

    Raises LedgerError when they are not.

    Examples
    --------
    >>> check_total([SourceSummary("a.csv", "", 1, table_rows=2)], 1)
    Traceback (most recent call last):
    ...
    integrum.errors.LedgerError: the rows do not add up, so nothing was written: the sources gave 2, but the table has 1
    """
    out = sum(summary.table_rows for summary in summaries)
    if out != table_rows:
        raise LedgerError(
            f"the rows do not add up, so nothing was written: the sources gave {out:,}, but the table has "
            f"{table_rows:,}"
        )
