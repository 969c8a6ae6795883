"""The kinds of evidence that two names mean the same column: a new one is one file, and one line here."""

from __future__ import annotations

from integrum.reconciling.evidence import (
    company,
    distinct,
    kinds,
    place,
    ranges,
    short,
    spelling,
    succession,
    synonyms,
    together,
    unit,
    words,
)

# in the order in which people read them
EVIDENCE = (
    words,
    short,
    spelling,
    synonyms,
    unit,
    ranges,
    distinct,
    kinds,
    place,
    company,
    together,
    succession,
)
FIGURES = tuple(name for each in EVIDENCE for name in each.FIGURES)
