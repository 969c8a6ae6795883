"""Boolean: true or false."""

from __future__ import annotations

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from integrum.values.arrays import Mask, texts, truths
from integrum.values.types.type import Tested, Type

# a word for true and its opposite; letters alone only where they are not points of the compass
PAIRS = (
    ("true", "false"), ("yes", "no"), ("y", "n"), ("t", "f"), ("on", "off"),
    ("wahr", "falsch"), ("ja", "nein"), ("j", "n"), ("an", "aus"),
    ("vrai", "faux"), ("oui", "non"), ("verdadero", "falso"), ("sí", "no"), ("si", "no"),
    ("verdadeiro", "falso"), ("sim", "não"), ("sim", "nao"), ("vero", "falso"), ("sì", "no"),
    ("waar", "onwaar"), ("ja", "nee"), ("prawda", "fałsz"), ("tak", "nie"),
)  # fmt: skip
TRUE = frozenset(true for true, _ in PAIRS)
FALSE = frozenset(false for _, false in PAIRS)
WORDS = {"1": "true", "0": "false"} | dict.fromkeys(TRUE, "true") | dict.fromkeys(FALSE, "false")
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
