"""Totals and means as a careful person writes them below a table, for the files that tests make up."""

from __future__ import annotations

import math
from collections.abc import Sequence


def number(cell: object, mark: str = ".") -> float | None:
    """The number that a cell holds; None where it holds none."""
    try:
        value = float(str(cell).replace(mark, ".").replace(" ", ""))
    except ValueError:
        return None
    return value if math.isfinite(value) else None


def totals(rows: Sequence[Sequence[object]], mark: str = ".", word: str = "Total") -> list[str]:
    """A row with a word and the sums, or the means, of all columns of numbers but the first."""
    cells = [word]
    for column in list(zip(*rows, strict=True))[1:]:
        found = [number(cell, mark) for cell in column if str(cell).strip()]
        known = [value for value in found if value is not None]
        if not known or len(known) < len(found):
            cells.append("")
            continue
        made = sum(known) / (len(known) if word == "Mean" else 1)
        cells.append(f"{made:.4f}".replace(".", mark))
    return cells
