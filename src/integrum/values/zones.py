"""Times with a zone or an offset behind them, and those that are numbers."""

from __future__ import annotations

from functools import lru_cache, partial

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.values.arrays import Ints, Mask, each_once, flags, floats, ints, text, texts, truths, wholes
from integrum.values.checking import Converted, checked, checked_written
from integrum.values.notation import Notation
from integrum.values.shapes import rewritten
from integrum.values.types.datetime import DATETIME
from integrum.values.types.number import NUMBER
from integrum.values.written.times import moment_parts, offset_parts

_MICRO = pa.timestamp("us")
_MINUTE = 60_000_000
# the first and the last moment of the years 1 to 9999, which are all that readers of tables know
_FIRST, _LAST = -62_135_596_800_000_000, 253_402_300_799_999_999
_SECOND = 1_000_000
_DAY = 86_400 * _SECOND
# by name: microseconds in a unit, and the instant 0 in microseconds since 1970
_COUNTED = {
    # day 60 of spreadsheets is a 29 February 1900 that there never was; what lies before 1 March 1900 is not read
    "serial-days": (_DAY, -25_569 * _DAY),
    "serial-days-1904": (_DAY, -24_107 * _DAY),
    "epoch-seconds": (_SECOND, 0),
    "epoch-milliseconds": (1_000, 0),
}
_FIRST_SERIAL = 61
# the years 1 to 9999, in microseconds since 1970
_LEAST, _MOST = -62_135_596_800 * _SECOND, 253_402_300_799 * _SECOND


@lru_cache(maxsize=64)
def is_zone(name: str) -> bool:
    """Whether a name is that of a zone.

    Examples
    --------
    >>> is_zone("UTC"), is_zone("Europe/Berlin"), is_zone("Lakeland")
    (True, True, False)
    """
    try:
        pc.local_timestamp(pc.cast(texts(["2024-05-01 00:00Z"]), pa.timestamp("us", name)))
    except (pa.ArrowException, ValueError):
        return False
    return True


def offsets_of(values: pa.Array, notation: Notation) -> pa.Array:
    """The offsets from UTC that stand behind times, such as ``+02:00``; null where there is none.

    Examples
    --------
    >>> offsets_of(pa.array(["2024-05-01T12:30+0200", "2024-05-01 12:30Z", "2024-05-01"]), Notation(zoned=True)).to_pylist()
    ['+02:00', '+00:00', None]
    """
    return rewritten(values, partial(offset_parts, notation=notation))[0]


def in_zone(values: pa.Array, zone: str, notation: Notation) -> Converted:
    """Bring times into a zone.

    Those with an offset are converted; those without one are local times of the zone. A local time that there is twice,
    or not at all, because the clocks change, is bad. So is one outside the years 1 to 9999 there or in UTC, and one of the
    time when the zone had an offset of minutes and seconds, which no text has.

    Texts with the offset behind them, ``Z`` for UTC.

    `zone`: the name of a zone, such as ``"UTC"`` or ``"Europe/Berlin"``.

    Examples
    --------
    >>> read = lambda zone, *texts: in_zone(pa.array(texts), zone, Notation(zoned=True))
    >>> read("UTC", "2024-05-01T12:30+02:00", "2024-05-01 12:30").text.to_pylist()
    ['2024-05-01 10:30Z', '2024-05-01 12:30Z']
    >>> done = read("Europe/Berlin", "2024-05-01 10:30Z", "2024-10-27 02:30")
    >>> done.text.to_pylist(), done.bad.tolist()
    (['2024-05-01 12:30+02:00', None], [1])
    """
    local = _local(values, notation)
    moments = pc.cast(local.text, _MICRO)
    offsets = offsets_of(values, notation)
    given = truths(offsets.is_valid()) & truths(moments.is_valid())
    shift, wrong = _minutes(offsets)
    at = _micros(moments) - shift * _MINUTE
    bad = wrong & given
    if zone != "UTC" and not given.all():
        early, late = (
            _micros(pc.assume_timezone(moments, zone, ambiguous=each, nonexistent=each))
            for each in ("earliest", "latest")
        )
        bare = truths(moments.is_valid()) & ~given
        at = np.where(bare, early, at)
        bad |= bare & (early != late)
    instants = pa.Array.from_buffers(_MICRO, len(at), [None, pa.py_buffer(at)])
    walls = pc.local_timestamp(pc.cast(instants, pa.timestamp("us", zone)))
    shown = wholes(pc.cast(walls, pa.int64()))
    outside = (at < _FIRST) | (at > _LAST) | (shown < _FIRST) | (shown > _LAST)
    bad |= truths(moments.is_valid()) & (outside | ((shown - at) % _MINUTE != 0))
    valid = truths(moments.is_valid()) & ~bad
    walls = pc.if_else(flags(valid), walls, pa.scalar(None, walls.type))
    at = np.where(valid, at, 0)
    made = pc.if_else(flags(valid), _texts(walls, local.text, at, zone), texts([None])[0])
    return Converted(made, each_once(np.concatenate([local.bad, np.flatnonzero(bad)])))


