"""What each figure of the evidence weighs; fitted on generated tables with known truth (`make fit`)."""

from __future__ import annotations

# log odds: a constant, and one for each figure of the evidence
NAMED: dict[str, float] = {
    "constant": -3.76,
    "words shared": 1.9,
    "words only in one": -0.398,
    "words in each only": -1.76,
    "opposed words": -3.98,
    "known words in each": -0.806,
    "numbers differ": 1.094,
    "unrelated words": -0.448,
    "short for it": 2.414,
    "initials of it": 3.312,
    "letters alike": 0.403,
    "beginnings alike": 1.569,
    "synonyms": 1.878,
    "known as two things": -0.273,
    "same unit": 0.364,
    "units differ": -3.837,
    "ranges overlap": 3.582,
    "distributions alike": -3.9,
    "ranges apart": -7.465,
    "digits differ": -1.293,
    "values shared": 0.505,
    "no text shared": -6.119,
    "as many values": 0.086,
    "written alike": 5.168,
    "same neighbours": 4.006,
    "places apart": -2.379,
    "expected together": -1.011,
    "one follows the other": 0.723,
    "together everywhere": 0.303,
}
# the same where one of the two has no header, so that its name says nothing
BY_POSITION: dict[str, float] = {
    "constant": -2.356,
    "ranges overlap": 2.742,
    "distributions alike": -2.758,
    "ranges apart": -6.242,
    "digits differ": 0.471,
    "values shared": 0.524,
    "no text shared": -5.445,
    "as many values": -0.188,
    "written alike": 4.196,
    "same neighbours": 3.592,
    "places apart": -3.177,
    "expected together": -0.725,
    "one follows the other": -0.209,
    "together everywhere": 0.297,
}
# the same where one of the two is a column of a plan that no source has
WANTED: dict[str, float] = {
    "constant": -2.953,
    "words shared": 3.766,
    "words only in one": -0.372,
    "words in each only": -1.875,
    "opposed words": -1.99,
    "known words in each": -1.215,
    "numbers differ": 0.866,
    "unrelated words": -0.38,
    "short for it": 2.482,
    "initials of it": 4.056,
    "letters alike": 2.267,
    "beginnings alike": 0.716,
    "synonyms": 1.269,
    "known as two things": -1.049,
    "same unit": 0.791,
    "units differ": -4.676,
    "places apart": 0.933,
    "one follows the other": -0.122,
    "together everywhere": 0.134,
}
# of the sum of these, with how far the best rival of each of the two lies behind
RIVALS: tuple[float, ...] = (-1.524, 0.792, 0.273, 0.334)
RIVALS_BY_POSITION: tuple[float, ...] = (-0.703, 0.446, 0.317, 0.313)
RIVALS_WANTED: tuple[float, ...] = (-0.813, 0.589, 0.0, 0.55)
