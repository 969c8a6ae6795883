"""The kinds of evidence that two names mean the same column."""

from __future__ import annotations

from integrum.reconciling.evidence.company import COMPANY
from integrum.reconciling.evidence.distinct import DISTINCT
from integrum.reconciling.evidence.kinds import KINDS
from integrum.reconciling.evidence.place import PLACE
from integrum.reconciling.evidence.ranges import RANGES
from integrum.reconciling.evidence.short import SHORT
from integrum.reconciling.evidence.spelling import SPELLING
from integrum.reconciling.evidence.succession import SUCCESSION
from integrum.reconciling.evidence.synonyms import SYNONYMS
from integrum.reconciling.evidence.together import TOGETHER
from integrum.reconciling.evidence.unit import UNIT
from integrum.reconciling.evidence.words import WORDS

# in the order in which people read them
EVIDENCE = (
    WORDS,
    SHORT,
    SPELLING,
    SYNONYMS,
    UNIT,
    RANGES,
    DISTINCT,
    KINDS,
    PLACE,
    COMPANY,
    TOGETHER,
    SUCCESSION,
)
FIGURES = tuple(name for each in EVIDENCE for name in each.figures)