def _local(values: pa.Array, notation: Notation) -> Converted:
    rule = partial(moment_parts, notation=notation)
    return (
        checked_written(values, DATETIME, rule)
        if notation.format or notation.date_order
        else checked(values, DATETIME, rule=rule)
    )


def _minutes(offsets: pa.Array) -> tuple[Ints, Mask]:
    """Offsets in minutes, and a mask of those that no place has."""
    distinct = offsets.dictionary_encode()
    found = [0]
    for each in distinct.dictionary.to_pylist():
        size = int(each[1:3]) * 60 + int(each[4:6])
        found.append(-size if each[0] == "-" else size)
    codes = wholes(distinct.indices)
    minutes = np.array(found, np.int64)[codes + 1]
    return minutes, np.abs(minutes) > 15 * 60


def _micros(moments: pa.Array) -> Ints:
    return wholes(pc.cast(moments, pa.int64()).fill_null(0))


def _texts(walls: pa.Array, local: pa.Array, at: Ints, zone: str) -> pa.Array:
    """Local times as texts, as fine as they were written, with the offset behind them."""
    whole = pc.cast(walls, pa.string())
    lengths = wholes(pc.binary_length(local).fill_null(0))
    made = whole
    for length in each_once(lengths[lengths > 0]).tolist():
        fine = np.flatnonzero(lengths == length)
        cut = pc.utf8_slice_codeunits(whole.take(ints(fine)), 0, length)
        mask = np.zeros(len(lengths), bool)
        mask[fine] = True
        made = pc.replace_with_mask(made, flags(mask), cut)
    if zone == "UTC":
        behind: pa.Array | pa.Scalar = text("Z")
    else:
        minutes = (_micros(walls) - at) // _MINUTE
        distinct, codes = np.unique(minutes, return_inverse=True)
        said = [
            f"{'-' if each < 0 else '+'}{abs(each) // 60:02}:{abs(each) % 60:02}"
            for each in distinct.tolist()
        ]
        behind = texts(said).take(ints(codes.reshape(-1)))
    return pc.binary_join_element_wise(made, behind, text(""))


def numbered(values: pa.Array, form: str, has_clock: bool) -> Converted:
    """Read numbers as dates or times.

    Parameters
    ----------
    form
        What they count, such as ``"serial-days"``.
    has_clock
        Whether there is a time beside the day; a date has no part of a day.

    Examples
    --------
    >>> numbered(pa.array(["45413", "45413.5", "x"]), "serial-days", True).text.to_pylist()
    ['2024-05-01 00:00:00', '2024-05-01 12:00:00', None]
    >>> numbered(pa.array(["1714566600"]), "epoch-seconds", True).text.to_pylist()
    ['2024-05-01 12:30:00']
    """
    unit, first = _COUNTED[form]
    done = checked(values, NUMBER)
    numbers = floats(done.typed(NUMBER))
    with np.errstate(invalid="ignore", over="ignore"):
        # to a thousandth of a second, as a day in a number is hardly finer
        at = np.rint(numbers * unit / 1_000) * 1_000 + first
        good = np.isfinite(at) & (at >= _LEAST) & (at <= _MOST)
        if form == "serial-days":
            good &= numbers >= _FIRST_SERIAL
    micros = np.where(good, at, 0).astype(np.int64)
    if not has_clock:
        good &= micros % _DAY == 0
    whole = pc.cast(
        pa.Array.from_buffers(pa.timestamp("us"), len(micros), [None, pa.py_buffer(micros)]), pa.string()
    )
    length = 10 if not has_clock else 19 if not (micros % _SECOND).any() else 23
    made = pc.if_else(flags(good), pc.utf8_slice_codeunits(whole, 0, length), texts([None])[0])
    stray = truths(done.text.is_valid()) & ~good
    return Converted(made, each_once(np.concatenate([done.bad, np.flatnonzero(stray)])).astype(np.int64))
