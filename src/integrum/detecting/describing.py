"""Rows between a header and its data that describe the columns: units, kinds of processing, instruments."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from integrum.detecting.body import Body
from integrum.detecting.rows import Row
from integrum.detecting.unit_rows import unit_score
from integrum.detecting.vocabulary import PROCESSING
from integrum.values.units import is_unit

Kind = Literal["units", "processing", "other", ""]
_MOST = 4
# what a row of kinds of processing speaks for it, and any other between known ones
_PROCESSING, _OTHER = 2.0, 0.3


@dataclass(frozen=True)
class Described:
    """Some rows right below a header."""

    rows: int = 0
    units: bool = False  # whether one of them gives the units
    score: float = 0.0  # how much they read so

    @property
    def describing(self) -> int:
        """How many of them do not give the units."""
        return self.rows - int(self.units)


def described_below(rows: Sequence[Row], body_below: Callable[[int], Body]) -> Iterator[Described]:
    """The ways to take the first of some rows for a description of the columns.

    Parameters
    ----------
    rows
        The rows right below a header, without a blank one between them.
    body_below
        Gives the data, if it begins below so many of them.
    """
    # an odd row alone may be a row of data in which nothing could be measured; a known one goes before it
    if not rows or not (are_processing(rows[0]) or any(is_unit(cell) for cell in rows[0].plain if cell)):
        return
    for count in range(1, min(len(rows), _MOST) + 1):
        body = body_below(count)
        kinds, scores = zip(*(_kind(row, body) for row in rows[:count]), strict=True)
        if all(kinds) and kinds[0] != "other" and kinds.count("units") < 2:
            yield Described(count, "units" in kinds, sum(scores))


def are_processing(row: Row) -> bool:
    """Whether all cells of a row are words for what a logger does with its readings.

    Examples
    --------
    >>> are_processing(Row(4, ["", "", "Avg", "Max"])), are_processing(Row(4, ["", "low", "Avg"]))
    (True, False)
    """
    return row.filled > 0 and all(cell.casefold() in PROCESSING for cell in row.plain if cell)


def _kind(row: Row, body: Body) -> tuple[Kind, float]:
    units = unit_score(row, body)
    if units:
        return "units", units
    if not body.rows or row.reach > body.width:
        return "", 0.0
    if are_processing(row) and not _is_keyed(row, body):
        words = {cell for cell in row.plain if cell}
        there = any(words & body.texts(at) for at in range(body.width))
        return ("", 0.0) if there else ("processing", _PROCESSING)
    return ("other", _OTHER) if _is_odd(row, body) else ("", 0.0)


def _is_keyed(row: Row, body: Body) -> bool:
    """Whether a row has a value where the key of the data stands."""
    return bool(body.kinds) and body.kinds[0] in ("time", "number") and row.kinds[:1] == (body.kinds[0],)


def _is_odd(row: Row, body: Body) -> bool:
    """Whether a row has different words where all values are typed, and no key."""
    if body.names_columns(row):
        return True
    is_keyless = not row.plain[0] or (0 in body.typed and row.kinds[0] == "text")
    if not is_keyless or any(row.values):
        return False
    over = [at for at in body.typed if at < len(row.cells) and row.plain[at]]
    words = {row.plain[at] for at in over}
    return len(over) > 1 and len(words) > 1 and all(row.kinds[at] == "text" for at in over)
