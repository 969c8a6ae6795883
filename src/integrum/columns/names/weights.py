"""The kinds of evidence, and what each weighs."""

from __future__ import annotations

from integrum.columns.names.evidence_of_places import COMPANY, PLACE, SUCCESSION, TOGETHER
from integrum.columns.names.evidence_of_values import DISTINCT, KINDS, RANGES, UNIT
from integrum.columns.names.evidence_of_words import SHORT, SPELLING, SYNONYMS, WORDS

# log odds: a constant, and one for each figure of the evidence
NAMED: dict[str, float] = {
    "constant": -4.705,
    "words shared": 3.129,
    "words only in one": 0.193,
    "words in each only": -2.751,
    "known words in each": -0.415,
    "numbers differ": 1.01,
    "unrelated words": 0.932,
    "telling word in one": -1.552,
    "short for it": 3.356,
    "initials of it": 3.496,
    "letters alike": 0.109,
    "beginnings alike": 1.783,
    "synonyms": 1.488,
    "known as two things": 1.627,
    "understood as two things": -0.514,
    "same unit": -0.269,
    "units differ": -2.008,
    "ranges overlap": 3.221,
    "distributions alike": -1.195,
    "ranges apart": -5.41,
    "digits differ": 0.14,
    "values shared": 0.698,
    "no text shared": -2.893,
    "as many values": -0.423,
    "written alike": 5.144,
    "numbers written alike": 3.395,
    "same neighbours": 3.57,
    "places apart": -2.037,
    "same company": 0.496,
    "expected together": -1.978,
    "one follows the other": 0.607,
    "together everywhere": 0.689,
}
# the same where the two names have nothing in common
UNRELATED: dict[str, float] = {
    "constant": -5.989,
    "words only in one": 0.202,
    "words in each only": -0.101,
    "known words in each": -0.387,
    "numbers differ": 0.939,
    "unrelated words": -0.728,
    "letters alike": 2.515,
    "beginnings alike": 0.905,
    "known as two things": -0.054,
    "understood as two things": -0.671,
    "same unit": 0.839,
    "units differ": -3.057,
    "ranges overlap": 3.924,
    "distributions alike": -0.167,
    "ranges apart": -5.939,
    "digits differ": -2.328,
    "values shared": -0.098,
    "no text shared": -6.332,
    "as many values": 0.208,
    "written alike": 7.508,
    "numbers written alike": 2.455,
    "same neighbours": 3.243,
    "places apart": -2.591,
    "same company": 1.022,
    "expected together": -1.382,
    "one follows the other": 0.741,
    "together everywhere": -0.002,
}
# the same where one of the two has no header, so that its name says nothing
BY_POSITION: dict[str, float] = {
    "constant": -4.189,
    "ranges overlap": 2.623,
    "distributions alike": 0.793,
    "ranges apart": -4.547,
    "digits differ": -0.383,
    "values shared": 0.019,
    "no text shared": -5.74,
    "as many values": -0.018,
    "written alike": 6.765,
    "numbers written alike": 2.672,
    "same neighbours": 4.036,
    "places apart": -3.683,
    "same company": 0.415,
    "expected together": -1.434,
    "one follows the other": 0.304,
    "together everywhere": 0.876,
}
# the same where one of the two is a column of a plan that no source has
WANTED: dict[str, float] = {
    "constant": -3.16,
    "words shared": 3.994,
    "words only in one": -0.309,
    "words in each only": -1.931,
    "known words in each": -0.671,
    "numbers differ": 0.714,
    "unrelated words": -0.493,
    "telling word in one": -1.216,
    "short for it": 3.283,
    "initials of it": 4.204,
    "letters alike": 1.85,
    "beginnings alike": 1.09,
    "synonyms": 0.907,
    "known as two things": -0.029,
    "understood as two things": -0.681,
    "same unit": 0.794,
    "units differ": -4.278,
    "places apart": 0.626,
}
# of the sum of these, with how far the best rival of each of the two lies behind
RIVALS: tuple[float, ...] = (-1.585, 1.14, 0.744, 0.641)
RIVALS_UNRELATED: tuple[float, ...] = (-1.013, 1.127, 0.605, 0.646)
RIVALS_BY_POSITION: tuple[float, ...] = (-1.724, 0.95, 0.797, 0.817)
RIVALS_WANTED: tuple[float, ...] = (-0.445, 0.718, 0.0, 0.671)
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
