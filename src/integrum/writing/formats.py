"""Which output a file name asks for."""

from __future__ import annotations

from importlib import import_module
from pathlib import Path

from integrum.errors import OutputError
from integrum.plan.checks import nearest
from integrum.writing.output import FileOutput

CSV = ".csv"
# suffix -> the class that writes it; loaded when it is asked for, as that takes some time
FORMATS = {
    CSV: "integrum.writing.csv:CsvOutput",
    ".parquet": "integrum.writing.parquet:ParquetOutput",
    ".xlsx": "integrum.writing.workbook:WorkbookOutput",
}


def format_of(path: Path) -> type[FileOutput]:
    """The class that writes the format of a file name; one of those that `check_suffix` lets pass."""
    module, _, name = FORMATS[path.suffix.lower()].partition(":")
    return getattr(import_module(module), name)  # type: ignore[no-any-return]


def check_suffix(path: Path, guarded: bool = False) -> None:
    """Refuse a file name whose suffix is no output format, or none that is guarded against formulas.

    Raises
    ------
    OutputError
        Naming the formats.

    Examples
    --------
    >>> check_suffix(Path("lakes.parket"))
    Traceback (most recent call last):
    ...
    integrum.errors.OutputError: lakes.parket: an output is .csv, .parquet or .xlsx; did you mean ".parquet"?
    """
    if path.suffix.lower() not in FORMATS:
        near = nearest(path.suffix.lower(), FORMATS)
        *first, last = FORMATS
        raise OutputError(f"{path}: an output is {', '.join(first)} or {last}{near}")
    if guarded and path.suffix.lower() != CSV:
        raise OutputError(
            f"{path}: guard_formulas is for CSV; in {path.suffix} a text is a text and never a formula"
        )
