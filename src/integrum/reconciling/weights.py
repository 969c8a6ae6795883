"""What each figure of the evidence weighs; fitted on generated tables with known truth (`make fit`)."""

from __future__ import annotations

# log odds: a constant, and one for each figure of the evidence
NAMED: dict[str, float] = {
    "constant": -2.879,
    "words shared": 1.29,
    "words only in one": -0.466,
    "words in each only": -2.185,
    "opposed words": -4.208,
    "known words in each": -0.78,
    "numbers differ": 0.638,
    "unrelated words": -0.468,
    "short for it": 1.898,
    "initials of it": 3.166,
    "letters alike": 0.834,
    "beginnings alike": 1.14,
    "synonyms": 1.867,
    "known as two things": -0.294,
    "same unit": 0.517,
    "units differ": -3.778,
    "ranges overlap": 4.271,
    "distributions alike": -4.807,
    "ranges apart": -8.604,
    "digits differ": -1.228,
    "values shared": 0.813,
    "no text shared": -6.169,
    "as many values": -0.237,
    "written alike": 5.433,
    "same neighbours": 3.864,
    "places apart": -2.683,
    "expected together": -0.373,
    "one follows the other": 0.527,
    "together everywhere": -0.326,
}
# the same where one of the two has no header, so that its name says nothing
BY_POSITION: dict[str, float] = {
    "constant": -2.458,
    "ranges overlap": 2.209,
    "distributions alike": -1.92,
    "ranges apart": -5.891,
    "digits differ": 0.889,
    "values shared": 1.352,
    "no text shared": -5.343,
    "as many values": 0.093,
    "written alike": 4.145,
    "same neighbours": 2.718,
    "places apart": -4.242,
    "expected together": -0.289,
    "one follows the other": -0.138,
    "together everywhere": -0.147,
}
# the same where one of the two is a column of a plan that no source has
WANTED: dict[str, float] = {
    "constant": -2.75,
    "words shared": 3.966,
    "words only in one": -0.447,
    "words in each only": -1.644,
    "opposed words": -2.265,
    "known words in each": -1.16,
    "numbers differ": 0.54,
    "unrelated words": -0.359,
    "short for it": 3.079,
    "initials of it": 4.522,
    "letters alike": 1.631,
    "beginnings alike": 0.679,
    "synonyms": 1.438,
    "known as two things": -1.149,
    "same unit": 0.901,
    "units differ": -4.604,
    "places apart": 0.572,
    "one follows the other": -0.139,
    "together everywhere": -0.066,
}
# of the sum of these, with how far the best rival of each of the two lies behind
RIVALS: tuple[float, ...] = (-1.571, 0.785, 0.266, 0.312)
RIVALS_BY_POSITION: tuple[float, ...] = (-0.716, 0.42, 0.295, 0.346)
RIVALS_WANTED: tuple[float, ...] = (-0.821, 0.579, -0.0, 0.566)
