"""Boolean: true or false."""

from __future__ import annotations

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.arrow.arrays import Mask, texts, truths
from integrum.values.truth_words import WORDS
from integrum.values.types.type import Tested, Type

_CANONICAL = texts(["true", "false", None])


def _parse(text: str) -> str | None:
    return WORDS.get(text.casefold())


def _test(values: pa.Array) -> Tested:
    return bool(pc.all(pc.is_in(values, _CANONICAL)).as_py() is not False), None


def _odd(values: pa.Array) -> Mask:
    return np.logical_not(truths(pc.is_in(values, _CANONICAL)))


BOOLEAN = Type(
    "boolean",
    pa.bool_(),
    "true or false",
    ("false", "true"),
    _parse,
    _test,
    _odd,
    tried=6,
    begins=b"tTfF",
    any_case=True,
    is_counted=True,
    has_order=False,
    datatype={"base": "boolean", "format": "true|false"},
)
