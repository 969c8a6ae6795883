"""Whether one name is made of the beginnings of the words of the other, as `wtemp` of `water temperature`."""

from __future__ import annotations

from functools import lru_cache

from integrum.reconciling.evidence.evidence import Evidence, Finding, Setting
from integrum.reconciling.glossary import FILLERS
from integrum.reconciling.known import Known

_SURE = 2.5


def weigh_short(one: Known, other: Known, setting: Setting) -> Finding:  # noqa: ARG001
    """Whether one name is short for the other.

    Examples
    --------
    >>> weigh_short(Known(("wtemp",), 1), Known(("water temperature",), 2), Setting(2)).figures
    (1.0, 0.0)
    >>> weigh_short(Known(("do",), 1), Known(("dissolved oxygen",), 2), Setting(2)).figures
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
    """Whether the letters of a part stand in a word in this order, and end in a consonant."""
    letters = iter(word)
    return len(part) > 2 and part[-1] not in "aeiou" and all(letter in letters for letter in part)


SHORT = Evidence(("short for it", "initials of it"), weigh_short)
