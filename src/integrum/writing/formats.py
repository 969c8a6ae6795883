"""Which output a file name asks for."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import pyarrow as pa

from integrum.assembling.output import Output
from integrum.checks import nearest
from integrum.errors import OutputError
from integrum.writing.csv import CsvOutput, load_csv
from integrum.writing.parquet import ParquetOutput, load_parquet

SUFFIXES = (".csv", ".parquet")


def check_suffix(path: Path) -> None:
    """Refuse a file name whose suffix is no output format.

    Raises
    ------
    OutputError
        Naming the formats.

    Examples
    --------
    >>> check_suffix(Path("lakes.parket"))
    Traceback (most recent call last):
    ...
    integrum.errors.OutputError: lakes.parket: an output is .csv or .parquet; did you mean ".parquet"?
    """
    if path.suffix.lower() not in SUFFIXES:
        near = nearest(path.suffix.lower(), SUFFIXES)
        raise OutputError(f"{path}: an output is {' or '.join(SUFFIXES)}{near}")


@contextmanager
def file_output(wanted: Path, place: Path) -> Iterator[Output]:
    """Open the output that the name of `wanted` asks for, writing to `place`."""
    if wanted.suffix.lower() == ".parquet":
        yield ParquetOutput(place)
    else:
        with open(place, "wb") as stream:
            yield CsvOutput(stream)


def loader(path: Path, schema: pa.Schema) -> Callable[[], pa.Table]:
    """What reads the table back from a finished output."""
    if path.suffix.lower() == ".parquet":
        return lambda: load_parquet(path)
    return lambda: load_csv(path, schema)
