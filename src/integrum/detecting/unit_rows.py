"""Whether the row below a header gives the units."""

from __future__ import annotations

import re
from functools import lru_cache

from integrum.detecting.body import Body
from integrum.detecting.headers import is_name
from integrum.detecting.rows import Row
from integrum.values.units import is_unit

_SIGNS = frozenset({"-", "–", "--", "n/a", "none", "na"})
# what loggers write below the names of their clock and their counter
_NEUTRAL = frozenset({"ts", "rn", "date", "time", "text", "number", "no.", "iso"})
_SHARE = 0.6
_LONGEST = 24
# a value in brackets, such as a loss "(2.34)" or "(<5)"
_VALUE = re.compile(r"\s*[<>≤≥~±+-]?\s*[\d.,]+\s*%?\s*$")


def unit_score(row: Row, body: Body) -> float:
    """How much a row reads like the units of a body; 0 when it does not: known ones, over numbers, not found again below.

    Examples
    --------
    >>> body = Body([Row(3, ["A", "3.1", "7"]), Row(4, ["B", "3.2", "8"])], 3)
    >>> unit_score(Row(2, ["", "kg", "litres"]), body)
    2.0
    >>> people = Body([Row(3, ["y", "f", "s"]), Row(4, ["z", "m", "t"])], 3)
    >>> unit_score(Row(2, ["x", "m", "s"]), people)
    0.0
    """
    if row.reach > body.width or not body.rows:
        return 0.0
    said, units = _units_in(row)
    if not units:
        return 0.0
    if any(row.kinds[at] not in ("text", "") for at in said if at not in units):
        return 0.0
    real = [at for at in units if said[at].lower() not in _SIGNS]
    if any(said[at] in body.texts(at) for at in said if at not in units or at in real):
        return 0.0
    if all(is_name(said[at]) for at in real):
        return 0.0
    over_values = sum(body.kinds[at] not in ("text", "") for at in real)
    over_texts = sum(body.kinds[at] == "text" for at in real)
    bracketed = any(_is_bracketed(said[at]) for at in real)
    if (over_values > 0 and over_values >= over_texts) or (bracketed and not body.typed):
        return 1.0 + 0.5 * min(len(real), 3)
    return 0.0


@lru_cache(64)
def _units_in(row: Row) -> tuple[dict[int, str], list[int]]:
    """The cells of a row with text, and where units stand; none where most are something else."""
    said = {at: cell for at, cell in enumerate(row.plain) if cell}
    units = [at for at, cell in said.items() if is_unit(cell) or _is_bracketed(cell)]
    neutral = sum(cell.casefold() in _NEUTRAL for cell in said.values())
    return said, units if len(units) >= _SHARE * (len(said) - neutral) else []


def _is_bracketed(cell: str) -> bool:
    return cell[:1] + cell[-1:] in ("[]", "()") and 2 < len(cell) <= _LONGEST and not _VALUE.match(cell[1:-1])
