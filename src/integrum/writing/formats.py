"""Which output a file name asks for."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import pyarrow as pa

from integrum.errors import OutputError
from integrum.plan.checks import nearest
from integrum.writing.csv import CsvOutput, load_csv
from integrum.writing.output import Output

CSV = ".csv"
SUFFIXES = (CSV, ".parquet", ".xlsx")


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
    if path.suffix.lower() not in SUFFIXES:
        near = nearest(path.suffix.lower(), SUFFIXES)
        *first, last = SUFFIXES
        raise OutputError(f"{path}: an output is {', '.join(first)} or {last}{near}")
    if guarded and path.suffix.lower() != CSV:
        raise OutputError(
            f"{path}: guard_formulas is for CSV; in {path.suffix} a text is a text and never a formula"
        )


@contextmanager
def file_output(wanted: Path, place: Path, guarded: bool = False) -> Iterator[Output]:
    """Open the output that the name of `wanted` asks for, writing to `place`."""
    # what a format needs is imported when it is asked for, as that takes some time
    if wanted.suffix.lower() == ".xlsx":
        from integrum.writing.workbook import WorkbookOutput

        book = WorkbookOutput(place)
        try:
            yield book
        except BaseException:
            book.discard()
            raise
        book.close()
    elif wanted.suffix.lower() == ".parquet":
        from integrum.writing.parquet import ParquetOutput

        yield ParquetOutput(place)
    else:
        with open(place, "wb") as stream:
            yield CsvOutput(stream, guarded)


def loader(path: Path, schema: pa.Schema, guarded: bool = False) -> Callable[[], pa.Table]:
    """What reads the table back from a finished output."""
    if path.suffix.lower() == ".xlsx":
        from integrum.writing.workbook import load_workbook

        return lambda: load_workbook(path, schema)
    if path.suffix.lower() == ".parquet":
        from integrum.writing.parquet import load_parquet

        return lambda: load_parquet(path)
    return lambda: load_csv(path, schema, guarded)
