"""Which output a file name asks for."""

from __future__ import annotations

from importlib import import_module
from pathlib import Path

from integrum.errors import OutputError
from integrum.plan.wrong_words import nearest
from integrum.writing.output import ARROW, CSV, PACKED_CSV, PARQUET, SQLITE, WORKBOOK, FileOutput, suffix_of

# suffix -> the class that writes it; loaded when it is asked for, as that takes some time
FORMATS = {
    CSV: "integrum.writing.csv:CsvOutput",
    PACKED_CSV: "integrum.writing.csv:PackedCsvOutput",
    PARQUET: "integrum.writing.typed:ParquetOutput",
    ARROW: "integrum.writing.typed:ArrowOutput",
    WORKBOOK: "integrum.writing.workbook:WorkbookOutput",
    SQLITE: "integrum.writing.sqlite:SqliteOutput",
}


def format_of(path: Path) -> type[FileOutput]:
    """The class that writes the format of a file name, or that reads what is there.

    The name is one of those that `check_suffix` lets pass.
    """
    if path.is_dir():
        from integrum.writing.parquet_folder import ParquetFolder

        return ParquetFolder
    module, _, name = FORMATS[suffix_of(path)].partition(":")
    return getattr(import_module(module), name)  # type: ignore[no-any-return]


def check_suffix(path: Path, guarded: bool = False) -> None:
    """Refuse a file name whose suffix is no output format, or none that is guarded against formulas.

    Raises OutputError: naming the formats.

    Examples
    --------
    >>> check_suffix(Path("o.xls"))
    Traceback (most recent call last):
    ...
    integrum.errors.OutputError: o.xls: an output is .csv, .csv.gz, .parquet, .arrow, .xlsx or .sqlite; did you mean ".xlsx"?
    """
    suffix = suffix_of(path)
    if suffix not in FORMATS:
        near = nearest(suffix, FORMATS)
        *first, last = FORMATS
        raise OutputError(f"{path}: an output is {', '.join(first)} or {last}{near}")
    if guarded and suffix not in (CSV, PACKED_CSV):
        raise OutputError(f"{path}: guard_formulas is for CSV; in {suffix} a text is never a formula")
