"""One spelling for the dates and times of a column: how fine they are, and what stands between day and time."""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import lru_cache, partial

import numpy as np
import pyarrow as pa

from integrum.arrow.arrays import each_once, truths
from integrum.values.checking import Converted
from integrum.values.letters import Letters
from integrum.values.shapes import Expect, Part, Slice, rewritten
from integrum.values.types.time import CLOCKS

_DIGITS = 6
# an %f stands for so many letters more than it has itself
_LONGER = {"%f": 4}
_FORM = re.compile(rb"(9999-99-99)?([ T])?(99:99)(?::(99))?(?:\.(9+))?(Z|[+-]99:99)?")
FINER = "finer than the spelling of its column"


def spelled(done: Converted, spelling: str) -> Converted:
    """Write canonical dates and times in one spelling; one that is finer than it is bad.

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
    """Whether all are as long as the spelling says, with what it has between day and time."""
    letters = Letters.of(values)
    lengths = letters.lengths[letters.lengths > 0]
    length = len(spelling) + _LONGER.get(spelling[-2:], 0) + (2 if spelling.startswith("%Y") else 0)
    if not len(lengths) or (lengths != length).any():
        return not len(lengths)
    at = letters.starts[letters.lengths > 0]
    return not spelling.startswith("%Y") or bool((letters.data[at + 10] == ord(spelling[8])).all())


def spelling_of(between: str, digits: int) -> str:
    """The spelling with so many digits for seconds and their parts: 0, 2, or more.

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
