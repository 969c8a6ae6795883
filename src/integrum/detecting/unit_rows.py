"""Whether the row below a header gives the units."""

from __future__ import annotations

from integrum.detecting.body import Body
from integrum.detecting.headers import is_name
from integrum.detecting.rows import Row
from integrum.values.units import is_unit

_SIGNS = frozenset({"-", "–", "--", "n/a", "none", "na"})
_SHARE = 0.6
_LONGEST = 24


def is_unit_row(row: Row, body: Body) -> bool:
    """Whether a row gives the units of a body: known ones, over numbers and times, that do not come again below.

    Examples
    --------
    >>> body = Body([Row(3, ["A", "3.1", "7"]), Row(4, ["B", "3.2", "8"])], 3)
    >>> is_unit_row(Row(2, ["", "kg", "litres"]), body)
    True
    >>> people = Body([Row(3, ["y", "f", "s"]), Row(4, ["z", "m", "t"])], 3)
    >>> is_unit_row(Row(2, ["x", "m", "s"]), people)
    False
    """
    if row.reach > body.width or not body.rows:
        return False
    said = {at: cell.strip() for at, cell in enumerate(row.cells) if cell.strip()}
    units = [at for at, cell in said.items() if is_unit(cell) or _is_bracketed(cell)]
    if not units or len(units) < _SHARE * len(said):
        return False
    if any(row.kinds[at] not in ("text", "") for at in said if at not in units):
        return False
    real = [at for at in units if said[at].lower() not in _SIGNS]
    if any(said[at] in body.texts(at) for at in said if at not in units or at in real):
        return False
    if all(is_name(said[at]) for at in real):
        return False
    over_values = sum(body.kinds[at] not in ("text", "") for at in real)
    over_texts = sum(body.kinds[at] == "text" for at in real)
    bracketed = any(_is_bracketed(said[at]) for at in real)
    return (over_values > 0 and over_values >= over_texts) or (bracketed and not body.typed)


def _is_bracketed(cell: str) -> bool:
    return cell[:1] + cell[-1:] in ("[]", "()") and 2 < len(cell) <= _LONGEST and not cell[1:-1].isdecimal()
