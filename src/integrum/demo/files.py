"""Write a file of the demo data."""

from __future__ import annotations

import csv
from collections.abc import Iterable, Sequence
from pathlib import Path

Rows = Iterable[Sequence[object]]


def write_rows(
    path: Path, header: Sequence[str], rows: Rows, encoding: str = "utf-8", delimiter: str = ","
) -> None:
    """Write a CSV file."""
    path.parent.mkdir(parents=True, exist_ok=True)
    with open(path, "w", encoding=encoding, newline="") as file:
        writer = csv.writer(file, lineterminator="\n", delimiter=delimiter)
        writer.writerow(header)
        writer.writerows(rows)
