"""In which order day and month stand, by the steps between times: in the right one midnight is a step like others."""

from __future__ import annotations

from functools import partial

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.values.checking import checked_written
from integrum.values.manner import Manner
from integrum.values.types import TYPES

# so many rows are looked at, so many there are at least, and so large a share of the steps is the usual one
_MOST, _FEWEST, _USUAL = 2_000, 12, 0.9
_SECOND, _DAY = 1_000_000, 86_400 * 1_000_000


def steady_order(values: pa.Array) -> str:
    """The order of day and month of times that a device has written, one after the other.

    Returns ``"dmy"`` or ``"mdy"`` where the time goes on over midnight as it does within a day in that order, and jumps by
    weeks in the other one; else an empty text.

    `values`: the times of one source in their order; null where a cell is empty.

    Examples
    --------
    >>> times = [f"0{day}/05/2024 {hour:02}:00" for day in (4, 5) for hour in range(24)]
    >>> steady_order(pa.array(times)), steady_order(pa.array([f"05/0{day}/2024 12:00" for day in range(1, 9)] * 2))
    ('dmy', '')
    """
    some = values.drop_null().slice(0, _MOST)
    if len(some) < _FEWEST:
        return ""
    steady = [order for order in ("dmy", "mdy") if _is_steady(some, order)]
    return steady[0] if len(steady) == 1 else ""


def _is_steady(values: pa.Array, order: str) -> bool:
    kind = TYPES["datetime"]
    assert kind.rule
    done = checked_written(values, kind, partial(kind.rule, manner=Manner(date_order=order, zoned=True)))
    if done.text.null_count:
        return False
    moments = np.asarray(pc.cast(kind.cast(pc.utf8_slice_codeunits(done.text, 0, 19)), pa.int64()))
    steps = np.diff(moments)
    usual = float(np.median(steps))
    days = moments // _DAY
    crossings = np.flatnonzero(np.diff(days))
    if not 0 < usual < _DAY or not len(crossings):
        return False
    near = np.abs(steps - usual) <= max(usual / 2, _SECOND)
    return bool(near.mean() >= _USUAL and near[crossings].all())
