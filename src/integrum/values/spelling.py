"""One spelling for the dates and times of a column, and the order of day and month that their steps show."""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import lru_cache, partial

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.values.arrays import each_once, truths
from integrum.values.checking import Converted, checked_written
from integrum.values.digits import Letters
from integrum.values.notation import Notation
from integrum.values.shapes import Expect, Part, Slice, rewritten
from integrum.values.types import TYPES
from integrum.values.types.time import CLOCKS

_DIGITS = 6
# an %f stands for this many letters more than it has itself
_LONGER = {"%f": 4}
_FORM = re.compile(rb"(9999-99-99)?([ T])?(99:99)(?::(99))?(?:\.(9+))?(Z|[+-]99:99)?")
FINER = "finer than the spelling of its column"
# this many rows are looked at, this many there are at least, and this share of the steps is the usual one
_MOST, _FEWEST, _USUAL = 2_000, 12, 0.9
_SECOND, _DAY = 1_000_000, 86_400 * 1_000_000


def spelled(done: Converted, spelling: str) -> Converted:
    """Write canonical dates and times in one spelling. One that is finer than the spelling is bad.

    `spelling`: one of the `spellings` of a type.

    Examples
    --------
    >>> import pyarrow as pa
    >>> done = Converted(pa.array(["2024-05-01T12:30", "2024-05-01 12:30:05", "2024-05-01 12:30Z"]))
    >>> spelled(done, "%Y-%m-%d %H:%M:%S").text.to_pylist()
    ['2024-05-01 12:30:00', '2024-05-01 12:30:05', '2024-05-01 12:30:00Z']
    >>> spelled(done, "%Y-%m-%d %H:%M").bad.tolist()
    [1]
    """
    if _are_spelled(done.text, spelling):
        return done
    made, fits = rewritten(done.text, partial(_parts, spelling=spelling))
    finer = np.flatnonzero(~fits & truths(done.text.is_valid()))
    said = {**done.said, **dict.fromkeys(finer.tolist(), FINER)}
    return Converted(made, each_once(np.concatenate([done.bad, finer])).astype(np.int64), None, said)


def _are_spelled(values: pa.Array, spelling: str) -> bool:
    """Whether all texts have this spelling already."""
    letters = Letters.of(values)
    lengths = letters.lengths[letters.lengths > 0]
    length = len(spelling) + _LONGER.get(spelling[-2:], 0) + (2 if spelling.startswith("%Y") else 0)
    if not len(lengths) or (lengths != length).any():
        return not len(lengths)
    at = letters.starts[letters.lengths > 0]
    return not spelling.startswith("%Y") or bool((letters.data[at + 10] == ord(spelling[8])).all())


def spelling_of(between: str, digits: int) -> str:
    """The spelling for a number of digits of seconds and fractions: 0, 2 or more.

    Examples
    --------
    >>> spelling_of(" ", 0), spelling_of("", 2)
    ('%Y-%m-%d %H:%M', '%H:%M:%S')
    """
    clock = CLOCKS[0 if digits == 0 else 1 if digits == 2 else 2]
    return f"%Y-%m-%d{between}{clock}" if between else clock


@lru_cache(maxsize=1024)
def _parts(shape: bytes, spelling: str) -> Sequence[Part] | None:
    found = _FORM.fullmatch(shape)
    if found is None:
        return None
    parts: list[Part] = []
    if found[1]:
        parts += [Slice(*found.span(1)), spelling[8].encode()]
    parts.append(Slice(*found.span(3)))
    if "%S" in spelling:
        parts += [b":", Slice(*found.span(4)) if found[4] else b"00"]
    elif found[4]:
        parts.append(Expect(*found.span(4), b"00"))
    start, stop = found.span(5)
    if "%f" in spelling:
        parts += [b".", Slice(start, stop) if found[5] else b"", b"0" * (_DIGITS - max(stop - start, 0))]
    elif found[5]:
        parts.append(Expect(start, stop, b"0" * (stop - start)))
    return [*parts, Slice(*found.span(6))] if found[6] else parts


def steady_order(values: pa.Array) -> str:
    """The order of day and month in which consecutive times of a device have even steps.

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
    done = checked_written(values, kind, partial(kind.rule, notation=Notation(date_order=order, zoned=True)))
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
