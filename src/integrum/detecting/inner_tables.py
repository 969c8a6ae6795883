"""Tables among the rows that are left out: a header over rows of its width."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence

from integrum.detecting.body import mask_of
from integrum.detecting.headers import has_name, is_name
from integrum.detecting.rows import Row

_LEAST, _PAIRS, _LONGEST = 2, 2, 60


def tables_in(rows: Sequence[Row]) -> Iterator[tuple[Row, Row]]:
    """The header and the last row of each table among some rows; empty ones end a table.

    Examples
    --------
    >>> cells = (["Survey of May", ""], ["lake", "ph"], ["Amber", "7.1"], ["Vessel", "7.2"], ["", ""])
    >>> [(first.number, last.number) for first, last in tables_in([Row(at, one) for at, one in enumerate(cells, 1)])]
    [(2, 4)]
    >>> pairs = (["Site", "Amber"], ["Depth", "2.5"], ["Serial", "1234"])
    >>> list(tables_in([Row(at, one) for at, one in enumerate(pairs, 1)]))
    []
    """
    at = 0
    while at < len(rows) - _LEAST:
        below = _below(rows, at)
        if len(below) >= _LEAST and _is_header(rows[at], below):
            yield rows[at], below[-1]
            at += len(below)
        at += 1


def _written(value: str) -> str:
    """How a value is written: its digits behind the mark, or its mask."""
    whole, mark, rest = value.replace(",", ".").rpartition(".")
    return f"{len(rest)}" if mark and rest.isdecimal() and whole.strip("+-").isdecimal() else mask_of(value)


def are_names(cells: Sequence[str]) -> bool:
    """Whether most of some cells are words that columns are often named by.

    Examples
    --------
    >>> are_names(["lake", "region", "keeper"]), are_names(["Amber", "north", "Ada"])
    (True, False)
    """
    return 2 * sum(map(has_name, cells)) > len(cells)


def _below(rows: Sequence[Row], at: int) -> list[Row]:
    """The rows right below one that reach as far."""
    found: list[Row] = []
    for row in rows[at + 1 :]:
        if row.filled < 2 or row.reach > rows[at].reach or row.number != rows[at].number + len(found) + 1:
            break
        found.append(row)
    return found


def _is_header(row: Row, below: Sequence[Row]) -> bool:
    """Whether the cells of a row name the columns below it, of which one at least has numbers or times alone."""
    names = [cell.strip() for cell in row.cells[: row.reach]]
    if row.filled < 2 or any(row.values) or len(set(names)) < len(names):
        return False
    if any(len(name) > _LONGEST or name.endswith((":", "=")) for name in names):
        return False
    kinds = [
        {one.kinds[at] if at < len(one.kinds) else "" for one in below} - {""} for at in range(row.reach)
    ]
    typed = [at for at, some in enumerate(kinds) if some in ({"number"}, {"time"})]
    if not typed:
        return are_names(names)
    if row.reach > _PAIRS:
        full = Counter(one.filled for one in below)
        return max(full) > _PAIRS
    if 0 in typed or all(map(has_name, names)):
        return True
    # a key and its value, line by line, are no table; in a table all values are written alike
    keys = [one.cells[0] for one in below]
    values = [one.cells[1].strip() for one in below if len(one.cells) > 1]
    return 2 * sum(map(is_name, keys)) < len(keys) and len({_written(value) for value in values}) == 1
