"""The words of two names: what they share, by text, meaning or abbreviation, and what only one of them has."""

from __future__ import annotations

from functools import lru_cache
from math import log

from rapidfuzz.distance import Indel

from integrum.reconciling.evidence.evidence import Evidence, Finding, Setting
from integrum.reconciling.glossary import FILLERS, Meanings
from integrum.reconciling.known import Known

_WORDS = (
    "words shared",
    "words only in one",
    "words in each only",
    "opposed words",
    "known words in each",
    "numbers differ",
    "unrelated words",
    "telling word in one",
)
_OPPOSED, _NUMBERS = _WORDS.index("opposed words"), _WORDS.index("numbers differ")
_TYPO, _LONG, _SHORT = 0.8, 5, 3


def weigh_words(one: Known, other: Known, setting: Setting) -> Finding:
    """Compare the words of two names.

    Examples
    --------
    >>> finding = weigh_words(Known(("water_temp",), 1), Known(("T water",), 2), Setting(2))
    >>> finding.figures[0], finding.said
    (1.0, 'the same words')
    >>> weigh_words(Known(("min temp",), 1), Known(("max temp",), 2), Setting(2)).figures[3]
    1.0
    """
    if one.is_mute or other.is_mute:
        return Finding((0.0,) * len(_WORDS))
    return max(
        (_of(a, b, setting) for a in one.all_words for b in other.all_words), key=lambda one: one.figures[0]
    )


def contradicts(one: Known, other: Known, setting: Setting, said: Finding | None = None) -> bool:
    """Whether two names say that they are different: by opposed words, or by different numbers.

    Parameters
    ----------
    one, other, setting
        As for `weigh`.
    said
        What `weigh` has found for them, when it is known.

    Examples
    --------
    >>> [contradicts(Known((a,), 1), Known((b,), 2), Setting(2)) for a, b in (
    ...     ("temp_min", "temp_max"), ("temp_1", "temp 01"), ("temp_1", "temp_2"), ("T_air", "T_water"), ("T", "T_water"))]
    [True, False, True, True, False]
    """
    if one.is_mute or other.is_mute:
        return False
    if not all(any(map(str.isalpha, "".join(each.words))) for each in (one, other)):
        return True  # years and depths are values, and no names
    if said and (not _speaks_against(said.figures) or len(one.all_words) == len(other.all_words) == 1):
        return _speaks_against(said.figures)
    return all(_speaks_against(_of(a, b, setting).figures) for a in one.all_words for b in other.all_words)


def _speaks_against(figures: tuple[float, ...]) -> bool:
    return bool(figures[_OPPOSED]) or figures[_NUMBERS] == 1.0


def _of(words: tuple[str, ...], others: tuple[str, ...], setting: Setting) -> Finding:
    mine, theirs = (setting.glossary.meanings(each) for each in (words, others))
    left, right = list(mine), list(theirs)
    shared = 0.0
    for a in mine:
        alike, best = 0.0, None
        for b in right:
            if (near := _alike(a, b, setting)) > alike:
                alike, best = near, b
        if best is not None:
            shared += alike * (_weight(a, setting) + _weight(best, setting)) / 2
            left.remove(a)
            right.remove(best)
    total = (
        sum(_weight(each, setting) for each in mine) + sum(_weight(each, setting) for each in theirs)
    ) / 2
    over, under = (sum(_weight(each, setting) for each in some) for some in (left, right))
    opposed = any(setting.glossary.are_opposed(a, b) for a in left for b in right)
    known = any(setting.glossary.knows(each) for each in left) and any(
        setting.glossary.knows(each) for each in right
    )
    numbers, more = _numbers(words), _numbers(others)
    differ = 0.0 if numbers == more else 1.0 if numbers and more else 0.5
    share = shared / total if total else 0.0
    unrelated = not shared and _has_long(words) and _has_long(others)
    said = "the same words" if share > 0.95 and words != others else "similar words" if share > 0.5 else ""
    figures = (
        share,
        (max(over, under) - min(over, under)) / (total or 1),
        min(over, under) / (total or 1),
        float(opposed),
        float(known),
        differ,
        float(unrelated),
        float(bool(left) != bool(right) and any(map(setting.glossary.tells, left or right))),
    )
    return Finding(figures, said)


@lru_cache(1 << 12)
def _numbers(words: tuple[str, ...]) -> frozenset[str]:
    return frozenset(each.lstrip("0") for each in words if each[:1].isdigit())


@lru_cache(1 << 12)
def _has_long(words: tuple[str, ...]) -> bool:
    return any(len(each) > _SHORT for each in words)


def _weight(meaning: Meanings, setting: Setting) -> float:
    """How much a word says about which column it is: little if many columns have it."""
    found = setting.weights.get(meaning)
    if found is None:
        often = setting.frequent.get(meaning, 1)
        telling = 0.4 + log(1 + setting.columns / often) / log(1 + max(setting.columns, 1))
        found = setting.weights[meaning] = 0.1 if meaning & FILLERS else telling
    return found


def _alike(one: Meanings, other: Meanings, setting: Setting) -> float:
    """How alike two words are, from 0 to 1; the same words meet again and again in many pairs."""
    found = setting.alike.get((one, other))
    if found is None:
        found = setting.alike[one, other] = _how_alike(one, other, setting)
    return found


def _how_alike(one: Meanings, other: Meanings, setting: Setting) -> float:
    if one & other:
        return 1.0
    if setting.glossary.knows(one) and setting.glossary.knows(other):
        return 0.0  # nitrate is no misspelt nitrite
    return max(_text_alike(a, b) for a in one for b in other) if len(one) * len(other) <= 9 else 0.0


def _text_alike(one: str, other: str) -> float:
    short, long = sorted((one, other), key=len)
    if short[:1].isdigit() or not short:
        return 0.0
    if len(short) >= 3 and long.startswith(short):
        return 0.9
    if len(short) >= 3 and short[0] == long[0] and _without_vowels(long).startswith(_without_vowels(short)):
        return 0.8
    if len(short) >= _LONG and short[0] == long[0] and Indel.normalized_similarity(short, long) > _TYPO:
        return 0.8
    return 0.0


def _without_vowels(word: str) -> str:
    return word[0] + "".join(letter for letter in word[1:] if letter not in "aeiou")


WORDS = Evidence(_WORDS, weigh_words)
