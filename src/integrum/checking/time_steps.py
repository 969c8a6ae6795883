"""Times in order: how far apart two of them are, in a fixed length or by the calendar."""

from __future__ import annotations

import numpy as np
from numpy import datetime64

from integrum.arrow.arrays import Floats, Ints
from integrum.plan.spans import Span


def steps_of(times: Floats, span: Span) -> Ints:
    """From each time to the next, in microseconds or in whole months.

    `times`: microseconds since 1970, none of them NaN.

    Examples
    --------
    >>> steps_of(np.array([0.0, 6e7]), Span(60_000_000, 0)).tolist()
    [60000000]
    """
    whole = times.astype(np.int64)
    return np.diff(
        whole if span.micros else whole.astype("datetime64[us]").astype("datetime64[M]").astype(np.int64)
    )


def shown(time: float) -> str:
    """A time for a message.

    Examples
    --------
    >>> shown(0.0), shown(6e7)
    ('1970-01-01', '1970-01-01 00:01')
    """
    text = str(datetime64(int(time), "us"))
    day, _, clock = text.partition("T")
    clock = clock.rstrip("0").rstrip(".") if "." in clock else clock
    if clock in ("", "00:00:00"):
        return day
    return f"{day} {clock.removesuffix(':00') if clock.count(':') == 2 else clock}"


def length_of(micros: int) -> str:
    """A length of time in its largest fitting unit.

    Examples
    --------
    >>> length_of(90 * 60_000_000), length_of(2 * 86_400_000_000), length_of(5)
    ('90 min', '2 d', '5e-06 s')
    """
    for unit, size in (("d", 86_400_000_000), ("h", 3_600_000_000), ("min", 60_000_000)):
        if micros % size == 0:
            return f"{micros // size:,} {unit}"
    return f"{micros / 1_000_000:,g} s"
