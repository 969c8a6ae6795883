"""That two names never stand in one source; and how odd that would be if they had nothing to do with each other."""

from __future__ import annotations

from math import log1p

from integrum.reconciling.evidence.evidence import Evidence, Finding, Setting
from integrum.reconciling.known import Known

_MOST = 3.0


def weigh_together(one: Known, other: Known, setting: Setting) -> Finding:
    """How many sources would have both by chance.

    Examples
    --------
    >>> round(weigh_together(Known(("a",), 0b0111), Known(("b",), 0b1000), Setting(4)).figures[0], 2)
    0.19
    """
    if not one.sources or not other.sources:
        return Finding((0.0,))
    expected = one.count * other.count / max(setting.sources, 1)
    return Finding((min(_MOST, log1p(expected)) / _MOST,), "never together")


TOGETHER = Evidence(("expected together",), weigh_together)
