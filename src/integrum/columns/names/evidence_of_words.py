"""Whether two names say the same: words, short forms, spelling, synonyms."""

from __future__ import annotations

from functools import lru_cache
from math import log

from rapidfuzz import fuzz
from rapidfuzz.distance import Indel, JaroWinkler

from integrum.columns.names.glossary import FILLERS, Meanings
from integrum.columns.names.known import Evidence, EvidenceContext, Finding, NameProfile

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
_SURE = 2.5


def weigh_words(one: NameProfile, other: NameProfile, setting: EvidenceContext) -> Finding:
    """Compare the words of two names.

    Examples
    --------
    >>> finding = weigh_words(NameProfile(("water_temp",), 1), NameProfile(("T water",), 2), EvidenceContext(2))
    >>> finding.figures[0], finding.said
    (1.0, 'the same words')
    >>> weigh_words(NameProfile(("min temp",), 1), NameProfile(("max temp",), 2), EvidenceContext(2)).figures[3]
    1.0
    """
    if one.is_mute or other.is_mute:
        return Finding((0.0,) * len(_WORDS))
    return max(
        (_of(a, b, setting) for a in one.all_words for b in other.all_words), key=lambda one: one.figures[0]
    )


def contradicts(
    one: NameProfile, other: NameProfile, setting: EvidenceContext, said: Finding | None = None
) -> bool:
    """Whether two names say that they are different: by opposed words, or by different numbers.

    Parameters
    ----------
    one, other, setting
        As for `weigh`.
    said
        What `weigh` has found for them, when it is known.

    Examples
    --------
    >>> [contradicts(NameProfile((a,), 1), NameProfile((b,), 2), EvidenceContext(2)) for a, b in (
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


def _of(words: tuple[str, ...], others: tuple[str, ...], setting: EvidenceContext) -> Finding:
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


def _weight(meaning: Meanings, setting: EvidenceContext) -> float:
    """How much a word says about which column it is: little if many columns have it."""
    found = setting.weights.get(meaning)
    if found is None:
        often = setting.frequent.get(meaning, 1)
        telling = 0.4 + log(1 + setting.columns / often) / log(1 + max(setting.columns, 1))
        found = setting.weights[meaning] = 0.1 if meaning & FILLERS else telling
    return found


def _alike(one: Meanings, other: Meanings, setting: EvidenceContext) -> float:
    """How alike two words are, from 0 to 1; the same words meet again and again in many pairs."""
    found = setting.alike.get((one, other))
    if found is None:
        found = setting.alike[one, other] = _how_alike(one, other, setting)
    return found


def _how_alike(one: Meanings, other: Meanings, setting: EvidenceContext) -> float:
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


def weigh_short(one: NameProfile, other: NameProfile, setting: EvidenceContext) -> Finding:  # noqa: ARG001
    """Whether one name is short for the other.

    Examples
    --------
    >>> weigh_short(NameProfile(("wtemp",), 1), NameProfile(("water temperature",), 2), EvidenceContext(2)).figures
    (1.0, 0.0)
    >>> weigh_short(NameProfile(("do",), 1), NameProfile(("dissolved oxygen",), 2), EvidenceContext(2)).figures
    (0.0, 1.0)
    """
    if one.is_mute or other.is_mute:
        return Finding((0.0, 0.0))
    best = (0.0, 0.0)
    for a in one.all_words:
        for b in other.all_words:
            best = max(best, _short(a, b), _short(b, a))
    name, full = sorted((one.name, other.name), key=len)
    return Finding(best, f"{name} can be short for {full}" if max(best) > 0.5 else "")


@lru_cache(maxsize=65536)
def _short(words: tuple[str, ...], others: tuple[str, ...]) -> tuple[float, float]:
    """How much words say when they are beginnings of the others, in order; and whether they are only initials."""
    joined = "".join(words)
    full = tuple(word for word in others if word not in FILLERS)
    if not joined or not full or len(joined) >= len("".join(full)) or joined[0] != full[0][0]:
        return 0.0, 0.0
    if not _made_of(joined, full):
        return 0.0, 0.0
    if len(joined) == len(full):
        return 0.0, 1.0 if len(full) > 1 else 0.3
    return min(1.0, len(joined) / (_SURE * len(full))), 0.0


def _made_of(joined: str, words: tuple[str, ...]) -> bool:
    """Whether a text is a beginning of each word, one after the other; letters inside a word may be left out."""
    if not words:
        return not joined
    word = words[0]
    for size in range(min(len(joined), len(word)), 0, -1):
        part = joined[:size]
        if (
            part[0] == word[0]
            and (word.startswith(part) or _inside(part, word))
            and _made_of(joined[size:], words[1:])
        ):
            return True
    return False


def _inside(part: str, word: str) -> bool:
    """Whether the letters of a part are in a word in this order, and end in a consonant."""
    letters = iter(word)
    return len(part) > 2 and part[-1] not in "aeiou" and all(letter in letters for letter in part)


SHORT = Evidence(("short for it", "initials of it"), weigh_short)


def weigh_spelling(one: NameProfile, other: NameProfile, setting: EvidenceContext) -> Finding:  # noqa: ARG001
    """Compare two names letter by letter, the order of their words aside.

    Examples
    --------
    >>> found = weigh_spelling(NameProfile(("turbidity",), 1), NameProfile(("turbitidy",), 2), EvidenceContext(2))
    >>> [round(figure, 2) for figure in found.figures]
    [0.78, 0.98]
    """
    if one.is_mute or other.is_mute:
        return Finding((0.0, 0.0))
    a, b = " ".join(one.words), " ".join(other.words)
    figures = (
        fuzz.token_sort_ratio(a, b) / 100,
        JaroWinkler.similarity(a.replace(" ", ""), b.replace(" ", "")),
    )
    return Finding(figures, "similar spelling" if figures[0] > 0.75 else "")


SPELLING = Evidence(("letters alike", "beginnings alike"), weigh_spelling)


def weigh_synonyms(one: NameProfile, other: NameProfile, setting: EvidenceContext) -> Finding:
    """Look two names up in the glossary.

    Examples
    --------
    >>> weigh_synonyms(NameProfile(("DO",), 1), NameProfile(("Dissolved Oxygen",), 2), EvidenceContext(2)).figures
    (1.0, 0.0, 0.0)
    >>> weigh_synonyms(NameProfile(("nitrate",), 1), NameProfile(("nitrite",), 2), EvidenceContext(2)).figures
    (0.0, 1.0, 1.0)
    """
    if one.is_mute or other.is_mute:
        return Finding((0.0, 0.0, 0.0))
    pairs = [
        (setting.glossary.whole(a), setting.glossary.whole(b)) for a in one.all_words for b in other.all_words
    ]
    same = any(a & b for a, b in pairs)
    apart = not same and any(a and b for a, b in pairs)
    understood = not same and all(
        _understood(a, b, setting) for a in one.all_words[:1] for b in other.all_words[:1]
    )
    return Finding((float(same), float(apart), float(understood)), "synonyms in the glossary" if same else "")


def _understood(words: tuple[str, ...], others: tuple[str, ...], setting: EvidenceContext) -> bool:
    """Whether each word of two names is known, and each name has one that the other has not."""
    mine, theirs = setting.glossary.meanings(words), setting.glossary.meanings(others)
    if not all(setting.glossary.knows(each) for each in (*mine, *theirs)):
        return False
    return any(not any(a & b for b in theirs) for a in mine) and any(
        not any(a & b for a in mine) for b in theirs
    )


SYNONYMS = Evidence(("synonyms", "known as two things", "understood as two things"), weigh_synonyms)
