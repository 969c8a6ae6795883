"""The unit that a header has behind an underscore or a space, as in level_cm."""

from __future__ import annotations

import re
from functools import lru_cache

from integrum.values.unit_conversion import conversion_to
from integrum.values.units import is_unit, same_unit

# words of names that are units only by chance
_WORDS = frozenset(
    {"in", "a", "d", "h", "s", "g", "l", "t", "min", "count", "units", "local", "utc", "hour", "day", "n"}
)


@lru_cache(maxsize=4096)
def unit_behind(header: str, wanted: str) -> str:
    """The unit at the end of a header, when it is of the same quantity as the unit that is wanted.

    `wanted`: the unit of its column; empty when there is none.

    Examples
    --------
    >>> unit_behind("level_cm", "m"), unit_behind("nitrate_ug_l", "mg/L"), unit_behind("level_max", "m")
    ('cm', 'ug/l', '')
    """
    if not wanted:
        return ""
    parts = re.split(r"[_\s]+", header.strip())
    ends = ["/".join(parts[-2:])] if len(parts) > 2 else []
    ends += [parts[-1]] if len(parts) > 1 and parts[-1].lower() not in _WORDS else []
    for end in ends:
        if same_unit(end, wanted):
            return end
        if is_unit(end) and conversion_to(wanted, end) is not None:
            return end
    return ""
